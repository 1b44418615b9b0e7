import { selectedCount } from '@jig-peel/core';
import { Box, Button } from '@mui/material';
import { ChooseFor } from '../../fields/ChooseFor.tsx';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';

const weights = [
  { value: 50, label: 'fifty times: nearly none' },
  { value: 10, label: 'ten times: a face, lettering' },
  { value: 3, label: 'three times' },
  { value: 1, label: 'like that of others' },
  { value: 0.2, label: 'a fifth: hidden places' },
];

const ways = [
  { value: 'nearest', label: 'straight: level or upright' },
  { value: 'level', label: 'level' },
  { value: 'upright', label: 'upright' },
  { value: 'free', label: 'as they come' },
] as const;

const lengths = [
  { value: 'keep', label: 'as on the model: sides of seams match' },
  { value: 'free', label: 'as it comes' },
] as const;

/** Which selected edges are straight, or keep their length, whenever their islands are unwrapped. */
function StraightRow() {
  const chosen = useBench((s) => s.kind === 'edges' && selectedCount(s.summary!.selection) > 0);
  const any = useBench((s) => (s.layout?.straight.length ?? 0) > 0);
  const anyKept = useBench((s) => (s.layout?.kept.length ?? 0) > 0);
  return (
    <>
      <ChooseFor
        label="Selected edges come out"
        choices={ways}
        off={chosen ? '' : 'Select edges first: a double click takes a whole border'}
        onChoose={(way) => void run('straightEdges', { way }, true)}
      />
      {any && (
        <Button size="small" sx={{ alignSelf: 'start' }} onClick={() => runCommand('select-straight')}>
          Select edges kept straight
        </Button>
      )}
      <ChooseFor
        label="Length of the selected edges"
        choices={lengths}
        off={chosen ? '' : 'Select edges first, the seams for instance'}
        onChoose={(keep) => void run('keepLengths', { keep: keep === 'keep' }, true)}
      />
      <Box sx={{ display: 'flex', flexWrap: 'wrap' }}>
        <Button size="small" onClick={() => runCommand('select-seams')}>
          Select the seams
        </Button>
        {anyKept && (
          <Button size="small" onClick={() => runCommand('select-kept')}>
            Select edges that keep their length
          </Button>
        )}
      </Box>
    </>
  );
}

/** What unwrapping is asked for beside little stretch in all: how much the stretch of faces counts, and which edges are straight. */
export default function CareRow() {
  const chosen = useBench((s) => selectedCount(s.summary!.selection) + s.summary!.selectedParts.length > 0);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
      <ChooseFor
        label="Stretch of the selected counts"
        choices={weights}
        off={chosen ? '' : 'Select faces, islands or parts first'}
        onChoose={(weight) => void run('care', { weight }, true)}
      />
      <Button size="small" sx={{ alignSelf: 'start' }} onClick={() => runCommand('select-care')}>
        Select what counts otherwise
      </Button>
      <StraightRow />
    </Box>
  );
}

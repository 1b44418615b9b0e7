import { Box, Button, MenuItem, TextField, Tooltip } from '@mui/material';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';

const weights = [
  { weight: 50, label: 'fifty times: nearly none' },
  { weight: 10, label: 'ten times: a face, lettering' },
  { weight: 3, label: 'three times' },
  { weight: 1, label: 'like that of others' },
  { weight: 0.2, label: 'a fifth: hidden places' },
];

const ways = [
  { way: 'nearest', label: 'straight: level or upright' },
  { way: 'level', label: 'level' },
  { way: 'upright', label: 'upright' },
  { way: 'free', label: 'as they come' },
] as const;

/** Which selected edges are straight whenever their islands are unwrapped. */
function StraightRow() {
  const chosen = useBench((s) => s.kind === 'edges' && s.summary!.selection.ids.length > 0);
  const any = useBench((s) => (s.layout?.straight.length ?? 0) > 0);
  return (
    <>
      <Tooltip title={chosen ? '' : 'Select edges first: a double click takes a whole border'} placement="right">
        <TextField
          select
          fullWidth
          label="Selected edges come out"
          value=""
          disabled={!chosen}
          onChange={(event) => void run('straightEdges', { way: event.target.value as (typeof ways)[number]['way'] }, true)}
        >
          {ways.map(({ way, label }) => (
            <MenuItem key={way} value={way}>
              {label}
            </MenuItem>
          ))}
        </TextField>
      </Tooltip>
      {any && (
        <Button size="small" sx={{ alignSelf: 'start' }} onClick={() => runCommand('select-straight')}>
          Select edges kept straight
        </Button>
      )}
    </>
  );
}

/** What unwrapping is asked for beside little stretch in all: how much the stretch of faces counts, and which edges are straight. */
export default function CareRow() {
  const chosen = useBench((s) => s.summary!.selection.ids.length + (s.summary!.selection.also ?? []).length + s.summary!.selectedParts.length > 0);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 1 }}>
      <Tooltip title={chosen ? '' : 'Select faces, islands or parts first'} placement="right">
        <TextField
          select
          fullWidth
          label="Stretch of the selected counts"
          value=""
          disabled={!chosen}
          onChange={(event) => void run('care', { weight: Number(event.target.value) }, true)}
        >
          {weights.map(({ weight, label }) => (
            <MenuItem key={weight} value={weight}>
              {label}
            </MenuItem>
          ))}
        </TextField>
      </Tooltip>
      <Button size="small" sx={{ alignSelf: 'start' }} onClick={() => runCommand('select-care')}>
        Select what counts otherwise
      </Button>
      <StraightRow />
    </Box>
  );
}

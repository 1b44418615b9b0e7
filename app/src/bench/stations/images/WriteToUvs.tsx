import { Box, Button, Tooltip } from '@mui/material';
import { useState } from 'react';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { facesChosen } from './layerWork.ts';

/** Has the UVs take over a layer's placement: of all faces, or of the selected ones alone. */
export function WriteToUvs({ layer, material }: { layer: string; material: string | null }) {
  const { parts, activePart } = useJob('parts', 'activePart');
  // asked again when something else is selected
  useBench((s) => s.summary?.selection);
  const [wantsSelected, setWantsSelected] = useState(true);
  const all = parts.find(({ id }) => id === activePart)?.faces ?? 0;
  const chosen = material === null ? facesChosen().length : 0;
  const isSome = chosen > 0 && chosen < all;
  const faces = isSome && wantsSelected ? 'selected' : 'all';
  const whose = material !== null ? `The UVs of all faces of ${material}` : faces === 'selected' ? 'The UVs of the selected faces' : 'The UVs';
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
      {isSome && (
        <Box sx={{ gridColumn: '1 / -1' }}>
          <Toggle label={`Write for the ${chosen.toLocaleString('en')} selected faces alone`} checked={wantsSelected} onChange={setWantsSelected} />
        </Box>
      )}
      {(['this', 'copy'] as const).map((into) => (
        <Tooltip
          key={into}
          title={`${whose} take its placement over, and it looks as before${faces === 'selected' ? ': on these faces it becomes a layer of its own' : ''}${into === 'this' ? '; what else goes by them moves along, and is told' : ''}`}
        >
          <Button
            size="small"
            variant="outlined"
            onClick={() => void run('writePlacement', { layer, into, faces, ...(material === null ? {} : { material }) }, true)}
          >
            {into === 'this' ? 'Write to the UVs' : 'Write to a copy'}
          </Button>
        </Tooltip>
      ))}
    </Box>
  );
}

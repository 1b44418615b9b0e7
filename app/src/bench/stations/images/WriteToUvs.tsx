import { Box, Button, Tooltip } from '@mui/material';
import { useState } from 'react';
import { isAsItLies, type ImagePlacement } from '@jig-peel/core';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { run } from '../../../worker/client.ts';
import { activeOf, facesChosen } from './layerWork.ts';

interface WriteToUvsProps {
  /** By id; null: the part's own picture. */
  layer: string | null;
  /** Whose layer it is; null: the part's. */
  material: string | null;
  placement: ImagePlacement;
}

/** Has the UVs take over the placement of a layer or of the part's picture: of all faces, or of the selected ones alone. Nothing where it is at rest. */
export function WriteToUvs({ layer, material, placement }: WriteToUvsProps) {
  const summary = useJob('parts', 'activePart', 'materialLayers');
  // asked again when something else is selected
  useBench((s) => s.summary?.selection);
  const [wantsSelected, setWantsSelected] = useState(true);
  if (isAsItLies({ ...placement, outsideU: 'repeat', outsideV: 'repeat' })) return null;
  const part = activeOf(summary);
  // a part with layers of its own does not follow those of its materials
  const follows = material === null || (part.layers === null && part.materials.includes(material));
  const chosen = follows ? facesChosen().length : 0;
  const isSome = chosen > 0 && (chosen < part.faces || material !== null);
  const faces = isSome && wantsSelected ? 'selected' : 'all';
  const whose = faces === 'selected' ? 'The UVs of the selected faces' : material !== null ? `The UVs of all faces of ${material}` : 'The UVs';
  const becomes =
    faces === 'all'
      ? ''
      : layer === null
        ? ': the picture becomes two layers of the part, one on these faces'
        : `: on these faces it becomes a layer of its own${material === null ? '' : `, and ${part.name} no longer follows those of its materials`}`;
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
      {isSome && (
        <Box sx={{ gridColumn: '1 / -1' }}>
          <Toggle
            label={material === null ? `Write for the ${chosen.toLocaleString('en')} selected faces alone` : `Write for selected faces of ${part.name} alone`}
            checked={wantsSelected}
            onChange={setWantsSelected}
          />
        </Box>
      )}
      {(['this', 'copy'] as const).map((into) => (
        <Tooltip
          key={into}
          title={`${whose} take its placement over, and it looks as before${becomes}${into === 'this' ? '; what else goes by them moves along where it cannot be kept as it is, and is told' : '; the present set stays'}`}
        >
          <Button
            size="small"
            variant="outlined"
            onClick={() => void run('writePlacement', { into, faces, ...(layer === null ? {} : { layer }), ...(material === null ? {} : { material }) }, true)}
          >
            {into === 'this' ? 'Write to the UVs' : 'Write to a copy'}
          </Button>
        </Tooltip>
      ))}
    </Box>
  );
}

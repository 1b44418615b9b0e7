import { ToggleButton, ToggleButtonGroup } from '@mui/material';
import type { Fade } from '@jig-peel/core';
import { NumberRow } from '../../../fields/NumberRow.tsx';
import { inShape } from './fadeGrips.ts';
import { partSize, rounded } from './layerWork.ts';

interface FadeProps {
  fade: Fade;
  unit: string;
  change(fade: Fade, what: 'moved' | 'sized' | 'changed'): void;
}

/** Which way a fade goes, where it is full and where it ends, in numbers. */
export function FadeFields(props: FadeProps) {
  const { fade, change } = props;
  return (
    <>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        aria-label="Which way it fades"
        sx={{ mb: 0.75 }}
        value={fade.shape}
        onChange={(_, shape: Fade['shape'] | null) => shape && change(inShape(fade, shape), 'changed')}
      >
        <ToggleButton value="linear">Straight</ToggleButton>
        <ToggleButton value="radial">Round a place</ToggleButton>
      </ToggleButtonGroup>
      <FadeNumbers {...props} />
    </>
  );
}

function FadeNumbers({ fade, unit, change }: FadeProps) {
  const step = rounded(partSize() / 50);
  if (fade.shape === 'linear')
    return (['from', 'to'] as const).map((end) => (
      <NumberRow
        key={end}
        labels={end === 'from' ? ['Full at x', 'Full at y', 'Full at z'] : ['Ends at x', 'Ends at y', 'Ends at z']}
        values={fade[end]}
        old={fade[end]}
        step={step}
        onChange={(at) => change({ ...fade, [end]: at }, 'moved')}
      />
    ));
  return (
    <>
      <NumberRow
        labels={['Middle x', 'y', 'z']}
        values={fade.centre}
        old={fade.centre}
        step={step}
        onChange={(centre) => change({ ...fade, centre }, 'moved')}
      />
      <NumberRow
        labels={['Full within', 'Ends at']}
        unit={unit}
        values={[fade.inner, fade.outer]}
        old={[fade.inner, fade.outer]}
        min={0}
        step={step}
        onChange={([inner, outer]) => change({ ...fade, inner, outer: Math.max(outer, inner + 1e-6) }, 'sized')}
      />
    </>
  );
}

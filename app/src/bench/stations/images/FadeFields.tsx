import type { Fade } from '@jig-peel/core';
import { NumberRow } from '../../../fields/NumberRow.tsx';
import { partSize, rounded } from './layerWork.ts';

/** Where a fade is full and where it ends, in numbers. */
export function FadeFields({ fade, unit, change }: { fade: Fade; unit: string; change(fade: Fade, what: 'moved' | 'sized'): void }) {
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

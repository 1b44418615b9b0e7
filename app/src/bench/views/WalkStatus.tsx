import { Box } from '@mui/material';
import { useEffect } from 'react';
import { useWalking, watchWalk } from '../hands/walking.ts';
import type { Stage } from './stage.ts';

/** Says what a walk by keys is on, and keeps it in sight. */
export function WalkStatus({ stage }: { stage: Stage }) {
  const said = useWalking((s) => s.said);
  useEffect(watchWalk, []);
  useEffect(
    () =>
      useWalking.subscribe(({ at }, before) => {
        if (!at || at === before.at) return;
        const { width, height } = stage.rects.sheet;
        const [x, y] = stage.sheetEye.toPx(at.u, at.v, width, height);
        const edge = 40;
        if (width < 2 || (x > edge && y > edge && x < width - edge && y < height - edge)) return;
        stage.moved.sheet = true;
        stage.sheetEye.u = at.u;
        stage.sheetEye.v = at.v;
        stage.invalidate('sheet');
      }),
    [stage],
  );
  return (
    <Box role="status" aria-label="Walk" sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' }}>
      {said}
    </Box>
  );
}

import { useTheme } from '@mui/material';
import { useBench } from '../../store/bench.ts';
import type { ViewName } from './stage.ts';

/** The box, lasso or brush stroke being drawn over a view. */
export function RegionDrawing({ view }: { view: ViewName }) {
  const drawn = useBench((s) => s.drawn);
  const theme = useTheme();
  if (!drawn || drawn.view !== view) return null;
  const { region } = drawn;
  const line = { fill: 'none', stroke: theme.palette.primary.main, strokeWidth: 1.5, strokeDasharray: '5 3' };
  const pairs = Array.from({ length: region.points.length / 2 }, (_, k) => `${region.points[k * 2]},${region.points[k * 2 + 1]}`).join(' ');
  return (
    <svg aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}>
      {region.shape === 'box' ? (
        <rect
          x={Math.min(region.points[0], region.points[2])}
          y={Math.min(region.points[1], region.points[3])}
          width={Math.abs(region.points[2] - region.points[0])}
          height={Math.abs(region.points[3] - region.points[1])}
          {...line}
          fill={theme.palette.primary.main}
          fillOpacity={0.1}
        />
      ) : region.shape === 'lasso' ? (
        <polygon points={pairs} {...line} fill={theme.palette.primary.main} fillOpacity={0.1} />
      ) : (
        <polyline
          points={pairs}
          fill="none"
          stroke={theme.palette.primary.main}
          strokeOpacity={0.35}
          strokeWidth={region.radius * 2}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      )}
    </svg>
  );
}

import { Paper, Typography } from '@mui/material';
import { useBench } from '../../store/bench.ts';

const short = (x: number) => Number(x.toPrecision(4)).toLocaleString('en', { maximumFractionDigits: 4 });

/** Length, area, ratio and heading of what is selected, on model and sheet. */
export function FiguresChip() {
  const figures = useBench((s) => s.figures);
  const unit = useBench((s) => (s.summary?.settings.unit === 'unit' ? 'u' : (s.summary?.settings.unit ?? 'u')));
  const kind = useBench((s) => s.kind);
  if (!figures || kind === 'parts') return null;
  const lines: [string, string][] = [];
  const { length, lengthPx, area, areaPx, ratio, heading, headingSpread, size, unplaced } = figures;
  if (area !== null) lines.push(['area', `${short(area)} ${unit}²${areaPx === null ? '' : ` · ${short(areaPx)} px²`}`]);
  if (length !== null)
    lines.push([figures.kind === 'edges' ? 'length' : 'outline', `${short(length)} ${unit}${lengthPx === null ? '' : ` · ${short(lengthPx)} px`}`]);
  if (ratio !== null) lines.push(['ratio', `${short(ratio)} px/${unit}`]);
  if (heading !== null)
    lines.push(['heading', `${heading.toFixed(1)}°${headingSpread !== null && headingSpread > 0.02 ? ` (spread ${headingSpread.toFixed(2)})` : ''}`]);
  lines.push(['size', `${size.map(short).join(' × ')} ${unit}`]);
  if (unplaced > 0) lines.push(['no UVs', unplaced.toLocaleString('en')]);
  return (
    <Paper
      data-chrome
      elevation={1}
      component="dl"
      aria-label="Figures of the selection"
      sx={{ position: 'absolute', right: 8, bottom: 28, m: 0, px: 1, py: 0.5, display: 'grid', gridTemplateColumns: 'auto auto', columnGap: 1, opacity: 0.96 }}
    >
      {lines.map(([label, value]) => [
        <Typography key={label} component="dt" variant="caption" color="text.secondary">
          {label}
        </Typography>,
        <Typography key={`${label} value`} component="dd" variant="figure" sx={{ m: 0, textAlign: 'right' }}>
          {value}
        </Typography>,
      ])}
    </Paper>
  );
}

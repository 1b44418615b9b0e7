import { selectedCount } from '@jig-peel/core';
import { Box } from '@mui/material';
import { useBench } from '../../store/bench.ts';

/** The views in words, for those who do not see them. */
export function ViewsSummary() {
  const summary = useBench((s) => s.summary);
  const layout = useBench((s) => s.layout);
  const hover = useBench((s) => s.hover);
  const part = summary?.parts.find((p) => p.id === summary.activePart);
  if (!summary || !part || !layout) return null;
  const count = selectedCount(summary.selection);
  const selection = count > 0 ? `${count} ${summary.selection.kind} selected` : 'nothing selected';
  return (
    <Box
      id="views-summary"
      data-hover-edge={hover?.edge ?? -1}
      data-hover-face={hover?.face ?? -1}
      sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' }}
    >
      {part.name}: {part.faces} faces, {layout.islands.length} islands, {part.unplaced} faces without UVs, {selection}.
    </Box>
  );
}

import { Box, Button, Paper, Typography } from '@mui/material';
import { useBench } from '../../store/bench.ts';
import { useShown } from '../../store/shown.ts';
import { runCommand } from '../commands/index.ts';

/** What the sheet says while nothing lies on it. */
export function EmptySheet() {
  const layout = useBench((s) => s.layout);
  const progress = useBench((s) => s.progress);
  // what proposed seams would make of it lies there
  const isPreview = useShown((s) => s.uvs !== null);
  if (!layout?.allUnplaced || isPreview) return null;
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', pointerEvents: 'none' }}>
      <Paper data-chrome elevation={3} sx={{ p: 2.5, maxWidth: 330, pointerEvents: 'auto' }}>
        <Typography variant="h2" gutterBottom>
          This model has no UVs yet
        </Typography>
        <Typography variant="body2" color="text.secondary" sx={{ mb: 1.5 }}>
          Cut seams on the model where they may be hidden, then lay it flat. Or begin with a first layout, cut at the creases, and go on from there.
        </Typography>
        <Button variant="contained" onClick={() => runCommand('main')} disabled={progress !== null}>
          Make a first layout
        </Button>
      </Paper>
    </Box>
  );
}

import { Box, Typography } from '@mui/material';
import type { BatchLine } from './batchApi.ts';

/** How far a batch is, as a bar of its states and in words. */
export function Progress({ counts }: { counts: BatchLine['counts'] }) {
  const { waiting, working, done, failed, cancelled, missed } = counts;
  const total = Math.max(1, waiting + working + done + failed + cancelled);
  const ended = done + failed + cancelled;
  const words = [
    `${done} of ${total} done`,
    working > 0 ? `${working} at work` : '',
    failed > 0 ? `${failed} failed` : '',
    missed > 0 ? `${missed} with a limit not kept` : '',
    cancelled > 0 ? `${cancelled} not worked` : '',
  ].filter(Boolean);
  return (
    <Box>
      <Box
        role="progressbar"
        aria-label="Files ended"
        aria-valuemin={0}
        aria-valuemax={total}
        aria-valuenow={ended}
        sx={{ display: 'flex', height: 8, borderRadius: 1, overflow: 'hidden', bgcolor: 'action.selected' }}
      >
        <Box sx={{ width: `${(100 * done) / total}%`, bgcolor: 'success.main' }} />
        <Box sx={{ width: `${(100 * failed) / total}%`, bgcolor: 'error.main' }} />
        <Box sx={{ width: `${(100 * working) / total}%`, bgcolor: 'primary.main', opacity: 0.5 }} />
      </Box>
      <Typography variant="caption" component="div">
        {words.join(' · ')}
      </Typography>
    </Box>
  );
}

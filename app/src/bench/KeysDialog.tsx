import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useBench } from '../store/bench.ts';
import { commands } from './commands.ts';

const pointer: [string, string][] = [
  ['Left button', 'choose, or draw with the seam pen'],
  ['Shift + click', 'add to the selection'],
  ['Ctrl + click', 'take away'],
  ['Double click', 'take the loop (edges) or the piece (faces)'],
  ['Right drag', 'turn the model, move the sheet'],
  ['Middle drag', 'move'],
  ['Wheel', 'nearer and farther at the pointer'],
  ['Space + left drag', 'turn the model, move the sheet'],
];

/** All keys and what the pointer does, in columns of about equal length. */
export function KeysDialog() {
  const open = useBench((s) => s.dialog === 'keys');
  const close = () => useBench.getState().set({ dialog: null });
  const rows: [string, string][] = commands.filter((command) => command.key).map((command) => [command.key!, command.label]);
  const list = (title: string, all: [string, string][]) => (
    <>
      <Typography variant="h2" component="h3" sx={{ breakAfter: 'avoid', mb: 0.5 }}>
        {title}
      </Typography>
      {all.map(([key, what]) => (
        <Box key={key + what} sx={{ display: 'flex', gap: 1.5, py: 0.25, borderBottom: 1, borderColor: 'divider', breakInside: 'avoid' }}>
          <Typography variant="figure" sx={{ width: 118, flex: 'none' }}>
            {key}
          </Typography>
          <Typography variant="body2">{what}</Typography>
        </Box>
      ))}
    </>
  );
  return (
    <Dialog open={open} onClose={close} maxWidth={false} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys and pointer</DialogTitle>
      <DialogContent>
        <Box sx={{ columnWidth: 340, columnCount: 3, columnGap: 4, width: 'min(1130px, 88vw)' }}>
          {list('Keys', rows)}
          <Box sx={{ mt: 1.5 }}>{list('Pointer', pointer)}</Box>
        </Box>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
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

/** All keys and what the pointer does. */
export function KeysDialog() {
  const [open, setOpen] = useState(false);
  useEffect(() => {
    const show = () => setOpen(true);
    window.addEventListener('jig-keys', show);
    return () => window.removeEventListener('jig-keys', show);
  }, []);
  const rows: [string, string][] = commands.filter((command) => command.key).map((command) => [command.key!, command.label]);
  return (
    <Dialog open={open} onClose={() => setOpen(false)} maxWidth="md" aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys and pointer</DialogTitle>
      <DialogContent>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 4 }}>
          {[pointer, rows].map((list, k) => (
            <Box key={k}>
              {list.map(([key, what]) => (
                <Box key={key + what} sx={{ display: 'flex', gap: 1.5, py: 0.4, borderBottom: 1, borderColor: 'divider' }}>
                  <Typography variant="figure" sx={{ minWidth: 130 }}>
                    {key}
                  </Typography>
                  <Typography variant="body2">{what}</Typography>
                </Box>
              ))}
            </Box>
          ))}
        </Box>
      </DialogContent>
      <DialogActions>
        <Button onClick={() => setOpen(false)}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

import { Box, Button, ButtonBase, Dialog, DialogActions, DialogContent, DialogTitle, Typography } from '@mui/material';
import { useEffect, useState } from 'react';
import { commandWith, keyFromEvent, keysOf, useKeys } from '../keys/keyTable.ts';
import { useBench } from '../store/bench.ts';
import { commandOf, commands } from './commands/index.ts';

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

/** All keys, each of which can be changed, and what the pointer does. */
export default function KeysDialog() {
  const open = useBench((s) => s.dialog === 'keys');
  const own = useKeys((s) => s.own);
  const [asked, setAsked] = useState<string | null>(null);
  const [said, setSaid] = useState('');
  const [all, setAll] = useState(false);
  useEffect(() => {
    if (asked === null) return;
    const take = (event: KeyboardEvent) => {
      if (['Shift', 'Control', 'Alt', 'Meta'].includes(event.key)) return;
      event.preventDefault();
      event.stopPropagation();
      setAsked(null);
      if (event.key === 'Tab') return;
      const { give, takeOff } = useKeys.getState();
      if (event.key === 'Delete' || event.key === 'Backspace') {
        takeOff(asked);
        setSaid(`${commandOf(asked).label} has no key now.`);
        return;
      }
      const key = keyFromEvent(event);
      if (key === null) {
        setSaid('This key cannot be given to a command.');
        return;
      }
      const before = commandWith(key);
      give(asked, key);
      const lost = before !== undefined && before !== asked ? ` ${commandOf(before).label} had it, and goes without it now.` : '';
      setSaid(`${commandOf(asked).label}: ${key}.${lost}`);
    };
    window.addEventListener('keydown', take, true);
    return () => window.removeEventListener('keydown', take, true);
  }, [asked]);
  const close = () => {
    setAsked(null);
    setSaid('');
    setAll(false);
    useBench.getState().set({ dialog: null });
  };
  const rows = commands.filter(({ id }) => all || keysOf(id, own).length > 0 || own[id] !== undefined);
  const line = { display: 'flex', gap: 1.5, py: 0.25, borderBottom: 1, borderColor: 'divider', breakInside: 'avoid', alignItems: 'baseline' } as const;
  const title = (text: string) => (
    <Typography variant="h2" component="h3" sx={{ breakAfter: 'avoid', mb: 0.5 }}>
      {text}
    </Typography>
  );
  return (
    <Dialog open={open} onClose={close} maxWidth={false} aria-labelledby="keys-title">
      <DialogTitle id="keys-title">Keys and pointer</DialogTitle>
      <DialogContent>
        <Typography variant="body2" sx={{ mb: 1 }}>
          Press the key beside a command to give it another one. <span aria-live="polite">{said}</span>
        </Typography>
        <Box sx={{ columnWidth: 340, columnCount: 3, columnGap: 4, width: 'min(1130px, 88vw)' }}>
          {title('Keys')}
          {rows.map(({ id, label }) => (
            <Box key={id} sx={line}>
              <ButtonBase
                onClick={() => {
                  setSaid('');
                  setAsked(asked === id ? null : id);
                }}
                aria-label={`Change the key of ${label}`}
                sx={{
                  width: 118,
                  flex: 'none',
                  justifyContent: 'flex-start',
                  textAlign: 'left',
                  borderRadius: 0.5,
                  px: 0.5,
                  border: 1,
                  borderColor: asked === id ? 'primary.main' : 'transparent',
                  '&:hover, &:focus-visible': { borderColor: 'primary.main' },
                }}
              >
                <Typography variant="figure">{asked === id ? 'press a key' : keysOf(id, own).join(', ') || 'none'}</Typography>
              </ButtonBase>
              <Typography variant="body2">{label}</Typography>
            </Box>
          ))}
          <Box sx={{ mt: 1.5 }}>
            {title('Pointer')}
            {pointer.map(([key, what]) => (
              <Box key={key} sx={line}>
                <Typography variant="figure" sx={{ width: 118, flex: 'none', px: 0.5 }}>
                  {key}
                </Typography>
                <Typography variant="body2">{what}</Typography>
              </Box>
            ))}
          </Box>
        </Box>
      </DialogContent>
      <DialogActions>
        <Typography variant="caption" color="text.secondary" sx={{ flex: 1, pl: 2 }}>
          Delete takes a key away, Tab leaves it as it is.
        </Typography>
        <Button onClick={() => setAll(!all)}>{all ? 'Only those with keys' : 'All commands'}</Button>
        <Button
          disabled={Object.keys(own).length === 0}
          title={Object.keys(own).length === 0 ? 'No key was changed' : undefined}
          onClick={() => {
            useKeys.getState().reset();
            setSaid('All keys are as they were at first.');
          }}
        >
          Back to the first keys
        </Button>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

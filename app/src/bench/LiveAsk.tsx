import { Alert, Box, Button } from '@mui/material';
import { useBench } from '../store/bench.ts';

/** An edit meets live jigs: asked on top of the panel whose button was pressed, covering nothing. */
export function LiveAsk() {
  const asked = useBench((s) => s.liveAsked);
  const set = useBench((s) => s.set);
  if (!asked) return null;
  return (
    <Alert severity="warning" icon={false} sx={{ position: 'sticky', top: 0, zIndex: 2, mb: 1, border: 1, borderColor: 'warning.main' }}>
      {asked.sentence}
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button
          size="small"
          variant="contained"
          autoFocus
          onClick={() => {
            set({ liveAsked: null });
            asked.go();
          }}
        >
          Write and go on
        </Button>
        <Button size="small" variant="outlined" onClick={() => set({ liveAsked: null })}>
          Leave it live
        </Button>
      </Box>
    </Alert>
  );
}

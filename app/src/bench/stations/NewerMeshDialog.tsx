import { Box, Button, Dialog, DialogActions, DialogContent, DialogTitle, Slider, Typography } from '@mui/material';
import { useState } from 'react';
import { Wipe } from './check/Wipe.tsx';

interface Props {
  /** Model and sheet before, and with the newer mesh. */
  before: ImageBitmap[];
  after: ImageBitmap[];
  /** What became of the faces. */
  words: string;
  keep(): void;
  back(): void;
}

/** Before and after side by side: a newer mesh is looked at before the work goes on with it. */
export default function NewerMeshDialog({ before, after, words, keep, back }: Props) {
  const [wipe, setWipe] = useState(50);
  return (
    <Dialog open onClose={back} maxWidth="lg" fullWidth aria-labelledby="newer-mesh-title">
      <DialogTitle id="newer-mesh-title">The newer mesh</DialogTitle>
      <DialogContent>
        <Typography variant="body2" sx={{ mb: 1 }}>
          {words}
        </Typography>
        <Box sx={{ display: 'flex', gap: 1, height: '52vh', justifyContent: 'center' }}>
          {[0, 1].map((view) => (
            <Wipe
              key={view}
              left={before[view]}
              right={after[view]}
              at={wipe}
              names={['before', 'with the newer mesh']}
              what={view === 0 ? 'Model' : 'Sheet'}
            />
          ))}
        </Box>
        <Slider size="small" value={wipe} onChange={(_, value) => setWipe(value)} aria-label="Wipe" step={1} />
      </DialogContent>
      <DialogActions>
        <Button onClick={back}>Leave it</Button>
        <Button variant="contained" autoFocus onClick={keep}>
          Take it
        </Button>
      </DialogActions>
    </Dialog>
  );
}

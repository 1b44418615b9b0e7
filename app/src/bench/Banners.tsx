import { Alert, Box, Button } from '@mui/material';
import { useBench } from '../store/bench.ts';
import { coreApi, takeOver } from '../worker/client.ts';
import { runCommand } from './commands/index.ts';

/** What must stay in sight until it is put right: steps that are not kept, another tab at work, an app that cannot go on. */
export function Banners() {
  const unsaved = useBench((s) => s.unsaved);
  const looksOn = useBench((s) => s.looksOn);
  const broken = useBench((s) => s.broken);
  if (!unsaved && !looksOn && !broken) return null;
  return (
    <Box sx={{ flex: 'none' }}>
      {broken && (
        <Alert
          severity="error"
          square
          action={
            <Button color="inherit" onClick={() => window.location.reload()}>
              Reload
            </Button>
          }
        >
          {broken}
        </Alert>
      )}
      {unsaved && (
        <Alert
          severity="error"
          square
          sx={{ py: 0 }}
          action={
            <>
              <Button color="inherit" onClick={() => void coreApi().retrySave()}>
                Try again
              </Button>
              <Button color="inherit" onClick={() => runCommand('archive')}>
                Save a job archive
              </Button>
            </>
          }
        >
          Steps since {new Date(unsaved.since).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit', second: '2-digit' })} are not kept in this browser
          yet: {unsaved.sentence} It is tried again; keep this page open.
        </Alert>
      )}
      {looksOn && (
        <Alert
          severity="info"
          square
          sx={{ py: 0 }}
          action={
            <Button color="inherit" onClick={takeOver}>
              Take over
            </Button>
          }
        >
          This job is being worked on in another tab. Here it can be looked at; what is done there shows here.
        </Alert>
      )}
    </Box>
  );
}

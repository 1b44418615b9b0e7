import { Alert, Box, Button, Typography } from '@mui/material';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { later } from '../later.tsx';
import { Link } from 'react-router';
import type { JobRow } from '../keep/rows.ts';
import { useOffline } from './offline.ts';
import { megabytes } from './megabytes.ts';

const ArchiveOld = later(() => import('./ArchiveOld.tsx'));

interface Props {
  jobs: readonly JobRow[];
  change(work: () => Promise<unknown>): Promise<boolean>;
  openDemo(): void;
}

/** Room in this browser, what works without the server, and where else to go. */
export default function Foot({ jobs, change, openDemo }: Props) {
  return (
    <Box component="footer" sx={{ mt: 3, display: 'grid', gap: 1 }}>
      <Room jobs={jobs} change={change} />
      <Offline />
      <Typography variant="caption" color="text.secondary" component="p" sx={{ mt: 1 }}>
        A first look: open{' '}
        <Button variant="text" size="small" sx={{ p: 0, minWidth: 0, minHeight: 0, verticalAlign: 'baseline' }} onClick={openDemo}>
          Skerry Quay
        </Button>
        , click an edge of the seal and cut it. <Link to="/guide">The guide</Link> goes through all of it. <Link to="/batches">Many models at once</Link> go
        through a recipe on the server.
      </Typography>
    </Box>
  );
}

function Room({ jobs, change }: Pick<Props, 'jobs' | 'change'>) {
  const [archiving, setArchiving] = useState(false);
  const queries = useQueryClient();
  const room = useQuery({
    queryKey: ['room'],
    queryFn: async () => ({ ...(await navigator.storage?.estimate?.()), isKept: (await navigator.storage?.persisted?.()) ?? null }),
    staleTime: 0,
  });
  const { usage, quota, isKept } = room.data ?? {};
  if (usage === undefined || !quota) return null;
  const isTight = usage > 0.9 * quota;
  return (
    <Box>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, flexWrap: 'wrap' }}>
        <Typography variant="caption" color={isTight ? 'error' : 'text.secondary'} component="p">
          Jobs take {megabytes(usage)} of the {megabytes(quota)} that this browser gives them
          {isTight ? ': nearly all. Delete what is in the bin, or put old jobs into archives.' : '.'}{' '}
          {isKept === false && 'When the disk is full, the browser may clear them unasked.'}
          {isKept === true && 'The browser has promised not to clear them unasked.'}
        </Typography>
        {isKept === false && (
          <Button
            size="small"
            sx={{ p: 0, minHeight: 0 }}
            onClick={() =>
              void change(async () => {
                if (!(await navigator.storage.persist()))
                  throw new Error('The browser did not promise it. It may when you have worked here more often, or keep this page as a bookmark.');
                await queries.invalidateQueries({ queryKey: ['room'] });
              })
            }
          >
            Ask it to keep them
          </Button>
        )}
        {jobs.length > 0 && (
          <Button size="small" sx={{ p: 0, minHeight: 0 }} aria-expanded={archiving} onClick={() => setArchiving(!archiving)}>
            Put old jobs into archives
          </Button>
        )}
      </Box>
      {archiving && <ArchiveOld jobs={jobs} done={() => void queries.invalidateQueries({ queryKey: ['room'] })} />}
    </Box>
  );
}

/** Whether the app is at hand without its server, and a newer one that waits. */
function Offline() {
  const { state, takeNewer } = useOffline();
  if (state === 'newer')
    return (
      <Alert
        severity="info"
        action={
          <Button color="inherit" size="small" onClick={takeNewer}>
            Use it
          </Button>
        }
      >
        A newer version of the app is ready. Close the jobs that are open in other tabs first.
      </Alert>
    );
  if (state === 'none') return null;
  return (
    <Typography variant="caption" color="text.secondary" component="p">
      {state === 'ready'
        ? 'This page and all of the bench are kept here, too: they work without the server and without a network.'
        : 'The app is being kept here, to work without a network …'}
    </Typography>
  );
}

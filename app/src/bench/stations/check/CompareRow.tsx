import { Box, Button, Tooltip } from '@mui/material';
import { useState } from 'react';
import { later } from '../../../later.tsx';
import { useBench } from '../../../store/bench.ts';
import { useJob } from '../../../store/useJob.ts';
import { keepSeen, useSeen } from './seen.ts';

const CompareDialog = later(() => import('./CompareDialog.tsx'));

/** What is seen now is kept as a picture, and set against another, a version or another UV set. */
export function CompareRow() {
  const { id, versions } = useJob('id', 'versions');
  const sets = useBench((s) => s.summary!.parts.find((part) => part.id === s.summary!.activePart)?.uvSets.length ?? 1);
  const seen = useSeen((s) => s.list.some(({ jobId }) => jobId === id));
  const [open, setOpen] = useState(false);
  const { notice } = useBench.getState();
  const keep = () =>
    void keepSeen(id).then(
      ({ name }) => notice(`Both views are kept as “${name}”: change something, then compare.`, 'success'),
      (error: Error) => notice(error.message, 'error'),
    );
  const can = versions.length > 0 || sets > 1 || seen;
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
      <Tooltip title="Both views as they are now, to be compared with what you change next">
        <Button size="small" variant="outlined" onClick={keep}>
          Keep what I see
        </Button>
      </Tooltip>
      <Tooltip title={can ? 'Two of them under one wipe, or side by side' : 'Keep what you see, or a version, first'}>
        <Box component="span">
          <Button size="small" variant="outlined" fullWidth disabled={!can} onClick={() => setOpen(true)}>
            Compare …
          </Button>
        </Box>
      </Tooltip>
      {open && <CompareDialog close={() => setOpen(false)} />}
    </Box>
  );
}

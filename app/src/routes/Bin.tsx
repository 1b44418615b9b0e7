import { Box, Button, Typography } from '@mui/material';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import { useCallback, useState } from 'react';
import { binTime, deleteJob, putBackJob } from '../keep/bin.ts';
import { sizeOf } from '../keep/db.ts';
import { useLiveQuery } from '../keep/useLiveQuery.ts';
import { megabytes } from './megabytes.ts';

export interface Binned {
  id: string;
  name: string;
  removed: number;
  bytes: number | undefined;
}

/** Removed jobs wait here for thirty days. */
export default function Bin({ rows, change }: { rows: Binned[]; change: (work: () => Promise<unknown>) => Promise<boolean> }) {
  const [open, setOpen] = useState(false);
  const ids = rows.map(({ id }) => id).join();
  const measure = useCallback(
    async () => (open ? new Map(await Promise.all(rows.map(async ({ id, bytes }) => [id, bytes ?? (await sizeOf(id))] as const))) : new Map<string, number>()),
    // rows are others at each look at the database
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [open, ids],
  );
  const sizes = useLiveQuery(measure);
  const total = [...(sizes?.values() ?? [])].reduce((sum, bytes) => sum + bytes, 0);
  return (
    <Box component="section" aria-label="Bin" sx={{ mt: 3 }}>
      <Button color="inherit" startIcon={<DeleteIcon />} aria-expanded={open} onClick={() => setOpen(!open)}>
        Bin: {rows.length} {rows.length === 1 ? 'job' : 'jobs'}
        {open && sizes ? `, ${megabytes(total)}` : ''}
      </Button>
      {open && (
        <>
          <Typography variant="caption" color="text.secondary" component="p" sx={{ mb: 1 }}>
            A job waits here for 30 days, then it is deleted for good.
          </Typography>
          <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', display: 'grid', gap: 0.5 }}>
            {rows.map(({ id, name, removed }) => (
              <Box component="li" key={id} sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
                <Typography noWrap sx={{ minWidth: 220 }}>
                  {name}
                </Typography>
                <Typography variant="figure" color="text.secondary" sx={{ minWidth: 80, textAlign: 'right' }}>
                  {sizes?.has(id) ? megabytes(sizes.get(id)!) : ''}
                </Typography>
                <Typography variant="caption" color="text.secondary" sx={{ minWidth: 130 }}>
                  {Math.max(1, Math.ceil((removed + binTime - Date.now()) / 86_400_000))} days left
                </Typography>
                <Button size="small" variant="outlined" aria-label={`Put ${name} back`} onClick={() => void change(() => putBackJob(id))}>
                  Put back
                </Button>
                <Button size="small" color="error" aria-label={`Delete ${name} for good`} onClick={() => void change(() => deleteJob(id))}>
                  Delete for good
                </Button>
              </Box>
            ))}
          </Box>
          {rows.length > 1 && (
            <Button
              size="small"
              color="error"
              sx={{ mt: 1 }}
              onClick={() =>
                void change(async () => {
                  for (const { id } of rows) await deleteJob(id);
                })
              }
            >
              Delete all of them for good
            </Button>
          )}
        </>
      )}
    </Box>
  );
}

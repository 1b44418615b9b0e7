import { Alert, Box, ButtonBase, IconButton, Tooltip, Typography } from '@mui/material';
import BackIcon from '@mui/icons-material/ArrowBack';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import * as z from 'zod/mini';
import { BatchError, lineSchema, listBatches, type BatchList } from './batches/batchApi.ts';
import { BatchView } from './batches/BatchView.tsx';
import { NewBatchForm } from './batches/NewBatchForm.tsx';
import { Progress } from './batches/Progress.tsx';
import { megabytes } from './megabytes.ts';

/** Many models through one recipe, worked by the server that gives this page. */
export default function BatchesPage() {
  const { batchId } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const list = useQuery({ queryKey: ['batches'], queryFn: listBatches, staleTime: 0, retry: false });
  useEffect(() => {
    document.title = 'Batches – Jig Peel';
  }, []);
  const isThere = list.data !== undefined;
  useEffect(() => {
    if (!isThere) return;
    const events = new EventSource('/api/batches/events');
    events.addEventListener('batch', (event) => {
      const given: unknown = JSON.parse((event as MessageEvent<string>).data);
      const said = z.safeParse(lineSchema, given);
      const removed = z.safeParse(z.object({ id: z.string(), removed: z.literal(true) }), given);
      queries.setQueryData<BatchList>(['batches'], (before) => {
        if (!before) return before;
        if (removed.success) return { ...before, batches: before.batches.filter(({ id }) => id !== removed.data.id) };
        if (!said.success) return before;
        const isKnown = before.batches.some(({ id }) => id === said.data.id);
        return { ...before, batches: isKnown ? before.batches.map((one) => (one.id === said.data.id ? said.data : one)) : [said.data, ...before.batches] };
      });
    });
    let opened = 0;
    events.addEventListener('open', () => {
      if (opened++ > 0) void queries.invalidateQueries({ queryKey: ['batches'] });
    });
    return () => events.close();
  }, [isThere, queries]);

  const room = list.data?.room;
  return (
    <Box component="main" sx={{ height: '100%', overflow: 'auto', bgcolor: 'background.default' }}>
      <Box
        sx={{
          maxWidth: 1240,
          mx: 'auto',
          px: 4,
          py: 3,
          height: '100%',
          minHeight: 620,
          display: 'flex',
          flexDirection: 'column',
          gap: 2,
          boxSizing: 'border-box',
        }}
      >
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5 }}>
          <Tooltip title="To the jobs">
            <IconButton component={Link} to="/" aria-label="To the jobs">
              <BackIcon />
            </IconButton>
          </Tooltip>
          <Box>
            <Typography variant="h1">Batches</Typography>
            <Typography color="text.secondary">Many models through one recipe, worked by the server while you do something else.</Typography>
          </Box>
        </Box>
        {list.isError && (
          <Alert severity="warning">
            {list.error instanceof BatchError ? list.error.message : 'The batches cannot be read.'} On the command line, jig-peel run does the same without a
            server.
          </Alert>
        )}
        {list.data && (
          <Box sx={{ flex: 1, minHeight: 0, display: 'grid', gridTemplateColumns: { xs: '1fr', md: '330px 1fr' }, gap: 3 }}>
            <NewBatchForm upload={list.data.upload} begun={(id) => void navigate(`/batches/${id}`)} />
            {batchId ? (
              <BatchView key={batchId} id={batchId} back={() => void navigate('/batches')} />
            ) : (
              <Box component="section" aria-label="Batches on the server" sx={{ display: 'flex', flexDirection: 'column', gap: 1, minHeight: 0 }}>
                <Typography variant="h2">On the server</Typography>
                {list.data.batches.length === 0 && (
                  <Typography color="text.secondary">
                    None yet. Do the work once by hand on one model, keep its steps as a recipe at Deliver, and give it here with the other models.
                  </Typography>
                )}
                <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', display: 'grid', gap: 1, overflow: 'auto' }}>
                  {list.data.batches.map((batch) => (
                    <Box component="li" key={batch.id} sx={{ border: 1, borderColor: 'divider', borderRadius: 1, bgcolor: 'background.paper' }}>
                      <ButtonBase
                        component={Link}
                        to={`/batches/${batch.id}`}
                        sx={{
                          display: 'block',
                          width: '100%',
                          textAlign: 'left',
                          px: 2,
                          py: 1.25,
                          borderRadius: 'inherit',
                          '&:hover': { bgcolor: 'action.hover' },
                        }}
                      >
                        <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline', mb: 0.75 }}>
                          <Typography noWrap sx={{ fontWeight: 650, flex: 1 }}>
                            {batch.name}
                          </Typography>
                          <Typography variant="caption" color="text.secondary">
                            {new Date(batch.made).toLocaleString()} · {megabytes(batch.bytes)}
                          </Typography>
                        </Box>
                        <Progress counts={batch.counts} />
                      </ButtonBase>
                    </Box>
                  ))}
                </Box>
                {room && (
                  <Typography variant="caption" color="text.secondary">
                    {list.data.batches.length} of {room.batches} batches, {megabytes(room.used)} of {megabytes(room.bytes)}. One that is done is removed after{' '}
                    {room.days} days.
                  </Typography>
                )}
              </Box>
            )}
          </Box>
        )}
      </Box>
    </Box>
  );
}

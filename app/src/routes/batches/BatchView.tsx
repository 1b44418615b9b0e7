import { Alert, Box, Button, IconButton, Link, MenuItem, TextField, Tooltip, Typography } from '@mui/material';
import AgainIcon from '@mui/icons-material/Replay';
import BackIcon from '@mui/icons-material/ArrowBack';
import CancelledIcon from '@mui/icons-material/RemoveCircleOutlined';
import DoneIcon from '@mui/icons-material/CheckCircleOutlined';
import FailedIcon from '@mui/icons-material/ErrorOutlined';
import WaitingIcon from '@mui/icons-material/Schedule';
import WarnIcon from '@mui/icons-material/WarningAmber';
import WorkingIcon from '@mui/icons-material/Autorenew';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { limitWords, type LimitWords } from '@jig-peel/core/measure/judge';
import { useEffect, useRef, useState } from 'react';
import { megabytes } from '../megabytes.ts';
import { filesEvent, getBatch, removeBatch, resultPath, stopBatch, workAgain, zipPath, type Batch, type BatchFile, type FileState } from './batchApi.ts';
import { Progress } from './Progress.tsx';
import * as z from 'zod/mini';

const looks: Record<FileState, { icon: typeof DoneIcon; words: string; colour: string }> = {
  waiting: { icon: WaitingIcon, words: 'waits', colour: 'text.secondary' },
  working: { icon: WorkingIcon, words: 'at work', colour: 'primary.main' },
  done: { icon: DoneIcon, words: 'done', colour: 'success.main' },
  failed: { icon: FailedIcon, words: 'failed', colour: 'error.main' },
  cancelled: { icon: CancelledIcon, words: 'not worked', colour: 'text.secondary' },
};

const filters = {
  all: { label: 'all files', fits: () => true },
  failed: { label: 'failed', fits: (file: BatchFile) => file.state === 'failed' },
  missed: { label: 'a limit not kept', fits: (file: BatchFile) => file.missed.length > 0 },
  lost: { label: 'tried again', fits: (file: BatchFile) => file.lost > 0 },
  open: { label: 'not done yet', fits: (file: BatchFile) => file.state === 'waiting' || file.state === 'working' },
} as const;
type Filter = keyof typeof filters;

const limitName = (key: string) => (limitWords as Partial<Record<string, LimitWords>>)[key]?.label.toLowerCase() ?? key;

const rowHeight = 46;

/** One batch, file by file, as it is worked. */
export function BatchView({ id, back }: { id: string; back(): void }) {
  const queries = useQueryClient();
  const batch = useQuery({ queryKey: ['batch', id], queryFn: () => getBatch(id), staleTime: 0, retry: false });
  const [filter, setFilter] = useState<Filter>('all');
  const [trouble, setTrouble] = useState<string | null>(null);
  const [removing, setRemoving] = useState(false);
  const scroller = useRef<HTMLDivElement>(null);

  useEffect(() => {
    const events = new EventSource(`/api/batches/${id}/events`);
    events.addEventListener('files', (event) => {
      const said = z.safeParse(filesEvent, JSON.parse((event as MessageEvent<string>).data));
      if (!said.success) return;
      queries.setQueryData<Batch>(['batch', id], (before) => {
        if (!before) return before;
        const files = [...before.files];
        for (const { at, ...file } of said.data.files) files[at] = file;
        const { counts: _, ...line } = said.data.line;
        return { ...before, ...line, files };
      });
    });
    events.addEventListener('removed', () => back());
    // what was said while the line was down is asked for
    let opened = 0;
    events.addEventListener('open', () => {
      if (opened++ > 0) void queries.invalidateQueries({ queryKey: ['batch', id] });
    });
    return () => events.close();
    // `back` is another function at each look
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id, queries]);

  const files = (batch.data?.files ?? []).map((file, at) => ({ file, at })).filter(({ file }) => filters[filter].fits(file));
  const rows = useVirtualizer({ count: files.length, getScrollElement: () => scroller.current, estimateSize: () => rowHeight, overscan: 8 });

  const tryTo = (work: Promise<unknown>) => {
    setTrouble(null);
    work.then(
      () => void queries.invalidateQueries({ queryKey: ['batch', id] }),
      (error: Error) => setTrouble(error.message),
    );
  };

  if (batch.isError)
    return (
      <Box>
        <Alert severity="error">{batch.error.message}</Alert>
        <Button startIcon={<BackIcon />} onClick={back} sx={{ mt: 1 }}>
          All batches
        </Button>
      </Box>
    );
  if (!batch.data) return null;
  const { name, isCancelled, made, steps, bytes } = batch.data;
  const all = batch.data.files;
  const count = (state: FileState) => all.filter((file) => file.state === state).length;
  const open = count('waiting') + count('working');
  const done = count('done');
  return (
    <Box component="section" aria-label={`Batch ${name}`} sx={{ display: 'flex', flexDirection: 'column', minHeight: 0, gap: 1 }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
        <Tooltip title="All batches">
          <IconButton aria-label="All batches" onClick={back}>
            <BackIcon />
          </IconButton>
        </Tooltip>
        <Typography variant="h2" sx={{ flex: 1, minWidth: 120, overflowWrap: 'anywhere' }}>
          {name}
        </Typography>
        {open > 0 ? (
          <Button variant="outlined" onClick={() => tryTo(stopBatch(id))}>
            Stop
          </Button>
        ) : (
          <Button color="error" onClick={() => setRemoving(true)}>
            Remove
          </Button>
        )}
        <Button variant={open === 0 ? 'contained' : 'outlined'} href={zipPath(id)} download disabled={done === 0}>
          {open === 0 ? 'All as a zip' : 'What is done, as a zip'}
        </Button>
      </Box>
      {removing && (
        <Alert
          severity="warning"
          role="alertdialog"
          aria-label="Remove the batch"
          action={
            <>
              <Button color="inherit" size="small" onClick={() => tryTo(removeBatch(id).then(back))}>
                Remove
              </Button>
              <Button color="inherit" size="small" autoFocus onClick={() => setRemoving(false)}>
                Keep
              </Button>
            </>
          }
        >
          Its {all.length} models and their results are deleted from the server. This cannot be undone.
        </Alert>
      )}
      {trouble && (
        <Alert severity="error" onClose={() => setTrouble(null)}>
          {trouble}
        </Alert>
      )}
      <Progress
        counts={{
          waiting: count('waiting'),
          working: count('working'),
          done,
          failed: count('failed'),
          cancelled: count('cancelled'),
          missed: all.filter(filters.missed.fits).length,
        }}
      />
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center', flexWrap: 'wrap' }}>
        <Typography variant="caption" color="text.secondary" sx={{ flex: 1 }}>
          {steps} {steps === 1 ? 'step' : 'steps'} · given {new Date(made).toLocaleString()} · {megabytes(bytes)} on the server
          {isCancelled ? ' · stopped' : ''}
        </Typography>
        {filter === 'failed' && files.length > 0 && (
          <Button size="small" startIcon={<AgainIcon />} onClick={() => tryTo(Promise.all(files.map(({ at }) => workAgain(id, at))))}>
            All of them again
          </Button>
        )}
        <TextField select label="Show" value={filter} onChange={(event) => setFilter(event.target.value as Filter)} sx={{ width: 190 }}>
          {(Object.keys(filters) as Filter[]).map((key) => (
            <MenuItem key={key} value={key}>
              {filters[key].label} ({all.filter(filters[key].fits).length})
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Box
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label="Files of the batch"
        sx={{ flex: 1, minHeight: 0, overflow: 'auto', border: 1, borderColor: 'divider', borderRadius: 1, bgcolor: 'background.paper' }}
      >
        <Box role="list" sx={{ height: rows.getTotalSize(), position: 'relative' }}>
          {rows.getVirtualItems().map(({ index, start }) => {
            const { file, at } = files[index]!;
            return <FileRow key={at} id={id} at={at} file={file} top={start} again={() => tryTo(workAgain(id, at))} />;
          })}
        </Box>
        {files.length === 0 && (
          <Typography color="text.secondary" sx={{ p: 2 }}>
            None of the files.
          </Typography>
        )}
      </Box>
    </Box>
  );
}

function FileRow({ id, at, file, top, again }: { id: string; at: number; file: BatchFile; top: number; again(): void }) {
  const { icon: Icon, words, colour } = looks[file.state];
  const about = [
    file.state === 'done' && file.missed.length > 0 ? `not kept: ${file.missed.map(limitName).join(', ')}` : '',
    file.words,
    file.lost > 0 ? `tried ${file.lost + 1} times` : '',
  ].filter(Boolean);
  return (
    <Box
      role="listitem"
      sx={{
        position: 'absolute',
        top,
        left: 0,
        right: 0,
        height: rowHeight,
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        px: 1.5,
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Icon fontSize="small" sx={{ color: colour }} aria-hidden />
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography variant="body2" noWrap sx={{ fontWeight: 600 }}>
          {file.name}
        </Typography>
        <Typography
          variant="caption"
          component="div"
          noWrap
          title={about.join(' · ')}
          color={file.state === 'failed' ? 'error' : 'text.secondary'}
          sx={{ lineHeight: 1.3 }}
        >
          {words}
          {about.length > 0 ? ` · ${about.join(' · ')}` : ''}
        </Typography>
      </Box>
      {file.missed.length > 0 && <WarnIcon fontSize="small" color="warning" titleAccess="A limit is not kept" />}
      {file.seconds > 0 && (
        <Typography variant="figure" color="text.secondary" sx={{ minWidth: 58, textAlign: 'right' }}>
          {file.seconds.toFixed(1)} s
        </Typography>
      )}
      <Box sx={{ display: 'flex', gap: 1, maxWidth: 360, overflow: 'hidden' }}>
        {file.outputs.slice(0, 3).map((output) => (
          <Link key={output} href={resultPath(id, at, output)} download variant="body2" noWrap>
            {output.endsWith('.report.json') ? 'report' : output}
          </Link>
        ))}
      </Box>
      {(file.state === 'failed' || file.state === 'cancelled') && (
        <Tooltip title="Work this file again">
          <IconButton aria-label={`Work ${file.name} again`} onClick={again}>
            <AgainIcon fontSize="small" />
          </IconButton>
        </Tooltip>
      )}
    </Box>
  );
}

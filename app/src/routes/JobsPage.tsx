import { Box, Button, ButtonBase, Card, IconButton, CircularProgress, Typography, useTheme } from '@mui/material';
import DarkModeIcon from '@mui/icons-material/DarkModeOutlined';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import FileOpenIcon from '@mui/icons-material/FileOpenOutlined';
import LightModeIcon from '@mui/icons-material/LightModeOutlined';
import { useQuery } from '@tanstack/react-query';
import { useLiveQuery } from '../keep/useLiveQuery.ts';
import { useEffect, useState } from 'react';
import { later } from '../later.tsx';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import * as z from 'zod/mini';
import { listJobs, restoreJob } from '../keep/db.ts';
import type { JobRow, ReadRow } from '../keep/rows.ts';
import { wordsOf } from '../session/words.ts';
import { hasWebGl } from '../bench/views/webgl.ts';
import { formKinds, type FormKind } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { usePreferences } from '../store/preferences.ts';
import { firstWalk } from '../store/walk.ts';
import { isLowPower } from '../lowPower.ts';
import { coreApi, outcomeOf } from '../worker/client.ts';
import type { Binned } from './Bin.tsx';

/** Comes with the first trouble. */
const Trouble = later(() => import('./Trouble.tsx'));
const Foot = later(() => import('./Foot.tsx'));
/** Comes with the first job that was removed. */
const Bin = later(() => import('./Bin.tsx'));

const samplesSchema = z.array(z.object({ file: z.string(), name: z.string(), kind: z.enum(['job', 'model']), about: z.string() }));

async function fetchSamples() {
  const response = await fetch('/samples/samples.json');
  if (!response.ok) throw new Error('The samples could not be read.');
  return samplesSchema.parse(await response.json());
}

const demoFile = 'skerry-quay.jigpeel';
const readJobs = () => listJobs().catch(() => 'unreadable' as const);
/** Ms after which the page gets ready for a job. */
const readyAfter = 800;
/** The whole of a card's width is its button. */
const wide = {
  px: 2,
  py: 1.1,
  width: '100%',
  display: 'block',
  textAlign: 'left',
  borderRadius: 'inherit',
  '&:hover': { bgcolor: 'action.hover' },
  '&.Mui-focusVisible': { outline: 2, outlineColor: 'primary.main', outlineOffset: -2 },
} as const;
const freshId = () => crypto.randomUUID().slice(0, 8);

/** The start page: open a model, go on with a kept job, or try a sample. */
export function JobsPage() {
  const navigate = useNavigate();
  const theme = useTheme();
  const { mode, setMode } = usePreferences();
  const [busy, setBusy] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const rows = useLiveQuery(readJobs);
  const { jobs, bin, damaged } = sorted(rows === 'unreadable' ? [] : rows);
  useEffect(() => {
    void import('../keep/bin.ts').then(({ emptyOldBin }) => emptyOldBin()).catch(() => {});
  }, []);
  useEffect(() => {
    if (isLowPower()) return;
    // what every job needs is there before the first is chosen
    const timer = setTimeout(() => {
      coreApi();
      void import('./BenchPage.tsx').catch(() => {});
    }, readyAfter);
    return () => clearTimeout(timer);
  }, []);
  const samples = useQuery({ queryKey: ['samples'], queryFn: fetchSamples });

  const open = async (files: { name: string; bytes: Uint8Array }[], label: string, name?: string): Promise<boolean> => {
    setBusy(`Opening ${label}`);
    setTrouble(null);
    useBench.getState().leave();
    const outcome = await outcomeOf(coreApi().open(files, freshId(), name));
    setBusy(null);
    if (!outcome.ok) {
      setTrouble(outcome.sentence);
      return false;
    }
    const { id, first } = outcome.report;
    useBench.getState().goTo(first);
    await navigate(`/bench/${id}`);
    return true;
  };

  const beginForm = async (kind: FormKind) => {
    setTrouble(null);
    useBench.getState().leave();
    const outcome = await outcomeOf(coreApi().begin(freshId(), kind));
    if (!outcome.ok) setTrouble(outcome.sentence);
    else {
      useBench.getState().goTo('intake');
      await navigate(`/bench/${outcome.report.id}`);
    }
  };

  const openFiles = async (files: File[]) => {
    if (files.length === 0) return;
    setBusy('Reading');
    try {
      const read = await Promise.all(files.map(async (file) => ({ name: file.name, bytes: new Uint8Array(await file.arrayBuffer()) })));
      await open(read, files.length === 1 ? files[0]!.name : `${files.length} files`);
    } catch {
      setBusy(null);
      setTrouble('The files could not be read from the disk. Check that they are still there.');
    }
  };

  const openSample = async (file: string, name: string) => {
    setBusy(`Fetching ${name}`);
    try {
      const response = await fetch(`/samples/${file}`);
      if (!response.ok) throw new Error();
      const isOpen = await open([{ name: file, bytes: new Uint8Array(await response.arrayBuffer()) }], name, name);
      if (isOpen && file === demoFile) firstWalk();
    } catch {
      setBusy(null);
      setTrouble(`The sample “${name}” could not be fetched. Is the server still running?`);
    }
  };

  const { getRootProps, getInputProps, isDragActive, open: pick } = useDropzone({ onDrop: (files) => void openFiles(files), noClick: true, noKeyboard: true });

  /** What changes a kept job; that it could not be is said. */
  const change = async (work: () => Promise<unknown>): Promise<boolean> => {
    try {
      await work();
      return true;
    } catch (error) {
      setTrouble(wordsOf(error));
      return false;
    }
  };
  const remove = async (id: string, name: string) => (await import('./removeJob.tsx')).removeJob(id, name, change, setTrouble);

  return (
    <Box {...getRootProps()} component="main" sx={{ height: '100%', overflow: 'auto', bgcolor: 'background.default' }}>
      <input {...getInputProps({ 'aria-label': 'Model files', accept: '.obj,.mtl,.glb,.gltf,.bin,.ply,.stl,.png,.jpg,.jpeg,.webp,.jigpeel' })} />
      <Box sx={{ maxWidth: 1120, mx: 'auto', px: 4, py: 4 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mb: 3 }}>
          <img src="/mark.svg" width={34} height={34} alt="" />
          <Box sx={{ flex: 1 }}>
            <Typography variant="h1">Jig Peel</Typography>
            <Typography color="text.secondary">Cut a model open, lay it flat, pack it, hand it over.</Typography>
          </Box>
          <IconButton
            title={mode === 'light' ? 'Night bench: the dark theme' : 'Workshop paper: the light theme'}
            aria-label={mode === 'light' ? 'Dark theme' : 'Light theme'}
            onClick={() => setMode(mode === 'light' ? 'dark' : 'light')}
          >
            {mode === 'light' ? <DarkModeIcon /> : <LightModeIcon />}
          </IconButton>
        </Box>
        {!hasWebGl() && (
          <Trouble>
            This browser draws no WebGL 2, which the views need. Switch on hardware acceleration in its settings, or use another browser; the command line works
            without it.
          </Trouble>
        )}
        {trouble && <Trouble onClose={() => setTrouble(null)}>{trouble}</Trouble>}
        <Box sx={{ display: 'grid', gridTemplateColumns: { xs: '1fr', md: '1fr 1fr' }, gap: 3, alignItems: 'stretch' }}>
          <Box
            sx={{
              border: `2px dashed ${isDragActive ? theme.palette.primary.main : theme.palette.divider}`,
              borderRadius: 2,
              bgcolor: isDragActive ? 'action.hover' : 'background.paper',
              p: 4,
              display: 'flex',
              flexDirection: 'column',
              alignItems: 'flex-start',
              justifyContent: 'center',
              gap: 1.5,
            }}
          >
            <Typography variant="h2">{isDragActive ? 'Let go to open' : 'Drop a model here'}</Typography>
            <Typography color="text.secondary">
              OBJ (with its MTL), GLB or glTF, PLY, STL, or a job archive. Everything stays in this browser: nothing is sent anywhere.
            </Typography>
            <Button variant="contained" size="medium" startIcon={<FileOpenIcon />} onClick={pick} disabled={busy !== null}>
              Open files
            </Button>
            <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75, alignItems: 'center', mt: 1 }}>
              <Typography color="text.secondary">or begin with a form:</Typography>
              {formKinds.map((kind) => (
                <Button key={kind} size="small" variant="outlined" disabled={busy !== null} onClick={() => void beginForm(kind)}>
                  {kind[0]!.toUpperCase() + kind.slice(1)}
                </Button>
              ))}
            </Box>
            {busy && (
              <Box sx={{ width: '100%' }} role="status">
                <Typography variant="caption">{busy} …</Typography>
                <CircularProgress size={18} />
              </Box>
            )}
          </Box>
          <Box>
            <Typography variant="h2" sx={{ mb: 1 }}>
              Or try a sample
            </Typography>
            {samples.isError && <Typography color="text.secondary">The samples could not be read. Open a file of your own instead.</Typography>}
            <Box sx={{ display: 'grid', gap: 1 }}>
              {samples.data?.map((sample) => (
                <Card key={sample.file} variant="outlined" sx={sample.kind === 'job' ? { borderColor: 'primary.main' } : {}}>
                  <ButtonBase
                    onClick={() => void openSample(sample.file, sample.name)}
                    disabled={busy !== null}
                    sx={{ ...wide, display: 'flex', justifyContent: 'flex-start', gap: 1.5 }}
                  >
                    <Box sx={{ flex: 1, minWidth: 0 }}>
                      <Typography sx={{ fontWeight: 650 }}>{sample.name}</Typography>
                      <Typography variant="caption" color="text.secondary">
                        {sample.about}
                      </Typography>
                    </Box>
                    <Typography
                      variant="caption"
                      sx={{
                        border: 1,
                        borderRadius: 8,
                        px: 1,
                        whiteSpace: 'nowrap',
                        borderColor: sample.kind === 'job' ? 'primary.main' : 'divider',
                        color: sample.kind === 'job' ? 'primary.main' : 'text.primary',
                      }}
                    >
                      {sample.kind === 'job' ? 'demo job' : 'model'}
                    </Typography>
                  </ButtonBase>
                </Card>
              ))}
            </Box>
          </Box>
        </Box>
        <Typography variant="h2" sx={{ mt: 4, mb: 1 }}>
          Jobs kept in this browser
        </Typography>
        {rows === 'unreadable' && (
          <Trouble>The jobs kept in this browser cannot be read. Check that the browser may store data for this address, then reload.</Trouble>
        )}
        {rows !== undefined && rows !== 'unreadable' && jobs.length === 0 && damaged.length === 0 && (
          <Typography color="text.secondary">None yet. Each job you open is kept here with all its steps; nothing needs saving.</Typography>
        )}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(320px, 1fr))', gap: 1 }}>
          {jobs.map((row) => (
            <Card key={row.id} variant="outlined" sx={{ display: 'flex', alignItems: 'center' }}>
              <ButtonBase
                onClick={() => {
                  useBench.getState().leave();
                  void navigate(`/bench/${row.id}`);
                }}
                sx={wide}
              >
                <Typography sx={{ fontWeight: 650 }}>{row.name}</Typography>
                <Typography variant="caption" color="text.secondary">
                  {row.parts.length === 1 ? row.parts[0] : `${row.parts.length} parts`} · {row.faces.toLocaleString('en')} faces ·{' '}
                  {row.steps.length - 1 === 1 ? '1 step' : `${row.steps.length - 1} steps`} · {ago(row.updated)}
                </Typography>
              </ButtonBase>
              <IconButton title="Put into the bin" aria-label={`Put ${row.name} into the bin`} onClick={() => void remove(row.id, row.name)} sx={{ mr: 1 }}>
                <DeleteIcon fontSize="small" />
              </IconButton>
            </Card>
          ))}
          {damaged.map(({ id, name }) => (
            <Card key={id} variant="outlined" sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 2, py: 1.1, borderColor: 'error.main' }}>
              <Box sx={{ flex: 1, minWidth: 0 }}>
                <Typography sx={{ fontWeight: 650 }}>{name || 'A job without a name'}</Typography>
                <Typography variant="caption" color="text.secondary">
                  What is kept of this job is damaged.
                </Typography>
              </Box>
              <Button size="small" variant="outlined" onClick={() => void change(() => restoreJob(id))}>
                Save what is left
              </Button>
              <IconButton
                title="Put into the bin"
                aria-label={`Put ${name || 'the damaged job'} into the bin`}
                onClick={() => void remove(id, name || 'A job without a name')}
              >
                <DeleteIcon fontSize="small" />
              </IconButton>
            </Card>
          ))}
        </Box>
        {bin.length > 0 && <Bin rows={bin} change={change} />}
        <Foot jobs={jobs} change={change} openDemo={() => void openSample(demoFile, 'Skerry Quay')} />
      </Box>
    </Box>
  );
}

/** Jobs at hand, those in the bin, and damaged ones. */
function sorted(rows: ReadRow[] | undefined): { jobs: JobRow[]; bin: Binned[]; damaged: { id: string; name: string }[] } {
  const out: ReturnType<typeof sorted> = { jobs: [], bin: [], damaged: [] };
  for (const read of rows ?? []) {
    if (read.kind === 'damaged') {
      if (read.removed === null) out.damaged.push(read);
      else out.bin.push({ id: read.id, name: read.name || 'A damaged job', removed: read.removed, bytes: undefined });
    } else if (read.row.removed === undefined) out.jobs.push(read.row);
    else out.bin.push({ id: read.row.id, name: read.row.name, removed: read.row.removed, bytes: read.row.bytes });
  }
  return out;
}

function ago(time: number): string {
  const minutes = Math.round((Date.now() - time) / 60_000);
  if (minutes < 1) return 'just now';
  if (minutes < 60) return `${minutes} min ago`;
  if (minutes < 60 * 24) return `${Math.round(minutes / 60)} h ago`;
  return new Date(time).toLocaleDateString();
}

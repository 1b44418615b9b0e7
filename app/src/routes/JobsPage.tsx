import { Alert, Box, Button, Card, CardActionArea, Chip, IconButton, LinearProgress, Link as MuiLink, Tooltip, Typography, useTheme } from '@mui/material';
import DarkModeIcon from '@mui/icons-material/DarkModeOutlined';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import FileOpenIcon from '@mui/icons-material/FileOpenOutlined';
import LightModeIcon from '@mui/icons-material/LightModeOutlined';
import { useQuery } from '@tanstack/react-query';
import { useLiveQuery } from 'dexie-react-hooks';
import { useSnackbar } from 'notistack';
import { useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { useNavigate } from 'react-router';
import { z } from 'zod';
import { database, removeJob, type JobRow } from '../keep/db.ts';
import { formKinds, type FormKind } from '@jig-peel/core';
import { useBench } from '../store/bench.ts';
import { usePreferences } from '../store/preferences.ts';
import { coreApi } from '../worker/client.ts';

const samplesSchema = z.array(z.object({ file: z.string(), name: z.string(), kind: z.enum(['job', 'model']), about: z.string() }));

async function fetchSamples() {
  const response = await fetch('/samples/samples.json');
  if (!response.ok) throw new Error('The samples could not be read.');
  return samplesSchema.parse(await response.json());
}

const freshId = () => crypto.randomUUID().slice(0, 8);

/** The start page: open a model, go on with a kept job, or try a sample. */
export function JobsPage() {
  const navigate = useNavigate();
  const theme = useTheme();
  const { mode, setMode } = usePreferences();
  const { enqueueSnackbar } = useSnackbar();
  const [busy, setBusy] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const jobs = useLiveQuery(() => database.jobs.orderBy('updated').reverse().toArray(), []);
  const samples = useQuery({ queryKey: ['samples'], queryFn: fetchSamples });

  const open = async (files: { name: string; bytes: Uint8Array }[], label: string, name?: string) => {
    setBusy(`Opening ${label}`);
    setTrouble(null);
    useBench.getState().leave();
    const outcome = await coreApi().open(files, freshId(), name);
    setBusy(null);
    if (!outcome.ok) {
      setTrouble(outcome.sentence);
      return;
    }
    await navigate(`/bench/${(outcome.report as { id: string }).id}`);
  };

  const beginForm = async (kind: FormKind) => {
    setTrouble(null);
    useBench.getState().leave();
    const outcome = await coreApi().begin(freshId(), kind);
    if (!outcome.ok) setTrouble(outcome.sentence);
    else {
      useBench.getState().goTo('intake');
      await navigate(`/bench/${(outcome.report as { id: string }).id}`);
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
      await open([{ name: file, bytes: new Uint8Array(await response.arrayBuffer()) }], name, name);
    } catch {
      setBusy(null);
      setTrouble(`The sample “${name}” could not be fetched. Is the server still running?`);
    }
  };

  const { getRootProps, getInputProps, isDragActive, open: pick } = useDropzone({ onDrop: (files) => void openFiles(files), noClick: true, noKeyboard: true });

  const remove = async (row: JobRow) => {
    const kept = {
      row,
      steps: await database.steps.where('jobId').equals(row.id).toArray(),
      arrays: await database.arrays.where('jobId').equals(row.id).toArray(),
    };
    await removeJob(row.id);
    enqueueSnackbar(`Removed “${row.name}”`, {
      action: () => (
        <Button
          color="inherit"
          onClick={() => {
            void database.transaction('rw', database.jobs, database.steps, database.arrays, async () => {
              await database.arrays.bulkPut(kept.arrays);
              await database.steps.bulkPut(kept.steps);
              await database.jobs.put(kept.row);
            });
          }}
        >
          Undo
        </Button>
      ),
    });
  };

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
          <Tooltip title={mode === 'light' ? 'Night bench: the dark theme' : 'Workshop paper: the light theme'}>
            <IconButton aria-label={mode === 'light' ? 'Dark theme' : 'Light theme'} onClick={() => setMode(mode === 'light' ? 'dark' : 'light')}>
              {mode === 'light' ? <DarkModeIcon /> : <LightModeIcon />}
            </IconButton>
          </Tooltip>
        </Box>
        {trouble && (
          <Alert severity="error" onClose={() => setTrouble(null)} sx={{ mb: 2 }}>
            {trouble}
          </Alert>
        )}
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
                <LinearProgress />
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
                  <CardActionArea
                    onClick={() => void openSample(sample.file, sample.name)}
                    disabled={busy !== null}
                    sx={{ px: 2, py: 1.1, display: 'flex', justifyContent: 'flex-start', gap: 1.5 }}
                  >
                    <Box sx={{ flex: 1, minWidth: 0 }}>
                      <Typography sx={{ fontWeight: 650 }}>{sample.name}</Typography>
                      <Typography variant="caption" color="text.secondary">
                        {sample.about}
                      </Typography>
                    </Box>
                    <Chip
                      size="small"
                      label={sample.kind === 'job' ? 'demo job' : 'model'}
                      color={sample.kind === 'job' ? 'primary' : 'default'}
                      variant="outlined"
                    />
                  </CardActionArea>
                </Card>
              ))}
            </Box>
          </Box>
        </Box>
        <Typography variant="h2" sx={{ mt: 4, mb: 1 }}>
          Jobs kept in this browser
        </Typography>
        {jobs?.length === 0 && (
          <Typography color="text.secondary">None yet. Each job you open is kept here with all its steps; nothing needs saving.</Typography>
        )}
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(320px, 1fr))', gap: 1 }}>
          {jobs?.map((row) => (
            <Card key={row.id} variant="outlined" sx={{ display: 'flex', alignItems: 'center' }}>
              <CardActionArea
                onClick={() => {
                  useBench.getState().leave();
                  void navigate(`/bench/${row.id}`);
                }}
                sx={{ px: 2, py: 1.1 }}
              >
                <Typography sx={{ fontWeight: 650 }}>{row.name}</Typography>
                <Typography variant="caption" color="text.secondary">
                  {row.parts.length === 1 ? row.parts[0] : `${row.parts.length} parts`} · {row.faces.toLocaleString('en')} faces ·{' '}
                  {row.steps.length - 1 === 1 ? '1 step' : `${row.steps.length - 1} steps`} · {ago(row.updated)}
                </Typography>
              </CardActionArea>
              <Tooltip title="Remove from this browser">
                <IconButton aria-label={`Remove ${row.name}`} onClick={() => void remove(row)} sx={{ mr: 1 }}>
                  <DeleteIcon fontSize="small" />
                </IconButton>
              </Tooltip>
            </Card>
          ))}
        </Box>
        <Typography variant="caption" color="text.secondary" component="p" sx={{ mt: 4 }}>
          A first look: open{' '}
          <MuiLink component="button" onClick={() => void openSample('skerry-quay.jigpeel', 'Skerry Quay')}>
            Skerry Quay
          </MuiLink>
          , click an edge of the seal and press X.
        </Typography>
      </Box>
    </Box>
  );
}

function ago(time: number): string {
  const minutes = Math.round((Date.now() - time) / 60_000);
  if (minutes < 1) return 'just now';
  if (minutes < 60) return `${minutes} min ago`;
  if (minutes < 60 * 24) return `${Math.round(minutes / 60)} h ago`;
  return new Date(time).toLocaleDateString();
}

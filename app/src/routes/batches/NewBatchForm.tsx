import { Alert, Box, Button, LinearProgress, MenuItem, TextField, Typography, useTheme } from '@mui/material';
import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useDropzone } from 'react-dropzone';
import { megabytes } from '../megabytes.ts';
import { handedRecipe } from '../handedRecipe.ts';
import { BatchError, isModel, readGivenRecipe, sendBatch, type BatchList, type GivenRecipe } from './batchApi.ts';

function handed(): GivenRecipe | null {
  try {
    const text = sessionStorage.getItem(handedRecipe);
    return text === null ? null : readGivenRecipe(text);
  } catch {
    return null;
  }
}

/** A recipe, models, and what they shall become. */
export function NewBatchForm({ upload, begun }: { upload: BatchList['upload'] | undefined; begun(id: string): void }) {
  const theme = useTheme();
  const queries = useQueryClient();
  const [recipe, setRecipe] = useState<GivenRecipe | null>(handed);
  const [limits, setLimits] = useState<{ name: string; text: string } | null>(null);
  const [files, setFiles] = useState<File[]>([]);
  const [to, setTo] = useState('');
  const [name, setName] = useState<string | null>(null);
  const [share, setShare] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const stop = useRef<AbortController | null>(null);
  const recipeFile = useRef<HTMLInputElement>(null);
  const limitsFile = useRef<HTMLInputElement>(null);
  const models = files.filter((file) => isModel(file.name));
  const bytes = files.reduce((sum, file) => sum + file.size, 0);

  const said = (error: unknown) => setTrouble(error instanceof BatchError ? error.message : 'The file could not be read.');
  const takeFiles = async (given: File[]) => {
    setTrouble(null);
    const rest: File[] = [];
    for (const file of given) {
      if (!/\.json$/i.test(file.name)) {
        rest.push(file);
        continue;
      }
      // a recipe or limits among the models is taken as what it is
      try {
        const text = await file.text();
        if (/"jigPeelLimits"/.test(text)) setLimits({ name: file.name, text });
        else setRecipe(readGivenRecipe(text));
      } catch (error) {
        said(error);
      }
    }
    setFiles((before) => [...before.filter((old) => !rest.some((one) => one.name === old.name)), ...rest]);
  };
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({ onDrop: (given) => void takeFiles(given), noClick: true, noKeyboard: true });

  const begin = async () => {
    if (!recipe || models.length === 0) return;
    setTrouble(null);
    setShare(0);
    stop.current = new AbortController();
    try {
      const batch = await sendBatch(
        { name: name?.trim() || recipe.name, recipe: recipe.text, limits: limits?.text ?? null, to, files },
        setShare,
        stop.current.signal,
      );
      setFiles([]);
      setName(null);
      await queries.invalidateQueries({ queryKey: ['batches'] });
      begun(batch.id);
    } catch (error) {
      said(error);
    } finally {
      setShare(null);
      stop.current = null;
    }
  };

  const missing = !recipe ? 'Choose a recipe first.' : models.length === 0 ? 'Add at least one model.' : null;
  return (
    <Box component="section" aria-label="New batch" {...getRootProps()} sx={{ display: 'grid', gap: 1.5, alignContent: 'start' }}>
      <Typography variant="h2">New batch</Typography>
      <Box sx={{ border: 1, borderColor: 'divider', borderRadius: 1, bgcolor: 'background.paper', p: 1.5 }}>
        <Typography variant="h3">1. Recipe</Typography>
        <Typography variant="body2" color={recipe ? 'text.primary' : 'text.secondary'} sx={{ my: 0.5, overflowWrap: 'anywhere' }}>
          {recipe ? `${recipe.name}, ${recipe.steps} ${recipe.steps === 1 ? 'step' : 'steps'}` : 'The steps to do, as kept at Deliver under Recipe.'}
        </Typography>
        <Button variant={recipe ? 'text' : 'contained'} size="small" onClick={() => recipeFile.current?.click()}>
          {recipe ? 'Another recipe' : 'Choose a recipe'}
        </Button>
        <input
          ref={recipeFile}
          type="file"
          accept=".json"
          hidden
          aria-label="Recipe file"
          onChange={(event) => {
            const given = [...(event.target.files ?? [])];
            event.target.value = '';
            void takeFiles(given);
          }}
        />
      </Box>
      <Box
        sx={{
          border: `2px dashed ${isDragActive ? theme.palette.primary.main : theme.palette.divider}`,
          borderRadius: 1,
          bgcolor: isDragActive ? 'action.hover' : 'background.paper',
          p: 1.5,
        }}
      >
        <input {...getInputProps({ 'aria-label': 'Models of the batch' })} />
        <Typography variant="h3">{isDragActive ? 'Let go to add' : '2. Models'}</Typography>
        <Typography variant="body2" color={models.length > 0 ? 'text.primary' : 'text.secondary'} sx={{ my: 0.5 }}>
          {files.length === 0
            ? 'Drop models here: OBJ, GLB, glTF, PLY, STL, job archives, with the materials and images they name.'
            : `${models.length} ${models.length === 1 ? 'model' : 'models'}${files.length > models.length ? ` and ${files.length - models.length} files beside them` : ''}, ${megabytes(bytes)}`}
        </Typography>
        <Button size="small" variant={recipe && models.length === 0 ? 'contained' : 'text'} onClick={open}>
          Add files
        </Button>
        {files.length > 0 && (
          <Button size="small" onClick={() => setFiles([])}>
            Clear
          </Button>
        )}
      </Box>
      <Box sx={{ border: 1, borderColor: 'divider', borderRadius: 1, bgcolor: 'background.paper', p: 1.5, display: 'grid', gap: 1.25 }}>
        <Typography variant="h3">3. What comes out</Typography>
        <TextField
          select
          label="Written as"
          value={to}
          onChange={(event) => setTo(event.target.value)}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          <MenuItem value="">as it came (STL becomes OBJ)</MenuItem>
          <MenuItem value="obj">OBJ + MTL</MenuItem>
          <MenuItem value="glb">GLB</MenuItem>
          <MenuItem value="ply">PLY</MenuItem>
          <MenuItem value="jigpeel">job archive, to go on by hand</MenuItem>
        </TextField>
        <TextField
          label="Name"
          value={name ?? recipe?.name ?? ''}
          onChange={(event) => setName(event.target.value)}
          slotProps={{ htmlInput: { maxLength: 120 }, inputLabel: { shrink: true } }}
        />
        <Typography variant="body2" color="text.secondary">
          {limits ? `Judged by ${limits.name}.` : 'Judged by the limits of each job.'}{' '}
          <Button
            size="small"
            sx={{ minHeight: 0, p: 0, minWidth: 0, verticalAlign: 'baseline' }}
            onClick={() => (limits ? setLimits(null) : limitsFile.current?.click())}
          >
            {limits ? 'Use the jobs’ own' : 'Use limits from a file'}
          </Button>
        </Typography>
        <input
          ref={limitsFile}
          type="file"
          accept=".json"
          hidden
          aria-label="Limits file"
          onChange={(event) => {
            const [first] = event.target.files ?? [];
            event.target.value = '';
            if (first)
              void first
                .text()
                .then((text) =>
                  /"jigPeelLimits"/.test(text) ? setLimits({ name: first.name, text }) : setTrouble('This file holds no limits. Keep them as a file at Check.'),
                );
          }}
        />
      </Box>
      {trouble && (
        <Alert severity="error" onClose={() => setTrouble(null)}>
          {trouble}
        </Alert>
      )}
      {share === null ? (
        <Box>
          <Button variant="contained" size="medium" fullWidth disabled={missing !== null} onClick={() => void begin()} aria-describedby="why-not-yet">
            Work {models.length > 1 ? `${models.length} models` : models.length === 1 ? '1 model' : 'them'}
          </Button>
          <Typography id="why-not-yet" variant="caption" color="text.secondary" component="p" sx={{ mt: 0.5 }}>
            {missing ??
              `They go to the server that gives this page${upload && bytes > upload.batchBytes ? `; together they are over its ${megabytes(upload.batchBytes)}` : ''}, and nowhere else.`}
          </Typography>
        </Box>
      ) : (
        <Box role="status">
          <Typography variant="body2">Sending, {Math.round(100 * share)} %</Typography>
          <LinearProgress variant="determinate" value={100 * share} aria-label="Sending" sx={{ my: 0.5 }} />
          <Button size="small" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        </Box>
      )}
    </Box>
  );
}

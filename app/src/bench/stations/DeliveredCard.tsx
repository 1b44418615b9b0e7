import { Alert, Box, Button, Typography } from '@mui/material';
import DoneIcon from '@mui/icons-material/TaskAlt';
import { useState } from 'react';
import { useBench } from '../../store/bench.ts';
import { megabytes } from '../../routes/megabytes.ts';
import { save, useDeliver } from '../deliver.ts';
import { chooseFolder, hasFolders, writeInto, type Chosen } from '../folder.ts';
import { Card } from './Card.tsx';

const sizeWords = (bytes: number) => (bytes < 100_000 ? `${Math.max(0.1, bytes / 1024).toFixed(1)} kB` : megabytes(bytes));

/** What was written, each file with its size and its proof, to be taken singly, as one zip, or into a folder. */
export function DeliveredCard() {
  const { delivered, bundle, notes, judged } = useDeliver();
  const [asked, setAsked] = useState<Chosen | null>(null);
  if (delivered.length === 0) return null;
  const files = delivered.map(({ file }) => file);
  const { notice } = useBench.getState();
  const write = async (chosen: Chosen) => {
    setAsked(null);
    try {
      await writeInto(chosen, files);
      notice(`Wrote ${files.length} ${files.length === 1 ? 'file' : 'files'} into “${chosen.folder.name}”`, 'success');
    } catch (error) {
      notice((error as Error).message, 'error');
    }
  };
  const intoFolder = async () => {
    try {
      const chosen = await chooseFolder(files);
      if (!chosen) return;
      if (chosen.there.length > 0) setAsked(chosen);
      else await write(chosen);
    } catch (error) {
      notice(`The folder cannot be used: ${(error as Error).message}`, 'error');
    }
  };
  return (
    <Card title="Delivered">
      {judged && (
        <Alert severity={judged.missed.length === 0 ? 'success' : 'warning'} variant="outlined" sx={{ py: 0, px: 1 }}>
          {judged.missed.length === 0
            ? `All ${judged.limits} limits are kept.`
            : `${judged.missed.length} of ${judged.limits} limits ${judged.missed.length === 1 ? 'is' : 'are'} not kept: ${judged.missed.join(', ')}.`}
        </Alert>
      )}
      {delivered.map(({ file, url }) => (
        <Box key={file.name} sx={{ display: 'flex', gap: 1, alignItems: 'flex-start' }}>
          <DoneIcon sx={{ fontSize: 18, color: 'success.main', mt: 0.2 }} />
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
              {file.name}
            </Typography>
            <Typography variant="caption" color="text.secondary" component="div" sx={{ lineHeight: 1.3 }}>
              {sizeWords(file.bytes.length)}, {file.proof}
            </Typography>
          </Box>
          <Button aria-label={`Save ${file.name}`} onClick={() => save(file.name, url)} sx={{ minWidth: 0 }}>
            Save
          </Button>
        </Box>
      ))}
      {notes.map((note) => (
        <Typography key={note} variant="caption" color="text.secondary">
          {note}
        </Typography>
      ))}
      {bundle && delivered.length > 1 && (
        <Button variant="outlined" onClick={() => save(bundle.name, bundle.url)}>
          Save all as {bundle.name}
        </Button>
      )}
      {hasFolders() && (
        <Button variant="outlined" onClick={() => void intoFolder()}>
          Into a folder …
        </Button>
      )}
      {asked && (
        <Alert severity="warning" role="alertdialog" aria-label="Files are there already">
          “{asked.folder.name}” has {asked.there.length === 1 ? 'a file of this name' : `${asked.there.length} files of these names`}:{' '}
          {asked.there.slice(0, 4).join(', ')}
          {asked.there.length > 4 ? ' …' : ''}
          <Box sx={{ display: 'flex', gap: 1, mt: 0.5 }}>
            <Button size="small" variant="contained" onClick={() => void write(asked)}>
              Replace
            </Button>
            <Button size="small" onClick={() => setAsked(null)}>
              Leave them
            </Button>
          </Box>
        </Alert>
      )}
    </Card>
  );
}

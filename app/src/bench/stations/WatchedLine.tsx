import { Box, Button, Typography } from '@mui/material';
import { lookAgain, stopWatching, useWatched } from '../watch.ts';
import type { WatchedRow } from '../../keep/watched.ts';

/** Which files are watched, in words, with what can be done about it. Nothing where none is. @param of the part that a mesh is of; images: all */
export function WatchedLine({ kind, of }: { kind: WatchedRow['kind']; of?: string }) {
  const { rows, asks } = useWatched();
  const own = rows.filter((row) => row.kind === kind && (of === undefined || row.of === of));
  if (own.length === 0) return null;
  const names = own.flatMap(({ handles }) => handles.map(({ name }) => name));
  return (
    <Box>
      <Typography variant="caption" component="div" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
        {asks
          ? `The browser asks you before ${names.length === 1 ? `“${names[0]}” is` : `${names.length} files are`} watched on.`
          : `${names.length === 1 ? `“${names[0]}” is` : `${names.length} files are`} watched: changed elsewhere, ${kind === 'mesh' ? 'it can be taken in with one click' : `${names.length === 1 ? 'it is' : 'they are'} taken in when you come back here`}.`}
      </Typography>
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        {asks && (
          <Button size="small" variant="outlined" onClick={() => void lookAgain(true)}>
            Watch on
          </Button>
        )}
        <Button size="small" onClick={() => stopWatching(own.map(({ key }) => key))}>
          Stop watching
        </Button>
      </Box>
    </Box>
  );
}

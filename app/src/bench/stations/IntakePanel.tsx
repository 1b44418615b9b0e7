import { Box, Button, List, ListItemButton, ListItemText, MenuItem, TextField, Typography } from '@mui/material';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { runCommand } from '../commands.ts';
import { Card } from './Card.tsx';

/** What came in: parts, the state of their UVs, the image shown on each, what was read and passed over. */
export function IntakePanel() {
  const summary = useBench((s) => s.summary)!;
  const layout = useBench((s) => s.layout);
  const active = summary.parts.find((part) => part.id === summary.activePart)!;
  const state =
    active.unplaced === active.faces
      ? 'No UVs yet.'
      : active.unplaced > 0
        ? `${active.unplaced.toLocaleString('en')} of ${active.faces.toLocaleString('en')} faces have no UVs.`
        : `All faces have UVs, in ${layout?.islands.length ?? 0} ${layout?.islands.length === 1 ? 'island' : 'islands'}.`;
  return (
    <>
      <Card title={active.name}>
        <Typography variant="body2">
          {active.faces.toLocaleString('en')} faces, {active.points.toLocaleString('en')} points. {state}
        </Typography>
        {active.unplaced === active.faces ? (
          <Button variant="contained" fullWidth onClick={() => runCommand('first')}>
            Make a first layout
          </Button>
        ) : (
          <Button variant="contained" fullWidth onClick={() => useBench.getState().goTo('seams')}>
            Go to the seams
          </Button>
        )}
        <TextField
          select
          fullWidth
          label="Picture on the model"
          value={active.imageId ?? ''}
          onChange={(event) => void run('showImage', { part: active.id, image: event.target.value || null })}
        >
          <MenuItem value="">Test grid</MenuItem>
          {summary.images.map((image) => (
            <MenuItem key={image.id} value={image.id}>
              {image.name}
            </MenuItem>
          ))}
        </TextField>
      </Card>
      {summary.parts.length > 1 && (
        <Card title={`${summary.parts.length} parts`}>
          <List dense disablePadding>
            {summary.parts.map((part) => (
              <ListItemButton
                key={part.id}
                selected={part.id === active.id}
                onClick={() => part.id !== active.id && void run('activatePart', { part: part.id })}
                sx={{ borderRadius: 1, px: 1 }}
              >
                <ListItemText
                  primary={part.name}
                  secondary={`${part.faces.toLocaleString('en')} faces${part.unplaced === part.faces ? ', no UVs yet' : part.unplaced > 0 ? `, ${part.unplaced} without UVs` : ''}`}
                />
              </ListItemButton>
            ))}
          </List>
        </Card>
      )}
      <Card title="What was read">
        <Box component="ul" sx={{ m: 0, pl: 2, maxHeight: 260, overflow: 'auto' }}>
          {summary.intake.map((line, k) => (
            <Typography key={k} component="li" variant="caption" sx={{ display: 'list-item' }}>
              {line}
            </Typography>
          ))}
        </Box>
      </Card>
    </>
  );
}

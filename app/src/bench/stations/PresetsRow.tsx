import { Box, Button, IconButton, MenuItem, TextField, Tooltip } from '@mui/material';
import DeleteIcon from '@mui/icons-material/DeleteOutlined';
import { useState } from 'react';
import { settingsNow, useDeliver, useDeliverPresets } from '../deliver.ts';
import { nothing } from '../../session/deliverKinds.ts';

/** What goes where, under a name: chosen, kept, removed. */
export function PresetsRow() {
  const { presets, keep, remove } = useDeliverPresets();
  const set = useDeliver((s) => s.set);
  const now = useDeliver((s) => JSON.stringify([s.choice, s.guideSize, s.guideLook, s.normals, s.smoothing ?? 0, s.onlyActive]));
  const [name, setName] = useState<string | null>(null);
  const names = Object.keys(presets).sort();
  const same = names.find((one) => {
    const { choice, guideSize, guideLook, normals, smoothing, onlyActive } = presets[one]!;
    return JSON.stringify([choice, guideSize, guideLook, normals, smoothing ?? 0, onlyActive]) === now;
  });
  const done = () => {
    if (name?.trim()) keep(name.trim().slice(0, 60), settingsNow());
    setName(null);
  };
  if (name !== null)
    return (
      <Box sx={{ display: 'flex', gap: 1 }}>
        <TextField
          autoFocus
          fullWidth
          label="Name of the preset"
          value={name}
          slotProps={{ htmlInput: { maxLength: 60 } }}
          onChange={(event) => setName(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') done();
            if (event.key === 'Escape') setName(null);
          }}
        />
        <Button variant="outlined" onClick={done}>
          Keep
        </Button>
      </Box>
    );
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
      <TextField
        select
        fullWidth
        label="Preset"
        value={same ?? ''}
        onChange={(event) => {
          const chosen = presets[event.target.value];
          // kinds that came later are off in one that was kept before
          if (chosen) set({ smoothing: 0, ...chosen, choice: { ...nothing, ...chosen.choice } });
        }}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      >
        <MenuItem value="" disabled={same !== undefined}>
          {names.length === 0 ? 'none yet' : 'own choice'}
        </MenuItem>
        {names.map((one) => (
          <MenuItem key={one} value={one}>
            {one}
          </MenuItem>
        ))}
      </TextField>
      {same === undefined ? (
        <Tooltip title="Keep what is ticked as a preset for all jobs">
          <Button variant="outlined" sx={{ flex: 'none' }} onClick={() => setName('')}>
            Keep
          </Button>
        </Tooltip>
      ) : (
        <Tooltip title="Remove this preset">
          <IconButton aria-label={`Remove the preset ${same}`} onClick={() => remove(same)}>
            <DeleteIcon fontSize="small" />
          </IconButton>
        </Tooltip>
      )}
    </Box>
  );
}

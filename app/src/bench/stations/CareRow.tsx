import { Box, Button, MenuItem, TextField, Tooltip } from '@mui/material';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { runCommand } from '../commands/index.ts';

const weights = [
  { weight: 50, label: 'fifty times: nearly none' },
  { weight: 10, label: 'ten times: a face, lettering' },
  { weight: 3, label: 'three times' },
  { weight: 1, label: 'like that of others' },
  { weight: 0.2, label: 'a fifth: hidden places' },
];

/** How much the stretch of what is selected counts in unwrapping and relaxing. */
export default function CareRow() {
  const chosen = useBench((s) => s.summary!.selection.ids.length + (s.summary!.selection.also ?? []).length + s.summary!.selectedParts.length > 0);
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      <Tooltip title={chosen ? '' : 'Select faces, islands or parts first'} placement="right">
        <TextField
          select
          fullWidth
          label="Stretch of the selected counts"
          value=""
          disabled={!chosen}
          onChange={(event) => void run('care', { weight: Number(event.target.value) }, true)}
        >
          {weights.map(({ weight, label }) => (
            <MenuItem key={weight} value={weight}>
              {label}
            </MenuItem>
          ))}
        </TextField>
      </Tooltip>
      <Button size="small" sx={{ alignSelf: 'start' }} onClick={() => runCommand('select-care')}>
        Select what counts otherwise
      </Button>
    </Box>
  );
}

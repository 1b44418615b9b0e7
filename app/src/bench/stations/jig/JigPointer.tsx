import { Box, MenuItem, TextField, ToggleButton, ToggleButtonGroup, Tooltip } from '@mui/material';
import { Toggle } from '../../../fields/Toggle.tsx';
import { useJigs, type SnapTo } from '../../jigs.ts';

/** What the pointer takes in the model view, where handles snap, and what is drawn of the jig. */
export function JigPointer() {
  const takes = useJigs((s) => s.takes);
  const snap = useJigs((s) => s.snap);
  const frame = useJigs((s) => s.frame);
  const image = useJigs((s) => s.image);
  return (
    <>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        aria-label="The pointer takes"
        value={takes}
        onChange={(_, value: 'part' | 'jig' | null) => value && useJigs.setState({ takes: value })}
      >
        <ToggleButton value="part">
          <Tooltip title="A drag over the model selects; only the handles move the jig">
            <span>Take the part</span>
          </Tooltip>
        </ToggleButton>
        <ToggleButton value="jig">
          <Tooltip title="A drag anywhere slides the jig over the surface; a click takes the jig there in hand, the next click the one behind it; no faces are selected">
            <span>Take the jig</span>
          </Tooltip>
        </ToggleButton>
      </ToggleButtonGroup>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <TextField select fullWidth label="Snap" value={snap} onChange={(event) => useJigs.setState({ snap: event.target.value as SnapTo })}>
          <MenuItem value="off">off (Ctrl: steps)</MenuItem>
          <MenuItem value="grid">to round steps, 15°</MenuItem>
          <MenuItem value="points">to points, 15°</MenuItem>
        </TextField>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Toggle label="Frame" checked={frame} onChange={(on) => useJigs.setState({ frame: on })} />
        {frame && <Toggle label="Image on it" checked={image} onChange={(on) => useJigs.setState({ image: on })} />}
      </Box>
    </>
  );
}

import { Box, FormControlLabel, Slider, Switch, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import LookIcon from '@mui/icons-material/LightModeOutlined';
import { fillsSelection, useBench, type Look } from '../../store/bench.ts';
import { ChromeMenu } from './ChromeMenu.tsx';

const lights: { value: Look['light']; label: string; help: string }[] = [
  { value: 'room', label: 'Room', help: 'A window and a wall' },
  { value: 'even', label: 'Even', help: 'The same from all sides: colours as they are' },
  { value: 'lamp', label: 'Lamp', help: 'One lamp that can be moved: relief stands out' },
];

/** Light, marking, far side, other parts: how the views show things. */
export function LookMenu() {
  const look = useBench((s) => s.look);
  const set = useBench((s) => s.setLook);
  const many = useBench((s) => (s.summary?.parts.length ?? 0) > 1);
  const filled = useBench(fillsSelection);
  const row = (label: string, checked: boolean, change: (on: boolean) => void, hint?: string) => (
    <FormControlLabel
      sx={{ m: 0, justifyContent: 'space-between' }}
      labelPlacement="start"
      control={<Switch size="small" checked={checked} onChange={(event) => change(event.target.checked)} />}
      label={
        <Typography variant="body2">
          {label}
          {hint && (
            <Typography component="span" variant="figure" color="text.secondary" sx={{ ml: 1 }}>
              {hint}
            </Typography>
          )}
        </Typography>
      }
    />
  );
  return (
    <ChromeMenu label="Light and marking" icon={<LookIcon sx={{ fontSize: 17 }} />} width={264}>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={look.light}
        aria-label="Light"
        onChange={(_, light: Look['light'] | null) => light && set({ light })}
      >
        {lights.map(({ value, label, help }) => (
          <ToggleButton key={value} value={value}>
            <Tooltip title={help}>
              <span>{label}</span>
            </Tooltip>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {look.light === 'lamp' && (
        <Box sx={{ px: 1 }}>
          <Degrees label="Lamp: left to right" value={look.lampSide} onChange={(lampSide) => set({ lampSide })} />
          <Degrees label="Lamp: below to above" value={look.lampHeight} onChange={(lampHeight) => set({ lampHeight })} />
        </Box>
      )}
      {row('Selection filled', filled, (on) => set({ marking: on ? 'fill' : 'outline' }), 'W')}
      {row('Far side in a corner', look.farSide, (farSide) => set({ farSide }), 'B')}
      {many && row('Other parts, faintly', look.context, (context) => set({ context }))}
      {row('UV values beside points', look.values, (values) => set({ values }))}
    </ChromeMenu>
  );
}

function Degrees({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  return (
    <>
      <Typography variant="caption" color="text.secondary">
        {label}
      </Typography>
      <Slider
        size="small"
        min={-85}
        max={85}
        value={value}
        valueLabelDisplay="auto"
        valueLabelFormat={(x) => `${x}°`}
        aria-label={label}
        onChange={(_, next) => onChange(next as number)}
      />
    </>
  );
}

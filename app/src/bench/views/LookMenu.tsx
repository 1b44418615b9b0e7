import { Box, FormControlLabel, Switch, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import LookIcon from '@mui/icons-material/LightModeOutlined';
import { fillsSelection, useBench, type Look } from '../../store/bench.ts';
import { Dragged } from '../../fields/Dragged.tsx';
import { hasRelief } from '../surfaceLayers.ts';
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
  return (
    <ChromeMenu label="Light and marking" icon={<LookIcon sx={{ fontSize: 17 }} />} width={312}>
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
        <>
          <Degrees label="Lamp: left to right" value={look.lampSide} onChange={(lampSide) => set({ lampSide })} />
          <Degrees label="Lamp: below to above" value={look.lampHeight} onChange={(lampHeight) => set({ lampHeight })} />
        </>
      )}
      <SwitchRow label="Selection filled" checked={filled} change={(on) => set({ marking: on ? 'fill' : 'outline' })} hint="W" />
      <SwitchRow label="Far side in a corner" checked={look.farSide} change={(farSide) => set({ farSide })} hint="B" />
      {many && <SwitchRow label="Other parts, faintly" checked={look.context} change={(context) => set({ context })} />}
      <SwitchRow label="Lines along u (solid), v (dashed)" checked={look.uvLines} change={(uvLines) => set({ uvLines })} />
      <SwitchRow label="UV values beside points" checked={look.values} change={(values) => set({ values })} />
      <FormChoice />
    </ChromeMenu>
  );
}

function SwitchRow({ label, checked, change, hint }: { label: string; checked: boolean; change(on: boolean): void; hint?: string }) {
  return (
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
}

const forms: { value: Look['form']; label: string; help: string }[] = [
  { value: 'cage', label: 'Cage', help: 'The mesh as it is' },
  { value: 'smoothed', label: 'Smoothed', help: 'Faces divided and rounded (Catmull–Clark), the layout with them' },
  { value: 'rounded', label: 'Rounded', help: 'Edges shaded as though they were rounded; nothing moves' },
  { value: 'raised', label: 'Raised', help: 'Faces divided, and moved by the relief of the layers: real height, its outline too' },
];

/** The form that the model is looked at in; what is worked on and delivered stays the cage. */
function FormChoice() {
  const look = useBench((s) => s.look);
  const set = useBench((s) => s.setLook);
  const shown = useBench((s) => s.formShown);
  const raises = useBench(hasRelief);
  const stretch = (x: number | null) => (x === null ? '–' : x.toFixed(3));
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', gap: 0.5 }}>
      <Typography variant="caption" color="text.secondary">
        Form
      </Typography>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={look.form}
        aria-label="Form"
        onChange={(_, form: Look['form'] | null) => form && set({ form })}
      >
        {forms.map(({ value, label, help }) => (
          <ToggleButton key={value} value={value} disabled={value === 'raised' && !raises && look.form !== 'raised'}>
            <Tooltip title={value === 'raised' && !raises ? 'No layer of this part goes to relief: add one at Images' : help} placement="top">
              <span>{label}</span>
            </Tooltip>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {look.form === 'smoothed' && (
        <>
          <Dragged
            label="Times divided"
            value={look.smoothing}
            min={1}
            max={3}
            step={1}
            words={(x) => `${x}`}
            onDrag={() => {}}
            onChange={(smoothing) => set({ smoothing })}
          />
          <SwitchRow label="Island borders stay" checked={look.smoothBorders === 'kept'} change={(on) => set({ smoothBorders: on ? 'kept' : 'smoothed' })} />
          {shown?.energy && (
            <Typography variant="caption" role="status">
              {shown.faces.toLocaleString('en')} faces{shown.levels < look.smoothing ? ` (more would be too many)` : ''}
              {shown.energy.form !== null && `; stretch ${stretch(shown.energy.form)}, cage ${stretch(shown.energy.cage)}`}
            </Typography>
          )}
        </>
      )}
      {look.form === 'raised' && (
        <>
          <Dragged
            label="Times divided"
            value={look.raising}
            min={1}
            max={6}
            step={1}
            words={(x) => `${x}`}
            onDrag={() => {}}
            onChange={(raising) => set({ raising })}
          />
          {shown && (
            <Typography variant="caption" role="status">
              {shown.faces.toLocaleString('en')} faces{shown.levels < look.raising ? ` (more would be too many)` : ''}
            </Typography>
          )}
        </>
      )}
      {look.form === 'rounded' && (
        <Dragged
          label="Radius, of the size"
          value={look.rounding}
          min={0.1}
          max={5}
          step={0.1}
          words={(x) => `${x} %`}
          onDrag={(rounding) => set({ rounding })}
          onChange={(rounding) => set({ rounding })}
        />
      )}
    </Box>
  );
}

function Degrees({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  return <Dragged label={label} value={value} min={-85} max={85} step={1} words={(x) => `${x}°`} onDrag={onChange} onChange={onChange} />;
}

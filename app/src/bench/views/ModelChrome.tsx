import { Box, Button, CircularProgress, IconButton, Paper, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import AddIcon from '@mui/icons-material/Add';
import RemoveIcon from '@mui/icons-material/Remove';
import CenterFocusIcon from '@mui/icons-material/CenterFocusStrong';
import FullscreenIcon from '@mui/icons-material/Fullscreen';
import FullscreenExitIcon from '@mui/icons-material/FullscreenExit';
import { energyOf } from '@jig-peel/core';
import { densityScale, grainScale, oneWayScale, stretchScale } from '../../theme/palette.ts';
import { stretchMaps, useBench, type Overlay, type StretchMap } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { overlaysNow, runCommand } from '../commands/index.ts';
import { LookMenu } from './LookMenu.tsx';
import { SelectionBar } from './SelectionBar.tsx';
import type { StandardView } from './cameras.ts';
import type { Stage } from './stage.ts';

const overlays: { value: Overlay; label: string; help: string }[] = [
  { value: 'grid', label: 'Grid', help: 'The test grid (G)' },
  { value: 'picture', label: 'Picture', help: 'The image on this part' },
  { value: 'islands', label: 'Pieces', help: 'A tint for each piece' },
  { value: 'stretch', label: 'Stretch', help: 'How the picture is distorted: its size, its shape, or both' },
  { value: 'grain', label: 'Grain', help: 'How far pictures run off the grain that was drawn' },
  { value: 'density', label: 'Density', help: 'Px per unit of the model: dark is coarse, light is fine' },
  { value: 'plain', label: 'Bare', help: 'The form alone' },
];

const net: (StandardView | null)[][] = [
  [null, 'top', null, null],
  ['left', 'front', 'right', 'back'],
  [null, 'below', null, null],
];

/** What lies over the model view: overlay picker, standard views, legend, selection bar. */
export function ModelChrome({ stage }: { stage: Stage }) {
  const overlay = useBench((s) => s.overlay);
  const filled = useBench((s) => s.filled);
  const set = useBench((s) => s.set);
  const shown = overlaysNow(useBench((s) => s.summary));
  return (
    <>
      <Box
        data-chrome
        sx={{
          position: 'absolute',
          top: 8,
          left: 8,
          maxWidth: 'calc(100% - 124px)',
          display: 'flex',
          flexDirection: 'column',
          alignItems: 'flex-start',
          gap: 0.5,
        }}
      >
        <Paper elevation={1}>
          <ToggleButtonGroup
            exclusive
            size="small"
            value={overlay}
            aria-label="What the model shows"
            sx={{ flexWrap: 'wrap', '& .MuiToggleButton-root': { px: 1.1 } }}
            onChange={(_, value: Overlay | null) => value && set({ overlay: value })}
          >
            {overlays
              .filter(({ value }) => shown.includes(value))
              .map(({ value, label, help }) => (
                <ToggleButton key={value} value={value} aria-label={`Overlay: ${label}`}>
                  <Tooltip title={help}>
                    <span>{label}</span>
                  </Tooltip>
                </ToggleButton>
              ))}
          </ToggleButtonGroup>
        </Paper>
        {overlay === 'grid' && <GridRepeats />}
      </Box>
      <Box data-chrome sx={{ position: 'absolute', top: 8, right: 8, display: 'flex', flexDirection: 'column', gap: 0.5, alignItems: 'flex-end' }}>
        <ViewNet stage={stage} />
        <Box sx={{ display: 'flex', gap: 0.5 }}>
          <LookMenu />
          <ChromeButton label="Bring into view (F)" onClick={() => runCommand('frame')}>
            <CenterFocusIcon sx={{ fontSize: 17 }} />
          </ChromeButton>
          <ChromeButton label={filled === 'model' ? 'Both views' : 'Model view alone'} onClick={() => set({ filled: filled === 'model' ? 'none' : 'model' })}>
            {filled === 'model' ? <FullscreenExitIcon sx={{ fontSize: 17 }} /> : <FullscreenIcon sx={{ fontSize: 17 }} />}
          </ChromeButton>
        </Box>
        <FormChip />
      </Box>
      {overlay === 'stretch' && <StretchLegend />}
      {overlay === 'density' && <DensityLegend />}
      {overlay === 'grain' && <GrainLegend />}
      <SelectionBar />
    </>
  );
}

/** Says that the cage is not what is seen, and goes back to it. */
function FormChip() {
  const look = useBench((s) => s.look);
  const isForming = useBench((s) => s.isForming);
  if (look.form === 'cage') return null;
  const times = ['', 'once', 'twice', 'three times'][look.smoothing];
  const now = look.form === 'smoothed' ? `Smoothed ${times}` : look.form === 'raised' ? 'Relief raised' : 'Rounded edges';
  const soon = look.form === 'smoothed' ? 'Smoothing …' : look.form === 'raised' ? 'Raising the relief …' : 'Rounding edges …';
  return (
    <Paper elevation={1} sx={{ display: 'flex', alignItems: 'center', pl: 1, gap: 0.75 }}>
      {isForming && <CircularProgress size={12} aria-hidden />}
      <Typography variant="caption" role="status">
        {isForming ? soon : now}
      </Typography>
      <Button size="small" onClick={() => useBench.getState().setLook({ form: 'cage' })}>
        To the cage
      </Button>
    </Paper>
  );
}

/** How often the test grid runs across the sheet, at hand where it is seen. */
function GridRepeats() {
  const repeats = useBench((s) => s.summary?.settings.gridRepeat ?? 2);
  const change = (gridRepeat: number) => void run('settings', { gridRepeat });
  return (
    <Paper elevation={1} role="group" aria-label="Repeats of the test grid" sx={{ display: 'flex', alignItems: 'center', px: 0.5 }}>
      <IconButton aria-label="Fewer repeats" disabled={repeats <= 0.25} onClick={() => change(repeats / 2)} sx={{ p: 0.4 }}>
        <RemoveIcon sx={{ fontSize: 15 }} />
      </IconButton>
      <Typography variant="caption" sx={{ minWidth: 52, textAlign: 'center' }}>
        grid × {repeats}
      </Typography>
      <IconButton aria-label="More repeats" disabled={repeats >= 64} onClick={() => change(repeats * 2)} sx={{ p: 0.4 }}>
        <AddIcon sx={{ fontSize: 15 }} />
      </IconButton>
    </Paper>
  );
}

export function ChromeButton({ label, onClick, children }: { label: string; onClick: () => void; children: React.ReactNode }) {
  return (
    <Tooltip title={label}>
      <Paper elevation={1} sx={{ borderRadius: 1 }}>
        <IconButton aria-label={label} onClick={onClick} sx={{ borderRadius: 1, p: 0.6 }}>
          {children}
        </IconButton>
      </Paper>
    </Tooltip>
  );
}

/** A small unfolded box: each side a button to look at the model from there. */
function ViewNet({ stage }: { stage: Stage }) {
  return (
    <Paper
      elevation={1}
      role="group"
      aria-label="Standard views"
      sx={{ p: 0.5, display: 'grid', gridTemplateColumns: 'repeat(4, 20px)', gridTemplateRows: 'repeat(3, 20px)', gap: '2px' }}
    >
      {net.flatMap((row, r) =>
        row.map((view, c) =>
          view ? (
            <Tooltip key={view} title={`Look from: ${view}`}>
              <Box
                component="button"
                aria-label={`Look from: ${view}`}
                onClick={() => {
                  stage.eye.look(view);
                  stage.invalidate('model');
                  document.getElementById('views')?.focus({ preventScroll: true });
                }}
                sx={{
                  border: 1,
                  borderColor: 'text.secondary',
                  borderRadius: '2px',
                  bgcolor: 'background.default',
                  color: 'text.primary',
                  fontSize: 10,
                  fontWeight: 700,
                  fontFamily: 'inherit',
                  p: 0,
                  cursor: 'pointer',
                  textTransform: 'capitalize',
                  '&:hover': { bgcolor: 'primary.main', color: 'primary.contrastText' },
                }}
              >
                {view === 'below' ? '⌄' : view === 'top' ? '⌃' : view[0]}
              </Box>
            </Tooltip>
          ) : (
            <span key={`${r}${c}`} />
          ),
        ),
      )}
    </Paper>
  );
}

const stretchWords: Record<StretchMap, { label: string; help: string; names: [string, string, string]; values: [string, string, string] }> = {
  size: {
    label: 'Size',
    help: 'Orange: the picture is larger than in the mean of its island; purple: smaller',
    names: ['smaller', 'even', 'larger'],
    values: ['× ½', '1', '× 2'],
  },
  shape: {
    label: 'Shape',
    help: 'How many times longer the picture is one way than across it; strokes on the sheet run the long way',
    names: ['even', '', 'drawn out'],
    values: ['1', '1.4 : 1', '2 : 1'],
  },
  energy: { label: 'Energy', help: 'Symmetric Dirichlet energy, which counts both; 4 is none', names: ['none', '', 'much'], values: ['4', '5.7', '8'] },
};

function StretchLegend() {
  const hover = useBench((s) => s.hover);
  const layout = useBench((s) => s.layout);
  const map = useBench((s) => s.stretchMap);
  const set = useBench((s) => s.set);
  const counted = useBench((s) => s.summary?.settings.countImage ?? false);
  const face = hover && layout && hover.face >= 0 && hover.face < layout.faceSize.length ? hover.face : -1;
  const [size, shape] = face >= 0 ? [layout!.faceSize[face]!, layout!.faceShape[face]!] : [NaN, NaN];
  const words = Number.isNaN(size)
    ? 'point at a face for its value'
    : map === 'size'
      ? `here ${size >= 0 ? 'larger' : 'smaller'} × ${(2 ** Math.abs(size)).toFixed(2)}`
      : map === 'shape'
        ? `here ${(2 ** shape).toFixed(2)} : 1`
        : `here ${energyOf(size, shape).toFixed(2)}`;
  const own = stretchWords[map];
  return (
    <Legend
      names={own.names}
      scale={map === 'size' ? stretchScale : oneWayScale}
      values={own.values}
      words={words}
      note={counted ? 'the image as it lands' : ''}
    >
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={map}
        aria-label="Map of stretch"
        sx={{ mb: 0.5, '& .MuiToggleButton-root': { py: 0.1, px: 0.5 } }}
        onChange={(_, value: StretchMap | null) => value && set({ stretchMap: value })}
      >
        {stretchMaps.map((one) => (
          <ToggleButton key={one} value={one}>
            <Tooltip title={stretchWords[one].help}>
              <span>{stretchWords[one].label}</span>
            </Tooltip>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    </Legend>
  );
}

function DensityLegend() {
  const hover = useBench((s) => s.hover);
  const density = useBench((s) => s.density);
  const unit = useBench((s) => s.summary?.settings.unit ?? 'unit');
  const value = hover && density && hover.face >= 0 ? density.faces[hover.face] : undefined;
  const px = (x: number) => (Number.isFinite(x) ? String(Number(x.toPrecision(3))) : '–');
  const middle = density?.middle ?? NaN;
  return (
    <Legend
      names={['coarse', '', 'fine']}
      scale={densityScale}
      values={[px(middle / 2), px(middle), px(middle * 2)]}
      words={value === undefined || Number.isNaN(value) ? `px per ${unit}; point at a face for its own` : `here ${px(value)} px per ${unit}`}
      note={density?.of === 'image' ? 'px of the image as it lands' : ''}
    />
  );
}

function GrainLegend() {
  const hover = useBench((s) => s.hover);
  const grain = useBench((s) => s.grain);
  const value = hover && grain && hover.face >= 0 ? grain.angles[hover.face] : undefined;
  const words = !grain
    ? 'no grain is drawn yet'
    : value === undefined || Number.isNaN(value)
      ? 'point at a face for its angle'
      : `here ${value.toFixed(1)}° off`;
  return <Legend names={['along', '', 'across']} scale={grainScale} values={['0°', '45°', '90°']} words={words} note="" />;
}

interface LegendProps {
  names: [string, string, string];
  scale: readonly string[];
  values: [string, string, string];
  words: string;
  note: string;
  children?: React.ReactNode;
}
function Legend({ names, scale, values, words, note, children }: LegendProps) {
  return (
    <Paper data-chrome elevation={1} sx={{ position: 'absolute', left: 8, bottom: 92, px: 1, py: 0.75, width: 216 }}>
      {children}
      <Typography variant="caption" sx={{ display: 'flex', justifyContent: 'space-between' }}>
        {names.map((name, k) => (
          <span key={k}>{name}</span>
        ))}
      </Typography>
      <Box sx={{ height: 10, borderRadius: 0.5, background: `linear-gradient(to right, ${scale.join(', ')})`, border: 1, borderColor: 'divider' }} />
      <Typography variant="caption" sx={{ display: 'flex', justifyContent: 'space-between', color: 'text.secondary' }}>
        {values.map((value, k) => (
          <span key={k}>{value}</span>
        ))}
      </Typography>
      <Typography variant="caption" sx={{ display: 'block' }}>
        {words}
      </Typography>
      {note && (
        <Typography variant="caption" color="text.secondary">
          {note}
        </Typography>
      )}
    </Paper>
  );
}

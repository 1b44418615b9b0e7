import { Box, Button, FormControlLabel, MenuItem, Switch, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import { useShallow } from 'zustand/react/shallow';
import { useState } from 'react';
import { NumberField } from '../../fields/NumberField.tsx';
import { Toggle } from '../../fields/Toggle.tsx';
import { useKeyOf, useWithKey } from '../../keys/keyTable.ts';
import { useBench, type ToolName } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { aroundNow } from '../commands/arranging.ts';
import { commandOf, runCommand } from '../commands/index.ts';
import { pivotPlace, useHands, type Snaps } from '../hands/handsState.ts';
import { selectedCount } from '@jig-peel/core';
import { takeModel, useLiking } from '../hands/liking.ts';
import { useJob } from '../../store/useJob.ts';
import { Card } from './Card.tsx';
import { FieldsCard } from './FieldsCard.tsx';
import { OutlineCard } from './OutlineCard.tsx';
import { LikePartsCard, StacksCard } from './StacksCard.tsx';
import { StraightenCard } from './StraightenCard.tsx';

const tools: { name: ToolName & ('move' | 'turn' | 'size'); label: string }[] = [
  { name: 'move', label: 'Move' },
  { name: 'turn', label: 'Turn' },
  { name: 'size', label: 'Size' },
];

/** Arranging on the sheet: tools, numbers, turns and mirrors, aligning, what hands catch at. */
export function ShapePanel() {
  return (
    <>
      <ToolsCard />
      <LinesCard />
      <StraightenCard />
      <NumbersCard />
      <TurnsCard />
      <AlignCard />
      <MatchCard />
      <StacksCard />
      <LikePartsCard />
      <OutlineCard />
      <FieldsCard />
      <SnapsCard />
      <SoftCard />
      <GrainCard />
      <PushCard />
    </>
  );
}

function ToolsCard() {
  const tool = useBench((s) => s.tool);
  const set = useBench((s) => s.set);
  const pivot = useHands((s) => s.pivot);
  const setHands = useHands((s) => s.set);
  const grip = useHands((s) => s.grip);
  const kind = useBench((s) => s.kind);
  const keys = [useKeyOf('tool-move'), useKeyOf('tool-turn'), useKeyOf('tool-size')];
  const points = grip?.views.reduce((sum, { uvPoints }) => sum + uvPoints, 0) ?? 0;
  return (
    <Card>
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        aria-label="Tool on the sheet"
        value={tool}
        onChange={(_, value: ToolName | null) => set({ tool: value ?? 'select' })}
      >
        {tools.map(({ name, label }, k) => (
          <ToggleButton key={name} value={name}>
            <Tooltip title={`${label} what is selected on the sheet${keys[k] ? ` (${keys[k]})` : ''}`}>
              <span>{label}</span>
            </Tooltip>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Typography variant="caption" color="text.secondary">
        {grip
          ? `${points.toLocaleString('en')} UV ${points === 1 ? 'point' : 'points'} in hand. Drag inside the frame to move, a corner or side to size, a bow to turn.`
          : `Click ${kind === 'parts' ? 'islands' : kind} on the sheet, then drag. Shift adds.`}
      </Typography>
      <TextField
        select
        fullWidth
        label="Turn and size round"
        value={typeof pivot === 'string' ? pivot : 'place'}
        onChange={(event) => event.target.value !== 'place' && setHands({ pivot: event.target.value as 'middle' | 'each' })}
        helperText={typeof pivot === 'string' ? 'Drag the pivot on the sheet to put it elsewhere' : undefined}
      >
        <MenuItem value="middle">the middle of all</MenuItem>
        <MenuItem value="each">each island’s own middle</MenuItem>
        {typeof pivot !== 'string' && <MenuItem value="place">the place of the pivot</MenuItem>}
      </TextField>
    </Card>
  );
}

const four = (x: number) => Number(x.toFixed(3));
const six = (x: number) => Number(x.toPrecision(6));

function NumbersCard() {
  const grip = useHands((s) => s.grip);
  const pivot = useHands((s) => s.pivot);
  const settings = useBench((s) => s.summary!.settings);
  const density = useBench((s) => {
    const { parts, sheets, activePart } = s.summary!;
    const sheet = parts.find(({ id }) => id === activePart)?.sheet;
    return sheets.find(({ id }) => id === sheet)?.density ?? null;
  });
  const [by, setBy] = useState<'px' | 'model'>('px');
  const modelUnit = settings.unit === 'unit' ? 'u' : settings.unit;
  const [turn, setTurn] = useState(0);
  const [factor, setFactor] = useState(1);
  if (!grip) return null;
  // px of the unit that is shown: of the model's, as many as the density says that is stated for the sheet
  const inModel = by === 'model' && density !== null;
  const px = inModel ? density : 1;
  const unit = inModel ? modelUnit : 'px';
  const shown = inModel ? six : four;
  const [width, height] = [settings.width / px, settings.height / px];
  const [left, bottom, right, top] = grip.box;
  const [u, v] = pivotPlace({ grip, pivot }) ?? [0, 0];
  const wide = (right - left) * width;
  const high = (top - bottom) * height;
  // a point by itself has a place, and nothing to size or turn
  const isPoint = wide === 0 && high === 0;
  const move = (du: number, dv: number) => void run('transform', { move: [du, dv], ...soft() });
  const size = (su: number, sv: number) => void run('transform', { scale: [su, sv], ...aroundNow() });
  const soft = () => {
    const { radius, way } = aroundNow();
    return radius ? { radius, way } : {};
  };
  return (
    <Card title="By numbers">
      <Tooltip title={density === null ? 'State a texel density for the sheet at Pack first: it says how many px a unit of the model has' : ''}>
        <ToggleButtonGroup
          exclusive
          fullWidth
          size="small"
          aria-label="Lengths in"
          value={inModel ? 'model' : 'px'}
          onChange={(_, value: typeof by | null) => value && setBy(value)}
        >
          <ToggleButton value="px">px</ToggleButton>
          <ToggleButton value="model" disabled={density === null}>
            {density === null ? modelUnit : `${modelUnit}, at ${six(density)} px/${modelUnit}`}
          </ToggleButton>
        </ToggleButtonGroup>
      </Tooltip>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
        <NumberField
          bare
          label={isPoint ? 'At x' : 'Pivot at x'}
          unit={unit}
          value={shown(u * width)}
          min={-1e6}
          max={1e6}
          onChange={(x) => move(x / width - u, 0)}
        />
        <NumberField
          bare
          label={isPoint ? 'At y' : 'Pivot at y'}
          unit={unit}
          value={shown(v * height)}
          min={-1e6}
          max={1e6}
          onChange={(y) => move(0, y / height - v)}
        />
        {wide > 0 && <NumberField bare label="Width" unit={unit} value={shown(wide)} min={1e-6} max={1e6} onChange={(x) => size(x / wide, 1)} />}
        {high > 0 && <NumberField bare label="Height" unit={unit} value={shown(high)} min={1e-6} max={1e6} onChange={(x) => size(1, x / high)} />}
        {!isPoint && (
          <>
            <NumberField bare label="Turn by" unit="°" value={turn} min={-3600} max={3600} step={15} onChange={setTurn} />
            <NumberField bare label="Size by" unit="×" value={factor} min={0.001} max={1000} step={0.1} onChange={setFactor} />
            <Button variant="outlined" disabled={turn === 0} onClick={() => void run('transform', { turn, ...aroundNow() })}>
              Turn
            </Button>
            <Button variant="outlined" disabled={factor === 1} onClick={() => size(factor, factor)}>
              Size
            </Button>
          </>
        )}
      </Box>
    </Card>
  );
}

function Run({ id, children }: { id: string; children: string }) {
  const blocked = useBench(() => commandOf(id).blocked?.() ?? null);
  const title = useWithKey(commandOf(id).label, id);
  return (
    <Tooltip title={blocked ? `${title}: ${blocked}` : title}>
      <span>
        <Button variant="outlined" fullWidth size="small" disabled={blocked !== null} onClick={() => runCommand(id)} sx={{ px: 0.5, minWidth: 0 }}>
          {children}
        </Button>
      </span>
    </Tooltip>
  );
}

const grid = (columns: number) => ({ display: 'grid', gridTemplateColumns: `repeat(${columns}, 1fr)`, gap: 0.75 });

function TurnsCard() {
  return (
    <Card title="Turn and mirror" folds="open">
      <Box sx={grid(3)}>
        <Run id="quarter-left">¼ left</Run>
        <Run id="quarter-right">¼ right</Run>
        <Run id="half-turn">½ turn</Run>
      </Box>
      <Box sx={grid(2)}>
        <Run id="mirror-u">Mirror across u</Run>
        <Run id="mirror-v">Mirror across v</Run>
      </Box>
      <Box sx={grid(3)}>
        <Run id="turn-up">Up is up</Run>
        <Run id="turn-leastBox">Least box</Run>
        <Run id="turn-longestEdge">Long edge</Run>
      </Box>
      <Box sx={grid(2)}>
        <Run id="lock">Lock</Run>
        <Run id="unlock">Unlock</Run>
      </Box>
    </Card>
  );
}

function AlignCard() {
  const { alignTo, first, set } = useHands(useShallow((s) => ({ alignTo: s.alignTo, first: s.first, set: s.set })));
  return (
    <Card title="Align and distribute islands" folds="closed">
      <TextField
        select
        fullWidth
        label="Align with"
        value={alignTo}
        onChange={(event) => set({ alignTo: event.target.value as typeof alignTo })}
        helperText={alignTo === 'first' && !first ? 'Select one island, then others with Shift: until then, the box round all' : undefined}
      >
        <MenuItem value="islands">the box round all of them</MenuItem>
        <MenuItem value="first">the one selected first</MenuItem>
        <MenuItem value="sheet">the sheet</MenuItem>
      </TextField>
      <Box sx={grid(3)}>
        <Run id="align-left">Left</Run>
        <Run id="align-middleU">Middles</Run>
        <Run id="align-right">Right</Run>
        <Run id="align-top">Top</Run>
        <Run id="align-middleV">Middles</Run>
        <Run id="align-bottom">Bottom</Run>
      </Box>
      <Box sx={grid(2)}>
        <Run id="distribute-gapsU">Gaps along u</Run>
        <Run id="distribute-gapsV">Gaps along v</Run>
        <Run id="distribute-middlesU">Middles along u</Run>
        <Run id="distribute-middlesV">Middles along v</Run>
      </Box>
    </Card>
  );
}

/** The size, density or heading of one island for others. */
function MatchCard() {
  const model = useLiking((s) => s.model);
  const { selection } = useJob('selection');
  const kind = useBench((s) => s.kind);
  const count = kind === 'parts' ? 0 : selectedCount(selection);
  const isOne = count === 1 && selection.kind === 'islands';
  const give = (what: 'size' | 'density' | 'heading') => void run('matchIslands', { what, to: { part: model!.part, island: model!.island } }, true);
  return (
    <Card title="Make alike" folds="closed">
      <Tooltip title={isOne ? 'Others become like it' : 'Select one island first'}>
        <span>
          <Button variant="outlined" size="small" fullWidth disabled={!isOne} onClick={takeModel}>
            Take the selected island as the model
          </Button>
        </span>
      </Tooltip>
      <Typography variant="caption" color="text.secondary">
        {model ? `The model is ${model.letter}. Select others, then give them its` : 'Select one island and take it; then others become like it.'}
      </Typography>
      {model && (
        <Box sx={grid(3)}>
          {(['size', 'density', 'heading'] as const).map((what) => (
            <Button key={what} variant="outlined" size="small" disabled={count === 0} onClick={() => give(what)} sx={{ minWidth: 0 }}>
              {what[0]!.toUpperCase() + what.slice(1)}
            </Button>
          ))}
        </Box>
      )}
    </Card>
  );
}

/** Chosen edges on the sheet. */
function LinesCard() {
  const isOn = useBench((s) => s.kind === 'edges' && s.summary?.selection.kind === 'edges' && selectedCount(s.summary.selection) > 0);
  const [relax, setRelax] = useState(true);
  const tail = relax ? '-relaxed' : '';
  if (!isOn) return null;
  return (
    <Card title="Selected edges">
      <Box sx={grid(2)}>
        <Run id={`line-level${tail}`}>Make level</Run>
        <Run id={`line-upright${tail}`}>Make upright</Run>
        <Run id={`line-straight${tail}`}>Make straight</Run>
        <Run id={`line-evenly${tail}`}>Space evenly</Run>
      </Box>
      <Toggle label="Lay the rest of the island again" checked={relax} onChange={setRelax} />
    </Card>
  );
}

const snapWords: { name: Exclude<keyof Snaps, 'grid'>; label: string; help: string }[] = [
  { name: 'islands', label: 'Other islands', help: 'Borders and middles of islands that stay' },
  { name: 'sheet', label: 'Sheet and tiles', help: 'Borders and middle of the sheet and its tiles' },
  { name: 'gap', label: 'Margin', help: 'The margin to other islands and to the border' },
  { name: 'points', label: 'Points', help: 'UV points of what stays' },
  { name: 'outline', label: 'Picture’s outline', help: 'The point in hand catches at the border of what is opaque in the picture' },
  { name: 'px', label: 'Whole px', help: 'The lower left corner of what is moved on whole px' },
];

function SnapsCard() {
  const snaps = useHands((s) => s.snaps);
  const setSnaps = useHands((s) => s.setSnaps);
  return (
    <Card title="Catch at" folds="closed">
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr' }}>
        {snapWords.map(({ name, label, help }) => (
          <Tooltip key={name} title={help}>
            <FormControlLabel
              sx={{ mr: 0 }}
              control={<Switch size="small" checked={snaps[name]} onChange={(event) => setSnaps({ [name]: event.target.checked })} />}
              label={label}
              slotProps={{ typography: { variant: 'body2' } }}
            />
          </Tooltip>
        ))}
      </Box>
      <TextField select fullWidth label="Grid" value={snaps.grid} onChange={(event) => setSnaps({ grid: Number(event.target.value) })}>
        {[0, 2, 4, 8, 16, 32, 64].map((parts) => (
          <MenuItem key={parts} value={parts}>
            {parts === 0 ? 'no grid' : `1/${parts} of the sheet`}
          </MenuItem>
        ))}
      </TextField>
      <Typography variant="caption" color="text.secondary">
        Ctrl held while dragging: nothing catches. Shift: along u or v alone, turns by 15°.
      </Typography>
    </Card>
  );
}

function SoftCard() {
  const soft = useHands((s) => s.soft);
  const setSoft = useHands((s) => s.setSoft);
  return (
    <Card title="Points beside" folds="closed">
      <Toggle label="Go along in part" checked={soft.on} onChange={(on) => setSoft({ on })} />
      {soft.on && (
        <>
          <NumberField label="As far as" unit="px" value={soft.px} min={1} max={100000} step={16} onChange={(px) => setSoft({ px })} />
          <TextField select fullWidth label="Near" value={soft.way} onChange={(event) => setSoft({ way: event.target.value as 'sheet' | 'island' })}>
            <MenuItem value="island">over the island’s own faces</MenuItem>
            <MenuItem value="sheet">on the sheet, whichever island</MenuItem>
          </TextField>
          <Typography variant="caption" color="text.secondary">
            For faces, edges and points; islands move whole.
          </Typography>
        </>
      )}
    </Card>
  );
}

/** Which way pictures with a grain are to run. */
function GrainCard() {
  const tool = useBench((s) => s.tool);
  const set = useBench((s) => s.set);
  const { settings } = useJob('settings');
  const has = useBench((s) => (s.summary!.parts.find(({ id }) => id === s.summary!.activePart)?.grain ?? 0) > 0);
  const figures = useBench((s) => s.measures?.grain ?? null);
  return (
    <Card title="Grain" folds="closed">
      <Button variant={tool === 'grain' ? 'contained' : 'outlined'} size="small" onClick={() => set({ tool: tool === 'grain' ? 'select' : 'grain' })}>
        {useWithKey('Draw it on the model', 'tool-grain')}
      </Button>
      <Typography variant="caption" color="text.secondary">
        {figures
          ? `Off by ${figures.mean.toFixed(1)}° in the mean, ${figures.worst.toFixed(1)}° at most.`
          : 'Drag an arrow along the surface: over the selected faces, or the island it begins on.'}
      </Typography>
      <TextField
        select
        label="Pictures run along"
        value={settings.grainAlong}
        onChange={(event) => void run('settings', { grainAlong: event.target.value as 'u' | 'v' })}
      >
        <MenuItem value="u">u, to the right</MenuItem>
        <MenuItem value="v">v, upwards</MenuItem>
      </TextField>
      <FormControlLabel
        control={<Switch size="small" checked={settings.holdGrain} onChange={(event) => void run('settings', { holdGrain: event.target.checked })} />}
        label="Unwrapping bends pieces to it"
        slotProps={{ typography: { variant: 'body2' } }}
      />
      <Box sx={grid(2)}>
        <Run id="turn-grain">Turn islands to it</Run>
        <Run id="grain-clear">Forget it</Run>
      </Box>
      {has && (
        <Button size="small" onClick={() => set({ overlay: 'grain' })}>
          Show how far off it is
        </Button>
      )}
    </Card>
  );
}

/** The brush that pushes points. */
function PushCard() {
  const tool = useBench((s) => s.tool);
  const set = useBench((s) => s.set);
  const brush = useBench((s) => s.brush);
  return (
    <Card title="Push with a brush" folds="closed">
      <Button variant={tool === 'push' ? 'contained' : 'outlined'} size="small" onClick={() => set({ tool: tool === 'push' ? 'select' : 'push' })}>
        {useWithKey('Push points on the sheet', 'tool-push')}
      </Button>
      <NumberField label="Brush" unit="px" value={brush} min={4} max={400} step={4} onChange={(px) => set({ brush: px })} />
      <Typography variant="caption" color="text.secondary">
        Points under the brush go along, the rest of the island gives way. Pins stay; no triangle is turned over.
      </Typography>
    </Card>
  );
}

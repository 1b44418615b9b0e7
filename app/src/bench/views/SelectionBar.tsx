import { Box, Divider, IconButton, ListItemText, Menu, MenuItem, Paper, TextField, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import BoxIcon from '@mui/icons-material/HighlightAlt';
import BrushIcon from '@mui/icons-material/Brush';
import LassoIcon from '@mui/icons-material/Gesture';
import MoreIcon from '@mui/icons-material/ExpandLess';
import SightIcon from '@mui/icons-material/VisibilityOutlined';
import ThroughIcon from '@mui/icons-material/LayersOutlined';
import { useState } from 'react';
import { NumberField } from '../../fields/NumberField.tsx';
import { useBench, type BenchState } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { keysOf, useKeys } from '../../keys/keyTable.ts';
import { isHandTool } from '../hands/gripMirror.ts';
import { selectedCount } from '../commands/command.ts';
import { commandOf, runCommand } from '../commands/index.ts';

const kinds = ['parts', 'islands', 'faces', 'edges', 'points'] as const;
const shapes: { value: BenchState['shape']; label: string; icon: React.ReactNode }[] = [
  { value: 'box', label: 'Drag draws a box', icon: <BoxIcon sx={{ fontSize: 17 }} /> },
  { value: 'lasso', label: 'Drag draws a lasso', icon: <LassoIcon sx={{ fontSize: 17 }} /> },
  { value: 'brush', label: 'Drag paints ([ and ] change the size)', icon: <BrushIcon sx={{ fontSize: 17 }} /> },
];

/** Kind of what a click takes, how a drag selects, how much is selected, and all ways to select by a rule. */
export function SelectionBar() {
  const kind = useBench((s) => s.kind);
  const tool = useBench((s) => s.tool);
  const shape = useBench((s) => s.shape);
  const through = useBench((s) => s.through);
  const set = useBench((s) => s.set);
  const selection = useBench((s) => s.summary?.selection);
  const parts = useBench((s) => s.summary?.selectedParts.length ?? 0);
  const count = kind === 'parts' ? parts : selection ? selectedCount(selection) : 0;
  const uvPoints = useBench((s) => (kind === 'points' && s.summary?.selection.kind === 'points' ? (s.figures?.uvPoints ?? null) : null));
  const noun = kind === 'parts' ? 'parts' : (selection?.kind ?? kind);
  return (
    <Paper
      data-chrome
      elevation={2}
      role="group"
      aria-label="Selection bar"
      sx={{
        position: 'absolute',
        bottom: 8,
        left: '50%',
        transform: 'translateX(-50%)',
        display: 'flex',
        flexDirection: 'column',
        gap: 0.5,
        px: 0.75,
        py: 0.5,
        whiteSpace: 'nowrap',
        width: 'max-content',
      }}
    >
      <ToggleButtonGroup
        exclusive
        fullWidth
        size="small"
        value={tool === 'select' || isHandTool(tool) ? kind : null}
        aria-label="What a click takes"
        onChange={(_, value: typeof kind | null) => value && set({ kind: value, tool: isHandTool(tool) ? tool : 'select' })}
      >
        {kinds.map((k, i) => (
          <ToggleButton key={k} value={k} aria-label={`Select ${k}`} sx={{ px: 0.9 }}>
            <Tooltip title={`Select ${k} (${i + 1})`}>
              <span>{k[0]!.toUpperCase() + k.slice(1)}</span>
            </Tooltip>
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <ToggleButtonGroup
          exclusive
          size="small"
          value={tool === 'select' ? shape : null}
          aria-label="How a drag selects"
          onChange={(_, value: typeof shape | null) => value && set({ shape: value, tool: 'select' })}
        >
          {shapes.map(({ value, label, icon }) => (
            <ToggleButton key={value} value={value} aria-label={label} sx={{ px: 0.7 }}>
              <Tooltip title={label}>
                <Box component="span" sx={{ display: 'grid' }}>
                  {icon}
                </Box>
              </Tooltip>
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        <Tooltip title={through ? 'A drag takes what lies behind, too' : 'A drag takes only what is in sight'}>
          <ToggleButton
            size="small"
            value="through"
            selected={through}
            aria-label={`${through ? 'Through' : 'In sight'}: what a drag takes`}
            onChange={() => set({ through: !through })}
            sx={{ px: 0.7, gap: 0.5 }}
          >
            {through ? <ThroughIcon sx={{ fontSize: 17 }} /> : <SightIcon sx={{ fontSize: 17 }} />}
            <span>{through ? 'Through' : 'In sight'}</span>
          </ToggleButton>
        </Tooltip>
        <Typography variant="figure" role="status" aria-label="Selection" sx={{ minWidth: 104, flex: 1, textAlign: 'center' }}>
          {count === 0
            ? 'none selected'
            : `${count.toLocaleString('en')} ${count === 1 ? noun.slice(0, -1) : noun}${uvPoints !== null && uvPoints > 0 && uvPoints !== count ? `, ${uvPoints.toLocaleString('en')} UV` : ''}`}
        </Typography>
        <WaysMenu />
      </Box>
    </Paper>
  );
}

/** Labels without the word that all of them begin with. */
const short = (label: string) => {
  const rest = label.replace(/^Select (the )?/, '');
  return rest[0]!.toUpperCase() + rest.slice(1);
};

const groups = [
  ['select-all', 'select-invert', 'select-grow', 'select-shrink', 'select-convert'],
  ['select-loop', 'select-ring', 'select-run', 'select-path', 'select-border', 'select-seams'],
  ['select-connected', 'select-flat', 'select-facing', 'select-mirror'],
  [
    'select-noUv',
    'select-flipped',
    'select-mirrored',
    'select-overlapping',
    'select-stretched',
    'select-outside',
    'select-tray',
    'select-close',
    'select-turned',
    'select-shrunk',
  ],
  ['hide', 'only', 'show', 'done', 'undone', 'left'],
];

/** The limits that the rules below go by, typed in. Not an item of the menu: keys stay in its fields. */
function LimitsRow() {
  const limits = useBench((s) => s.limits);
  const set = useBench((s) => s.setLimits);
  const margin = useBench((s) => s.summary?.settings.margin ?? 8);
  const unit = useBench((s) => s.summary?.settings.unit ?? 'unit');
  const size = useBench((s) => s.summary?.active.size);
  const thousandth = Number((Math.max(...(size ?? [1])) / 1000).toPrecision(2));
  return (
    <Box
      component="li"
      role="none"
      onKeyDown={(event) => event.key !== 'Escape' && event.key !== 'Tab' && event.stopPropagation()}
      sx={{ columnSpan: 'all', display: 'grid', gridTemplateColumns: 'repeat(3, 148px)', gap: 1, px: 2, py: 1 }}
    >
      <NumberField label="Run, flat, facing within" unit="°" value={limits.angle} min={0} max={180} step={5} onChange={(angle) => set({ angle })} />
      <NumberField label="Stretched over ×" value={limits.stretch} min={1} max={100} step={0.1} onChange={(stretch) => set({ stretch })} />
      <NumberField label="Turned by more than" unit="°" value={limits.turned} min={0} max={180} step={5} onChange={(turned) => set({ turned })} />
      <NumberField label="Closer than" unit="px" value={limits.gap ?? margin} min={0} max={512} onChange={(gap) => set({ gap })} />
      <TextField select label="Mirror across" value={limits.mirrorAxis} onChange={(event) => set({ mirrorAxis: event.target.value as 'x' | 'y' | 'z' })}>
        {(['x', 'y', 'z'] as const).map((axis) => (
          <MenuItem key={axis} value={axis}>
            the middle of {axis}
          </MenuItem>
        ))}
      </TextField>
      <NumberField
        label="Mirror tolerance"
        unit={unit === 'unit' ? '' : unit}
        value={limits.tolerance ?? thousandth}
        min={0}
        max={1e6}
        step={thousandth || 0.001}
        onChange={(tolerance) => set({ tolerance })}
      />
    </Box>
  );
}

/** Every way to select by a rule; what has no effect now says why. */
function WaysMenu() {
  const ownKeys = useKeys((s) => s.own);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const saved = useBench((s) => s.summary?.saved);
  const selection = useBench((s) => s.summary?.selection);
  const close = () => {
    setAnchor(null);
    document.getElementById('views')?.focus({ preventScroll: true });
  };
  const nextName = () => {
    for (let k = 1; ; k++) if (!saved?.includes(`Selection ${k}`)) return `Selection ${k}`;
  };
  return (
    <>
      <Tooltip title="More ways to select">
        <IconButton size="small" aria-label="More ways to select" aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
          <MoreIcon sx={{ fontSize: 18 }} />
        </IconButton>
      </Tooltip>
      <Menu
        transitionDuration={0}
        slotProps={{ list: { sx: { columns: 2, columnGap: 0, '& > *': { breakInside: 'avoid' } } } }}
        anchorEl={anchor}
        open={anchor !== null}
        onClose={close}
        anchorOrigin={{ vertical: 'top', horizontal: 'right' }}
        transformOrigin={{ vertical: 'bottom', horizontal: 'right' }}
      >
        <LimitsRow />
        <Divider />
        {groups.flatMap((ids, g) => [
          ...(g > 0 ? [<Divider key={`line-${g}`} />] : []),
          ...ids.map((id) => {
            const command = commandOf(id);
            const [key] = keysOf(id, ownKeys);
            const why = command.blocked?.() ?? null;
            return (
              <MenuItem
                key={id}
                dense
                disabled={why !== null}
                onClick={() => {
                  close();
                  runCommand(id);
                }}
              >
                <ListItemText primary={short(command.label)} secondary={why ?? undefined} />
                {key && (
                  <Typography variant="figure" color="text.secondary" sx={{ ml: 2 }}>
                    {key}
                  </Typography>
                )}
              </MenuItem>
            );
          }),
        ])}
        <Divider />
        <MenuItem
          dense
          disabled={!selection || selection.ids.length === 0}
          onClick={() => {
            close();
            void run('saveSelection', { name: nextName() }, true);
          }}
        >
          <ListItemText primary="Keep this selection" secondary={selection && selection.ids.length > 0 ? `as “${nextName()}”` : 'select something first'} />
        </MenuItem>
        {saved?.map((name) => (
          <MenuItem
            key={name}
            dense
            onClick={() => {
              close();
              void run('useSelection', { name });
            }}
          >
            <ListItemText primary={`Select “${name}”`} />
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

import { Box, Divider, IconButton, ListItemText, Menu, MenuItem, Paper, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import BoxIcon from '@mui/icons-material/HighlightAlt';
import BrushIcon from '@mui/icons-material/Brush';
import LassoIcon from '@mui/icons-material/Gesture';
import MoreIcon from '@mui/icons-material/ExpandLess';
import SightIcon from '@mui/icons-material/VisibilityOutlined';
import ThroughIcon from '@mui/icons-material/LayersOutlined';
import { useState } from 'react';
import { useBench, type BenchState } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import { commands, runCommand } from '../commands.ts';

const kinds = ['islands', 'faces', 'edges', 'points'] as const;
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
  const count = selection?.ids.length ?? 0;
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
        value={tool === 'select' ? kind : null}
        aria-label="What a click takes"
        onChange={(_, value: typeof kind | null) => value && set({ kind: value, tool: 'select' })}
      >
        {kinds.map((k, i) => (
          <ToggleButton key={k} value={k} aria-label={`Select ${k}`} sx={{ px: 0.9 }}>
            <Tooltip title={`Select ${k} (${i + 2})`}>
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
          {count === 0 ? 'none selected' : `${count.toLocaleString('en')} ${count === 1 ? selection!.kind.slice(0, -1) : selection!.kind}`}
        </Typography>
        <WaysMenu />
      </Box>
    </Paper>
  );
}

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
    'select-close',
    'select-turned',
    'select-shrunk',
  ],
  ['hide', 'only', 'show'],
];

/** Every way to select by a rule; what has no effect now says why. */
function WaysMenu() {
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
        {groups.flatMap((ids, g) => [
          ...(g > 0 ? [<Divider key={`line-${g}`} />] : []),
          ...ids.map((id) => {
            const command = commands.find((c) => c.id === id)!;
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
                <ListItemText primary={command.label} secondary={why ?? undefined} />
                {command.key && (
                  <Typography variant="figure" color="text.secondary" sx={{ ml: 2 }}>
                    {command.key}
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

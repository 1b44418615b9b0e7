import { Box, IconButton, Paper, ToggleButton, ToggleButtonGroup, Tooltip, Typography } from '@mui/material';
import BoxIcon from '@mui/icons-material/HighlightAlt';
import BrushIcon from '@mui/icons-material/Brush';
import LassoIcon from '@mui/icons-material/Gesture';
import MoreIcon from '@mui/icons-material/ExpandLess';
import SightIcon from '@mui/icons-material/VisibilityOutlined';
import ThroughIcon from '@mui/icons-material/LayersOutlined';
import { useState } from 'react';
import { later } from '../../later.tsx';
import { useBench, type BenchState } from '../../store/bench.ts';
import { isHandTool } from '../hands/gripMirror.ts';
import { selectedCount } from '@jig-peel/core';

const WaysMenu = later(() => import('./WaysMenu.tsx'));

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
        <MoreWays />
      </Box>
    </Paper>
  );
}

/** Opens the menu of all ways to select by a rule. */
function MoreWays() {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Tooltip title="More ways to select">
        <IconButton size="small" aria-label="More ways to select" aria-haspopup="menu" onClick={(event) => setAnchor(event.currentTarget)}>
          <MoreIcon sx={{ fontSize: 18 }} />
        </IconButton>
      </Tooltip>
      {anchor && <WaysMenu anchor={anchor} onClose={() => setAnchor(null)} />}
    </>
  );
}

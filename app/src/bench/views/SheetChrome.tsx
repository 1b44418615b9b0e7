import { later } from '../../later.tsx';
import { Box, Paper, ToggleButton, Tooltip, Typography } from '@mui/material';
import MoveIcon from '@mui/icons-material/OpenWith';
import SizeIcon from '@mui/icons-material/AspectRatio';
import TurnIcon from '@mui/icons-material/RotateLeft';
import FullscreenIcon from '@mui/icons-material/Fullscreen';
import FullscreenExitIcon from '@mui/icons-material/FullscreenExit';
import TableIcon from '@mui/icons-material/TableRowsOutlined';
import FitIcon from '@mui/icons-material/CropFree';
import { keysOf, useKeys } from '../../keys/keyTable.ts';
import { useBench } from '../../store/bench.ts';
import { runCommand } from '../commands/index.ts';
import { ChromeButton } from './ModelChrome.tsx';
import { FiguresChip } from './FiguresChip.tsx';
import { UnderMenu } from './UnderMenu.tsx';

/** Loaded when it is opened first. */
const UvTable = later(() => import('./UvTable.tsx'));
import type { Stage } from './stage.ts';
import { wholeSheet } from './wholeSheet.ts';

const hands = [
  { name: 'move', label: 'Move on the sheet', icon: <MoveIcon sx={{ fontSize: 17 }} /> },
  { name: 'turn', label: 'Turn on the sheet', icon: <TurnIcon sx={{ fontSize: 17 }} /> },
  { name: 'size', label: 'Size on the sheet', icon: <SizeIcon sx={{ fontSize: 17 }} /> },
] as const;

/** Tools that move what is selected on the sheet. */
function HandTools() {
  const tool = useBench((s) => s.tool);
  const own = useKeys((s) => s.own);
  return (
    <Paper data-chrome elevation={1} role="group" aria-label="Tools on the sheet" sx={{ position: 'absolute', top: 40, left: 42, display: 'flex' }}>
      {hands.map(({ name, label, icon }) => (
        <Tooltip key={name} title={`${label} (${keysOf(`tool-${name}`, own)[0] ?? 'no key'})`}>
          <ToggleButton
            size="small"
            value={name}
            selected={tool === name}
            aria-label={label}
            onChange={() => runCommand(`tool-${name}`)}
            sx={{ p: 0.6, border: 0 }}
          >
            {icon}
          </ToggleButton>
        </Tooltip>
      ))}
    </Paper>
  );
}

/** What lies over the sheet view: which sheet it is, fit, fill. */
export function SheetChrome({ stage }: { stage: Stage }) {
  const filled = useBench((s) => s.filled);
  const set = useBench((s) => s.set);
  const table = useBench((s) => s.table);
  const settings = useBench((s) => s.summary?.settings);
  const part = useBench((s) => s.summary?.parts.find((p) => p.id === s.summary?.activePart));
  const setName = part?.uvSets[part.activeUv];
  // one sheet alone needs no name
  const sheet = useBench((s) =>
    s.summary && s.summary.sheets.length > 1 ? (s.summary.sheets.find(({ id }) => id === part?.sheet)?.name ?? 'on no sheet') : '',
  );
  const fit = () => {
    const { width, height } = stage.rects.sheet;
    stage.moved.sheet = false;
    stage.sheetEye.frame(wholeSheet(stage.layout, stage.tiles, stage.shownSheetParts()), width, height);
    stage.invalidate('sheet');
  };
  return (
    <>
      {settings && (
        <Paper data-chrome elevation={1} sx={{ position: 'absolute', top: 8, left: 42, px: 1, py: 0.4 }}>
          <Typography variant="caption">
            {sheet ? `${sheet} · ` : ''}
            {setName} · {settings.width} × {settings.height} px
          </Typography>
        </Paper>
      )}
      <HandTools />
      <Box data-chrome sx={{ position: 'absolute', top: 8, right: 8, display: 'flex', gap: 0.5 }}>
        <UnderMenu />
        <ChromeButton label={table ? 'Close the UV table' : 'UV table'} onClick={() => set({ table: !table })}>
          <TableIcon sx={{ fontSize: 17 }} />
        </ChromeButton>
        <ChromeButton label="Whole sheet" onClick={fit}>
          <FitIcon sx={{ fontSize: 17 }} />
        </ChromeButton>
        <ChromeButton label={filled === 'sheet' ? 'Both views' : 'Sheet view alone'} onClick={() => set({ filled: filled === 'sheet' ? 'none' : 'sheet' })}>
          {filled === 'sheet' ? <FullscreenExitIcon sx={{ fontSize: 17 }} /> : <FullscreenIcon sx={{ fontSize: 17 }} />}
        </ChromeButton>
      </Box>
      {table ? <UvTable /> : <FiguresChip />}
    </>
  );
}

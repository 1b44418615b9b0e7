import { lazy, Suspense } from 'react';
import { Box, Paper, Typography } from '@mui/material';
import FullscreenIcon from '@mui/icons-material/Fullscreen';
import FullscreenExitIcon from '@mui/icons-material/FullscreenExit';
import TableIcon from '@mui/icons-material/TableRowsOutlined';
import FitIcon from '@mui/icons-material/CropFree';
import { useBench } from '../../store/bench.ts';
import { ChromeButton } from './ModelChrome.tsx';
import { FiguresChip } from './FiguresChip.tsx';
import { UnderMenu } from './UnderMenu.tsx';

/** Loaded when it is opened first. */
const UvTable = lazy(() => import('./UvTable.tsx'));
import type { Stage } from './stage.ts';
import { wholeSheet } from './wholeSheet.ts';

/** What lies over the sheet view: which sheet it is, fit, fill. */
export function SheetChrome({ stage }: { stage: Stage }) {
  const filled = useBench((s) => s.filled);
  const set = useBench((s) => s.set);
  const table = useBench((s) => s.table);
  const settings = useBench((s) => s.summary?.settings);
  const part = useBench((s) => s.summary?.parts.find((p) => p.id === s.summary?.activePart));
  const setName = part?.uvSets[part.activeUv];
  const fit = () => {
    const { width, height } = stage.rects.sheet;
    stage.moved.sheet = false;
    stage.sheetEye.frame(wholeSheet(stage.layout), width, height);
    stage.invalidate('sheet');
  };
  return (
    <>
      {settings && (
        <Paper data-chrome elevation={1} sx={{ position: 'absolute', top: 8, left: 42, px: 1, py: 0.4 }}>
          <Typography variant="caption">
            {setName} · {settings.width} × {settings.height} px
          </Typography>
        </Paper>
      )}
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
      {table ? (
        <Suspense fallback={null}>
          <UvTable />
        </Suspense>
      ) : (
        <FiguresChip />
      )}
    </>
  );
}

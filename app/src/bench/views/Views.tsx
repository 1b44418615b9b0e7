import { Box, useTheme } from '@mui/material';
import { Canvas } from '@react-three/fiber';
import { useEffect, useMemo, useState } from 'react';
import { later } from '../../later.tsx';
import { usePinned } from '../pinned.ts';
import { Group, Panel, Separator } from 'react-resizable-panels';
import { useBench } from '../../store/bench.ts';
import { isLowPower } from '../../lowPower.ts';
import { modelEye } from './cameras.ts';
import { watchWays } from '../hands/straightening.ts';
import { mirrorGrip } from '../hands/gripMirror.ts';
import { EmptySheet } from './EmptySheet.tsx';
import { JigLayer } from './JigLayer.tsx';
import { ModelChrome } from './ModelChrome.tsx';
import { ModelOverlay } from './ModelOverlay.tsx';
import { Pane } from './Pane.tsx';
import { Picker } from './pick.ts';
import { RegionDrawing } from './RegionDrawing.tsx';
import { NoGraphics, Renderer } from './Renderer.tsx';
import { SheetChrome } from './SheetChrome.tsx';
import { SheetOverlay } from './SheetOverlay.tsx';
import { shownStage } from './shownStage.ts';
import { Stage } from './stage.ts';
import { useStageMirror } from './stageMirror.ts';
import { useTestHandle } from './testHandle.ts';
import { ViewsSummary } from './ViewsSummary.tsx';
import { WalkStatus } from './WalkStatus.tsx';
import { hasWebGl, isDrawnBySoftware } from './webgl.ts';

/** Ms that the browser is given to bring lost graphics back before a new canvas takes their place. */
const graphicsPatience = 3000;

/** Loaded with the station that has decals. */
const DecalHandles = later(() => import('../stations/images/DecalHandles.tsx'));
const PinnedPictures = later(() => import('../stations/images/PinnedPictures.tsx'));
const FadeHandles = later(() => import('../stations/images/FadeHandles.tsx'));

/** The two views: one canvas under both, each pane routing its own pointer. */
export function Views() {
  const stage = useMemo(() => new Stage(modelEye), []);
  const picker = useMemo(() => new Picker(stage), [stage]);
  const filled = useBench((s) => s.filled);
  const theme = useTheme();
  const [lost, setLost] = useState(false);
  const [canvas, setCanvas] = useState(0);
  useEffect(() => {
    if (!lost) return;
    const timer = setTimeout(() => {
      setLost(false);
      setCanvas((k) => k + 1);
    }, graphicsPatience);
    return () => clearTimeout(timer);
  }, [lost]);
  useEffect(() => {
    shownStage.current = stage;
    return () => void (shownStage.current = null);
  }, [stage]);
  useStageMirror(stage, picker);
  useEffect(mirrorGrip, []);
  useEffect(watchWays, []);
  const isAtImages = useBench((s) => s.station === 'images');
  const hasPinned = usePinned((s) => s.pins.length > 0 && !s.isHidden);
  const looksAtForm = useBench((s) => s.look.form !== 'cage');
  useEffect(() => {
    if (!looksAtForm) return;
    let end: (() => void) | null = null;
    let current = true;
    void import('./watchForm.ts').then(({ watchForm }) => {
      if (current) end = watchForm(stage);
    });
    return () => {
      current = false;
      end?.();
    };
  }, [stage, looksAtForm]);
  useTestHandle(stage, picker);
  return (
    <Box
      id="views"
      tabIndex={0}
      role="application"
      aria-label="Model and sheet views"
      aria-describedby="views-summary"
      sx={{
        position: 'relative',
        flex: 1,
        minWidth: 0,
        height: '100%',
        outline: 'none',
        overflow: 'hidden',
        '&:focus-visible': { boxShadow: `inset 0 0 0 2px ${theme.palette.primary.main}` },
      }}
    >
      <Box sx={{ position: 'absolute', inset: 0 }}>
        <Canvas
          key={canvas}
          frameloop="demand"
          fallback={null}
          dpr={isLowPower() ? 0.5 : isDrawnBySoftware() ? 1 : [1, 2]}
          // a view that is not due stays as it was drawn
          gl={{ antialias: !isLowPower() && !isDrawnBySoftware(), preserveDrawingBuffer: true, powerPreference: 'high-performance' }}
          style={{ pointerEvents: 'none' }}
        >
          <Renderer stage={stage} onLost={setLost} />
        </Canvas>
      </Box>
      <Group orientation="horizontal" style={{ position: 'absolute', inset: 0 }}>
        {filled !== 'sheet' && (
          <Panel id="model" minSize="20%" defaultSize="50%">
            <Pane view="model" stage={stage} picker={picker}>
              <ModelOverlay stage={stage} picker={picker} />
              <JigLayer stage={stage} picker={picker} />
              {isAtImages && <DecalHandles stage={stage} picker={picker} />}
              {isAtImages && <FadeHandles stage={stage} picker={picker} />}
              {hasPinned && <PinnedPictures />}
              <RegionDrawing view="model" />
              <ModelChrome stage={stage} />
            </Pane>
          </Panel>
        )}
        {filled === 'none' && (
          <Separator
            aria-label="Divider between the views"
            style={{
              width: 6,
              background: theme.palette.background.default,
              borderLeft: `1px solid ${theme.palette.divider}`,
              borderRight: `1px solid ${theme.palette.divider}`,
            }}
          />
        )}
        {filled !== 'model' && (
          <Panel id="sheet" minSize="20%" defaultSize="50%">
            <Pane view="sheet" stage={stage} picker={picker}>
              <SheetOverlay stage={stage} />
              <RegionDrawing view="sheet" />
              <SheetChrome stage={stage} />
              <EmptySheet />
            </Pane>
          </Panel>
        )}
      </Group>
      {(lost || !hasWebGl()) && <NoGraphics lost={lost} />}
      <ViewsSummary />
      <WalkStatus stage={stage} />
    </Box>
  );
}

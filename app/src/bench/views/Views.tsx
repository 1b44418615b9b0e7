import { Box, Button, Paper, Typography, useTheme } from '@mui/material';
import { Canvas, useFrame, useThree } from '@react-three/fiber';
import { useEffect, useLayoutEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { Group, Panel, Separator } from 'react-resizable-panels';
import { usePreferences } from '../../store/preferences.ts';
import type { Texture } from 'three';
import { useBench, type BenchState } from '../../store/bench.ts';
import { imageHasPointer, imageNow, ImageTool } from '../tools/imageTool.ts';
import { JigTool, jigHasPointer } from '../tools/jigTool.ts';
import { PinTool, pinAt } from '../tools/pinTool.ts';
import { RelaxTool } from '../tools/relaxTool.ts';
import { PenTool } from '../tools/penTool.ts';
import { holds, letsGo } from '../tools/held.ts';
import { SelectTool } from '../tools/selectTool.ts';
import type { PointerAt, Tool } from '../tools/tool.ts';
import { addImageFiles } from '../addImages.ts';
import { runCommand } from '../commands/index.ts';
import { eyeNow, useJigs } from '../jigs.ts';
import { coreApi, endCore, operationsRunning, run } from '../../worker/client.ts';
import type { LayoutView } from '../../session/messages.ts';
import { JigLayer } from './JigLayer.tsx';
import { ModelChrome } from './ModelChrome.tsx';
import { ModelOverlay } from './ModelOverlay.tsx';
import { SheetChrome } from './SheetChrome.tsx';
import { SheetOverlay } from './SheetOverlay.tsx';
import { Picker } from './pick.ts';
import { gridTexture, imageTexture } from './pictures.ts';
import { Stage, type ViewName } from './stage.ts';
import { isThrifty } from '../../thrift.ts';
import { hasWebGl } from './webgl.ts';
import { wholeSheet } from './wholeSheet.ts';

/** The two views: one canvas under both, each pane routing its own pointer. */
export function Views() {
  const stage = useMemo(() => new Stage(), []);
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
  useMirror(stage, picker);
  useTestHandle(stage, picker);
  useEffect(() => {
    imageNow.show = (placement) => stage.setPlacement(placement, useBench.getState());
    return () => {
      imageNow.show = () => {};
    };
  }, [stage]);
  useEffect(() => {
    eyeNow.axes = () => stage.eyeAxes();
    return () => {
      eyeNow.axes = () => null;
    };
  }, [stage]);
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
          dpr={[1, 2]}
          // a view that is not due stays as it was drawn
          gl={{ antialias: !isThrifty(), preserveDrawingBuffer: true, powerPreference: 'high-performance' }}
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
    </Box>
  );
}

/** Ms that the browser is given to bring lost graphics back before a new canvas takes their place. */
const graphicsPatience = 3000;

function Renderer({ stage, onLost }: { stage: Stage; onLost: (lost: boolean) => void }) {
  const { invalidate, size, gl } = useThree();
  useEffect(() => {
    const canvas = gl.domElement;
    const lost = (event: Event) => {
      // else it is never given back
      event.preventDefault();
      onLost(true);
    };
    const restored = () => {
      onLost(false);
      stage.invalidate();
    };
    canvas.addEventListener('webglcontextlost', lost);
    canvas.addEventListener('webglcontextrestored', restored);
    // after a new canvas, too, everything has to be handed to the graphics again
    stage.invalidate();
    return () => {
      canvas.removeEventListener('webglcontextlost', lost);
      canvas.removeEventListener('webglcontextrestored', restored);
    };
  }, [gl, stage, onLost]);
  useEffect(() => {
    stage.schedule = () => invalidate();
    stage.invalidate();
    return () => {
      stage.schedule = () => {};
    };
  }, [stage, invalidate]);
  useFrame(({ gl }) => stage.render(gl, size.height), 1);
  return null;
}

function NoGraphics({ lost }: { lost: boolean }) {
  return (
    <Paper role="alert" elevation={6} sx={{ position: 'absolute', top: '40%', left: '50%', transform: 'translateX(-50%)', p: 2, maxWidth: 420, zIndex: 5 }}>
      <Typography variant="body2">
        {lost
          ? 'The browser took the graphics away for a moment; the views come back by themselves. The job is not touched.'
          : 'This browser draws no WebGL 2, which the views need. Switch on hardware acceleration in its settings, or use another browser. Panels and keys work; nothing is lost.'}
      </Typography>
    </Paper>
  );
}

/** Carries what changes in the store over to the stage. */
function useMirror(stage: Stage, picker: Picker) {
  const mode = usePreferences((s) => s.mode);
  const imageId = useBench((s) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.imageId ?? null);
  const gridRepeat = useBench((s) => s.summary?.settings.gridRepeat ?? 1);
  const gridKind = useBench((s) => s.summary?.settings.gridKind);
  const gridSize = useBench((s) => s.summary?.settings.gridSize);
  const sheet = useBench((s) => (s.summary ? s.summary.settings.width / s.summary.settings.height : 1));
  useEffect(() => stage.setMode(mode), [stage, mode]);
  useEffect(() => {
    stage.sheetEye.aspect = sheet;
    stage.invalidate('sheet');
  }, [stage, sheet]);
  useEffect(() => {
    if (!gridKind || !gridSize) return;
    let current = true;
    void gridTexture(gridKind, gridSize).then((grid) => {
      if (!current) return;
      stage.setPictures({ grid, repeats: gridRepeat });
      stage.setLook(useBench.getState());
    });
    return () => {
      current = false;
    };
  }, [stage, gridKind, gridSize, gridRepeat]);
  useEffect(() => {
    let current = true;
    const show = (image: Texture | null) => {
      if (!current) return;
      stage.setPictures({ image });
      stage.setLook(useBench.getState());
    };
    if (!imageId) show(null);
    else
      void imageTexture(imageId).then((texture) => {
        show(texture);
        if (!texture && current) useBench.getState().notice('This image cannot be drawn: it may be cut short. The test grid is shown instead.', 'warning');
      });
    return () => {
      current = false;
    };
  }, [stage, imageId]);
  useEffect(() => {
    const first = useBench.getState();
    if (first.geometry) stage.setGeometry(first.geometry);
    showLayout(stage);
    stage.setPlacement(placementOf(first), first);
    showContexts(stage, first);
    // straight from the store: an effect of a component would wait for the next frame
    const paintOn = useBench.subscribe((s, before) => {
      if (s.geometry !== before.geometry && s.geometry) stage.setGeometry(s.geometry);
      const part = s.summary?.parts.find((p) => p.id === s.summary?.activePart);
      if (part && stage.geometry?.part === part.id && (part.hidden ?? null) !== stage.hidden) {
        stage.setHidden(part.hidden ?? null);
        stage.paint(s);
      }
      if (s.layout !== before.layout) showLayout(stage);
      if (
        s.summary?.selection !== before.summary?.selection ||
        s.summary?.selectedParts !== before.summary?.selectedParts ||
        s.kind !== before.kind ||
        s.overlay !== before.overlay ||
        s.measures !== before.measures ||
        s.density !== before.density ||
        s.fault !== before.fault ||
        ((s.station === 'seams' || before.station === 'seams') && (s.station !== before.station || marksOf(s) !== marksOf(before)))
      )
        stage.paint(s);
      if (placementOf(s) !== placementOf(before)) stage.setPlacement(placementOf(s), s);
      if (s.overlay === 'density' && s.layout && (s.overlay !== before.overlay || s.layout !== before.layout)) askDensity(s.layout);
      if (s.notches && s.layout && (!before.notches || s.layout !== before.layout)) askNotches(s.layout);
      if (s.look !== before.look) stage.setLook(s);
      if (s.drawn !== before.drawn) stage.setDragging(s.drawn !== null);
      if (
        s.summary !== before.summary ||
        s.contexts !== before.contexts ||
        s.hoverPart !== before.hoverPart ||
        s.look.context !== before.look.context ||
        s.kind !== before.kind ||
        s.geometry !== before.geometry
      )
        showContexts(stage, s);
      if (s.hover !== before.hover || s.penEdges !== before.penEdges || s.kind !== before.kind) stage.hover(s);
      if (s.penUncuts !== before.penUncuts) stage.setPenColor(s.penUncuts);
      if (s.sheetIndex !== before.sheetIndex) picker.setIndex(s.sheetIndex);
      if (s.frameAsked !== before.frameAsked) requestAnimationFrame(() => frame(stage));
      if (s.viewAsked !== before.viewAsked && s.viewAsked) {
        stage.eye.look(s.viewAsked.name as never);
        stage.invalidate('model');
      }
    });
    picker.setIndex(useBench.getState().sheetIndex);
    return paintOn;
  }, [stage, picker]);
  useEffect(() => () => stage.dispose(), [stage]);
}

/** The density overlay follows the layout a moment later. */
function askDensity(layout: LayoutView) {
  void coreApi()
    .density()
    .then((answer) => {
      if (answer && useBench.getState().layout === layout) useBench.getState().set({ density: { ...answer, layout } });
    });
}

/** And so do the notches. */
function askNotches(layout: LayoutView) {
  void coreApi()
    .notches()
    .then((marks) => {
      if (useBench.getState().layout === layout) useBench.getState().set({ notchMarks: { layout, marks } });
    });
}

const marksOf = (s: BenchState) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.seamMarks ?? null;
const placementOf = (s: BenchState) => s.summary?.parts.find((part) => part.id === s.summary?.activePart)?.placement ?? null;

function showContexts(stage: Stage, s: BenchState) {
  if (!s.summary) return;
  const parts = s.summary.parts.filter((part) => part.id !== s.summary!.activePart && !part.away);
  const known = new Map([...s.contexts].filter(([id]) => s.summary!.parts.some((part) => part.id === id)));
  // parts can be picked only where they are seen
  const shown = new Set(s.look.context || s.kind === 'parts' ? parts.map((part) => part.id) : []);
  stage.setContexts(known, shown, new Set(s.kind === 'parts' ? s.summary.selectedParts : []), s.hoverPart, s.kind === 'parts');
}

function showLayout(stage: Stage) {
  const start = performance.now();
  const state = useBench.getState();
  if (state.layout) stage.setLayout(state.layout);
  stage.paint(state);
  performance.measure('layout on stage', { start });
}

/** The whole of a view that nobody has moved is kept in it. */
function keepWhole(stage: Stage, view: ViewName) {
  const { geometry } = stage;
  const { width, height } = stage.rects[view];
  if (stage.moved[view] || width < 2 || !geometry) return;
  if (view === 'sheet') stage.sheetEye.frame(wholeSheet(stage.layout), width, height);
  else {
    stage.eye.frame(sampled(geometry.points, geometry.corners), geometry.bounds, width / height);
    stage.eye.distance *= 1.15;
  }
}

/** Brings the selection into both views; everything if nothing is selected. */
function frame(stage: Stage) {
  const { geometry, layout } = stage;
  if (!geometry) return;
  const { summary } = useBench.getState();
  const { model, sheet } = stage.rects;
  let places: ArrayLike<number> = sampled(geometry.points, geometry.corners);
  let flat = wholeSheet(layout);
  const selection = summary?.selection;
  stage.moved = { model: false, sheet: false };
  if (selection && layout && selection.part === geometry.part && selection.ids.length > 0) {
    stage.moved = { model: true, sheet: true };
    const corners: number[] = [];
    if (selection.kind === 'points') {
      const chosen = new Set(selection.ids);
      geometry.corners.forEach((p, c) => chosen.has(p) && corners.push(c));
    } else if (selection.kind === 'edges') {
      for (const c of stage.cornersOfEdges(selection.ids)) corners.push(c, stage.nextCorner(c, stage.faceOfCorner(c)));
    } else {
      const chosen = new Set(selection.ids);
      for (let f = 0; f < geometry.faces; f++) {
        if (!chosen.has(selection.kind === 'faces' ? f : layout.faceIsland[f]!)) continue;
        for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) corners.push(c);
      }
    }
    // a single edge would fill the view: a twelfth of the model is kept around it
    const size = Math.hypot(...[0, 1, 2].map((d) => geometry.bounds[d + 3]! - geometry.bounds[d]!)) * 0.08;
    const around: number[] = [];
    const onSheet: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const c of corners) {
      for (let d = 0; d < 3; d++) {
        const p = [0, 1, 2].map((k) => geometry.points[geometry.corners[c]! * 3 + k]!);
        for (const by of [-size, size]) around.push(...p.map((x, k) => (k === d ? x + by : x)));
      }
      for (let d = 0; d < 2; d++) {
        onSheet[d] = Math.min(onSheet[d]!, layout.cornerUv[c * 2 + d]!);
        onSheet[d + 2] = Math.max(onSheet[d + 2]!, layout.cornerUv[c * 2 + d]!);
      }
    }
    places = around;
    const pad = Math.max(onSheet[2] - onSheet[0], onSheet[3] - onSheet[1]) * 0.2 + 0.01;
    if (!layout.allUnplaced) flat = [onSheet[0] - pad, onSheet[1] - pad, onSheet[2] + pad, onSheet[3] + pad];
  }
  if (model.width > 1) {
    stage.eye.frame(places, geometry.bounds, model.width / model.height);
    // clear of the bars above and below
    stage.eye.distance *= 1.15;
  }
  if (sheet.width > 1) stage.sheetEye.frame(flat, sheet.width, sheet.height);
  stage.invalidate();
}

/** At most some 20,000 of the points that faces use. */
function sampled(points: Float32Array, corners: Uint32Array): Float32Array {
  const step = Math.max(1, Math.floor(corners.length / 20_000));
  const out = new Float32Array(Math.ceil(corners.length / step) * 3);
  for (let k = 0, at = 0; k < corners.length; k += step, at += 3) for (let d = 0; d < 3; d++) out[at + d] = points[corners[k]! * 3 + d]!;
  return out;
}

interface PaneProps {
  view: ViewName;
  stage: Stage;
  picker: Picker;
  children: React.ReactNode;
}

/** One view's rectangle: measures itself, and sends the pointer to navigation or to the tool in hand. */
function Pane({ view, stage, picker, children }: PaneProps) {
  const element = useRef<HTMLDivElement>(null);
  const tools = useMemo(
    () => ({ select: new SelectTool(), pen: new PenTool(), jig: new JigTool(), image: new ImageTool(), pin: new PinTool(stage), relax: new RelaxTool() }),
    [stage],
  );
  const held = useRef<Tool | null>(null);
  /** The tool that a press begins with keeps the pointer until it is lifted. */
  const toolNow = (here?: PointerAt): Tool =>
    held.current ??
    (here && view === 'sheet' && pinAt(stage, here.x, here.y) >= 0 ? tools.pin : null) ??
    (view === 'model' && imageHasPointer() ? tools.image : view === 'model' && jigHasPointer() ? tools.jig : tools[useBench.getState().tool]);
  const drag = useRef<{ mode: 'orbit' | 'pan' | 'tool'; x: number; y: number } | null>(null);
  const space = useRef(false);
  const tool = useBench((s) => s.tool);
  const placing = useJigs((s) => s.placing !== null);

  useLayoutEffect(() => {
    const pane = element.current!;
    const host = pane.closest<HTMLElement>('#views')!;
    const frameFirst = { done: false };
    const measure = () => {
      const outer = host.getBoundingClientRect();
      const inner = pane.getBoundingClientRect();
      stage.rects[view] = { left: inner.left - outer.left, top: inner.top - outer.top, width: inner.width, height: inner.height };
      if (!frameFirst.done && inner.width > 10) {
        frameFirst.done = true;
        useBench.getState().frame();
      } else keepWhole(stage, view);
      stage.invalidate();
    };
    const observer = new ResizeObserver(measure);
    observer.observe(pane);
    observer.observe(host);
    measure();
    const wheel = (event: WheelEvent) => {
      // lists over the view scroll by themselves
      if ((event.target as HTMLElement).closest('[data-chrome]')) return;
      event.preventDefault();
      const r = pane.getBoundingClientRect();
      const [x, y] = [event.clientX - r.left, event.clientY - r.top];
      stage.moved[view] = true;
      const factor = Math.exp(Math.max(-120, Math.min(120, event.deltaY)) * 0.0022);
      if (view === 'model') stage.eye.zoom(factor, (x / r.width) * 2 - 1, 1 - (y / r.height) * 2);
      else stage.sheetEye.zoom(factor, x, y, r.width, r.height);
      stage.invalidate(view);
    };
    pane.addEventListener('wheel', wheel, { passive: false });
    const keys = (event: KeyboardEvent) => {
      if (event.code === 'Space') space.current = event.type === 'keydown';
    };
    window.addEventListener('keydown', keys);
    window.addEventListener('keyup', keys);
    return () => {
      observer.disconnect();
      pane.removeEventListener('wheel', wheel);
      window.removeEventListener('keydown', keys);
      window.removeEventListener('keyup', keys);
      stage.rects[view] = { left: 0, top: 0, width: 0, height: 0 };
    };
  }, [view, stage]);

  const at = (event: PointerEvent): PointerAt => {
    const r = element.current!.getBoundingClientRect();
    const [x, y] = [event.clientX - r.left, event.clientY - r.top];
    return { view, picker, x, y, hit: view === 'model' ? picker.model(x, y) : picker.sheet(x, y), shift: event.shiftKey, ctrl: event.ctrlKey || event.metaKey };
  };
  /** Controls over the view, and their menus, which stand elsewhere in the page but pass their events on to here. */
  const isChrome = (event: { target: EventTarget; currentTarget: EventTarget }) =>
    !(event.currentTarget as Node).contains(event.target as Node) || (event.target as HTMLElement).closest('[data-chrome]') !== null;

  return (
    <Box
      ref={element}
      data-view={view}
      sx={{
        position: 'absolute',
        inset: 0,
        overflow: 'hidden',
        touchAction: 'none',
        // Shift and a click would select texts of the page, and the next drag would carry them off
        userSelect: 'none',
        cursor: tool !== 'select' || (placing && view === 'model') ? 'crosshair' : 'default',
      }}
      style={{ position: 'relative', width: '100%', height: '100%' }}
      onContextMenu={(event) => event.preventDefault()}
      onDragStart={(event) => event.preventDefault()}
      onDragOver={(event) => {
        if ([...event.dataTransfer.types].includes('Files')) event.preventDefault();
      }}
      onDrop={(event) => {
        event.preventDefault();
        void addImageFiles([...event.dataTransfer.files]);
      }}
      onPointerDown={(event) => {
        if (isChrome(event)) return;
        element.current?.closest<HTMLElement>('#views')?.focus({ preventScroll: true });
        event.currentTarget.setPointerCapture(event.pointerId);
        const navigates = event.button === 2 || event.button === 1 || (event.button === 0 && space.current);
        const mode = !navigates ? 'tool' : event.button === 1 || view === 'sheet' ? 'pan' : 'orbit';
        drag.current = { mode, x: event.clientX, y: event.clientY };
        if (mode === 'tool') {
          const here = at(event);
          held.current = toolNow(here);
          held.current.down(here);
          holds(() => {
            held.current?.cancel();
            held.current = null;
            drag.current = null;
          });
        } else useBench.getState().set({ hover: null });
      }}
      onPointerMove={(event) => {
        if (isChrome(event) && !drag.current) return;
        const start = performance.now();
        const d = drag.current;
        if (d && d.mode !== 'tool') {
          const [dx, dy] = [event.clientX - d.x, event.clientY - d.y];
          stage.moved[view] = true;
          d.x = event.clientX;
          d.y = event.clientY;
          const r = element.current!.getBoundingClientRect();
          if (view === 'sheet') stage.sheetEye.pan(dx, dy);
          else if (d.mode === 'orbit') stage.eye.orbit(dx, dy);
          else stage.eye.pan(dx, dy, r.height);
          stage.invalidate(view);
          return;
        }
        const here = at(event);
        if (d) toolNow().move(here);
        const { hover, kind, hoverPart } = useBench.getState();
        if (kind === 'parts') {
          const part = view === 'model' ? picker.part(here.x, here.y) : null;
          if (part !== hoverPart) useBench.getState().set({ hoverPart: part });
          return;
        }
        const hit = here.hit;
        if (hit?.face !== hover?.face || hit?.edge !== hover?.edge || hit?.point !== hover?.point || hit?.island !== hover?.island) {
          useBench.getState().set({ hover: hit ? { view, face: hit.face, edge: hit.edge, point: hit.point, island: hit.island } : null });
          performance.measure('hover', { start });
        }
      }}
      onPointerUp={(event) => {
        const d = drag.current;
        drag.current = null;
        letsGo();
        if (d?.mode === 'tool') toolNow().up(at(event));
        held.current = null;
      }}
      onPointerCancel={() => {
        drag.current = null;
        toolNow().cancel();
        held.current = null;
      }}
      onPointerLeave={() => useBench.getState().set({ hover: null, hoverPart: null })}
      onDoubleClick={(event) => {
        if (isChrome(event)) return;
        toolNow().double?.(at(event as unknown as PointerEvent));
      }}
    >
      {children}
    </Box>
  );
}

/** The box, lasso or brush stroke being drawn over a view. */
function RegionDrawing({ view }: { view: ViewName }) {
  const drawn = useBench((s) => s.drawn);
  const theme = useTheme();
  if (!drawn || drawn.view !== view) return null;
  const { region } = drawn;
  const line = { fill: 'none', stroke: theme.palette.primary.main, strokeWidth: 1.5, strokeDasharray: '5 3' };
  const pairs = Array.from({ length: region.points.length / 2 }, (_, k) => `${region.points[k * 2]},${region.points[k * 2 + 1]}`).join(' ');
  return (
    <svg aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}>
      {region.shape === 'box' ? (
        <rect
          x={Math.min(region.points[0], region.points[2])}
          y={Math.min(region.points[1], region.points[3])}
          width={Math.abs(region.points[2] - region.points[0])}
          height={Math.abs(region.points[3] - region.points[1])}
          {...line}
          fill={theme.palette.primary.main}
          fillOpacity={0.1}
        />
      ) : region.shape === 'lasso' ? (
        <polygon points={pairs} {...line} fill={theme.palette.primary.main} fillOpacity={0.1} />
      ) : (
        <polyline
          points={pairs}
          fill="none"
          stroke={theme.palette.primary.main}
          strokeOpacity={0.35}
          strokeWidth={region.radius * 2}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      )}
    </svg>
  );
}

/** What the sheet says while nothing lies on it. */
function EmptySheet() {
  const layout = useBench((s) => s.layout);
  const progress = useBench((s) => s.progress);
  if (!layout?.allUnplaced) return null;
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', pointerEvents: 'none' }}>
      <Paper data-chrome elevation={3} sx={{ p: 2.5, maxWidth: 330, pointerEvents: 'auto' }}>
        <Typography variant="h2" gutterBottom>
          This model has no UVs yet
        </Typography>
        <Typography variant="body2" color="text.secondary" sx={{ mb: 1.5 }}>
          Cut seams on the model where they may be hidden, then lay it flat. Or begin with a first layout, cut at the creases, and go on from there.
        </Typography>
        <Button variant="contained" onClick={() => runCommand('main')} disabled={progress !== null}>
          Make a first layout
        </Button>
      </Paper>
    </Box>
  );
}

/** The views in words, for those who do not see them. */
function ViewsSummary() {
  const summary = useBench((s) => s.summary);
  const layout = useBench((s) => s.layout);
  const hover = useBench((s) => s.hover);
  const part = summary?.parts.find((p) => p.id === summary.activePart);
  if (!summary || !part || !layout) return null;
  const selection = summary.selection.ids.length > 0 ? `${summary.selection.ids.length} ${summary.selection.kind} selected` : 'nothing selected';
  return (
    <Box
      id="views-summary"
      data-hover-edge={hover?.edge ?? -1}
      data-hover-face={hover?.face ?? -1}
      sx={{ position: 'absolute', width: 1, height: 1, overflow: 'hidden', clipPath: 'inset(50%)' }}
    >
      {part.name}: {part.faces} faces, {layout.islands.length} islands, {part.unplaced} faces without UVs, {selection}.
    </Box>
  );
}

/** What end-to-end tests need to click on the model: px of faces and edges in the page. */
function useTestHandle(stage: Stage, picker: Picker) {
  const [handle] = useState(() => ({
    ready: () => stage.geometry !== null && stage.layout !== null && useBench.getState().sheetIndex !== null,
    rect: (view: ViewName) => stage.rects[view],
    look: (azimuth: number, elevation: number) => {
      stage.eye.azimuth = azimuth;
      stage.eye.elevation = elevation;
      stage.invalidate('model');
    },
    /** Px in the page of the middle of an edge, and whether it is what lies under the pointer there. */
    edge: (edge: number) => {
      const { edgePoints, points } = stage.geometry!;
      const [a, b] = [edgePoints[edge * 2]! * 3, edgePoints[edge * 2 + 1]! * 3];
      const r = stage.rects.model;
      stage.eye.update(r.width, r.height);
      const [x, y] = picker.projectPlace((points[a]! + points[b]!) / 2, (points[a + 1]! + points[b + 1]!) / 2, (points[a + 2]! + points[b + 2]!) / 2);
      const hit = picker.model(x, y);
      const host = document.getElementById('views')!.getBoundingClientRect();
      return { x: host.left + r.left + x, y: host.top + r.top + y, visible: hit?.edge === edge };
    },
    place: (x: number, y: number, z: number) => {
      const r = stage.rects.model;
      stage.eye.update(r.width, r.height);
      const [px, py] = picker.projectPlace(x, y, z);
      const host = document.getElementById('views')!.getBoundingClientRect();
      return { x: host.left + r.left + px, y: host.top + r.top + py };
    },
    uv: (u: number, v: number) => {
      const r = stage.rects.sheet;
      const [px, py] = stage.sheetEye.toPx(u, v, r.width, r.height);
      const host = document.getElementById('views')!.getBoundingClientRect();
      return { x: host.left + r.left + px, y: host.top + r.top + py };
    },
    state: () => useBench.getState(),
    running: operationsRunning,
    /** Resolves when nothing that was asked for, and nothing that follows from it, is under way, and what came of it is drawn. */
    idle: async () => {
      const frames = (n: number): Promise<void> => new Promise((drawn) => requestAnimationFrame(() => (n > 1 ? void frames(n - 1).then(drawn) : drawn())));
      // what a press or a key begins is asked for within a frame
      await frames(1);
      for (;;) {
        while (operationsRunning() > 0) await frames(1);
        await coreApi().idle();
        const { progress, measuring, sheetIndex, summary } = useBench.getState();
        if (operationsRunning() === 0 && progress === null && (summary === null || (!measuring && sheetIndex !== null))) break;
        await frames(1);
      }
      await frames(2);
    },
    /** Ends the core worker, as the browser may. */
    endCore,
    /** One step by hand. */
    edit: run,
    /** Where both eyes are: changes with every move of a view. */
    eyes: () => [
      stage.eye.azimuth,
      stage.eye.elevation,
      stage.eye.distance,
      ...stage.eye.target.toArray(),
      stage.sheetEye.u,
      stage.sheetEye.v,
      stage.sheetEye.scale,
    ],
    /** Ends of the line between the two sides of the seam edge under the pointer, as UVs. */
    partner: () => stage.partnerShown(),
    /** UVs that the views draw now, 2 numbers a corner of each triangle: the layout's, or a preview's. */
    shownUvs: () => stage.shownUvs(),
  }));
  useEffect(() => {
    (window as unknown as { jigPeel?: unknown }).jigPeel = handle;
  }, [handle]);
}

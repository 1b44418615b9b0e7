import { Box } from '@mui/material';
import { useEffect, useLayoutEffect, useMemo, useRef, type MouseEvent, type PointerEvent } from 'react';
import { useBench } from '../../store/bench.ts';
import type { FileHandle } from '../../keep/watched.ts';
import { useJigs } from '../jigs.ts';
import { draggedImage } from '../draggedImage.ts';
import { holds, letsGo } from '../tools/held.ts';
import { imageHasPointer, ImageTool } from '../tools/imageTool.ts';
import { jigHasPointer, JigTool } from '../tools/jigTool.ts';
import { pinAt, PinTool } from '../tools/pinTool.ts';
import { LaterTool } from '../tools/laterTool.ts';
import { SelectTool } from '../tools/selectTool.ts';
import { TransformTool } from '../tools/transformTool.ts';
import { isHandTool } from '../hands/gripMirror.ts';
import { cursorOf } from '../hands/frame.ts';
import type { PointerAt, Tool } from '../tools/tool.ts';
import { keepWhole } from './framing.ts';
import { hoverBeside, leaveBeside } from './hoverBeside.ts';
import type { Picker } from './pick.ts';
import type { Stage, ViewName } from './stage.ts';

/** As far as browsers have it. */
type ItemWithHandle = DataTransferItem & { getAsFileSystemHandle?(): Promise<FileHandle | null> };

interface PaneProps {
  view: ViewName;
  stage: Stage;
  picker: Picker;
  children: React.ReactNode;
}

const rare = (make: (tools: typeof import('../tools/rareTools.ts')) => Tool) => new LaterTool(async () => make(await import('../tools/rareTools.ts')));

/** One view's rectangle: measures itself, and sends the pointer to navigation or to the tool in hand. */
export function Pane({ view, stage, picker, children }: PaneProps) {
  const element = useRef<HTMLDivElement>(null);
  const tools = useMemo(
    () => ({
      select: new SelectTool(),
      pen: rare(({ AtWorkTool, PenTool }) => new AtWorkTool(new PenTool())),
      jig: new JigTool(),
      image: new ImageTool(),
      pin: new PinTool(stage),
      relax: rare(({ AtWorkTool, RelaxTool }) => new AtWorkTool(new RelaxTool())),
      push: rare(({ AtWorkTool, PushTool }) => new AtWorkTool(new PushTool(stage))),
      grain: rare(({ AtWorkTool, GrainTool }) => new AtWorkTool(new GrainTool())),
      field: rare(({ FieldTool }) => new FieldTool(stage)),
      pair: rare(({ PairTool }) => new PairTool(stage, picker)),
      area: rare(({ AreaTool }) => new AreaTool(stage)),
      move: new TransformTool(stage, 'move'),
      turn: new TransformTool(stage, 'turn'),
      size: new TransformTool(stage, 'size'),
    }),
    [stage, picker],
  );
  const held = useRef<Tool | null>(null);
  /** The tool that a press begins with keeps the pointer until it is lifted. */
  const toolNow = (here?: PointerAt): Tool =>
    held.current ??
    (here && view === 'sheet' && !isHandTool(useBench.getState().tool) && pinAt(stage, here.x, here.y) >= 0 ? tools.pin : null) ??
    (view === 'model' && imageHasPointer() ? tools.image : view === 'model' && jigHasPointer() ? tools.jig : tools[useBench.getState().tool]);
  const drag = useRef<{ mode: 'orbit' | 'pan' | 'tool'; x: number; y: number } | null>(null);
  const space = useRef(false);
  const tool = useBench((s) => s.tool);
  const placing = useJigs((s) => s.placing !== null);
  useEffect(() => {
    const now = tools[tool];
    if (now instanceof LaterTool) void now.fetch();
  }, [tool, tools]);

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
      // on a button, in a field it means something else
      const elsewhere = event.target instanceof HTMLElement && event.target.closest('button,input,textarea,[role=combobox]') !== null;
      if (event.code === 'Space') space.current = event.type === 'keydown' && !elsewhere;
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

  const at = (event: MouseEvent): PointerAt => {
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
        cursor: tool === 'pen' || tool === 'relax' || (placing && view === 'model') ? 'crosshair' : 'default',
      }}
      style={{ position: 'relative', width: '100%', height: '100%' }}
      onContextMenu={(event) => event.preventDefault()}
      onDragStart={(event) => event.preventDefault()}
      onDragOver={(event) => {
        if ([...event.dataTransfer.types].some((type) => type === 'Files' || type === draggedImage)) event.preventDefault();
      }}
      onDrop={(event) => {
        event.preventDefault();
        const dragged = event.dataTransfer.getData(draggedImage);
        if (dragged) {
          const here = at(event);
          void import('../stations/images/dropImage.ts').then(({ dropImage }) => dropImage(dragged, here));
          return;
        }
        const { files, items } = event.dataTransfer;
        // asked for before the event ends, or they are gone
        const handles = [...items].filter(({ kind }) => kind === 'file').map((item) => (item as ItemWithHandle).getAsFileSystemHandle?.());
        const images = [...files];
        void import('../watch.ts').then(async ({ addWatchedImages }) => addWatchedImages(images, await Promise.all(handles)));
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
        const { tool: inHand } = useBench.getState();
        if (view === 'sheet' && isHandTool(inHand) && element.current)
          element.current.style.cursor = isChrome(event) ? '' : cursorOf(tools[inHand as 'move' | 'turn' | 'size'].holdAt(here.x, here.y), inHand);
        else if (element.current?.style.cursor) element.current.style.cursor = '';
        const { hover, kind, hoverPart } = useBench.getState();
        if (kind === 'parts') {
          const part = view === 'model' ? picker.part(here.x, here.y) : null;
          if (part !== hoverPart) useBench.getState().set({ hoverPart: part });
          return;
        }
        const beside = picker.beside(here);
        const isOther = hoverBeside(here, beside);
        const hit = beside ? null : here.hit;
        const isHit = hit?.face !== hover?.face || hit?.edge !== hover?.edge || hit?.point !== hover?.point || hit?.island !== hover?.island;
        if (isHit) useBench.getState().set({ hover: hit ? { view, face: hit.face, edge: hit.edge, point: hit.point, island: hit.island } : null });
        if (isHit || isOther) performance.measure('hover', { start });
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
      onPointerLeave={() => {
        leaveBeside();
        useBench.getState().set({ hover: null, hoverPart: null });
      }}
      onDoubleClick={(event) => {
        if (isChrome(event)) return;
        toolNow().double?.(at(event as unknown as PointerEvent));
      }}
    >
      {children}
    </Box>
  );
}

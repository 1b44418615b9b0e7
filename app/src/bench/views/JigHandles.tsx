import { overlays } from '../../theme/palette.ts';
import { Box, Tooltip, useTheme } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { axesOf, type Jig, type Vector } from '@jig-peel/core';
import { figureWords } from '../../fields/lengthWords.ts';
import { useBench } from '../../store/bench.ts';
import { commit, endPreview, preview, useJigs } from '../jigs.ts';
import type { JigRow } from '../../session/messages.ts';
import { dragHandle, handlesOf, onRing, roundStep, type Dragged, type Handle, type Ray, type Snap } from './jigShape.ts';
import type { Picker } from './pick.ts';
import type { Stage } from './stage.ts';

const words: Record<Handle['kind'], string> = { move: 'moved', side: 'sized', even: 'sized', turn: 'turned', start: 'turned the start line of' };

/** The frame's handles over the model view. Nothing here is drawn by React while one is dragged. */
export default function JigHandles({ stage, picker, row }: { stage: Stage; picker: Picker; row: JigRow }) {
  const theme = useTheme();
  const takes = useJigs((s) => s.takes);
  const unit = useBench((s) => s.summary!.settings.unit);
  const layer = useRef<HTMLDivElement>(null);
  const label = useRef<HTMLDivElement>(null);
  /** The jig as it is drawn: the job's, or what the drag has made of it. */
  const now = useRef<Jig>(row.jig);
  const drag = useRef<{ handle: Handle; first: Ray; result: Dragged | null } | null>(null);
  const kinds = useMemo(() => handlesOf(row.jig).map(({ id, kind, label: text }) => ({ id, kind, label: text })), [row.jig]);
  const [dragging, setDragging] = useState(false);
  const suffix = unit === 'unit' ? '' : ` ${unit}`;

  useEffect(() => {
    now.current = row.jig;
    const place = () => {
      const host = layer.current;
      if (!host) return;
      const { width, height } = stage.rects.model;
      for (const axis of ringAxes) {
        const path = ringPath(Array.from({ length: 64 }, (_, k) => picker.projectPlace(...onRing(now.current, axis, k / 64))));
        host.querySelectorAll(`[data-ring="turn-${axis}"]`).forEach((element) => element.setAttribute('d', path));
      }
      for (const handle of handlesOf(now.current)) {
        const element = host.querySelector<HTMLElement>(`[data-handle="${handle.id}"]`);
        if (!element) continue;
        const [px, py] = picker.projectPlace(...handle.place);
        // what lies beyond the view waits at its edge: it can always be taken hold of
        const x = Math.max(14, Math.min(width - 14, px));
        const edge = x !== px || py < 14 || py > height - 14;
        // turning ones stand aside, since they lie behind the sides that would cover them there
        const y = Math.max(14, Math.min(height - 14, edge && handle.kind === 'turn' ? py + 28 : py));
        element.style.opacity = edge ? '0.55' : '';
        element.style.transform = `translate(${x.toFixed(1)}px, ${y.toFixed(1)}px) translate(-50%, -50%)`;
        const size = host.querySelector<HTMLElement>(`[data-size="${handle.id}"]`);
        if (!size) continue;
        size.style.visibility = edge ? 'hidden' : 'visible';
        size.style.transform = `translate(${(x + 12).toFixed(1)}px, ${(y - 22).toFixed(1)}px)`;
        const text = `${figureWords(now.current.size[handle.axis])}${suffix}`;
        if (size.textContent !== text) size.textContent = text;
      }
    };
    stage.overlays.model.add(place);
    stage.invalidateOver('model');
    return () => {
      stage.overlays.model.delete(place);
    };
  }, [stage, picker, row, suffix]);

  const show = (jig: Jig) => {
    now.current = jig;
    stage.setJig(jig, useJigs.getState().image);
    if (row.state === 'live') preview([{ jig, id: row.id }]);
  };
  const local = (event: PointerEvent) => {
    const r = layer.current!.getBoundingClientRect();
    return [event.clientX - r.left, event.clientY - r.top] as const;
  };
  const snapOf = (event: { ctrlKey: boolean; metaKey: boolean }, handle: Handle, x: number, y: number): Snap => {
    const { snap } = useJigs.getState();
    // Ctrl held asks for steps where none are set, and frees where some are
    const on = (event.ctrlKey || event.metaKey) !== (snap !== 'off');
    const step = on && snap !== 'points' ? stepOf(row.jig) : 0;
    let point: Vector | null = null;
    if (on && snap === 'points' && handle.kind === 'move' && stage.geometry) {
      const hit = picker.model(x, y);
      if (hit && hit.point >= 0) point = Array.from(stage.geometry.points.slice(hit.point * 3, hit.point * 3 + 3)) as unknown as Vector;
    }
    return { angle: on ? 15 : 0, step, point };
  };
  const say = (text: string | null, x = 0, y = 0) => {
    const element = label.current!;
    element.style.display = text === null ? 'none' : 'block';
    element.textContent = text;
    element.style.transform = `translate(${x + 16}px, ${y + 10}px)`;
  };
  const end = (keep: boolean) => {
    const d = drag.current;
    drag.current = null;
    say(null);
    setDragging(false);
    stage.setDragging(false);
    if (!d) return;
    if (keep && d.result) void commit(row.id, d.result.jig, words[d.handle.kind]);
    else {
      now.current = row.jig;
      stage.setJig(row.jig, useJigs.getState().image);
      endPreview();
    }
  };
  const nudge = (event: KeyboardEvent, handle: Handle) => {
    const by = { ArrowRight: [0, 1], ArrowLeft: [0, -1], ArrowUp: [1, 1], ArrowDown: [1, -1], PageUp: [2, 1], PageDown: [2, -1] }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const [which, sign] = by as [0 | 1 | 2, 1 | -1];
    const { jig } = row;
    const step = stepOf(jig);
    const axes = axesOf(jig);
    const moved = (axis: Vector, length: number) => jig.origin.map((x, d) => x + axis[d]! * length) as Jig['origin'];
    if (handle.kind === 'move') void commit(row.id, { ...jig, origin: moved(axes[which], sign * step) }, 'moved');
    else if (handle.kind === 'side') {
      const wide = Math.max(step / 10, jig.size[handle.axis] + sign * step);
      const grown = wide - jig.size[handle.axis];
      const size = jig.size.map((x, k) => (k === handle.axis ? wide : x)) as Jig['size'];
      void commit(row.id, { ...jig, size, origin: moved(axes[handle.axis], (grown / 2) * handle.sign) }, 'sized');
    } else if (handle.kind === 'even') void commit(row.id, { ...jig, size: jig.size.map((x) => x * (sign > 0 ? 1.05 : 1 / 1.05)) as Jig['size'] }, 'sized');
    else {
      const degrees = sign * (event.shiftKey ? 1 : 15);
      const turned = handle.kind === 'start' ? { ...jig, start: jig.start + degrees } : turnedBy(jig, handle, degrees);
      void commit(row.id, turned, words[handle.kind]);
    }
  };
  /** What takes hold of a handle. */
  const grip = (id: string) => ({
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      const handle = handlesOf(row.jig).find((one) => one.id === id)!;
      drag.current = { handle, first: picker.sight(...local(event)), result: null };
      setDragging(true);
      stage.setDragging(true);
    },
    onPointerMove: (event: PointerEvent) => {
      const d = drag.current;
      if (!d) return;
      event.stopPropagation();
      const start = performance.now();
      const [x, y] = local(event);
      d.result = dragHandle(row.jig, d.handle, d.first, picker.sight(x, y), snapOf(event, d.handle, x, y), event.shiftKey);
      show(d.result.jig);
      say(saysWords(d.result.says, suffix), x, y);
      performance.measure('drag jig', { start });
    },
    onPointerUp: (event: PointerEvent) => {
      event.stopPropagation();
      end(true);
    },
    onPointerCancel: () => end(false),
  });
  const hasRings = kinds.some(({ kind }) => kind === 'turn');
  return (
    <Box ref={layer} aria-label={`Handles of ${row.name}`} role="group" sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      {hasRings && (
        <svg aria-hidden width="100%" height="100%" style={{ position: 'absolute', inset: 0 }}>
          {ringAxes.map((axis) => (
            <g key={axis} fill="none" strokeLinejoin="round" opacity={0.85}>
              <path data-ring={`turn-${axis}`} stroke={paper} strokeWidth="4.6" />
              <path data-ring={`turn-${axis}`} stroke={cobalt} strokeWidth="2" strokeDasharray={ringDashes[axis]} />
              <path
                data-ring={`turn-${axis}`}
                data-chrome
                stroke="transparent"
                strokeWidth="13"
                style={{ pointerEvents: 'stroke', cursor: 'grab', touchAction: 'none' }}
                {...grip(`turn-${axis}`)}
              />
            </g>
          ))}
        </svg>
      )}
      {kinds.map(({ id, kind, label: text }) => (
        <Tooltip key={id} title={dragging ? '' : text} enterDelay={500} disableInteractive>
          <Box
            component="button"
            type="button"
            data-handle={id}
            data-chrome
            aria-label={text}
            onKeyDown={(event: KeyboardEvent) => {
              if (event.key === 'Escape' && drag.current) {
                event.stopPropagation();
                end(false);
                return;
              }
              const handle = handlesOf(row.jig).find((one) => one.id === id);
              if (handle) nudge(event, handle);
            }}
            {...grip(id)}
            sx={{
              position: 'absolute',
              left: 0,
              top: 0,
              width: kind === 'move' ? 24 : 20,
              height: kind === 'move' ? 24 : 20,
              p: 0,
              border: 0,
              bgcolor: 'transparent',
              pointerEvents: 'auto',
              touchAction: 'none',
              cursor: kind === 'move' ? 'move' : kind === 'turn' || kind === 'start' ? 'grab' : 'nwse-resize',
              opacity: takes === 'jig' ? 1 : 0.92,
              '&:focus-visible': { outline: `2px solid ${theme.palette.primary.main}`, outlineOffset: 1, borderRadius: '4px' },
              '&:hover svg': { transform: 'scale(1.18)' },
            }}
          >
            <Mark kind={kind} />
          </Box>
        </Tooltip>
      ))}
      {kinds
        .filter(({ kind, id }) => kind === 'side' && id.endsWith('-1') && !id.endsWith('--1'))
        .map(({ id }) => (
          <Box key={id} data-size={id} aria-hidden sx={tag} />
        ))}
      <Box ref={label} role="status" sx={{ ...tag, display: 'none', fontWeight: 650, px: 0.9 }} />
    </Box>
  );
}

const ringAxes = [0, 1, 2] as const;
/** The rings are told apart by their dashes: tip, upright, in the plane. */
const ringDashes = ['5 4', '14 5', 'none'] as const;

const ringPath = (places: readonly (readonly number[])[]) => `M${places.map(([x, y]) => `${x!.toFixed(1)} ${y!.toFixed(1)}`).join('L')}Z`;

const tag = {
  position: 'absolute',
  left: 0,
  top: 0,
  px: 0.6,
  borderRadius: '4px',
  bgcolor: 'background.paper',
  color: 'text.primary',
  border: 1,
  borderColor: 'divider',
  fontSize: 11.5,
  lineHeight: '18px',
  whiteSpace: 'nowrap',
  fontVariantNumeric: 'tabular-nums',
} as const;

const cobalt = overlays.jig;
const paper = overlays.seamCasing;

/** Signs of the handles: a cross moves, a bar sizes a side, a square sizes evenly, a ring turns, a flag is the start line. */
function Mark({ kind }: { kind: Handle['kind'] }) {
  const stroke = { stroke: paper, strokeWidth: 2, fill: cobalt };
  return (
    <svg viewBox="-10 -10 20 20" width="100%" height="100%" aria-hidden style={{ display: 'block' }}>
      {kind === 'move' && (
        <g strokeLinecap="round">
          <path d="M0-8V8M-8 0H8" stroke={paper} strokeWidth="6.5" />
          <path d="M0-8V8M-8 0H8" stroke={cobalt} strokeWidth="3" />
        </g>
      )}
      {kind === 'side' && <circle r="5" {...stroke} />}
      {kind === 'even' && <rect x="-6" y="-6" width="12" height="12" {...stroke} />}
      {kind === 'turn' && (
        <g fill="none">
          <circle r="6" stroke={paper} strokeWidth="6" />
          <circle r="6" stroke={cobalt} strokeWidth="3" strokeDasharray="28 10" strokeDashoffset="4" strokeLinecap="round" />
        </g>
      )}
      {kind === 'start' && <path d="M-3-8V8M-3-8L7-4L-3 0" {...stroke} stroke={paper} strokeWidth="1.6" />}
    </svg>
  );
}

const stepOf = (jig: Jig) => roundStep(Math.max(...jig.size));

function saysWords({ value, what }: Dragged['says'], unit: string): string {
  if (what === 'turned') return `turned ${value.toFixed(1)}°`;
  if (what === 'start') return `start line at ${value.toFixed(1)}°`;
  if (what === 'moved') return `moved ${figureWords(value)}${unit}`;
  return `${figureWords(value)}${unit}${what === 'evenly' ? ' wide, even' : ''}`;
}

function turnedBy(jig: Jig, handle: Handle, degrees: number): Jig {
  // a quarter of a turn's worth of lines of sight would do; the same function that the pointer uses keeps both alike
  const axis = axesOf(jig)[handle.axis];
  const side = axesOf(jig)[(handle.axis + 1) % 3]!;
  const other = axesOf(jig)[(handle.axis + 2) % 3]!;
  const [c, s] = [Math.cos((degrees * Math.PI) / 180), Math.sin((degrees * Math.PI) / 180)];
  const far = (x: Vector) => jig.origin.map((o, d) => o + x[d]! + axis[d]!) as unknown as Vector;
  const ray = (x: Vector): Ray => ({ from: far(x), along: axis.map((v) => -v) as unknown as Vector });
  const to = [0, 1, 2].map((d) => side[d]! * c + other[d]! * s) as unknown as Vector;
  return dragHandle(jig, handle, ray(side), ray(to), { angle: 0, step: 0, point: null }).jig;
}

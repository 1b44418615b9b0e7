import { Box, Tooltip, useTheme } from '@mui/material';
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { overlays } from '../../../theme/palette.ts';
import type { Picker } from '../../views/pick.ts';
import type { Stage } from '../../views/stage.ts';

type Vector = [number, number, number];

export interface SurfaceGrip<G extends string> {
  id: G;
  label: string;
  /** The same signs as those of a jig: a cross moves, a dot sizes a side, a square sizes evenly, an open ring turns. */
  sign: 'move' | 'side' | 'even' | 'turn';
}

/** Where grips and lines are in space. */
export interface GripPlaces<G extends string> {
  grips: Readonly<Record<G, Vector>>;
  /** Dashed lines; closed ones come back to their start. */
  lines: readonly (readonly Vector[])[];
  /** Px that grips are from this place at the least, so that they do not cover one another where all is small. */
  apart?: { from: Vector; px: Readonly<Record<G, number>> };
}

interface Props<G extends string, T> {
  stage: Stage;
  picker: Picker;
  label: string;
  grips: readonly SurfaceGrip<G>[];
  /** What is held as it is kept, and as it is shown now. */
  value: T;
  shown(): T;
  /** @param view the direction of sight in the middle of the view */
  placesOf(value: T, view: Vector): GripPlaces<G>;
  /** @returns null where the pointer says nothing */
  drag(grip: G, x: number, y: number, isHeld: boolean): T | null;
  /** By an arrow key: x to the right, y up. */
  nudge(grip: G, x: number, y: number, isFine: boolean): T;
  preview(value: T): void;
  keep(value: T, grip: G): void;
  drop(): void;
}

const arrows: Partial<Record<string, [number, number]>> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

/** Grips of something on the surface at Images, over the model view: by pointer and by arrow keys. Nothing is drawn by React while one is dragged. */
export function SurfaceGrips<G extends string, T>({ stage, picker, label, grips, value, shown, placesOf, drag, nudge, preview, keep, drop }: Props<G, T>) {
  const theme = useTheme();
  const host = useRef<HTMLDivElement>(null);
  const held = useRef<{ grip: G; now: T | null } | null>(null);
  const [dragging, setDragging] = useState(false);

  useEffect(() => {
    const place = () => {
      const element = host.current;
      if (!element) return;
      const { width, height } = stage.rects.model;
      const { grips: places, lines, apart } = placesOf(shown(), [...picker.sight(width / 2, height / 2).along]);
      const px = (at: Vector) => picker.projectPlace(...at);
      const path = lines
        .map(
          (line) =>
            `M${line
              .map((at) =>
                px(at)
                  .map((x) => x.toFixed(1))
                  .join(' '),
              )
              .join('L')}`,
        )
        .join('');
      element.querySelectorAll('path[data-outline]').forEach((outline) => outline.setAttribute('d', path));
      for (const { id } of grips) {
        let [x, y] = px(places[id]);
        if (apart) {
          const [midX, midY] = px(apart.from);
          const off = Math.hypot(x - midX, y - midY);
          const further = off > 0 ? Math.max(1, apart.px[id] / off) : 1;
          [x, y] = [midX + (x - midX) * further, midY + (y - midY) * further];
        }
        // one that is beyond the view waits at its edge
        const [left, top] = [Math.max(12, Math.min(width - 12, x)), Math.max(12, Math.min(height - 12, y))];
        const handle = element.querySelector<HTMLElement>(`[data-grip="${id}"]`);
        if (handle) handle.style.transform = `translate(${left.toFixed(1)}px, ${top.toFixed(1)}px) translate(-50%, -50%)`;
      }
    };
    stage.overlays.model.add(place);
    stage.invalidateOver('model');
    return () => {
      stage.overlays.model.delete(place);
    };
    // what is asked for changes with what is held alone
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [stage, picker, value]);

  const end = (isKept: boolean) => {
    const own = held.current;
    held.current = null;
    setDragging(false);
    if (!own) return;
    if (isKept && own.now) keep(own.now, own.grip);
    else drop();
  };
  const gripOf = (grip: G) => ({
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      // not every browser gives the focus to a button that is pressed, and Escape is to be heard
      (event.currentTarget as HTMLElement).focus();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = { grip, now: null };
      setDragging(true);
    },
    onPointerMove: (event: PointerEvent) => {
      const own = held.current;
      if (!own) return;
      event.stopPropagation();
      const box = host.current!.getBoundingClientRect();
      const next = drag(grip, event.clientX - box.left, event.clientY - box.top, event.ctrlKey || event.metaKey);
      if (!next) return;
      own.now = next;
      preview(next);
    },
    onPointerUp: (event: PointerEvent) => {
      event.stopPropagation();
      end(true);
    },
    onPointerCancel: () => end(false),
    onKeyDown: (event: KeyboardEvent) => {
      const by = arrows[event.key];
      if (event.key === 'Escape' && held.current) end(false);
      else if (by) keep(nudge(grip, ...by, event.shiftKey), grip);
      else return;
      event.preventDefault();
      event.stopPropagation();
    },
  });
  return (
    <Box ref={host} role="group" aria-label={label} sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      <svg aria-hidden width="100%" height="100%" style={{ position: 'absolute', inset: 0 }}>
        <path data-outline fill="none" stroke={overlays.seamCasing} strokeWidth="4" strokeLinejoin="round" />
        <path data-outline fill="none" stroke={overlays.jig} strokeWidth="2" strokeLinejoin="round" strokeDasharray="7 4" />
      </svg>
      {grips.map(({ id, label: words, sign }) => (
        <Tooltip key={id} title={dragging ? '' : words} enterDelay={500} disableInteractive>
          <Box
            component="button"
            type="button"
            data-grip={id}
            data-chrome
            aria-label={words}
            {...gripOf(id)}
            sx={{
              position: 'absolute',
              left: 0,
              top: 0,
              width: 20,
              height: 20,
              p: 0,
              border: 0,
              bgcolor: 'transparent',
              pointerEvents: 'auto',
              touchAction: 'none',
              cursor: sign === 'move' ? 'move' : sign === 'turn' ? 'grab' : 'nwse-resize',
              '&:focus-visible': { outline: `2px solid ${theme.palette.primary.main}`, outlineOffset: 1, borderRadius: '4px' },
              '&:hover svg': { transform: 'scale(1.18)' },
            }}
          >
            <Sign sign={sign} />
          </Box>
        </Tooltip>
      ))}
    </Box>
  );
}

function Sign({ sign }: Pick<SurfaceGrip<string>, 'sign'>) {
  const stroke = { stroke: overlays.seamCasing, strokeWidth: 2, fill: overlays.jig };
  return (
    <svg viewBox="-10 -10 20 20" width="100%" height="100%" aria-hidden style={{ display: 'block' }}>
      {sign === 'move' && (
        <g strokeLinecap="round">
          <path d="M0-8V8M-8 0H8" stroke={overlays.seamCasing} strokeWidth="6.5" />
          <path d="M0-8V8M-8 0H8" stroke={overlays.jig} strokeWidth="3" />
        </g>
      )}
      {sign === 'side' && <circle r="5" {...stroke} />}
      {sign === 'even' && <rect x="-6" y="-6" width="12" height="12" {...stroke} />}
      {sign === 'turn' && (
        <g fill="none">
          <circle r="6" stroke={overlays.seamCasing} strokeWidth="6" />
          <circle r="6" stroke={overlays.jig} strokeWidth="3" strokeDasharray="28 10" strokeDashoffset="4" strokeLinecap="round" />
        </g>
      )}
    </svg>
  );
}

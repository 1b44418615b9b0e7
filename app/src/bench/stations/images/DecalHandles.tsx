import { Box, Tooltip, useTheme } from '@mui/material';
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { DecalFrame, Layer } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { show, useShown } from '../../../store/shown.ts';
import { overlays } from '../../../theme/palette.ts';
import type { Picker } from '../../views/pick.ts';
import type { Stage } from '../../views/stage.ts';
import { decalGrips, draggedDecal, gripPlaces, outOf, placeOn, type DecalGrip } from './decalGrips.ts';
import { frameOn, turnOf } from './decalTool.ts';
import { layersIn, previewLayer, setLayer, useLayerChoice } from './layerWork.ts';

const words: Record<DecalGrip, { label: string; done: string }> = {
  move: { label: 'Move the decal over the surface', done: 'moved' },
  width: { label: 'Width of the decal', done: 'sized' },
  height: { label: 'Height of the decal', done: 'sized' },
  even: { label: 'Size of the decal', done: 'sized' },
  turn: { label: 'Turn the decal; Ctrl: by 15°', done: 'turned' },
};

/** Px from the one in the middle at the least. */
const leastPx: Record<DecalGrip, number> = { move: 0, width: 26, height: 26, even: 36, turn: 52 };

interface Props {
  stage: Stage;
  picker: Picker;
}

/** Handles of the decal that is open at Images, over the model view. */
export default function DecalHandles({ stage, picker }: Props) {
  const { material, layer: id } = useLayerChoice();
  const layer = useBench((s) => (s.summary && id !== null ? layersIn(s.summary, material).find((one) => one.id === id) : undefined));
  if (!layer || layer.driver.kind !== 'decal' || !layer.isOn) return null;
  return <Handles key={layer.id} stage={stage} picker={picker} layer={layer} frame={layer.driver} />;
}

/** Nothing is drawn by React while a handle is dragged. */
function Handles({ stage, picker, layer, frame }: Props & { layer: Layer; frame: DecalFrame }) {
  const theme = useTheme();
  const host = useRef<HTMLDivElement>(null);
  const drag = useRef<{ grip: DecalGrip; now: Layer | null } | null>(null);
  const [dragging, setDragging] = useState(false);

  useEffect(() => {
    const place = () => {
      const element = host.current;
      if (!element) return;
      const shown = useShown.getState().layer;
      const now = shown?.id === layer.id && shown.driver.kind === 'decal' ? shown.driver : frame;
      const corners = (
        [
          [-0.5, -0.5],
          [0.5, -0.5],
          [0.5, 0.5],
          [-0.5, 0.5],
        ] as const
      ).map(([x, y]) => picker.projectPlace(...placeOn(now, x, y)));
      const path = `M${corners.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`;
      element.querySelectorAll('path[data-outline]').forEach((outline) => outline.setAttribute('d', path));
      const { width, height } = stage.rects.model;
      const places = gripPlaces(now);
      const [midX, midY] = picker.projectPlace(...places.move);
      for (const grip of decalGrips) {
        const [px, py] = picker.projectPlace(...places[grip]);
        // of a small decal they would cover one another
        const off = Math.hypot(px - midX, py - midY);
        const further = off > 0 ? Math.max(1, leastPx[grip] / off) : 1;
        const [x, y] = [midX + (px - midX) * further, midY + (py - midY) * further];
        // one that is beyond the view waits at its edge
        const [left, top] = [Math.max(12, Math.min(width - 12, x)), Math.max(12, Math.min(height - 12, y))];
        const handle = element.querySelector<HTMLElement>(`[data-grip="${grip}"]`);
        if (handle) handle.style.transform = `translate(${left.toFixed(1)}px, ${top.toFixed(1)}px) translate(-50%, -50%)`;
      }
    };
    stage.overlays.model.add(place);
    stage.invalidateOver('model');
    return () => {
      stage.overlays.model.delete(place);
    };
  }, [stage, picker, layer, frame]);

  const end = (keep: boolean) => {
    const held = drag.current;
    drag.current = null;
    setDragging(false);
    if (!held) return;
    if (keep && held.now) void setLayer(held.now, words[held.grip].done);
    else show({ layer: null });
  };
  const to = (driver: DecalFrame): Layer => ({ ...layer, driver });
  const nudge = (event: KeyboardEvent, grip: DecalGrip) => {
    const by = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const [x, y] = by as [number, number];
    const factor = x + y > 0 ? 1.05 : 1 / 1.05;
    const [wide, tall] = frame.size;
    const next: DecalFrame =
      grip === 'move'
        ? { ...frame, centre: placeOn(frame, x * 0.05, y * 0.05) }
        : grip === 'turn'
          ? { ...frame, ...frameOn(outOf(frame), turnOf(frame) + (x - y) * -(event.shiftKey ? 1 : 15)) }
          : { ...frame, size: [grip === 'height' ? wide : wide * factor, grip === 'width' ? tall : tall * factor] };
    void setLayer(to(next), words[grip].done);
  };
  const gripOf = (grip: DecalGrip) => ({
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      drag.current = { grip, now: null };
      setDragging(true);
    },
    onPointerMove: (event: PointerEvent) => {
      const held = drag.current;
      if (!held) return;
      event.stopPropagation();
      const box = host.current!.getBoundingClientRect();
      const [x, y] = [event.clientX - box.left, event.clientY - box.top];
      let next: DecalFrame | null;
      if (grip === 'move') {
        const on = picker.facing(x, y);
        next = on && { ...frame, centre: [...on.place], ...frameOn(on.out, turnOf(frame)) };
      } else next = draggedDecal(frame, grip, picker.sight(x, y), event.ctrlKey || event.metaKey ? 15 : 0);
      if (!next) return;
      held.now = to(next);
      previewLayer(held.now);
    },
    onPointerUp: (event: PointerEvent) => {
      event.stopPropagation();
      end(true);
    },
    onPointerCancel: () => end(false),
  });
  return (
    <Box ref={host} role="group" aria-label={`Handles of ${layer.name}`} sx={{ position: 'absolute', inset: 0, overflow: 'hidden', pointerEvents: 'none' }}>
      <svg aria-hidden width="100%" height="100%" style={{ position: 'absolute', inset: 0 }}>
        <path data-outline fill="none" stroke={overlays.seamCasing} strokeWidth="4" strokeLinejoin="round" />
        <path data-outline fill="none" stroke={overlays.jig} strokeWidth="2" strokeLinejoin="round" strokeDasharray="7 4" />
      </svg>
      {decalGrips.map((grip) => (
        <Tooltip key={grip} title={dragging ? '' : words[grip].label} enterDelay={500} disableInteractive>
          <Box
            component="button"
            type="button"
            data-grip={grip}
            data-chrome
            aria-label={words[grip].label}
            onKeyDown={(event: KeyboardEvent) => {
              if (event.key === 'Escape' && drag.current) {
                event.stopPropagation();
                end(false);
              } else nudge(event, grip);
            }}
            {...gripOf(grip)}
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
              cursor: grip === 'move' ? 'move' : grip === 'turn' ? 'grab' : 'nwse-resize',
              '&:focus-visible': { outline: `2px solid ${theme.palette.primary.main}`, outlineOffset: 1, borderRadius: '4px' },
              '&:hover svg': { transform: 'scale(1.18)' },
            }}
          >
            <Sign grip={grip} />
          </Box>
        </Tooltip>
      ))}
    </Box>
  );
}

/** The same signs as those of a jig: a cross moves, a dot sizes a side, a square sizes evenly, an open ring turns. */
function Sign({ grip }: { grip: DecalGrip }) {
  const stroke = { stroke: overlays.seamCasing, strokeWidth: 2, fill: overlays.jig };
  return (
    <svg viewBox="-10 -10 20 20" width="100%" height="100%" aria-hidden style={{ display: 'block' }}>
      {grip === 'move' && (
        <g strokeLinecap="round">
          <path d="M0-8V8M-8 0H8" stroke={overlays.seamCasing} strokeWidth="6.5" />
          <path d="M0-8V8M-8 0H8" stroke={overlays.jig} strokeWidth="3" />
        </g>
      )}
      {(grip === 'width' || grip === 'height') && <circle r="5" {...stroke} />}
      {grip === 'even' && <rect x="-6" y="-6" width="12" height="12" {...stroke} />}
      {grip === 'turn' && (
        <g fill="none">
          <circle r="6" stroke={overlays.seamCasing} strokeWidth="6" />
          <circle r="6" stroke={overlays.jig} strokeWidth="3" strokeDasharray="28 10" strokeDashoffset="4" strokeLinecap="round" />
        </g>
      )}
    </svg>
  );
}

import { useEffect, useRef } from 'react';
import { tileNumber, tilePlace } from '@jig-peel/core';
import { overlays, palettes, type Palette } from '../../theme/palette.ts';
import { monospaced } from '../../theme/theme.ts';
import { usePreferences } from '../../store/preferences.ts';
import { useShown } from '../../store/shown.ts';
import { useBench, type BenchState } from '../../store/bench.ts';
import type { JobSummary, LayoutView } from '../../session/messages.ts';
import { doneIslands } from '../done.ts';
import type { SheetCamera } from './cameras.ts';
import { cleared } from './overlayCanvas.ts';
import { usePacking } from '../packing.ts';
import { usePairing } from '../pairing.ts';
import { drawPairs } from './pairMarks.ts';
import { useFielding } from '../hands/fielding.ts';
import { useHands } from '../hands/handsState.ts';
import { drawFrame } from './drawFrame.ts';
import { drawValues } from './pointValues.ts';
import { straightMarks } from './straightMarks.ts';
import type { Stage } from './stage.ts';

const strip = 20;

/** What `draw` looks at. */
const drawnFrom = [
  'summary',
  'layout',
  'geometry',
  'overlay',
  'look',
  'kind',
  'notches',
  'notchMarks',
  'pinMoving',
  'tool',
  'sheetParts',
  'packing',
  'station',
  'stretchMap',
  'strokes',
] as const;

/** Strokes along which the picture is drawn out, at most one in a patch of the screen. */
function strokes(c: CanvasRenderingContext2D, eye: SheetCamera, marks: Float32Array, color: string, width: number, height: number): void {
  const patch = 13;
  const taken = new Set<number>();
  c.strokeStyle = color;
  c.lineWidth = 1.2;
  c.beginPath();
  for (let k = 0; k < marks.length; k += 5) {
    const [x, y] = eye.toPx(marks[k]!, marks[k + 1]!, width, height);
    if (x < 0 || y < 0 || x > width || y > height) continue;
    const key = Math.floor(x / patch) * 10_000 + Math.floor(y / patch);
    if (taken.has(key)) continue;
    taken.add(key);
    const half = 2.5 + 3.5 * Math.min(1, marks[k + 4]!);
    c.moveTo(x - marks[k + 2]! * half, y + marks[k + 3]! * half);
    c.lineTo(x + marks[k + 2]! * half, y - marks[k + 3]! * half);
  }
  c.stroke();
}

/** The rectangle of the sheet that packing goes into. */
function area(c: CanvasRenderingContext2D, eye: SheetCamera, p: Palette, width: number, height: number): void {
  const { area: chosen, polygon, isDrawn } = usePacking.getState();
  if (polygon) {
    c.lineWidth = 2;
    c.strokeStyle = p.selected;
    c.fillStyle = p.selected;
    c.setLineDash([8, 4]);
    c.beginPath();
    polygon.forEach(([u, v], k) => (k === 0 ? c.moveTo(...eye.toPx(u, v, width, height)) : c.lineTo(...eye.toPx(u, v, width, height))));
    if (!isDrawn) c.closePath();
    c.stroke();
    c.setLineDash([]);
    polygon.forEach(([u, v], k) => {
      const [x, y] = eye.toPx(u, v, width, height);
      const half = isDrawn && k === 0 ? 5 : 3.5;
      c.fillRect(x - half, y - half, 2 * half, 2 * half);
    });
    return;
  }
  if (!chosen) return;
  const [x0, y0] = eye.toPx(chosen[0], chosen[3], width, height);
  const [x1, y1] = eye.toPx(chosen[2], chosen[1], width, height);
  c.lineWidth = 2;
  c.setLineDash([8, 4]);
  c.strokeStyle = p.selected;
  c.strokeRect(x0, y0, x1 - x0, y1 - y0);
  c.setLineDash([]);
}

/** The box that packing goes into: the rectangle, or the one round the polygon; null: all of the sheet. */
function roomNow(): [number, number, number, number] | null {
  const { area: rectangle, polygon, isDrawn } = usePacking.getState();
  if (!polygon || isDrawn || polygon.length < 3) return rectangle;
  const [us, vs] = [polygon.map(([u]) => u), polygon.map(([, v]) => v)];
  return [Math.min(...us), Math.min(...vs), Math.max(...us), Math.max(...vs)];
}

/** The best layout of a search that is under way, in place of what is on the sheet. */
function found(
  c: CanvasRenderingContext2D,
  eye: SheetCamera,
  { outlines }: NonNullable<BenchState['packing']>,
  p: Palette,
  width: number,
  height: number,
  tiles: number,
): void {
  c.fillStyle = p.sheet;
  for (let tile = 0; tile < tiles; tile++) {
    const [column, row] = tilePlace(tile);
    const [x0, y0] = eye.toPx(column, row + 1, width, height);
    const [x1, y1] = eye.toPx(column + 1, row, width, height);
    c.globalAlpha = 0.94;
    c.fillRect(x0, y0, x1 - x0, y1 - y0);
  }
  c.globalAlpha = 1;
  c.fillStyle = p.otherPaper;
  c.strokeStyle = p.selectedEdge;
  c.lineWidth = 1;
  c.beginPath();
  // what is looked for lies in the rectangle that it goes into
  const [left, bottom, right, top] = roomNow() ?? [0, 0, 1, 1];
  for (const loops of outlines) {
    for (const loop of loops) {
      for (let k = 0; k < loop.length; k += 2) {
        const [x, y] = eye.toPx(left + loop[k]! * (right - left), bottom + loop[k + 1]! * (top - bottom), width, height);
        if (k === 0) c.moveTo(x, y);
        else c.lineTo(x, y);
      }
      c.closePath();
    }
  }
  c.fill('nonzero');
  c.stroke();
}

/** Rulers (UV below and left, px above) and the islands' letters, drawn over the sheet view. */
export function SheetOverlay({ stage }: { stage: Stage }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const mode = usePreferences((s) => s.mode);
  useEffect(() => {
    const p = palettes[mode];
    const draw = () => {
      const { width, height } = stage.rects.sheet;
      const c = cleared(canvas.current, stage.rects.sheet);
      if (!c) return;
      const state = useBench.getState();
      const { summary, layout, overlay } = state;
      const eye = stage.sheetEye;
      // letters
      c.textAlign = 'center';
      c.textBaseline = 'middle';
      // letters, notches and pins of the job's layout say nothing where another is shown in its place; a pin that is dragged shapes its own
      const isOwn = layout !== null && stage.layout === layout && (useShown.getState().uvs === null || state.pinMoving !== null);
      if (isOwn && overlay !== 'grid' && overlay !== 'picture') {
        const done = doneIslands(state);
        // of a stack one letter
        const copies = new Set(
          (summary?.stacks ?? []).flatMap(({ islands }) =>
            islands
              .filter(({ part }) => part === summary!.activePart)
              .slice(1)
              .map(({ island }) => island),
          ),
        );
        let shown = 0;
        for (const [k, island] of layout.islands.entries()) {
          if (island.unplaced || shown > 400 || copies.has(k)) continue;
          const [x, y] = eye.toPx(island.u, island.v, width, height);
          const size = Math.min(26, Math.max(10, Math.min(island.width * eye.aspect, island.height) * eye.scale * 0.3));
          if (Math.max(island.width, island.height) * eye.scale < 14 || x < 0 || y < 0 || x > width || y > height) continue;
          shown++;
          c.font = `700 ${size}px "Hanken Grotesk Variable", sans-serif`;
          c.lineWidth = 3;
          c.strokeStyle = 'rgba(251,248,241,0.85)';
          const words = done.has(island.letter) ? `${island.letter} ✓` : island.letter;
          c.strokeText(words, x, y);
          c.fillStyle = p.selectedEdge;
          c.fillText(words, x, y);
          if (island.block && state.station === 'pack') blockNumber(c, x - c.measureText(words).width / 2 - 11, y, island.block, p);
          if (island.locked) padlock(c, x + c.measureText(words).width / 2 + 9, y, p.selectedEdge);
        }
      }
      if (isOwn) {
        if (state.notches && state.notchMarks?.layout === layout) notches(c, eye, state.notchMarks.marks, width, height);
        if (state.station === 'seams' || state.station === 'shape') straightMarks(c, eye, layout, width, height);
        pins(c, eye, state, p.selected, width, height);
      }
      if (isOwn && overlay === 'stretch' && state.stretchMap === 'shape' && state.strokes?.layout === layout)
        strokes(c, eye, state.strokes.marks, p.selectedEdge, width, height);
      fields(c, eye, p.matText, width, height);
      drawPairs(c, 'places', p.matText, p.mat, ([u, v]) => eye.toPx(u!, v!, width, height));
      if (state.packing) found(c, eye, state.packing, p, width, height, stage.tiles);
      if (summary) badges(c, eye, summary.stacks, p, width, height);
      if (state.station === 'pack') area(c, eye, p, width, height);
      drawFrame(c, eye, width, height);
      // while a hand has the points elsewhere, the values beside them would be those of before
      if (!useHands.getState().drag) drawValues(c, state, (value) => eye.toPx(value.u, value.v, width, height));
      tray(c, eye, p.matText, width, height, layout);
      if (stage.tiles > 1) tileNumbers(c, eye, p.matText, width, height, stage.tiles);
      // rulers
      c.fillStyle = p.mat;
      c.fillRect(0, height - strip, width, strip);
      c.fillRect(0, 0, strip + 14, height);
      c.strokeStyle = p.matLineStrong;
      c.fillStyle = p.matText;
      c.lineWidth = 1;
      c.font = `10.5px ${monospaced}`;
      const sheet = summary?.settings ?? { width: 2048, height: 2048 };
      const tick = (perUnit: number) => {
        const target = 64 / perUnit;
        const power = 2 ** Math.round(Math.log2(target));
        return Math.max(1 / 256, power);
      };
      const stepU = tick(eye.scale * eye.aspect);
      const [left] = eye.toUv(strip + 14, 0, width, height);
      const [right] = eye.toUv(width, 0, width, height);
      c.beginPath();
      for (let k = Math.ceil(left / stepU); k * stepU <= right; k++) {
        const [x] = eye.toPx(k * stepU, 0, width, height);
        c.moveTo(x + 0.5, height - strip);
        c.lineTo(x + 0.5, height - strip + 5);
        c.fillText(label(k * stepU), x, height - 8);
      }
      const stepV = tick(eye.scale);
      const [, top] = eye.toUv(0, 0, width, height);
      const [, bottom] = eye.toUv(0, height - strip, width, height);
      c.textAlign = 'right';
      for (let k = Math.ceil(bottom / stepV); k * stepV <= top; k++) {
        const [, y] = eye.toPx(0, k * stepV, width, height);
        c.moveTo(strip + 9, y + 0.5);
        c.lineTo(strip + 14, y + 0.5);
        c.fillText(String(Math.round(k * stepV * sheet.height)), strip + 7, y);
      }
      c.stroke();
      c.fillStyle = p.mat;
      c.fillRect(0, height - strip, strip + 14, strip);
      c.fillStyle = p.matText;
      c.textAlign = 'left';
      c.fillText('px│uv', 2, height - 8);
    };
    stage.overlays.sheet.add(draw);
    stage.invalidateOver('sheet');
    const stop = useBench.subscribe((s, before) => {
      if (drawnFrom.some((key) => s[key] !== before[key])) stage.invalidateOver('sheet');
    });
    const stopHands = useHands.subscribe(() => stage.invalidateOver('sheet'));
    const stopPairs = usePairing.subscribe(() => stage.invalidateOver('sheet'));
    const stopFields = useFielding.subscribe(() => stage.invalidateOver('sheet'));
    const stopPacking = usePacking.subscribe(() => stage.invalidateOver('sheet'));
    return () => {
      stop();
      stopHands();
      stopPacking();
      stopFields();
      stopPairs();
      stage.overlays.sheet.delete(draw);
    };
  }, [stage, mode]);
  return <canvas ref={canvas} aria-hidden style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }} />;
}

/** Matching ticks with the seam's letter on both sides of each seam. */
function notches(c: CanvasRenderingContext2D, eye: SheetCamera, marks: Float32Array, width: number, height: number) {
  c.font = `700 11px ${monospaced}`;
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  for (let k = 0; k < marks.length; k += 6) {
    const [x, y] = eye.toPx(marks[k + 2]!, marks[k + 3]!, width, height);
    if (x < 0 || y < 0 || x > width || y > height) continue;
    const [tx, ty] = eye.toPx(marks[k + 2]! + marks[k + 4]! * 1e-3, marks[k + 3]! + marks[k + 5]! * 1e-3, width, height);
    const long = Math.hypot(tx - x, ty - y) || 1;
    const [nx, ny] = [(tx - x) / long, (ty - y) / long];
    const ticks = marks[k + 1]!;
    for (const [color, wide] of [
      [overlays.seamCasing, 4],
      [overlays.selectedEdge, 1.8],
    ] as const) {
      c.strokeStyle = color;
      c.lineWidth = wide;
      c.beginPath();
      for (let t = 0; t < ticks; t++) {
        const by = (t - (ticks - 1) / 2) * 4;
        c.moveTo(x - ny * by - nx * 2, y + nx * by - ny * 2);
        c.lineTo(x - ny * by + nx * 8, y + nx * by + ny * 8);
      }
      c.stroke();
    }
    c.lineWidth = 3;
    c.strokeStyle = overlays.seamCasing;
    c.fillStyle = overlays.selectedEdge;
    const letter = String.fromCharCode(97 + marks[k]!);
    c.strokeText(letter, x + nx * 16, y + ny * 16);
    c.fillText(letter, x + nx * 16, y + ny * 16);
  }
}

/** Round-headed sewing pins; the one on its way where the pointer has it. */
function pins(c: CanvasRenderingContext2D, eye: SheetCamera, { layout, pinMoving }: BenchState, color: string, width: number, height: number) {
  for (const { point, corner } of layout!.pins) {
    const moving = pinMoving?.point === point;
    const [x, y] = eye.toPx(moving ? pinMoving.u : layout!.cornerUv[corner * 2]!, moving ? pinMoving.v : layout!.cornerUv[corner * 2 + 1]!, width, height);
    if (x < -20 || y < -20 || x > width + 20 || y > height + 20) continue;
    for (const [line, wide] of [
      [overlays.seamCasing, 4],
      [overlays.selectedEdge, 1.6],
    ] as const) {
      c.strokeStyle = line;
      c.lineWidth = wide;
      c.beginPath();
      c.moveTo(x, y);
      c.lineTo(x, y - 10);
      c.stroke();
    }
    c.beginPath();
    c.arc(x, y - 14, moving ? 6.5 : 5, 0, 2 * Math.PI);
    c.fillStyle = color;
    c.fill();
    c.lineWidth = 1.6;
    c.strokeStyle = overlays.selectedEdge;
    c.stroke();
  }
}

/** A small padlock: packing leaves the island there. */
function padlock(c: CanvasRenderingContext2D, x: number, y: number, color: string) {
  for (const [line, wide] of [
    [overlays.seamCasing, 5],
    [color, 2],
  ] as const) {
    c.strokeStyle = line;
    c.lineWidth = wide;
    c.beginPath();
    c.arc(x, y - 2, 3.2, Math.PI, 0);
    c.moveTo(x - 4, y - 1);
    c.rect(x - 4, y - 1, 8, 6);
    c.stroke();
  }
  c.fillStyle = color;
  c.fillRect(x - 4, y - 1, 8, 6);
}

/** The number of the block that an island is kept together with when it is packed. */
function blockNumber(c: CanvasRenderingContext2D, x: number, y: number, block: number, p: Palette) {
  const { font } = c;
  c.font = `700 10px ${monospaced}`;
  const wide = c.measureText(String(block)).width + 7;
  c.fillStyle = overlays.seamCasing;
  c.strokeStyle = p.selectedEdge;
  c.lineWidth = 1.4;
  c.fillRect(x - wide / 2, y - 7, wide, 14);
  c.strokeRect(x - wide / 2, y - 7, wide, 14);
  c.fillStyle = p.selectedEdge;
  c.fillText(String(block), x, y + 0.5);
  c.font = font;
}

/** Fields of a picture at hand, with their numbers; those that nothing is on are crossed. */
function fields(c: CanvasRenderingContext2D, eye: SheetCamera, color: string, width: number, height: number) {
  const { fields: list, unused } = useFielding.getState();
  if (!list) return;
  c.font = `600 11px ${monospaced}`;
  c.textAlign = 'left';
  c.textBaseline = 'top';
  c.lineWidth = 1.6;
  c.strokeStyle = color;
  c.fillStyle = color;
  list.forEach(([left, bottom, right, top], k) => {
    const [x0, y0] = eye.toPx(left, top, width, height);
    const [x1, y1] = eye.toPx(right, bottom, width, height);
    c.setLineDash([6, 4]);
    c.strokeRect(x0, y0, x1 - x0, y1 - y0);
    c.setLineDash([]);
    if (unused.has(k)) {
      c.beginPath();
      c.moveTo(x0, y0);
      c.lineTo(x1, y1);
      c.moveTo(x1, y0);
      c.lineTo(x0, y1);
      c.stroke();
    }
    if (x1 - x0 > 18) c.fillText(String(k + 1), x0 + 3, y0 + 3);
  });
}

/** How many islands a stack has, at its upper right corner. */
function badges(c: CanvasRenderingContext2D, eye: SheetCamera, stacks: JobSummary['stacks'], p: Palette, width: number, height: number) {
  c.font = `700 11px ${monospaced}`;
  c.textAlign = 'center';
  c.textBaseline = 'middle';
  for (const { box, islands } of stacks) {
    const [x, y] = eye.toPx(box[2], box[3], width, height);
    if (x < 0 || y < 0 || x > width || y > height) continue;
    const words = `×${islands.length}`;
    const wide = c.measureText(words).width + 10;
    c.fillStyle = p.selectedEdge;
    c.beginPath();
    c.roundRect(x - wide / 2, y - 8, wide, 16, 8);
    c.fill();
    c.lineWidth = 1.5;
    c.strokeStyle = overlays.seamCasing;
    c.stroke();
    c.fillStyle = overlays.seamCasing;
    c.fillText(words, x, y + 0.5);
  }
}

/** The number of each tile, in its upper left corner. */
function tileNumbers(c: CanvasRenderingContext2D, eye: SheetCamera, color: string, width: number, height: number, tiles: number) {
  c.fillStyle = color;
  c.font = `600 12px ${monospaced}`;
  c.textAlign = 'left';
  c.textBaseline = 'top';
  for (let k = 0; k < tiles; k++) {
    const [column, row] = tilePlace(k);
    const [x, y] = eye.toPx(column, row + 1, width, height);
    if (x > -60 && y > -20 && x < width && y < height) c.fillText(String(tileNumber(k)), x + 5, y + 4);
  }
}

/** The tray's ground and name, where something waits in it. */
function tray(c: CanvasRenderingContext2D, eye: SheetCamera, color: string, width: number, height: number, layout: LayoutView | null) {
  const waiting = layout?.islands.filter((island) => island.waits) ?? [];
  if (waiting.length === 0) return;
  const left = waiting.reduce((least, island) => Math.min(least, island.left), Infinity) - 0.02;
  const [x0, y0] = eye.toPx(left, 1, width, height);
  const [x1, y1] = eye.toPx(-0.02, 0, width, height);
  c.strokeStyle = color;
  c.setLineDash([5, 4]);
  c.strokeRect(x0, y0, x1 - x0, y1 - y0);
  c.setLineDash([]);
  c.fillStyle = color;
  c.font = '600 12px "Hanken Grotesk Variable", sans-serif';
  c.textAlign = 'right';
  c.textBaseline = 'bottom';
  c.fillText(`tray: ${waiting.length} waiting`, x1, y0 - 4);
}

const label = (x: number) => String(Math.round(x * 10000) / 10000);

import { Vector3 } from 'three';
import type { LayoutView, PartGeometry } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import type { Stage, ViewName } from './stage.ts';
import { wholeSheet } from './wholeSheet.ts';

/** The whole of a view that nobody has moved is kept in it. */
export function keepWhole(stage: Stage, view: ViewName) {
  const { geometry } = stage;
  const { width, height } = stage.rects[view];
  if (stage.moved[view] || width < 2 || !geometry) return;
  if (view === 'sheet') stage.sheetEye.frame(wholeSheet(stage.layout, stage.tiles, stage.shownSheetParts()), width, height);
  else {
    stage.eye.frame(sampled(geometry.points, geometry.corners), geometry.bounds, width / height);
    stage.eye.distance *= 1.15;
  }
}

/** The part at work is brought into the model view where its middle is not in sight. */
export function bringIntoModel(stage: Stage) {
  const { geometry, eye } = stage;
  if (!geometry) return;
  const { bounds } = geometry;
  const middle = new Vector3(...[0, 1, 2].map((d) => (bounds[d]! + bounds[d + 3]!) / 2)).project(eye.camera);
  if ([middle.x, middle.y, middle.z].every((x) => Math.abs(x) < 1)) return;
  stage.moved.model = false;
  keepWhole(stage, 'model');
  stage.invalidate('model');
}

/** Brings the selection, of all parts, into both views; everything if nothing is selected. */
export function frameSelection(stage: Stage) {
  const { geometry, layout } = stage;
  if (!geometry) return;
  const { model, sheet } = stage.rects;
  let places: ArrayLike<number> = sampled(geometry.points, geometry.corners);
  let flat = wholeSheet(layout, stage.tiles, stage.shownSheetParts());
  stage.moved = { model: false, sheet: false };
  const selected = new Extent(geometry.bounds);
  if (layout) ownSelected(stage, geometry, layout, selected);
  selectedBeside(stage, selected);
  const box = selected.padded();
  if (selected.around.length > 0 || box) {
    stage.moved = { model: true, sheet: true };
    if (selected.around.length > 0) places = selected.around;
    flat = box ?? flat;
  }
  if (model.width > 1) {
    stage.eye.frame(places, geometry.bounds, model.width / model.height);
    // clear of the bars above and below
    stage.eye.distance *= 1.15;
  }
  if (sheet.width > 1) stage.sheetEye.frame(flat, sheet.width, sheet.height);
  stage.invalidate();
}

/** How far what is selected reaches, in space and on the sheet. */
class Extent {
  /** 3 numbers a place. */
  readonly around: number[] = [];
  private readonly box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  /** A single edge would fill the view: a twelfth of the model is kept around it. */
  private readonly size: number;

  constructor(bounds: ArrayLike<number>) {
    this.size = Math.hypot(...[0, 1, 2].map((d) => bounds[d + 3]! - bounds[d]!)) * 0.08;
  }

  place(points: ArrayLike<number>, p: number): void {
    for (let d = 0; d < 3; d++) for (const by of [-this.size, this.size]) for (let k = 0; k < 3; k++) this.around.push(points[p * 3 + k]! + (k === d ? by : 0));
  }

  uv(cornerUv: Float32Array, c: number): void {
    for (let d = 0; d < 2; d++) {
      this.box[d] = Math.min(this.box[d]!, cornerUv[c * 2 + d]!);
      this.box[d + 2] = Math.max(this.box[d + 2]!, cornerUv[c * 2 + d]!);
    }
  }

  /** The box on the sheet with some room around it; null where nothing has a place. */
  padded(): [number, number, number, number] | null {
    const [left, low, right, high] = this.box;
    if (!(left <= right)) return null;
    const pad = Math.max(right - left, high - low) * 0.2 + 0.01;
    return [left - pad, low - pad, right + pad, high + pad];
  }
}

/** What is selected of the part at work. */
function ownSelected(stage: Stage, geometry: PartGeometry, layout: LayoutView, out: Extent): void {
  const selection = useBench.getState().summary?.selection;
  if (!selection || selection.part !== geometry.part || selection.ids.length === 0) return;
  const corners: number[] = [];
  const chosen = new Set(selection.ids);
  if (selection.kind === 'points') geometry.corners.forEach((p, c) => chosen.has(p) && corners.push(c));
  else if (selection.kind === 'edges') {
    const { topology } = stage;
    for (const c of topology.cornersOfEdges(selection.ids)) corners.push(c, topology.nextCorner(c, topology.faceOfCorner(c)));
  } else
    for (let f = 0; f < geometry.faces; f++) {
      if (!chosen.has(selection.kind === 'faces' ? f : layout.faceIsland[f]!)) continue;
      for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) corners.push(c);
    }
  const step = Math.ceil(corners.length / mostPlaces);
  corners.forEach((c, k) => {
    if (k % step === 0) out.place(geometry.points, geometry.corners[c]!);
    if (!layout.allUnplaced) out.uv(layout.cornerUv, c);
  });
}

/** What is selected of the others on its sheet. */
function selectedBeside(stage: Stage, out: Extent): void {
  const { summary } = useBench.getState();
  for (const { part, kind, corners, model } of summary?.alsoMarks ?? []) {
    const isShown = stage.shownContexts().some((one) => one.part === part);
    const step = Math.ceil(model.length / 3 / mostPlaces);
    if (isShown) for (let p = 0; p < model.length / 3; p += step) out.place(model, p);
    const view = stage.shownSheetParts().find((one) => one.part === part);
    if (!view) continue;
    for (const c of corners) out.uv(view.cornerUv, c);
    if (kind !== 'islands') continue;
    const chosen = new Set(summary!.selection.also?.find((one) => one.part === part)?.ids);
    view.borderIsland.forEach((island, k) => chosen.has(island) && out.uv(view.cornerUv, view.border[k * 2]!));
  }
}

/** So many places tell how far something reaches. */
const mostPlaces = 20_000;

/** At most some 20,000 of the points that faces use. */
function sampled(points: Float32Array, corners: Uint32Array): Float32Array {
  const step = Math.max(1, Math.floor(corners.length / mostPlaces));
  const out = new Float32Array(Math.ceil(corners.length / step) * 3);
  for (let k = 0, at = 0; k < corners.length; k += step, at += 3) for (let d = 0; d < 3; d++) out[at + d] = points[corners[k]! * 3 + d]!;
  return out;
}

import { Vector3 } from 'three';
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

/** Brings the selection into both views; everything if nothing is selected. */
export function frameSelection(stage: Stage) {
  const { geometry, layout } = stage;
  if (!geometry) return;
  const { summary } = useBench.getState();
  const { model, sheet } = stage.rects;
  let places: ArrayLike<number> = sampled(geometry.points, geometry.corners);
  let flat = wholeSheet(layout, stage.tiles, stage.shownSheetParts());
  const selection = summary?.selection;
  stage.moved = { model: false, sheet: false };
  if (selection && layout && selection.part === geometry.part && selection.ids.length > 0) {
    stage.moved = { model: true, sheet: true };
    const corners: number[] = [];
    if (selection.kind === 'points') {
      const chosen = new Set(selection.ids);
      geometry.corners.forEach((p, c) => chosen.has(p) && corners.push(c));
    } else if (selection.kind === 'edges') {
      const { topology } = stage;
      for (const c of topology.cornersOfEdges(selection.ids)) corners.push(c, topology.nextCorner(c, topology.faceOfCorner(c)));
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

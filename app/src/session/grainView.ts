import { activeSet, grainAngles, grainOnSheet, grainSeenIn, sheetAspect, type Job, type Part } from '@jig-peel/core';

/** The grain of the part at work as the views show it. */
export interface GrainView {
  /** Degrees off, a face; NaN: no wish. */
  angles: Float32Array;
  /** Arrows: 6 numbers a line, on the model and on the sheet. */
  model: Float32Array;
  sheet: Float32Array;
}

/** Arrows that are drawn at most. */
const mostArrows = 400;

/** Null where the part has none. O(corners) */
export function grainView(job: Job, part: Part): GrainView | null {
  const { grain, mesh } = part;
  if (!grain) return null;
  const set = activeSet(part);
  const aspect = sheetAspect(job, part.id);
  const on = grainOnSheet(mesh, set, grain, aspect);
  const faces = Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f).filter((f) => [0, 1, 2].some((d) => grain[f * 3 + d] !== 0));
  const every = Math.max(1, Math.ceil(faces.length / mostArrows));
  const [model, sheet]: [number[], number[]] = [[], []];
  for (let k = 0; k < faces.length; k += every) {
    const f = faces[k]!;
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    const n = to - from;
    const middle = [0, 0, 0];
    const flat = [0, 0];
    for (let c = from; c < to; c++) {
      for (let d = 0; d < 3; d++) middle[d]! += mesh.points[mesh.corners[c]! * 3 + d]! / n;
      for (let d = 0; d < 2; d++) flat[d]! += set.uv[set.cornerUv[c]! * 2 + d]! / n;
    }
    // as long as the face is wide, or as the arrows left out would be
    let [wide, wideFlat] = [0, 0];
    for (let c = from; c < to; c++) {
      wide += Math.hypot(...[0, 1, 2].map((d) => mesh.points[mesh.corners[c]! * 3 + d]! - middle[d]!)) / n;
      wideFlat += Math.hypot((set.uv[set.cornerUv[c]! * 2]! - flat[0]!) * aspect, set.uv[set.cornerUv[c]! * 2 + 1]! - flat[1]!) / n;
    }
    const size = 0.6 * Math.sqrt(every);
    const way = [grain[f * 3]!, grain[f * 3 + 1]!, grain[f * 3 + 2]!];
    const first = mesh.corners[from]! * 3;
    const out = cross(
      way,
      [0, 1, 2].map((d) => mesh.points[first + d]! - middle[d]!),
    );
    const aside = unit(cross(unit(out), way));
    model.push(...arrow(middle, way, aside, wide * size));
    if (set.unplaced[f]) continue;
    const [x, y] = unit([on[f * 2]!, on[f * 2 + 1]!]) as [number, number];
    sheet.push(...arrow([flat[0]!, flat[1]!, 0], [x / aspect, y, 0], [-y / aspect, x, 0], wideFlat * size));
  }
  const seen = grainSeenIn(job, part, set);
  return { angles: grainAngles(mesh, seen.set, grain, seen.aspect, job.settings.grainAlong), model: Float32Array.from(model), sheet: Float32Array.from(sheet) };
}

/** A shaft and two barbs, 6 numbers a line. */
function arrow(middle: readonly number[], way: readonly number[], aside: readonly number[], half: number): number[] {
  const at = (along: number, off: number) => middle.map((x, d) => x + half * (along * way[d]! + off * aside[d]!));
  const tip = at(1, 0);
  return [...at(-1, 0), ...tip, ...tip, ...at(0.45, 0.32), ...tip, ...at(0.45, -0.32)];
}

const cross = (a: readonly number[], b: readonly number[]) => [0, 1, 2].map((d) => a[(d + 1) % 3]! * b[(d + 2) % 3]! - a[(d + 2) % 3]! * b[(d + 1) % 3]!);
const unit = (a: readonly number[]) => {
  const long = Math.hypot(...a) || 1;
  return a.map((x) => x / long);
};

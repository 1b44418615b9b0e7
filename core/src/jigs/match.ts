import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { imageSizeOf, type Jig } from './jig.ts';
import { project } from './project.ts';
import * as portable from '../numeric/portable.ts';

export const matches = ['size', 'heading', 'phase'] as const;
export type Match = (typeof matches)[number];

/** A shared edge as the jig and as its neighbour throw the image on it: from and to, 4 numbers each. */
interface Shared {
  own: [number, number, number, number];
  other: [number, number, number, number];
  length: number;
}

function sharedEdges(mesh: Mesh, set: UvSet, faces: Uint32Array, target: Uint8Array, jig: Jig): Shared[] {
  const { twin, cornerFace, cornerEdge, edgePoints } = topologyOf(mesh);
  const done = project(mesh, faces, jig);
  const out: Shared[] = [];
  const at = (c: number) => [set.uv[set.cornerUv[c]! * 2]!, set.uv[set.cornerUv[c]! * 2 + 1]!] as const;
  for (let f = 0; f < faces.length; f++) {
    const [from, to] = [done.start[f]!, done.start[f + 1]!];
    for (let k = from; k < to; k++) {
      const t = twin[done.corners[k]!]!;
      if (t < 0 || !target[cornerFace[t]!] || set.unplaced[cornerFace[t]!]) continue;
      const g = cornerFace[t]!;
      const m = t + 1 === mesh.faceStart[g + 1]! ? mesh.faceStart[g]! : t + 1;
      const n = k + 1 === to ? from : k + 1;
      const e = cornerEdge[done.corners[k]!]!;
      const [p, q] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
      out.push({
        own: [done.uv[k * 2]!, done.uv[k * 2 + 1]!, done.uv[n * 2]!, done.uv[n * 2 + 1]!],
        other: [...at(m), ...at(t)],
        length: Math.hypot(mesh.points[p]! - mesh.points[q]!, mesh.points[p + 1]! - mesh.points[q + 1]!, mesh.points[p + 2]! - mesh.points[q + 2]!),
      });
    }
  }
  return out;
}

/**
 * A jig whose image goes on from its neighbours': as large (both lengths of the shared border agree), turned as they are, and without a jump
 * (whole repeats are none). Measured along the edges that the two share, in this order. O(corners of the faces).
 * @param target 1 for each face to match
 * @returns null where the two share no edge
 */
export function matchJig(mesh: Mesh, set: UvSet, faces: Uint32Array, jig: Jig, target: Uint8Array, what: readonly Match[]): Jig | null {
  let next = jig;
  if (what.includes('size')) {
    const shared = sharedEdges(mesh, set, faces, target, next);
    if (shared.length === 0) return null;
    let [own, other] = [0, 0];
    for (const s of shared) {
      own += Math.hypot(s.own[2] - s.own[0], s.own[3] - s.own[1]);
      other += Math.hypot(s.other[2] - s.other[0], s.other[3] - s.other[1]);
    }
    if (own > 0 && other > 0) next = resized(next, other / own);
  }
  if (what.includes('heading')) {
    const shared = sharedEdges(mesh, set, faces, target, next);
    if (shared.length === 0) return null;
    const [wide, tall] = imageSizeOf(next);
    // directions in units, as the image's turn is
    const angles = shared.map((s) => ({
      by:
        portable.atan2((s.other[3] - s.other[1]) * tall, (s.other[2] - s.other[0]) * wide) -
        portable.atan2((s.own[3] - s.own[1]) * tall, (s.own[2] - s.own[0]) * wide),
      length: s.length,
    }));
    let [x, y, all] = [0, 0, 0];
    for (const { by, length } of angles) {
      x += portable.cos(by) * length;
      y += portable.sin(by) * length;
      all += length;
    }
    // round a lid the border turns all the way: what counts there is the piece nearest the middle of the neighbour's image
    const by = Math.hypot(x, y) > 0.5 * all ? portable.atan2(y, x) : angles[nearestMiddle(shared)]!.by;
    next = { ...next, turn: ((((next.turn - (by * 180) / Math.PI) % 360) + 540) % 360) - 180 };
  }
  if (what.includes('phase')) {
    const shared = sharedEdges(mesh, set, faces, target, next);
    if (shared.length === 0) return null;
    // whole repeats are no jump: the mean is taken round a circle
    const jump = [0, 1].map((d) => {
      let [x, y] = [0, 0];
      for (const s of shared) {
        for (const k of [d, d + 2]) {
          const by = 2 * Math.PI * (s.other[k]! - s.own[k]!);
          x += portable.cos(by) * s.length;
          y += portable.sin(by) * s.length;
        }
      }
      return portable.atan2(y, x) / (2 * Math.PI);
    });
    next = { ...next, offset: [next.offset[0] + jump[0]!, next.offset[1] + jump[1]!] };
  }
  return next;
}

function nearestMiddle(shared: Shared[]): number {
  let best = 0;
  let least = Infinity;
  shared.forEach(({ other }, k) => {
    const u = (other[0] + other[2]) / 2;
    const off = Math.abs(u - 0.5);
    if (off < least) {
      least = off;
      best = k;
    }
  });
  return best;
}

/** The same image `factor` times as dense. */
export function resized(jig: Jig, factor: number): Jig {
  const own = Object.fromEntries(Object.entries(jig.own).map(([side, [u, v]]) => [side, [u * factor, v * factor]])) as Jig['own'];
  return jig.imageWidth !== null
    ? { ...jig, imageWidth: jig.imageWidth / factor, own }
    : { ...jig, repeats: [jig.repeats[0] * factor, jig.repeats[1] * factor], own };
}

/** Another kind or placement in place of a jig: the image is as large as before (N26), whatever runs over the new extents. */
export function keepImageSize(before: Jig, after: Jig): Jig {
  const kept = {
    mirrorU: before.mirrorU,
    mirrorV: before.mirrorV,
    quarter: before.quarter,
    turn: before.turn,
    imageAspect: before.imageAspect,
    lids: before.lids,
    lidAngle: before.lidAngle,
    flatAngle: before.flatAngle,
    group: before.group,
  };
  if (before.imageWidth !== null) return { ...after, ...kept, imageWidth: before.imageWidth };
  const [wide, tall] = imageSizeOf(before);
  const [wideNow, tallNow] = imageSizeOf({ ...after, repeats: [1, 1], imageWidth: null });
  return { ...after, ...kept, imageWidth: null, repeats: [wideNow / wide, tallNow / tall] };
}

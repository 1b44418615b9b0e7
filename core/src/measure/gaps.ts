import Flatbush from 'flatbush';
import { nextCorner, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { islandsOf } from '../uv/islands.ts';
import { tileAt, tilePlace } from '../uv/tiles.ts';
import type { UvSet } from '../uv/uvSet.ts';

export interface Gaps {
  /** Least distance between outlines of two islands in px; null with fewer than two. */
  smallestGapPx: number | null;
  /** Least distance from an island inside the sheet to the sheet's border in px; 0 if one sticks out; null without islands. */
  smallestBorderGapPx: number | null;
  /** The islands between which the gap is smallest. */
  between: [number, number] | null;
}

/**
 * Least distances on a sheet of width × height px. Outline segments go into a spatial index; each looks only as far as the best found so
 * far. O(B log B) for B outline segments in practice.
 */
export function gaps(mesh: Mesh, set: UvSet, width: number, height: number, tiles = 1): Gaps {
  const { segments, owner, border } = outlineSegments(mesh, set, width, height, tiles);
  const n = owner.length;
  if (n === 0) return { smallestGapPx: null, smallestBorderGapPx: null, between: null };
  const index = segmentIndex(segments, 0);
  let best = Infinity;
  let between: [number, number] | null = null;
  const several = owner.some((i) => i !== owner[0]);
  for (let reach = 4; several && reach < 1e9; reach *= 16) {
    for (let k = 0; k < n; k++) {
      const s = k * 4;
      const look = Math.min(best, reach);
      const near = index.search(
        Math.min(segments[s]!, segments[s + 2]!) - look,
        Math.min(segments[s + 1]!, segments[s + 3]!) - look,
        Math.max(segments[s]!, segments[s + 2]!) + look,
        Math.max(segments[s + 1]!, segments[s + 3]!) + look,
        (m) => m > k && owner[m] !== owner[k],
      );
      for (const m of near) {
        const d = segmentDistance(segments, s, m * 4);
        if (d < best) {
          best = d;
          between = [owner[k]!, owner[m]!];
        }
      }
      if (best === 0) break;
    }
    if (best <= reach) break;
  }
  return { smallestGapPx: Number.isFinite(best) ? best : null, smallestBorderGapPx: Math.max(0, border), between };
}

/** The outlines of all placed islands as segments in px (4 numbers each), the island and the face of each, least distance to the border. */
function outlineSegments(mesh: Mesh, set: UvSet, width: number, height: number, tiles = 1) {
  const islands = islandsOf(mesh, set);
  const { cornerEdge, cornerFace } = topologyOf(mesh);
  const segments: number[] = [];
  const owner: number[] = [];
  const faces: number[] = [];
  let border = Infinity;
  for (let c = 0; c < mesh.corners.length; c++) {
    const f = cornerFace[c]!;
    if (set.unplaced[f] || islands.states[cornerEdge[c]!] === EdgeState.joined) continue;
    const a = set.cornerUv[c]! * 2;
    const b = set.cornerUv[nextCorner(mesh, c, f)]! * 2;
    const x = set.uv[a]!,
      y = set.uv[a + 1]!;
    // of several tiles the border is that of the one it is in
    const tile = tiles > 1 ? tileAt(x, y, tiles) : 0;
    const [column, row] = tilePlace(Math.max(0, tile));
    const [left, low] = [x - column, y - row];
    border = Math.min(border, left * width, (1 - left) * width, low * height, (1 - low) * height);
    segments.push(x * width, y * height, set.uv[b]! * width, set.uv[b + 1]! * height);
    owner.push(islands.ofFace[f]!);
    faces.push(f);
  }
  return { segments, owner, faces, border };
}

function segmentIndex(segments: number[], reach: number): Flatbush {
  const index = new Flatbush(segments.length / 4);
  for (let s = 0; s < segments.length; s += 4) {
    index.add(
      Math.min(segments[s]!, segments[s + 2]!) - reach,
      Math.min(segments[s + 1]!, segments[s + 3]!) - reach,
      Math.max(segments[s]!, segments[s + 2]!) + reach,
      Math.max(segments[s + 1]!, segments[s + 3]!) + reach,
    );
  }
  index.finish();
  return index;
}

/** 1 for each face whose outline comes nearer than `px` to another island. O(B log B) for B outline segments apart from near pairs. */
export function tooCloseFaces(mesh: Mesh, set: UvSet, width: number, height: number, px: number): Uint8Array {
  const { segments, owner, faces } = outlineSegments(mesh, set, width, height);
  const out = new Uint8Array(set.unplaced.length);
  if (owner.length === 0 || !(px > 0)) return out;
  const index = segmentIndex(segments, px);
  for (let k = 0; k < owner.length; k++) {
    const [ax, ay, bx, by] = segments.slice(k * 4, k * 4 + 4) as [number, number, number, number];
    const near = index.search(Math.min(ax, bx), Math.min(ay, by), Math.max(ax, bx), Math.max(ay, by), (m) => owner[m] !== owner[k]);
    if (near.some((m) => segmentDistance(segments, k * 4, m * 4) < px - 1e-9)) out[faces[k]!] = 1;
  }
  return out;
}

function segmentDistance(s: number[], i: number, j: number): number {
  const [ax, ay, bx, by] = [s[i]!, s[i + 1]!, s[i + 2]!, s[i + 3]!];
  const [cx, cy, dx, dy] = [s[j]!, s[j + 1]!, s[j + 2]!, s[j + 3]!];
  const side = (px: number, py: number, qx: number, qy: number, rx: number, ry: number) => (qx - px) * (ry - py) - (qy - py) * (rx - px);
  const s1 = side(ax, ay, bx, by, cx, cy),
    s2 = side(ax, ay, bx, by, dx, dy),
    s3 = side(cx, cy, dx, dy, ax, ay),
    s4 = side(cx, cy, dx, dy, bx, by);
  if (((s1 > 0 && s2 < 0) || (s1 < 0 && s2 > 0)) && ((s3 > 0 && s4 < 0) || (s3 < 0 && s4 > 0))) return 0;
  return Math.min(
    pointDistance(cx, cy, ax, ay, bx, by),
    pointDistance(dx, dy, ax, ay, bx, by),
    pointDistance(ax, ay, cx, cy, dx, dy),
    pointDistance(bx, by, cx, cy, dx, dy),
  );
}

function pointDistance(px: number, py: number, ax: number, ay: number, bx: number, by: number): number {
  const ex = bx - ax,
    ey = by - ay;
  const length = ex * ex + ey * ey;
  const t = length > 0 ? Math.max(0, Math.min(1, ((px - ax) * ex + (py - ay) * ey) / length)) : 0;
  return Math.hypot(ax + t * ex - px, ay + t * ey - py);
}

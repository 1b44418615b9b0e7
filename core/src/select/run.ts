import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { pointEdges } from '../seams/shortestPaths.ts';
import * as portable from '../numeric/portable.ts';

/** Follows edges from `edge` both ways while the straightest next one turns less than `angle` degrees. O(length). */
export function smoothRun(mesh: Mesh, edge: number, angle: number): number[] {
  const { edgePoints } = topologyOf(mesh);
  const seen = new Set([edge]);
  const ahead = follow(mesh, edge, edgePoints[edge * 2 + 1]!, seen, (e, p) => straightest(mesh, e, p, angle));
  const behind = follow(mesh, edge, edgePoints[edge * 2]!, seen, (e, p) => straightest(mesh, e, p, angle));
  return [...behind.reverse(), edge, ...ahead];
}

/** The edge at point p that turns least against edge e, or −1 if all turn by `angle` degrees or more. */
export function straightest(mesh: Mesh, e: number, p: number, angle: number): number {
  const { edgePoints } = topologyOf(mesh);
  const { start, edges } = pointEdges(mesh);
  const { points } = mesh;
  const other = (k: number) => (edgePoints[k * 2] === p ? edgePoints[k * 2 + 1]! : edgePoints[k * 2]!);
  const from = other(e);
  const dir = [0, 1, 2].map((k) => points[p * 3 + k]! - points[from * 3 + k]!);
  let best = -1;
  let bestCos = portable.cos((angle * Math.PI) / 180);
  for (let i = start[p]!; i < start[p + 1]!; i++) {
    const k = edges[i]!;
    if (k === e) continue;
    const q = other(k);
    const to = [0, 1, 2].map((d) => points[q * 3 + d]! - points[p * 3 + d]!);
    const cos = (dir[0]! * to[0]! + dir[1]! * to[1]! + dir[2]! * to[2]!) / (Math.hypot(...dir) * Math.hypot(...to) || 1);
    if (cos > bestCos) {
      bestCos = cos;
      best = k;
    }
  }
  return best;
}

/** Goes on from edge to edge while `next(edge, point)` gives one that was not seen. */
export function follow(mesh: Mesh, edge: number, towards: number, seen: Set<number>, next: (edge: number, point: number) => number): number[] {
  const { edgePoints } = topologyOf(mesh);
  const out: number[] = [];
  let e = edge;
  let p = towards;
  for (;;) {
    const on = next(e, p);
    if (on < 0 || seen.has(on)) return out;
    seen.add(on);
    out.push(on);
    e = on;
    p = edgePoints[e * 2] === p ? edgePoints[e * 2 + 1]! : edgePoints[e * 2]!;
  }
}

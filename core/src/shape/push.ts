import type { Mesh } from '../mesh/mesh.ts';
import { pieceOf } from '../unwrap/piece.ts';
import type { UvSet } from '../uv/uvSet.ts';

export interface PushHow {
  /** Places of the pointer in turn, 2 numbers each; a unit is as long along u as along v. */
  path: ArrayLike<number>;
  /** Reach of the brush in the same unit. */
  radius: number;
  /** Share of the way that what is right under the brush goes along, 0 to 1. */
  strength: number;
}

/**
 * Pushes the points of an island along with a pointer: right under it they go along by the strength, none at the brush's rim. A step that would turn a triangle
 * over is made smaller, or left out. @param set with square places and separate fans
 * @returns the layout, and how far each vertex of the island went as a share of the largest way. O(steps · vertices)
 */
export function pushPoints(mesh: Mesh, set: UvSet, island: number, { path, radius, strength }: PushHow): { set: UvSet; moved: Map<number, number> } {
  const piece = pieceOf(mesh, set, island);
  const { uvPoint, triangles, vertices } = piece;
  const at = new Float64Array(vertices * 2);
  uvPoint.forEach((p, v) => at.set(set.uv.subarray(p * 2, p * 2 + 2), v * 2));
  const start = at.slice();
  const around: number[][] = Array.from({ length: vertices }, () => []);
  const twice = (t: number) => {
    const [a, b, c] = [triangles[t]! * 2, triangles[t + 1]! * 2, triangles[t + 2]! * 2];
    return (at[b]! - at[a]!) * (at[c + 1]! - at[a + 1]!) - (at[c]! - at[a]!) * (at[b + 1]! - at[a + 1]!);
  };
  const sense: number[] = [];
  for (let t = 0; t < triangles.length; t += 3) {
    sense.push(Math.sign(twice(t)));
    for (let k = 0; k < 3; k++) around[triangles[t + k]!]!.push(t);
  }
  for (let k = 2; k < path.length; k += 2) {
    const [x, y] = [path[k - 2]!, path[k - 1]!];
    const [dx, dy] = [path[k]! - x, path[k + 1]! - y];
    const own: [number, number][] = [];
    for (let v = 0; v < vertices; v++) {
      if (set.pins[uvPoint[v]!]) continue;
      const far = ((at[v * 2]! - x) ** 2 + (at[v * 2 + 1]! - y) ** 2) / radius ** 2;
      if (far < 1) own.push([v, strength * (1 - far) ** 2]);
    }
    const before = own.map(([v]) => [at[v * 2]!, at[v * 2 + 1]!] as const);
    for (let share = 1; share > 0.05; share /= 2) {
      own.forEach(([v, weight], n) => {
        at[v * 2] = before[n]![0] + share * weight * dx;
        at[v * 2 + 1] = before[n]![1] + share * weight * dy;
      });
      if (own.every(([v]) => around[v]!.every((t) => sense[t / 3] === 0 || Math.sign(twice(t)) === sense[t / 3]))) break;
      own.forEach(([v], n) => at.set(before[n]!, v * 2));
    }
  }
  const uv = set.uv.slice();
  const moved = new Map<number, number>();
  let most = 0;
  for (let v = 0; v < vertices; v++) {
    uv.set(at.subarray(v * 2, v * 2 + 2), uvPoint[v]! * 2);
    const way = Math.hypot(at[v * 2]! - start[v * 2]!, at[v * 2 + 1]! - start[v * 2 + 1]!);
    if (way > 0) moved.set(uvPoint[v]!, way);
    most = Math.max(most, way);
  }
  for (const [p, way] of moved) moved.set(p, way / most);
  return { set: { ...set, uv }, moved };
}

import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/** Islands of one stack whose boxes differ by less than this share of their larger side are on one another: those alike by their outline alone differ a little. */
const sameWithin = 0.04;
/** Or by this, shares of the sheet: a px on 2048. */
const leastWithin = 6e-4;
/** And by as much in area. */
const areaWithin = 0.08;

/** An island with a stack's number, its box on the sheet and its area. */
export interface StackedIsland {
  readonly island: number;
  readonly stack: number;
  readonly shape: readonly number[];
}

const cache = new WeakMap<Uint32Array, { mesh: Mesh; set: UvSet; found: StackedIsland[] }>();

/** Islands that are of a stack by their marks, all their faces alike. O(corners), once for each layout; nothing where no face has a mark */
export function stackedIslands(mesh: Mesh, set: UvSet): readonly StackedIsland[] {
  if (!set.stack) return [];
  const known = cache.get(set.stack);
  if (known && known.mesh === mesh && known.set.uv === set.uv && known.set.cornerUv === set.cornerUv && known.set.unplaced === set.unplaced) return known.found;
  const { count, start, faces } = islandsOf(mesh, set);
  const found: StackedIsland[] = [];
  for (let island = 0; island < count; island++) {
    const stack = set.stack[faces[start[island]!]!]!;
    const shape = stack === 0 ? null : shapeOf(mesh, set, faces.subarray(start[island]!, start[island + 1]!), stack);
    if (shape) found.push({ island, stack, shape });
  }
  cache.set(set.stack, { mesh, set, found });
  return found;
}

/** Those that really are on one another, two or more each, in the order given. */
export function onOneAnother<T extends StackedIsland>(list: readonly T[]): T[][] {
  const members = new Map<number, T[]>();
  for (const one of list) (members.get(one.stack) ?? members.set(one.stack, []).get(one.stack)!).push(one);
  const stacks: T[][] = [];
  for (const own of members.values()) {
    let left = own;
    while (left.length > 1) {
      const { shape } = left[0]!;
      const [left0, low, right, high, area] = shape as [number, number, number, number, number];
      const reach = Math.max(sameWithin * Math.max(right - left0, high - low), leastWithin);
      const isSame = (one: T) =>
        one.shape.every((x, k) => Math.abs(x - shape[k]!) < (k < 4 ? reach : areaWithin * area + leastWithin * (right - left0 + high - low) + 1e-12));
      const same = left.filter(isSame);
      if (same.length > 1) stacks.push(same);
      left = left.filter((one) => !isSame(one));
    }
  }
  return stacks;
}

/**
 * Islands that were stacked and still are on one another: of one stack, with the same box and as much area. Each list has two islands or more, rising; the first
 * stands for all.
 */
export const stacksOf = (mesh: Mesh, set: UvSet): number[][] =>
  onOneAnother(stackedIslands(mesh, set))
    .map((stack) => stack.map(({ island }) => island))
    .sort((a, b) => a[0]! - b[0]!);

/** Box and area; null where not all faces are of the stack, or have no place. */
function shapeOf(mesh: Mesh, { stack, unplaced, cornerUv, uv }: UvSet, faces: Uint32Array, id: number): number[] | null {
  const box = [Infinity, Infinity, -Infinity, -Infinity, 0];
  for (const f of faces) {
    if (stack![f] !== id || unplaced[f]) return null;
    const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
    let twice = 0;
    for (let c = from; c < to; c++) {
      const [p, q] = [cornerUv[c]! * 2, cornerUv[c + 1 < to ? c + 1 : from]! * 2];
      const [u, v] = [uv[p]!, uv[p + 1]!];
      box[0] = Math.min(box[0]!, u);
      box[1] = Math.min(box[1]!, v);
      box[2] = Math.max(box[2]!, u);
      box[3] = Math.max(box[3]!, v);
      twice += u * uv[q + 1]! - uv[q]! * v;
    }
    box[4]! += Math.abs(twice) / 2;
  }
  return box;
}

/** The layout with one island of each stack: the others have no place there. For measures and packing, which count each stack once. */
export function onceEach(mesh: Mesh, set: UvSet): UvSet {
  const stacks = stacksOf(mesh, set);
  if (stacks.length === 0) return set;
  const { start, faces } = islandsOf(mesh, set);
  const unplaced = set.unplaced.slice();
  for (const [, ...copies] of stacks) for (const i of copies) for (let k = start[i]!; k < start[i + 1]!; k++) unplaced[faces[k]!] = 1;
  return { ...set, unplaced };
}

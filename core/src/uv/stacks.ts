import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/** Islands whose boxes differ by less are on one another, shares of the sheet: a five-hundredth of a px on 2048. */
export const sameWithin = 1e-6;

/**
 * Islands that were stacked and still are on one another: of one stack, with the same box and as much area. Each list has two islands or more, rising; the first
 * stands for all. O(corners), nothing where no face has a stack
 */
export function stacksOf(mesh: Mesh, set: UvSet): number[][] {
  if (!set.stack) return [];
  const { count, start, faces } = islandsOf(mesh, set);
  const members = new Map<number, { island: number; shape: number[] }[]>();
  for (let i = 0; i < count; i++) {
    const id = set.stack[faces[start[i]!]!]!;
    const shape = id === 0 ? null : shapeOf(mesh, set, faces.subarray(start[i]!, start[i + 1]!), id);
    if (!shape) continue;
    if (!members.has(id)) members.set(id, []);
    members.get(id)!.push({ island: i, shape });
  }
  const stacks: number[][] = [];
  for (const list of members.values()) {
    const left = [...list];
    while (left.length > 1) {
      const { shape } = left[0]!;
      const same = left.filter((one) => one.shape.every((x, k) => Math.abs(x - shape[k]!) < sameWithin));
      if (same.length > 1) stacks.push(same.map(({ island }) => island));
      for (const one of same) left.splice(left.indexOf(one), 1);
    }
  }
  return stacks.sort((a, b) => a[0]! - b[0]!);
}

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

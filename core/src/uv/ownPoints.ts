import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from './islands.ts';
import type { UvSet } from './uvSet.ts';

/**
 * The layout with a UV point of its own for each mesh point and island, since whatever moves an island moves its UV points. Files often have one vt for corners that are
 * somewhere else on the model (copies, mirrored halves, islands that meet in one place). The UV points that were there keep their numbers; further ones follow.
 * O(corners)
 * @returns the set itself where there is nothing to do; `from`: the UV point that each one is a copy of
 */
export function withOwnPoints(mesh: Mesh, set: UvSet): { set: UvSet; from: Uint32Array } | { set: UvSet; from: null } {
  const { corners } = mesh;
  const { cornerFace } = topologyOf(mesh);
  const { ofFace } = islandsOf(mesh, set);
  const count = set.uv.length / 2;
  const point = new Int32Array(count).fill(-1);
  const island = new Int32Array(count).fill(-1);
  const copies = new Map<string, number>();
  const from: number[] = [];
  let cornerUv: Uint32Array | null = null;
  for (let c = 0; c < corners.length; c++) {
    const id = set.cornerUv[c]!;
    const [p, i] = [corners[c]!, ofFace[cornerFace[c]!]!];
    if (point[id]! < 0) {
      point[id] = p;
      island[id] = i;
    } else if (point[id] !== p || island[id] !== i) {
      const key = `${id} ${p} ${i}`;
      let copy = copies.get(key);
      if (copy === undefined) {
        copy = count + from.push(id) - 1;
        copies.set(key, copy);
      }
      cornerUv ??= set.cornerUv.slice();
      cornerUv[c] = copy;
    }
  }
  if (!cornerUv) return { set, from: null };
  const uv = new Float64Array((count + from.length) * 2);
  const pins = new Uint8Array(count + from.length);
  uv.set(set.uv);
  pins.set(set.pins);
  from.forEach((id, k) => {
    uv.set(set.uv.subarray(id * 2, id * 2 + 2), (count + k) * 2);
    pins[count + k] = set.pins[id]!;
  });
  return { set: { ...set, cornerUv, uv, pins }, from: Uint32Array.from({ length: count + from.length }, (_, k) => (k < count ? k : from[k - count]!)) };
}

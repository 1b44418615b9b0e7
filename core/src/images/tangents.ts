import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { shadingNormals } from './shadingNormals.ts';
import * as portable from '../numeric/portable.ts';

/**
 * Tangent space a corner: the direction in which u rises, at right angles to the shading normal (3 numbers), and 1, or −1 where the picture is mirrored.
 * As M. Mikkelsen's "Simulation of Wrinkled Surfaces Revisited" (2008) has it: triangles that share a place, a normal and a UV point share their tangents,
 * weighed by their angles there; mirrored ones go by themselves. O(corners).
 */
export function cornerTangents(mesh: Mesh, set: UvSet): Float64Array {
  const { count, corners } = trianglesOf(mesh);
  const normals = shadingNormals(mesh);
  const out = new Float64Array(mesh.corners.length * 4);
  const groups = new Map<string, Float64Array>();
  const keys: string[] = Array.from({ length: mesh.corners.length }, () => '');
  const { points } = mesh;
  const unit = (x: number, y: number, z: number): [number, number, number] => {
    const length = Math.hypot(x, y, z);
    return length > 0 ? [x / length, y / length, z / length] : [0, 0, 0];
  };
  for (let t = 0; t < count; t++) {
    const own = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    const p = own.map((c) => mesh.corners[c]! * 3);
    const q = own.map((c) => set.cornerUv[c]! * 2);
    const edge = (a: number, b: number): [number, number, number] => [
      points[p[b]!]! - points[p[a]!]!,
      points[p[b]! + 1]! - points[p[a]! + 1]!,
      points[p[b]! + 2]! - points[p[a]! + 2]!,
    ];
    const [e1, e2] = [edge(0, 1), edge(0, 2)];
    const [u1, v1] = [set.uv[q[1]!]! - set.uv[q[0]!]!, set.uv[q[1]! + 1]! - set.uv[q[0]! + 1]!];
    const [u2, v2] = [set.uv[q[2]!]! - set.uv[q[0]!]!, set.uv[q[2]! + 1]! - set.uv[q[0]! + 1]!];
    const area = u1 * v2 - u2 * v1;
    if (area === 0) continue;
    const sign = area < 0 ? -1 : 1;
    const along: [number, number, number] = [(e1[0] * v2 - e2[0] * v1) * sign, (e1[1] * v2 - e2[1] * v1) * sign, (e1[2] * v2 - e2[2] * v1) * sign];
    own.forEach((c, k) => {
      const n = [normals[c * 3]!, normals[c * 3 + 1]!, normals[c * 3 + 2]!] as const;
      const flat = (v: readonly [number, number, number]) => {
        const d = v[0] * n[0] + v[1] * n[1] + v[2] * n[2];
        return unit(v[0] - d * n[0], v[1] - d * n[1], v[2] - d * n[2]);
      };
      const tangent = flat(along);
      const [a, b] = [flat(edge(k, (k + 1) % 3)), flat(edge(k, (k + 2) % 3))];
      const angle = portable.acos(Math.max(-1, Math.min(1, a[0] * b[0] + a[1] * b[1] + a[2] * b[2])));
      const key = `${mesh.corners[c]} ${n.map((x) => x.toFixed(6)).join()} ${set.cornerUv[c]} ${sign}`;
      keys[c] = key;
      let sum = groups.get(key);
      if (!sum) groups.set(key, (sum = new Float64Array(4)));
      for (let d = 0; d < 3; d++) sum[d]! += tangent[d]! * angle;
      sum[3] = sign;
    });
  }
  for (let c = 0; c < keys.length; c++) {
    const sum = groups.get(keys[c]!);
    const [x, y, z] = sum ? unit(sum[0]!, sum[1]!, sum[2]!) : [1, 0, 0];
    out.set([x, y, z, sum ? sum[3]! : 1], c * 4);
  }
  return out;
}

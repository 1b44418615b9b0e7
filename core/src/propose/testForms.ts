import { cubeSphere } from '../mesh/starterForms.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import * as portable from '../numeric/portable.ts';

/** A blob with two limbs, alike left and right: a ball drawn out sideways and at the top. For tests. @param side quads along a side of the ball's cube */
export function makeFormMesh(side = 12): Mesh {
  const ball = cubeSphere(1, side);
  const points = ball.points.slice();
  for (let k = 0; k < points.length; k += 3) {
    const x = points[k]!;
    const y = points[k + 1]!;
    const limb = 1.6 * portable.exp(-((1 - Math.abs(x)) ** 2) / 0.06);
    points[k] = x + Math.sign(x) * limb;
    points[k + 1] = y + 0.7 * portable.exp(-((1 - y) ** 2) / 0.1);
  }
  return { ...ball, points };
}

/** A box whose edges are rounded off in twice so many steps; 0.5: bevelled. For tests. */
export function bevelledBox(x: number, y: number, z: number, radius: number, steps: number): Mesh {
  // the sides of a ball of quads drawn apart: rows near the borders are the rounding
  const half = [x / 2, y / 2, z / 2].map((h) => h - radius);
  const rows = Array.from({ length: steps + 1 }, (_, k) => portable.tan(((k / steps) * Math.PI) / 4 - Math.PI / 4) || 0);
  const across = [...rows, ...rows.map((r) => -r).reverse()];
  const points: number[] = [];
  const known = new Map<string, number>();
  const faces: number[][] = [];
  const place = (d: number, sign: number, i: number, j: number) => {
    const [a, b] = [(d + 1) % 3, (d + 2) % 3];
    const [s, t] = [across[i]!, across[j]!];
    const n = [0, 0, 0];
    n[d] = sign;
    n[a] = s;
    n[b] = t;
    const long = Math.hypot(...n);
    const p = n.map((value) => (radius * value) / long);
    p[d]! += sign * half[d]!;
    p[a]! += (i <= steps ? -1 : 1) * half[a]!;
    p[b]! += (j <= steps ? -1 : 1) * half[b]!;
    const key = p.map((value) => value.toFixed(9).replace('-0.000000000', '0.000000000')).join();
    if (!known.has(key)) {
      known.set(key, points.length / 3);
      points.push(...p);
    }
    return known.get(key)!;
  };
  for (let d = 0; d < 3; d++)
    for (const sign of [-1, 1])
      for (let i = 0; i + 1 < across.length; i++)
        for (let j = 0; j + 1 < across.length; j++) {
          const face = [place(d, sign, i, j), place(d, sign, i + 1, j), place(d, sign, i + 1, j + 1), place(d, sign, i, j + 1)];
          faces.push(sign > 0 ? face : face.reverse());
        }
  return meshFromFaces(points, faces);
}

/** A box whose edges are cut off at 45° and whose corners are triangles: 6 faces, 12 bevels, 8 corners. For tests. */
export function chamferedBox(x: number, y: number, z: number, width: number): Mesh {
  const half = [x / 2, y / 2, z / 2];
  const points: number[] = [];
  // a corner of the box has a point for each of its faces
  const id = (d: number, s: readonly number[]) => d * 8 + (s[0]! > 0 ? 1 : 0) + (s[1]! > 0 ? 2 : 0) + (s[2]! > 0 ? 4 : 0);
  for (let d = 0; d < 3; d++)
    for (let k = 0; k < 8; k++) {
      const s = [k & 1 ? 1 : -1, k & 2 ? 1 : -1, k & 4 ? 1 : -1];
      points.push(...s.map((sign, a) => sign * (half[a]! - (a === d ? 0 : width))));
    }
  const faces: number[][] = [];
  const add = (face: number[]) => {
    // turned outwards: away from the middle
    const at = face.map((p) => points.slice(p * 3, p * 3 + 3));
    const [a, b, c] = at as [number[], number[], number[]];
    const u = b.map((v, k) => v - a[k]!);
    const v = c.map((w, k) => w - a[k]!);
    const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
    const out = n.reduce((sum, w, k) => sum + w * at.reduce((total, p) => total + p[k]!, 0), 0);
    faces.push(out > 0 ? face : face.reverse());
  };
  const signs = [-1, 1];
  for (let d = 0; d < 3; d++) {
    const [a, b] = [(d + 1) % 3, (d + 2) % 3];
    const at = (pd: number, s: number, t: number, which: number) => {
      const list = [0, 0, 0];
      list[d] = pd;
      list[a] = s;
      list[b] = t;
      return id(which, list);
    };
    for (const s of signs) {
      add([at(s, -1, -1, d), at(s, 1, -1, d), at(s, 1, 1, d), at(s, -1, 1, d)]);
      // the bevel along d between the faces a and b
      for (const t of signs) add([at(-1, s, t, a), at(1, s, t, a), at(1, s, t, b), at(-1, s, t, b)]);
    }
  }
  for (const i of signs) for (const j of signs) for (const k of signs) add([0, 1, 2].map((d) => id(d, [i, j, k])));
  return meshFromFaces(points, faces);
}

/** Square tubes of width 1 that cross: the surface of cubes along each given direction, `arm` cubes each, and one in the middle; `steps` quads along a cube. For tests. */
export function tubeCross(directions: readonly (readonly [number, number, number])[], arm: number, steps: number): Mesh {
  const cubes = new Set(['0,0,0']);
  for (const d of directions) for (let k = 1; k <= arm; k++) cubes.add(d.map((x) => x * k).join());
  const points: number[] = [];
  const known = new Map<string, number>();
  const faces: number[][] = [];
  const point = (p: number[]) => {
    const key = p.map((x) => Math.round((x + 0.5) * steps)).join();
    if (!known.has(key)) {
      known.set(key, points.length / 3);
      points.push(...p);
    }
    return known.get(key)!;
  };
  for (const cube of cubes) {
    const at = cube.split(',').map(Number);
    for (let d = 0; d < 3; d++)
      for (const sign of [-1, 1]) {
        if (cubes.has(at.map((x, k) => (k === d ? x + sign : x)).join())) continue;
        const [a, b] = [(d + 1) % 3, (d + 2) % 3];
        const place = (i: number, j: number) => {
          const p = at.map((x) => x - 0.5);
          if (sign > 0) p[d]! += 1;
          p[a]! += i / steps;
          p[b]! += j / steps;
          return point(p);
        };
        for (let i = 0; i < steps; i++)
          for (let j = 0; j < steps; j++) {
            const face = [place(i, j), place(i + 1, j), place(i + 1, j + 1), place(i, j + 1)];
            faces.push(sign > 0 ? face : face.reverse());
          }
      }
  }
  return meshFromFaces(points, faces);
}

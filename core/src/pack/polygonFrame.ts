import earcut from 'earcut';
import { JigError } from '../jigError.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import type { Box } from '../uv/box.ts';

/** Corners of a polygon, 2 numbers each in turn. */
export type Polygon = readonly (readonly [number, number])[];

/** The box round a polygon. */
export function boxOfPolygon(polygon: Polygon): Box {
  const [us, vs] = [polygon.map(([u]) => u), polygon.map(([, v]) => v)];
  return [Math.min(...us), Math.min(...vs), Math.max(...us), Math.max(...vs)];
}

/** Area of a polygon, counterclockwise positive. */
export function polygonArea(polygon: Polygon): number {
  return polygon.reduce((sum, [u, v], k) => {
    const [x, y] = polygon[(k + 1) % polygon.length]!;
    return sum + (u * y - x * v) / 2;
  }, 0);
}

/** Do two sides of a polygon cross, or lie on one another? O(sides²) */
export function crossesItself(polygon: Polygon): boolean {
  const n = polygon.length;
  const turn = (a: number, b: number, c: number) => {
    const [[ax, ay], [bx, by], [cx, cy]] = [polygon[a % n]!, polygon[b % n]!, polygon[c % n]!];
    return Math.sign((bx - ax) * (cy - ay) - (by - ay) * (cx - ax));
  };
  for (let i = 0; i < n; i++)
    for (let j = i + 2; j < n; j++) {
      if (i === 0 && j === n - 1) continue;
      if (turn(i, i + 1, j) !== turn(i, i + 1, j + 1) && turn(j, j + 1, i) !== turn(j, j + 1, i + 1)) return true;
    }
  return false;
}

/**
 * What lies in a box but not in the polygon that fills it, as faces with a place on the sheet: islands that stay, and so are packed round.
 * @param box round the polygon
 * @throws JigError `bad-parameter` where its sides cross or it has no area
 */
export function polygonFrame(polygon: Polygon, [left, bottom, right, top]: Box): { mesh: Mesh; set: UvSet } | null {
  if (crossesItself(polygon)) throw new JigError('bad-parameter', 'Sides of the polygon cross.', '', 'Draw it so that no two do.');
  const area = polygonArea(polygon);
  if (!(Math.abs(area) > 0)) throw new JigError('bad-parameter', 'The polygon has no area.');
  const ring = area > 0 ? [...polygon] : [...polygon].reverse();
  const corners: [number, number][] = [
    [left, bottom],
    [right, bottom],
    [right, top],
    [left, top],
  ];
  const flat = [...corners, ...ring].flat();
  const found = earcut(flat, [4]);
  const at = (k: number) => [flat[k * 2]!, flat[k * 2 + 1]!] as const;
  const faces: number[][] = [];
  for (let t = 0; t < found.length; t += 3) {
    const [i, j, k] = [found[t]!, found[t + 1]!, found[t + 2]!];
    const twice = (at(j)[0] - at(i)[0]) * (at(k)[1] - at(i)[1]) - (at(j)[1] - at(i)[1]) * (at(k)[0] - at(i)[0]);
    // where the polygon touches the box triangles have no area
    if (Math.abs(twice) > 1e-14) faces.push(twice > 0 ? [i, j, k] : [i, k, j]);
  }
  if (faces.length === 0) return null;
  const points = Array.from({ length: flat.length / 2 }, (_, k) => [...at(k), 0]).flat();
  const mesh = meshFromFaces(points, faces);
  const set = uvSetFrom(mesh, 'frame', mesh.corners.slice(), Float64Array.from(flat));
  return { mesh, set: { ...set, locked: new Uint8Array(faces.length).fill(1) } };
}

import { borderCrossings, borderSegments } from './borderCrossings.ts';

/** How far a triangle may lean out of the common plane: 1 − cos of the angle, some 0.003°. */
const lean = 1e-9;

/**
 * The map of a piece that is flat in space already: its own plane, true to size, nothing stretched. Null where a triangle leans out of the plane
 * or is turned over, or where the border crosses itself. O(triangles + border · log border); a single triangle costs microseconds.
 * @param positions 3 numbers a vertex
 * @returns 2 numbers a vertex
 */
export function planeMap(positions: Float64Array, triangles: Uint32Array): Float64Array | null {
  const normal = [0, 0, 0];
  let total = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const size = cross(positions, triangles, t);
    if (!(size > 0)) return null;
    total += size;
    for (let k = 0; k < 3; k++) normal[k]! += n[k]!;
  }
  const length = Math.hypot(normal[0]!, normal[1]!, normal[2]!);
  if (!(length > total * (1 - lean))) return null;
  const [x, y, z] = normal.map((v) => v / length) as [number, number, number];
  for (let t = 0; t < triangles.length; t += 3) {
    const size = cross(positions, triangles, t);
    if (n[0]! * x + n[1]! * y + n[2]! * z < size * (1 - lean)) return null;
  }
  // two directions in the plane, at right angles to one another
  const [ux, uy, uz] = Math.abs(x) < 0.6 ? unit(0, z, -y) : unit(-z, 0, x);
  const [vx, vy, vz] = [y * uz - z * uy, z * ux - x * uz, x * uy - y * ux];
  const uv = new Float64Array((positions.length / 3) * 2);
  // from the first vertex on, so that pieces far away lose no digits
  const [ox, oy, oz] = [positions[0]!, positions[1]!, positions[2]!];
  for (let v = 0; v * 3 < positions.length; v++) {
    const [dx, dy, dz] = [positions[v * 3]! - ox, positions[v * 3 + 1]! - oy, positions[v * 3 + 2]! - oz];
    uv[v * 2] = dx * ux + dy * uy + dz * uz;
    uv[v * 2 + 1] = dx * vx + dy * vy + dz * vz;
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]! * 2, triangles[t + 1]! * 2, triangles[t + 2]! * 2];
    if (!((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!) > 0)) return null;
  }
  if (triangles.length > 3 && borderCrossings(borderSegments({ border: borderOf(triangles) }, uv)).length > 0) return null;
  return uv;
}

const n = [0, 0, 0];
/** Twice the area's vector of a triangle, into `n`; its length. */
function cross(positions: Float64Array, triangles: Uint32Array, t: number): number {
  const [a, b, c] = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3];
  const ux = positions[b]! - positions[a]!;
  const uy = positions[b + 1]! - positions[a + 1]!;
  const uz = positions[b + 2]! - positions[a + 2]!;
  const vx = positions[c]! - positions[a]!;
  const vy = positions[c + 1]! - positions[a + 1]!;
  const vz = positions[c + 2]! - positions[a + 2]!;
  n[0] = uy * vz - uz * vy;
  n[1] = uz * vx - ux * vz;
  n[2] = ux * vy - uy * vx;
  return Math.hypot(n[0], n[1], n[2]);
}

function unit(x: number, y: number, z: number): [number, number, number] {
  const length = Math.hypot(x, y, z);
  return [x / length, y / length, z / length];
}

/** Half edges that have no other, as pairs of vertices. */
function borderOf(triangles: Uint32Array): Uint32Array {
  let most = 0;
  for (const v of triangles) if (v > most) most = v;
  const key = (a: number, b: number) => a * (most + 1) + b;
  const all = new Set<number>();
  for (let k = 0; k < triangles.length; k++) all.add(key(triangles[k]!, triangles[k % 3 === 2 ? k - 2 : k + 1]!));
  const out: number[] = [];
  for (const edge of all) {
    const [a, b] = [Math.floor(edge / (most + 1)), edge % (most + 1)];
    if (!all.has(key(b, a))) out.push(a, b);
  }
  return Uint32Array.from(out);
}

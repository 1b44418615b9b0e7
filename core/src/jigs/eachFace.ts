import type { ProjectionWork } from './projected.ts';

/**
 * The whole image on the face: a quad's corners go to the image's corners, the side that lies highest on top; any other face lies flat in its own plane,
 * right way up, and fills the image with its box. A face that lies level has the back for its up.
 */
export function eachFacePlace({ start, places, normals, uv, put }: ProjectionWork, f: number): void {
  const [from, to] = [start[f]!, start[f + 1]!];
  const n = [normals[f * 3]!, normals[f * 3 + 1]!, normals[f * 3 + 2]!];
  const length = Math.hypot(n[0]!, n[1]!, n[2]!);
  const out = length > 0 ? n.map((x) => x / length) : [0, 0, 1];
  // the up that is seen on the face; the back where the face lies level
  const towards = Math.abs(out[1]!) < 0.999 ? [0, 1, 0] : [0, 0, out[1]! > 0 ? -1 : 1];
  const along = towards[0]! * out[0]! + towards[1]! * out[1]! + towards[2]! * out[2]!;
  const rise = towards.map((x, d) => x - along * out[d]!);
  const up = rise.map((x) => x / (Math.hypot(rise[0]!, rise[1]!, rise[2]!) || 1));
  const right = [up[1]! * out[2]! - up[2]! * out[1]!, up[2]! * out[0]! - up[0]! * out[2]!, up[0]! * out[1]! - up[1]! * out[0]!];
  const flat = (k: number) =>
    [right, up].map((axis) => axis[0]! * places[k * 3]! + axis[1]! * places[k * 3 + 1]! + axis[2]! * places[k * 3 + 2]!) as [number, number];
  if (to - from === 4) {
    // the edge that runs most to the right, seen from outside, is the bottom
    let first = from;
    let most = -Infinity;
    for (let k = from; k < to; k++) {
      const next = k + 1 === to ? from : k + 1;
      const [a, b] = [flat(k), flat(next)];
      const level = (b[0] - a[0]) / (Math.hypot(b[0] - a[0], b[1] - a[1]) || 1);
      if (level > most + 1e-9) {
        most = level;
        first = k;
      }
    }
    for (let c = 0; c < 4; c++) {
      const k = from + ((first - from + c) % 4);
      put(uv, k * 2, c === 1 || c === 2 ? 1 : 0, c >= 2 ? 1 : 0);
    }
    return;
  }
  let [left, low, far, high] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = from; k < to; k++) {
    const [x, y] = flat(k);
    left = Math.min(left, x);
    far = Math.max(far, x);
    low = Math.min(low, y);
    high = Math.max(high, y);
  }
  for (let k = from; k < to; k++) {
    const [x, y] = flat(k);
    put(uv, k * 2, (x - left) / (far - left || 1), (y - low) / (high - low || 1));
  }
}

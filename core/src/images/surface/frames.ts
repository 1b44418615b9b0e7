import type { DecalFrame, Fade, LayerDriver } from './layer.ts';
import * as portable from '../../numeric/portable.ts';

/* Places of a picture that follow from a place in space alone: from three sides, from a decal's frame; and fades. */

type Triplanar = Extract<LayerDriver, { kind: 'triplanar' }>;

/** Shares of the three sides for a normal, adding up to 1; `blend` 0 gives the steepest side all. */
export function triplanarWeights(blend: number, nx: number, ny: number, nz: number, out: Float64Array): void {
  const x = Math.abs(nx);
  const y = Math.abs(ny);
  const z = Math.abs(nz);
  const most = Math.max(x, y, z);
  if (most === 0) {
    out[0] = out[1] = 0;
    out[2] = 1;
    return;
  }
  // what is below the steepest by more than the width has no share
  const width = Math.max(1e-3, blend);
  const a = Math.max(0, x / most - 1 + width);
  const b = Math.max(0, y / most - 1 + width);
  const c = Math.max(0, z / most - 1 + width);
  const sum = a + b + c;
  out[0] = a / sum;
  out[1] = b / sum;
  out[2] = c / sum;
}

/**
 * Where the picture is hit from one side, right way up and never mirrored: from the right (x), from above (y), from the front (z), and from their opposites.
 * @param aspect height of the picture over its width
 */
export function triplanarPlace(
  { size, offset, turn }: Triplanar,
  axis: 0 | 1 | 2,
  sign: number,
  x: number,
  y: number,
  z: number,
  aspect: number,
  out: Float64Array,
): void {
  const px = x - offset[0];
  const py = y - offset[1];
  const pz = z - offset[2];
  const across = axis === 0 ? -sign * pz : axis === 1 ? px : sign * px;
  const up = axis === 1 ? -sign * pz : py;
  if (turn[axis] === 0) {
    out[0] = across / size;
    out[1] = up / (size * aspect);
    return;
  }
  const angle = (turn[axis] * Math.PI) / 180;
  const c = portable.cos(angle);
  const s = portable.sin(angle);
  out[0] = (across * c + up * s) / size;
  out[1] = (up * c - across * s) / (size * aspect);
}

/** How a decal lies at a place: u, v (0 to 1 within it) and its share there, 0 or 1, into `out`. */
export function decalPlace(frame: DecalFrame, x: number, y: number, z: number, nx: number, ny: number, nz: number, out: Float64Array): void {
  const { centre, right, up, size, depth, facing, bend } = frame;
  const [ox, oy, oz] = [right[1] * up[2] - right[2] * up[1], right[2] * up[0] - right[0] * up[2], right[0] * up[1] - right[1] * up[0]];
  const [px, py, pz] = [x - centre[0], y - centre[1], z - centre[2]];
  const along = px * right[0] + py * right[1] + pz * right[2];
  const high = px * up[0] + py * up[1] + pz * up[2];
  const away = px * ox + py * oy + pz * oz;
  let across = along;
  let distance = away;
  // which way the frame looks at that place
  let [fx, fy, fz] = [ox, oy, oz];
  if (bend !== 0) {
    // round an axis behind the frame (before it, for a negative bend) so that its width is the arc
    const radius = size[0] / ((bend * Math.PI) / 180);
    const deep = away + radius;
    const side = Math.sign(radius);
    const angle = portable.atan2(along * side, deep * side);
    across = angle * radius;
    distance = (Math.hypot(along, deep) - Math.abs(radius)) * side;
    const [c, s] = [portable.cos(angle), portable.sin(angle)];
    [fx, fy, fz] = [ox * c + right[0] * s, oy * c + right[1] * s, oz * c + right[2] * s];
  }
  const length = Math.hypot(nx, ny, nz) || 1;
  const towards = (nx * fx + ny * fy + nz * fz) / length;
  out[0] = across / size[0] + 0.5;
  out[1] = high / size[1] + 0.5;
  out[2] = Math.abs(distance) <= depth && towards >= portable.cos((facing * Math.PI) / 180) && out[0] >= 0 && out[0] <= 1 && out[1] >= 0 && out[1] <= 1 ? 1 : 0;
}

const smooth = (t: number) => {
  const s = t < 0 ? 0 : t > 1 ? 1 : t;
  return s * s * (3 - 2 * s);
};

/** 1 where the fade begins, 0 where it has ended. @param shift moves its edge, in shares of its length */
export function fadeAt(fade: Fade, x: number, y: number, z: number, shift = 0): number {
  if (fade.shape === 'linear') {
    const { from, to } = fade;
    const [dx, dy, dz] = [to[0] - from[0], to[1] - from[1], to[2] - from[2]];
    const squared = dx * dx + dy * dy + dz * dz;
    const t = squared > 0 ? ((x - from[0]) * dx + (y - from[1]) * dy + (z - from[2]) * dz) / squared : 0;
    return 1 - smooth(t + shift);
  }
  const { centre, inner, outer } = fade;
  const distance = Math.hypot(x - centre[0], y - centre[1], z - centre[2]);
  return 1 - smooth((distance - inner) / Math.max(1e-9, outer - inner) + shift);
}

/** What a brushed mask is at a place: dabs go over one another in their order, soft towards their rim. */
export function brushAt(dabs: ArrayLike<number>, x: number, y: number, z: number): number {
  let value = 0;
  for (let k = 0; k + 4 < dabs.length; k += 5) {
    const [dx, dy, dz, radius] = [x - dabs[k]!, y - dabs[k + 1]!, z - dabs[k + 2]!, dabs[k + 3]!];
    const squared = dx * dx + dy * dy + dz * dz;
    if (squared >= radius * radius) continue;
    const strength = dabs[k + 4]!;
    const weight = Math.abs(strength) * (1 - smooth(Math.sqrt(squared) / radius));
    value += ((strength > 0 ? 1 : 0) - value) * weight;
  }
  return value;
}

/**
 * Colours of many places of a surface at once, layer by layer: the same as core/src/images/surface/surface.ts finds place by place (a test holds one against
 * the other), with the four channels of a place side by side, or the same number of four places.
 *
 * Buffers hold one number for each of the places (see `setUp`); numbers of a layer stand at `params` (f64), in the order in which a function says it reads them.
 */

/** Places that are coloured together at most. */
export const most: i32 = 512;

/** Shares of the triangle's second and third corner (f64). */
export let shareB: usize = 0;
export let shareC: usize = 0;
/** Places in space and normals (f64; three arrays each, one after the other). */
export let positions: usize = 0;
export let normals: usize = 0;
/** Red, green, blue and alpha (4 × f32): all layers so far, and the layer at work. */
export let under: usize = 0;
export let texels: usize = 0;
/** How much of the layer is seen (f32), and one mask of it. */
export let reach: usize = 0;
export let mask: usize = 0;
export let params: usize = 0;
/** Which sample of which px of the band a place is: 16 px + sample (u32). */
export let places: usize = 0;

const stride: usize = <usize>most << 3;

/** Lays the buffers out. @returns the first address behind them */
export function setUp(at: usize): usize {
  shareB = at;
  shareC = shareB + stride;
  positions = shareC + stride;
  normals = positions + 3 * stride;
  under = normals + 3 * stride;
  texels = under + 2 * stride;
  reach = texels + 2 * stride;
  mask = reach + stride;
  params = mask + stride;
  places = params + 64 * 8;
  const offsets = places + stride;
  offsetB = offsets;
  offsetC = offsets + 16 * 8;
  pattern = offsets + 32 * 8;
  sharesB = offsets + 64 * 8;
  sharesC = sharesB + 16 * 8;
  return sharesC + 16 * 8;
}

// @ts-ignore: decorator
@inline
function param(k: usize): f64 {
  return load<f64>(params + (k << 3));
}

/** Nothing is there yet. */
export function clear(count: i32): void {
  memory.fill(under, 0, <usize>count << 4);
}

// --- where the places are ---

/** One number of each place between those of the triangle's corners. */
// @ts-ignore: decorator
@inline
function between(to: usize, a: f64, b: f64, c: f64, count: i32): void {
  const first = v128.splat<f64>(a);
  const toB = v128.splat<f64>(b - a);
  const toC = v128.splat<f64>(c - a);
  const end = <usize>((count + 1) & ~1) << 3;
  for (let k: usize = 0; k < end; k += 16) {
    v128.store(to + k, f64x2.add(first, f64x2.add(f64x2.mul(toB, v128.load(shareB + k)), f64x2.mul(toC, v128.load(shareC + k)))));
  }
}

/** Reads places of the three corners (9), then their normals (9). */
export function findSpace(count: i32): void {
  for (let d: usize = 0; d < 3; d++) {
    between(positions + d * stride, param(d), param(d + 3), param(d + 6), count);
    between(normals + d * stride, param(9 + d), param(12 + d), param(15 + d), count);
  }
  const one = v128.splat<f64>(1);
  const zero = v128.splat<f64>(0);
  const end = <usize>((count + 1) & ~1) << 3;
  for (let k = normals; k < normals + end; k += 16) {
    const x = v128.load(k);
    const y = v128.load(k + stride);
    const z = v128.load(k + 2 * stride);
    const length = f64x2.sqrt(f64x2.add(f64x2.add(f64x2.mul(x, x), f64x2.mul(y, y)), f64x2.mul(z, z)));
    const by = v128.bitselect(one, length, f64x2.eq(length, zero));
    v128.store(k, f64x2.div(x, by));
    v128.store(k + stride, f64x2.div(y, by));
    v128.store(k + 2 * stride, f64x2.div(z, by));
  }
}

// --- pictures ---

const REPEAT: i32 = 0;
const MIRROR: i32 = 1;
const NOTHING: i32 = 3;

/** A place of a picture's side within 0 to 1. */
// @ts-ignore: decorator
@inline
function within(u: f64, outside: i32): f64 {
  if (outside == REPEAT) return u - Math.floor(u);
  if (outside == MIRROR) return 1 - Math.abs(u - Math.floor(u * 0.5) * 2 - 1);
  return u < 0 ? 0 : u > 1 ? 1 : u;
}

/** Two px that stand side by side, or not: their bytes as numbers of 16 bits, channel by channel. */
// @ts-ignore: decorator
@inline
function pair(row: usize, x0: i32, x1: i32): v128 {
  const both =
    x1 == x0 + 1
      ? v128.load64_zero(row + (<usize>x0 << 2))
      : i32x4.replace_lane(v128.load32_zero(row + (<usize>x0 << 2)), 1, load<i32>(row + (<usize>x1 << 2)));
  return i16x8.extend_low_i8x16_u(v128.shuffle<u8>(both, both, 0, 4, 1, 5, 2, 6, 3, 7, 0, 4, 1, 5, 2, 6, 3, 7));
}

/** Shares of two px of a row, in parts of this. */
const whole: f32 = 32767;

/** The picture at a place in px from its upper left, less half a px: red, green, blue and alpha, 0 to 1. Linear between its px. */
// @ts-ignore: decorator
@inline
function between4(pixels: usize, width: i32, height: i32, outsideU: i32, outsideV: i32, left: i32, top: i32, fx: f32, fy: f32): v128 {
  let x0 = left;
  let y0 = top;
  let x1 = x0 + 1;
  let y1 = y0 + 1;
  if (x0 < 0) x0 = outsideU == REPEAT ? width - 1 : 0;
  if (x1 >= width) x1 = outsideU == REPEAT ? 0 : width - 1;
  if (y0 < 0) y0 = outsideV == REPEAT ? height - 1 : 0;
  if (y1 >= height) y1 = outsideV == REPEAT ? 0 : height - 1;
  // what is no number comes to no px
  if (<u32>x0 >= <u32>width || <u32>x1 >= <u32>width || <u32>y0 >= <u32>height || <u32>y1 >= <u32>height) return f32x4.splat(0);
  const right = <i32>(fx * whole + <f32>0.5);
  const across = i32x4.splat((right << 16) | (<i32>whole - right));
  const upper = f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(pair(pixels + ((<usize>y0 * <usize>width) << 2), x0, x1), across));
  const lower = f32x4.convert_i32x4_s(i32x4.dot_i16x8_s(pair(pixels + ((<usize>y1 * <usize>width) << 2), x0, x1), across));
  const down = fy * (<f32>1 / (<f32>255 * whole));
  return f32x4.add(f32x4.mul(upper, f32x4.splat(<f32>1 / (<f32>255 * whole) - down)), f32x4.mul(lower, f32x4.splat(down)));
}

/** The picture at a place of its square, v up. */
// @ts-ignore: decorator
@inline
function sample(pixels: usize, width: i32, height: i32, outsideU: i32, outsideV: i32, u: f64, v: f64): v128 {
  if ((outsideU == NOTHING && (u < 0 || u > 1)) || (outsideV == NOTHING && (v < 0 || v > 1))) return f32x4.splat(0);
  const x = within(u, outsideU) * <f64>width - 0.5;
  const y = (1 - within(v, outsideV)) * <f64>height - 0.5;
  const left = Math.floor(x);
  const top = Math.floor(y);
  return between4(pixels, width, height, outsideU, outsideV, <i32>left, <i32>top, <f32>(x - left), <f32>(y - top));
}

/** As `within`, of two places. */
// @ts-ignore: decorator
@inline
function within2(u: v128, outside: i32): v128 {
  if (outside == REPEAT) return f64x2.sub(u, f64x2.floor(u));
  const one = f64x2.splat(1);
  if (outside == MIRROR) {
    const twice = f64x2.mul(f64x2.floor(f64x2.mul(u, f64x2.splat(0.5))), f64x2.splat(2));
    return f64x2.sub(one, f64x2.abs(f64x2.sub(f64x2.sub(u, twice), one)));
  }
  return f64x2.min(one, f64x2.max(f64x2.splat(0), u));
}

/** 1 for each of two places that is beyond a side at which the picture ends. */
// @ts-ignore: decorator
@inline
function ended2(u: v128, outside: i32): i32 {
  if (outside != NOTHING) return 0;
  return i64x2.bitmask(v128.or(f64x2.lt(u, f64x2.splat(0)), f64x2.gt(u, f64x2.splat(1))));
}

/**
 * The picture by UVs, into `to`. Reads where the triangle's corners are in the picture (6).
 * @param outside of both sides: u + 4 v; 0 repeat, 1 mirror, 2 edge, 3 nothing
 */
export function sampleByUvs(to: usize, pixels: usize, width: i32, height: i32, outside: i32, count: i32): void {
  const u0 = f64x2.splat(param(0));
  const v0 = f64x2.splat(param(1));
  const uB = f64x2.splat(param(2) - param(0));
  const vB = f64x2.splat(param(3) - param(1));
  const uC = f64x2.splat(param(4) - param(0));
  const vC = f64x2.splat(param(5) - param(1));
  const outsideU = outside & 3;
  const outsideV = outside >> 2;
  const half = f64x2.splat(0.5);
  const one = f64x2.splat(1);
  const wide = f64x2.splat(<f64>width);
  const tall = f64x2.splat(<f64>height);
  for (let k = 0; k < count; k += 2) {
    const at = <usize>k << 3;
    const b = v128.load(shareB + at);
    const c = v128.load(shareC + at);
    const u = f64x2.add(u0, f64x2.add(f64x2.mul(uB, b), f64x2.mul(uC, c)));
    const v = f64x2.add(v0, f64x2.add(f64x2.mul(vB, b), f64x2.mul(vC, c)));
    const x = f64x2.sub(f64x2.mul(within2(u, outsideU), wide), half);
    const y = f64x2.sub(f64x2.mul(f64x2.sub(one, within2(v, outsideV)), tall), half);
    const left = f64x2.floor(x);
    const top = f64x2.floor(y);
    const fx = f32x4.demote_f64x2_zero(f64x2.sub(x, left));
    const fy = f32x4.demote_f64x2_zero(f64x2.sub(y, top));
    const x0 = i32x4.trunc_sat_f64x2_s_zero(left);
    const y0 = i32x4.trunc_sat_f64x2_s_zero(top);
    const ended = ended2(u, outsideU) | ended2(v, outsideV);
    const first = between4(
      pixels, width, height, outsideU, outsideV,
      i32x4.extract_lane(x0, 0), i32x4.extract_lane(y0, 0), f32x4.extract_lane(fx, 0), f32x4.extract_lane(fy, 0),
    );
    const second = between4(
      pixels, width, height, outsideU, outsideV,
      i32x4.extract_lane(x0, 1), i32x4.extract_lane(y0, 1), f32x4.extract_lane(fx, 1), f32x4.extract_lane(fy, 1),
    );
    v128.store(to + (at << 1), (ended & 1) != 0 ? f32x4.splat(0) : first);
    v128.store(to + (at << 1), (ended & 2) != 0 ? f32x4.splat(0) : second, 16);
  }
}

/**
 * The picture from three sides, into `to`. Reads the placement (6), the offset (3), width and height in units (2), the blend width (1), and cosine and sine of
 * the turn along x, y and z (6).
 */
export function sampleFromSides(to: usize, pixels: usize, width: i32, height: i32, outside: i32, count: i32): void {
  const a = param(0);
  const b = param(1);
  const c = param(2);
  const d = param(3);
  const e = param(4);
  const f = param(5);
  const acrossWidth = 1 / param(9);
  const acrossHeight = 1 / param(10);
  const blend = Math.max(1e-3, param(11));
  const outsideU = outside & 3;
  const outsideV = outside >> 2;
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 3;
    const nx = load<f64>(normals + at);
    const ny = load<f64>(normals + stride + at);
    const nz = load<f64>(normals + 2 * stride + at);
    const x = load<f64>(positions + at) - param(6);
    const y = load<f64>(positions + stride + at) - param(7);
    const z = load<f64>(positions + 2 * stride + at) - param(8);
    const steepest = Math.max(Math.abs(nx), Math.max(Math.abs(ny), Math.abs(nz)));
    let wx: f64 = 0;
    let wy: f64 = 0;
    let wz: f64 = 1;
    if (steepest > 0) {
      // what is below the steepest by more than the width has no share
      const least = steepest * (1 - blend);
      wx = Math.max(0, Math.abs(nx) - least);
      wy = Math.max(0, Math.abs(ny) - least);
      wz = Math.max(0, Math.abs(nz) - least);
      const each = 1 / (wx + wy + wz);
      wx *= each;
      wy *= each;
      wz *= each;
    }
    let colour = f32x4.splat(0);
    for (let axis = 0; axis < 3; axis++) {
      const weight = axis == 0 ? wx : axis == 1 ? wy : wz;
      if (weight <= 0) continue;
      const sign: f64 = (axis == 0 ? nx : axis == 1 ? ny : nz) < 0 ? -1 : 1;
      const across = axis == 0 ? -sign * z : axis == 1 ? x : sign * x;
      const up = axis == 1 ? -sign * z : y;
      const cos = param(12 + axis * 2);
      const sin = param(13 + axis * 2);
      const u = (across * cos + up * sin) * acrossWidth;
      const v = (up * cos - across * sin) * acrossHeight;
      const found = sample(pixels, width, height, outsideU, outsideV, a * u + b * v + c, d * u + e * v + f);
      // multiplied by its alpha, but for the alpha itself
      const alpha = f32x4.extract_lane(found, 3) * <f32>weight;
      colour = f32x4.add(colour, f32x4.mul(f32x4.replace_lane(found, 3, 1), f32x4.splat(alpha)));
    }
    const alpha = f32x4.extract_lane(colour, 3);
    if (alpha > 0) colour = f32x4.replace_lane(f32x4.div(colour, f32x4.splat(alpha)), 3, alpha);
    v128.store(to + (at << 1), colour);
  }
}

// --- what follows from the place in space ---

// @ts-ignore: decorator
@inline
function smoothly(t: f64): f64 {
  const s = t < 0 ? 0 : t > 1 ? 1 : t;
  return s * s * (3 - 2 * s);
}

/**
 * A fade, 1 where it begins, into `to` (f32). Reads from 32 on: 0 for a linear one, then where it begins and ends (6); 1 for a radial one, then centre, inner and outer
 * radius (5). @param ragged 0, or by how much it is shifted by the noise that stands in `to`
 */
export function fade(to: usize, ragged: f64, count: i32): void {
  const isRadial = param(32) != 0;
  const ax = param(33);
  const ay = param(34);
  const az = param(35);
  const dx = param(36) - ax;
  const dy = param(37) - ay;
  const dz = param(38) - az;
  const squared = dx * dx + dy * dy + dz * dz;
  const inner = param(36);
  const length = Math.max(1e-9, param(37) - inner);
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 3;
    const x = load<f64>(positions + at) - ax;
    const y = load<f64>(positions + stride + at) - ay;
    const z = load<f64>(positions + 2 * stride + at) - az;
    const t = isRadial ? (Math.sqrt(x * x + y * y + z * z) - inner) / length : squared > 0 ? (x * dx + y * dy + z * dz) / squared : 0;
    const one = to + (<usize>k << 2);
    const shift = ragged > 0 ? (<f64>load<f32>(one) - 0.5) * 2 * ragged : 0;
    store<f32>(one, <f32>(1 - smoothly(t + shift)));
  }
}

// @ts-ignore: decorator
@inline
function mix(a: v128): v128 {
  return i32x4.add(i32x4.mul(a, i32x4.splat(1664525)), i32x4.splat(1013904223));
}

/** A value of its own for each whole place, 0 to 1, of four places; x, y and z mixed already. */
// @ts-ignore: decorator
@inline
function lattice(x: v128, y: v128, z: v128): v128 {
  let a = i32x4.add(x, i32x4.mul(y, z));
  let b = i32x4.add(y, i32x4.mul(z, a));
  let c = i32x4.add(z, i32x4.mul(a, b));
  a = v128.xor(a, i32x4.shr_u(a, 16));
  b = v128.xor(b, i32x4.shr_u(b, 16));
  c = v128.xor(c, i32x4.shr_u(c, 16));
  a = i32x4.add(a, i32x4.mul(b, c));
  return f32x4.mul(f32x4.convert_i32x4_u(a), f32x4.splat(<f32>(1.0 / 4294967295.0)));
}

// @ts-ignore: decorator
@inline
function eased(t: v128): v128 {
  const six = f32x4.sub(f32x4.mul(t, f32x4.splat(6)), f32x4.splat(15));
  return f32x4.mul(f32x4.mul(f32x4.mul(t, t), t), f32x4.add(f32x4.mul(t, six), f32x4.splat(10)));
}

// @ts-ignore: decorator
@inline
function mixed(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), t));
}

/** Cells of four places along one side (whole numbers), and what is left over into `leftOver`. */
let leftOver: v128 = f32x4.splat(0);
// @ts-ignore: decorator
@inline
function cells(at: usize, scale: v128): v128 {
  const one = f64x2.mul(v128.load(at), scale);
  const two = f64x2.mul(v128.load(at, 16), scale);
  const cellOne = f64x2.floor(one);
  const cellTwo = f64x2.floor(two);
  leftOver = v128.shuffle<f32>(f32x4.demote_f64x2_zero(f64x2.sub(one, cellOne)), f32x4.demote_f64x2_zero(f64x2.sub(two, cellTwo)), 0, 1, 4, 5);
  return v128.shuffle<i32>(i32x4.trunc_sat_f64x2_s_zero(cellOne), i32x4.trunc_sat_f64x2_s_zero(cellTwo), 0, 1, 4, 5);
}

/** Noise of the place in space, 0 to 1, into `to` (f32). */
export function noise(to: usize, seed: i32, size: f64, detail: i32, count: i32): void {
  let all: f32 = 0;
  let weight: f32 = 1;
  for (let octave = 0; octave < detail; octave++) {
    all += weight;
    weight *= 0.5;
  }
  const whole = f32x4.splat(1 / all);
  const next = i32x4.splat(1);
  for (let k = 0; k < count; k += 4) {
    const at = positions + (<usize>k << 3);
    let sum = f32x4.splat(0);
    let scale: f64 = 1 / size;
    let own: f32 = 1;
    for (let octave = 0; octave < detail; octave++) {
      const scales = f64x2.splat(scale);
      const i = i32x4.add(cells(at, scales), i32x4.splat((seed + octave) * 101));
      const u = eased(leftOver);
      const j = cells(at + stride, scales);
      const v = eased(leftOver);
      const l = cells(at + 2 * stride, scales);
      const w = eased(leftOver);
      const x0 = mix(i);
      const x1 = mix(i32x4.add(i, next));
      const y0 = mix(j);
      const y1 = mix(i32x4.add(j, next));
      const z0 = mix(l);
      const z1 = mix(i32x4.add(l, next));
      const near = mixed(mixed(lattice(x0, y0, z0), lattice(x1, y0, z0), u), mixed(lattice(x0, y1, z0), lattice(x1, y1, z0), u), v);
      const far = mixed(mixed(lattice(x0, y0, z1), lattice(x1, y0, z1), u), mixed(lattice(x0, y1, z1), lattice(x1, y1, z1), u), v);
      sum = f32x4.add(sum, f32x4.mul(mixed(near, far, w), f32x4.splat(own)));
      own *= 0.5;
      scale *= 2;
    }
    v128.store(to + (<usize>k << 2), f32x4.mul(sum, whole));
  }
}

/** Colours between two, by the numbers in `mask`. Reads both (6) from 40 on. */
export function colourBetween(count: i32): void {
  const from = f32x4(<f32>param(40), <f32>param(41), <f32>param(42), 1);
  const to = f32x4(<f32>param(43), <f32>param(44), <f32>param(45), 1);
  for (let k = 0; k < count; k++) v128.store(texels + (<usize>k << 4), mixed(from, to, v128.load32_splat(mask + (<usize>k << 2))));
}

// --- adjustments ---

/** Levels without gamma, brightness and contrast, then saturation and hue. Reads black, range, brightness, contrast (4) and the matrix (9) from 40 on. */
export function adjust(count: i32): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5);
  const black = f32x4.splat(<f32>param(40));
  const range = f32x4.splat(<f32>(1 / param(41)));
  const brightness = f32x4.splat(<f32>param(42));
  const contrast = f32x4.splat(<f32>param(43));
  const red = f32x4(<f32>param(44), <f32>param(47), <f32>param(50), 0);
  const green = f32x4(<f32>param(45), <f32>param(48), <f32>param(51), 0);
  const blue = f32x4(<f32>param(46), <f32>param(49), <f32>param(52), 0);
  for (let k = 0; k < count; k++) {
    const at = texels + (<usize>k << 4);
    const was = v128.load(at);
    let colour = f32x4.min(one, f32x4.max(zero, f32x4.mul(f32x4.sub(was, black), range)));
    colour = f32x4.min(one, f32x4.mul(colour, brightness));
    colour = f32x4.min(one, f32x4.max(zero, f32x4.add(f32x4.mul(f32x4.sub(colour, half), contrast), half)));
    const turned = f32x4.add(
      f32x4.mul(red, v128.shuffle<f32>(colour, colour, 0, 0, 0, 0)),
      f32x4.add(f32x4.mul(green, v128.shuffle<f32>(colour, colour, 1, 1, 1, 1)), f32x4.mul(blue, v128.shuffle<f32>(colour, colour, 2, 2, 2, 2))),
    );
    v128.store(at, f32x4.replace_lane(f32x4.min(one, f32x4.max(zero, turned)), 3, f32x4.extract_lane(was, 3)));
  }
}

// --- masks ---

/** The same everywhere. @param to f32 a place */
export function fill(to: usize, value: f32, count: i32): void {
  for (let k = 0; k < count; k += 4) v128.store(to + (<usize>k << 2), f32x4.splat(value));
}

/** A number of the triangle's corners, but not below 0; the less of it and what `to` has, if asked. */
export function field(to: usize, a: f64, b: f64, c: f64, isLess: bool, count: i32): void {
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 3;
    const value = <f32>Math.max(0, a + (b - a) * load<f64>(shareB + at) + (c - a) * load<f64>(shareC + at));
    const one = to + (<usize>k << 2);
    store<f32>(one, isLess ? min(value, load<f32>(one)) : value);
  }
}

/** Noise in `mask` becomes 0 below `low` and 1 above `high`. */
export function threshold(low: f64, high: f64, count: i32): void {
  const range = Math.max(1e-4, high - low);
  for (let k = 0; k < count; k++) {
    const at = mask + (<usize>k << 2);
    store<f32>(at, <f32>Math.max(0, Math.min(1, (<f64>load<f32>(at) - low) / range)));
  }
}

/** What a picture in `texels` says as a mask, into `mask`. @param channel 0: lightness, 1 to 3: one of the colours, 4: alpha */
export function maskOfTexels(channel: i32, count: i32): void {
  for (let k = 0; k < count; k++) {
    const from = texels + (<usize>k << 4);
    const alpha = load<f32>(from, 12);
    let value = alpha;
    if (channel == 0) value = (<f32>0.213 * load<f32>(from) + <f32>0.715 * load<f32>(from, 4) + <f32>0.072 * load<f32>(from, 8)) * alpha;
    else if (channel < 4) value = load<f32>(from + (<usize>(channel - 1) << 2));
    store<f32>(mask + (<usize>k << 2), value);
  }
}

/** Puts `mask` with what `reach` has. @param how 0: takes its place, 1: multiplied, 2: the larger counts */
export function combine(how: i32, isInverted: bool, count: i32): void {
  const one = f32x4.splat(1);
  for (let k = 0; k < count; k += 4) {
    const at = <usize>k << 2;
    const own = v128.load(mask + at);
    const value = isInverted ? f32x4.sub(one, own) : own;
    const was = v128.load(reach + at);
    v128.store(reach + at, how == 0 ? value : how == 1 ? f32x4.mul(was, value) : f32x4.max(was, value));
  }
}

// --- over one another ---

// @ts-ignore: decorator
@inline
function hardLight(b: v128, s: v128): v128 {
  const two = f32x4.add(s, s);
  const above = f32x4.sub(two, f32x4.splat(1));
  return v128.bitselect(f32x4.mul(b, two), f32x4.sub(f32x4.add(b, above), f32x4.mul(b, above)), f32x4.le(s, f32x4.splat(0.5)));
}

// @ts-ignore: decorator
@inline
function softLight(b: v128, s: v128): v128 {
  const one = f32x4.splat(1);
  const above = f32x4.sub(f32x4.add(s, s), one);
  const low = f32x4.mul(f32x4.add(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(16), b), f32x4.splat(12)), b), f32x4.splat(4)), b);
  const d = v128.bitselect(low, f32x4.sqrt(b), f32x4.le(b, f32x4.splat(0.25)));
  const darker = f32x4.add(b, f32x4.mul(f32x4.mul(above, b), f32x4.sub(one, b)));
  const lighter = f32x4.add(b, f32x4.mul(above, f32x4.sub(d, b)));
  return v128.bitselect(darker, lighter, f32x4.le(s, f32x4.splat(0.5)));
}

/** As near to 0 or 1 as rounding leaves what is meant to be it. */
const nearly: f32 = 1e-6;

// @ts-ignore: decorator
@inline
function dodge(b: v128, s: v128): v128 {
  const one = f32x4.splat(1);
  const lit = v128.bitselect(one, f32x4.min(one, f32x4.div(b, f32x4.sub(one, s))), f32x4.ge(s, f32x4.splat(1 - nearly)));
  return v128.andnot(lit, f32x4.eq(b, f32x4.splat(0)));
}

// @ts-ignore: decorator
@inline
function burn(b: v128, s: v128): v128 {
  const one = f32x4.splat(1);
  const dark = v128.andnot(f32x4.sub(one, f32x4.min(one, f32x4.div(f32x4.sub(one, b), s))), f32x4.le(s, f32x4.splat(0)));
  return v128.bitselect(one, dark, f32x4.ge(b, f32x4.splat(1 - nearly)));
}

let red: f32 = 0;
let green: f32 = 0;
let blue: f32 = 0;

// @ts-ignore: decorator
@inline
function least3(a: f32, b: f32, c: f32): f32 {
  return min(a, min(b, c));
}

// @ts-ignore: decorator
@inline
function most3(a: f32, b: f32, c: f32): f32 {
  return max(a, max(b, c));
}

// @ts-ignore: decorator
@inline
function lum(r: f32, g: f32, b: f32): f32 {
  return <f32>0.3 * r + <f32>0.59 * g + <f32>0.11 * b;
}

/** The modes that mix hue, saturation and luminosity: 12 hue, 13 saturation, 14 colour, 15 luminosity. */
function mixChannels(mode: i32, b: v128, s: v128): v128 {
  const b0 = f32x4.extract_lane(b, 0);
  const b1 = f32x4.extract_lane(b, 1);
  const b2 = f32x4.extract_lane(b, 2);
  const s0 = f32x4.extract_lane(s, 0);
  const s1 = f32x4.extract_lane(s, 1);
  const s2 = f32x4.extract_lane(s, 2);
  const keepsSource = mode == 12 || mode == 14;
  red = keepsSource ? s0 : b0;
  green = keepsSource ? s1 : b1;
  blue = keepsSource ? s2 : b2;
  if (mode == 12 || mode == 13) {
    const wanted = mode == 12 ? most3(b0, b1, b2) - least3(b0, b1, b2) : most3(s0, s1, s2) - least3(s0, s1, s2);
    const low = least3(red, green, blue);
    const range = most3(red, green, blue) - low;
    const by: f32 = range > 0 ? wanted / range : 0;
    red = (red - low) * by;
    green = (green - low) * by;
    blue = (blue - low) * by;
  }
  const d = (mode == 15 ? lum(s0, s1, s2) : lum(b0, b1, b2)) - lum(red, green, blue);
  red += d;
  green += d;
  blue += d;
  const l = lum(red, green, blue);
  const low = least3(red, green, blue);
  const high = most3(red, green, blue);
  if (low < 0) {
    const by = l / (l - low);
    red = l + (red - l) * by;
    green = l + (green - l) * by;
    blue = l + (blue - l) * by;
  }
  if (high > 1) {
    const by = (<f32>1 - l) / (high - l);
    red = l + (red - l) * by;
    green = l + (green - l) * by;
    blue = l + (blue - l) * by;
  }
  return f32x4(red, green, blue, 0);
}

/** The blend function of a mode by its number in `blendModes`. */
// @ts-ignore: decorator
@inline
function blend(mode: i32, b: v128, s: v128): v128 {
  switch (mode) {
    case 0:
      return s;
    case 1:
      return f32x4.mul(b, s);
    case 2:
      return f32x4.sub(f32x4.add(b, s), f32x4.mul(b, s));
    case 3:
      return hardLight(s, b);
    case 4:
      return f32x4.min(b, s);
    case 5:
      return f32x4.max(b, s);
    case 6:
      return dodge(b, s);
    case 7:
      return burn(b, s);
    case 8:
      return hardLight(b, s);
    case 9:
      return softLight(b, s);
    case 10:
      return f32x4.abs(f32x4.sub(b, s));
    case 11: {
      const product = f32x4.mul(b, s);
      return f32x4.sub(f32x4.add(b, s), f32x4.add(product, product));
    }
    default:
      return mixChannels(mode, b, s);
  }
}

/** Puts `texels` over `under`: their alpha counts by the opacity, and by `reach` if asked. Simple alpha compositing, colours not multiplied. */
export function composite(mode: i32, opacity: f32, isMasked: bool, count: i32): void {
  for (let k = 0; k < count; k++) {
    const at = <usize>k << 4;
    const source = v128.load(texels + at);
    let alpha: f32 = f32x4.extract_lane(source, 3) * opacity;
    if (isMasked) alpha *= load<f32>(reach + (<usize>k << 2));
    if (!(alpha > 0)) continue;
    const was = v128.load(under + at);
    const below = f32x4.extract_lane(was, 3);
    const all = alpha + below * (1 - alpha);
    const own = below == 1 ? alpha : alpha / all;
    const share = own * below;
    // where there is nothing below, the source alone
    const colour = f32x4.add(
      f32x4.add(f32x4.mul(source, f32x4.splat(own - share)), f32x4.mul(blend(mode, was, source), f32x4.splat(share))),
      f32x4.mul(was, f32x4.splat(1 - own)),
    );
    v128.store(under + at, f32x4.replace_lane(colour, 3, all));
  }
}

// --- a band of a picture ---

/** Where the samples are within a px (x, then y, of each; f64). */
export let pattern: usize = 0;
/** Of each sample, how much its shares differ from those at the px's upper left corner; and the shares of the px at work. */
let offsetB: usize = 0;
let offsetC: usize = 0;
let sharesB: usize = 0;
let sharesC: usize = 0;

let width: i32 = 0;
let rows: i32 = 0;
let fromRow: i32 = 0;
let samples: i32 = 0;
/** Of each px: sum of its samples' colours times alpha, and of alpha (4 × f32); samples that have an owner, and that another one wanted (u16 each); how many (u8). */
let sums: usize = 0;
let owners: usize = 0;
let wanted: usize = 0;
/** Colours of the px, 4 numbers of 8 or 16 bits, and whether it is covered (u8). */
export let data: usize = 0;
export let covered: usize = 0;
/** Samples that more than one island wants, and that one has. */
export let contested: i32 = 0;
export let taken: i32 = 0;

/** A triangle shares its border samples with its neighbour: within this of its edge nobody is robbed. */
const edgeShare: f64 = 1e-4;
/** Rounding leaves no gap between neighbours. */
const edgeSlack: f64 = -1e-9;

/** Begins a band of rows. @returns the first address behind it */
export function beginBand(at: usize, wide: i32, from: i32, to: i32, samplesOfPx: i32): usize {
  width = wide;
  fromRow = from;
  rows = to - from;
  samples = samplesOfPx;
  const px = <usize>(rows * width);
  sums = at;
  owners = sums + (px << 4);
  wanted = owners + (px << 1);
  data = (wanted + (px << 1) + 7) & ~7;
  covered = data + (px << 3);
  memory.fill(sums, 0, covered + px - sums);
  contested = 0;
  taken = 0;
  return covered + px;
}

let ax: f64 = 0;
let ay: f64 = 0;
let bx: f64 = 0;
let by: f64 = 0;
let cx: f64 = 0;
let cy: f64 = 0;
/** How the shares of the second and third corner change from px to px, to the right and down. */
export let wbx: f64 = 0;
export let wby: f64 = 0;
export let wcx: f64 = 0;
export let wcy: f64 = 0;
let atX: i32 = 0;
let atY: i32 = 0;
let endX: i32 = 0;
let lastX: i32 = 0;
let firstX: i32 = 0;
let lastY: i32 = 0;

/** Begins a triangle, by its corners in px of the picture. @returns whether it has an area */
export function beginTriangle(x0: f64, y0: f64, x1: f64, y1: f64, x2: f64, y2: f64): bool {
  const area = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0);
  if (!(Math.abs(area) > 1e-12)) return false;
  ax = x0;
  ay = y0;
  bx = x1;
  by = y1;
  cx = x2;
  cy = y2;
  wbx = (y2 - y0) / area;
  wby = -(x2 - x0) / area;
  wcx = -(y1 - y0) / area;
  wcy = (x1 - x0) / area;
  for (let s = 0; s < samples; s++) {
    const to = <usize>s << 3;
    const px = load<f64>(pattern + (to << 1));
    const py = load<f64>(pattern + (to << 1), 8);
    store<f64>(offsetB + to, px * wbx + py * wby);
    store<f64>(offsetC + to, px * wcx + py * wcy);
  }
  // an odd one is tested with itself
  if (samples == 1) {
    store<f64>(offsetB, load<f64>(offsetB), 8);
    store<f64>(offsetC, load<f64>(offsetC), 8);
  }
  firstX = <i32>Math.max(0, Math.floor(Math.min(x0, Math.min(x1, x2))));
  lastX = <i32>Math.min(<f64>width - 1, Math.floor(Math.max(x0, Math.max(x1, x2))));
  atY = <i32>Math.max(<f64>fromRow, Math.floor(Math.min(y0, Math.min(y1, y2)))) - 1;
  lastY = <i32>Math.min(<f64>(fromRow + rows) - 1, Math.floor(Math.max(y0, Math.max(y1, y2))));
  atX = 0;
  endX = -1;
  return true;
}

let spanLeft: f64 = 0;
let spanRight: f64 = 0;

/** Widens the row's span by an edge of the triangle. */
// @ts-ignore: decorator
@inline
function widen(px: f64, py: f64, qx: f64, qy: f64): void {
  const top = Math.max(<f64>atY, Math.min(py, qy));
  const bottom = Math.min(<f64>atY + 1, Math.max(py, qy));
  if (top > bottom) return;
  const slope = qy == py ? 0 : (qx - px) / (qy - py);
  const one = qy == py ? px : px + (top - py) * slope;
  const other = qy == py ? qx : px + (bottom - py) * slope;
  spanLeft = Math.min(spanLeft, Math.min(one, other));
  spanRight = Math.max(spanRight, Math.max(one, other));
}

/** The triangle's samples that nobody has yet become its own, as many as go into the buffers. @returns how many; 0 once there are no more */
export function nextPlaces(): i32 {
  let count = 0;
  const slack = f64x2.splat(edgeSlack);
  const one = f64x2.splat(1);
  const all = (1 << samples) - 1;
  while (true) {
    if (atX > endX) {
      if (atY >= lastY) break;
      atY++;
      spanLeft = Infinity;
      spanRight = -Infinity;
      widen(ax, ay, bx, by);
      widen(bx, by, cx, cy);
      widen(cx, cy, ax, ay);
      atX = <i32>Math.max(<f64>firstX, Math.floor(spanLeft));
      endX = <i32>Math.min(<f64>lastX, Math.floor(spanRight));
      continue;
    }
    if (count + samples > most) break;
    const dx = <f64>atX - ax;
    const dy = <f64>atY - ay;
    const baseB = f64x2.splat(dx * wbx + dy * wby);
    const baseC = f64x2.splat(dx * wcx + dy * wcy);
    let inside = 0;
    for (let s = 0; s < samples; s += 2) {
      const to = <usize>s << 3;
      const b = f64x2.add(baseB, v128.load(offsetB + to));
      const c = f64x2.add(baseC, v128.load(offsetC + to));
      const a = f64x2.sub(f64x2.sub(one, b), c);
      inside |= i64x2.bitmask(v128.and(v128.and(f64x2.ge(a, slack), f64x2.ge(b, slack)), f64x2.ge(c, slack))) << s;
      v128.store(sharesB + to, b);
      v128.store(sharesC + to, c);
    }
    inside &= all;
    const px = (atY - fromRow) * width + atX;
    atX++;
    if (inside == 0) continue;
    const owner = owners + (<usize>px << 1);
    const had = <i32>load<u16>(owner);
    let fresh = inside & ~had;
    if (inside != fresh) alsoWanted(inside & had, wanted + (<usize>px << 1));
    if (fresh == 0) continue;
    store<u16>(owner, <u16>(had | fresh));
    taken += popcnt(fresh);
    while (fresh != 0) {
      const s = ctz(fresh);
      fresh &= fresh - 1;
      const from = <usize>s << 3;
      const to = <usize>count << 3;
      store<f64>(shareB + to, load<f64>(sharesB + from));
      store<f64>(shareC + to, load<f64>(sharesC + from));
      store<i32>(places + (<usize>count << 2), (px << 4) | s);
      count++;
    }
  }
  return count;
}

/** Counts samples that a triangle wants well within its border and that another one has. */
function alsoWanted(had: i32, at: usize): void {
  let rest = had & ~<i32>load<u16>(at);
  while (rest != 0) {
    const s = ctz(rest);
    rest &= rest - 1;
    const b = load<f64>(sharesB + (<usize>s << 3));
    const c = load<f64>(sharesC + (<usize>s << 3));
    if (b > edgeShare && c > edgeShare && 1 - b - c > edgeShare) {
      store<u16>(at, <u16>(<i32>load<u16>(at) | (1 << s)));
      contested++;
    }
  }
}

/** Adds the colours in `under` to the px of the places. */
export function accumulate(count: i32): void {
  for (let k = 0; k < count; k++) {
    const colour = v128.load(under + (<usize>k << 4));
    const to = sums + (<usize>(load<u32>(places + (<usize>k << 2)) >> 4) << 4);
    const alpha = f32x4.extract_lane(colour, 3);
    v128.store(to, f32x4.add(v128.load(to), f32x4.mul(f32x4.replace_lane(colour, 3, 1), f32x4.splat(alpha))));
  }
}

/** Means of the px, as whole numbers of 8 or 16 bits, into `data`; and whether each is covered. */
export function finishBand(is16: bool): void {
  const zero = f32x4.splat(0);
  const one = f32x4.splat(1);
  const half = f32x4.splat(0.5);
  const scale = f32x4.splat(is16 ? 65535 : 255);
  const px = <usize>(rows * width);
  for (let k: usize = 0; k < px; k++) {
    const count = popcnt(<i32>load<u16>(owners + (k << 1)));
    if (count == 0) continue;
    store<u8>(covered + k, 1);
    const sum = v128.load(sums + (k << 4));
    const alpha = f32x4.extract_lane(sum, 3);
    let colour = alpha > 0 ? f32x4.min(one, f32x4.max(zero, f32x4.div(sum, f32x4.splat(alpha)))) : zero;
    colour = f32x4.replace_lane(colour, 3, min(<f32>1, alpha / <f32>count));
    const rounded = i32x4.trunc_sat_f32x4_u(f32x4.floor(f32x4.add(f32x4.mul(colour, scale), half)));
    const narrow = i16x8.narrow_i32x4_u(rounded, rounded);
    if (is16) v128.store64_lane(data + (k << 3), narrow, 0);
    else v128.store32_lane(data + (k << 2), i8x16.narrow_i16x8_u(narrow, narrow), 0);
  }
}

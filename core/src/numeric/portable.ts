/*
 * Functions whose results have the same bits in every browser and in Node. The language leaves `Math.sin` and its like to each engine, and engines differ in
 * the last bit; a job would come out otherwise in the browser than on the command line. Here they are built from +, −, ×, ÷ and √ alone, which IEEE 754 rounds in one
 * way. Errors stay below two units in the last place (tests compare with the engine's own). Series: Taylor; reduction of angles in three parts after Cody and Waite,
 * "Software Manual for the Elementary Functions", 1980 (from memory).
 */

const bits = new Float64Array(1);
const words = new Uint32Array(bits.buffer);
/** Of the two halves of a number, the one with its exponent. */
const high = new Uint8Array(new Uint16Array([1]).buffer)[0] === 1 ? 1 : 0;

/** π/2 to about 106 bits: its first 33, the rest of the nearest double, and what is left. */
const halfPi = Math.PI / 2;
const halfPi1 = Math.floor(halfPi * 2 ** 32) / 2 ** 32;
const halfPi2 = halfPi - halfPi1;
const halfPi3 = 6.123233995736766e-17;
/** Beyond it quarter turns are taken off with fewer bits. */
const mostAngle = 2 ** 20;

/** 1/n! with signs in turn, n in steps of two. */
const series = (first: number, last: number): number[] => {
  const out: number[] = [];
  let factor = 1;
  for (let n = 1; n <= last; n++) {
    factor *= n;
    if ((n - first) % 2 === 0 && n >= first) out.push((((n - first) / 2) % 2 === 0 ? -1 : 1) / factor);
  }
  return out;
};
const [s3, s5, s7, s9, s11, s13, s15, s17, s19] = series(3, 19) as [number, number, number, number, number, number, number, number, number];
const [c4, c6, c8, c10, c12, c14, c16, c18, c20] = series(4, 20) as [number, number, number, number, number, number, number, number, number];

/** Sine of an angle of at most an eighth of a turn. */
function smallSine(r: number): number {
  const z = r * r;
  return r + r * z * (s3 + z * (s5 + z * (s7 + z * (s9 + z * (s11 + z * (s13 + z * (s15 + z * (s17 + z * s19))))))));
}

function smallCosine(r: number): number {
  const z = r * r;
  const half = 0.5 * z;
  const near = 1 - half;
  return near + (1 - near - half - z * z * (c4 + z * (c6 + z * (c8 + z * (c10 + z * (c12 + z * (c14 + z * (c16 + z * (c18 + z * c20)))))))));
}

/** Sine of an angle that is `quarters` quarter turns further. */
function turnedSine(angle: number, quarters: number): number {
  if (!Number.isFinite(angle)) return NaN;
  const x = Math.abs(angle) > mostAngle ? angle % (2 * Math.PI) : angle;
  const n = Math.round(x / halfPi);
  const r = x - n * halfPi1 - n * halfPi2 - n * halfPi3;
  const quarter = (n + quarters) & 3;
  const value = (quarter & 1) === 0 ? smallSine(r) : smallCosine(r);
  return quarter < 2 ? value : -value;
}

/** @param x radians */
export const sin = (x: number): number => (x === 0 ? x : turnedSine(x, 0));
/** @param x radians */
export const cos = (x: number): number => turnedSine(x, 1);
/** @param x radians */
export const tan = (x: number): number => sin(x) / cos(x);

/** Arc tangents of 0, 1/8 … 1. */
const eighths = [
  0, 0.12435499454676144, 0.24497866312686414, 0.35877067027057225, 0.4636476090008061, 0.5585993153435624, 0.6435011087932844, 0.7188299996216245,
  0.7853981633974483,
];

/** Arc tangent of 0 … 1: from the nearest eighth on by the addition theorem. */
function smallAtan(x: number): number {
  const k = Math.round(x * 8);
  const c = k / 8;
  const t = (x - c) / (1 + x * c);
  const z = t * t;
  return eighths[k]! + (t - t * z * (1 / 3 - z * (1 / 5 - z * (1 / 7 - z * (1 / 9 - z * (1 / 11 - z / 13))))));
}

/** The angle of a direction, as `Math.atan2` has it: −π … π. */
export function atan2(y: number, x: number): number {
  if (Number.isNaN(x) || Number.isNaN(y)) return NaN;
  const [a, b] = [Math.abs(y), Math.abs(x)];
  const back = x < 0 || Object.is(x, -0);
  let angle: number;
  if (a === 0) angle = 0;
  else if (b === 0) angle = halfPi;
  else if (a === Infinity || b === Infinity) angle = a === b ? Math.PI / 4 : a === Infinity ? halfPi : 0;
  else angle = a <= b ? smallAtan(a / b) : halfPi - (smallAtan(b / a) - halfPi3);
  if (back) angle = Math.PI - (angle - 2 * halfPi3);
  return y < 0 || Object.is(y, -0) ? -angle : angle;
}

/** @returns radians, 0 … π; NaN beyond −1 … 1 */
export const acos = (x: number): number => (x >= -1 && x <= 1 ? atan2(Math.sqrt((1 - x) * (1 + x)), x) : NaN);

const ln2 = Math.LN2;
/** ln 2 in two parts, the first with so few bits that whole multiples of it are exact. */
const ln2High = Math.floor(ln2 * 2 ** 32) / 2 ** 32;
const ln2Low = ln2 - ln2High + 2.3190468138462996e-17;

/** 2 to a whole power within −1022 … 1023. */
function powerOfTwo(k: number): number {
  words[high] = (k + 1023) << 20;
  words[1 - high] = 0;
  return bits[0]!;
}

/** 1/n! for n from 2 to 13. */
const [e2, e3, e4, e5, e6, e7, e8, e9, e10, e11, e12, e13] = Array.from({ length: 12 }, (_, n) =>
  Array.from({ length: n + 2 }, (_k, m) => m + 1).reduce((a, b) => a / b, 1),
) as [number, number, number, number, number, number, number, number, number, number, number, number];

export function exp(x: number): number {
  if (Number.isNaN(x)) return NaN;
  if (x > 709.782712893384) return Infinity;
  if (x < -745.1332191019412) return 0;
  const k = Math.round(x / ln2);
  const r = x - k * ln2High - k * ln2Low;
  const beyond = e2 + r * (e3 + r * (e4 + r * (e5 + r * (e6 + r * (e7 + r * (e8 + r * (e9 + r * (e10 + r * (e11 + r * (e12 + r * e13))))))))));
  const value = 1 + (r + r * r * beyond);
  const half = Math.trunc(k / 2);
  return value * powerOfTwo(half) * powerOfTwo(k - half);
}

/** A positive number as m · 2^e with m from √½ to √2. */
function parts(x: number): [m: number, e: number] {
  const tiny = x < 2.2250738585072014e-308;
  bits[0] = tiny ? x * 2 ** 54 : x;
  let e = (words[high]! >>> 20) - 1023;
  words[high] = (words[high]! & 0xfffff) | (1023 << 20);
  let m = bits[0]!;
  if (m > Math.SQRT2) {
    m /= 2;
    e++;
  }
  return [m, tiny ? e - 54 : e];
}

/** Logarithm of √½ … √2. */
function smallLog(m: number): number {
  const d = m - 1;
  const f = d / (m + 1);
  const z = f * f;
  const tail = 2 / 15 + z * (2 / 17 + z * (2 / 19 + z * (2 / 21 + (z * 2) / 23)));
  const sum = 2 / 3 + z * (2 / 5 + z * (2 / 7 + z * (2 / 9 + z * (2 / 11 + z * (2 / 13 + z * tail)))));
  // 2f is d − f·d: written so that the quotient's rounding counts for little
  const half = 0.5 * d * d;
  return d - (half - f * (half + sum * z));
}

const special = (x: number) => (x < 0 || Number.isNaN(x) ? NaN : x === 0 ? -Infinity : Infinity);
const isPlain = (x: number) => x > 0 && x < Infinity;

/** The natural logarithm. */
export function log(x: number): number {
  if (!isPlain(x)) return special(x);
  const [m, e] = parts(x);
  return e * ln2High + (smallLog(m) + e * ln2Low);
}

/** Exact for whole powers of two. */
export function log2(x: number): number {
  if (!isPlain(x)) return special(x);
  const [m, e] = parts(x);
  return e + smallLog(m) / ln2;
}

/** x to any power, x not negative. Errors grow with the size of the exponent: a few units in the last place for powers of a few. */
export function pow(x: number, y: number): number {
  if (y === 0 || x === 1) return 1;
  if (x === 0) return y > 0 ? 0 : Infinity;
  return exp(y * log(x));
}

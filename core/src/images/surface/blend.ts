import { blendModes, type BlendMode } from './names.ts';

const hardLight = (b: number, s: number) => (s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1));

function softLight(b: number, s: number): number {
  if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
  const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
  return b + (2 * s - 1) * (d - b);
}

const lumOf = (r: number, g: number, b: number) => 0.3 * r + 0.59 * g + 0.11 * b;
const satOf = (r: number, g: number, b: number) => Math.max(r, g, b) - Math.min(r, g, b);

/** Puts a colour at a luminosity, kept within 0 to 1 (the text's SetLum and ClipColor). */
function setLum(out: Float64Array, lum: number): void {
  const d = lum - lumOf(out[0]!, out[1]!, out[2]!);
  for (let k = 0; k < 3; k++) out[k]! += d;
  const l = lumOf(out[0]!, out[1]!, out[2]!);
  const least = Math.min(out[0]!, out[1]!, out[2]!);
  const most = Math.max(out[0]!, out[1]!, out[2]!);
  for (let k = 0; k < 3; k++) {
    if (least < 0) out[k] = l + ((out[k]! - l) * l) / (l - least);
    if (most > 1) out[k] = l + ((out[k]! - l) * (1 - l)) / (most - l);
  }
}

/** Stretches a colour to a saturation (SetSat). */
function setSat(out: Float64Array, sat: number): void {
  const least = Math.min(out[0]!, out[1]!, out[2]!);
  const range = Math.max(out[0]!, out[1]!, out[2]!) - least;
  for (let k = 0; k < 3; k++) out[k] = range > 0 ? ((out[k]! - least) * sat) / range : 0;
}

/**
 * Formulas of the W3C's "Compositing and Blending Level 1", section 10: the blend function B(Cb, Cs) of many places at once, each mode with a loop of its own,
 * since a choice for every channel of every place would take most of the time. Colours are 0 to 1, not multiplied by alpha.
 * @param b, s backdrops and sources, 4 numbers a place, whose fourth means nothing @param out may be neither of the two
 */
function blendAll(mode: BlendMode, b: Float64Array, s: Float64Array, out: Float64Array, count: number): void {
  const n = count * 4;
  switch (mode) {
    case 'normal':
      for (let k = 0; k < n; k++) out[k] = s[k]!;
      return;
    case 'multiply':
      for (let k = 0; k < n; k++) out[k] = b[k]! * s[k]!;
      return;
    case 'screen':
      for (let k = 0; k < n; k++) out[k] = b[k]! + s[k]! - b[k]! * s[k]!;
      return;
    case 'overlay':
      for (let k = 0; k < n; k++) out[k] = hardLight(s[k]!, b[k]!);
      return;
    case 'darken':
      for (let k = 0; k < n; k++) out[k] = Math.min(b[k]!, s[k]!);
      return;
    case 'lighten':
      for (let k = 0; k < n; k++) out[k] = Math.max(b[k]!, s[k]!);
      return;
    case 'color-dodge':
      for (let k = 0; k < n; k++) out[k] = b[k] === 0 ? 0 : s[k]! >= 1 ? 1 : Math.min(1, b[k]! / (1 - s[k]!));
      return;
    case 'color-burn':
      for (let k = 0; k < n; k++) out[k] = b[k]! >= 1 ? 1 : s[k]! <= 0 ? 0 : 1 - Math.min(1, (1 - b[k]!) / s[k]!);
      return;
    case 'hard-light':
      for (let k = 0; k < n; k++) out[k] = hardLight(b[k]!, s[k]!);
      return;
    case 'soft-light':
      for (let k = 0; k < n; k++) out[k] = softLight(b[k]!, s[k]!);
      return;
    case 'difference':
      for (let k = 0; k < n; k++) out[k] = Math.abs(b[k]! - s[k]!);
      return;
    case 'exclusion':
      for (let k = 0; k < n; k++) out[k] = b[k]! + s[k]! - 2 * b[k]! * s[k]!;
      return;
    case 'hue':
    case 'saturation':
    case 'color':
    case 'luminosity':
      for (let k = 0; k < n; k += 4) mixChannels(mode, b, s, k, out);
  }
}

/** The four modes that mix hue, saturation and luminosity of the three channels (section 10.2). */
function mixChannels(mode: 'hue' | 'saturation' | 'color' | 'luminosity', b: Float64Array, s: Float64Array, at: number, out: Float64Array): void {
  const b0 = b[at]!;
  const b1 = b[at + 1]!;
  const b2 = b[at + 2]!;
  const s0 = s[at]!;
  const s1 = s[at + 1]!;
  const s2 = s[at + 2]!;
  const keepsSource = mode === 'hue' || mode === 'color';
  mixed[0] = keepsSource ? s0 : b0;
  mixed[1] = keepsSource ? s1 : b1;
  mixed[2] = keepsSource ? s2 : b2;
  if (mode === 'hue') setSat(mixed, satOf(b0, b1, b2));
  else if (mode === 'saturation') setSat(mixed, satOf(s0, s1, s2));
  setLum(mixed, mode === 'luminosity' ? lumOf(s0, s1, s2) : lumOf(b0, b1, b2));
  out[at] = mixed[0]!;
  out[at + 1] = mixed[1]!;
  out[at + 2] = mixed[2]!;
}

const mixed = new Float64Array(3);

/** The blend function of one place. @param backdrop, source 3 numbers from 0 to 1 @param out gets 3, and may be neither of the two */
export function blendColours(mode: BlendMode, backdrop: ArrayLike<number>, source: ArrayLike<number>, out: Float64Array): void {
  const [b, s, found] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  for (let k = 0; k < 3; k++) {
    b[k] = backdrop[k]!;
    s[k] = source[k]!;
  }
  blendAll(mode, b, s, found, 1);
  for (let k = 0; k < 3; k++) out[k] = found[k]!;
}

export const modeNumber = (mode: BlendMode): number => blendModes.indexOf(mode);

/**
 * Simple alpha compositing of a source over what is there, in place.
 * @param under red, green, blue and alpha, not multiplied by it
 */
export function composite(mode: BlendMode, under: Float64Array, source: ArrayLike<number>, alpha: number): void {
  for (let k = 0; k < 3; k++) one[k] = source[k]!;
  oneAlpha[0] = alpha;
  compositeAll(mode, under, one, oneAlpha, 1);
}

const one = new Float64Array(4);
const oneAlpha = new Float64Array(1);
let blended = new Float64Array(0);

/** As `composite`, at many places. @param under, sources 4 numbers a place (the fourth of a source is not looked at) @param alphas of the sources */
export function compositeAll(mode: BlendMode, under: Float64Array, sources: Float64Array, alphas: Float64Array, count: number): void {
  if (blended.length < count * 4) blended = new Float64Array(count * 4);
  const isNormal = mode === 'normal';
  if (!isNormal) blendAll(mode, under, sources, blended, count);
  const mix = isNormal ? sources : blended;
  for (let k = 0; k < count; k++) {
    const alpha = alphas[k]!;
    if (alpha <= 0) continue;
    const to = k * 4;
    const below = under[to + 3]!;
    const all = alpha + below * (1 - alpha);
    const own = below === 1 ? alpha : alpha / all;
    const rest = 1 - own;
    // where there is nothing below, the source alone
    const share = own * below;
    const plain = own - share;
    under[to] = plain * sources[to]! + share * mix[to]! + rest * under[to]!;
    under[to + 1] = plain * sources[to + 1]! + share * mix[to + 1]! + rest * under[to + 1]!;
    under[to + 2] = plain * sources[to + 2]! + share * mix[to + 2]! + rest * under[to + 2]!;
    under[to + 3] = all;
  }
}

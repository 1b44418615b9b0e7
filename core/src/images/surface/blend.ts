import { blendModes, type BlendMode } from './names.ts';

const hardLight = (b: number, s: number) => (s <= 0.5 ? b * 2 * s : b + (2 * s - 1) - b * (2 * s - 1));

function softLight(b: number, s: number): number {
  if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
  const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
  return b + (2 * s - 1) * (d - b);
}

/**
 * Formulas of the W3C's "Compositing and Blending Level 1", section 10.1: modes that treat each channel by itself; NaN for the other four, which mix hue,
 * saturation and luminosity. Colours are 0 to 1, not multiplied by alpha. @param b the backdrop's @param s the source's
 */
function blendChannel(mode: BlendMode, b: number, s: number): number {
  switch (mode) {
    case 'normal':
      return s;
    case 'multiply':
      return b * s;
    case 'screen':
      return b + s - b * s;
    case 'overlay':
      return hardLight(s, b);
    case 'darken':
      return b < s ? b : s;
    case 'lighten':
      return b > s ? b : s;
    case 'color-dodge':
      return b === 0 ? 0 : s >= 1 ? 1 : Math.min(1, b / (1 - s));
    case 'color-burn':
      return b >= 1 ? 1 : s <= 0 ? 0 : 1 - Math.min(1, (1 - b) / s);
    case 'hard-light':
      return hardLight(b, s);
    case 'soft-light':
      return softLight(b, s);
    case 'difference':
      return Math.abs(b - s);
    case 'exclusion':
      return b + s - 2 * b * s;
    default:
      return NaN;
  }
}

const mixesChannels = (mode: BlendMode) => mode === 'hue' || mode === 'saturation' || mode === 'color' || mode === 'luminosity';

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
 * The blend function B(Cb, Cs) on three channels; `out` gets the result and may be neither of the two.
 * @param backdrop, source 3 numbers from 0 to 1
 */
export function blendColours(mode: BlendMode, backdrop: ArrayLike<number>, source: ArrayLike<number>, out: Float64Array): void {
  if (!mixesChannels(mode)) {
    for (let k = 0; k < 3; k++) out[k] = blendChannel(mode, backdrop[k]!, source[k]!);
    return;
  }
  const [b0, b1, b2] = [backdrop[0]!, backdrop[1]!, backdrop[2]!];
  const [s0, s1, s2] = [source[0]!, source[1]!, source[2]!];
  const keepsSource = mode === 'hue' || mode === 'color';
  out[0] = keepsSource ? s0 : b0;
  out[1] = keepsSource ? s1 : b1;
  out[2] = keepsSource ? s2 : b2;
  if (mode === 'hue') setSat(out, satOf(b0, b1, b2));
  else if (mode === 'saturation') setSat(out, satOf(s0, s1, s2));
  setLum(out, mode === 'luminosity' ? lumOf(s0, s1, s2) : lumOf(b0, b1, b2));
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
const backdrop = new Float64Array(3);
const above = new Float64Array(3);
const blended = new Float64Array(3);

/** As `composite`, at many places. @param under, sources 4 numbers a place (the fourth of a source is not looked at) @param alphas of the sources */
export function compositeAll(mode: BlendMode, under: Float64Array, sources: Float64Array, alphas: Float64Array, count: number): void {
  const isNormal = mode === 'normal';
  for (let k = 0; k < count; k++) {
    const alpha = alphas[k]!;
    if (alpha <= 0) continue;
    const to = k * 4;
    const below = under[to + 3]!;
    const all = alpha + below * (1 - alpha);
    const own = alpha / all;
    const rest = 1 - own;
    let r = sources[to]!;
    let g = sources[to + 1]!;
    let b = sources[to + 2]!;
    if (!isNormal && below > 0) {
      backdrop[0] = under[to]!;
      backdrop[1] = under[to + 1]!;
      backdrop[2] = under[to + 2]!;
      above[0] = r;
      above[1] = g;
      above[2] = b;
      blendColours(mode, backdrop, above, blended);
      r += below * (blended[0]! - r);
      g += below * (blended[1]! - g);
      b += below * (blended[2]! - b);
    }
    under[to] = own * r + rest * under[to]!;
    under[to + 1] = own * g + rest * under[to + 1]!;
    under[to + 2] = own * b + rest * under[to + 2]!;
    under[to + 3] = all;
  }
}

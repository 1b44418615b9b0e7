import { blendModes, type BlendMode } from './names.ts';

/** Formulas of the W3C's "Compositing and Blending Level 1", sections 9.1 and 10. Colours are 0 to 1, not multiplied by alpha. */
type Channel = (backdrop: number, source: number) => number;

const multiply: Channel = (b, s) => b * s;
const screen: Channel = (b, s) => b + s - b * s;
const hardLight: Channel = (b, s) => (s <= 0.5 ? multiply(b, 2 * s) : screen(b, 2 * s - 1));

/** Blend modes that treat each channel by itself; the other four mix hue, saturation and luminosity. */
const separable: Partial<Record<BlendMode, Channel>> = {
  normal: (_, s) => s,
  multiply,
  screen,
  overlay: (b, s) => hardLight(s, b),
  darken: (b, s) => Math.min(b, s),
  lighten: (b, s) => Math.max(b, s),
  'color-dodge': (b, s) => (b === 0 ? 0 : s >= 1 ? 1 : Math.min(1, b / (1 - s))),
  'color-burn': (b, s) => (b >= 1 ? 1 : s <= 0 ? 0 : 1 - Math.min(1, (1 - b) / s)),
  'hard-light': hardLight,
  'soft-light': (b, s) => {
    if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
    const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
    return b + (2 * s - 1) * (d - b);
  },
  difference: (b, s) => Math.abs(b - s),
  exclusion: (b, s) => b + s - 2 * b * s,
};

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
  const each = separable[mode];
  if (each) {
    for (let k = 0; k < 3; k++) out[k] = each(backdrop[k]!, source[k]!);
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

const blended = new Float64Array(3);

/**
 * Simple alpha compositing of a source over what is there, in place.
 * @param under red, green, blue and alpha, not multiplied by it
 */
export function composite(mode: BlendMode, under: Float64Array, source: ArrayLike<number>, alpha: number): void {
  if (alpha <= 0) return;
  const below = under[3]!;
  const all = alpha + below * (1 - alpha);
  const own = alpha / all;
  const rest = (below * (1 - alpha)) / all;
  if (mode === 'normal' || below === 0) {
    under[0] = own * source[0]! + rest * under[0]!;
    under[1] = own * source[1]! + rest * under[1]!;
    under[2] = own * source[2]! + rest * under[2]!;
  } else {
    blendColours(mode, under, source, blended);
    for (let k = 0; k < 3; k++) under[k] = own * ((1 - below) * source[k]! + below * blended[k]!) + rest * under[k]!;
  }
  under[3] = all;
}

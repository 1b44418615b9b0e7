import { Canvas } from './canvas.ts';
import { textSegments } from './strokeFont.ts';
import * as portable from '../numeric/portable.ts';

/** Two close tints for each row of cells; rows and columns stay apart in lightness for colour-blind people. Our own palette. */
const tints: [number, number, number][] = [
  [233, 225, 208],
  [205, 220, 222],
  [236, 212, 190],
  [214, 216, 231],
  [222, 227, 202],
  [232, 210, 214],
  [203, 224, 213],
  [226, 218, 228],
];
const ink = [58, 52, 48];
const paper = [238, 232, 219];
const slate = [92, 107, 114];

/** What a test grid shows: letters for the right way up, squares and circles for the shape, stripes for the grain, the ramp for the place. */
export const gridKinds = ['letters', 'squares', 'circles', 'stripes', 'ramp'] as const;
export type GridKind = (typeof gridKinds)[number];

/** Sizes a grid can be made at, px. */
export const gridSizes = [256, 512, 1024, 2048, 4096, 8192] as const;

/**
 * A test grid as a picture that joins with itself on all sides (the ramp does not: it says where on the sheet a place is). Row A is on top.
 * Every kind tells its cells apart by lightness, never by hue alone. O(size²).
 * @param size px, square
 * @param cells along each side
 */
export function testGrid(size: number, cells = 8, kind: GridKind = 'letters'): Canvas {
  const canvas = new Canvas(size, size);
  const cell = size / cells;
  switch (kind) {
    case 'letters':
      checker(canvas, cell, (r, c, dark) => {
        const tint = tints[(r + c * 3) % tints.length]!;
        return dark ? tint.map((x) => Math.round(x * 0.72)) : tint;
      });
      letters(canvas, cells, cell);
      break;
    case 'squares':
      checker(canvas, cell / 2, (_r, _c, dark) => (dark ? slate : paper));
      break;
    case 'circles':
      checker(canvas, cell, (_r, _c, dark) => (dark ? [206, 214, 214] : paper));
      for (let r = 0; r < cells; r++)
        for (let c = 0; c < cells; c++) {
          const [x, y] = [(c + 0.5) * cell, (r + 0.5) * cell];
          ring(canvas, x, y, cell * 0.4, cell * 0.07, slate);
          ring(canvas, x, y, cell * 0.16, cell * 0.05, [140, 96, 60]);
          // a short tick at the top of each ring: up
          canvas.line(x, y - cell * 0.4, x, y - cell * 0.24, cell * 0.06, ink);
        }
      break;
    case 'stripes':
      stripes(canvas, cells, cell);
      break;
    case 'ramp':
      ramp(canvas);
      break;
  }
  return canvas;
}

/** Fills whole cells; row and column counted from the top left. */
function checker(canvas: Canvas, cell: number, tone: (row: number, column: number, dark: boolean) => readonly number[]) {
  const { width, height, data } = canvas;
  const packed = new Uint32Array(data.buffer);
  const columns = Math.round(width / cell);
  for (let r = 0; r * cell < height; r++) {
    const y0 = Math.round(r * cell);
    const y1 = Math.min(height, Math.round((r + 1) * cell));
    const row = packed.subarray(y0 * width, (y0 + 1) * width);
    for (let c = 0; c < columns; c++) row.fill(rgba(tone(r, c, (r + c) % 2 === 0)), Math.round(c * cell), Math.round((c + 1) * cell));
    for (let y = y0 + 1; y < y1; y++) packed.copyWithin(y * width, y0 * width, (y0 + 1) * width);
  }
}

/** One pixel as the four bytes lie in memory. Typed arrays here are little-endian on every platform that runs browsers or Node. */
const rgba = ([r, g, b]: readonly number[]) => ((255 << 24) | (b! << 16) | (g! << 8) | r!) >>> 0;

function letters(canvas: Canvas, cells: number, cell: number) {
  const size = canvas.width;
  for (let r = 0; r < cells; r++) {
    for (let c = 0; c < cells; c++) {
      const x = (c + 0.5) * cell;
      const y = (r + 0.5) * cell;
      const label = `${String.fromCharCode(65 + (r % 26))}${c + 1}`;
      stroke(canvas, textSegments(label, x, y + cell * 0.04, cell * 0.34), cell * 0.045, ink);
      // the up mark
      stroke(canvas, textSegments('^', x, y - cell * 0.32, cell * 0.15), cell * 0.025, ink);
      if ((r % 4 === 1 && c % 4 === 2) || (r % 4 === 3 && c % 4 === 0)) ring(canvas, x, y, cell * 0.46, cell * 0.02, ink);
    }
  }
  for (let k = 0; k <= cells; k++) {
    const width = Math.max(1, cell * 0.018);
    canvas.line(k * cell, 0, k * cell, size, width, [...ink, 150]);
    canvas.line(0, k * cell, size, k * cell, width, [...ink, 150]);
  }
}

/** Upright stripes of four lightnesses, so that left and right differ, with an arrow up in every second cell: the grain of wood or cloth. */
function stripes(canvas: Canvas, cells: number, cell: number) {
  const tones = [paper, [150, 162, 166], [214, 206, 190], [104, 118, 124]];
  const { width, height, data } = canvas;
  const packed = new Uint32Array(data.buffer);
  const stripe = cell / tones.length;
  for (let x = 0; x < width; x++) packed[x] = rgba(tones[Math.floor(x / stripe) % tones.length]!);
  for (let y = 1; y < height; y++) packed.copyWithin(y * width, 0, width);
  for (let r = 0; r < cells; r++)
    for (let c = r % 2; c < cells; c += 2) {
      const [x, y] = [(c + 0.5) * cell, (r + 0.5) * cell];
      for (const [tone, w] of [
        [paper, 0.16],
        [ink, 0.07],
      ] as const)
        for (const [dx, dy] of [
          [0, 0.3],
          [-0.16, -0.12],
          [0.16, -0.12],
        ] as const)
          canvas.line(x, y - 0.3 * cell, x + dx * cell, y + dy * cell, w * cell, tone);
    }
}

/**
 * u runs from petrol blue to amber (an axis that all kinds of colour vision keep apart), v from dark to light; a fine line each tenth, a strong one
 * at the middle.
 */
function ramp(canvas: Canvas) {
  const { width, height, data } = canvas;
  const [left, right] = [
    [40, 104, 168],
    [226, 158, 44],
  ] as const;
  for (let y = 0; y < height; y++) {
    const v = 1 - (y + 0.5) / height;
    const light = 0.35 + 0.65 * v;
    for (let x = 0; x < width; x++) {
      const u = (x + 0.5) / width;
      const k = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) {
        const tone = left[c]! + (right[c]! - left[c]!) * u;
        data[k + c] = Math.round(tone * light + (255 - tone * light) * 0.3 * v * v);
      }
      data[k + 3] = 255;
    }
  }
  for (let tenth = 0; tenth <= 10; tenth++) {
    const at = (tenth / 10) * width;
    const strength = tenth % 5 === 0 ? 200 : 90;
    const wide = Math.max(1, (width / 1024) * (tenth % 5 === 0 ? 4 : 2));
    canvas.line(at, 0, at, height, wide, [250, 246, 236, strength]);
    canvas.line(0, at, width, at, wide, [250, 246, 236, strength]);
  }
}

export function stroke(canvas: Canvas, segments: number[], width: number, color: readonly number[]) {
  for (let k = 0; k < segments.length; k += 4) canvas.line(segments[k]!, segments[k + 1]!, segments[k + 2]!, segments[k + 3]!, width, color);
}

export function ring(canvas: Canvas, x: number, y: number, radius: number, width: number, color: readonly number[]) {
  const steps = 48;
  for (let k = 0; k < steps; k++) {
    const a = (2 * Math.PI * k) / steps;
    const b = (2 * Math.PI * (k + 1)) / steps;
    canvas.line(x + radius * portable.cos(a), y + radius * portable.sin(a), x + radius * portable.cos(b), y + radius * portable.sin(b), width, color);
  }
}

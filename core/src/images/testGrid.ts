import { Canvas } from './canvas.ts';
import { textSegments } from './strokeFont.ts';

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

/**
 * The lettered test grid: cells of two tints like a checker, each with its row letter and column number, an up mark in the corner, a
 * ring every fourth cell to show squeezing. Row A is on top.
 * @param size px, square
 * @param cells along each side
 */
export function testGrid(size: number, cells = 8): Canvas {
  const canvas = new Canvas(size, size, [255, 255, 255, 255]);
  const cell = size / cells;
  const ink = [58, 52, 48];
  for (let r = 0; r < cells; r++) {
    for (let c = 0; c < cells; c++) {
      const tint = tints[(r + c * 3) % tints.length]!;
      const dark = (r + c) % 2 === 0;
      canvas.fillRect(c * cell, r * cell, (c + 1) * cell, (r + 1) * cell, dark ? tint.map((x) => Math.round(x * 0.72)) : tint);
    }
  }
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
  return canvas;
}

export function stroke(canvas: Canvas, segments: number[], width: number, color: readonly number[]) {
  for (let k = 0; k < segments.length; k += 4) canvas.line(segments[k]!, segments[k + 1]!, segments[k + 2]!, segments[k + 3]!, width, color);
}

export function ring(canvas: Canvas, x: number, y: number, radius: number, width: number, color: readonly number[]) {
  const steps = 48;
  for (let k = 0; k < steps; k++) {
    const a = (2 * Math.PI * k) / steps;
    const b = (2 * Math.PI * (k + 1)) / steps;
    canvas.line(x + radius * Math.cos(a), y + radius * Math.sin(a), x + radius * Math.cos(b), y + radius * Math.sin(b), width, color);
  }
}

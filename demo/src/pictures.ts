import { Canvas, ring, seededRandom, testGrid } from '@jig-peel/core';

/** The lettered grid as a picture. */
export const letteredGrid = (): Canvas => testGrid(1024, 8);

/** Prism pattern: 24 columns of stepped prisms between thin bars, joining with itself on all sides. */
export function prismPattern(size = 2048): Canvas {
  const canvas = new Canvas(size, size, [150, 190, 188, 255]);
  const columns = 24;
  const cell = size / columns;
  for (let y = 0; y < size; y++) {
    // sawtooth bands, six to a column's width, lit from above
    const band = (y / (cell / 3)) % 1;
    for (let x = 0; x < size; x++) {
      const inCell = (x / cell) % 1;
      const bulge = Math.sin(Math.PI * inCell);
      const light = 0.72 + 0.34 * band * (0.6 + 0.4 * bulge) - (band > 0.92 ? 0.25 : 0);
      const bar = inCell < 0.07 || inCell > 0.93;
      const base = bar ? [168, 132, 70] : [142, 196, 190];
      const k = (y * size + x) * 4;
      for (let c = 0; c < 3; c++)
        canvas.data[k + c] = Math.max(0, Math.min(255, base[c]! * (bar ? 0.85 + 0.3 * Math.sin((inCell < 0.5 ? inCell : inCell - 1) * 22 + 1.5) : light)));
    }
  }
  return canvas;
}

/** Glazed tiles, five by five, each a little different, with grout; tileable. */
export function glazedTiles(size = 1024): Canvas {
  const canvas = new Canvas(size, size, [206, 200, 188, 255]);
  const random = seededRandom(20);
  const n = 5;
  const cell = size / n;
  const grout = cell * 0.045;
  for (let r = 0; r < n; r++) {
    for (let c = 0; c < n; c++) {
      const accent = (r * 2 + c) % 5 === 0;
      const base = accent ? [196, 132, 72] : [70 + random() * 22, 122 + random() * 22, 124 + random() * 20];
      const lean = random() * 0.2 - 0.1;
      for (let y = 0; y < cell - grout; y++) {
        for (let x = 0; x < cell - grout; x++) {
          const u = x / (cell - grout);
          const v = y / (cell - grout);
          const edge = Math.min(u, 1 - u, v, 1 - v);
          const gloss = 0.9 + 0.22 * (1 - v) + lean * (u - 0.5) + 0.25 * Math.max(0, 1 - Math.hypot(u - 0.28, v - 0.2) * 5);
          const rim = edge < 0.05 ? 0.72 + edge * 5.6 : 1;
          const px = Math.floor(c * cell + grout / 2 + x);
          const py = Math.floor(r * cell + grout / 2 + y);
          const k = (py * size + px) * 4;
          for (let d = 0; d < 3; d++) canvas.data[k + d] = Math.max(0, Math.min(255, base[d]! * gloss * rim));
        }
      }
      if (accent) {
        ring(canvas, (c + 0.5) * cell, (r + 0.5) * cell, cell * 0.26, cell * 0.05, [244, 226, 190]);
        ring(canvas, (c + 0.5) * cell, (r + 0.5) * cell, cell * 0.1, cell * 0.05, [244, 226, 190]);
      }
    }
  }
  return canvas;
}

/** The stamp of the harbour's inspection: two rings, a bar and ticks, on nothing. */
export function inspectionStamp(size = 512): Canvas {
  const canvas = new Canvas(size, size);
  const ink = [158, 38, 34];
  const middle = size / 2;
  ring(canvas, middle, middle, size * 0.44, size * 0.05, ink);
  ring(canvas, middle, middle, size * 0.34, size * 0.02, ink);
  canvas.fillRect(size * 0.2, size * 0.46, size * 0.8, size * 0.54, ink);
  for (let k = 0; k < 5; k++) canvas.fillRect(size * (0.27 + k * 0.1), size * 0.3, size * (0.31 + k * 0.1), size * 0.42, ink);
  for (let k = 0; k < 3; k++) canvas.fillRect(size * 0.3, size * (0.6 + k * 0.06), size * (0.7 - k * 0.1), size * (0.63 + k * 0.06), ink);
  return canvas;
}

import type { Mesh } from '@jig-peel/core';
import { band, FaceCollector, type Place } from './quads.ts';

const tile = 0.2;
const columns = 10;
const bevel = 0.2;
const half = (columns * tile) / 2 + bevel;
const rows = 12;
const door = { from: 3, to: 7, sill: 1, rows: 11, depth: 0.3 };

/** The plan's ring: from the front's left end to the right seen from outside, a column a tile, one a bevelled corner. */
function plan(grow: number, y: number, shrink = 1): Place[] {
  const out: Place[] = [];
  const inner = half - bevel;
  for (let side = 0; side < 4; side++) {
    const angle = (side * Math.PI) / 2;
    for (let c = 0; c <= columns; c++) {
      const along = (-inner + c * tile) * (1 + grow / half) * shrink;
      const out2 = (half + grow) * shrink;
      // front looks to +z; sides follow counter-clockwise seen from above
      out.push([along * Math.cos(angle) + out2 * Math.sin(angle), y, out2 * Math.cos(angle) - along * Math.sin(angle)]);
    }
  }
  return out;
}

/** Tiled kiosk: a hut with bevelled corners, a door recess in its front and a hipped roof, all quads but floor and roof top. Metres. */
export function tiledKiosk(): Mesh {
  const faces = new FaceCollector();
  const isDoor = (k: number, row: number) => k >= door.from && k < door.to && row >= door.sill && row < door.rows;
  for (let row = 0; row < rows; row++) {
    band(faces, plan(0, row * tile), plan(0, (row + 1) * tile), 'walls', 'tiles', (k) => isDoor(k, row));
  }
  // the recess: back, jambs, lintel, sill
  const x = (c: number) => -(half - bevel) + c * tile;
  const back = half - door.depth;
  const top = door.rows * tile;
  const sill = door.sill * tile;
  for (let row = door.sill; row < door.rows; row++) {
    const [y0, y1] = [row * tile, (row + 1) * tile];
    for (let c = door.from; c < door.to; c++)
      faces.add(
        [
          [x(c), y0, back],
          [x(c + 1), y0, back],
          [x(c + 1), y1, back],
          [x(c), y1, back],
        ],
        'door',
        'wood',
      );
    faces.add(
      [
        [x(door.from), y0, half],
        [x(door.from), y0, back],
        [x(door.from), y1, back],
        [x(door.from), y1, half],
      ],
      'door',
      'tiles',
    );
    faces.add(
      [
        [x(door.to), y0, back],
        [x(door.to), y0, half],
        [x(door.to), y1, half],
        [x(door.to), y1, back],
      ],
      'door',
      'tiles',
    );
  }
  for (let c = door.from; c < door.to; c++) {
    faces.add(
      [
        [x(c), top, back],
        [x(c + 1), top, back],
        [x(c + 1), top, half],
        [x(c), top, half],
      ],
      'door',
      'tiles',
    );
    faces.add(
      [
        [x(c), sill, half],
        [x(c + 1), sill, half],
        [x(c + 1), sill, back],
        [x(c), sill, back],
      ],
      'door',
      'tiles',
    );
  }
  const eaves = rows * tile;
  band(faces, plan(0, eaves), plan(0.24, eaves), 'roof', 'slate');
  band(faces, plan(0.24, eaves), plan(0.24, eaves + 0.09), 'roof', 'slate');
  const steps = 6;
  const roof = (s: number) => plan(0.24, eaves + 0.09 + 1.0 * (s / steps), 1 - 0.88 * (s / steps));
  for (let s = 0; s < steps; s++) band(faces, roof(s), roof(s + 1), 'roof', 'slate');
  faces.add(roof(steps), 'roof', 'slate');
  faces.add(plan(0, 0).reverse(), 'floor', 'tiles');
  return faces.mesh();
}

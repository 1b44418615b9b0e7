import { meshFromFaces, uvSetFrom, Canvas, type Mesh, type UvSet } from '@jig-peel/core';

interface Outline {
  name: string;
  /** Length of the row at t (0 below … 1 above) as a share of the flag's field. */
  fly: (t: number) => number;
  /** Height at s (0 hoist … 1 fly) as a share of the field. */
  tall: (s: number) => number;
  ground: [number, number, number];
  mark: [number, number, number];
  sign: 'cross' | 'disc' | 'bars' | 'saltire' | 'half';
}

const full = () => 1;
/** Nine outlines, each with a device of its own. All invented. */
export const flagOutlines: readonly Outline[] = [
  { name: 'oblong', fly: full, tall: () => 0.7, ground: [196, 72, 58], mark: [240, 232, 214], sign: 'cross' },
  { name: 'square', fly: () => 0.8, tall: () => 0.8, ground: [52, 96, 140], mark: [236, 196, 72], sign: 'disc' },
  { name: 'pennant', fly: full, tall: (s) => 0.75 - 0.62 * s, ground: [236, 196, 72], mark: [60, 60, 66], sign: 'bars' },
  { name: 'swallowtail', fly: (t) => 1 - 0.32 * (1 - Math.abs(2 * t - 1)), tall: () => 0.68, ground: [240, 232, 214], mark: [196, 72, 58], sign: 'saltire' },
  {
    name: 'tapered swallowtail',
    fly: (t) => 1 - 0.26 * (1 - Math.abs(2 * t - 1)),
    tall: (s) => 0.78 - 0.3 * s,
    ground: [58, 122, 104],
    mark: [240, 232, 214],
    sign: 'disc',
  },
  {
    name: 'rounded',
    fly: (t) => 0.68 + 0.3 * Math.sqrt(Math.max(0, 1 - (2 * t - 1) ** 2)),
    tall: () => 0.72,
    ground: [196, 72, 58],
    mark: [52, 96, 140],
    sign: 'half',
  },
  { name: 'streamer', fly: full, tall: (s) => 0.34 - 0.2 * s, ground: [52, 96, 140], mark: [240, 232, 214], sign: 'half' },
  { name: 'slanted', fly: (t) => 0.72 + 0.28 * t, tall: () => 0.66, ground: [236, 196, 72], mark: [58, 122, 104], sign: 'cross' },
  { name: 'scalloped', fly: (t) => 0.92 + 0.045 * Math.cos(6 * Math.PI * t), tall: () => 0.74, ground: [240, 232, 214], mark: [60, 60, 66], sign: 'bars' },
];

const columns = 28;
const rows = 14;
const field = 1 / 3;
/** Metres of one field of the picture. */
const fieldSize = 0.9;
const inset = 0.012;

/** Place in its field (0 … 1 both ways) of row t and column s. */
function flat({ fly, tall }: Outline, s: number, t: number): [number, number] {
  return [s * fly(t), 0.5 + (t - 0.5) * tall(s)];
}

/** How far along a folded flag a length of cloth reaches: the heading swings more towards the fly. Cloth keeps its length. */
function folded(n: number): (x: number) => [number, number] {
  const steps = 400;
  const at: [number, number][] = [[0, 0]];
  for (let k = 0; k < steps; k++) {
    const x = (k + 0.5) / steps;
    const angle = 1.05 * Math.min(1, x * 2.2) * Math.sin(2 * Math.PI * (1.6 * x + n * 0.37));
    const [px, pz] = at[k]!;
    at.push([px + (Math.cos(angle) * fieldSize) / steps, pz + (Math.sin(angle) * fieldSize) / steps]);
  }
  return (x) => {
    const k = Math.min(steps - 1, Math.floor(x * steps));
    const share = x * steps - k;
    return [0, 1].map((d) => at[k]![d]! + (at[k + 1]![d]! - at[k]![d]!) * share) as [number, number];
  };
}

/**
 * Signal flags: nine outlines cut flat, then hung in folds along a line, their UVs on one picture of three by three fields. The folds keep every
 * length along the cloth, so the layout has no stretch.
 */
export function signalFlags(): { mesh: Mesh; set: UvSet } {
  const points: number[] = [];
  const faces: number[][] = [];
  const faceGroup: number[] = [];
  const uv: number[] = [];
  flagOutlines.forEach((outline, n) => {
    const fold = folded(n);
    const base = points.length / 3;
    const [column, row] = [n % 3, Math.floor(n / 3)];
    for (let r = 0; r <= rows; r++) {
      for (let c = 0; c <= columns; c++) {
        const [x, y] = flat(outline, c / columns, r / rows);
        const [px, pz] = fold(x);
        points.push(px + (n - 4.5) * 1.05, 2.1 + (y - 0.5) * fieldSize, pz);
        uv.push(field * (column + inset + x * (1 - 2 * inset)), field * (2 - row + inset + y * (1 - 2 * inset)));
      }
    }
    for (let r = 0; r < rows; r++) {
      for (let c = 0; c < columns; c++) {
        const a = base + r * (columns + 1) + c;
        faces.push([a, a + 1, a + columns + 2, a + columns + 1]);
        faceGroup.push(n);
      }
    }
  });
  const plain = meshFromFaces(points, faces);
  const mesh: Mesh = {
    ...plain,
    faceGroup: Int32Array.from(faceGroup),
    groups: flagOutlines.map(({ name }) => name),
    faceMaterial: new Int32Array(faces.length),
    materials: ['bunting'],
  };
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(uv)) };
}

/** The flags' picture: each in its field, nothing (alpha 0) outside the outlines. */
export function flagsPicture(size = 1024): Canvas {
  const canvas = new Canvas(size, size);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const [column, row] = [Math.floor((x / size) * 3), Math.floor((y / size) * 3)];
      const outline = flagOutlines[row * 3 + column]!;
      const s = ((x + 0.5) / size / field - column - inset) / (1 - 2 * inset);
      const h = (3 - (y + 0.5) / size / field - (2 - row) - inset) / (1 - 2 * inset);
      // which row of the cloth is at this place: its length decides how far along it is
      const along = inverse(outline, s, h);
      if (!along) continue;
      const color = device(outline, along[0], along[1]);
      canvas.data.set([...color, 255], (y * size + x) * 4);
    }
  }
  return canvas;
}

/** Column and row (0 … 1) of a place in the field, or null outside the cloth. */
function inverse({ fly, tall }: Outline, x: number, y: number): [number, number] | null {
  if (x < 0 || x > 1) return null;
  const off = (t: number) => 0.5 + (t - 0.5) * tall(Math.min(1, x / fly(t))) - y;
  let [low, high] = [0, 1];
  if (off(low) > 0 || off(high) < 0) return null;
  for (let k = 0; k < 14; k++) {
    const middle = (low + high) / 2;
    if (off(middle) < 0) low = middle;
    else high = middle;
  }
  const t = (low + high) / 2;
  const s = x / fly(t);
  return s <= 1 ? [s, t] : null;
}

function device({ ground, mark, sign }: Outline, s: number, t: number): [number, number, number] {
  const on =
    sign === 'cross'
      ? Math.abs(s - 0.38) < 0.09 || Math.abs(t - 0.5) < 0.13
      : sign === 'disc'
        ? Math.hypot((s - 0.45) * 1.25, t - 0.5) < 0.26
        : sign === 'bars'
          ? Math.floor(s * 6) % 2 === 1
          : sign === 'saltire'
            ? Math.abs(Math.abs(s - 0.5) - Math.abs(t - 0.5)) < 0.1
            : t > 0.5;
  // the hoist is bound in canvas
  return s < 0.035 ? [214, 204, 182] : on ? mark : ground;
}

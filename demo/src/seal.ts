import { meshFromFaces, type Mesh } from '@jig-peel/core';

type Vec = readonly [number, number, number];

type Distance = (x: number, y: number, z: number) => number;

/** Distance to a line of varying thickness. */
function roundCone(a: Vec, b: Vec, ra: number, rb: number): Distance {
  const [ax, ay, az] = a;
  const [dx, dy, dz] = [b[0] - ax, b[1] - ay, b[2] - az];
  const length = dx * dx + dy * dy + dz * dz;
  return (x, y, z) => {
    const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / length));
    const px = x - ax - t * dx,
      py = y - ay - t * dy,
      pz = z - az - t * dz;
    return Math.sqrt(px * px + py * py + pz * pz) - (ra + (rb - ra) * t);
  };
}

/** About the distance to an ellipsoid whose long axis runs from a to b; `thick` is its least half axis, along `flat`. */
function paddle(a: Vec, b: Vec, wide: number, thick: number, flat: Vec): Distance {
  const c = a.map((x, k) => (x + b[k]!) / 2) as unknown as Vec;
  const along = b.map((x, k) => x - a[k]!);
  const length = Math.hypot(...along) / 2;
  const u = along.map((x) => x / (2 * length)) as unknown as Vec;
  const dot = u[0] * flat[0] + u[1] * flat[1] + u[2] * flat[2];
  const w = flat.map((x, k) => x - dot * u[k]!);
  const wl = Math.hypot(...w);
  const n = w.map((x) => x / wl) as unknown as Vec;
  const s: Vec = [u[1] * n[2] - u[2] * n[1], u[2] * n[0] - u[0] * n[2], u[0] * n[1] - u[1] * n[0]];
  return (x, y, z) => {
    const qx = x - c[0],
      qy = y - c[1],
      qz = z - c[2];
    const du = (qx * u[0] + qy * u[1] + qz * u[2]) / length;
    const ds = (qx * s[0] + qy * s[1] + qz * s[2]) / wide;
    const dn = (qx * n[0] + qy * n[1] + qz * n[2]) / thick;
    const k0 = Math.sqrt(du * du + ds * ds + dn * dn);
    const k1 = Math.sqrt((du / length) ** 2 + (ds / wide) ** 2 + (dn / thick) ** 2);
    return k1 > 0 ? (k0 * (k0 - 1)) / k1 : -thick;
  };
}

/** Smooth union of two distances. */
function blend(a: number, b: number, k: number): number {
  const h = Math.max(0, k - Math.abs(a - b)) / k;
  return Math.min(a, b) - h * h * k * 0.25;
}

const spine: [Vec, number][] = [
  [[0, 0.16, -1.55], 0.1],
  [[0, 0.22, -1.1], 0.25],
  [[0, 0.36, -0.55], 0.4],
  [[0, 0.52, 0], 0.47],
  [[0, 0.86, 0.36], 0.41],
  [[0, 1.22, 0.52], 0.29],
  [[0, 1.46, 0.6], 0.27],
];

type Paddle = Parameters<typeof paddle>;
const foreFlipper: Paddle = [[0.34, 0.5, 0.28], [0.98, 0.06, 0.22], 0.2, 0.065, [0.5, 0.75, 0.1]];
const hindFlipper: Paddle = [[0.05, 0.17, -1.5], [0.45, 0.14, -2.1], 0.17, 0.06, [0, 1, 0]];

/** Each limb with how softly it joins what is there before it. */
const limbs: [Distance, number][] = [
  ...spine.slice(1).map((to, k): [Distance, number] => [roundCone(spine[k]![0], to[0], spine[k]![1], to[1]), 0.16]),
  [roundCone([0, 1.5, 0.66], [0, 1.43, 0.92], 0.25, 0.13), 0.12],
  [roundCone([0.055, 1.405, 0.98], [0.055, 1.4, 0.99], 0.085, 0.085), 0.05],
  [roundCone([0, 1.46, 1.04], [0, 1.465, 1.05], 0.045, 0.045), 0.03],
  [roundCone([0.145, 1.56, 0.82], [0.146, 1.56, 0.825], 0.052, 0.052), 0.035],
  [paddle(...foreFlipper), 0.1],
  [paddle(...hindFlipper), 0.11],
];

/** The seal as an implicit surface; x only through |x|, so it is the same on both sides. */
export function sealDistance(x: number, y: number, z: number): number {
  const side = Math.abs(x);
  let d = limbs[0]![0](side, y, z);
  for (let k = 1; k < limbs.length; k++) d = blend(d, limbs[k]![0](side, y, z), limbs[k]![1]);
  return d;
}

function gradient(x: number, y: number, z: number): [number, number, number] {
  const e = 1e-4;
  return [
    (sealDistance(x + e, y, z) - sealDistance(x - e, y, z)) / (2 * e),
    (sealDistance(x, y + e, z) - sealDistance(x, y - e, z)) / (2 * e),
    (sealDistance(x, y, z + e) - sealDistance(x, y, z - e)) / (2 * e),
  ];
}

/**
 * Seal figurehead: closed, quads only, left and right alike, with a line of points in the plane x = 0. Made by surface nets (S. Gibson,
 * "Constrained Elastic Surface Nets", 1998): one point a grid cell that the surface crosses, then evened out along the surface.
 * @param cell grid spacing; 0.034 gives about 11,600 quads. Other spacings can pinch: flippers are only a few cells thick.
 */
export function sealFigurehead(cell = 0.034): Mesh {
  const nx = 2 * Math.ceil(1.2 / cell) + 1;
  const ny = Math.ceil(2.1 / cell);
  const nz = Math.ceil(3.6 / cell);
  // cell centres in x at multiples of the spacing, so that one layer of cells lies on x = 0
  const x0 = -((nx - 1) / 2 + 0.5) * cell;
  const y0 = -0.12;
  const z0 = -2.3;
  const at = (i: number, j: number, k: number) => (k * (ny + 1) + j) * (nx + 1) + i;
  const field = new Float64Array((nx + 1) * (ny + 1) * (nz + 1));
  for (let k = 0; k <= nz; k++)
    for (let j = 0; j <= ny; j++) for (let i = 0; i <= nx; i++) field[at(i, j, k)] = sealDistance(x0 + i * cell, y0 + j * cell, z0 + k * cell);
  const vertexOf = new Int32Array(nx * ny * nz).fill(-1);
  const cellAt = (i: number, j: number, k: number) => (k * ny + j) * nx + i;
  const points: number[] = [];
  for (let k = 0; k < nz; k++) {
    for (let j = 0; j < ny; j++) {
      for (let i = 0; i < nx; i++) {
        let sx = 0,
          sy = 0,
          sz = 0,
          crossings = 0;
        for (let e = 0; e < 12; e++) {
          const axis = e >> 2;
          const a = [0, 0, 0];
          a[(axis + 1) % 3] = e & 1;
          a[(axis + 2) % 3] = (e >> 1) & 1;
          const b = [...a];
          b[axis] = 1;
          const fa = field[at(i + a[0]!, j + a[1]!, k + a[2]!)]!;
          const fb = field[at(i + b[0]!, j + b[1]!, k + b[2]!)]!;
          if (fa < 0 === fb < 0) continue;
          const t = fa / (fa - fb);
          sx += a[0]! + t * (b[0]! - a[0]!);
          sy += a[1]! + t * (b[1]! - a[1]!);
          sz += a[2]! + t * (b[2]! - a[2]!);
          crossings++;
        }
        if (crossings === 0) continue;
        vertexOf[cellAt(i, j, k)] = points.length / 3;
        points.push(x0 + (i + sx / crossings) * cell, y0 + (j + sy / crossings) * cell, z0 + (k + sz / crossings) * cell);
      }
    }
  }
  const faces: number[][] = [];
  for (let k = 1; k < nz; k++) {
    for (let j = 1; j < ny; j++) {
      for (let i = 1; i < nx; i++) {
        for (let axis = 0; axis < 3; axis++) {
          const to = [i, j, k];
          to[axis]!++;
          const fa = field[at(i, j, k)]!;
          const fb = field[at(to[0]!, to[1]!, to[2]!)]!;
          if (fa < 0 === fb < 0) continue;
          const ring = [
            [-1, -1],
            [0, -1],
            [0, 0],
            [-1, 0],
          ].map(([p, q]) => {
            const c = [i, j, k];
            c[(axis + 1) % 3]! += p!;
            c[(axis + 2) % 3]! += q!;
            return vertexOf[cellAt(c[0]!, c[1]!, c[2]!)]!;
          });
          faces.push(fa < 0 ? ring : ring.reverse());
        }
      }
    }
  }
  evenOut(points, faces);
  return meshFromFaces(points, faces);
}

/** Moves each point towards the middle of its neighbours along the surface, then back onto it; points in the plane x = 0 stay in it. */
function evenOut(points: number[], faces: number[][]) {
  const neighbours: Set<number>[] = Array.from({ length: points.length / 3 }, () => new Set());
  for (const face of faces)
    face.forEach((p, k) => {
      neighbours[p]!.add(face[(k + 1) % 4]!).add(face[(k + 3) % 4]!);
    });
  const middle = points.map((x, k) => k % 3 === 0 && Math.abs(x) < 1e-9);
  for (let round = 0; round < 10; round++) {
    const old = points.slice();
    for (let p = 0; p < neighbours.length; p++) {
      const around = [...neighbours[p]!];
      const q = [0, 1, 2].map((d) => old[p * 3 + d]! * 0.5 + (0.5 * around.reduce((s, n) => s + old[n * 3 + d]!, 0)) / around.length);
      for (let step = 0; step < (round < 9 ? 1 : 3); step++) {
        const g = gradient(q[0]!, q[1]!, q[2]!);
        const size = g[0] ** 2 + g[1] ** 2 + g[2] ** 2 || 1;
        const d = sealDistance(q[0]!, q[1]!, q[2]!);
        for (let k = 0; k < 3; k++) q[k]! -= (d * g[k]!) / size;
      }
      for (let k = 0; k < 3; k++) points[p * 3 + k] = middle[p * 3] && k === 0 ? 0 : q[k]!;
    }
  }
  for (let k = 0; k < points.length; k++) points[k] = Math.round(points[k]! * 1e6) / 1e6;
}

const line = (from: Vec, to: Vec, steps: number): number[] =>
  Array.from({ length: steps + 1 }, (_, k) => [0, 1, 2].map((d) => from[d]! + ((to[d]! - from[d]!) * k) / steps)).flat();

/** Brings places onto the seal's surface by walking from outside along a direction. */
function onto(stroke: number[], outward: (p: Vec) => Vec): number[] {
  const out: number[] = [];
  for (let k = 0; k < stroke.length; k += 3) {
    const p: Vec = [stroke[k]!, stroke[k + 1]!, stroke[k + 2]!];
    const n = outward(p);
    let t = 0.9;
    for (let i = 0; i < 80; i++) {
      const d = sealDistance(p[0] + n[0] * t, p[1] + n[1] * t, p[2] + n[2] * t);
      t -= Math.max(0.002, d * 0.6);
      if (d < 0.002) break;
    }
    out.push(p[0] + n[0] * t, p[1] + n[1] * t, p[2] + n[2] * t);
  }
  return out;
}

/** A stroke along a paddle's rim, from angle to angle (0 is the tip), on the left or right side. */
function rim([a, b, wide, , flat]: Paddle, side: number, from: number, to: number): number[] {
  const along = b.map((x, k) => x - a[k]!);
  const length = Math.hypot(...along) / 2;
  const u = along.map((x) => x / (2 * length));
  const dot = u[0]! * flat[0] + u[1]! * flat[1] + u[2]! * flat[2];
  const n = flat.map((x, k) => x - dot * u[k]!);
  const s = [u[1]! * n[2]! - u[2]! * n[1]!, u[2]! * n[0]! - u[0]! * n[2]!, u[0]! * n[1]! - u[1]! * n[0]!];
  const stroke: number[] = [];
  for (let k = 0; k <= 24; k++) {
    const angle = ((from + ((to - from) * k) / 24) * Math.PI) / 180;
    const out = [0, 1, 2].map((d) => u[d]! * length * Math.cos(angle) + (s[d]! * wide * Math.sin(angle)) / Math.hypot(...s));
    let t = 1.5;
    for (let i = 0; i < 60; i++) {
      const q = [0, 1, 2].map((d) => (a[d]! + b[d]!) / 2 + out[d]! * t);
      const distance = sealDistance(q[0]!, q[1]!, q[2]!);
      if (distance < 0.002 || t < 0.3) break;
      t -= Math.max(0.004, (distance * 0.6) / Math.hypot(...out));
    }
    stroke.push(((a[0] + b[0]) / 2 + out[0]! * t) * side, (a[1] + b[1]) / 2 + out[1]! * t, (a[2] + b[2]) / 2 + out[2]! * t);
  }
  return stroke;
}

/**
 * Strokes for the seams that the demo starts with: along the belly, round the root of each fore flipper and along its rim, and from the belly
 * along the rims of the hind flippers. The head is left for the person to cut.
 */
export function sealStrokes(): number[][] {
  const belly: number[] = [];
  for (let k = 0; k + 1 < spine.length - 1; k++) belly.push(...line(spine[k]![0], spine[k + 1]![0], 8).slice(k === 0 ? 0 : 3));
  const down = onto(belly, (p) => (p[1] > 0.55 ? [0, -0.5, 0.866] : [0, -1, 0]));
  const round = (side: number): number[] => {
    const stroke: number[] = [];
    for (let k = 0; k <= 36; k++) {
      const a = (2 * Math.PI * k) / 36;
      // a ring round the flipper, a third of the way out
      const c: Vec = [side * 0.52, 0.38, 0.26];
      const across: Vec = [0, 0.1, 0.98];
      const up: Vec = [side * 0.55, 0.82, -0.08];
      const n: Vec = [0, 1, 2].map((d) => across[d]! * Math.cos(a) + up[d]! * Math.sin(a)) as unknown as Vec;
      let t = 0.4;
      for (let i = 0; i < 60; i++) {
        const d = sealDistance(c[0] + n[0] * t, c[1] + n[1] * t, c[2] + n[2] * t);
        t -= Math.max(0.001, d * 0.5);
        if (d < 0.001) break;
      }
      stroke.push(c[0] + n[0] * t, c[1] + n[1] * t, c[2] + n[2] * t);
    }
    return stroke;
  };
  const strokes = [down, round(1), round(-1)];
  for (const side of [1, -1]) {
    strokes.push(rim(foreFlipper, side, 118, -70));
    strokes.push([down[0]!, down[1]!, down[2]!, ...rim(hindFlipper, side, 140, -60)]);
  }
  return strokes;
}

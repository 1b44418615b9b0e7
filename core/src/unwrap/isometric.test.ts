import fc from 'fast-check';
import { Matrix, solve } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { cubeSphere, heightField, hemisphere, sphere } from '../mesh/starterForms.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { separateFans } from '../seams/cut.ts';
import { seededRandom } from '../numeric/random.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { borderBarrier } from './borderBarrier.ts';
import { borderCrossings, borderSegments } from './borderCrossings.ts';
import { conformal, farBorderPair, prepare, scaleToArea } from './conformal.ts';
import type { Prepared } from './prepared.ts';
import { borderLoops, convexStart } from './convexStart.ts';
import { angleEnergy, isometric, largestStep, stretchEnergy } from './isometric.ts';
import { pieceOf } from './piece.ts';
import { rigid, RigidSolver } from './rigid.ts';
import { flipCount, solveIsland } from './solveIsland.ts';

const bumpy = (n: number, seed = 1) => {
  const random = seededRandom(seed);
  const height = Array.from({ length: 6 }, () => random());
  return heightField(n, n, (u, v) => [
    u + 0.2 * height[3]! * v * v,
    v,
    0.4 * height[0]! * Math.sin(7 * u * (1 + height[1]!)) * Math.cos(5 * v) + 0.3 * height[2]! * Math.cos(9 * v + 4 * u),
  ]);
};
function openPiece(mesh: Mesh) {
  const { set } = openIslands(mesh, emptyUvSet(mesh));
  return pieceOf(
    mesh,
    separateFans(
      mesh,
      set,
      Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => f),
    ),
    0,
  );
}
const prepared = (mesh: Mesh): Prepared => {
  const { positions, triangles } = openPiece(mesh);
  return prepare(positions, triangles);
};
const areaOf = ({ flat }: Prepared) => flat.area.reduce((sum, a) => sum + a, 0);
const areaOnSheet = (triangles: Uint32Array, uv: Float64Array) => {
  let sum = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [i, j, k] = [triangles[t]! * 2, triangles[t + 1]! * 2, triangles[t + 2]! * 2];
    sum += ((uv[j]! - uv[i]!) * (uv[k + 1]! - uv[i + 1]!) - (uv[k]! - uv[i]!) * (uv[j + 1]! - uv[i + 1]!)) / 2;
  }
  return sum;
};

describe('least stretch (symmetric Dirichlet: Smith & Schaefer, SIGGRAPH 2015)', () => {
  it('the energy of a known map: twice as wide, half as high costs 4 + ¼ + ¼ + 4; Infinity with a flip', () => {
    const flat = prepared(heightField(3, 2, (u, v) => [u * 3, v * 2, 0]));
    const map = Float64Array.from({ length: flat.vertices * 2 }, (_, k) => flat.positions[(k >> 1) * 3 + (k & 1)]! * (k & 1 ? 0.5 : 2));
    expect(stretchEnergy(flat, map) / areaOf(flat)).toBeCloseTo(8.5, 12);
    expect(
      stretchEnergy(
        flat,
        map.map((x, k) => (k & 1 ? -x : x)),
      ),
    ).toBe(Infinity);
  });

  it('ends where no vertex can lower the energy: its gradient by finite differences is nought, and chance moves cost', () => {
    const piece = prepared(bumpy(9));
    const { uv, converged } = isometric(piece, convexStart(piece), { tolerance: 1e-12 });
    expect(converged).toBe(true);
    const at = stretchEnergy(piece, uv);
    for (let k = 0; k < uv.length; k += 7) {
      const step = 1e-5;
      const [more, less] = [1, -1].map((sign) => stretchEnergy(piece, uv.with(k, uv[k]! + sign * step)));
      expect(Math.abs((more! - less!) / (2 * step))).toBeLessThan(1e-3 * at);
    }
    const random = seededRandom(4);
    for (let trial = 0; trial < 30; trial++)
      expect(
        stretchEnergy(
          piece,
          uv.map((x) => x + 0.01 * (random() - 0.5)),
        ),
      ).toBeGreaterThan(at);
  });

  it('every step lowers the energy, and starts far and near end alike', () => {
    const piece = prepared(bumpy(14, 3));
    const far = isometric(piece, convexStart(piece), { tolerance: 1e-8 });
    const near = isometric(piece, conformal(piece), { tolerance: 1e-8 });
    for (const { energies } of [far, near]) for (let k = 1; k < energies.length; k++) expect(energies[k]!).toBeLessThanOrEqual(energies[k - 1]! + 1e-12);
    expect(far.energies.at(-1)! / near.energies.at(-1)!).toBeCloseTo(1, 4);
  });

  it('never a flip, whatever the surface (chance bumps)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 3, max: 12 }), (seed, n) => {
        const piece = openPiece(bumpy(n, seed));
        for (const method of ['isometric', 'rigid'] as const) {
          const result = solveIsland({ ...piece, method });
          expect(result.flips).toBe(0);
          expect(Number.isFinite(result.energy)).toBe(true);
        }
      }),
      { numRuns: 15 },
    );
  });

  it('a start with a flip is refused; held vertices stay to the bit; the time limit hands back what there is', () => {
    const piece = prepared(bumpy(8));
    const start = convexStart(piece);
    expect(() =>
      isometric(
        piece,
        start.map((x, k) => (k & 1 ? -x : x)),
      ),
    ).toThrow(RangeError);
    const held = [0, 5, 17, 40];
    const { uv } = isometric(piece, start, { held });
    for (const v of held) expect([uv[v * 2], uv[v * 2 + 1]]).toEqual([start[v * 2], start[v * 2 + 1]]);
    const cutShort = isometric(piece, start, { timeLimit: 0 });
    expect([cutShort.converged, cutShort.steps]).toEqual([false, 0]);
    expect(cutShort.uv).toEqual(start);
  });

  it('a check that throws stops it within a step', () => {
    const piece = prepared(bumpy(8));
    let calls = 0;
    expect(() =>
      isometric(piece, convexStart(piece), {
        check: () => {
          if (++calls > 2) throw new JigError('cancelled', 'Cancelled.');
        },
      }),
    ).toThrow('Cancelled');
    expect(calls).toBe(3);
  });

  it('the largest step brings a triangle to nought and no further', () => {
    const triangles = Uint32Array.of(0, 1, 2);
    const uv = Float64Array.of(0, 0, 1, 0, 0, 1);
    const down = Float64Array.of(0, 0, 0, 0, 0, -2);
    expect(largestStep({ triangles }, uv, down)).toBeCloseTo(0.5, 12);
    expect(largestStep({ triangles }, uv, Float64Array.of(0, 0, 1, 0, 0, 1))).toBe(Infinity);
  });
});

describe('a map with a convex border (Tutte 1963, Floater 1997)', () => {
  it.each([
    ['a half ball', hemisphere(1, 8)],
    ['a ball cut open', cubeSphere(1, 6)],
    ['bumps', bumpy(10, 5)],
  ])('%s: no flips, every inner vertex at the mean of its neighbours, the border on a circle', (_, mesh) => {
    const piece = prepared(mesh);
    const uv = convexStart(piece);
    expect(flipCount(piece.triangles, uv)).toBe(0);
    const [border] = borderLoops(piece);
    const radii = border!.map((v) => Math.hypot(uv[v * 2]!, uv[v * 2 + 1]!));
    expect(Math.max(...radii) / Math.min(...radii)).toBeCloseTo(1, 9);
    const around = Array.from({ length: piece.vertices }, () => new Set<number>());
    for (let t = 0; t < piece.triangles.length; t += 3)
      for (let k = 0; k < 3; k++) {
        around[piece.triangles[t + k]!]!.add(piece.triangles[t + ((k + 1) % 3)]!);
        around[piece.triangles[t + k]!]!.add(piece.triangles[t + ((k + 2) % 3)]!);
      }
    const rim = new Set(border);
    for (let v = 0; v < piece.vertices; v++) {
      if (rim.has(v)) continue;
      for (let d = 0; d < 2; d++) expect([...around[v]!].reduce((sum, w) => sum + uv[w * 2 + d]!, 0) / around[v]!.size).toBeCloseTo(uv[v * 2 + d]!, 9);
    }
  });

  it('a ring: the hole is spanned, and nothing turns over', () => {
    const mesh = heightField(24, 3, (u, v) => [Math.cos(u * 2 * Math.PI) * (1 + v), v * 0.3, Math.sin(u * 2 * Math.PI) * (1 + v)]);
    const { positions, triangles } = openPiece(mesh);
    // both ends of the strip are one
    const place = new Map<string, number>();
    const to = Array.from({ length: positions.length / 3 }, (_, v) => {
      const key = [0, 1, 2].map((d) => (positions[v * 3 + d]! + 1e-9).toFixed(6)).join();
      if (!place.has(key)) place.set(key, place.size);
      return place.get(key)!;
    });
    const points = new Float64Array(place.size * 3);
    to.forEach((w, v) => points.set(positions.subarray(v * 3, v * 3 + 3), w * 3));
    const ring = prepare(
      points,
      triangles.map((v) => to[v]!),
    );
    expect(borderLoops(ring)).toHaveLength(2);
    const start = convexStart(ring);
    expect(flipCount(ring.triangles, start)).toBe(0);
    expect(isometric(ring, start).energies.at(-1)).toBeLessThan(4.6);
  });

  it('without a border there is none, and it says so', () => {
    const mesh = sphere(1, 8, 4);
    const { positions, triangles } = pieceOf(mesh, emptyUvSet(mesh), 0);
    expect(() => convexStart(prepare(positions, triangles))).toThrow(/border/);
  });
});

describe('against a dense library (ml-matrix) on small pieces', () => {
  const piece = prepared(bumpy(4, 9));

  it('conformal: the normal equations of Lévy et al. 2002, triangle by triangle, two border vertices held', () => {
    const n = piece.vertices;
    const [p, q] = farBorderPair(piece);
    const length = Math.hypot(...[0, 1, 2].map((d) => piece.positions[p * 3 + d]! - piece.positions[q * 3 + d]!));
    // per triangle Σ W_j (u_j + i v_j) / √(2·area) = 0 with W_j = x_{j+2} − x_{j+1} as complex numbers: two real rows
    const rows: number[][] = [];
    for (let t = 0; t < piece.flat.count; t++) {
      const [x1, x2, y2] = [0, 1, 2].map((k) => piece.flat.shape[t * 3 + k]!);
      const [x, y] = [
        [0, x1!, x2!],
        [0, 0, y2!],
      ];
      const re = new Array<number>(2 * n).fill(0);
      const im = new Array<number>(2 * n).fill(0);
      const by = Math.sqrt(x1! * y2!);
      for (let k = 0; k < 3; k++) {
        const v = piece.triangles[t * 3 + k]!;
        const wx = (x![(k + 2) % 3]! - x![(k + 1) % 3]!) / by;
        const wy = (y![(k + 2) % 3]! - y![(k + 1) % 3]!) / by;
        re[v] = wx;
        re[n + v] = -wy;
        im[v] = wy;
        im[n + v] = wx;
      }
      rows.push(re, im);
    }
    const fixed = new Map([
      [p, 0],
      [n + p, 0],
      [q, length],
      [n + q, 0],
    ]);
    const free = [...Array(2 * n).keys()].filter((k) => !fixed.has(k));
    const A = new Matrix(rows.map((row) => free.map((k) => row[k]!)));
    const b = Matrix.columnVector(rows.map((row) => -[...fixed].reduce((sum, [k, value]) => sum + row[k]! * value, 0)));
    const x = solve(A.transpose().mmul(A), A.transpose().mmul(b));
    const dense = new Float64Array(2 * n);
    free.forEach((k, at) => (dense[k < n ? k * 2 : (k - n) * 2 + 1] = x.get(at, 0)));
    for (const [k, value] of fixed) dense[k < n ? k * 2 : (k - n) * 2 + 1] = value;
    const sized = scaleToArea(piece, dense);
    conformal(piece).forEach((u, k) => expect(u).toBeCloseTo(sized[k]!, 8));
  });

  it('rigid: one global step is the minimum of Σ cot |u_i − u_j − R (x_i − x_j)|² for the turns of the local one', () => {
    const start = conformal(piece);
    const { uv } = rigid(piece, start, { steps: 1 });
    const n = piece.vertices;
    const L = Matrix.zeros(n, n);
    const B = Matrix.zeros(n, 2);
    for (let t = 0; t < piece.flat.count; t++) {
      const v = [0, 1, 2].map((k) => piece.triangles[t * 3 + k]!);
      const [x1, x2, y2] = [0, 1, 2].map((k) => piece.flat.shape[t * 3 + k]!);
      const rest = [
        [0, 0],
        [x1!, 0],
        [x2!, y2!],
      ];
      // the turn nearest to the map's part: by the angle of Σ cot · conj(rest edge) · edge
      let [c, s] = [0, 0];
      for (let k = 0; k < 3; k++) {
        const [i, j] = [k, (k + 1) % 3];
        const w = piece.flat.cot[t * 3 + ((k + 2) % 3)]!;
        const [ex, ey] = [rest[i]![0]! - rest[j]![0]!, rest[i]![1]! - rest[j]![1]!];
        const [fx, fy] = [start[v[i]! * 2]! - start[v[j]! * 2]!, start[v[i]! * 2 + 1]! - start[v[j]! * 2 + 1]!];
        c += w * (ex * fx + ey * fy);
        s += w * (ex * fy - ey * fx);
      }
      const r = Math.hypot(c, s);
      for (let k = 0; k < 3; k++) {
        const [i, j] = [k, (k + 1) % 3];
        const w = piece.flat.cot[t * 3 + ((k + 2) % 3)]!;
        const [ex, ey] = [rest[i]![0]! - rest[j]![0]!, rest[i]![1]! - rest[j]![1]!];
        const turned = [(c * ex - s * ey) / r, (s * ex + c * ey) / r];
        for (const [a, b, sign] of [
          [v[i]!, v[j]!, 1],
          [v[j]!, v[i]!, -1],
        ] as const) {
          L.set(a, a, L.get(a, a) + w);
          L.set(a, b, L.get(a, b) - w);
          for (let d = 0; d < 2; d++) B.set(a, d, B.get(a, d) + sign * w * turned[d]!);
        }
      }
    }
    // free to move as a whole: both with vertex 0 at the origin
    const inner = [...Array(n - 1).keys()].map((k) => k + 1);
    const x = solve(L.selection(inner, inner), B.selection(inner, [0, 1]));
    inner.forEach((v, at) => {
      for (let d = 0; d < 2; d++) expect(uv[v * 2 + d]! - uv[d]!).toBeCloseTo(x.get(at, d), 8);
    });
    // the same with vertices held: what they pull on goes to the right-hand side
    const vertices = [2, 9, n - 1];
    const places = vertices.flatMap((v, k) => [start[v * 2]! + 0.1 * k, start[v * 2 + 1]! - 0.07]);
    const held = rigid(piece, start, { steps: 1, pins: { vertices, places } }).uv;
    const free = [...Array(n).keys()].filter((v) => !vertices.includes(v));
    const pulled = B.selection(free, [0, 1]).sub(L.selection(free, vertices).mmul(new Matrix(vertices.map((_, k) => places.slice(k * 2, k * 2 + 2)))));
    const y = solve(L.selection(free, free), pulled);
    free.forEach((v, at) => {
      for (let d = 0; d < 2; d++) expect(held[v * 2 + d]).toBeCloseTo(y.get(at, d), 8);
    });
  });
});

describe('pins', () => {
  const piece = openPiece(bumpy(10, 2));
  const free = solveIsland({ ...piece, method: 'isometric' }).uv;
  const vertices = [0, 60, 115];
  // two stay, one is drawn out by a tenth
  const places = vertices.flatMap((v, k) => [free[v * 2]! + (k === 2 ? 0.1 : 0), free[v * 2 + 1]!]);

  it.each(['conformal', 'rigid', 'isometric'] as const)('%s: pinned vertices lie where they are put', (method) => {
    const { uv, flips } = solveIsland({ ...piece, method, pins: { vertices, places } });
    vertices.forEach((v, k) => {
      expect(uv[v * 2]).toBeCloseTo(places[k * 2]!, 6);
      expect(uv[v * 2 + 1]).toBeCloseTo(places[k * 2 + 1]!, 6);
    });
    if (method !== 'conformal') expect(flips).toBe(0);
    // the rest follows: it is not the free map any more
    expect(uv.some((x, k) => Math.abs(x - free[k]!) > 0.01)).toBe(true);
  });

  it('pins where the free map has them change nothing of it', () => {
    const own = prepare(piece.positions, piece.triangles);
    const exact = isometric(own, free, { tolerance: 1e-12 }).uv;
    const at = vertices.flatMap((v) => [exact[v * 2]!, exact[v * 2 + 1]!]);
    // from a start that lies elsewhere
    const start = exact.map((x, k) => (k & 1 ? x + 0.02 : x * 1.02));
    const { uv } = isometric(own, start, { tolerance: 1e-12, targets: { vertices, places: at } });
    uv.forEach((x, k) => expect(x).toBeCloseTo(exact[k]!, 4));
  });

  it('a drag with the matrix factored once gives what a fresh solve gives', () => {
    const own = prepare(piece.positions, piece.triangles);
    const solver = new RigidSolver(own, vertices);
    for (let k = 1; k <= 5; k++) {
      const moved = places.map((x, i) => (i === 4 ? x + 0.02 * k : x));
      expect(solver.run(free, moved, 6, 0).uv).toEqual(rigid(own, free, { steps: 6, tolerance: 0, pins: { vertices, places: moved } }).uv);
    }
    solver.release();
  });
});

describe('an order of elimination taken over', () => {
  it('from an earlier solve gives the same map', () => {
    const piece = openPiece(bumpy(12, 7));
    const first = solveIsland({ ...piece, method: 'rigid' });
    const again = solveIsland({ ...piece, method: 'rigid', rank: first.rank });
    again.uv.forEach((x, k) => expect(x).toBeCloseTo(first.uv[k]!, 9));
  });
});

describe('angles alone (MIPS: Hormann & Greiner 2000)', () => {
  it('the energy of a known map: twice as wide, half as high costs 4 + ¼, and two thousandths for its sizes; Infinity with a flip', () => {
    const flat = prepared(heightField(3, 2, (u, v) => [u * 3, v * 2, 0]));
    const map = Float64Array.from({ length: flat.vertices * 2 }, (_, k) => flat.positions[(k >> 1) * 3 + (k & 1)]! * (k & 1 ? 0.5 : 2));
    expect(angleEnergy(flat, map) / areaOf(flat)).toBeCloseTo(4.252, 12);
    expect(
      angleEnergy(
        flat,
        map.map((x, k) => (k & 1 ? -x : x)),
      ),
    ).toBe(Infinity);
  });

  it('free it comes to the conformal map’s angles, from least stretch, without a flip and nearly as fast as Newton’s steps are', () => {
    const flat = prepared(bumpy(14, 5));
    const least = isometric(flat, conformal(flat)).uv;
    const found = isometric(flat, least, { of: 'angles', tolerance: 1e-9 });
    expect(found.steps).toBeLessThan(40);
    const [before, after, ideal] = [least, found.uv, conformal(flat)].map((uv) => angleEnergy(flat, scaleToArea(flat, uv)) / areaOf(flat));
    expect(after).toBeLessThan(before!);
    // the conformal map has the least of another measure of angles: this one may be a little better by its own
    expect(after).toBeLessThan(ideal! + 1e-4);
    expect(flipCount(flat.triangles, found.uv)).toBe(0);
  });
});

describe('held apart (Smith & Schaefer 2015)', () => {
  // a long strip that coils up: the strip of a cone's frustum with a slit, bent over by bumps, overlaps when it lies free
  const coil = heightField(60, 2, (u, v) => {
    const turn = u * 2.6 * 2 * Math.PI;
    const r = 1 + 0.25 * v;
    return [Math.cos(turn) * r, 0.12 * turn, Math.sin(turn) * r];
  });

  it('a winding stair lies over itself free, and does not apart; its shape is nearly as good, nothing flips', () => {
    const piece = openPiece(coil);
    const own = prepare(piece.positions, piece.triangles);
    const free = solveIsland({ ...piece, method: 'isometric' });
    expect(borderCrossings(borderSegments(own, free.uv)).length).toBeGreaterThan(0);
    const apart = solveIsland({ ...piece, method: 'isometric', apart: true });
    expect(borderCrossings(borderSegments(own, apart.uv))).toEqual([]);
    expect(apart.flips).toBe(0);
    expect(apart.energy).toBeGreaterThan(free.energy);
    expect(Number.isFinite(apart.energy)).toBe(true);
    // and once apart it stays so from there, also after a change of place
    const again = solveIsland({ ...piece, method: 'isometric', apart: true, start: apart.uv });
    expect(borderCrossings(borderSegments(own, again.uv))).toEqual([]);
  });

  it('“keep shapes” and “keep angles” are held apart, too, where they lie over themselves, and are left as they are where not', () => {
    const piece = openPiece(coil);
    const own = prepare(piece.positions, piece.triangles);
    const crossings = (uv: Float64Array) => borderCrossings(borderSegments(own, uv)).length;
    const free = solveIsland({ ...piece, method: 'rigid' });
    expect([crossings(free.uv) > 0, free.putRight]).toEqual([true, false]);
    const apart = solveIsland({ ...piece, method: 'rigid', apart: true });
    expect([crossings(apart.uv), apart.flips, apart.putRight]).toEqual([0, 0, true]);
    const plain = openPiece(bumpy(8, 3));
    expect(solveIsland({ ...plain, method: 'rigid', apart: true })).toEqual(solveIsland({ ...plain, method: 'rigid' }));
    const angles = solveIsland({ ...piece, method: 'conformal' });
    expect([crossings(angles.uv) > 0, angles.putRight]).toEqual([true, false]);
    const heldAngles = solveIsland({ ...piece, method: 'conformal', apart: true });
    expect([crossings(heldAngles.uv), heldAngles.flips, heldAngles.putRight, heldAngles.heldApart]).toEqual([0, 0, false, true]);
    // how far the corners of triangles are from what they are in space, degrees, by the law of cosines: not the solver's own measure
    const corner = (at: ArrayLike<number>, size: number, [i, j, k]: number[]) => {
      const long = (a: number, b: number) => Math.hypot(...Array.from({ length: size }, (_, d) => at[a * size + d]! - at[b * size + d]!));
      const [a, b, c] = [long(i!, j!), long(i!, k!), long(j!, k!)];
      return (Math.acos((a * a + b * b - c * c) / (2 * a * b)) * 180) / Math.PI;
    };
    const wrong = (uv: Float64Array) => {
      let sum = 0;
      for (let c = 0; c < piece.triangles.length; c++) {
        const t = c - (c % 3);
        const at = [0, 1, 2].map((d) => piece.triangles[t + ((c + d) % 3)]!);
        sum += Math.abs(corner(uv, 2, at) - corner(piece.positions, 3, at));
      }
      return sum / piece.triangles.length;
    };
    const least = solveIsland({ ...piece, method: 'isometric', apart: true });
    expect(wrong(heldAngles.uv)).toBeLessThan(0.5 * wrong(least.uv));
    expect(wrong(heldAngles.uv)).toBeLessThan(2.5 * wrong(angles.uv) + 1);
    // as large as in space
    expect(areaOnSheet(piece.triangles, heldAngles.uv)).toBeCloseTo(areaOf(own), 9);
    expect(solveIsland({ ...plain, method: 'conformal', apart: true })).toEqual(solveIsland({ ...plain, method: 'conformal' }));
  });

  it('tells how far it is: rising, in many steps, and near the end at the end', () => {
    const told: number[] = [];
    solveIsland({ ...openPiece(bumpy(40, 3)), method: 'isometric' }, undefined, (share) => told.push(share));
    expect(told.length).toBeGreaterThan(6);
    told.forEach((share, k) => expect(share).toBeGreaterThanOrEqual(told[k - 1] ?? 0));
    expect(new Set(told).size).toBeGreaterThan(5);
    expect(told[1]).toBeLessThan(0.3);
    expect(told.at(-1)).toBeGreaterThan(0.8);
    expect(told.at(-1)).toBeLessThanOrEqual(1);
    // held apart, too
    const held: number[] = [];
    solveIsland({ ...openPiece(coil), method: 'isometric', apart: true }, undefined, (share) => held.push(share));
    held.forEach((share, k) => expect(share).toBeGreaterThanOrEqual(held[k - 1] ?? 0));
    expect(held.some((share) => share > 0.75)).toBe(true);
    // and by angles, which go on from there
    const angles: number[] = [];
    solveIsland({ ...openPiece(coil), method: 'conformal', apart: true }, undefined, (share) => angles.push(share));
    angles.forEach((share, k) => expect(share).toBeGreaterThanOrEqual(angles[k - 1] ?? 0));
    expect(angles.filter((share) => share > 0.85).length).toBeGreaterThan(5);
  });

  it('what does not overlap is left alone', () => {
    const piece = openPiece(bumpy(8, 3));
    expect(solveIsland({ ...piece, method: 'isometric', apart: true }).uv).toEqual(solveIsland({ ...piece, method: 'isometric' }).uv);
  });

  it('the barrier’s gradient is that of its value, by finite differences', () => {
    // a square whose border nearly touches itself: a U
    const border = Uint32Array.of(0, 1, 1, 2, 2, 3, 3, 4, 4, 5, 5, 6, 6, 7, 7, 0);
    const uv = Float64Array.of(0, 0, 1, 0, 1, 1, 0.505, 1, 0.5, 0.2, 0.495, 0.2, 0.49, 1, 0, 1);
    const barrier = borderBarrier({ border }, uv, { near: 0.2, weight: 1 });
    const gradient = new Float64Array(uv.length);
    const diagonal = new Float64Array((uv.length / 2) * 3);
    barrier.derivatives(uv, gradient, diagonal);
    expect(gradient.some((g) => Math.abs(g) > 1)).toBe(true);
    for (let k = 0; k < uv.length; k++) {
      const h = 1e-7;
      const slope = (barrier.value(uv.with(k, uv[k]! + h)) - barrier.value(uv.with(k, uv[k]! - h))) / (2 * h);
      expect(Math.abs(gradient[k]! - slope)).toBeLessThan(1e-3 * Math.max(1, Math.abs(slope)));
    }
    for (let v = 0; v < uv.length / 2; v++) expect(diagonal[v * 3]).toBeGreaterThanOrEqual(0);
    // a step that would bring the arms of the U through one another is cut short
    const direction = new Float64Array(uv.length);
    direction[6] = -0.1;
    expect(barrier.largestStep(uv, direction, 1)).toBeLessThan(0.2);
    // the pairs found for that step serve on its way, and not beyond
    const fresh = (at: Float64Array) => borderBarrier({ border }, uv, { near: 0.2, weight: 1 }).value(at);
    for (const [k, x] of [
      [6, 0.503],
      [8, 0.3],
      [1, 0.85],
    ] as const)
      expect(barrier.value(uv.with(k, x))).toBeCloseTo(fresh(uv.with(k, x)), 9);
    expect(barrier.largestStep(uv, new Float64Array(uv.length), 1)).toBe(Infinity);
  });
});

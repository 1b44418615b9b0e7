import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { box, cubeSphere, heightField, plane } from '../mesh/starterForms.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { seededRandom } from '../numeric/random.ts';
import { emptyUvSet, uvSetFrom } from '../uv/uvSet.ts';
import { Depths, projectPlaces, type ModelView } from './depths.ts';
import { modelRegion, sheetRegion } from './region.ts';
import { RegionMask, type Region } from './regionMask.ts';

/** x and y from −1 to 1 over a view of 200 × 100 px, seen along −z without perspective. */
const flat: ModelView = { matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -0.25, 0, 0, 0, 0, 1], width: 200, height: 100 };
/** An eye on the z axis at `z`, looking down it, with perspective; `tan` of half the angle. */
const eyeAt = (z: number, tan = 0.5, width = 120, height = 120): ModelView => ({
  matrix: [1 / tan, 0, 0, 0, 0, 1 / tan, 0, 0, 0, 0, -1.02, -1, 0, 0, 1.02 * z - 0.2, z],
  width,
  height,
});
const boxOf = (x0: number, y0: number, x1: number, y1: number): Region => ({ shape: 'box', points: [x0, y0, x1, y1] });
const ask = (mesh: Mesh, kind: 'points' | 'edges' | 'faces' | 'islands', region: Region, hidden: Uint8Array | null = null, set = emptyUvSet(mesh)) => ({
  mesh,
  set,
  hidden,
  kind,
  region,
});

describe('region masks', () => {
  it('the window of a mask is the smallest that holds it', () => {
    expect(new RegionMask(50, 40, boxOf(10, 5, 20, 30)).window()).toEqual({ left: 10, top: 5, right: 21, bottom: 31 });
    expect(new RegionMask(50, 40, boxOf(-9, -9, 300, 300)).window()).toEqual({ left: 0, top: 0, right: 50, bottom: 40 });
    const none = new RegionMask(50, 40, boxOf(60, 60, 70, 70)).window();
    expect(none.right).toBeLessThanOrEqual(none.left);
  });

  it('a box takes its px whichever way it was drawn, clipped to the view', () => {
    for (const points of [
      [10, 20, 30, 40],
      [30, 40, 10, 20],
    ] as [number, number, number, number][]) {
      const mask = new RegionMask(100, 100, { shape: 'box', points });
      expect([mask.has(10, 20), mask.has(30.9, 40.9), mask.has(9, 20), mask.has(31, 30)]).toEqual([true, true, false, false]);
    }
    expect(new RegionMask(10, 10, { shape: 'box', points: [-50, -50, 50, 50] }).bytes.every((x) => x === 1)).toBe(true);
    expect(new RegionMask(10, 10, { shape: 'box', points: [20, 20, 50, 50] }).bytes.some((x) => x === 1)).toBe(false);
  });

  it('a lasso agrees with the even-odd rule at the middle of each px (property)', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: -5, max: 45, noNaN: true }), { minLength: 6, maxLength: 24 }), (raw) => {
        const points = raw.slice(0, raw.length - (raw.length % 2));
        const mask = new RegionMask(40, 40, { shape: 'lasso', points });
        const n = points.length / 2;
        for (let y = 0; y < 40; y += 3) {
          for (let x = 0; x < 40; x += 3) {
            let crossings = 0;
            let near = false;
            for (let k = 0; k < n; k++) {
              const [ax, ay] = [points[k * 2]!, points[k * 2 + 1]!];
              const [bx, by] = [points[((k + 1) % n) * 2]!, points[((k + 1) % n) * 2 + 1]!];
              if (ay <= y + 0.5 === by <= y + 0.5) continue;
              const at = ax + ((y + 0.5 - ay) / (by - ay)) * (bx - ax);
              if (Math.abs(at - x - 0.5) <= 1) near = true;
              if (at < x + 0.5) crossings++;
            }
            if (!near) expect(mask.has(x, y)).toBe(crossings % 2 === 1);
          }
        }
      }),
      { numRuns: 60 },
    );
  });

  it('a brush covers what is within its radius of the stroke', () => {
    const mask = new RegionMask(100, 60, { shape: 'brush', points: [20, 30, 80, 30], radius: 8 });
    for (let y = 0; y < 60; y++) {
      for (let x = 0; x < 100; x++) {
        const dx = Math.max(20 - (x + 0.5), 0, x + 0.5 - 80);
        expect(mask.has(x, y)).toBe(Math.hypot(dx, y + 0.5 - 30) <= 8);
      }
    }
  });
});

describe('depths', () => {
  it('each px sees the nearest surface on its line of sight (property, against every triangle asked in turn)', () => {
    fc.assert(
      fc.property(fc.nat(), fc.boolean(), (seed, parallel) => {
        const random = seededRandom(seed);
        const ball = cubeSphere(0.3 + random() * 0.5, 2);
        const mesh = { ...ball, points: ball.points.map((x, k) => x * (0.6 + random() * 0.8) + [0.2, -0.1, 0][k % 3]!) };
        const view = parallel ? { ...flat, width: 40, height: 40 } : eyeAt(3, 0.5, 40, 40);
        const depths = new Depths(mesh, view, { left: 0, top: 0, right: 40, bottom: 40 });
        for (let row = 0; row < 40; row += 3) {
          for (let column = 0; column < 40; column += 3) {
            const [x, y] = [((column + 0.5) / 40) * 2 - 1, 1 - ((row + 0.5) / 40) * 2];
            const from = parallel ? [x, y, 5] : [0, 0, 3];
            const along = parallel ? [0, 0, -1] : [x * 0.5, y * 0.5, -1];
            const { nearest, grazing } = firstHit(mesh, from, along);
            if (grazing) continue;
            const found = depths.near[row * 40 + column]!;
            if (nearest === Infinity) expect(found).toBe(0);
            else {
              const z = from[2]! + along[2]! * nearest;
              const expected = parallel ? projectPlaces(Float64Array.of(0, 0, z), view).near[0]! : 1 / nearest;
              expect(found / expected).toBeCloseTo(1, 5);
            }
          }
        }
      }),
      { numRuns: 40 },
    );
  });

  it('a surface that reaches behind the eye still hides what is beyond it', () => {
    // the eye stands within a long floor, looking along it; a card stands below the floor
    const floor = plane(20, 20, 1, 1);
    const level = {
      ...floor,
      points: Float64Array.from(floor.points, (_, k) => (k % 3 === 1 ? -0.2 : k % 3 === 2 ? -floor.points[k - 1]! : floor.points[k]!)),
    };
    const view = eyeAt(0);
    const depths = new Depths(level, view, { left: 0, top: 0, right: 120, bottom: 120 });
    // straight down by 0.4 for each step forward: the floor is met 0.5 ahead
    const row = Math.floor(((1 + 0.4 / 0.5) / 2) * 120);
    const exact = (((row + 0.5) / 120) * 2 - 1) * 0.5;
    expect(1 / depths.near[row * 120 + 60]!).toBeCloseTo(0.2 / exact, 4);
  });
});

/** Nearest crossing of a line with a mesh by trying all triangles; grazing: it passes an edge so closely that rounding decides. */
function firstHit(mesh: Mesh, from: number[], along: number[]): { nearest: number; grazing: boolean } {
  const { count, corners } = trianglesOf(mesh);
  let nearest = Infinity;
  let grazing = false;
  for (let t = 0; t < count; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => {
      const p = mesh.corners[corners[t * 3 + k]!]! * 3;
      return [mesh.points[p]! - from[0]!, mesh.points[p + 1]! - from[1]!, mesh.points[p + 2]! - from[2]!];
    }) as [number[], number[], number[]];
    const volume = (p: number[], q: number[], r: number[]) =>
      p[0]! * (q[1]! * r[2]! - q[2]! * r[1]!) - p[1]! * (q[0]! * r[2]! - q[2]! * r[0]!) + p[2]! * (q[0]! * r[1]! - q[1]! * r[0]!);
    const parts = [volume(along, b, c), volume(along, c, a), volume(along, a, b)];
    const sum = parts[0]! + parts[1]! + parts[2]!;
    if (sum === 0) continue;
    const least = Math.min(...parts.map((x) => x / sum));
    if (Math.abs(least) < 1e-3) grazing = true;
    if (least < 0) continue;
    nearest = Math.min(nearest, volume(a, b, c) / sum);
  }
  return { nearest, grazing };
}

describe('elements in a region of the model view', () => {
  const mesh = heightField(10, 10, (u, v) => [u * 1.8 - 0.9, v * 1.8 - 0.9, 0]);
  const all = boxOf(0, 0, 200, 100);
  const left = boxOf(0, 0, 99, 100);
  const take = (kind: 'points' | 'edges' | 'faces' | 'islands', region: Region, hidden: Uint8Array | null = null, view = flat) =>
    modelRegion(ask(mesh, kind, region, hidden), view, false);

  it('the whole view takes all, half of it half', () => {
    expect(take('faces', all).length).toBe(100);
    expect(take('points', all).length).toBe(121);
    expect(take('edges', all).length).toBe(220);
    expect([...take('islands', all)]).toEqual([0]);
    expect(take('faces', left).length).toBe(50);
    expect(take('points', left).length).toBe(55);
    expect(take('faces', boxOf(300, 300, 400, 400)).length).toBe(0);
  });

  it('what is hidden is left out, with the points and edges that only it has', () => {
    const hidden = new Uint8Array(100);
    hidden.fill(1, 0, 50);
    expect(take('faces', all, hidden).length).toBe(50);
    expect(take('points', all, hidden).length).toBe(66);
    expect(take('edges', all, hidden).length).toBe(115);
  });

  it('what is behind the eye is left out', () => {
    expect(take('faces', all, null, { ...eyeAt(-1), width: 200, height: 100 }).length).toBe(0);
  });

  it('of a card behind another only the part in sight is taken; through takes both', () => {
    const one = plane(1, 1, 10, 10);
    const points = one.points.length / 3;
    const quads = Array.from({ length: 100 }, (_, f) => Array.from(one.corners.slice(one.faceStart[f], one.faceStart[f + 1])));
    const both = meshFromFaces(
      [...one.points, ...Array.from(one.points, (x, k) => x + [0.5, 0, -1][k % 3]!)],
      [...quads, ...quads.map((face) => face.map((p) => p + points))],
    );
    const question = ask(both, 'faces', boxOf(0, 0, 400, 400));
    const view = { ...flat, width: 400, height: 400 };
    const seen = modelRegion(question, view, false);
    expect(modelRegion(question, view, true).length).toBe(200);
    expect(seen.filter((f) => f < 100).length).toBe(100);
    expect(seen.filter((f) => f >= 100).length).toBe(50);
    // what hides is itself hidden: the rest comes into sight
    const hidden = new Uint8Array(200).fill(1, 0, 100);
    expect(modelRegion({ ...question, hidden }, view, false).length).toBe(100);
  });

  it('of a ball seen with perspective the near cap is taken: sin of its edge = radius / distance', () => {
    const ball = cubeSphere(1, 40);
    const view = eyeAt(3, 0.5, 400, 400);
    const seen = modelRegion(ask(ball, 'faces', boxOf(0, 0, 400, 400)), view, false);
    // the cap before the horizon z = 1/3 has (1 − 1/3) / 2 of the ball's area
    let area = 0;
    for (const f of seen) area += faceArea(ball, f);
    const share = area / (4 * Math.PI);
    expect(share).toBeGreaterThan(1 / 3 - 0.01);
    expect(share).toBeLessThan(1 / 3 + 0.015);
    expect(modelRegion(ask(ball, 'faces', boxOf(0, 0, 400, 400)), view, true).length).toBe(ball.faceStart.length - 1);
  });

  it('a sheet seen from behind is taken as from before', () => {
    const behind = { ...flat, matrix: [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0.25, 0, 0, 0, 0, 1] };
    expect(take('faces', all, null, behind).length).toBe(100);
    expect(take('points', all, null, behind).length).toBe(121);
  });

  it('from within a box its six sides are taken as they come into sight', () => {
    const room = box(2, 2, 2);
    const seen = modelRegion(ask(room, 'faces', boxOf(0, 0, 120, 120)), eyeAt(0.9), false);
    // straight ahead only one side has its middle in the view
    expect(seen.length).toBe(1);
  });
});

function faceArea(mesh: Mesh, f: number): number {
  const p = (k: number) => Array.from(mesh.points.slice(mesh.corners[k]! * 3, mesh.corners[k]! * 3 + 3));
  const from = mesh.faceStart[f]!;
  let sum = 0;
  for (let k = from + 1; k + 1 < mesh.faceStart[f + 1]!; k++) {
    const [a, b, c] = [p(from), p(k), p(k + 1)];
    const [u, v] = [b.map((x, d) => x - a[d]!), c.map((x, d) => x - a[d]!)] as [number[], number[]];
    sum += Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!) / 2;
  }
  return sum;
}

describe('elements in a region of the sheet', () => {
  const mesh = heightField(10, 10, (u, v) => [u, v, 0]);
  const uv = Float64Array.from({ length: 242 }, (_, k) => mesh.points[(k >> 1) * 3 + (k % 2)]!);
  const set = uvSetFrom(mesh, 'a', mesh.corners.slice(), uv);
  const view = { width: 201, height: 201, scaleU: 200, scaleV: 200, left: 0, top: 200 };
  const lower = boxOf(0, 101, 201, 201);

  it('the lower half takes the lower half', () => {
    const take = (kind: 'points' | 'edges' | 'faces' | 'islands') => [...sheetRegion(ask(mesh, kind, lower, null, set), view)];
    expect(take('faces')).toEqual(Array.from({ length: 50 }, (_, k) => k));
    expect(take('points').length).toBe(55);
    expect(take('edges').length).toBe(50 + 44);
    expect(take('islands')).toEqual([0]);
  });

  it('faces without a place and hidden ones are never taken', () => {
    expect(sheetRegion(ask(mesh, 'faces', lower), view).length).toBe(0);
    expect(sheetRegion(ask(mesh, 'faces', lower, new Uint8Array(100).fill(1, 0, 20), set), view).length).toBe(30);
  });
});

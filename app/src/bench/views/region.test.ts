import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { cubeSphere, emptyUvSet, heightField, uvSetFrom, type Mesh, type Part, type UvSet } from '@jig-peel/core';
import { layoutView, partGeometry } from '../../worker/geometry.ts';
import { RegionMask } from './regionMask.ts';
import { DepthPicture, modelElementsIn, sheetElementsIn } from './regionPick.ts';

const partOf = (mesh: Mesh, set: UvSet = emptyUvSet(mesh)): Part => ({
  id: 'p',
  name: 'p',
  mesh,
  uvSets: [set],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});
const shown = (mesh: Mesh, set?: UvSet) => {
  const part = partOf(mesh, set);
  return { geometry: partGeometry(part, 1), layout: layoutView(part, part.uvSets[0]!, 1, 1024, 1024) };
};
/** x and y from −1 to 1 over a view of 200 × 100 px, depth w = 1. */
const identity = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
const view = { matrix: identity, width: 200, height: 100, shown: () => true };

describe('region masks', () => {
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

describe('elements in a region of the model view', () => {
  const mesh = heightField(10, 10, (u, v) => [u * 1.8 - 0.9, v * 1.8 - 0.9, 0]);
  const { geometry, layout } = shown(mesh);
  const all = new RegionMask(200, 100, { shape: 'box', points: [0, 0, 200, 100] });
  const left = new RegionMask(200, 100, { shape: 'box', points: [0, 0, 99, 100] });

  it('the whole view takes all, half of it half', () => {
    expect(modelElementsIn(geometry, layout, null, 'faces', all, view).length).toBe(100);
    expect(modelElementsIn(geometry, layout, null, 'points', all, view).length).toBe(121);
    expect(modelElementsIn(geometry, layout, null, 'edges', all, view).length).toBe(220);
    expect(modelElementsIn(geometry, layout, null, 'islands', all, view)).toEqual([0]);
    expect(modelElementsIn(geometry, layout, null, 'faces', left, view).length).toBe(50);
    expect(modelElementsIn(geometry, layout, null, 'points', left, view).length).toBe(55);
  });

  it('what is hidden is left out, with the points and edges that only it has', () => {
    const hidden = new Uint8Array(100);
    hidden.fill(1, 0, 50);
    expect(modelElementsIn(geometry, layout, hidden, 'faces', all, view).length).toBe(50);
    expect(modelElementsIn(geometry, layout, hidden, 'points', all, view).length).toBe(66);
    expect(modelElementsIn(geometry, layout, hidden, 'edges', all, view).length).toBe(115);
  });

  it('what is behind the eye or out of sight is left out', () => {
    const behind = [...identity];
    behind[15] = -1;
    expect(modelElementsIn(geometry, layout, null, 'faces', all, { ...view, matrix: behind })).toEqual([]);
    expect(modelElementsIn(geometry, layout, null, 'faces', all, { ...view, shown: (x) => x < 100 }).length).toBe(50);
  });

  it('on a ball, a depth picture of its near half leaves about half of the faces', () => {
    const ball = shown(cubeSphere(0.9, 12));
    const [width, height, far] = [120, 120, 4];
    // seen along −z, far away: depth is 2 − z; the picture is made from the ball's own formula
    const data = new Uint8Array(width * height * 4);
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const [px, py] = [((x + 0.5) / width) * 2 - 1, ((y + 0.5) / height) * 2 - 1];
        const r2 = 0.81 - px * px - py * py;
        const depth = r2 > 0 ? 2 - Math.sqrt(r2) : far * 0.999;
        const share = depth / far;
        const parts = [share, share * 255, share * 65025].map((v) => v % 1);
        parts[0]! -= parts[1]! / 255;
        parts[1]! -= parts[2]! / 255;
        parts.forEach((v, k) => (data[(y * width + x) * 4 + k] = Math.round(v * 255)));
      }
    }
    const picture = new DepthPicture(data, width, height, far, 0.02);
    expect(picture.shows(60, 60, 1.1)).toBe(true);
    expect(picture.shows(60, 60, 2.9)).toBe(false);
    const mask = new RegionMask(width, height, { shape: 'box', points: [0, 0, width, height] });
    const depthOf = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    const near = modelElementsIn(ball.geometry, ball.layout, null, 'faces', mask, { matrix: depthOf, width, height, shown: () => true });
    expect(near.length).toBe(6 * 144);
    let seen = 0;
    for (const f of near) {
      const [from, to] = [ball.geometry.faceStart[f]!, ball.geometry.faceStart[f + 1]!];
      const middle = [0, 1, 2].map((d) => {
        let sum = 0;
        for (let c = from; c < to; c++) sum += ball.geometry.points[ball.geometry.corners[c]! * 3 + d]! / (to - from);
        return sum;
      });
      if (picture.shows(((middle[0]! + 1) / 2) * width, ((1 - middle[1]!) / 2) * height, 2 - middle[2]!)) seen++;
    }
    expect(seen / near.length).toBeGreaterThan(0.45);
    expect(seen / near.length).toBeLessThan(0.6);
  });
});

describe('elements in a region of the sheet', () => {
  const mesh = heightField(10, 10, (u, v) => [u, v, 0]);
  const uv = Float64Array.from({ length: 242 }, (_, k) => mesh.points[(k >> 1) * 3 + (k % 2)]!);
  const { geometry, layout } = shown(mesh, uvSetFrom(mesh, 'a', mesh.corners.slice(), uv));
  const toPx = (u: number, v: number): [number, number] => [u * 200, (1 - v) * 200];
  const lower = new RegionMask(201, 201, { shape: 'box', points: [0, 101, 201, 201] });

  it('the lower half takes the lower half', () => {
    const faces = sheetElementsIn(geometry, layout, null, 'faces', lower, toPx);
    expect(faces).toEqual(Array.from({ length: 50 }, (_, k) => k));
    expect(sheetElementsIn(geometry, layout, null, 'points', lower, toPx).length).toBe(55);
    expect(sheetElementsIn(geometry, layout, null, 'islands', lower, toPx)).toEqual([0]);
  });

  it('faces without a place are never taken', () => {
    const bare = shown(mesh);
    expect(sheetElementsIn(bare.geometry, bare.layout, null, 'faces', lower, toPx)).toEqual([]);
  });
});

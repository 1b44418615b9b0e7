import { describe, expect, it } from 'vitest';
import { contours, isInside, loopArea, piecesOf } from './contours.ts';
import { matchBorder } from './borderMatch.ts';
import { errorOf, fitOutline, FitOutline, similarityOf, sizeOf, turnOf } from './outlineFit.ts';
import { OutlineIndex, sampled } from './outlineIndex.ts';

describe('lines on which a grid passes a level', () => {
  it('a disc of known radius by its smooth values: area and distance to a hundredth of a cell', () => {
    const [loop, ...rest] = contours(64, 64, (x, y) => 100 - Math.hypot(x + 0.5 - 31.3, y + 0.5 - 30.1), 80);
    expect(rest).toHaveLength(0);
    expect(loopArea(loop!)).toBeCloseTo(Math.PI * 400, -1);
    for (let k = 0; k < loop!.length; k += 2) expect(Math.hypot(loop![k]! - 31.3, loop![k + 1]! - 30.1)).toBeCloseTo(20, 1);
  });

  it('a frame with a hole, and a block in it: two pieces, the hole clockwise; all closed at the grid’s own border', () => {
    const loops = contours(40, 30, (x, y) => (x < 36 && !(x > 5 && x < 30 && y > 5 && y < 25 && !(x > 10 && x < 20 && y > 10 && y < 20)) ? 1 : 0), 0.5);
    const pieces = piecesOf(loops);
    expect(pieces.map((piece) => piece.map((loop) => Math.round(loopArea(loop)))).sort((a, b) => a.length - b.length)).toEqual([[81], [1080, -455]]);
    expect(isInside(pieces.find((piece) => piece.length === 2)![0]!, 35.5, 29.5)).toBe(true);
  });

  it('specks are left out', () => {
    expect(contours(10, 10, (x, y) => (x === 4 && y === 4 ? 1 : 0), 0.5)).toHaveLength(0);
  });
});

/** An ellipse with a bump, so that nothing of it is symmetric. */
const shape = (count: number, at: (x: number, y: number) => [number, number] = (x, y) => [x, y]) =>
  Float64Array.from(
    Array.from({ length: count }, (_, k) => {
      const a = (2 * Math.PI * k) / count;
      const r = 1 + 0.25 * Math.exp(-(((a - 1.1) / 0.3) ** 2));
      return at(30 * r * Math.cos(a), 18 * r * Math.sin(a));
    }).flat(),
  );

describe('outlines laid on one another', () => {
  it('nearest points are those that a search through all of them finds', () => {
    const index = new OutlineIndex(sampled([shape(200)], 1));
    const { places, along } = index.samples;
    for (let k = 0; k < 60; k++) {
      const [x, y] = [-50 + ((k * 37) % 100), -40 + ((k * 53) % 80)];
      const [dx, dy] = [Math.cos(k), Math.sin(k)];
      let [best, least] = [-1, Infinity];
      for (let n = 0; n < places.length / 2; n++) {
        if (along[n * 2]! * dx + along[n * 2 + 1]! * dy < 0.5) continue;
        const d = Math.hypot(places[n * 2]! - x, places[n * 2 + 1]! - y);
        if (d < least) [best, least] = [n, d];
      }
      const found = index.nearest(x, y, dx, dy);
      expect(Math.hypot(places[found * 2]! - x, places[found * 2 + 1]! - y)).toBeCloseTo(least, 9);
      expect(best).toBeGreaterThanOrEqual(0);
    }
  });

  it('a turned, sized and moved copy is found exactly', () => {
    const [size, turn] = [0.37, 2.2];
    const moved = shape(500, (x, y) => [size * (Math.cos(turn) * x - Math.sin(turn) * y) + 100, size * (Math.sin(turn) * x + Math.cos(turn) * y) - 40]);
    const { how, error } = fitOutline(new FitOutline([shape(500)], 500), new FitOutline([moved], 500));
    expect(sizeOf(how)).toBeCloseTo(size, 3);
    expect(turnOf(how)).toBeCloseTo(turn, 3);
    expect(how[2]).toBeCloseTo(100, 1);
    expect(error).toBeLessThan(0.02);
    expect(errorOf(new FitOutline([shape(500)]), new FitOutline([moved]), [1, 0, 0, 0])).toBeGreaterThan(10);
  });

  it('the similarity of two places is exact', () => {
    expect(similarityOf([1, 1, 3, 1], [0, 0, 0, 4])).toEqual([0, 2, 2, -2]);
    expect(() => similarityOf([1, 1, 1, 1], [0, 0, 1, 1])).toThrow(RangeError);
  });
});

describe('vertices of a border on a line', () => {
  it('in order, corners on corners, though the line begins elsewhere', () => {
    const square = (n: number, from = 0) =>
      Float64Array.from(
        Array.from({ length: 4 * n }, (_, i) => {
          const k = (i + from) % (4 * n);
          const [side, t] = [Math.floor(k / n), (k % n) / n];
          return [
            [t, 0],
            [1, t],
            [1 - t, 1],
            [0, 1 - t],
          ][side]!;
        }).flat(),
      );
    const own = square(10).map((x, k) => x * 100 + (k % 2 === 0 ? 2 : -1));
    const { places: to, isCorner } = matchBorder(
      own,
      square(60, 77).map((x) => x * 100),
    );
    for (const corner of [0, 10, 20, 30])
      expect(Math.hypot(to[corner * 2]! - (own[corner * 2]! - 2), to[corner * 2 + 1]! - (own[corner * 2 + 1]! + 1))).toBeLessThan(1.3);
    expect([...isCorner].reduce((sum, x) => sum + x, 0)).toBe(4);
    // round once, never back
    let turned = 0;
    for (let k = 0; k < 40; k++) {
      const angle = (i: number) => Math.atan2(to[(i % 40) * 2 + 1]! - 50, to[(i % 40) * 2]! - 50);
      const step = ((angle(k + 1) - angle(k) + 3 * Math.PI) % (2 * Math.PI)) - Math.PI;
      expect(step).toBeGreaterThan(0);
      turned += step;
    }
    expect(turned).toBeCloseTo(2 * Math.PI, 6);
  });

  it('a border of very many vertices goes by some of them, the others between in order', () => {
    const ring = (n: number, r: number) =>
      Float64Array.from(Array.from({ length: n }, (_, k) => [r * Math.cos((2 * Math.PI * k) / n), r * Math.sin((2 * Math.PI * k) / n)]).flat());
    const n = 9001;
    const { places } = matchBorder(ring(n, 99), ring(4000, 100));
    let last = Math.atan2(places[1]!, places[0]!);
    let turned = 0;
    for (let k = 1; k <= n; k++) {
      const [x, y] = [places[(k % n) * 2]!, places[(k % n) * 2 + 1]!];
      expect(Math.hypot(x, y)).toBeCloseTo(100, 2);
      const angle = Math.atan2(y, x);
      const step = ((angle - last + 3 * Math.PI) % (2 * Math.PI)) - Math.PI;
      expect(step).toBeGreaterThan(0);
      turned += step;
      last = angle;
    }
    expect(turned).toBeCloseTo(2 * Math.PI, 6);
  });
});

import { expect, it } from 'vitest';
import { meshFromFaces } from '../mesh/mesh.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { energyOf, faceMaps, shapeStrokes } from './faceStretch.ts';

/** Two unit squares apart in space; on the sheet as the given maps (2 × 2, row by row) lay them. */
function squares(first: number[], second: number[], joined = true) {
  const points = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0, 2, 1, 0];
  const mesh = meshFromFaces(
    points,
    joined
      ? [
          [0, 1, 2, 3],
          [1, 4, 5, 2],
        ]
      : [[0, 1, 2, 3]],
  );
  const lay = ([a, b, c, d]: number[], x: number, y: number) => [a! * x + b! * y, c! * x + d! * y];
  const uv: number[] = [];
  const corner: number[] = [];
  for (let k = 0; k < mesh.corners.length; k++) {
    const p = mesh.corners[k]! * 3;
    uv.push(...lay(k < 4 ? first : second, points[p]!, points[p + 1]!));
    corner.push(k);
  }
  return { mesh, set: uvSetFrom(mesh, 'uv', Uint32Array.from(corner), Float64Array.from(uv)) };
}

it('size and shape of a face are those of its matrix, each island at its own scale (by hand)', () => {
  // islands of one face each: the mean scale is the face's own, so size is 0, and shape the ratio of the diagonal
  const { mesh, set } = squares([0.2, 0, 0, 0.1], [0.1, 0, 0, 0.1]);
  const { size, shape } = faceMaps(mesh, set, 100, 100);
  expect([...size].map((x) => Math.abs(x) < 1e-6)).toEqual([true, true]);
  expect(shape[0]).toBeCloseTo(1, 6);
  expect(shape[1]).toBeCloseTo(0, 6);
  // a sheet twice as wide makes the first four to one
  expect(faceMaps(mesh, set, 200, 100).shape[0]).toBeCloseTo(2, 6);
});

it('changes continuously where one way overtakes the other, which the stronger of the two does not', () => {
  const at = (share: number) => {
    const { mesh, set } = squares([0.1 * share, 0, 0, 0.1 / share], [0.1, 0, 0, 0.1]);
    const maps = faceMaps(mesh, set, 100, 100);
    return [maps.size[0]!, maps.shape[0]!];
  };
  for (let k = 0; k < 40; k++) {
    const [a, b] = [at(0.8 + k * 0.01), at(0.81 + k * 0.01)];
    expect(Math.abs(a[0]! - b[0]!)).toBeLessThan(0.01);
    expect(Math.abs(a[1]! - b[1]!)).toBeLessThan(0.05);
  }
});

it('the energy is 4 without distortion, and that of the singular values otherwise (Smith & Schaefer)', () => {
  expect(energyOf(0, 0)).toBe(4);
  // σ = 2 and 1/2: size 0, ratio 4
  expect(energyOf(0, 2)).toBeCloseTo(4 + 0.25 + 0.25 + 4, 12);
  // σ = 1/2 both: the picture twice as large
  expect(energyOf(1, 0)).toBeCloseTo(0.25 + 0.25 + 4 + 4, 12);
});

it('strokes run along the way in which a px covers most of the model', () => {
  // 20 px a unit along u, 10 px along v: the picture is longest along v
  const { mesh, set } = squares([0.2, 0, 0, 0.1], [0.1, 0, 0, 0.1], false);
  const strokes = shapeStrokes(mesh, set, 100, 100);
  expect(strokes.length).toBe(10);
  expect(Math.abs(strokes[2]!)).toBeLessThan(1e-6);
  expect(Math.abs(strokes[3]!)).toBeCloseTo(1, 6);
  expect(strokes[4]).toBeCloseTo(1, 6);
  // turned by 30 degrees on the sheet, the stroke turns along
  const [c, s] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
  const askew = squares([0.2 * c, -0.1 * s, 0.2 * s, 0.1 * c], [0.1, 0, 0, 0.1], false);
  const turned = shapeStrokes(askew.mesh, askew.set, 100, 100);
  expect(Math.abs(turned[2]! * -s + turned[3]! * c)).toBeCloseTo(1, 6);
});

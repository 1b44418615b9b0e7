import { describe, expect, it } from 'vitest';
import { cubeSphere, plane } from '../mesh/starterForms.ts';
import { jigPicture } from './picture.ts';
import { placeJig } from './place.ts';

const all = (faces: number) => Uint32Array.from({ length: faces }, (_, f) => f);
const solid = (data: Uint8ClampedArray) => {
  let count = 0;
  for (let k = 3; k < data.length; k += 4) if (data[k] === 255) count++;
  return count;
};

describe('small pictures', () => {
  it('a ball fills its circle, whatever its size and place, and shows light and dark cells', () => {
    for (const [scale, shift] of [
      [1, 0],
      [1000, 5e4],
    ] as const) {
      const ball = cubeSphere(0.5, 12);
      const mesh = { ...ball, points: ball.points.map((x) => x * scale + shift) };
      const faces = all(mesh.faceStart.length - 1);
      const { data, width } = jigPicture(mesh, [{ jig: placeJig(mesh, faces, 'spherical'), faces }], 60);
      const circle = Math.PI * ((width - 4) / 2) ** 2;
      expect(solid(data) / circle).toBeGreaterThan(0.93);
      expect(solid(data) / circle).toBeLessThan(1.02);
      let light = 0;
      for (let k = 0; k < data.length; k += 4) if (data[k + 3] === 255 && data[k]! > data[k + 2]!) light++;
      expect(light / solid(data)).toBeGreaterThan(0.25);
      expect(light / solid(data)).toBeLessThan(0.75);
    }
  });

  it('framed alike wherever it stands; a form without extent draws nothing', () => {
    const card = plane(1, 1, 1, 1);
    const behind = { ...card, points: Float64Array.from(card.points, (x, k) => (k % 3 === 2 ? x - 5 : x)) };
    const jig = placeJig(card, [0], 'planar');
    const one = jigPicture(card, [{ jig, faces: [0] }], 40);
    expect(jigPicture(behind, [{ jig, faces: [0] }], 40).data).toEqual(one.data);
    const flat = { ...card, points: card.points.map(() => 1) };
    expect(solid(jigPicture(flat, [{ jig, faces: [0] }], 40).data)).toBe(0);
  });
});

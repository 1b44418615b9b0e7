import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { placementSchema } from '../images/placement.ts';
import { newJob, type Job, type Part } from './job.ts';
import { plane } from '../mesh/starterForms.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { asImageLands, layoutAreas } from './asImageLands.ts';
import { faceDensity } from '../measure/faceDensity.ts';
import { stretchFigures, triangleStretch } from '../measure/distortion.ts';

const mesh = plane(2, 1, 4, 4);
const whole = uvSetFrom(
  mesh,
  'a',
  mesh.corners.slice(),
  Float64Array.from({ length: (mesh.points.length / 3) * 2 }, (_, k) =>
    k % 2 === 0 ? mesh.points[(k / 2) * 3]! / 2 + 0.5 : mesh.points[((k - 1) / 2) * 3 + 1]! + 0.5,
  ),
);
const png = encode({ width: 8, height: 4, data: new Uint8Array(128), channels: 4, depth: 8 });
function jobOf(given: Parameters<typeof placementSchema.parse>[0], imageId: string | null = 'i'): { job: Job; part: Part } {
  const part: Part = { id: 'p', name: 'p', mesh, uvSets: [whole], activeUv: 0, imageId, placement: placementSchema.parse(given), origin: { kind: 'made' } };
  return { part, job: { ...newJob('j', 'j', [part]), images: [{ id: 'i', name: 'i.png', type: 'image/png', bytes: png }] } };
}
const energy = (given: object, imageId: string | null = 'i') => {
  const { job, part } = jobOf(given, imageId);
  const { set, width, height } = asImageLands(job, part, whole);
  return stretchFigures(triangleStretch(mesh, set, width, height)).symmetricDirichlet!;
};

describe('stretch as the image lands', () => {
  it('a picture twice as wide as high on a sheet twice as wide as high has none; a square one has', () => {
    expect(energy({})).toBeCloseTo(4, 9);
    // twice as wide as high: singular values √2 and 1/√2 at the common scale, so the energy is 2 + ½ + ½ + 2
    expect(energy({}, null)).toBeCloseTo(5, 9);
  });

  it('even repeats, slides and half turns change nothing; repeats along one side and a quarter turn do', () => {
    expect(energy({ repeats: [3, 3], offset: [0.2, 7], turn: 180 })).toBeCloseTo(4, 9);
    expect(energy({ repeats: [2, 1] })).toBeCloseTo(5, 9);
    // lying on its side the picture is 4 times too narrow: singular values 2 and ½
    expect(energy({ turn: 90 })).toBeCloseTo(8.5, 9);
  });

  it('density: px per unit of each face, of the sheet or of the image as it lands', () => {
    // the sheet's 2048 × 1024 px over 2 × 1 units
    expect([...faceDensity(mesh, whole, 2048, 1024)].every((x) => Math.abs(x - 1024) < 1e-3)).toBe(true);
    const { job, part } = jobOf({ repeats: [3, 3] });
    const landed = asImageLands(job, part, whole);
    expect(landed.px).toEqual({ width: 8, height: 4 });
    // 8 px wide, three times over 2 units
    expect(faceDensity(mesh, landed.set, landed.px!.width, landed.px!.height)[0]).toBeCloseTo(12, 4);
    expect(faceDensity(mesh, { ...whole, unplaced: whole.unplaced.map((_, f) => (f === 2 ? 1 : 0)) }, 8, 8)[2]).toBeNaN();
  });

  it('areas in space and on the sheet', () => {
    expect(layoutAreas(mesh, whole)).toEqual({ area: expect.closeTo(2, 12), uvArea: expect.closeTo(1, 12) });
  });
});

import { describe, expect, it } from 'vitest';
import { layerSchema } from '../images/surface/layer.ts';
import type { Pixels } from '../images/surface/pixels.ts';
import { planSurface } from '../images/surface/plan.ts';
import { Surface } from '../images/surface/surface.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { seamLooks } from './seamLooks.ts';

/** Two squares of one unit side by side, with a seam between them; the right one is on the sheet where `to` says. */
function squares(to: (x: number, y: number) => [number, number], left: (x: number, y: number) => [number, number] = (x, y) => [x / 2, y]) {
  const points = [0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 2, 0, 0, 2, 1, 0];
  const mesh = meshFromFaces(points, [
    [0, 1, 2, 3],
    [1, 4, 5, 2],
  ]);
  const uv = [...[0, 1, 2, 3].map((p) => left(points[p * 3]!, points[p * 3 + 1]!)), ...[1, 4, 5, 2].map((p) => to(points[p * 3]!, points[p * 3 + 1]!))];
  return {
    mesh,
    set: uvSetFrom(
      mesh,
      'UV set 1',
      Uint32Array.from({ length: 8 }, (_, k) => k),
      Float64Array.from(uv.flat()),
    ),
  };
}

/** Grey from black below to white above, 256 px high. */
const ramp: Pixels = { width: 1, height: 256, data: Uint8Array.from({ length: 1024 }, (_, k) => ((k & 3) === 3 ? 255 : 255 - (k >> 2))) };

function looks({ mesh, set }: ReturnType<typeof squares>, layers: object[]) {
  const plan = planSurface({
    mesh,
    sets: [set],
    activeSet: set,
    jigs: new Map(),
    part: 'p',
    layers: layers.map((one, k) => ({
      layer: layerSchema.parse({ id: `l${k}`, name: 'l', source: { kind: 'image', image: 'ramp' }, ...one }),
      material: null,
    })),
  });
  return seamLooks(mesh, set, new Surface(mesh, plan, () => ramp));
}

describe('what is seen on both sides of a seam', () => {
  it('is the same where the picture goes on, also by whole repeats, by another place of the same look, and from three sides', () => {
    for (const to of [(x: number, y: number) => [x / 2, y], (x: number, y: number) => [x / 2 + 3, y], (x: number, y: number) => [x / 2 + 0.37, y]] as ((
      x: number,
      y: number,
    ) => [number, number])[])
      expect(looks(squares(to), [{}])).toEqual([]);
    expect(
      looks(
        squares((x, y) => [x * 7, y * 0.2]),
        [{ driver: { kind: 'triplanar' } }],
      ),
    ).toEqual([]);
  });

  it('differs by as much as the picture does: a ramp that is shifted by a quarter by a quarter of white', () => {
    const inside = (x: number, y: number): [number, number] => [x / 2, 0.1 + y * 0.5];
    const [seam, ...others] = looks(
      squares((x, y) => [x / 2, 0.35 + y * 0.5], inside),
      [{}],
    );
    expect(others).toEqual([]);
    expect(seam!.islands).toEqual([0, 1]);
    expect(seam!.edges).toHaveLength(1);
    expect(seam!.length).toBeCloseTo(1, 9);
    expect(seam!.colour).toBeCloseTo(64, 0);
    expect(seam!.relief).toBe(0);
  });

  it('in relief by its height; what covers it takes the difference away', () => {
    const inside = (x: number, y: number): [number, number] => [x / 2, 0.1 + y * 0.5];
    const form = squares((x, y) => [x / 2, 0.35 + y * 0.5], inside);
    const [seam] = looks(form, [{ to: 'relief', strength: 2 }]);
    expect(seam!.colour).toBe(0);
    expect(seam!.relief).toBeCloseTo((64 / 255) * 2, 2);
    expect(looks(form, [{}, { source: { kind: 'colour', colour: '#336699' } }])).toEqual([]);
  });
});

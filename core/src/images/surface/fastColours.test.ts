import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { makeForm } from '../../mesh/makeForm.ts';
import { trianglesOf } from '../../mesh/triangles.ts';
import { makeJig } from '../../jigs/jig.ts';
import { seededRandom } from '../../numeric/random.ts';
import { uvSetFrom } from '../../uv/uvSet.ts';
import { SurfaceKernel } from './surfaceKernel.ts';
import { FastColours, picturesOf } from './fastColours.ts';
import { layerSchema, type Layer } from './layer.ts';
import { blendModes } from './names.ts';
import type { Pixels } from './pixels.ts';
import { planSurface } from './plan.ts';
import { Surface } from './surface.ts';

const of = <T>(list: readonly T[]) => fc.constantFrom(...list);
const share = fc.double({ min: 0, max: 1, noNaN: true });
const centre = [0, 0, 0] as const;
const fades = [
  { shape: 'linear', from: [-0.4, 0, 0], to: [0.5, 0.3, 0.1] },
  { shape: 'radial', centre, inner: 0.2, outer: 0.6 },
];
const masks: object[][] = [
  [],
  [{ kind: 'faces', faces: [0, 3, 7, 11], soft: 0.05 }],
  [{ kind: 'noise', noise: { seed: 9, size: 0.13, detail: 4 } }],
  [
    { kind: 'fade', fade: fades[0], ragged: 0.7, noise: { seed: 3, size: 0.1, detail: 2 } },
    { kind: 'fade', fade: fades[1], how: 'or', isInverted: true },
  ],
  [
    { kind: 'image', image: 'p', isInverted: true },
    { kind: 'image', image: 'q', channel: 'alpha', placement: { repeats: [2, 3], outsideV: 'mirror' } },
  ],
  [
    { kind: 'each', by: 'island', low: 0.2, high: 0.9 },
    { kind: 'image', image: 'gone' },
  ],
  [{ kind: 'key', colour: '#808080', near: 0.2, soft: 0.3 }],
  [{ kind: 'brush', dabs: [0.3, 0.3, 0.3, 0.5, 0.8] }],
];
const layers = fc.record({
  driver: of<object>([
    { kind: 'set' },
    { kind: 'triplanar', size: 0.37, turn: [10, 20, -70], offset: [0.1, 0.2, -0.05], blend: 0.6 },
    { kind: 'triplanar', size: 3, blend: 0 },
    { kind: 'jig', jig: 'j' },
    { kind: 'decal', centre: [0, 0, 0.5], right: [1, 0, 0], up: [0, 1, 0], size: [0.7, 0.7], depth: 1 },
  ]),
  source: of<object>([
    { kind: 'image', image: 'p' },
    { kind: 'image', image: 'q' },
    { kind: 'image', image: 'q', channel: 'green' },
    { kind: 'image', image: 'gone' },
    { kind: 'colour', colour: '#80a020' },
    { kind: 'noise', noise: { seed: 5, size: 0.2, detail: 3 }, colours: ['#102030', '#f0e0d0'] },
    { kind: 'fade', fade: fades[1], colours: ['#ff8000', '#0040ff'] },
  ]),
  masks: of(masks),
  blend: of(blendModes),
  opacity: share,
  adjust: of<object>([{}, { hue: 40, gamma: 1.4 }, { black: 0.1, white: 0.8, brightness: 1.2, contrast: 1.3 }, { saturation: 0.2, hue: -100 }]),
  placement: of<object>([
    {},
    { turn: 30, repeats: [3, 2], outsideU: 'nothing', outsideV: 'mirror' },
    { offset: [-0.3, 4], outsideU: 'edge', outsideV: 'nothing' },
    { repeats: [300, 200], outsideV: 'mirror' },
  ]),
});

const random = seededRandom(4);
const picture = (width: number, height: number): Pixels => ({ width, height, data: Uint8Array.from({ length: width * height * 4 }, () => 4 + 247 * random()) });
const pictures = new Map([
  ['p', picture(16, 9)],
  ['q', picture(7, 32)],
]);
const jig = makeJig({ kind: 'planar', origin: [0, 0, 0], right: [1, 0, 0], up: [0, 1, 0], size: [0.8, 0.8, 0.8] });

describe('colours of many places by the kernel', () => {
  const { mesh, cornerUv, uv } = makeForm({ kind: 'sphere', width: 1, height: 1, depth: 1, tube: 0.3, segments: 12, rows: 7, lids: true });
  const set = uvSetFrom(mesh, 'UV set 1', cornerUv, uv);
  const surfaceOf = (given: readonly object[]) => {
    const parsed = given.map((one, k): Layer => layerSchema.parse({ id: `l${k}`, name: 'l', ...one }));
    const plan = planSurface({
      mesh,
      sets: [set],
      activeSet: set,
      jigs: new Map([['j', { jig, faces: Uint32Array.from({ length: 40 }, (_, k) => k) }]]),
      layers: parsed.map((layer) => ({ layer, material: null })),
    });
    return new Surface(mesh, plan, (id) => pictures.get(id) ?? null);
  };
  const kernelFor = (surface: Surface) => new FastColours(surface, new SurfaceKernel(picturesOf([surface])));

  it('are those that the surface has place by place', () => {
    const { count } = trianglesOf(mesh);
    let [sum, places] = [0, 0];
    fc.assert(
      fc.property(
        fc.array(layers, { minLength: 1, maxLength: 4 }),
        fc.nat(count - 1),
        fc.array(fc.tuple(share, share), { minLength: 1, maxLength: 21 }),
        (given, triangle, shares) => {
          const surface = surfaceOf(given);
          const fast = kernelFor(surface);
          shares.forEach(([a, b], k) => {
            fast.kernel.shareB[k] = a * (1 - b);
            fast.kernel.shareC[k] = b;
          });
          fast.find(triangle, shares.length);
          const one = new Float64Array(4);
          shares.forEach((_, k) => {
            const [b, c] = [fast.kernel.shareB[k]!, fast.kernel.shareC[k]!];
            surface.at(triangle, 1 - b - c, b, c);
            surface.colour(one);
            for (let channel = 0; channel < 4; channel++) {
              // a colour that is not seen is any
              const off = Math.abs(fast.kernel.out[k * 4 + channel]! - one[channel]!) * (channel < 3 ? one[3]! : 1);
              sum += off;
              places++;
              expect(off, `place ${k}, channel ${channel}: ${fast.kernel.out[k * 4 + channel]} for ${one[channel]}`).toBeLessThan(1e-3);
            }
          });
        },
      ),
      { numRuns: 400 },
    );
    expect(sum / places).toBeLessThan(1e-5);
  });

  it.each(blendModes)('%s of every colour with every other', (blend) => {
    // one picture runs from black to white across, the other up; so do their channels, at other speeds
    const ramp = (isUp: boolean): Pixels => ({
      width: isUp ? 1 : 256,
      height: isUp ? 256 : 1,
      data: Uint8Array.from({ length: 1024 }, (_, k) => [k >> 2, 255 - (k >> 2), Math.min(255, k >> 1), 255][k & 3]!),
    });
    pictures.set('across', ramp(false)).set('up', ramp(true));
    const edges = { outsideU: 'edge', outsideV: 'edge' };
    const surface = surfaceOf([
      { source: { kind: 'image', image: 'across' }, placement: edges },
      { source: { kind: 'image', image: 'up' }, placement: edges, blend },
    ]);
    const fast = kernelFor(surface);
    const one = new Float64Array(4);
    for (let triangle = 0; triangle < trianglesOf(mesh).count; triangle++) {
      for (let k = 0; k < 60; k++) {
        const a = random();
        fast.kernel.shareB[k] = a * (1 - (fast.kernel.shareC[k] = random()));
      }
      fast.find(triangle, 60);
      for (let k = 0; k < 60; k++) {
        surface.at(triangle, 1 - fast.kernel.shareB[k]! - fast.kernel.shareC[k]!, fast.kernel.shareB[k]!, fast.kernel.shareC[k]!);
        surface.colour(one);
        for (let channel = 0; channel < 4; channel++) expect(Math.abs(fast.kernel.out[k * 4 + channel]! - one[channel]!)).toBeLessThan(4e-4);
      }
    }
  });

  it('as many as go in at once, and then fewer: nothing is left over of those before', () => {
    const surface = surfaceOf([{ source: { kind: 'noise' } }, { source: { kind: 'image', image: 'p' }, opacity: 0.5, masks: [{ kind: 'noise' }] }]);
    const fast = kernelFor(surface);
    fast.kernel.shareB.fill(0.3);
    fast.kernel.shareC.fill(0.3);
    fast.find(5, fast.kernel.most);
    const last = [...fast.kernel.out.subarray((fast.kernel.most - 1) * 4)];
    expect([...fast.kernel.out.subarray(0, 4)]).toEqual(last);
    fast.find(5, 3);
    expect([...fast.kernel.out.subarray(8, 12)]).toEqual(last);
  });

  it('a place that is no number harms nothing', () => {
    const fast = kernelFor(surfaceOf([{ source: { kind: 'image', image: 'p' } }, { source: { kind: 'image', image: 'p' }, driver: { kind: 'triplanar' } }]));
    for (const bad of [NaN, Infinity, -Infinity, 1e300]) {
      fast.kernel.shareB.fill(bad);
      fast.kernel.shareC.fill(0.2);
      expect(() => fast.find(0, 8)).not.toThrow();
    }
  });
});

import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { makeJig } from '../../jigs/jig.ts';
import { meshFromFaces } from '../../mesh/mesh.ts';
import { trianglesOf } from '../../mesh/triangles.ts';
import { uvSetFrom } from '../../uv/uvSet.ts';
import { adjustColour, colourMatrix } from './adjust.ts';
import { blendColours, composite } from './blend.ts';
import { brushAt, decalPlace, fadeAt, triplanarPlace, triplanarWeights } from './frames.ts';
import { adjustSchema, driverSchema, layerSchema, noiseSchema, type DecalFrame, type Layer } from './layer.ts';
import { blendModes, mostFields, unadjusted, type BlendMode } from './names.ts';
import { noiseAt } from './noise.ts';
import { samplePixels, type Pixels } from './pixels.ts';
import { chanceOfFaces } from './chance.ts';
import { planSurface, type DriverJig } from './plan.ts';
import { softEdge } from './softEdge.ts';
import { Surface } from './surface.ts';

const out = () => new Float64Array(4);
const blend = (mode: BlendMode, b: number[], s: number[]) => {
  const found = new Float64Array(3);
  blendColours(mode, b, s, found);
  return [...found];
};
const share = fc.double({ min: 0, max: 1, noNaN: true });
const colour = fc.tuple(share, share, share);

describe('blend modes, by the formulas of the W3C’s Compositing and Blending', () => {
  // worked by hand from the text: backdrop 0.25, source 0.8; then backdrop 0.6, source 0.3
  it.each<[BlendMode, number, number]>([
    ['normal', 0.8, 0.3],
    ['multiply', 0.2, 0.18],
    ['screen', 0.85, 0.72],
    ['overlay', 0.4, 0.44],
    ['darken', 0.25, 0.3],
    ['lighten', 0.8, 0.6],
    ['color-dodge', 1, 0.6 / 0.7],
    ['color-burn', 1 - 0.75 / 0.8, 0],
    ['hard-light', 0.7, 0.36],
    // D(0.25) = ((16·0.25 − 12)·0.25 + 4)·0.25 = 0.5
    ['soft-light', 0.25 + 0.6 * 0.25, 0.6 - 0.4 * 0.6 * 0.4],
    ['difference', 0.55, 0.3],
    ['exclusion', 0.65, 0.54],
  ])('%s', (mode, first, second) => {
    expect(blend(mode, [0.25, 0.25, 0.25], [0.8, 0.8, 0.8])[1]).toBeCloseTo(first, 12);
    expect(blend(mode, [0.6, 0.6, 0.6], [0.3, 0.3, 0.3])[2]).toBeCloseTo(second, 12);
  });

  it('luminosity and colour change places; hue of a grey is grey', () => {
    fc.assert(
      fc.property(colour, colour, (b, s) => {
        const lum = ([r, g, x]: number[]) => 0.3 * r! + 0.59 * g! + 0.11 * x!;
        expect(lum(blend('color', b, s))).toBeCloseTo(lum(b), 9);
        expect(lum(blend('luminosity', b, s))).toBeCloseTo(lum(s), 9);
        expect(blend('luminosity', b, s).map((x) => x.toFixed(9))).toEqual(blend('color', s, b).map((x) => x.toFixed(9)));
      }),
    );
    const [r, g, b] = blend('hue', [0.5, 0.5, 0.5], [1, 0, 0]);
    for (const x of [r, g, b]) expect(x).toBeCloseTo(0.5, 12);
  });

  it('stay within 0 to 1, change nothing at alpha 0; a normal one at 1 is the source; difference with itself is black', () => {
    fc.assert(
      fc.property(fc.constantFrom(...blendModes), colour, colour, share, (mode, b, s, alpha) => {
        const under = Float64Array.from([...b, 1]);
        composite(mode, under, s, 0);
        expect([...under]).toEqual([...b, 1]);
        composite(mode, under, s, alpha);
        for (const x of under) expect(x).toBeGreaterThanOrEqual(-1e-9);
        for (const x of under) expect(x).toBeLessThanOrEqual(1 + 1e-9);
        const same = Float64Array.from([...s, 1]);
        composite('difference', same, s, 1);
        expect(Math.max(...same.subarray(0, 3))).toBeLessThan(1e-12);
        const whole = Float64Array.from([...b, 1]);
        composite('normal', whole, s, 1);
        expect([...whole]).toEqual([...s, 1]);
      }),
    );
  });

  it('over nothing every mode is the source itself', () => {
    for (const mode of blendModes) {
      const under = out();
      composite(mode, under, [0.2, 0.5, 0.9], 0.4);
      expect([...under].map((x) => x.toFixed(9))).toEqual(['0.200000000', '0.500000000', '0.900000000', '0.400000000']);
    }
  });
});

describe('adjustments', () => {
  const adjusted = (given: object, rgb: number[]) => {
    const a = adjustSchema.parse(given);
    const c = Float64Array.from(rgb);
    adjustColour(a, colourMatrix(a), c);
    return [...c];
  };
  it('as the W3C’s filter effects: none changes nothing, saturation 0 is grey, a whole turn of hue is none', () => {
    expect(adjusted({}, [0.2, 0.5, 0.7])).toEqual([0.2, 0.5, 0.7]);
    const [r, g, b] = adjusted({ saturation: 0 }, [0.2, 0.5, 0.7]);
    expect([r, g]).toEqual([expect.closeTo(0.213 * 0.2 + 0.715 * 0.5 + 0.072 * 0.7, 9), expect.closeTo(r!, 9)]);
    expect(b).toBeCloseTo(r!, 9);
    adjusted({ hue: 360 }, [0.2, 0.5, 0.7]).forEach((x, k) => expect(x).toBeCloseTo([0.2, 0.5, 0.7][k]!, 9));
    expect(adjusted({ brightness: 2, contrast: 0.5 }, [0.2, 0.4, 0.9]).map((x) => Number(x.toFixed(9)))).toEqual([0.45, 0.65, 0.75]);
    expect(adjusted({ black: 0.2, white: 0.6, gamma: 2 }, [0.1, 0.4, 0.7])).toEqual([0, expect.closeTo(Math.sqrt(0.5), 14), 1]);
  });
  it('red turned by 120° of hue: the row sums of the text’s matrix stay 1, so that grey stays grey', () => {
    const m = colourMatrix({ ...unadjusted, hue: 120, saturation: 1.7 });
    for (let r = 0; r < 3; r++) expect(m[r * 3]! + m[r * 3 + 1]! + m[r * 3 + 2]!).toBeCloseTo(1, 9);
  });
});

/** Px with values that tell where they are. */
const picture = (width: number, height: number): Pixels => ({
  width,
  height,
  data: Uint8Array.from({ length: width * height * 4 }, (_, k) =>
    k % 4 === 3 ? 255 : (((k >> 2) % width) * 40 + Math.floor((k >> 2) / width) * 7 + (k % 4) * 3) % 256,
  ),
});

describe('pictures between their px', () => {
  const image = picture(4, 2);
  const at = (u: number, v: number, outside: 'repeat' | 'mirror' | 'edge' | 'nothing' = 'repeat') => {
    const found = out();
    samplePixels(image, u, v, outside, outside, found);
    return [...found].map((x) => x * 255);
  };
  it('the middle of a px is that px; first row on top, v up', () => {
    expect(at(0.125, 0.75)[0]).toBeCloseTo(0, 9);
    expect(at(0.375, 0.25)[0]).toBeCloseTo(47, 9);
    expect(at(0.25, 0.75)[0]).toBeCloseTo(20, 9);
  });
  it('outside: repeats over the border, mirrors, holds the edge, ends', () => {
    expect(at(0, 0.75)[0]).toBeCloseTo(60, 9);
    expect(at(1.125, 0.75)).toEqual(at(0.125, 0.75));
    expect(at(1.125, 0.75, 'mirror')).toEqual(at(0.875, 0.75, 'mirror'));
    expect(at(7, 0.75, 'edge')[0]).toBeCloseTo(120, 9);
    expect(at(1.01, 0.75, 'nothing')).toEqual([0, 0, 0, 0]);
    expect(at(0.99, 0.75, 'nothing')[3]).toBeCloseTo(255, 9);
  });
});

describe('places in space', () => {
  it('shares of three sides add up to 1, and the steepest has most', () => {
    fc.assert(
      fc.property(share, colour, (width, [x, y, z]) => {
        const w = new Float64Array(3);
        triplanarWeights(width, x, -y, z, w);
        expect(w[0]! + w[1]! + w[2]!).toBeCloseTo(1, 9);
        const most = Math.max(x, y, z);
        if (most > 0) expect(w[[x, y, z].indexOf(most)]).toBeCloseTo(Math.max(...w), 12);
      }),
    );
  });
  it('seen from each of six sides the picture runs to the right and up', () => {
    const tri = driverSchema.parse({ kind: 'triplanar', size: 2 }) as Extract<Layer['driver'], { kind: 'triplanar' }>;
    const seen = (axis: 0 | 1 | 2, sign: number, p: [number, number, number]) => {
      const uv = new Float64Array(3);
      triplanarPlace(tri, axis, sign, ...p, 0.5, uv);
      return [uv[0]! + 0, uv[1]! + 0];
    };
    // by hand: right of each side as one stands before it, y up; on top and below with the front towards one
    expect(seen(2, 1, [1, 1, 0])).toEqual([0.5, 1]);
    expect(seen(2, -1, [-1, 1, 0])).toEqual([0.5, 1]);
    expect(seen(0, 1, [0, 1, -1])).toEqual([0.5, 1]);
    expect(seen(0, -1, [0, 1, 1])).toEqual([0.5, 1]);
    expect(seen(1, 1, [1, 0, -1])).toEqual([0.5, 1]);
    expect(seen(1, -1, [1, 0, 1])).toEqual([0.5, 1]);
  });
  it('a decal is flat, ends at its sides, at its depth and where the surface turns away; bent, its width runs round', () => {
    const frame: DecalFrame = { kind: 'decal', centre: [0, 0, 1], right: [1, 0, 0], up: [0, 1, 0], size: [2, 1], depth: 0.2, facing: 60, bend: 0 };
    const on = (f: DecalFrame, p: [number, number, number], n: [number, number, number] = [0, 0, 1]) => {
      const uv = new Float64Array(3);
      decalPlace(f, ...p, ...n, uv);
      return [...uv];
    };
    expect(on(frame, [0.5, 0.25, 1])).toEqual([0.75, 0.75, 1]);
    expect(on(frame, [1.1, 0, 1])[2]).toBe(0);
    expect(on(frame, [0, 0, 1.3])[2]).toBe(0);
    expect(on(frame, [0, 0, 1], [1, 0, 0.5])[2]).toBe(0);
    // behind: the other side of a thin thing looks away
    expect(on(frame, [0, 0, 0.9], [0, 0, -1])[2]).toBe(0);
    // round a tube of radius 1 about y: 180° are an arc of π
    const round: DecalFrame = { ...frame, size: [Math.PI, 1], bend: 180 };
    const angle = Math.PI / 3;
    const [u, , alpha] = on(round, [Math.sin(angle), 0, Math.cos(angle)], [Math.sin(angle), 0, Math.cos(angle)]);
    expect(u).toBeCloseTo(0.5 + angle / Math.PI, 12);
    expect(alpha).toBe(1);
  });
  it('fades run from 1 to 0; dabs go over one another', () => {
    expect([-1, 0, 0.5, 1, 2].map((x) => fadeAt({ shape: 'linear', from: [0, 0, 0], to: [1, 0, 0] }, x, 5, 5))).toEqual([1, 1, 0.5, 0, 0]);
    expect([0, 1, 2, 3].map((x) => fadeAt({ shape: 'radial', centre: [0, 0, 0], inner: 1, outer: 3 }, 0, x, 0))).toEqual([1, 1, 0.5, 0]);
    expect(brushAt([0, 0, 0, 1, 1], 0, 0, 0)).toBe(1);
    expect(brushAt([0, 0, 0, 1, 1, 0, 0, 0, 1, -0.5], 0, 0, 0)).toBe(0.5);
    expect(brushAt([0, 0, 0, 1, 1], 0, 1.01, 0)).toBe(0);
  });
  it('noise is from 0 to 1, the same for a seed, another for another, and has no jumps', () => {
    const noise = noiseSchema.parse({ seed: 3, size: 0.7, detail: 4 });
    fc.assert(
      fc.property(fc.double({ min: -50, max: 50, noNaN: true }), fc.double({ min: -50, max: 50, noNaN: true }), (x, y) => {
        const value = noiseAt(noise, x, y, 1);
        expect(value).toBeGreaterThanOrEqual(0);
        expect(value).toBeLessThanOrEqual(1);
        expect(noiseAt(noise, x, y, 1)).toBe(value);
        expect(Math.abs(noiseAt(noise, x + 1e-6, y, 1) - value)).toBeLessThan(1e-4);
      }),
    );
    expect(noiseAt({ ...noise, seed: 4 }, 1.3, 0.2, 0)).not.toBe(noiseAt(noise, 1.3, 0.2, 0));
  });
});

describe('a surface', () => {
  // a square of 2 units in the xy plane, two quads side by side; the UVs fill the square once
  const mesh = {
    ...meshFromFaces(
      [0, 0, 0, 1, 0, 0, 2, 0, 0, 0, 2, 0, 1, 2, 0, 2, 2, 0],
      [
        [0, 1, 4, 3],
        [1, 2, 5, 4],
      ],
    ),
    materials: ['a', 'b'],
    faceMaterial: Int32Array.of(0, 1),
  };
  const set = uvSetFrom(
    mesh,
    'UV set 1',
    mesh.corners.slice(),
    Float64Array.from({ length: 12 }, (_, k) => mesh.points[(k >> 1) * 3 + (k % 2)]! / 2),
  );
  const image = picture(8, 8);
  const layer = (given: object): Layer => layerSchema.parse({ id: 'l', name: 'l', source: { kind: 'image', image: 'p' }, ...given });
  const surface = (layers: object[], jigs: [string, DriverJig][] = []) =>
    new Surface(
      mesh,
      planSurface({ mesh, sets: [set], activeSet: set, jigs: new Map(jigs), layers: layers.map((one) => ({ layer: layer(one), material: null })) }),
      () => image,
    );
  /** At a place of the plane. */
  const go = (one: Surface, x: number, y: number) => {
    const { corners, count } = trianglesOf(mesh);
    for (let t = 0; t < count; t++) {
      const p = [0, 1, 2].map((k) => mesh.corners[corners[t * 3 + k]!]! * 3);
      const [ax, ay] = [mesh.points[p[0]!]!, mesh.points[p[0]! + 1]!];
      const [bx, by] = [mesh.points[p[1]!]! - ax, mesh.points[p[1]! + 1]! - ay];
      const [cx, cy] = [mesh.points[p[2]!]! - ax, mesh.points[p[2]! + 1]! - ay];
      const area = bx * cy - cx * by;
      const [wb, wc] = [((x - ax) * cy - cx * (y - ay)) / area, (bx * (y - ay) - (x - ax) * by) / area];
      if (wb >= 0 && wc >= 0 && wb + wc <= 1) {
        one.at(t, 1 - wb - wc, wb, wc);
        return one;
      }
    }
    throw new Error('not on the plane');
  };
  const colourOf = (one: Surface, x: number, y: number) => {
    const found = out();
    go(one, x, y).colour(found);
    return [...found];
  };
  const texel = (u: number, v: number) => {
    const found = out();
    samplePixels(image, u, v, 'repeat', 'repeat', found);
    return [...found];
  };

  it('shows a picture where its UVs, a jig or three sides have it', () => {
    const [x, y] = [0.7, 1.3];
    expect(colourOf(surface([{}]), x, y).map((v) => v.toFixed(9))).toEqual(texel(x / 2, y / 2).map((v) => v.toFixed(9)));
    const jig = makeJig({ kind: 'planar', origin: [1, 1, 0], right: [1, 0, 0], up: [0, 1, 0], size: [2, 2, 2] });
    const byJig = surface([{ driver: { kind: 'jig', jig: 'j' } }], [['j', { jig, faces: null }]]);
    expect(colourOf(byJig, x, y)[0]).toBeCloseTo(texel(x / 2, y / 2)[0]!, 9);
    const bySides = surface([{ driver: { kind: 'triplanar', size: 4 } }]);
    expect(colourOf(bySides, x, y)[0]).toBeCloseTo(texel(x / 4, y / 4)[0]!, 9);
    // a jig that drives one of the faces shows nothing on the other
    const half = surface([{ driver: { kind: 'jig', jig: 'j' } }], [['j', { jig, faces: Uint32Array.of(0) }]]);
    expect(colourOf(half, 1.5, 1)[3]).toBe(0);
    expect(surface([{ driver: { kind: 'jig', jig: 'gone' } }]).names).toHaveLength(0);
  });

  it('a colour, a fade and noise are on faces without UVs, too; a picture, a mask by one, and what a jig drives are not', () => {
    const bare = { ...set, unplaced: Uint8Array.of(0, 1) };
    const jig = makeJig({ kind: 'planar', origin: [1, 1, 0], right: [1, 0, 0], up: [0, 1, 0], size: [2, 2, 2] });
    const alpha = (given: object, x: number) => {
      const layers = [{ layer: layer(given), material: null }];
      const jigs = new Map([['j', { jig, faces: Uint32Array.of(0) }]]);
      return colourOf(new Surface(mesh, planSurface({ mesh, sets: [bare], activeSet: bare, jigs, layers }), () => image), x, 1)[3]!;
    };
    const both = (given: object) => [alpha(given, 0.5), alpha(given, 1.5)].map((x) => (x > 0 ? 1 : 0));
    const colour = { kind: 'colour', colour: '#ffffff' };
    expect(both({ source: colour })).toEqual([1, 1]);
    expect(both({ source: { kind: 'noise' }, masks: [{ kind: 'faces', faces: [0, 1] }] })).toEqual([1, 1]);
    expect(both({})).toEqual([1, 0]);
    expect(both({ source: { kind: 'grid' } })).toEqual([1, 0]);
    expect(both({ source: colour, masks: [{ kind: 'image', image: 'p' }] })).toEqual([1, 0]);
    expect(both({ source: colour, driver: { kind: 'jig', jig: 'j' } })).toEqual([1, 0]);
  });

  it('masks: chosen faces, a material, a fade, noise, an image; inverted, both or either', () => {
    const plain = { source: { kind: 'colour', colour: '#ffffff' } };
    const alpha = (masks: object[], x: number, y = 1) => colourOf(surface([{ ...plain, masks }]), x, y)[3]!;
    expect([alpha([{ kind: 'faces', faces: [1] }], 0.5), alpha([{ kind: 'faces', faces: [1] }], 1.5)]).toEqual([0, 1]);
    expect(alpha([{ kind: 'material', material: 'b', isInverted: true }], 0.5)).toBe(1);
    const fade = { kind: 'fade', fade: { shape: 'linear', from: [0, 0, 0], to: [2, 0, 0] } };
    expect(alpha([fade], 1)).toBeCloseTo(0.5, 9);
    expect(alpha([fade, { ...fade, isInverted: true }], 1)).toBeCloseTo(0.25, 9);
    expect(alpha([fade, { kind: 'faces', faces: [1], how: 'or' }], 1.5)).toBe(1);
    // of lightness, at the place where the layer would show the picture
    const light = 0.213 * texel(0.25, 0.5)[0]! + 0.715 * texel(0.25, 0.5)[1]! + 0.072 * texel(0.25, 0.5)[2]!;
    expect(alpha([{ kind: 'image', image: 'p' }], 0.5)).toBeCloseTo(light, 9);
    expect(go(surface([{ ...plain, opacity: 0.5, masks: [fade] }]), 1, 1).maskAt(0)).toBeCloseTo(0.5, 9);
  });

  it('without a colour: what is near it is gone, by its distance as a share of that of white from black; softly, or the other way round', () => {
    const grey = (level: number): Pixels => ({ width: 1, height: 1, data: Uint8Array.of(level, level, level, 255) });
    const alpha = (pixels: Pixels | null, mask: object, more: object = {}) => {
      const one = new Surface(
        mesh,
        planSurface({
          mesh,
          sets: [set],
          activeSet: set,
          jigs: new Map(),
          layers: [{ layer: layer({ masks: [{ kind: 'key', ...mask }], ...more }), material: null }],
        }),
        () => pixels,
      );
      return colourOf(one, 0.7, 1.3)[3]!;
    };
    // grey 102 is 0.6 of the way from white to black: half of the soft part from 0.4 to 0.8
    const half = { colour: '#ffffff', near: 0.4, soft: 0.4 };
    expect(alpha(grey(102), half)).toBeCloseTo(0.5, 9);
    expect(alpha(grey(102), { ...half, isInverted: true, near: 0.5 })).toBeCloseTo(0.75, 9);
    expect([alpha(grey(255), half), alpha(grey(153), half), alpha(grey(51), half), alpha(grey(0), half)].map((x) => Math.round(x * 1e9) / 1e9)).toEqual([
      0, 0, 1, 1,
    ]);
    // one channel alone away: a third of the square of the distance
    expect(alpha({ width: 1, height: 1, data: Uint8Array.of(255, 0, 255, 255) }, { colour: '#ffffff', near: 0.5, soft: 0.1 })).toBeCloseTo(
      (Math.sqrt(1 / 3) - 0.5) / 0.1,
      9,
    );
    // hard where nothing is soft; at its own place on each driver
    expect([alpha(grey(130), { colour: '#808080', near: 0.01, soft: 0 }), alpha(grey(140), { colour: '#808080', near: 0.01, soft: 0 })]).toEqual([0, 1]);
    expect(alpha(grey(102), half, { driver: { kind: 'triplanar', size: 3 } })).toBeCloseTo(0.5, 9);
    // a plain colour has no background
    expect(alpha(null, { colour: '#ffffff' }, { source: { kind: 'colour', colour: '#ffffff' } })).toBe(1);
  });

  it('by chance: one value all over an island, a piece or a part, spread evenly from low to high, other ones for another seed or part', () => {
    // 400 quads apart in space; on the sheet four and four make an island
    const points = Array.from({ length: 400 }, (_, q) => [0, 1, 2, 3].flatMap((k) => [q * 2 + (k === 1 || k === 2 ? 1 : 0), k > 1 ? 1 : 0, 0])).flat();
    const apart = meshFromFaces(
      points,
      Array.from({ length: 400 }, (_, q) => [0, 1, 2, 3].map((k) => q * 4 + k)),
    );
    const flat = uvSetFrom(
      apart,
      'UV',
      apart.corners.slice(),
      Float64Array.from({ length: 3200 }, (_, k) => apart.points[(k >> 1) * 3 + (k % 2)]! / 800),
    );
    const shared = { isInverted: false, how: 'and' as const };
    const values = (more: object, part = 'part-1') => [
      ...chanceOfFaces(apart, flat, { kind: 'each', by: 'piece', seed: 1, low: 0, high: 1, ...shared, ...more }, part),
    ];
    const pieces = values({});
    expect(new Set(pieces).size).toBe(400);
    const mean = pieces.reduce((a, b) => a + b) / 400;
    // of an even spread: mean 1/2 and variance 1/12; three standard errors of each
    expect(Math.abs(mean - 0.5)).toBeLessThan(3 / Math.sqrt(12 * 400));
    const variance = pieces.reduce((sum, x) => sum + (x - mean) ** 2, 0) / 399;
    expect(Math.abs(variance - 1 / 12)).toBeLessThan(3 / Math.sqrt(180 * 400));
    expect(values({})).toEqual(pieces);
    for (const other of [values({ seed: 2 }), values({}, 'part-2')]) expect(other.filter((x, k) => Math.abs(x - pieces[k]!) < 1e-3).length).toBeLessThan(10);
    const narrow = values({ low: 0.25, high: 0.5 });
    narrow.forEach((x, k) => expect(x).toBeCloseTo(0.25 + pieces[k]! / 4, 12));
    expect(new Set(values({ by: 'part' })).size).toBe(1);
    // an island that goes changes no other one's value
    const fewer = { ...flat, unplaced: flat.unplaced.map((_, f) => (f === 0 ? 1 : 0)) };
    const islands = chanceOfFaces(apart, flat, { kind: 'each', by: 'island', seed: 1, low: 0, high: 1, ...shared }, '');
    const left = chanceOfFaces(apart, fewer, { kind: 'each', by: 'island', seed: 1, low: 0, high: 1, ...shared }, '');
    expect([...left.slice(1)]).toEqual([...islands.slice(1)]);
    // and what is shown by it
    const one = surface([{ source: { kind: 'colour', colour: '#ffffff' }, masks: [{ kind: 'each', by: 'part', seed: 3 }] }]);
    const [value] = chanceOfFaces(mesh, set, { kind: 'each', by: 'part', seed: 3, low: 0, high: 1, ...shared }, '');
    for (const x of [0.5, 1.5]) expect(colourOf(one, x, 1)[3]).toBeCloseTo(value!, 12);
  });

  it('a soft edge rises inward over the length that was asked for', () => {
    const strip = meshFromFaces(
      Array.from({ length: 22 }, (_, k) => [k >> 1, k % 2, 0]).flat(),
      Array.from({ length: 10 }, (_, k) => [k * 2, k * 2 + 2, k * 2 + 3, k * 2 + 1]),
    );
    const [field] = softEdge(strip, (f) => f >= 4, 3);
    const atX = (x: number) => [...strip.corners.keys()].filter((c) => strip.points[strip.corners[c]! * 3] === x).map((c) => Math.min(1, field![c]!));
    expect(Math.max(...atX(3))).toBe(0);
    // at the border itself, and 1, 2, 3 units in
    expect([4, 5, 6, 7, 9].map((x) => Math.max(...atX(x)).toFixed(6))).toEqual(['0.000000', '0.333333', '0.666667', '1.000000', '1.000000']);
  });

  /** A mask of some faces at places of them by shares of their triangles' corners: the place, and what the mask says there. */
  const softAt = (of: ReturnType<typeof meshFromFaces>, faces: number[], soft: number, layers = 1) => {
    const own = uvSetFrom(of, 'own', of.corners.slice(), new Float64Array((of.points.length / 3) * 2));
    const mask = { kind: 'faces', faces, soft };
    const stack = Array.from({ length: layers }, (_, k) =>
      layer({ source: { kind: 'colour', colour: '#ffffff' }, masks: [{ ...mask, soft: soft * (1 + k * 1e-9) }] }),
    );
    const plan = planSurface({ mesh: of, sets: [own], activeSet: own, jigs: new Map(), layers: stack.map((one) => ({ layer: one, material: null })) });
    const one = new Surface(of, plan, () => null);
    const { count, face } = trianglesOf(of);
    const wanted = new Set(faces);
    return Array.from({ length: count }, (_, t) => t).flatMap((t) =>
      wanted.has(face[t]!)
        ? [
            [0.2, 0.3, 0.5],
            [0.7, 0.2, 0.1],
            [0.05, 0.9, 0.05],
            [0.34, 0.33, 0.33],
          ].map(([a, b, c]) => {
            one.at(t, a!, b!, c!);
            return { place: [...one.position], value: one.maskAt(0) };
          })
        : [],
    );
  };

  it('a soft edge of one large face is as wide as it was asked for: the exact distance from its sides', () => {
    // the top of a block of 4 × 1 units, among its other faces
    const block = meshFromFaces(
      [0, 0, 0, 4, 0, 0, 4, 1, 0, 0, 1, 0, 0, 0, 1, 4, 0, 1, 4, 1, 1, 0, 1, 1],
      [
        [4, 5, 6, 7],
        [0, 3, 2, 1],
        [0, 1, 5, 4],
        [1, 2, 6, 5],
        [2, 3, 7, 6],
        [3, 0, 4, 7],
      ],
    );
    for (const { place, value } of softAt(block, [0], 0.4))
      expect(value).toBeCloseTo(Math.min(1, Math.min(place[0]!, 4 - place[0]!, place[1]!, 1 - place[1]!) / 0.4), 9);
    // of more than the graphics take, one number a corner is left: nowhere further in than it is
    for (const { place, value } of softAt(block, [0], 0.4, 7))
      expect(value).toBeLessThanOrEqual(Math.min(1, Math.min(place[0]!, 4 - place[0]!, place[1]!, 1 - place[1]!) / 0.4) + 1e-6);
  });

  it('a soft edge over many faces is that distance, too, whatever the faces are cut into', () => {
    const at = (n: number, i: number, j: number) => i * (n + 1) + j;
    const sheet = (n: number, isCut: boolean) =>
      meshFromFaces(
        Array.from({ length: (n + 1) ** 2 }, (_, k) => [Math.floor(k / (n + 1)), k % (n + 1), 0]).flat(),
        Array.from({ length: n * n }, (_, k) => [Math.floor(k / n), k % n] as const).flatMap(([i, j]) => {
          const quad = [at(n, i, j), at(n, i + 1, j), at(n, i + 1, j + 1), at(n, i, j + 1)];
          return isCut ? [quad.slice(0, 3), [quad[0]!, quad[2]!, quad[3]!]] : [quad];
        }),
      );
    for (const isCut of [false, true]) {
      const n = 12;
      const inside = Array.from({ length: n * n }, (_, k) => k).filter((k) => k % n >= 3 && k % n < 9 && Math.floor(k / n) >= 2 && Math.floor(k / n) < 11);
      const faces = isCut ? inside.flatMap((k) => [k * 2, k * 2 + 1]) : inside;
      const errors = softAt(sheet(n, isCut), faces, 2.5).map(({ place: [x, y], value }) =>
        Math.abs(value - Math.min(1, Math.min(x! - 2, 11 - x!, y! - 3, 9 - y!) / 2.5)),
      );
      // along diagonals of the faces it is a little further than straight
      expect(Math.max(...errors)).toBeLessThan(0.21);
      expect(errors.reduce((sum, x) => sum + x, 0) / errors.length).toBeLessThan(0.03);
    }
  });

  it('a soft edge of a round face runs round it, and masks of many layers stay within what the graphics draw', () => {
    const sides = 24;
    const rim = Array.from({ length: sides }, (_, k) => [Math.cos((k * 2 * Math.PI) / sides), Math.sin((k * 2 * Math.PI) / sides), 0]);
    const cap = meshFromFaces(
      [...rim.flat(), ...rim.flatMap(([x, y]) => [x!, y!, -1])],
      [Array.from({ length: sides }, (_, k) => k), ...Array.from({ length: sides }, (_, k) => [k, k + sides, ((k + 1) % sides) + sides, (k + 1) % sides])],
    );
    for (const { place, value } of softAt(cap, [0], 0.4))
      expect(Math.abs(value - Math.min(1, (1 - Math.hypot(place[0]!, place[1]!)) / 0.4))).toBeLessThan(0.13);
    const own = uvSetFrom(cap, 'own', cap.corners.slice(), new Float64Array(sides * 4));
    const stack = Array.from({ length: 8 }, (_, k) =>
      layer({
        masks: [
          { kind: 'faces', faces: [0], soft: 0.1 + k / 10 },
          { kind: 'each', by: 'part', seed: k },
        ],
      }),
    );
    for (const count of [1, 2, 3, 5, 8]) {
      const layers = stack.slice(0, count).map((one) => ({ layer: one, material: null }));
      const plan = planSurface({ mesh: cap, sets: [own], activeSet: own, jigs: new Map(), layers });
      expect(plan.fields.length).toBeLessThanOrEqual(mostFields);
    }
  });

  it('a notch in a face hides nothing of it beyond the notch', () => {
    // an L, and what is beside it all round is another face
    const l = meshFromFaces(
      [0, 0, 0, 2, 0, 0, 2, 1, 0, 1, 1, 0, 1, 2, 0, 0, 2, 0, 2, 2, 0],
      [
        [0, 1, 2, 3, 4, 5],
        [2, 6, 4, 3],
      ],
    );
    const found = softAt(l, [0], 0.5);
    expect(found.filter(({ place }) => place[0]! < 0.5 && place[1]! < 0.5).length).toBeGreaterThan(0);
    for (const { place, value } of found) if (place[0]! < 0.4 && place[1]! < 0.4) expect(value).toBeGreaterThan(0.5);
  });

  it('relief: lightness times strength, mixed or added', () => {
    const white = { to: 'relief', source: { kind: 'colour', colour: '#ffffff' } };
    expect(go(surface([{ ...white, strength: 2 }]), 1, 1).relief()).toBeCloseTo(2, 9);
    expect(
      go(
        surface([
          { ...white, strength: 2 },
          { ...white, strength: 1, opacity: 0.25 },
        ]),
        1,
        1,
      ).relief(),
    ).toBeCloseTo(1.75, 9);
    expect(
      go(
        surface([
          { ...white, strength: 2 },
          { ...white, strength: 1, opacity: 0.25, isAdded: true },
        ]),
        1,
        1,
      ).relief(),
    ).toBeCloseTo(2.25, 9);
  });

  it('a layer that is off or at opacity 0 changes nothing', () => {
    const before = colourOf(surface([{}]), 0.3, 0.4);
    for (const more of [{ isOn: false }, { opacity: 0 }])
      expect(colourOf(surface([{}, { source: { kind: 'noise' }, blend: 'difference', ...more }]), 0.3, 0.4)).toEqual(before);
  });
});

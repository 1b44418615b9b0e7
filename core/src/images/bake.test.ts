import fc from 'fast-check';
import { generateTangents } from 'mikktspace';
import { PNG } from 'pngjs';
import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { quietContext } from '../context.ts';
import { makeForm } from '../mesh/makeForm.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { TriangleTree } from '../mesh/triangleTree.ts';
import { seededRandom } from '../numeric/random.ts';
import { uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import type { BakeOptions } from './bakeKinds.ts';
import { bakeBands, finishBake, sharedCanvas, type BakeCanvas, type BakeInput } from './bakeBands.ts';
import { bleedAll, bleedNearest } from './bleed.ts';
import { shadingNormals } from './shadingNormals.ts';
import { asItLies } from './placement.ts';
import { layerSchema } from './surface/layer.ts';
import { cornerTangents } from './tangents.ts';

const options: BakeOptions = { what: 'colour', width: 32, height: 32, samples: 1, tile: [0, 0], depth: 8, range: 1, reach: 1, rays: 64 };

/** A square of one unit in the xy plane of n × n quads; UVs as they are, or as `to` puts them. */
function plane(n: number, to: (x: number, y: number) => [number, number] = (x, y) => [x, y], z: (x: number, y: number) => number = () => 0) {
  const at = (i: number, j: number) => j * (n + 1) + i;
  const points: number[] = [];
  for (let j = 0; j <= n; j++) for (let i = 0; i <= n; i++) points.push(i / n, j / n, z(i / n, j / n));
  const faces: number[][] = [];
  for (let j = 0; j < n; j++) for (let i = 0; i < n; i++) faces.push([at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]);
  const mesh = meshFromFaces(points, faces);
  const uv = Float64Array.from({ length: (points.length / 3) * 2 });
  for (let p = 0; p < uv.length / 2; p++) uv.set(to(points[p * 3]!, points[p * 3 + 1]!), p * 2);
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

const inputOf = (form: { mesh: Mesh; set: UvSet }, layers: object[] = [{}]) => ({
  mesh: form.mesh,
  sets: [form.set],
  activeSet: form.set,
  jigs: new Map(),
  layers: layers.map((one) => ({ layer: layerSchema.parse({ id: 'l', name: 'l', source: { kind: 'image', image: 'p' }, ...one }), material: null })),
});

async function baked(
  form: { mesh: Mesh; set: UvSet },
  given: Partial<BakeOptions>,
  image?: Uint8Array,
  more: Partial<BakeInput['parts'][0]> = {},
  layers?: object[],
  bleed: number | 'full' = 0,
) {
  const own = { ...options, ...given };
  const input: BakeInput = {
    parts: [{ input: inputOf(form, layers), set: form.set, ...more }],
    around: [],
    images: image ? [{ id: 'p', name: 'p.png', bytes: image }] : [],
    options: own,
  };
  return finishBake(await bakeBands(input), own, bleed);
}

/** A smooth picture. */
const smooth = (size: number) => {
  const data = new Uint8Array(size * size * 3);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) data.set([128 + 100 * Math.sin((x / size) * 9), 128 + 100 * Math.cos((y / size) * 7), (255 * x) / size], (y * size + x) * 3);
  return encode({ width: size, height: size, data, channels: 3, depth: 8 });
};

describe('baking', () => {
  it('into the UV set that the picture comes from gives the same px; read by a second decoder', async () => {
    const image = smooth(32);
    const picture = await baked(plane(5), {}, image);
    expect(picture).toMatchObject({ channels: 3, coverage: 1, contested: 0 });
    const file = encode({ width: 32, height: 32, data: picture.data, channels: 3, depth: 8 });
    const read = PNG.sync.read(Buffer.from(file));
    const original = PNG.sync.read(Buffer.from(image));
    expect(Buffer.compare(read.data, original.data)).toBe(0);
  });

  it('into another layout and shown there, is what was seen before: at least 40 dB away from the borders', async () => {
    const image = smooth(256);
    const turned = (x: number, y: number): [number, number] => [0.1 + 0.7 * y, 0.9 - 0.7 * x];
    const before = plane(4);
    const after = plane(4, turned);
    const there = await baked({ mesh: before.mesh, set: before.set }, { width: 256, height: 256, samples: 4 }, image, { set: after.set }, undefined, 8);
    const file = encode({ width: 256, height: 256, data: there.data, channels: there.channels, depth: 8 });
    // back again: what the new layout shows, laid out as the old one
    const back = await baked({ mesh: before.mesh, set: after.set }, { width: 256, height: 256, samples: 4 }, file, { set: before.set });
    const original = PNG.sync.read(Buffer.from(image)).data;
    let sum = 0;
    let count = 0;
    for (let y = 4; y < 252; y++)
      for (let x = 4; x < 252; x++)
        for (let c = 0; c < 3; c++) {
          sum += (back.data[(y * 256 + x) * back.channels + c]! - original[(y * 256 + x) * 4 + c]!) ** 2;
          count++;
        }
    expect(10 * Math.log10(255 ** 2 / (sum / count))).toBeGreaterThan(40);
  });

  it('from another mesh by its nearest surface: a finer one with another layout takes the picture over', async () => {
    const image = smooth(128);
    const source = plane(3);
    const target = plane(
      7,
      (x, y) => [0.5 * x, 0.5 + 0.5 * y],
      () => 0.01,
    );
    const there = await baked(target, { width: 128, height: 128 }, image, { source: { input: inputOf(source), within: 0.1 } }, []);
    const original = PNG.sync.read(Buffer.from(image)).data;
    // the upper left quarter is the picture at half its size
    for (const [x, y] of [
      [10, 10],
      [40, 20],
      [30, 50],
    ] as const) {
      const at = (y * 128 + x) * there.channels;
      const from = (2 * y * 128 + 2 * x) * 4;
      for (let c = 0; c < 3; c++) expect(Math.abs(there.data[at + c]! - original[from + c]!)).toBeLessThanOrEqual(6);
    }
    const far = await baked(target, { width: 128, height: 128 }, image, { source: { input: inputOf(source), within: 0.005 } }, []);
    expect(far.data[(20 * 128 + 20) * far.channels + 3]).toBe(0);
  });

  it('px that an island covers by half get its colour alone; overlaps are told', async () => {
    const half = plane(1, (x, y) => [x / 2 + 0.05, y]);
    const white = [{ source: { kind: 'colour', colour: '#ffffff' } }];
    const edge = await baked(half, { width: 10, height: 10, samples: 16 }, undefined, {}, white);
    expect([edge.data[5 * 4], edge.data[5 * 4 + 3], edge.data[6 * 4 + 3]]).toEqual([255, 255, 0]);
    const twice = plane(2, (x, y) => [x < 0.6 ? x : 1 - x, y]);
    expect((await baked(twice, {}, undefined, {}, white)).contested).toBeGreaterThan(0.5);
    expect((await baked(plane(8), { samples: 16 }, undefined, {}, white)).contested).toBe(0);
  });

  it('a triangle has the samples within it and no others, by the sides of its edges; what lies side by side leaves out none', async () => {
    const corner = fc.double({ min: -0.2, max: 1.2, noNaN: true });
    const size = 40;
    const samplesOf = async (uv: readonly number[], faces: number[][], samples: 1 | 4 | 16) => {
      const mesh = meshFromFaces(
        uv.flatMap((_, k) => (k % 2 === 0 ? [uv[k]!, uv[k + 1]!, 0] : [])),
        faces,
      );
      const set = uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.from(uv));
      const own = { ...options, width: size, height: size, samples };
      const input = { parts: [{ input: inputOf({ mesh, set }, [{ source: { kind: 'colour' } }]), set }], around: [], images: [], options: own };
      return (await bakeBands(input)).reduce((sum, band) => sum + band.taken, 0);
    };
    await fc.assert(
      fc.asyncProperty(fc.tuple(corner, corner, corner, corner, corner, corner), fc.constantFrom(1 as const, 16 as const), async (uv, samples) => {
        const [ax, ay, bx, by, cx, cy] = uv;
        const area = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
        fc.pre(Math.abs(area) > 1e-3);
        const side = (px: number, py: number, qx: number, qy: number, x: number, y: number) => ((qx - px) * (y - py) - (x - px) * (qy - py)) * Math.sign(area);
        const n = Math.sqrt(samples);
        let [within, near] = [0, 0];
        for (let j = 0; j < size * n; j++)
          for (let i = 0; i < size * n; i++) {
            const [x, y] = [(i + 0.5) / n / size, 1 - (j + 0.5) / n / size];
            const least = Math.min(side(ax, ay, bx, by, x, y), side(bx, by, cx, cy, x, y), side(cx, cy, ax, ay, x, y));
            if (least > 1e-8) within++;
            else if (least > -1e-8) near++;
          }
        const taken = await samplesOf(uv, [[0, 1, 2]], samples);
        expect(taken).toBeGreaterThanOrEqual(within);
        expect(taken).toBeLessThanOrEqual(within + near);
      }),
      { numRuns: 60 },
    );
    // a fan about a place of the sample grid, its edges through samples
    const fan = [0, 0, 1, 0, 1, 1, 0, 1, 0.3125, 0.4375];
    const faces = [
      [0, 1, 4],
      [1, 2, 4],
      [2, 3, 4],
      [3, 0, 4],
    ];
    for (const samples of [1, 4, 16] as const) expect(await samplesOf(fan, faces, samples)).toBe(size * size * samples);
  });

  it('in shares is the same as in one go, and on another tile what lies there', async () => {
    const form = plane(3, (x, y) => [x * 1.5, y]);
    const input: BakeInput = {
      parts: [{ input: inputOf(form), set: form.set }],
      around: [],
      images: [{ id: 'p', name: 'p.png', bytes: smooth(64) }],
      options: { ...options, width: 80, height: 80 },
    };
    const whole = await bakeBands(input);
    const shares = (await Promise.all([0, 1].map((at) => bakeBands({ ...input, share: { of: 2, at } })))).flat();
    expect(Buffer.compare(Buffer.from(finishBake(whole, input.options, 0).data), Buffer.from(finishBake(shares, input.options, 0).data))).toBe(0);
    const next = finishBake(await bakeBands({ ...input, options: { ...input.options, tile: [1, 0] } }), input.options, 0);
    expect(next.coverage).toBeCloseTo(0.5, 2);
  });

  it('in shares on one canvas is the same, too, and made there without a copy', async () => {
    const form = plane(3, (x, y) => [x * 0.8 + 0.05, y * 0.8 + 0.05]);
    for (const depth of [8, 16] as const) {
      const own: BakeOptions = { ...options, width: 70, height: 80, depth };
      const input: BakeInput = {
        parts: [{ input: inputOf(form), set: form.set }],
        around: [],
        images: [{ id: 'p', name: 'p.png', bytes: smooth(64) }],
        options: own,
      };
      const inShares = async (canvas: BakeCanvas | null) =>
        (await Promise.all([0, 1].map((at) => bakeBands({ ...input, canvas, share: { of: 2, at } })))).flat();
      const canvas = sharedCanvas(own)!;
      const bands = await inShares(canvas);
      expect(bands.every(({ data, covered }) => data.buffer === canvas.data.buffer && covered.buffer === canvas.data.buffer)).toBe(true);
      const [there, apart] = [finishBake(bands, own, 'full'), finishBake(await inShares(null), own, 'full')];
      expect(there.data.buffer).toBe(canvas.data.buffer);
      expect(there.channels).toBe(3);
      expect(there.data.length).toBe(70 * 80 * 3);
      expect(Buffer.compare(encode({ ...there }), encode({ ...apart }))).toBe(0);
      expect(there.coverage).toBe(apart.coverage);
    }
  });

  it('a canvas that no memory is left for is told in words, and threads then do without a shared one', async () => {
    const huge: BakeOptions = { ...options, width: 8192, height: 2 ** 40, depth: 16 };
    expect(sharedCanvas(huge)).toBeNull();
    const form = plane(1);
    const baking = bakeBands({ parts: [{ input: inputOf(form), set: form.set }], around: [], images: [], options: huge });
    await expect(baking).rejects.toMatchObject({ code: 'too-large', message: expect.stringMatching(/^No \d+ MB of memory are left for baking/) as string });
  });

  it('cancel ends it', async () => {
    let asked = 0;
    const context = {
      ...quietContext,
      throwIfCancelled: () => {
        if (++asked > 2) throw new Error('cancelled');
      },
    };
    const form = plane(3);
    await expect(
      bakeBands(
        { parts: [{ input: inputOf(form, []), set: form.set }], around: [], images: [], options: { ...options, width: 512, height: 512, what: 'position' } },
        context,
      ),
    ).rejects.toThrow('cancelled');
  });
});

describe('other pictures', () => {
  it('normals of a ball are those of the ball; of a plane with a slope in relief, those of the slope', async () => {
    const { mesh: ball } = makeForm({ kind: 'sphere', width: 2, height: 2, depth: 2, tube: 0.3, segments: 96, rows: 48, lids: true });
    const set = uvSetFrom(
      ball,
      'UV set 1',
      Uint32Array.from(ball.corners.keys()),
      Float64Array.from({ length: ball.corners.length * 2 }, (_, k) => {
        const p = ball.corners[k >> 1]! * 3;
        // the front half seen from z, the rest away
        return k % 2 === 0 ? 0.5 + ball.points[p]! / 2 : 0.5 + ball.points[p + 1]! / 2;
      }),
    );
    const n = ball.faceStart.length - 1;
    const front = Uint8Array.from({ length: n }, (_, f) =>
      Array.from({ length: 3 }, (_, k) => ball.points[ball.corners[ball.faceStart[f]! + k]! * 3 + 2]!).every((z) => z > 0.05) ? 0 : 1,
    );
    const picture = await baked({ mesh: ball, set: { ...set, unplaced: front } }, { what: 'normal', width: 64, height: 64 });
    for (const [x, y] of [
      [32, 32],
      [20, 40],
      [45, 25],
    ] as const) {
      const at = (y * 64 + x) * picture.channels;
      const own = [0, 1, 2].map((c) => (picture.data[at + c]! / 255) * 2 - 1);
      const [px, py] = [((x + 0.5) / 64 - 0.5) * 2, (0.5 - (y + 0.5) / 64) * 2];
      const wanted = [px, py, Math.sqrt(1 - px * px - py * py)];
      own.forEach((v, c) => expect(Math.abs(v - wanted[c]!)).toBeLessThan(0.03));
    }
    // height 0.5 · u over a plane of 1 unit: the normal leans by atan(0.5) against x
    const ramp = [{ to: 'relief', strength: 0.5, source: { kind: 'image', image: 'p' } }];
    const data = Uint8Array.from({ length: 256 * 3 }, (_, k) => Math.floor(k / 3));
    const image = encode({ width: 256, height: 1, data, channels: 3, depth: 8 });
    for (const what of ['normal', 'tangent-normal'] as const) {
      const leaning = await baked(plane(2), { what, depth: 16 }, image, {}, ramp);
      const at = (16 * 32 + 16) * leaning.channels;
      const [nx, ny, nz] = [0, 1, 2].map((c) => (leaning.data[at + c]! / 65_535) * 2 - 1) as [number, number, number];
      expect([nx / nz, ny]).toEqual([expect.closeTo(-0.5, 2), expect.closeTo(0, 3)]);
    }
    // mirrored UVs: in space the same lean, in the picture's own space the other way
    const mirrored = plane(2, (x, y) => [1 - x, y]);
    const own = await baked(mirrored, { what: 'tangent-normal', depth: 16 }, image, {}, ramp);
    const at = (16 * 32 + 16) * own.channels;
    expect(((own.data[at]! / 65_535) * 2 - 1) / ((own.data[at + 2]! / 65_535) * 2 - 1)).toBeCloseTo(-0.5, 2);
  });

  it('tangents are those of the reference package, on a bent and partly mirrored layout', () => {
    const random = seededRandom(5);
    const { mesh, set } = plane(
      6,
      (x, y) => [x < 0.5 ? x + 0.1 * y : 1.2 - x + 0.2 * y, y + 0.1 * x * x],
      (x, y) => 0.3 * Math.sin(3 * x) * Math.cos(2 * y) + 0.01 * random(),
    );
    const { corners, count } = trianglesOf(mesh);
    const normals = shadingNormals(mesh);
    const positions = Float32Array.from({ length: count * 9 }, (_, k) => mesh.points[mesh.corners[corners[Math.floor(k / 3)]!]! * 3 + (k % 3)]!);
    const theirs = Float32Array.from({ length: count * 9 }, (_, k) => normals[corners[Math.floor(k / 3)]! * 3 + (k % 3)]!);
    const uv = Float32Array.from({ length: count * 6 }, (_, k) => set.uv[set.cornerUv[corners[k >> 1]!]! * 2 + (k % 2)]!);
    const reference = generateTangents(positions, theirs, uv);
    const own = cornerTangents(mesh, set);
    for (let k = 0; k < count * 3; k++) {
      const c = corners[k]!;
      // a corner of two triangles has one tangent here: where the reference gives both the same
      const cosine = [0, 1, 2].reduce((sum, d) => sum + own[c * 4 + d]! * reference[k * 4 + d]!, 0);
      expect(cosine).toBeGreaterThan(0.9999);
      expect(own[c * 4 + 3]).toBe(reference[k * 4 + 3]);
    }
  });

  it('occlusion of a floor in a corner with a wall is one half; free, all is open; a slot of two walls by the formula', async () => {
    // a floor 1 × 1 that ends at a wall far higher and longer than rays reach
    const wall = (x: number, facing: number, high: number) =>
      meshFromFaces([x, -50, 0, x, 50, 0, x, 50, high, x, -50, high], [facing > 0 ? [0, 1, 2, 3] : [3, 2, 1, 0]]);
    const floor = plane(1);
    const open = async (around: Mesh[]) => {
      const own = { ...options, what: 'occlusion' as const, width: 8, height: 8, reach: 40, rays: 4096, depth: 16 as const };
      const picture = finishBake(await bakeBands({ parts: [{ input: inputOf(floor, []), set: floor.set }], around, images: [], options: own }), own, 0);
      return (x: number) => picture.data[(4 * 8 + x) * picture.channels]! / 65_535;
    };
    expect((await open([]))(4)).toBe(1);
    // next to the wall half of the sky is hidden: within half a px of it
    const beside = await open([wall(-0.0001, 1, 60)]);
    const d = 0.5 / 8 + 0.0001;
    // an endless wall hides (1 − sin α) / 2 of the sky, cosine weighed, α from its foot up: sin α → 0 as d / reach
    expect(beside(0)).toBeCloseTo(0.5 + d / 80, 1);
    // a slot: walls of height h at distances a and b on both sides leave (sin α + sin β) / 2 (S = opening angles from the normal)
    const h = 0.4;
    const slot = await open([wall(0, 1, h), wall(1, -1, h)]);
    const [a, b] = [(2 + 0.5) / 8, 1 - (2 + 0.5) / 8];
    expect(slot(2)).toBeCloseTo((a / Math.hypot(a, h) + b / Math.hypot(b, h)) / 2, 2);
  }, 30_000);
});

describe('between the islands', () => {
  it('the nearest covered px by exact distances, as by looking at all of them', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 1, max: 6 }), (seed, reach) => {
        const random = seededRandom(seed);
        const [width, height] = [13, 9];
        const covered = Uint8Array.from({ length: width * height }, () => (random() < 0.08 ? 1 : 0));
        const data = Uint8Array.from({ length: width * height }, (_, k) => (covered[k] ? 1 + Math.floor(random() * 254) : 0));
        const before = data.slice();
        const filled = bleedNearest({ width, height, channels: 1, data, covered }, reach);
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++) {
            let least = Infinity;
            const values = new Set<number>();
            for (let k = 0; k < covered.length; k++) {
              if (!covered[k]) continue;
              const d = (x - (k % width)) ** 2 + (y - Math.floor(k / width)) ** 2;
              if (d < least) values.clear();
              if (d <= least) values.add(before[k]!);
              least = Math.min(least, d);
            }
            expect(filled[y * width + x]).toBe(least <= reach * reach ? 1 : 0);
            if (least <= reach * reach) expect(values).toContain(data[y * width + x]);
          }
      }),
      { numRuns: 40 },
    );
  });

  it('filled smoothly: one colour stays one colour, between two there are no others, covered px stay', () => {
    const [width, height] = [37, 21];
    const covered = new Uint8Array(width * height);
    const data = new Uint8Array(width * height);
    for (const [at, value] of [
      [5 * width + 3, 40],
      [15 * width + 30, 200],
    ] as const) {
      covered[at] = 1;
      data[at] = value;
    }
    bleedAll({ width, height, channels: 1, data, covered });
    expect([Math.min(...data), Math.max(...data)]).toEqual([40, 200]);
    expect(data[6 * width + 4]!).toBeLessThan(100);
    const one = new Uint8Array(width * height);
    one[5 * width + 3] = 77;
    bleedAll({ width, height, channels: 1, data: one, covered: covered.map((_, k) => (k === 5 * width + 3 ? 1 : 0)) });
    expect(new Set(one)).toEqual(new Set([77]));
  });
});

describe('a tree of triangles', () => {
  it('finds the nearest place and the first hit, as looking at all triangles does', () => {
    const random = seededRandom(11);
    const { mesh } = makeForm({ kind: 'torus', width: 2, height: 1, depth: 2, tube: 0.3, segments: 23, rows: 11, lids: true });
    const tree = new TriangleTree(mesh);
    const { count, corners } = trianglesOf(mesh);
    const lone = Array.from({ length: count }, (_, t) => {
      const points = [0, 1, 2].flatMap((k) => [...mesh.points.subarray(mesh.corners[corners[t * 3 + k]!]! * 3, mesh.corners[corners[t * 3 + k]!]! * 3 + 3)]);
      return new TriangleTree(meshFromFaces(points, [[0, 1, 2]]));
    });
    for (let k = 0; k < 60; k++) {
      const p = [random() * 4 - 2, random() * 2 - 1, random() * 4 - 2] as const;
      const found = tree.nearest(...p, 100)!;
      // sampled densely as a second way: nothing may be nearer
      let least = Infinity;
      for (let t = 0; t < count; t++)
        for (let s = 0; s < 30; s++) {
          const [u, v] = [random(), random()];
          const [w1, w2] = u + v > 1 ? [1 - u, 1 - v] : [u, v];
          const at = [0, 1, 2].map((d) => [1 - w1 - w2, w1, w2].reduce((sum, w, i) => sum + w * mesh.points[mesh.corners[corners[t * 3 + i]!]! * 3 + d]!, 0));
          least = Math.min(least, Math.hypot(at[0]! - p[0], at[1]! - p[1], at[2]! - p[2]));
        }
      expect(found.distance).toBeLessThanOrEqual(least + 1e-12);
      const own = [0, 1, 2].map((d) =>
        [found.w0, found.w1, found.w2].reduce((sum, w, i) => sum + w * mesh.points[mesh.corners[corners[found.triangle * 3 + i]!]! * 3 + d]!, 0),
      );
      expect(Math.hypot(own[0]! - p[0], own[1]! - p[1], own[2]! - p[2])).toBeCloseTo(found.distance, 9);
      const [a, z] = [random() * 2 * Math.PI, random() * 2 - 1];
      const dir = [Math.sqrt(1 - z * z) * Math.cos(a), z, Math.sqrt(1 - z * z) * Math.sin(a)] as const;
      const first = Math.min(...lone.map((one) => one.cast(...p, ...dir, 100)));
      expect(tree.cast(...p, ...dir, 100)).toBe(first);
      expect(tree.cast(...p, ...dir, 100, true) < Infinity).toBe(first < Infinity);
    }
    expect(tree.nearest(50, 0, 0, 1)).toBeNull();
  });
});

describe('normals that go with a picture', () => {
  /** Leaning to the right of the image by so much, and up. */
  const leaning = (x: number, y: number) => {
    const z = Math.sqrt(1 - x * x - y * y);
    const px = [x, y, z].map((one) => Math.round((one * 0.5 + 0.5) * 255));
    return encode({ width: 4, height: 4, data: Uint8Array.from({ length: 48 }, (_, k) => px[k % 3]!), channels: 3, depth: 8 });
  };
  const at = ({ data, channels }: Awaited<ReturnType<typeof baked>>) => [0, 1, 2].map((c) => (data[(16 * 32 + 16) * channels + c]! / 255) * 2 - 1);
  const placement = asItLies;
  const near = (found: number[], x: number, y: number) => {
    expect(found[0]).toBeCloseTo(x, 1);
    expect(found[1]).toBeCloseTo(y, 1);
  };

  it('come back as they are for the UVs that they are of, also where the image is placed', async () => {
    const form = plane(2);
    const image = leaning(0.6, 0.2);
    near(at(await baked(form, { what: 'tangent-normal' }, image, { bumps: [{ image: 'p', set: form.set, placement, material: null }] }, [])), 0.6, 0.2);
    // turned by a quarter, counter-clockwise: what leans to the image's right leans up in the UVs
    near(
      at(
        await baked(
          form,
          { what: 'tangent-normal' },
          image,
          { bumps: [{ image: 'p', set: form.set, placement: { ...placement, turn: 90 }, material: null }] },
          [],
        ),
      ),
      -0.2,
      0.6,
    );
    // green down in the image, and in what is baked
    const down = { image: 'p', set: form.set, placement, material: null, isGreenDown: true };
    near(at(await baked(form, { what: 'tangent-normal' }, image, { bumps: [down] }, [])), 0.6, -0.2);
    near(at(await baked(form, { what: 'tangent-normal', isGreenDown: true }, image, { bumps: [down] }, [])), 0.6, 0.2);
    // in space there is no such choice
    near(at(await baked(form, { what: 'normal', isGreenDown: true }, image, { bumps: [{ ...down, isGreenDown: false }] }, [])), 0.6, 0.2);
    // mirrored
    near(
      at(
        await baked(
          form,
          { what: 'tangent-normal' },
          image,
          { bumps: [{ image: 'p', set: form.set, placement: { ...placement, mirrorU: true }, material: null }] },
          [],
        ),
      ),
      -0.6,
      0.2,
    );
  });

  it('lean the same way in space whatever UVs they are baked to; without a place they are left alone', async () => {
    const from = plane(2);
    const image = leaning(0.6, 0.2);
    const bumps = { image: 'p', set: from.set, placement, material: null };
    const to = plane(2, (x, y) => [1 - y, x]);
    near(at(await baked({ mesh: from.mesh, set: to.set }, { what: 'normal' }, image, { bumps: [bumps] }, [])), 0.6, 0.2);
    // by the new UVs, u runs against y and v along x
    near(at(await baked({ mesh: from.mesh, set: to.set }, { what: 'tangent-normal' }, image, { bumps: [bumps] }, [])), -0.2, 0.6);
    // of another material
    near(at(await baked(from, { what: 'tangent-normal' }, image, { bumps: [{ ...bumps, material: 3 }] }, [])), 0, 0);
    const away = { ...from.set, unplaced: new Uint8Array(from.set.unplaced.length).fill(1) };
    near(at(await baked(from, { what: 'tangent-normal' }, image, { bumps: [{ ...bumps, set: away }] }, [])), 0, 0);
  });
});

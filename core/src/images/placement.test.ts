import fc from 'fast-check';
import { Texture } from 'three';
import { describe, expect, it } from 'vitest';
import { writeGlb } from '../formats/gltfWrite.ts';
import { writeMtl, writeObj } from '../formats/objWrite.ts';
import { openFiles } from '../formats/open.ts';
import { activeSet, newJob, type Job, type Part } from '../job/job.ts';
import { plane } from '../mesh/starterForms.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { encode } from 'fast-png';
import {
  asItLies,
  fromTextureTransform,
  isAsItLies,
  placedAsBefore,
  placedAt,
  placementMatrix,
  placementSchema,
  toMtlOptions,
  toTextureTransform,
  type ImagePlacement,
} from './placement.ts';

const number = fc.double({ min: -3, max: 3, noNaN: true });
const placements = (turns: fc.Arbitrary<number>, uneven: boolean) =>
  fc
    .record({
      r: fc.double({ min: 0.2, max: 5, noNaN: true }),
      t: fc.double({ min: 0.2, max: 5, noNaN: true }),
      x: number,
      y: number,
      p: number,
      q: number,
      turn: turns,
      mu: fc.boolean(),
      mv: fc.boolean(),
    })
    .map(({ r, t, x, y, p, q, turn, mu, mv }): ImagePlacement =>
      placementSchema.parse({ repeats: [r, uneven ? t : r], offset: [x, y], pivot: [p, q], turn, mirrorU: mu, mirrorV: mv }),
    );
/** What glTF can say: turned anyhow where sized evenly, by quarters where not. */
const sayable = fc.oneof(placements(fc.double({ min: -180, max: 180, noNaN: true }), false), placements(fc.constantFrom(0, 90, 180, -90), true));
const same = (a: readonly number[], b: readonly number[], digits = 9) => a.forEach((x, k) => expect(x).toBeCloseTo(b[k]!, digits));

describe('placement of an image', () => {
  it('by hand: half as large shows twice; slid to the right by a quarter; turned left about the middle', () => {
    const at = (given: Partial<ImagePlacement>, u: number, v: number) => placedAt(placementMatrix(placementSchema.parse(given)), u, v);
    same(at({ repeats: [2, 2], pivot: [0, 0] }, 0.5, 0.5), [1, 1]);
    // what was at the left edge is now a quarter to the right
    same(at({ offset: [0.25, 0] }, 0.25, 0.3), [0, 0.3]);
    // the image's right side looks up
    same(at({ turn: 90 }, 0.5, 1), [1, 0.5]);
    same(at({ mirrorU: true }, 0.1, 0.2), [0.9, 0.2]);
    expect(isAsItLies(asItLies)).toBe(true);
    expect(isAsItLies(placementSchema.parse({ turn: 360, pivot: [3, 4] }))).toBe(true);
    expect(isAsItLies(placementSchema.parse({ outsideU: 'edge' }))).toBe(false);
  });

  it('no turn skews it: its two directions stay square and as long as they were (property)', () => {
    fc.assert(
      fc.property(
        placements(
          number.map((x) => x * 100),
          true,
        ),
        (placement) => {
          const [a, b, , d, e] = placementMatrix(placement);
          // back from the image to the square: one image step along each side
          const det = a * e - b * d;
          const along = [e / det, -d / det];
          const up = [-b / det, a / det];
          expect(along[0]! * up[0]! + along[1]! * up[1]!).toBeCloseTo(0, 9);
          expect(Math.hypot(along[0]!, along[1]!)).toBeCloseTo(1 / placement.repeats[0], 9);
          expect(Math.hypot(up[0]!, up[1]!)).toBeCloseTo(1 / placement.repeats[1], 9);
        },
      ),
    );
  });

  it('KHR_texture_transform says the same place, by three’s own texture matrix (property)', () => {
    fc.assert(
      fc.property(sayable, number, number, (placement, u, v) => {
        const said = toTextureTransform(placement)!;
        expect(said).not.toBeNull();
        // three keeps the file's v, counted down, and sizes after it turns: alike where the size is even or the turn a quarter
        const turnedAny = Math.abs(Math.sin(said.rotation) * Math.cos(said.rotation)) > 1e-9;
        const quarter = Math.abs(Math.sin(said.rotation)) > 0.5 && !turnedAny;
        const texture = new Texture();
        texture.rotation = said.rotation;
        texture.offset.set(...said.offset);
        texture.repeat.set(...(quarter ? ([said.scale[1], said.scale[0]] as const) : said.scale));
        // turned by any angle and mirrored: three would mirror after the turn
        if (turnedAny && said.scale[0] * said.scale[1] < 0) return;
        texture.updateMatrix();
        const m = texture.matrix.elements;
        const [x, y] = [m[0]! * u + m[3]! * (1 - v) + m[6]!, m[1]! * u + m[4]! * (1 - v) + m[7]!];
        same([x, 1 - y], placedAt(placementMatrix(placement), u, v), 7);
      }),
    );
  });

  it('shows the same after the UVs took another placement over, unless that would skew it (property)', () => {
    const of = (repeats: [number, number], turn: number, offset: [number, number], mirrorV: boolean) =>
      placementSchema.parse({ repeats, turn, offset, mirrorV, pivot: [0.2, 0.9], outsideU: 'mirror' });
    const size = fc.integer({ min: 1, max: 40 }).map((k) => k / 4);
    const slide = fc.tuple(fc.integer({ min: -8, max: 8 }), fc.integer({ min: -8, max: 8 })).map(([u, v]): [number, number] => [u / 8, v / 8]);
    const any = fc.tuple(fc.tuple(size, size), fc.integer({ min: -180, max: 180 }), slide, fc.boolean());
    fc.assert(
      fc.property(any, any, fc.boolean(), (mine, theirs, isEven) => {
        const own = of(...mine);
        const taken = placementMatrix(of(isEven ? [theirs[0][0], theirs[0][0]] : theirs[0], theirs[1], theirs[2], theirs[3]));
        const kept = placedAsBefore(own, taken);
        const isSquare = (mine[1] - theirs[1]) % 90 === 0;
        if (!isEven && !isSquare && theirs[0][0] !== theirs[0][1]) expect(kept).toBeNull();
        else {
          expect(kept).toMatchObject({ outsideU: 'mirror', outsideV: 'repeat' });
          for (const [u, v] of [
            [0, 0],
            [1, 0],
            [0.3, 0.8],
          ] as const) {
            const [x, y] = placedAt(placementMatrix(own), u, v);
            const [mx, my] = placedAt(placementMatrix(kept!), ...placedAt(taken, u, v));
            expect(Math.hypot(x - mx, y - my)).toBeLessThan(1e-9);
          }
        }
      }),
    );
    expect(placedAsBefore(asItLies, placementMatrix(asItLies))).toEqual(asItLies);
    // beyond what a placement may say
    expect(placedAsBefore(placementSchema.parse({ repeats: [1e5, 1e5] }), placementMatrix(placementSchema.parse({ repeats: [0.1, 0.1] })))).toBeNull();
  });

  it('comes back from KHR_texture_transform and from MTL as it was (property)', () => {
    fc.assert(
      fc.property(sayable, number, number, (placement, u, v) => {
        const back = fromTextureTransform(toTextureTransform(placement)!, 'repeat', 'edge');
        same(placedAt(placementMatrix(back), u, v), placedAt(placementMatrix(placement), u, v), 7);
        expect(back.outsideV).toBe('edge');
      }),
    );
    expect(toTextureTransform(placementSchema.parse({ turn: 30, repeats: [1, 2] }))).toBeNull();
    expect(toMtlOptions(placementSchema.parse({ turn: 30 }))).toBeNull();
    expect(toMtlOptions(placementSchema.parse({ repeats: [2, 3], pivot: [0, 0], outsideU: 'edge', outsideV: 'edge' }))).toBe('-s 2 3 1 -clamp on');
  });
});

describe('a placed image in files', () => {
  const png = encode({ width: 4, height: 2, data: new Uint8Array(32).fill(200), channels: 4, depth: 8 });
  const jobOf = (placement: ImagePlacement): Job => {
    const mesh = { ...plane(1, 1, 1, 1), materials: ['cloth'], faceMaterial: new Int32Array(1) };
    const part: Part = {
      id: 'p',
      name: 'Flag',
      mesh,
      uvSets: [uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), Float64Array.of(0, 0, 1, 0, 0, 1, 1, 1))],
      activeUv: 0,
      imageId: 'i',
      placement,
      origin: { kind: 'made' },
    };
    return { ...newJob('j', 'J', [part]), images: [{ id: 'i', name: 'flag.png', type: 'image/png', bytes: png }] };
  };
  const placement = placementSchema.parse({ repeats: [3, 3], offset: [0.2, -0.4], turn: 30, outsideU: 'mirror', outsideV: 'edge' });

  it('GLB: image, transform and wrapping are written and read', async () => {
    const job = jobOf(placement);
    const { bytes, notes } = await writeGlb(job.parts, [], job.images);
    expect(notes.filter((note) => note.includes('image'))).toEqual([]);
    const back = await openFiles([{ name: 'a.glb', bytes }], 'b');
    expect(back.images.map((image) => image.bytes.length)).toEqual([png.length]);
    const read = back.parts[0]!.placement!;
    for (const [u, v] of [
      [0, 0],
      [1, 0.3],
      [-2, 5],
    ] as const)
      same(placedAt(placementMatrix(read), u, v), placedAt(placementMatrix(placement), u, v), 5);
    expect([read.outsideU, read.outsideV]).toEqual(['mirror', 'edge']);
    // written into its own file again it stays
    const again = await writeGlb(back.parts, back.files, back.images);
    const third = await openFiles([{ name: 'c.glb', bytes: again.bytes }], 'c');
    same(placementMatrix(third.parts[0]!.placement!), placementMatrix(read), 5);
    // what glTF cannot say is said
    const uneven = jobOf(placementSchema.parse({ turn: 20, repeats: [1, 4], outsideU: 'nothing' }));
    expect((await writeGlb(uneven.parts, [], uneven.images)).notes.join()).toMatch(/cannot say/);
  });

  it('OBJ: -o, -s and -clamp, with the image named; a turned one is told', async () => {
    const flat = placementSchema.parse({ repeats: [3, 2], offset: [0.2, -0.4], outsideU: 'edge', outsideV: 'edge' });
    const job = jobOf(flat);
    const mtl = writeMtl(job.parts, null, job.images)!;
    expect(mtl.images.map(({ name }) => name)).toEqual(['flag.png']);
    const back = await openFiles(
      [
        { name: 'a.obj', bytes: writeObj(job.parts, 'a.mtl') },
        { name: 'a.mtl', bytes: mtl.bytes },
        { name: 'flag.png', bytes: png },
      ],
      'b',
    );
    const read = back.parts[0]!.placement!;
    same(placementMatrix(read), placementMatrix(flat), 8);
    expect(read.outsideU).toBe('edge');
    // a file that says it already keeps its line as it was
    const text = new TextDecoder().decode(mtl.bytes);
    expect(new TextDecoder().decode(writeMtl(back.parts, text, back.images)!.bytes)).toBe(text);
    expect(writeMtl(jobOf(placement).parts, null, jobOf(placement).images)!.notes.join()).toMatch(/turned image is beyond/);
  });

  it('is set by an operation; the UVs stay as they are; put back it is gone', async () => {
    const job = jobOf(asItLies);
    const { job: next, sentence } = await runOperation(job, 'placeImage', { placement, what: 'turned' });
    expect(sentence).toBe('Turned the image of Flag');
    expect(activeSet(next.parts[0]!)).toBe(activeSet(job.parts[0]!));
    expect(next.parts[0]!.placement).toEqual(placement);
    expect((await runOperation(next, 'placeImage', { placement: {} })).job.parts[0]!.placement).toBeUndefined();
  });
});

import fc from 'fast-check';
import { decode, encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { fieldsByAlpha, gridFields, inReadingOrder, type PictureField } from '../images/fields.ts';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { checkLayout } from '../measure/check.ts';
import { box, plane } from '../mesh/starterForms.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { assignFields } from '../shape/assignFields.ts';
import { islandsOf } from '../uv/islands.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { runOperation } from './registry.ts';

const crate = async (mesh: Mesh = box(3, 1, 2)): Promise<Job> => {
  const job = newJob('j', 'crate', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
  return (await runOperation(job, 'unwrap', { seams: 'crease' })).job;
};
/** Box of each island on the sheet. */
const boxes = (job: Job) => {
  const part = partOf(job);
  const set = activeSet(part);
  const { count, ofFace } = islandsOf(part.mesh, set);
  const out = Array.from({ length: count }, () => [9, 9, -9, -9]);
  for (let f = 0; f < ofFace.length; f++)
    for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) {
      const b = out[ofFace[f]!]!;
      for (const d of [0, 1]) {
        const x = set.uv[set.cornerUv[c]! * 2 + d]!;
        b[d] = Math.min(b[d]!, x);
        b[d + 2] = Math.max(b[d + 2]!, x);
      }
    }
  return out;
};

describe('fields of a picture', () => {
  it('by alpha: each opaque piece, in reading order, specks left out', () => {
    const [width, height] = [40, 20];
    const data = new Uint8Array(width * height * 4);
    const paint = (x0: number, y0: number, x1: number, y1: number) => {
      for (let y = y0; y < y1; y++) for (let x = x0; x < x1; x++) data[(y * width + x) * 4 + 3] = 255;
    };
    paint(24, 1, 36, 6);
    paint(2, 2, 10, 8);
    paint(4, 12, 30, 18);
    // joined at a corner: one piece
    paint(30, 10, 34, 12);
    paint(38, 18, 39, 19);
    const fields = fieldsByAlpha(data, width, height, { least: 0.005 });
    expect(fields.map((field) => field.map((x) => Number(x.toFixed(4))))).toEqual(
      [
        [2 / 40, 1 - 8 / 20, 10 / 40, 1 - 2 / 20],
        [24 / 40, 1 - 6 / 20, 36 / 40, 1 - 1 / 20],
        [4 / 40, 1 - 18 / 20, 34 / 40, 1 - 10 / 20],
      ].map((field) => field.map((x) => Number(x.toFixed(4)))),
    );
    expect(fieldsByAlpha(new Uint8Array(16), 2, 2)).toEqual([]);
  });

  it('a grid fills the sheet but for its gaps, the first field at the upper left', () => {
    const fields = gridFields(3, 2, 0.04);
    expect(fields).toHaveLength(6);
    expect(fields[0]![0]).toBeCloseTo(0.04, 12);
    expect(fields[0]![3]).toBeCloseTo(0.96, 12);
    const area = fields.reduce((sum, [l, b, r, t]) => sum + (r - l) * (t - b), 0);
    expect(area).toBeCloseTo((1 - 4 * 0.04) * (1 - 3 * 0.04), 12);
    expect(inReadingOrder([...fields].reverse())).toEqual(fields);
  });

  it('islands lie within their fields, in proportion or filling; nothing overlaps; they are locked and packing goes round them', async () => {
    await fc.assert(
      fc.asyncProperty(fc.constantFrom('proportion' as const, 'fill' as const), fc.boolean(), fc.constantFrom(1024, 2048), async (fit, turn, height) => {
        let job = await crate();
        job = (await runOperation(job, 'settings', { width: 1024, height })).job;
        const before = boxes(job);
        const fields = gridFields(4, 2, 0.03);
        const { job: next, report } = await runOperation(job, 'placeOnFields', { fields: [...fields], fit, turn });
        expect(report).toMatchObject({ placed: 6, left: [] });
        expect((report as { unused: number[] }).unused).toHaveLength(2);
        const after = boxes(next);
        const used = after.map(([l, b, r, t]) => {
          const at = fields.findIndex(([fl, fb, fr, ft]) => l! > fl - 1e-9 && b! > fb - 1e-9 && r! < fr + 1e-9 && t! < ft + 1e-9);
          expect(at).toBeGreaterThanOrEqual(0);
          const [fl, fb, fr, ft] = fields[at]!;
          const [across, up] = [(r! - l!) / (fr - fl), (t! - b!) / (ft - fb)];
          expect(Math.max(across, up)).toBeCloseTo(1, 9);
          if (fit === 'fill') expect(Math.min(across, up)).toBeCloseTo(1, 9);
          return at;
        });
        expect(new Set(used).size).toBe(6);
        if (fit === 'proportion')
          after.forEach(([l, b, r, t], i) => {
            const own = ((before[i]![2]! - before[i]![0]!) * 1024) / ((before[i]![3]! - before[i]![1]!) * height);
            const now = ((r! - l!) * 1024) / ((t! - b!) * height);
            expect([own, 1 / own].some((x) => Math.abs(x - now) < 1e-6 * x)).toBe(true);
          });
        expect(checkLayout(partOf(next).mesh, activeSet(partOf(next)), 1024, height).report.overlapArea).toBe(0);
        await expect(runOperation(next, 'pack', {})).rejects.toThrow('All islands are locked.');
      }),
      { numRuns: 8 },
    );
  });

  it('neighbours on the model come to be neighbours: a strip of five is laid out in order', () => {
    const guests = [2, 0, 4, 1, 3].map((n, _, all) => ({ aspect: 1, shared: all.map((m) => (Math.abs(m - n) === 1 ? 1 : 0)) }));
    const row: PictureField[] = Array.from({ length: 5 }, (_, k) => [k * 0.2, 0, k * 0.2 + 0.2, 0.2]);
    const of = assignFields(guests, row, row.map(() => 1)); // prettier-ignore
    const order = [2, 0, 4, 1, 3].map((n, k) => [n, of[k]!] as const).sort((a, b) => a[0] - b[0]).map(([, f]) => f); // prettier-ignore
    expect([[0, 1, 2, 3, 4], [4, 3, 2, 1, 0]]).toContainEqual(order); // prettier-ignore
    // long ones on long fields
    const two: PictureField[] = [[0, 0, 0.2, 0.2], [0, 0.5, 1, 0.6]]; // prettier-ignore
    expect(assignFields([{ aspect: 9, shared: [0, 0] }, { aspect: 1, shared: [0, 0] }], two, [1, 10])).toEqual([1, 0]); // prettier-ignore
    expect(assignFields([{ aspect: 1, shared: [0, 0] }, { aspect: 1, shared: [0, 0] }], [two[0]!], [1])).toEqual([0, -1]); // prettier-ignore
  });
});

describe('locked islands', () => {
  it('stay to the last bit while the others are packed, and are kept in the archive', async () => {
    let job = await crate();
    job = (await runOperation(job, 'select', { kind: 'islands', ids: [2, 3] })).job;
    job = (await runOperation(job, 'transform', { move: [0.01, 0.02] })).job;
    job = (await runOperation(job, 'lockIslands', { do: 'lock' })).job;
    job = readArchive(writeArchive(job)).job;
    const before = boxes(job);
    const { job: packed } = await runOperation(job, 'pack', { margin: 4, evenDensity: true });
    const after = boxes(packed);
    for (const i of [2, 3]) expect(after[i]).toEqual(before[i]);
    expect(after[0]).not.toEqual(before[0]);
    const { report } = { report: checkLayout(partOf(packed).mesh, activeSet(partOf(packed)), 2048, 2048).report };
    expect(report.overlapArea).toBe(0);
    job = (await runOperation(job, 'lockIslands', { do: 'unlock' })).job;
    expect(boxes((await runOperation(job, 'pack', { margin: 4 })).job)[2]).not.toEqual(before[2]);
  });

  it('a stack is locked as one, whichever of its islands was taken', async () => {
    let job = (await runOperation(await crate(), 'stack', {})).job;
    const before = boxes(job);
    const mates = before.flatMap((box, i) => (i > 0 && box.every((x, d) => Math.abs(x - before[0]![d]!) < 1e-9) ? [i] : []));
    expect(mates).toHaveLength(1);
    // the one that does not stand for the stack
    job = (await runOperation(job, 'select', { kind: 'islands', ids: mates })).job;
    job = (await runOperation(job, 'lockIslands', {})).job;
    const after = boxes((await runOperation(job, 'pack', { margin: 40 })).job);
    for (const i of [0, ...mates]) expect(after[i]).toEqual(before[i]);
  });

  it('of a part without a layout nothing is put anywhere', async () => {
    const mesh = plane();
    const job = newJob('j', 'bare', [{ id: 'a', name: 'a', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } }]);
    await expect(runOperation(job, 'placeOnFields', { fields: [[0, 0, 1, 1]] })).rejects.toThrow('No island has a place');
  });
});

it('a density given to all leaves locked islands as large as they are; the guide draws a stack once', async () => {
  let job = await crate();
  job = (await runOperation(job, 'select', { kind: 'islands', ids: [2] })).job;
  job = (await runOperation(job, 'lockIslands', {})).job;
  const before = boxes(job);
  const { job: sized } = await runOperation(job, 'density', { target: 20 });
  expect(boxes(sized)[2]).toEqual(before[2]);
  expect(boxes(sized)[0]).not.toEqual(before[0]);
  // opposite sides of a box are alike
  const { job: stacked, report } = await runOperation(await crate(), 'stack', {});
  expect(report).toMatchObject({ stacks: 3, islands: 6 });
  const svg = ((await runOperation(stacked, 'guide', {})).report as { svg: () => string }).svg();
  const whole = ((await runOperation(await crate(), 'guide', {})).report as { svg: () => string }).svg();
  expect(svg.length).toBeLessThan(whole.length * 0.7);
});

describe('islands ordered by the colours of the picture', () => {
  type Place = readonly [number, number, number];
  /** A colour for each place on the crate that goes on over its edges, and is another one at every place. */
  const colour = ([x, y, z]: Place) => [40 + 60 * (x + 1.5), 40 + 160 * (y + 0.5), 40 + 90 * (z + 1)].map((c) => Math.max(0, Math.min(255, Math.round(c))));
  const corner = (mesh: Mesh, c: number) => [0, 1, 2].map((d) => mesh.points[mesh.corners[c]! * 3 + d]!) as unknown as Place;

  /** The picture that a layout of rectangles shows, where the crate has these colours. */
  function painted(job: Job, size: number): Uint8Array {
    const { mesh, uvSets, activeUv } = partOf(job);
    const set = uvSets[activeUv]!;
    const data = new Uint8Array(size * size * 4);
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      const from = mesh.faceStart[f]!;
      const at = (k: number, d: number) => set.uv[set.cornerUv[from + k]! * 2 + d]!;
      const [ax, ay, bx, by] = [at(1, 0) - at(0, 0), at(1, 1) - at(0, 1), at(3, 0) - at(0, 0), at(3, 1) - at(0, 1)];
      const det = ax * by - ay * bx;
      const [p, q, r] = [corner(mesh, from), corner(mesh, from + 1), corner(mesh, from + 3)];
      for (let y = 0; y < size; y++)
        for (let x = 0; x < size; x++) {
          const [u, v] = [(x + 0.5) / size - at(0, 0), 1 - (y + 0.5) / size - at(0, 1)];
          const [s, t] = [(u * by - v * bx) / det, (v * ax - u * ay) / det];
          if (s < 0 || t < 0 || s > 1 || t > 1) continue;
          data.set([...colour([0, 1, 2].map((d) => p[d]! + s * (q[d]! - p[d]!) + t * (r[d]! - p[d]!)) as unknown as Place), 255], (y * size + x) * 4);
        }
    }
    return data;
  }

  it('a crate is put back on the picture of it: colours meet along every edge, and each place has its own, up to the crate’s symmetries', async () => {
    const size = 256;
    const fields = gridFields(3, 2, 0.02);
    const laid = (await runOperation(await crate(), 'placeOnFields', { fields: [...fields], fit: 'fill', order: 'reading' })).job;
    const png = encode({ width: size, height: size, data: painted(laid, size), channels: 4, depth: 8 });
    // another start: the islands lie elsewhere, and turned
    let job = await crate();
    job = (await runOperation(job, 'addImages', { images: [{ name: 'crate.png', bytes: png }], show: true })).job;
    job = (await runOperation(job, 'pack', { turns: 'quarter' })).job;
    const { job: next, report } = await runOperation(job, 'placeOnFields', { fields: [...fields], fit: 'fill', order: 'picture' });
    const { difference } = report as { difference: number };
    // what the px of the picture and places a tenth inside of the edges leave
    expect(difference).toBeLessThan(12);
    const { mesh, uvSets, activeUv } = partOf(next);
    const set = uvSets[activeUv]!;
    const read = decode(png).data;
    const off = [
      [1, 1, 1],
      [1, -1, -1],
      [-1, 1, -1],
      [-1, -1, 1],
    ].map((sign) => {
      let worst = 0;
      for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
        const corners = [0, 1, 2, 3].map((k) => mesh.faceStart[f]! + k);
        // a place of the face that is not its middle
        const weights = [0.5, 0.2, 0.1, 0.2];
        const place = [0, 1, 2].map((d) => corners.reduce((sum, c, k) => sum + weights[k]! * corner(mesh, c)[d]! * sign[d]!, 0)) as unknown as Place;
        const [u, v] = [0, 1].map((d) => corners.reduce((sum, c, k) => sum + weights[k]! * set.uv[set.cornerUv[c]! * 2 + d]!, 0)) as [number, number];
        const at = (Math.floor((1 - v) * size) * size + Math.floor(u * size)) * 4;
        colour(place).forEach((c, k) => (worst = Math.max(worst, Math.abs(c - read[at + k]!))));
      }
      return worst;
    });
    expect(Math.min(...off)).toBeLessThan(8);
    // by neighbours alone it is not
    const plain = await runOperation(job, 'placeOnFields', { fields: [...fields], fit: 'fill', order: 'neighbours' });
    expect((plain.report as { difference: number | null }).difference).toBeNull();
  });

  it('a part without a picture is told', async () => {
    await expect(runOperation(await crate(), 'placeOnFields', { fields: [...gridFields(3, 2)], order: 'picture' })).rejects.toThrow(/shows no picture/);
  });
});

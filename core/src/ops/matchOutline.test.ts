import { createRequire } from 'node:module';
import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import {
  emptyUvSet,
  islandsOf,
  meshFromFaces,
  newJob,
  partOf,
  runOperation as runAny,
  uvSetFrom,
  type Job,
  type Mesh,
  type OperationName,
  type ParamsOf,
  type Part,
  type ReportOf,
} from '../index.ts';
import { activeSet, withSet } from '../job/job.ts';

const size = 512;
const runOperation = <N extends OperationName>(job: Job, name: N, params: ParamsOf<N>) =>
  runAny(job, name, params as Record<string, unknown>) as Promise<{ job: Job; report: ReportOf<N> }>;

/** A picture that is opaque where told; u and v from the lower left. */
function picture(isOpaque: (u: number, v: number) => boolean, width = size, height = size): Uint8Array {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (isOpaque((x + 0.5) / width, 1 - (y + 0.5) / height)) data.set([180, 90, 40, 255], (y * width + x) * 4);
  return encode({ width, height, data, channels: 4, depth: 8 });
}

type Outline = (u: number, v: number) => boolean;
/** A rectangle with a corner taken off, a kite, a ring sector: none is its own mirror image or turned copy. */
const outlines: { inside: Outline; grid: (s: number, t: number) => [number, number] }[] = [
  {
    inside: (u, v) => u > 0.05 && u < 0.4 && v > 0.6 && v < 0.6 + 0.3 - 0.4 * Math.max(0, u - 0.2),
    grid: (s, t) => rowTo(0.05 + 0.35 * s, 0.6, 0.9 - 0.4 * Math.max(0, 0.35 * s - 0.15), t),
  },
  {
    inside: (u, v) => u > 0.55 && u < 0.95 && v > 0.55 && v < 0.6 + (0.95 - u) * 0.8,
    grid: (s, t) => rowTo(0.55 + 0.4 * s, 0.55, 0.6 + 0.4 * (1 - s) * 0.8, t),
  },
  {
    inside: (u, v) => {
      const [x, y] = [u - 0.5, v - 0.02];
      const r = Math.hypot(x, y);
      const a = Math.atan2(y, x);
      return r > 0.22 && r < 0.42 && a > 0.3 && a < 2.2;
    },
    grid: (s, t) => {
      const a = 2.2 - 1.9 * s;
      const r = 0.22 + 0.2 * t;
      return [0.5 + r * Math.cos(a), 0.02 + r * Math.sin(a)];
    },
  },
];
const rowTo = (u: number, low: number, high: number, t: number): [number, number] => [u, low + (high - low) * t];
const inside: Outline = (u, v) => outlines.some((one) => one.inside(u, v));

const n = 14;

/** Grids of quads that are cut as the picture has them, with their true places as UVs. */
function cards(
  place: (u: number, v: number, k: number) => [number, number, number] = (u, v) => [u, v, 0],
  which = [0, 1, 2],
): { mesh: Mesh; uv: Float64Array } {
  const points: number[] = [];
  const faces: number[][] = [];
  const uv: number[] = [];
  for (const k of which) {
    const base = points.length / 3;
    for (let r = 0; r <= n; r++)
      for (let c = 0; c <= n; c++) {
        const [u, v] = outlines[k]!.grid(c / n, r / n);
        points.push(...place(u, v, k));
        uv.push(u, v);
      }
    for (let r = 0; r < n; r++)
      for (let c = 0; c < n; c++) {
        const a = base + r * (n + 1) + c;
        faces.push([a, a + 1, a + n + 2, a + n + 1]);
      }
  }
  return { mesh: meshFromFaces(points, faces), uv: Float64Array.from(uv) };
}

async function jobOf(mesh: Mesh, uv: Float64Array | null, bytes: Uint8Array): Promise<Job> {
  const set = uv ? uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv.slice()) : emptyUvSet(mesh);
  const part: Part = { id: 'p', name: 'Cards', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
  return (await runOperation(newJob('j', 'cards', [part]), 'addImages', { images: [{ name: 'cards.png', bytes }], show: true })).job;
}

/** The job with each island moved by its own similarity about its middle. */
function scattered(job: Job, how: (island: number) => { turn: number; size: number; by: [number, number] }, aboutAll = false): Job {
  const part = partOf(job);
  const set = activeSet(part);
  const { ofFace } = islandsOf(part.mesh, set);
  const uv = set.uv.slice();
  const ofPoint = new Int32Array(uv.length / 2);
  ofFace.forEach((island, f) => {
    for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) ofPoint[set.cornerUv[c]!] = island;
  });
  const middles = new Map<number, [number, number, number]>();
  ofPoint.forEach((island, p) => {
    const sum = middles.get(aboutAll ? 0 : island) ?? [0, 0, 0];
    middles.set(aboutAll ? 0 : island, [sum[0] + uv[p * 2]!, sum[1] + uv[p * 2 + 1]!, sum[2] + 1]);
  });
  ofPoint.forEach((island, p) => {
    const { turn, size: by, by: slide } = how(island);
    const [sx, sy, count] = middles.get(aboutAll ? 0 : island)!;
    const [x, y] = [uv[p * 2]! - sx / count, uv[p * 2 + 1]! - sy / count];
    uv[p * 2] = by * (Math.cos(turn) * x - Math.sin(turn) * y) + sx / count + slide[0];
    uv[p * 2 + 1] = by * (Math.sin(turn) * x + Math.cos(turn) * y) + sy / count + slide[1];
  });
  return withSet(job, 'p', { ...set, uv });
}

/** How far UV points are from where the picture has them, px: mean and most. */
function offBy(job: Job, wanted: Float64Array): { mean: number; most: number } {
  const { uv } = activeSet(partOf(job));
  let [mean, most] = [0, 0];
  for (let k = 0; k < uv.length; k += 2) {
    const d = Math.hypot(uv[k]! - wanted[k]!, uv[k + 1]! - wanted[k + 1]!) * size;
    mean += d / (uv.length / 2);
    most = Math.max(most, d);
  }
  return { mean, most };
}

/** Quads that another program would turn over, whichever diagonal it takes. */
function turnedOver(job: Job): number {
  const part = partOf(job);
  const { uv, cornerUv } = activeSet(part);
  let count = 0;
  for (let f = 0; f + 1 < part.mesh.faceStart.length; f++) {
    const at = Array.from({ length: 4 }, (_, k) => cornerUv[part.mesh.faceStart[f]! + k]! * 2);
    for (const [i, j, k] of [
      [0, 1, 2],
      [0, 2, 3],
    ] as const) {
      const [a, b, c] = [at[i]!, at[j]!, at[k]!];
      if ((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[b + 1]! - uv[a + 1]!) * (uv[c]! - uv[a]!) <= 0) count++;
    }
  }
  return count;
}

describe('islands on the outlines of a picture: where the picture was drawn from is known', () => {
  const { mesh, uv } = cards();

  it('each goes back to its own piece by the likeness of the outlines, from anywhere', async () => {
    const whole = await jobOf(mesh, uv, picture(inside));
    const job = scattered(whole, (k) => ({ turn: [2.5, -1.2, 0.7][k]!, size: [0.5, 1.6, 0.9][k]!, by: [0.3 * (k - 1), 0.2] }));
    expect(offBy(job, uv).mean).toBeGreaterThan(50);
    const { job: next, report } = await runOperation(job, 'matchOutline', { fit: 'each' });
    expect(offBy(next, uv).mean).toBeLessThan(0.6);
    expect(offBy(next, uv).most).toBeLessThan(1.5);
    expect(report.matched.every(({ error }) => error < 0.5)).toBe(true);
    expect(report.unused).toBe(0);
    // packing leaves them there
    expect(activeSet(partOf(next)).locked?.every((x) => x === 1)).toBe(true);
  });

  it('those that are near go to the piece they are on', async () => {
    const job = scattered(await jobOf(mesh, uv, picture(inside)), (k) => ({ turn: 0.1, size: 0.9, by: [0.02 * (k - 1), 0.01] }));
    const { job: next } = await runOperation(job, 'matchOutline', { fit: 'each', pieces: 'near', lock: false });
    expect(offBy(next, uv).most).toBeLessThan(1.5);
    expect(activeSet(partOf(next)).locked).toBeUndefined();
  });

  it('all by one similarity, with a piece in the picture that is none of theirs; the figure is each one’s own', async () => {
    const both = cards(undefined, [0, 2]);
    const job = scattered(await jobOf(both.mesh, both.uv, picture(inside)), () => ({ turn: 2, size: 0.4, by: [0.5, -0.7] }), true);
    const { job: next, report } = await runOperation(job, 'matchOutline', { fit: 'together' });
    expect(offBy(next, both.uv).most).toBeLessThan(1.5);
    expect(report.matched).toHaveLength(2);
  });

  it('what was pushed out of shape has its border drawn onto the outline, nothing turned over', async () => {
    const whole = await jobOf(mesh, uv, picture(inside));
    const set = activeSet(partOf(whole));
    const bent = set.uv.map((x, k) => (k % 2 === 0 ? x + 0.02 * Math.sin(9 * set.uv[k + 1]!) : x + 0.015 * Math.sin(11 * set.uv[k - 1]!)));
    const job = withSet(whole, 'p', { ...set, uv: bent });
    expect(offBy(job, uv).mean).toBeGreaterThan(4);
    const { job: next, report } = await runOperation(job, 'matchOutline', { fit: 'shape' });
    expect(turnedOver(next)).toBe(0);
    expect(offBy(next, uv).mean).toBeLessThan(1.2);
    for (const { error, shaped } of report.matched) {
      expect(error).toBeLessThan(0.5);
      // the cards are flat: where they fit they have no stretch
      expect(shaped!.after).toBeLessThan(4.02);
      expect(shaped!.after).toBeLessThan(shaped!.before);
    }
  });

  it('a mirrored island is drawn onto its outline mirrored as it is', async () => {
    const one = cards(undefined, [1]);
    const mirrored = one.uv.map((x, k) => (k % 2 === 0 ? 1.5 - x : x));
    const job = await jobOf(
      one.mesh,
      mirrored,
      picture((u, v) => outlines[1]!.inside(1.5 - u, v)),
    );
    const slid = withSet(job, 'p', { ...activeSet(partOf(job)), uv: mirrored.map((x, k) => x + (k % 2 === 0 ? 0.03 : -0.02)) });
    const { job: next } = await runOperation(slid, 'matchOutline', { fit: 'shape', pieces: 'near' });
    expect(offBy(next, mirrored).mean).toBeLessThan(1);
  });

  it('a picture that is not square: sizes are even in its own px', async () => {
    const [width, height] = [600, 300];
    const job = await jobOf(mesh, uv, picture(inside, width, height));
    // the cards are cut in px: those of the picture are not square on the sheet
    const { job: next } = await runOperation(
      scattered(job, () => ({ turn: 0, size: 1, by: [0.01, -0.02] })),
      'matchOutline',
      { fit: 'each', pieces: 'near' },
    );
    expect(offBy(next, uv).most).toBeLessThan(3);
  });

  it('with nothing selected only islands of parts that show the picture are matched', async () => {
    const job = scattered(await jobOf(mesh, uv, picture(inside)), () => ({ turn: 0.1, size: 0.9, by: [0.02, 0.01] }));
    const beside: Part = { ...partOf(job), id: 'other', name: 'Other', imageId: null };
    const both: Job = { ...job, parts: [...job.parts, beside] };
    const { job: next, report } = await runOperation(both, 'matchOutline', {});
    expect(report.matched.map(({ part }) => part)).toEqual(['p', 'p', 'p']);
    expect(activeSet(next.parts[1]!)).toBe(activeSet(beside));
  });

  it('pins stay where they are while the border is drawn', async () => {
    const whole = await jobOf(mesh, uv, picture(inside));
    const set = activeSet(partOf(whole));
    const pins = new Uint8Array(set.pins.length);
    const middle = 7 * (n + 1) + 7;
    pins[middle] = 1;
    const { job: next } = await runOperation(withSet(whole, 'p', { ...set, pins }), 'matchOutline', { fit: 'shape', pieces: 'near' });
    const moved = activeSet(partOf(next)).uv;
    // the island as a whole is fitted first, some tenths of a px
    expect(Math.hypot(moved[middle * 2]! - uv[middle * 2]!, moved[middle * 2 + 1]! - uv[middle * 2 + 1]!) * size).toBeLessThan(0.6);
  });

  it('says what is amiss: no picture, nothing opaque, opaque all over, nothing laid out', async () => {
    const bare = newJob(
      'j',
      'x',
      partsOf(await jobOf(mesh, uv, picture(inside))).map((part) => ({ ...part, imageId: null })),
    );
    await expect(runOperation(bare, 'matchOutline', {})).rejects.toThrow('shows no picture');
    await expect(
      runOperation(
        await jobOf(
          mesh,
          uv,
          picture(() => false),
        ),
        'matchOutline',
        {},
      ),
    ).rejects.toThrow('Nothing in the picture is opaque');
    await expect(
      runOperation(
        await jobOf(
          mesh,
          uv,
          picture(() => true),
        ),
        'matchOutline',
        {},
      ),
    ).rejects.toThrow('opaque all over');
    await expect(runOperation(await jobOf(mesh, null, picture(inside)), 'matchOutline', {})).rejects.toThrow('No island has a place');
  });
});

const partsOf = (job: Job) => job.parts;

describe('a picture that stands in space as one frame for its parts', () => {
  /** Where the picture stood when the parts were traced: turned, sized and slid in its plane. */
  const [turn, width] = [0.4, 3.2];
  const traced = (u: number, v: number, z: number): [number, number, number] => {
    const [x, y] = [(u - 0.5) * width, (v - 0.5) * width];
    return [Math.cos(turn) * x - Math.sin(turn) * y + 5, Math.sin(turn) * x + Math.cos(turn) * y - 2, z];
  };
  async function parts(): Promise<{ job: Job; wanted: Float64Array[] }> {
    const made = [0, 1, 2].map((k) => cards((u, v) => traced(u, v, 0.2 * k), [k]));
    const all = made.map(({ mesh }, k): Part => ({
      id: `p${k}`,
      name: `Card ${k}`,
      mesh,
      uvSets: [emptyUvSet(mesh)],
      activeUv: 0,
      imageId: null,
      origin: { kind: 'made' },
    }));
    const { job } = await runOperation(newJob('j', 'cards', all), 'addImages', { images: [{ name: 'cards.png', bytes: picture(inside) }], show: true });
    const imageId = job.images[0]!.id;
    return { job: { ...job, parts: job.parts.map((part) => ({ ...part, imageId })) }, wanted: made.map(({ uv }) => uv) };
  }
  const worst = (job: Job, wanted: readonly Float64Array[]) =>
    Math.max(
      ...job.parts.flatMap((part, k) => {
        const { uv, cornerUv } = activeSet(part);
        return Array.from(
          part.mesh.corners,
          (p, c) => Math.hypot(uv[cornerUv[c]! * 2]! - wanted[k]![p * 2]!, uv[cornerUv[c]! * 2 + 1]! - wanted[k]![p * 2 + 1]!) * size,
        );
      }),
    );

  it('its place, turn and size are found by the outlines of all parts; one jig drives them all', async () => {
    const { job, wanted } = await parts();
    const { job: next, report } = await runOperation(job, 'standPicture', { fit: true });
    expect(worst(next, wanted)).toBeLessThan(1);
    expect(report.width).toBeCloseTo(width, 1);
    expect(report.errors.map(({ name }) => name)).toEqual(['Card 0', 'Card 1', 'Card 2']);
    expect(Math.max(...report.errors.map(({ error }) => error))).toBeLessThan(0.6);
    expect(next.jigs).toHaveLength(1);
    expect(next.jigs![0]).toMatchObject({ belongs: 'space', state: 'live' });
    expect(next.jigs![0]!.drives).toHaveLength(3);
  });

  it('at the width it was traced at UVs are taken exactly, once two places lie on two points', async () => {
    const { job, wanted } = await parts();
    const { job: stood, report } = await runOperation(job, 'standPicture', { width });
    expect(worst(stood, wanted)).toBeGreaterThan(20);
    const { job: next } = await runOperation(stood, 'fitFrame', {
      id: report.jig,
      points: [traced(0.1, 0.65, 0), traced(0.9, 0.6, 0.2)],
      places: [
        [0.1, 0.65],
        [0.9, 0.6],
      ],
    });
    expect(worst(next, wanted)).toBeLessThan(1e-6);
  });

  it('a part that was not traced so is told by its own figure', async () => {
    const { job } = await parts();
    const off = job.parts[1]!;
    const points = off.mesh.points.map((x, k) => (k % 3 === 0 ? (x - 5) * 1.25 + 5 : x));
    const changed: Job = { ...job, parts: job.parts.map((part) => (part === off ? { ...part, mesh: { ...part.mesh, points } } : part)) };
    const { report } = await runOperation(changed, 'standPicture', { fit: true });
    const [first, second, third] = report.errors.map(({ error }) => error);
    expect(second!).toBeGreaterThan(3 * Math.max(first!, third!));
  });

  it('of several selected parts these, though they show another picture; they show it then', async () => {
    const { job } = await parts();
    const two: Job = { ...job, selectedParts: ['p0', 'p2'], parts: job.parts.map((part) => (part.id === 'p2' ? { ...part, imageId: null } : part)) };
    const { job: next } = await runOperation(two, 'standPicture', {});
    expect(next.jigs![0]!.drives.map(({ part }) => part)).toEqual(['p0', 'p2']);
    expect(next.parts[2]!.imageId).toBe(job.parts[0]!.imageId);
  });

  it('of a selection only what is selected; points that are one, and jigs that are no frame, are refused', async () => {
    const { job } = await parts();
    const some: Job = { ...job, selection: { part: 'p0', kind: 'faces', ids: Uint32Array.of(0, 1, 2) } };
    const { job: next, report } = await runOperation(some, 'standPicture', {});
    expect(next.jigs![0]!.drives.map(({ part, faces }) => [part, [...faces]])).toEqual([['p0', [0, 1, 2]]]);
    const same = {
      points: [traced(0, 0, 0), traced(0, 0, 1)],
      places: [
        [0, 0],
        [1, 1],
      ],
    };
    await expect(runOperation(next, 'fitFrame', { id: report.jig, ...same } as never)).rejects.toThrow('are one as the picture sees them');
    await expect(runOperation(next, 'fitFrame', { id: report.jig, points: same.points } as never)).rejects.toThrow('two places');
    await expect(runOperation(next, 'fitFrame', { id: 'jig-9' })).rejects.toThrow('There is no jig');
  });
});

describe('a mesh that nobody here made: islands of the npm package bunny on a picture of their own outlines', () => {
  it('scattered, each finds back to its outline', async () => {
    const { positions, cells } = createRequire(import.meta.url)('bunny') as { positions: number[][]; cells: number[][] };
    const mesh = meshFromFaces(positions.flat(), cells);
    const part: Part = { id: 'p', name: 'Bunny', mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    const { job: laid } = await runOperation(newJob('j', 'bunny', [part]), 'firstLayout', { by: 'flat', angle: 60 });
    const { job: packed } = await runOperation(laid, 'pack', { size: '512', margin: 6, effort: 0 });
    const set = activeSet(partOf(packed));
    const { uv } = set;
    // painted triangle by triangle: the borders of islands are not asked
    const data = new Uint8Array(size * size * 4);
    for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
      const [a, b, c] = [0, 1, 2].map((k) => [
        uv[set.cornerUv[mesh.faceStart[f]! + k]! * 2]! * size,
        (1 - uv[set.cornerUv[mesh.faceStart[f]! + k]! * 2 + 1]!) * size,
      ]) as [number[], number[], number[]];
      const side = (p: number[], q: number[], x: number, y: number) => (q[0]! - p[0]!) * (y - p[1]!) - (q[1]! - p[1]!) * (x - p[0]!);
      for (let y = Math.max(0, Math.floor(Math.min(a[1]!, b[1]!, c[1]!))); y < Math.min(size, Math.max(a[1]!, b[1]!, c[1]!) + 1); y++)
        for (let x = Math.max(0, Math.floor(Math.min(a[0]!, b[0]!, c[0]!))); x < Math.min(size, Math.max(a[0]!, b[0]!, c[0]!) + 1); x++) {
          const s = [side(a, b, x + 0.5, y + 0.5), side(b, c, x + 0.5, y + 0.5), side(c, a, x + 0.5, y + 0.5)];
          if (s.every((one) => one >= 0) || s.every((one) => one <= 0)) data.set([90, 120, 160, 255], (y * size + x) * 4);
        }
    }
    const { job: shown } = await runOperation(packed, 'addImages', {
      images: [{ name: 'b.png', bytes: encode({ width: size, height: size, data, channels: 4, depth: 8 }) }],
      show: true,
    });
    const job = scattered(shown, (k) => ({ turn: 0.15 * ((k % 3) - 1), size: 0.9 + 0.05 * (k % 4), by: [0.01 * ((k % 5) - 2), 0.008 * ((k % 4) - 1.5)] }));
    expect(offBy(job, uv).mean).toBeGreaterThan(5);
    const { job: next, report } = await runOperation(job, 'matchOutline', { fit: 'each', pieces: 'near' });
    expect(report.matched.length).toBeGreaterThan(4);
    expect(offBy(next, uv).mean).toBeLessThan(0.6);
    const { job: far } = await runOperation(
      scattered(shown, (k) => ({ turn: 0.4 * ((k % 3) - 1), size: 0.6, by: [0.2 * ((k % 5) - 2), 0.1 * ((k % 4) - 1.5)] })),
      'matchOutline',
      { fit: 'each', pieces: 'like' },
    );
    expect(offBy(far, uv).mean).toBeLessThan(3);
  });
});

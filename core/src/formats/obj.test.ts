import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { activeSet, type Part } from '../job/job.ts';
import { JigError } from '../jigError.ts';
import { seededRandom } from '../numeric/random.ts';
import { parseDouble } from './bytes.ts';
import { readObj } from './objRead.ts';
import { writeMtl, writeObj } from './objWrite.ts';
import { openFiles } from './open.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const text = (data: Uint8Array) => new TextDecoder().decode(data);
const open = (source: string) => openFiles([{ name: 'a.obj', bytes: bytes(source) }], 'job');
const faces = (part: { mesh: Part['mesh'] }) =>
  Array.from({ length: part.mesh.faceStart.length - 1 }, (_, f) => [...part.mesh.corners.slice(part.mesh.faceStart[f], part.mesh.faceStart[f + 1])]);

const square = 'v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\n';

describe('corner cases of the format (Wavefront, Appendix B1)', () => {
  it('negative numbers count back from the last one so far', () => {
    const { parts } = readObj(bytes(`${square}vt 0 0\nvt 1 0\nvt 1 1\nf -4/-3 -3/-2 -2/-1\nv 2 2 2\nf -1 -2 -3\n`));
    expect(faces(parts[0]!)).toEqual([
      [0, 1, 2],
      [4, 3, 2],
    ]);
    expect([...parts[0]!.uvSet.cornerUv.slice(0, 3)]).toEqual([0, 1, 2]);
  });

  it('all four forms of a corner, and faces with and without vt side by side', () => {
    const { parts } = readObj(bytes(`${square}vt 0 0\nvt 1 0\nvt 1 1\nvn 0 0 1\nf 1 2 3\nf 1/1 2/2 3/3\nf 1//1 2//1 3//1\nf 1/1/1 2/2/1 3/3/1\n`));
    const { mesh, uvSet } = parts[0]!;
    expect([...uvSet.unplaced]).toEqual([1, 0, 1, 0]);
    expect([...mesh.cornerNormal!]).toEqual([-1, -1, -1, -1, -1, -1, 0, 0, 0, 0, 0, 0]);
  });

  it('polygons of any number of sides stay polygons', () => {
    const ring = Array.from({ length: 9 }, (_, k) => `v ${Math.cos(k)} ${Math.sin(k)} 0`).join('\n');
    const { parts } = readObj(bytes(`${ring}\nf 1 2 3 4 5 6 7 8 9\nf 1 2 3 4\n`));
    expect(faces(parts[0]!).map((f) => f.length)).toEqual([9, 4]);
  });

  it('several objects become parts with their own points, groups and materials', () => {
    const { parts } = readObj(bytes(`o One\n${square}g left\nusemtl red\nf 1 2 3\no Two\nv 5 5 5\nusemtl blue\nf 1 2 5\nf 2 3 5\n`));
    expect(parts.map((part) => [part.name, part.mesh.points.length / 3, faces(part).length, part.mesh.materials])).toEqual([
      ['One', 4, 1, ['red']],
      ['Two', 4, 2, ['blue']],
    ]);
    expect([...parts[1]!.filePoints!]).toEqual([0, 1, 2, 4]);
  });

  it('CRLF, bare CR, tabs, trailing blanks, comments and empty lines', () => {
    const { parts } = readObj(bytes('# head\r\n\r\nv 0\t0 0 \r\nv 1 0 0 # one\rv 0 1 0\n\n\tf 1 2 3\r\n'));
    expect(faces(parts[0]!)).toEqual([[0, 1, 2]]);
  });

  it('a line goes on after a backslash', () => {
    const { parts } = readObj(bytes(`${square}f 1 \\\n 2 \\\r\n 3\\\n 4\nv 0 \\\n1 2\n`));
    expect(faces(parts[0]!)).toEqual([[0, 1, 2, 3]]);
    expect(parts[0]!.mesh.points.length).toBe(15);
  });

  it('vertex colours with and without a weight, points without a colour are white', () => {
    const { parts } = readObj(bytes('v 0 0 0\nv 1 0 0 0.5 0.25 1\nv 0 1 0 1 0.1 0.2 0.3\nf 1 2 3\n'));
    expect([...parts[0]!.mesh.pointColors!]).toEqual([1, 1, 1, 0.5, 0.25, 1, 0.1, 0.2, 0.3]);
  });

  it('smoothing groups, “off”, groups of several names', () => {
    const { parts } = readObj(bytes(`${square}s 3\ng a b\nf 1 2 3\ns off\nf 1 3 4\n`));
    expect([...parts[0]!.mesh.faceSmooth]).toEqual([3, 0]);
    expect(parts[0]!.mesh.groups).toEqual(['a b']);
  });

  it('lines, loose points and curves are passed over and counted', () => {
    expect(readObj(bytes(`${square}l 1 2\nl 2 3\np 1\nf 1 2 3\nf 1 2\n`)).skipped).toEqual([
      '2 × lines passed over',
      '1 × loose points passed over',
      '1 × “f with fewer than three corners” passed over',
    ]);
  });

  it('numbers in every notation are read to the nearest double', () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), fc.integer({ min: 0, max: 3 }), (x, form) => {
        const word = form === 0 ? String(x) : form === 1 ? x.toExponential() : form === 2 ? x.toPrecision(12) : Math.abs(x) < 1e15 ? x.toFixed(6) : String(x);
        expect(parseDouble(bytes(word), 0, word.length)).toBe(Number(word));
      }),
    );
    for (const bad of ['', '-', '.', '1.2.3', 'e5', '1e', 'nan', 'inf', '0x10', '1,5']) expect(parseDouble(bytes(bad), 0, bad.length)).toBeNaN();
  });
});

describe('writing', () => {
  const source = `mtllib m.mtl\no Thing\n${square}v 9 9 9\nv 0.1 0.2 0.30000000000000004\nvt 0 0\nvt 1 0\nvt 0.123456789012345 1\nvt 0.7 0.7\nvn 0 0 1\ng side\nusemtl stone\ns 1\nf 1/1/1 2/2/1 3/3/1 4/1/1\ns off\nf 1//1 2//1 6//1\n`;

  it('gives back points, polygons, groups, materials, smoothing, normals and every vt exactly', async () => {
    const job = await open(source);
    const again = await openFiles([{ name: 'a.obj', bytes: writeObj(job.parts, 'm.mtl') }], 'job');
    const [a, b] = [job.parts[0]!, again.parts[0]!];
    expect(b.mesh).toEqual(a.mesh);
    expect(activeSet(b).uv.slice(0, 8)).toEqual(activeSet(a).uv.slice(0, 8));
    expect(activeSet(b).cornerUv.slice(0, 4)).toEqual(activeSet(a).cornerUv.slice(0, 4));
    expect(activeSet(b).unplaced).toEqual(activeSet(a).unplaced);
  });

  it('keeps the file’s own order of points over several objects that share them', async () => {
    const job = await open(`v 0 0 0\nv 1 0 0\nv 1 1 0\no A\nf 1 2 3\nv 7 7 7\nv 2 2 2\no B\nf 3 5 1\n`);
    const lines = text(writeObj(job.parts, null)).split('\n');
    expect(lines.filter((line) => line.startsWith('v '))).toEqual(['v 0 0 0', 'v 1 0 0', 'v 1 1 0', 'v 7 7 7', 'v 2 2 2']);
    expect(lines.filter((line) => line.startsWith('f '))).toEqual(['f 1 2 3', 'f 3 5 1']);
  });

  it('read(write(x)) = x for random polygon meshes (property)', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(), fc.integer({ min: 3, max: 40 }), fc.integer({ min: 1, max: 30 }), async (seed, points, count) => {
        const random = seededRandom(seed);
        let obj = '';
        for (let p = 0; p < points; p++) obj += `v ${random() * 1e3 - 500} ${random()} ${random() * 1e-8}\n`;
        for (let p = 0; p < points; p++) obj += `vt ${random()} ${random()}\n`;
        for (let f = 0; f < count; f++) {
          const sides = 3 + Math.floor(random() * 4);
          const corner = () => 1 + Math.floor(random() * points);
          const withUv = random() < 0.8;
          if (random() < 0.2) obj += `usemtl m${Math.floor(random() * 3)}\n`;
          obj += `f ${Array.from({ length: sides }, () => (withUv ? `${corner()}/${corner()}` : corner())).join(' ')}\n`;
        }
        const job = await open(obj);
        const again = await openFiles([{ name: 'a.obj', bytes: writeObj(job.parts, null) }], 'job');
        expect(again.parts[0]!.mesh).toEqual(job.parts[0]!.mesh);
        const place = (part: Part) => {
          const set = activeSet(part);
          return [...set.cornerUv].map((id, c) =>
            set.unplaced[[...part.mesh.faceStart].findLastIndex((s) => s <= c)] ? null : [set.uv[id * 2], set.uv[id * 2 + 1]],
          );
        };
        expect(place(again.parts[0]!)).toEqual(place(job.parts[0]!));
      }),
      { numRuns: 60 },
    );
  });

  it('a material file keeps its text and gains the names that it lacks', async () => {
    const job = await open(source);
    const mtl = text(writeMtl(job.parts, 'newmtl moss\nKd 0 1 0\nmap_Kd moss.png\n')!.bytes);
    expect(mtl).toContain('map_Kd moss.png');
    expect(mtl).toContain('newmtl stone');
    expect(writeMtl((await open(`${square}f 1 2 3\n`)).parts, null)).toBeNull();
  });
});

describe('bad input gives one clear sentence', () => {
  it.each([
    ['empty', '', 'empty-file', /empty/],
    ['only comments', '# nothing\n', 'no-faces', /no faces/],
    ['points without faces', square, 'no-faces', /4 points but no faces/],
    ['NaN', 'v 0 nan 0\nf 1 1 1\n', 'bad-number', /a\.obj, line 1: “nan” is not a number/],
    ['infinity', 'v 1e999 0 0\n', 'bad-number', /line 1/],
    ['a number too few', 'v 0 0\n', 'bad-number', /line 1.*missing/],
    ['point out of range', `${square}f 1 2 9\n`, 'bad-index', /line 5.*point 9, but there are 4/],
    ['negative out of range', `${square}f -1 -2 -9\n`, 'bad-index', /point -9/],
    ['zero', `${square}f 0 1 2\n`, 'bad-index', /point 0/],
    ['vt out of range', `${square}vt 0 0\nf 1/1 2/1 3/2\n`, 'bad-index', /texture point 2/],
    ['words for a corner', `${square}f a b c\n`, 'bad-index', /“a” is not a corner/],
    ['four fields', `${square}f 1/1/1/1 2 3\n`, 'bad-index', /line 5/],
  ])('%s', async (_name, source, code, sentence) => {
    const error = await open(source).catch((e: unknown) => e);
    expect(error).toBeInstanceOf(JigError);
    expect((error as JigError).code).toBe(code);
    expect((error as JigError).sentence).toMatch(sentence);
  });

  it('two million points without faces end in a sentence, without hanging', async () => {
    const start = performance.now();
    await expect(open('v 0.123 4.567 8.901\n'.repeat(2_000_000))).rejects.toThrow(/2000000 points but no faces/);
    expect(performance.now() - start).toBeLessThan(20_000);
  });

  it('random damage never hangs and never throws anything but a JigError (property)', async () => {
    const good = `${square}vt 0 0\nvt 1 0\nvt 1 1\nvn 0 0 1\no A\ng x\nusemtl m\ns 1\nf 1/1/1 2/2/1 3/3/1\no B\nf 1/1 3/3 4/2\n`;
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(good.length - 1), fc.integer({ min: 0, max: 255 })), { maxLength: 12 }),
        fc.nat(good.length),
        async (damage, end) => {
          const data = bytes(good).slice(0, Math.max(1, end));
          for (const [at, value] of damage) if (at < data.length) data[at] = value;
          try {
            const job = await openFiles([{ name: 'a.obj', bytes: data }], 'job');
            for (const part of job.parts) for (const p of part.mesh.corners) expect(p * 3).toBeLessThan(part.mesh.points.length);
          } catch (error) {
            if (!(error instanceof JigError)) throw error;
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it('a name that is no model is refused with the ones that are', async () => {
    await expect(openFiles([{ name: 'a.xyz', bytes: bytes('hello') }], 'job')).rejects.toThrow(/“a\.xyz” cannot be opened/);
    await expect(openFiles([], 'job')).rejects.toThrow(/No file/);
  });
});

describe('what was read is listed', () => {
  it('missing material files, non-manifold edges and winding are said', async () => {
    const job = await open(`mtllib lost.mtl\nv 0 0 0\nv 0 1 0\nv 1 0 0\nv -1 0 0\nv 0 0 1\nf 1 2 3\nf 1 2 4\nf 1 2 5\n`);
    expect(job.intake.join('\n')).toMatch(/lost\.mtl/);
    expect(job.intake.join('\n')).toMatch(/1 edges have more than two faces/);
  });
});

import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { decode, encode } from 'fast-png';
import { beforeAll, describe, expect, it } from 'vitest';
import { box, newJob, emptyUvSet, torus, writeArchive, writeObj, type Part } from '@jig-peel/core';
import { run } from './program.ts';

let folder: string;
const at = (name: string) => join(folder, name);
const part = (name: string, mesh: Part['mesh']): Part => ({
  id: name,
  name,
  mesh,
  uvSets: [emptyUvSet(mesh)],
  activeUv: 0,
  imageId: null,
  origin: { kind: 'made' },
});

beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'jig-'));
  writeFileSync(at('box.obj'), writeObj([part('box', box(1, 2, 3))], null));
  writeFileSync(at('two.obj'), writeObj(newJob('j', 'two', [part('box', box()), part('ring', torus(1, 0.3, 16, 8))]).parts, null));
  writeFileSync(at('bad.obj'), 'v 0 0 0\nf 1 2 3\n');
});

async function jig(...args: string[]) {
  let out = '';
  let err = '';
  const code = await run(args, { out: (t) => (out += t), err: (t) => (err += t), terminal: false });
  return {
    code,
    out,
    err,
    json: () =>
      JSON.parse(out) as {
        ok: boolean;
        operation: string;
        report: Record<string, unknown>;
        timings: Record<string, number>;
        threads: number;
        peakMemory: number;
        error?: { code: string; message: string };
      },
  };
}

describe('the contract of the command line', () => {
  it('info: one JSON object on standard output and nothing else there', async () => {
    const { code, json } = await jig('info', at('two.obj'), '--json');
    expect(code).toBe(0);
    const { ok, operation, report, timings, threads, peakMemory } = json();
    expect([ok, operation, threads]).toEqual([true, 'info', 1]);
    expect(Object.keys(timings)).toEqual(['read', 'info', 'write']);
    expect(peakMemory).toBeGreaterThan(1e6);
    expect((report.parts as { name: string; euler: number; genus: number }[]).map((p) => [p.name, p.euler, p.genus])).toEqual([
      ['box', 2, 0],
      ['ring', 0, 1],
    ]);
  });

  it('run works many files through a recipe, carries on past a bad one, goes on where it stopped', async () => {
    const recipe = {
      jigPeelRecipe: 1,
      name: 'Crates',
      steps: [
        { operation: 'firstLayout', params: { by: 'crease' } },
        { operation: 'density', params: { even: true } },
        { operation: 'pack', params: { size: '1024', margin: 6, effort: 0 } },
      ],
    };
    writeFileSync(at('recipe.json'), JSON.stringify(recipe));
    writeFileSync(at('broken.obj'), 'v 0 0 0\nf 1 2 3\n');
    const call = ['run', at('recipe.json'), at('box.obj'), at('broken.obj'), at('two.obj'), at('absent.obj'), '-o', at('batch'), '--json'];
    const first = await jig(...call);
    expect(first.code).toBe(1);
    const { report } = first.json() as unknown as {
      report: { done: number; failed: number; skipped: number; files: { ok: boolean; words: string; files: string[] }[] };
    };
    expect(report).toMatchObject({ done: 2, failed: 2, skipped: 0 });
    expect(report.files.map(({ ok }) => ok)).toEqual([true, false, true, false]);
    expect(report.files[1]!.words).toMatch(/point/);
    expect(report.files[3]!.words).toMatch(/no such file/);
    // what was written is as the recipe says, and has its report
    const figures = (await jig('check', at('batch/two.obj'), '--size', '1024', '--json')).json().report;
    expect(figures).toMatchObject({ facesWithoutUv: 0, overlapArea: 0, flippedTriangles: 0 });
    expect(figures.smallestGapPx).toBeGreaterThanOrEqual(6 - 1e-4);
    expect(JSON.parse(readFileSync(at('batch/two.report.json'), 'utf8'))).toMatchObject({ jigPeelReport: 1, job: 'two.obj' });
    // again: what is done is not done again, what failed is tried once more
    const again = await jig(...call);
    expect(again.json().report).toMatchObject({ done: 0, skipped: 2, failed: 2 });
    // a file that changed, and one whose output is gone, are
    writeFileSync(at('box.obj.keep'), readFileSync(at('box.obj')));
    writeFileSync(at('changed.obj'), readFileSync(at('two.obj')));
    const one = ['run', at('recipe.json'), at('changed.obj'), '-o', at('batch'), '--json'];
    expect((await jig(...one)).json().report).toMatchObject({ done: 1 });
    writeFileSync(at('changed.obj'), readFileSync(at('box.obj')));
    expect((await jig(...one)).json().report).toMatchObject({ done: 1, skipped: 0 });
    expect((await jig(...one)).json().report).toMatchObject({ done: 0, skipped: 1 });
    // another recipe, or limits, is another run
    writeFileSync(at('tight.json'), '{"jigPeelLimits":1,"limits":{"islands":2}}');
    const limited = await jig(...one, '--limits', at('tight.json'), '--parallel', '1', '--to', 'glb');
    expect([limited.code, limited.json().report]).toMatchObject([1, { done: 1, missed: 1 }]);
    expect(limited.json().report.files).toMatchObject([{ files: ['changed.glb', 'changed.report.json'], missed: ['islands'] }]);
    expect((await jig('run', at('box.obj'), at('box.obj'), '-o', at('batch'))).err).toMatch(/recipe is no JSON/);
    expect((await jig(...one, '--parallel', '0')).code).toBe(2);
  }, 120_000);

  it('carry brings a layout to a newer mesh of the same name', async () => {
    await jig('unwrap', at('two.obj'), '-o', at('two-old.jigpeel'), '--seams', 'crease');
    const text = readFileSync(at('two.obj'), 'utf8');
    // the first point of the box a little out
    const lines = text.split('\n');
    const first = lines.findIndex((line) => line.startsWith('v '));
    lines[first] = lines[first]!.split(' ')
      .map((x, k) => (k === 0 ? x : String(Number(x) * 1.1)))
      .join(' ');
    writeFileSync(
      at('two-new.obj'),
      lines
        .filter((line) => !line.startsWith('vt '))
        .map((line) => (line.startsWith('f ') ? line.replace(/\/\d*/g, '') : line))
        .join('\n'),
    );
    const { code, json } = await jig('carry', at('two-old.jigpeel'), at('two-new.obj'), '-o', at('two-carried.jigpeel'), '--json');
    expect(code).toBe(0);
    expect(json().report).toMatchObject({
      parts: [
        { part: 'box', onlyMoved: true, work: 3 },
        { part: 'ring', onlyMoved: true, work: 0 },
      ],
    });
    const figures = async (name: string) => (await jig('check', at(name), '--json')).json().report;
    expect((await figures('two-carried.jigpeel')).islands).toBe((await figures('two-old.jigpeel')).islands);
    expect((await jig('carry', at('bad.obj'), at('two-new.obj'), '-o', at('x.obj'))).code).toBe(1);
    expect((await jig('carry', at('two-old.jigpeel'), at('two-new.obj'), '-o', at('x.doc'))).code).toBe(2);
  });

  it('check judges by limits: exit 1 where one is not met, and a report of it', async () => {
    writeFileSync(at('limits.json'), '{"jigPeelLimits":1,"name":"Tight","limits":{"flips":0,"islands":5}}');
    await jig('unwrap', at('box.obj'), '-o', at('limited.obj'), '--seams', 'crease');
    const judged = await jig('check', at('limited.obj'), '--limits', at('limits.json'), '--report', at('report.html'), '--json');
    expect(judged.code).toBe(1);
    expect(judged.json()).toMatchObject({
      ok: true,
      report: {
        islands: 6,
        passed: false,
        verdicts: [
          { key: 'flips', figure: 0, limit: 0, passed: true },
          { key: 'islands', figure: 6, limit: 5, passed: false },
        ],
      },
    });
    const html = readFileSync(at('report.html'), 'utf8');
    expect(html).toContain('by Tight');
    expect(html).toContain('✗ 1 limit is not kept.');
    writeFileSync(at('limits.json'), '{"jigPeelLimits":1,"limits":{"islands":6}}');
    const kept = await jig('check', at('limited.obj'), '--limits', at('limits.json'), '--report', at('report.json'));
    expect(kept.code).toBe(0);
    expect(kept.out).toMatch(/kept +Islands/);
    expect(JSON.parse(readFileSync(at('report.json'), 'utf8'))).toMatchObject({ jigPeelReport: 1, passed: true });
    // without limits given the job's own are told, and break nothing
    expect((await jig('check', at('limited.obj'), '--report', at('own.html'))).code).toBe(0);
    writeFileSync(at('limits.json'), 'no');
    const wrong = await jig('check', at('limited.obj'), '--limits', at('limits.json'));
    expect([wrong.code, wrong.err]).toEqual([1, expect.stringMatching(/no JSON/)]);
    expect((await jig('check', at('limited.obj'), '--report', at('report.doc'))).code).toBe(2);
  });

  it('check reports every figure of the contract', async () => {
    await jig('unwrap', at('box.obj'), '-o', at('u.obj'), '--seams', 'crease');
    const { report } = (await jig('check', at('u.obj'), '--size', '1024', '--json')).json();
    expect(Object.keys(report).sort()).toEqual(
      'islands flippedTriangles concavePolygons fanFlips mirroredIslands overlapArea outsideArea stretchL2 stretchLinf symmetricDirichlet conformalMean areaDistortionP99 densityMin densityMedian densityMax densityCV coverage smallestGapPx smallestBorderGapPx seamLength hiddenSeamShare seamInSight facesWithoutUv'
        .split(' ')
        .sort(),
    );
    expect(report).toMatchObject({ islands: 6, flippedTriangles: 0, overlapArea: 0, facesWithoutUv: 0 });
    expect(report.symmetricDirichlet).toBeCloseTo(4, 6);
  });

  it('bake: a model with several materials and images, its picture taken over to a new layout, in threads', async () => {
    const flat = (rgb: number[]) => encode({ width: 8, height: 8, data: Uint8Array.from({ length: 192 }, (_, k) => rgb[k % 3]!), channels: 3, depth: 8 });
    writeFileSync(at('red.png'), flat([200, 20, 10]));
    writeFileSync(at('blue.png'), flat([10, 30, 220]));
    writeFileSync(at('painted.mtl'), 'newmtl a\nmap_Kd red.png\nnewmtl b\nmap_Kd blue.png\n');
    writeFileSync(
      at('painted.obj'),
      'mtllib painted.mtl\nv 0 0 0\nv 1 0 0\nv 2 0 0\nv 0 1 0\nv 1 1 0\nv 2 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nvt 0 1\nusemtl a\nf 1/1 2/2 5/3 4/4\nusemtl b\nf 2/1 3/2 6/3 5/4\n',
    );
    expect((await jig('unwrap', at('painted.obj'), '-o', at('flat.obj'), '--overwrite')).code).toBe(0);
    // both squares lay on one another
    expect((await jig('pack', at('flat.obj'), '-o', at('laid.obj'), '--overwrite')).code).toBe(0);
    const { code, json } = await jig('bake', at('laid.obj'), '--from', at('painted.obj'), '-o', at('tex.png'), '--size', '512', '--bleed', 'full', '--json');
    expect(code).toBe(0);
    expect(json().report).toMatchObject({ width: 512, height: 512, contested: 0 });
    const { data, channels } = decode(readFileSync(at('tex.png')));
    const colours = new Map<string, number>();
    for (let k = 0; k < data.length; k += channels) {
      const key = [...data.slice(k, k + 3)].join();
      colours.set(key, (colours.get(key) ?? 0) + 1);
    }
    // both, in like shares, and little else but between them
    expect(colours.get('200,20,10')!).toBeGreaterThan(50_000);
    expect(colours.get('10,30,220')!).toBeGreaterThan(50_000);
    const wrong = await jig('bake', at('box.obj'), '-o', at('x.png'));
    expect([wrong.code, wrong.err]).toEqual([1, expect.stringContaining('no layout to bake to')]);
    expect((await jig('bake', at('laid.obj'), '-o', at('x.obj'))).code).toBe(2);
    expect((await jig('bake', at('laid.obj'), '-o', at('x.png'), '--samples', '5')).code).toBe(2);
  }, 60_000);

  it('unwrap, density, pack, convert, guide one after the other; polygons and names stay', async () => {
    expect((await jig('unwrap', at('two.obj'), '-o', at('1.jigpeel'), '--seams', 'crease')).code).toBe(0);
    expect((await jig('unwrap', at('box.obj'), '-o', at('1.obj'), '--seams', 'crease')).code).toBe(0);
    expect((await jig('density', at('1.obj'), '-o', at('2.obj'), '--target', '100')).code).toBe(0);
    const density = (await jig('check', at('2.obj'), '--json')).json().report;
    expect(density.densityMedian).toBeCloseTo(100, 6);
    const packed = (await jig('pack', at('2.obj'), '-o', at('3.glb'), '--size', '1024x512', '--margin', '3', '--turn', 'none', '--json')).json();
    expect(packed.report).toMatchObject({ packed: 6, files: [at('3.glb')] });
    const figures = (await jig('check', at('3.glb'), '--size', '1024x512', '--json')).json().report;
    expect(figures.smallestGapPx as number).toBeGreaterThanOrEqual(3 - 1e-3);
    expect(figures.conformalMean).toBeCloseTo(1, 4);
    expect((await jig('convert', at('3.glb'), '-o', at('4.obj'))).code).toBe(0);
    expect((await jig('guide', at('4.obj'), '-o', at('g.png'), '--size', '256')).code).toBe(0);
    expect([...readFileSync(at('g.png')).subarray(1, 4)]).toEqual([80, 78, 71]);
    expect((await jig('guide', at('4.obj'), '-o', at('g.svg'))).code).toBe(0);
    expect(readFileSync(at('g.svg'), 'utf8')).toContain('<svg');
    const obj = readFileSync(at('2.obj'), 'utf8');
    expect(obj.match(/^f (\S+ ){3}\S+$/gm)?.length).toBe(6);
    expect(obj).toContain('o box');
  });

  it('packs by effort and seed in threads, locks, puts the chosen into free space, fits and moves tiles', async () => {
    expect((await jig('unwrap', at('box.obj'), '--seams', 'crease', '-o', at('laid.obj'), '--json')).code).toBe(0);
    const packed = await jig('pack', at('laid.obj'), '-o', at('packed.obj'), '--size', '1024', '--turn', 'free', '--effort', '1', '--seed', '3', '--json');
    expect(packed.code).toBe(0);
    const { coverage } = packed.json().report as { coverage: number };
    const again = await jig('pack', at('laid.obj'), '-o', at('again.obj'), '--size', '1024', '--turn', 'free', '--effort', '1', '--seed', '3', '--json');
    expect((again.json().report as { coverage: number }).coverage).toBe(coverage);
    expect(readFileSync(at('again.obj'), 'utf8')).toBe(readFileSync(at('packed.obj'), 'utf8'));
    const locked = await jig('pack', at('packed.obj'), '-o', at('locked.obj'), '--size', '1024', '--lock', '0,1', '--effort', '0', '--json');
    expect(locked.json().report).toMatchObject({ packed: 4 });
    // a first layout leaves room; a searched one may not
    expect((await jig('pack', at('laid.obj'), '-o', at('loose.obj'), '--size', '1024', '--effort', '0', '--json')).code).toBe(0);
    const free = await jig('pack', at('loose.obj'), '-o', at('free.obj'), '--size', '1024', '--into', 'free', '--islands', '2', '--effort', '0', '--json');
    expect(free.json().report).toMatchObject({ packed: 1 });
    expect((await jig('pack', at('packed.obj'), '-o', at('x.obj'), '--lock', '99', '--json')).code).toBe(2);
    expect((await jig('fit', at('packed.obj'), '-o', at('fit.obj'), '--fill', '--json')).json().report).toMatchObject({ islands: 6 });
    const bad = await jig('move-tile', at('packed.obj'), '-o', at('x.obj'), '--from', '1001', '--to', '1002', '--json');
    expect(bad.code).toBe(2);
    expect(bad.out + bad.err).toContain('has 1 tile');
    const checked = (await jig('check', at('packed.obj'), '--size', '1024', '--json')).json().report as { overlapArea: number };
    expect(checked.overlapArea).toBeLessThan(1e-9);
  }, 60_000);

  it('--help is made from the schema', async () => {
    const { code, out } = await jig('pack', '--help');
    expect(code).toBe(0);
    for (const word of [
      '--size',
      '--margin',
      '--gap',
      '--border-gap',
      '--turn',
      '"none", "half", "quarter", "eighth", "free"',
      '--keep-scale',
      '--tiles',
      '--effort',
      '--seconds',
      '--group',
      '--lock',
      '--into',
      '--seed',
      'default',
    ])
      expect(out).toContain(word);
  });

  it.each([
    ['no command', [], 2],
    ['an unknown command', ['frobnicate', 'x'], 2],
    ['a missing file name', ['info'], 2],
    ['an unknown option', ['info', 'x', '--nope'], 2],
    ['a choice that is none', ['pack', 'x', '-o', 'y.obj', '--turn', 'sideways'], 2],
    ['no output', ['unwrap', 'x'], 2],
    ['an ending that cannot be written', ['pack', 'x', '-o', 'y.txt'], 2],
    ['a number that is none', ['pack', 'BOX', '-o', 'OUT', '--margin', 'wide'], 2],
    ['a size that is none', ['check', 'BOX', '--size', 'big'], 2],
    ['a file that is not there', ['info', '/none.obj'], 1],
    ['a file that is damaged', ['info', 'BAD'], 1],
    ['nothing to pack', ['pack', 'BOX', '-o', 'OUT'], 1],
    ['a folder that is not there', ['convert', 'BOX', '-o', '/no/such/folder/x.obj'], 1],
  ] as const)('%s: exit %#', async (_name, args, code) => {
    const filled = args.map((a) => (a === 'BOX' ? at('box.obj') : a === 'BAD' ? at('bad.obj') : a === 'OUT' ? at('never.obj') : a));
    const result = await jig(...filled);
    expect(result.code).toBe(code);
    expect(result.err + result.out).not.toMatch(/\n\s+at /);
    expect(readdirSync(folder)).not.toContain('never.obj');
  });

  it('an error with --json is one object with the sentence, the file and the place', async () => {
    const { code, json, err } = await jig('check', at('bad.obj'), '--json');
    expect(code).toBe(1);
    expect(json()).toMatchObject({
      ok: false,
      error: { code: 'bad-index', message: expect.stringMatching(/bad\.obj, line 2: The face uses point 2/) as string },
    });
    expect(err).toMatch(/line 2/);
  });

  it('leaves no half-written files behind', async () => {
    await jig('unwrap', at('bad.obj'), '-o', at('half.obj'));
    expect(readdirSync(folder).filter((name) => name.includes('half') || name.endsWith('.part'))).toEqual([]);
  });
});

describe('place', () => {
  it.each([
    ['planar', ['--axis', 'z'], 1],
    ['cylindrical', [], 3],
    ['spherical', [], 1],
    ['box', ['--image-width', '0.5'], 6],
    ['each-face', [], 6],
    ['flat-regions', [], 6],
  ])('%s writes a layout with the islands it should have', async (kind, more, islands) => {
    const { code, json } = await jig('place', at('box.obj'), '-o', at(`placed-${kind}.obj`), '--kind', kind, ...more, '--json');
    expect(code).toBe(0);
    const { report } = json();
    expect(report).toMatchObject({ faces: 6, kind });
    const checked = await jig('check', at(`placed-${kind}.obj`), '--json');
    const found = checked.json().report;
    expect(found.facesWithoutUv).toBe(0);
    if (kind !== 'spherical') expect(found.islands).toBe(islands);
    if (kind === 'box') expect(found.symmetricDirichlet).toBeCloseTo(4, 9);
  });

  it('repeats, image width and faces are taken from the call', async () => {
    await jig('place', at('box.obj'), '-o', at('twice.obj'), '--kind', 'planar', '--axis', 'z', '--repeat', '4,2', '--faces', '0,2-3');
    const vt = readFileSync(at('twice.obj'), 'utf8')
      .match(/^vt .*/gm)!
      .map((line) => line.split(' ').slice(1).map(Number));
    expect(Math.max(...vt.map(([u]) => u!))).toBeLessThanOrEqual(4);
    expect(readFileSync(at('twice.obj'), 'utf8').match(/^f \d+ \d+/gm)).toHaveLength(3);
    expect((await jig('place', at('box.obj'), '-o', at('x.obj'), '--kind', 'planar', '--faces', 'group:nobody')).err).toMatch(/no group “nobody”/);
    expect((await jig('place', at('box.obj'), '-o', at('x.obj'), '--kind', 'planar', '--repeat', 'many')).code).toBe(2);
    expect((await jig('place', at('box.obj'), '-o', at('x.obj'), '--kind', 'conical')).code).toBe(2);
    expect((await jig('place', at('two.obj'), '-o', at('two-placed.ply'), '--kind', 'box', '--json')).json().report).toMatchObject({ parts: 2 });
  });
});

describe('files that nobody named', () => {
  /** An archive whose image is called as the attacker likes. */
  async function archive(name: string, bytes: Uint8Array = encode({ width: 1, height: 1, data: new Uint8Array(4), channels: 4, depth: 8 })) {
    const inside = mkdtempSync(join(tmpdir(), 'jig-name-'));
    const job = newJob('j', 'thesis', [{ ...part('crate', { ...box(), materials: ['wood'], faceMaterial: new Int32Array(6) }), imageId: 'i' }], {
      images: [{ id: 'i', name, type: 'image/png', bytes }],
    });
    writeFileSync(join(inside, 'in.jigpeel'), writeArchive(job));
    writeFileSync(join(inside, 'thesis.txt'), 'years of work');
    return inside;
  }

  it.each(['out.obj', 'thesis.txt', '..', '../thesis.txt', 'in.jigpeel', '/etc/passwd', 'out.mtl', '', '.', 'nul', '\u0000', 'a/b\\..'])(
    'an image named “%s” is written under a safe name, and nothing else is touched',
    async (name) => {
      const inside = await archive(name);
      const before = readFileSync(join(inside, 'in.jigpeel'));
      const { code, json } = await jig('convert', join(inside, 'in.jigpeel'), '-o', join(inside, 'out.obj'), '--json');
      expect(code).toBe(0);
      expect(readFileSync(join(inside, 'thesis.txt'), 'utf8')).toBe('years of work');
      expect(readFileSync(join(inside, 'in.jigpeel')).equals(before)).toBe(true);
      expect(readFileSync(join(inside, 'out.obj'), 'utf8')).toMatch(/^f /m);
      const files = json().report.files as string[];
      for (const file of files) expect(dirname(file)).toBe(inside);
      expect(readdirSync(inside).sort()).toEqual(['in.jigpeel', 'thesis.txt', ...files.map((file) => basename(file))].sort());
      expect(files.at(-1)).toMatch(/\.png$/);
    },
  );

  it('what is no picture is not written at all', async () => {
    const inside = await archive('run.png', new TextEncoder().encode('#!/bin/sh'));
    expect((await jig('convert', join(inside, 'in.jigpeel'), '-o', join(inside, 'out.obj'))).code).toBe(0);
    expect(readdirSync(inside).sort()).toEqual(['in.jigpeel', 'out.mtl', 'out.obj', 'thesis.txt']);
  });

  it('a file beside the output is replaced only with --overwrite; otherwise nothing is written', async () => {
    const inside = await archive('wood.png');
    writeFileSync(join(inside, 'wood.png'), 'mine');
    const call = ['convert', join(inside, 'in.jigpeel'), '-o', join(inside, 'out.obj')];
    const refused = await jig(...call);
    expect(refused.code).toBe(2);
    expect(refused.err).toMatch(/wood\.png: There is a file of that name already.*--overwrite/);
    expect(readdirSync(inside).sort()).toEqual(['in.jigpeel', 'thesis.txt', 'wood.png']);
    expect((await jig(...call, '--overwrite')).code).toBe(0);
    expect(readFileSync(join(inside, 'wood.png'))[0]).toBe(0x89);
    // what is there already and says the same is no conflict
    expect((await jig(...call)).code).toBe(0);
  });

  it('align, stack, take apart and copy a layout: figures as the file has them', async () => {
    const plank = (k: number) => ({ ...part(`plank ${k}`, box(3, 0.2, 0.5)) });
    writeFileSync(at('deck.obj'), writeObj([plank(1), plank(2), plank(3)], null));
    writeFileSync(at('plank.obj'), writeObj([plank(1)], null));
    await jig('unwrap', at('plank.obj'), '-o', at('laid.obj'), '--seams', 'crease');
    const copied = await jig('copy-layout', at('laid.obj'), at('deck.obj'), '-o', at('deck.jigpeel'), '--json');
    expect(copied.json()).toMatchObject({ ok: true, operation: 'copy-layout', report: { parts: 3, left: [], byOrder: 3 } });
    const check = async (name: string) => (await jig('check', at(name), '--json')).json().report;
    // all three on the islands of the one in the other file, which is not among them
    expect(await check('deck.jigpeel')).toMatchObject({ islands: 18, facesWithoutUv: 0, overlapArea: 0 });
    const apart = await jig('unstack', at('deck.jigpeel'), '-o', at('apart.obj'), '--json');
    expect(apart.json().report).toMatchObject({ stacks: 6, islands: 12 });
    expect(await check('apart.obj')).toMatchObject({ islands: 18, overlapArea: 0 });
    const stacked = await jig('stack', at('apart.obj'), '-o', at('stacked.jigpeel'), '--json');
    // of each box the opposite sides are alike
    expect(stacked.json().report).toMatchObject({ stacks: 3, islands: 18, largest: 6 });
    expect((await check('stacked.jigpeel')).overlapArea).toBe(0);
    const some = await jig('stack', at('apart.obj'), '-o', at('some.obj'), '--islands', '0,1', '--json');
    // two opposite sides, and nothing else
    expect(some.json().report).toMatchObject({ stacks: 1, islands: 2, largest: 2 });
    expect((await jig('stack', at('apart.obj'), '-o', at('some.obj'), '--islands', '99', '--json')).code).toBe(2);
    const turned = await jig('align', at('apart.obj'), '-o', at('turned.obj'), '--how', 'least-box', '--json');
    expect(turned.json().report).toMatchObject({ islands: 18 });
    expect((await jig('align', at('apart.obj'), '-o', at('left.obj'), '--how', 'left', '--to', 'sheet')).code).toBe(0);
    // a box fits, a ring does not, and it says why
    expect((await jig('copy-layout', at('laid.obj'), at('two.obj'), '-o', at('x.obj'))).out).toContain(
      'left out: “ring” (the first has 6 faces, the second 128)',
    );
  });
});

import { describe, expect, it } from 'vitest';
import { readArchive, writeArchive } from '../formats/archive.ts';
import { writeGlb } from '../formats/gltfWrite.ts';
import { writeObj } from '../formats/objWrite.ts';
import { openFiles } from '../formats/open.ts';
import { extentsOf, imageSizeOf, makeJig } from '../jigs/jig.ts';
import { stateInWords } from '../job/liveJigs.ts';
import { keepImageSize } from '../jigs/match.ts';
import { placeJig } from '../jigs/place.ts';
import { project } from '../jigs/project.ts';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { faceCount, type Mesh } from '../mesh/mesh.ts';
import { box, cylinder, plane } from '../mesh/starterForms.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { runOperation } from './registry.ts';

const partFrom = (id: string, mesh: Mesh): Part => ({ id, name: id, mesh, uvSets: [emptyUvSet(mesh)], activeUv: 0, imageId: null, origin: { kind: 'made' } });
const range = (from: number, to: number) => Uint32Array.from({ length: to - from }, (_, k) => from + k);
const tube = cylinder(1, 2, 24, 2, true);
const sides = range(0, 48);
const jobOf = (...parts: Part[]) => newJob('j', 'Job', parts);
const run = async (job: Job, name: string, params: Record<string, unknown>) => (await runOperation(job, name, params)).job;
const cornerUvs = (job: Job, f: number, part?: string) => {
  const { mesh, ...rest } = partOf(job, part);
  const set = activeSet({ mesh, ...rest });
  return Array.from({ length: mesh.faceStart[f + 1]! - mesh.faceStart[f]! }, (_, k) => {
    const id = set.cornerUv[mesh.faceStart[f]! + k]! * 2;
    return [set.uv[id]!, set.uv[id + 1]!];
  });
};

describe('live jigs', () => {
  const jig = placeJig(tube, sides, 'cylindrical');
  const start = () => run(jobOf(partFrom('Drum', tube)), 'addJigs', { items: [{ faces: sides, jig }] });

  it('drive their faces as the projection says, say so in words, and drive on when they change', async () => {
    const job = await start();
    expect(job.jigs!.map((one) => [one.name, one.state])).toEqual([['Tube 1', 'live']]);
    expect(stateInWords(job, job.jigs![0]!)).toBe('live: drives 48 faces of Drum');
    const turned = { ...jig, start: 30, repeats: [3, 1] as [number, number] };
    const next = await run(job, 'changeJig', { id: 'jig-1', jig: turned, what: 'turned' });
    const exact = project(tube, sides, turned);
    for (let f = 0; f < 48; f++) {
      const laid = cornerUvs(next, f).flat();
      laid.forEach((x, k) => expect(x).toBe(exact.uv[exact.start[f]! * 2 + k]));
    }
    // faces that it does not drive stay without a place
    expect(activeSet(partOf(next)).unplaced[48]).toBe(1);
  });

  it('a face is driven by one jig: the later one takes it; given back when the other is made live again', async () => {
    let job = await start();
    job = await run(job, 'addJigs', { items: [{ faces: range(0, 10), jig: placeJig(tube, range(0, 10), 'planar'), name: 'Label' }] });
    expect(job.jigs!.map((one) => one.drives[0]!.faces.length)).toEqual([38, 10]);
    job = await run(job, 'setJigState', { ids: ['jig-2'], to: 'removed' });
    job = await run(job, 'driveFaces', { id: 'jig-1', faces: '0-9' });
    expect(stateInWords(job, job.jigs![0]!)).toBe('live: drives 48 faces of Drum');
    await expect(runOperation(job, 'driveFaces', { id: 'jig-1', faces: '0-9' })).rejects.toThrow(/already/);
  });

  it('a jig that loses its last face to another one is gone, unless it was given a name', async () => {
    let job = await start();
    job = await run(job, 'addJigs', { items: [{ faces: sides, jig: placeJig(tube, sides, 'spherical') }] });
    expect(job.jigs!.map(({ name }) => name)).toEqual(['Ball 1']);
    job = await run(job, 'changeJig', { id: job.jigs![0]!.id, name: 'Label' });
    job = await run(job, 'addJigs', { items: [{ faces: sides, jig }] });
    expect(job.jigs!.map(({ name }) => name)).toEqual(['Label', 'Tube 1']);
    expect(stateInWords(job, job.jigs![0]!)).toMatch(/drives nothing yet/);
  });

  it('drive several UV sets and several parts', async () => {
    let job = await run(jobOf(partFrom('A', tube), partFrom('B', tube)), 'addJigs', { items: [{ faces: sides, jig }] });
    job = await run(job, 'uvSets', { what: 'add', name: 'Lightmap' });
    job = await run(job, 'driveFaces', { id: 'jig-1', faces: '0-47' });
    job = await run(job, 'driveFaces', { id: 'jig-1', part: 'B', faces: '0-23' });
    expect(stateInWords(job, job.jigs![0]!)).toBe('live: drives 48 faces of A in UV set 1, 48 faces of A in Lightmap and 24 faces of B');
    job = await run(job, 'changeJig', { id: 'jig-1', jig: { ...jig, offset: [0.25, 0] } });
    const [one, two] = job.parts[0]!.uvSets;
    expect([...one!.uv]).toEqual([...two!.uv]);
    // the set’s new name is known to the jig, a removed one ends the drive
    job = await run(job, 'uvSets', { what: 'rename', set: 1, name: 'Bake' });
    expect(job.jigs![0]!.drives.map((d) => d.set)).toContain('Bake');
    job = await run(job, 'uvSets', { what: 'remove', set: 1 });
    expect(job.jigs![0]!.drives.map((d) => `${d.part} ${d.set}`)).toEqual(['A UV set 1', 'B UV set 1']);
  });

  it('an edit by hand of what is driven counts as writing, and is told; one elsewhere is none', async () => {
    let job = await run(jobOf(partFrom('Drum', tube)), 'addJigs', { items: [{ faces: sides, jig }] });
    const elsewhere = await runOperation(job, 'place', { kind: 'planar', faces: '48-49' });
    expect(elsewhere.released).toEqual([]);
    expect(elsewhere.job.jigs![0]!.state).toBe('live');
    const edited = await runOperation(job, 'setUv', { corners: [0], u: 0.123 });
    expect(edited.released.map(({ name }) => name)).toEqual(['Tube 1']);
    expect(stateInWords(edited.job, edited.job.jigs![0]!)).toBe('written to UV set 1');
    // a cut inside parts what the jig had joined: an edit, too
    const seam = tube.faceStart[0]!;
    const { cornerEdge } = await import('../mesh/topology.ts').then(({ topologyOf }) => topologyOf(tube));
    const cut = await runOperation(job, 'cut', { edges: [cornerEdge[seam + 1]!] });
    expect(cut.released.length).toBe(1);
    // made live again it drives as before
    job = await run(edited.job, 'setJigState', { ids: ['jig-1'], to: 'live' });
    expect(cornerUvs(job, 0)[0]![0]).not.toBe(0.123);
  });

  it('switched off they leave their faces alone; written ones, too', async () => {
    for (const to of ['off', 'written'] as const) {
      let job = await start();
      job = await run(job, 'setJigState', { ids: ['jig-1'], to });
      const before = cornerUvs(job, 3);
      job = await run(job, 'changeJig', { id: 'jig-1', jig: { ...jig, repeats: [9, 9] } });
      expect(cornerUvs(job, 3)).toEqual(before);
      job = await run(job, 'setJigState', { ids: ['jig-1'], to: 'live' });
      expect(cornerUvs(job, 3)).not.toEqual(before);
    }
  });

  it('follow their part when its form is made again, or stand in space; an image width holds', async () => {
    for (const belongs of ['part', 'space'] as const) {
      let job = await run(newJob('j', 'J', []), 'makeForm', { kind: 'cylinder', width: 1, height: 1, depth: 1, segments: 12, uvs: false });
      const mesh = partOf(job).mesh;
      const all = range(0, faceCount(mesh));
      job = await run(job, 'addJigs', { items: [{ faces: all, jig: { ...placeJig(mesh, all, 'cylindrical'), imageWidth: 0.5 } }] });
      job = await run(job, 'changeJig', { id: 'jig-1', belongs });
      job = await run(job, 'makeForm', { replace: partOf(job).id, kind: 'cylinder', width: 2, height: 3, depth: 2, segments: 12, uvs: false });
      const { jig: after, state } = job.jigs![0]!;
      expect(state).toBe('live');
      expect(after.size.map((x) => Math.round(x * 1e6) / 1e6)).toEqual(belongs === 'part' ? [2, 3, 2] : [1, 1, 1]);
      expect(imageSizeOf(after)[0]).toBeCloseTo(0.5, 12);
      await expect(runOperation(job, 'makeForm', { replace: partOf(job).id, kind: 'cylinder', segments: 20 })).rejects.toThrow(/only its sizes/);
    }
  });

  it('copy to other parts: fitted to them, or to their face groups of the same name', async () => {
    const wide: Mesh = {
      ...tube,
      points: tube.points.map((x, k) => (k % 3 === 1 ? x : x * 2)),
      groups: ['side', 'ends'],
      faceGroup: Int32Array.from({ length: faceCount(tube) }, (_, f) => (f < 48 ? 0 : 1)),
    };
    const named: Mesh = { ...tube, groups: wide.groups, faceGroup: wide.faceGroup };
    let job = await run(jobOf(partFrom('A', named), partFrom('B', wide), partFrom('C', tube)), 'addJigs', { items: [{ faces: sides, jig, name: 'Drum' }] });
    job = await run(job, 'copyJig', { id: 'jig-1', parts: ['B', 'C'], by: 'group' });
    expect(job.jigs!.map((one) => one.name)).toEqual(['Drum', 'Drum 2']);
    expect(job.jigs![1]!.drives[0]!.faces).toEqual(sides);
    expect(job.jigs![1]!.jig.size[0]).toBeCloseTo(jig.size[0] * 2, 9);
    // a part that is the same but for its size gets the same UVs
    expect(
      cornerUvs(job, 7, 'B')
        .flat()
        .map((x) => x.toFixed(9)),
    ).toEqual(
      cornerUvs(job, 7, 'A')
        .flat()
        .map((x) => x.toFixed(9)),
    );
    await expect(runOperation(job, 'copyJig', { id: 'jig-1', parts: ['C'], by: 'group' })).rejects.toThrow(/None of these parts/);
  });

  it('are kept in a job archive, and what one drives that is not there is left out and said', async () => {
    const job = await start();
    const { job: back } = readArchive(writeArchive(job));
    expect(back.jigs).toEqual(job.jigs);
    const broken: Job = { ...job, jigs: [{ ...job.jigs![0]!, drives: [{ part: 'Drum', set: 'UV set 1', faces: Uint32Array.of(4000) }] }] };
    const mended = readArchive(writeArchive(broken)).job;
    expect(mended.jigs![0]!.drives).toEqual([]);
    expect(mended.intake.at(-1)).toMatch(/what the jig .* drove/);
  });
});

describe('a live box', () => {
  it('looks the same after it is written, and after export and import', async () => {
    const mesh = box(2, 1, 1.5);
    const all = range(0, 6);
    let job = await run(jobOf(partFrom('Crate', mesh)), 'addJigs', {
      items: [{ faces: all, jig: { ...placeJig(mesh, all, 'box'), imageWidth: 0.3, own: { top: [2, 2] } } }],
    });
    const live = Array.from(all, (f) => cornerUvs(job, f));
    job = await run(job, 'setJigState', { ids: ['jig-1'], to: 'written' });
    expect(Array.from(all, (f) => cornerUvs(job, f))).toEqual(live);
    const obj = await openFiles([{ name: 'crate.obj', bytes: writeObj(job.parts, null) }], 'o');
    expect(Array.from(all, (f) => cornerUvs(obj, f))).toEqual(live);
    const glb = await openFiles([{ name: 'crate.glb', bytes: (await writeGlb(job.parts, [])).bytes }], 'g');
    // triangles of single precision: the same places, corner by corner of each side
    const places = (uvs: number[][][]) => new Set(uvs.flat().map(([u, v]) => `${u!.toFixed(5)},${v!.toFixed(5)}`));
    expect(places(Array.from(range(0, faceCount(partOf(glb).mesh)), (f) => cornerUvs(glb, f)))).toEqual(places(live));
  });
});

describe('matching', () => {
  it('size, heading and phase: a flat jig goes on from its neighbour without a jump', async () => {
    const mesh = plane(2, 1, 2, 1);
    const flat = makeJig({ kind: 'planar', size: [1, 1, 1] });
    let job = await run(jobOf(partFrom('Flag', mesh)), 'addJigs', {
      items: [
        { faces: [0], jig: { ...flat, repeats: [1.5, 1.5], turn: 25, offset: [0.2, 0.7] } },
        { faces: [1], jig: { ...flat, repeats: [4, 4] } },
      ],
    });
    job = await run(job, 'matchJig', { id: 'jig-2', to: 'jig-1' });
    // the shared edge: corners of face 0 on the right, of face 1 on the left
    const at = (f: number) => new Map(cornerUvs(job, f).map((uv, k) => [mesh.corners[mesh.faceStart[f]! + k]!, uv]));
    const [a, b] = [at(0), at(1)];
    const shared = [...a.keys()].filter((p) => b.has(p));
    expect(shared.length).toBe(2);
    for (const p of shared) {
      for (const d of [0, 1]) {
        const jump = a.get(p)![d]! - b.get(p)![d]!;
        expect(jump - Math.round(jump)).toBeCloseTo(0, 9);
      }
    }
    expect(job.jigs![1]!.jig.repeats[0]).toBeCloseTo(1.5, 9);
    expect(job.jigs![1]!.jig.turn).toBeCloseTo(25, 9);
  });

  it('lids get the side’s image size', async () => {
    const lid = range(48, faceCount(tube));
    const side = { ...placeJig(tube, sides, 'cylindrical'), repeats: [6, 2] as [number, number] };
    const top = lid.filter((f) => tube.points[tube.corners[tube.faceStart[f]!]! * 3 + 1]! > 0);
    let job = await run(jobOf(partFrom('Drum', tube)), 'addJigs', {
      items: [
        { faces: sides, jig: side },
        { faces: top, jig: placeJig(tube, top, 'planar') },
      ],
    });
    job = await run(job, 'matchJig', { id: 'jig-2', what: ['size'] });
    const [wide] = imageSizeOf(job.jigs![1]!.jig);
    // along the rim a side of the polygon stands for its arc
    const chord = 2 * Math.sin(Math.PI / 24);
    expect(wide).toBeCloseTo((imageSizeOf(side)[0] * chord) / ((2 * Math.PI) / 24), 6);
    await expect(runOperation(job, 'matchJig', { id: 'jig-2', to: String(lid.find((f) => !top.includes(f))) })).rejects.toThrow(/share no edge/);
  });
});

describe('repeats', () => {
  it('changing the kind keeps the visible size of the image', () => {
    const mesh = box(2, 1, 1);
    const all = range(0, 6);
    const before = { ...placeJig(mesh, all, 'planar'), repeats: [4, 4] as [number, number] };
    for (const kind of ['cylindrical', 'spherical', 'box'] as const) {
      const after = keepImageSize(before, placeJig(mesh, all, kind));
      expect(imageSizeOf(after)[0]).toBeCloseTo(imageSizeOf(before)[0], 12);
      expect(imageSizeOf(after)[1]).toBeCloseTo(imageSizeOf(before)[1], 12);
    }
    const real = keepImageSize({ ...before, imageWidth: 0.25 }, placeJig(mesh, all, 'spherical'));
    expect(imageSizeOf(real)[0]).toBeCloseTo(0.25, 12);
  });

  it('a side of a box and a lid may have their own; the other sides keep theirs', () => {
    const mesh = box(1, 1, 1);
    const all = range(0, 6);
    const plain = project(mesh, all, placeJig(mesh, all, 'box'));
    const own = project(mesh, all, { ...placeJig(mesh, all, 'box'), own: { top: [3, 2] } });
    let changed = 0;
    for (let f = 0; f < 6; f++) {
      const width = (p: typeof plain, d: number) => {
        const at = Array.from({ length: p.start[f + 1]! - p.start[f]! }, (_, k) => p.uv[(p.start[f]! + k) * 2 + d]!);
        return Math.max(...at) - Math.min(...at);
      };
      if (width(own, 0) === width(plain, 0)) continue;
      changed++;
      expect([width(own, 0), width(own, 1)]).toEqual([3, 2]);
    }
    expect(changed).toBe(1);
    const lids = { ...placeJig(tube, range(0, faceCount(tube)), 'cylindrical'), own: { top: [2, 2] as [number, number] } };
    const done = project(tube, range(0, faceCount(tube)), lids);
    const us: number[] = [];
    for (let f = 0; f < done.faces.length; f++) if (done.patch[f] === 1) for (let k = done.start[f]!; k < done.start[f + 1]!; k++) us.push(done.uv[k * 2]!);
    expect(Math.max(...us) - Math.min(...us)).toBeCloseTo(2, 9);
  });

  it('a turned image is turned in units: its two directions stay square and equally long', () => {
    const jig = makeJig({ kind: 'planar', size: [2, 0.5, 1], turn: 33, imageWidth: 0.3 });
    const mesh = plane(1, 1, 1, 1);
    const done = project(mesh, [0], jig);
    const [wide, tall] = imageSizeOf(jig);
    expect(extentsOf(jig)).toEqual([2, 0.5]);
    const at = new Map(Array.from(done.corners, (c, k) => [mesh.corners[c]!, [done.uv[k * 2]! * wide, done.uv[k * 2 + 1]! * tall]]));
    const corners = [...at.entries()];
    for (const [p, a] of corners)
      for (const [q, b] of corners) {
        const space = Math.hypot(...[0, 1, 2].map((d) => mesh.points[p * 3 + d]! - mesh.points[q * 3 + d]!));
        expect(Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!)).toBeCloseTo(space, 12);
      }
  });
});

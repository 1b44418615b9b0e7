import 'fake-indexeddb/auto';
import { encode } from 'fast-png';
import { afterEach, describe, expect, it, vi } from 'vitest';
import {
  activeSet,
  changeKinds,
  EdgeState,
  islandsOf,
  keptSteps,
  operations,
  partOf,
  withOwnPoints,
  placeJig,
  replay,
  type History,
  type Job,
  type OperationName,
  type ParamsOf,
  type ProposalReport,
  runOperation,
  jigSchema,
  meshFromFaces,
  newJob,
  uvSetFrom,
} from '@jig-peel/core';
import { Keeper } from '../keep/db.ts';
import type { JobRow } from '../keep/rows.ts';
import { changesBetween, hashOf, leaveUnmeasured, openBench, type Bench } from './testing.ts';

const open: Bench[] = [];
/** A session with a ball of 384 faces, or what else is asked for. */
async function bench(kind = 'sphere'): Promise<Bench> {
  const made = openBench();
  open.push(made);
  const outcome = await made.session.begin(`job-${open.length}`, kind);
  expect(outcome).toMatchObject({ ok: true });
  await made.session.idle();
  return made;
}
afterEach(async () => {
  for (const { session } of open.splice(0)) await session.close();
  vi.restoreAllMocks();
});

/** The session's own history, looked at from outside. */
const historyOf = ({ session }: Bench) => (session as unknown as { history: History }).history;
const present = (one: Bench) => historyOf(one).present;

async function done<N extends OperationName>(one: Bench, name: N, params: ParamsOf<N>): Promise<void> {
  const outcome = await one.session.run(name, params, true);
  if (!outcome.ok) throw new Error(`${name}: ${outcome.sentence}`);
  await one.session.idle();
}

/** A picture whose middle is opaque. */
const cutOut = () => {
  const data = new Uint8Array(32 * 32 * 4);
  for (let y = 8; y < 26; y++) for (let x = 6; x < 27; x++) data.set([200, 90, 40, 255], (y * 32 + x) * 4);
  return encode({ width: 32, height: 32, data, channels: 4 });
};
const png = (value = 120) => encode({ width: 2, height: 2, data: new Uint8Array(16).fill(value), channels: 4 });

/** Each operation at least once, in an order in which all have something to do. */
async function everyOperation(one: Bench, each: (name: OperationName, before: Job, after: Job) => void): Promise<void> {
  const run = async <N extends OperationName>(name: N, params: ParamsOf<N>) => {
    const before = present(one);
    await done(one, name, params);
    each(name, before, present(one));
  };
  /** One for which a sound form gives nothing to do; it is tested with others. */
  const idle = async <N extends OperationName>(name: N, params: ParamsOf<N>) => {
    expect(await one.session.run(name, params)).toMatchObject({ ok: false, code: 'nothing-to-do' });
    each(name, present(one), present(one));
  };
  const id = () => partOf(present(one)).id;
  const jig = () => present(one).jigs!.at(-1)!.id;
  await run('renameJob', { name: 'A job' });
  await run('renamePart', { part: id(), name: 'Ball' });
  await run('setUp', { up: 'z' });
  await run('setUp', { up: 'y' });
  await run('settings', { margin: 6 });
  await run('info', {});
  await run('setLimits', { purpose: 'shared' });
  await run('limitsFile', { text: '{"jigPeelLimits":1,"limits":{"gap":6}}' });
  await run('select', { kind: 'faces', ids: [0, 1, 2, 3] });
  await run('selectBy', { way: 'grow', kind: 'faces' });
  await run('saveSelection', { name: 'top' });
  await run('markDone', { faces: [0, 1] });
  await run('markSeams', { mark: 'keepWhole' });
  await run('assignMaterial', { faces: [4, 5, 6], material: 'paint' });
  await run('selectNamed', { what: 'material', name: 'paint' });
  await run('hideNamed', { what: 'material', name: 'paint', how: 'hide' });
  await run('hide', { what: 'none' });
  await run('renameNamed', { what: 'material', name: 'paint', to: 'lacquer' });
  await run('useSelection', { name: 'top' });
  await run('propose', { by: 'crease', angle: 10 });
  await run('uvSets', { what: 'add' });
  await run('seams', { edges: [300, 301, 302] });
  await run('open', {});
  await run('firstLayout', {});
  await run('laySeams', { edges: [310, 311, 312] });
  await run('cut', { edges: [200, 201] });
  await run('uncut', { edges: [200, 201] });
  await run('check', {});
  await run('keepVersion', { name: 'now' });
  const held = partOf(present(one)).mesh;
  await run('newerMesh', { mesh: { ...held, points: held.points.map((x, k) => (k === 0 ? x + 0.01 : x)) } });
  await run('editVersion', { note: 'so far' });
  await run('compareVersions', {});
  await run('offenders', { limit: 'inSight' });
  await run('report', { made: 'today' });
  await run('guide', { size: '256' });
  await run('density', { even: true, target: 300 });
  await run('pack', { parts: 'active' });
  await run('unwrap', { method: 'conformal' });
  await run('useVersion', { what: 'part' });
  await run('unwrap', { method: 'conformal' });
  await run('relax', { steps: 3 });
  await run('select', { kind: 'points', ids: [10, 60, 200] });
  await run('pin', { to: 'on' });
  const set = activeSet(partOf(present(one)));
  const pinned = set.pins.indexOf(1);
  await run('movePins', { points: [pinned], places: [set.uv[pinned * 2]! + 0.01, set.uv[pinned * 2 + 1]!] });
  await run('setUv', { corners: [0], u: 0.25 });
  await run('uvSets', { what: 'copy' });
  await run('place', { kind: 'box' });
  await idle('unwindStrips', {});
  await run('addImages', { images: [{ name: 'a.png', bytes: png() }] });
  const image = present(one).images[0]!.id;
  await run('showImage', { part: id(), image });
  await run('placeImage', { placement: { repeats: [2, 2] } as never, what: 'repeats' });
  await run('setImageUse', { image, set: 'boards', role: 'colour' });
  await run('addImages', { images: [{ name: 'boards_height.png', bytes: png(7) }] });
  await run('putImageSet', { set: 'boards' });
  await run('removeLayer', { layer: partOf(present(one)).layers![0]!.id });
  await run('sharpness', { distance: 2, select: true });
  await run('pictureHeading', { select: true });
  await run('removeImage', { image: present(one).images[1]!.id });
  await run('removeImage', { image } as never);
  const { mesh } = partOf(present(one));
  await run('addJigs', { items: [{ faces: [0, 1, 2, 3], jig: placeJig(mesh, [0, 1, 2, 3], 'planar', 'auto') }] });
  await run('changeJig', { id: jig(), name: 'Front' });
  await run('driveFaces', { id: jig(), faces: '4,5' });
  await run('makeForm', { kind: 'cylinder' });
  await run('activatePart', { part: present(one).parts[0]!.id });
  await run('copyJig', { id: jig(), parts: [present(one).parts[1]!.id] });
  await run('matchJig', { id: present(one).jigs![0]!.id });
  await run('setJigState', { ids: [jig()], to: 'written' });
  await run('selectParts', { parts: [present(one).parts[1]!.id] });
  await run('hideParts', { what: 'hide', parts: [present(one).parts[0]!.id] });
  await run('hideParts', { what: 'all' });
  await run('makeForm', { kind: 'box' });
  await run('seams', { by: 'crease', angle: 40 });
  await run('joinAdvice', { island: 0 });
  await run('select', { kind: 'islands', ids: [0, 1, 2] });
  await run('alignIslands', { side: 'bottom' });
  await run('distributeIslands', { way: 'gapsV' });
  await run('turnIslands', { to: 'leastBox' });
  await run('straightenWays', {});
  await run('straighten', { keep: 'longer' });
  await run('transform', { turn: 30, move: [0.01, 0] });
  await run('select', { kind: 'edges', ids: [0, 1] });
  await run('lineUp', { way: 'level', relax: true });
  await run('select', { kind: 'islands', ids: [0, 1, 2] });
  await run('arrange', { how: 'left' });
  await run('matchIslands', { what: 'size', to: { part: id(), island: 0 } });
  await run('grain', { face: 0, direction: [1, 0.3, 0.2], faces: 'part' });
  await run('push', { face: 0, ...pushPath(present(one)) });
  await run('lockIslands', { do: 'lock' });
  await run('placeOnFields', {
    fields: [
      [0, 0, 0.4, 0.4],
      [0.5, 0.5, 0.9, 0.9],
    ],
    lock: false,
  });
  await run('lockIslands', { do: 'unlock' });
  await run('blockIslands', { do: 'make' });
  await run('blockIslands', { do: 'leave' });
  await idle('cutNecks', { islands: [0], enough: 0.2 });
  await run('findLike', { which: 'sheet' });
  await run('packPlan', {});
  await run('densityFigures', {});
  await run('fitSheet', { which: 'all', fill: true });
  await run('sheets', { do: 'change', sheet: 'sheet-1', tiles: 2 });
  await run('moveTile', { from: 1001, to: 1002 });
  await run('transform', { move: [3, 0] }).catch(() => {});
  await run('bringBack', { which: 'all' });
  const layer = { name: 'dirt', source: { kind: 'noise' as const } };
  await run('assignMaterial', { faces: [7, 8], material: 'rust' });
  await run('addLayer', { material: 'rust', layer });
  await run('ownLayers', {});
  await run('addLayer', { layer });
  const layers = () => partOf(present(one)).layers!;
  await run('setLayer', { layer: { ...layers()[0]!, opacity: 0.5 } });
  await run('orderLayers', {
    order: layers()
      .map((one) => one.id)
      .toReversed(),
  });
  await run('copyLayers', { to: [id()] });
  await run('driveLayer', { layer: layers()[0]!.id, by: { kind: 'triplanar' } });
  await run('removeLayer', { layer: layers()[0]!.id });
  await run('continuity', {});
  await run('select', {
    kind: 'edges',
    ids: [...islandsOf(partOf(present(one)).mesh, activeSet(partOf(present(one)))).states.entries()].filter(([, state]) => state === 1).map(([e]) => e),
  });
  await run('keepGoing', {});
  await run('vary', { seed: 3 });
  await run('keepGoing', { keep: false });
  const { states, ofFace } = islandsOf(partOf(present(one)).mesh, activeSet(partOf(present(one))));
  if (states.includes(1) && new Set(ofFace).size > 1) await run('goOn', neighbours(present(one)).goOnPair);
  if (states.includes(1) && new Set(ofFace).size > 1) await run('goOnAll', {});
  // it may leave the sheet
  await run('pack', { parts: 'active', effort: 0 });
  await run('placeImage', { placement: { repeats: [2, 2] } });
  await run('writePlacement', {});
  await run('bake', { size: '64', samples: 1, show: true });
  await run('weigh', { weight: 2, of: 'part' });
  await run('weighBySight', {});
  await run('care', { weight: 4, of: 'part' });
  await run('select', { kind: 'edges', ids: [0, 1, 2] });
  await run('straightEdges', { way: 'level' });
  await run('keepLengths', {});
  await run('stack', { which: 'sheet' });
  await run('unstack', { which: 'sheet' });
  await run('select', { kind: 'islands', ids: [0, 1, 2] });
  await run('sheets', { do: 'add', name: 'Second', parts: [id()] });
  const { layoutPair } = neighbours(present(one));
  await run('join', layoutPair);
  await run('makeForm', { kind: 'box' });
  await run('copyLayout', { how: 'beside' });
  await idle('repair', {});
  await run('makeForm', { kind: 'plane' });
  await run('addImages', { images: [{ name: 'cut-out.png', bytes: cutOut() }], show: true });
  await run('showImage', { part: id(), image: present(one).images.at(-1)!.id });
  await run('matchOutline', { fit: 'together', lock: false });
  await run('standPicture', { up: [0, 0, -1] });
  await run('fitFrame', {
    id: jig(),
    points: [
      [0, 0, 0],
      [1, 0, 0],
    ],
    places: [
      [0.2, 0.2],
      [0.8, 0.2],
    ],
  });
  await run('setJigState', { ids: [jig()], to: 'written' });
  await run('makeForm', { kind: 'sphere' });
  await run('showImage', { part: id(), image: present(one).images.at(-1)!.id });
  await run('addJigs', {
    items: [{ faces: Array.from({ length: partOf(present(one)).mesh.faceStart.length - 1 }, (_, f) => f), jig: jigSchema.parse({ kind: 'spherical' }) }],
  });
  await run('coverSmears', { id: jig() });
  await run('makeForm', { kind: 'cylinder' });
  await run('showImage', { part: id(), image: present(one).images.at(-1)!.id });
  const { mesh: tube } = partOf(present(one));
  const seam = [...islandsOf(tube, activeSet(partOf(present(one)))).states.entries()].filter(([, state]) => state === 1).map(([e]) => e);
  await run('coverSeam', { edges: seam });
  await run('moveSeam', { edges: seam, seenFrom: 'front' });
  await run('select', { kind: 'faces', ids: [0, 1, 2] });
  await run('splitParts', { by: 'selected' });
  await run('rejoinParts', {});
  await run('removeParts', { parts: [partOf(present(one)).id] });
}

/** A short stroke over the first face of the active part. */
function pushPath(job: Job): { path: number[]; radius: number } {
  const part = partOf(job);
  const { uv, cornerUv } = activeSet(part);
  const p = cornerUv[0]! * 2;
  return { path: [uv[p]!, uv[p + 1]!, uv[p]! + 0.01, uv[p + 1]! + 0.01], radius: 0.1 };
}

/** Two islands of the active part that touch. */
function neighbours(job: Job): { layoutPair: { island: number; to: number }; goOnPair: { island: number; from: number } } {
  const part = partOf(job);
  const { states, ofFace } = islandsOf(part.mesh, activeSet(part));
  const sides = new Map<number, number[]>();
  const { faceStart } = part.mesh;
  const edgesOf = new Map<string, number>();
  for (let f = 0; f + 1 < faceStart.length; f++)
    for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) {
      const [p, q] = [part.mesh.corners[c]!, part.mesh.corners[c + 1 < faceStart[f + 1]! ? c + 1 : faceStart[f]!]!];
      const key = `${Math.min(p, q)},${Math.max(p, q)}`;
      if (!edgesOf.has(key)) edgesOf.set(key, edgesOf.size);
      const e = edgesOf.get(key)!;
      sides.set(e, [...(sides.get(e) ?? []), f]);
    }
  expect(states.length).toBe(sides.size);
  for (const [f, g] of sides.values())
    if (g !== undefined && ofFace[f!] !== ofFace[g]) {
      const pair = { layoutPair: { island: ofFace[f!]!, to: ofFace[g]! } };
      return { ...pair, goOnPair: { island: ofFace[f!]!, from: ofFace[g]! } };
    }
  throw new Error('no two islands touch');
}

describe('every operation through a session', () => {
  it(
    'changes what it says and nothing else; undo to the start and redo to the end give the same job; a replay gives the same bytes',
    { timeout: 120_000 },
    async () => {
      const one = await bench();
      leaveUnmeasured(one.session);
      const seen = new Set<string>();
      await everyOperation(one, (name, before, after) => {
        seen.add(name);
        const stated = new Set(operations.get(name)!.changes);
        for (const kind of changesBetween(before, after)) expect(stated, `${name} changes ${kind}`).toContain(kind);
        for (const { mesh, uvSets } of after.parts)
          for (const set of uvSets) expect(withOwnPoints(mesh, set).from, `${name} leaves UV points that several islands share`).toBeNull();
      });
      // these two are follow-ups of others
      const followUps = new Set(historyOf(one).entries.flatMap((entry) => (entry.followUps ?? []).map(({ operation }) => operation)));
      for (const name of operations.keys()) expect([...seen, ...followUps], name).toContain(name);

      const hashes = historyOf(one).entries.map(({ job }) => hashOf(job));
      for (let k = hashes.length - 1; k > 0; k--) {
        expect(hashOf(present(one))).toBe(hashes[k]);
        await one.session.undo();
      }
      expect(hashOf(present(one))).toBe(hashes[0]);
      for (let k = 1; k < hashes.length; k++) await one.session.redo();
      expect(hashOf(present(one))).toBe(hashes.at(-1));

      const { entries } = historyOf(one);
      expect(hashOf(await replay(entries))).toBe(hashes.at(-1));
    },
  );

  it('what is stated is not more than there is', () => {
    for (const operation of operations.values()) for (const kind of operation.changes) expect(changeKinds).toContain(kind);
    for (const name of ['select', 'selectBy', 'hide', 'selectParts'] as const) expect(operations.get(name)!.changes).toEqual(['view']);
  });
});

describe('unwrapping that follows a cut', () => {
  it('belongs to the cut: one step, taken back by one undo, recorded so that it can be run again', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const before = hashOf(present(one));
    await done(one, 'cut', { edges: [100, 101, 102] });
    const { entries, index } = historyOf(one);
    expect(entries[index]!.followUps!.map(({ operation }) => operation)).toContain('layTouched');
    expect(hashOf(await replay(entries, index))).toBe(hashOf(present(one)));
    await one.session.undo();
    expect(hashOf(present(one))).toBe(before);
  });

  it('cuts that come faster than the shapes lay all that they touched', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const answers = await Promise.all([100, 180, 260].map((edge) => one.session.run('cut', { edges: [edge] })));
    expect(answers.map(({ ok }) => ok)).toEqual([true, true, true]);
    await one.session.idle();
    const { entries, index } = historyOf(one);
    expect(entries.slice(-3).map(({ operation }) => operation)).toEqual(['cut', 'cut', 'cut']);
    expect(entries[index]!.followUps!.at(-1)).toMatchObject({ operation: 'layTouched', params: { quick: false } });
    expect(hashOf(await replay(entries, index))).toBe(hashOf(present(one)));
  });

  it('comes although something is selected, undone or hidden meanwhile, and belongs to the cut', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    await done(one, 'cut', { edges: [100, 101, 102] });
    const [{ entries, index }, quiet] = [historyOf(one), present(one).parts[0]!.uvSets];
    const laid = entries[index]!.followUps;
    expect(laid!.at(-1)).toMatchObject({ params: { quick: false } });
    await one.session.undo();
    const ways = [
      () => [one.session.run('select', { kind: 'faces', ids: [5] })],
      () => [one.session.run('select', { kind: 'faces', ids: [5] }), one.session.run('hide', { what: 'selected' })],
      () => [one.session.run('select', { kind: 'faces', ids: [5] }), one.session.undo()],
    ];
    for (const way of ways) {
      const [cut, ...others] = [one.session.run('cut', { edges: [100, 101, 102] }), ...way()];
      expect((await Promise.all([cut, ...others])).map(({ ok }) => ok)).not.toContain(false);
      await one.session.idle();
      const history = historyOf(one);
      const at = history.entries.findIndex(({ operation }) => operation === 'cut');
      expect(history.entries[at]!.followUps).toEqual(laid);
      expect(hashOf({ it: present(one).parts[0]!.uvSets } as never)).toBe(hashOf({ it: quiet } as never));
      expect(hashOf(await replay(history.entries, history.index))).toBe(hashOf(present(one)));
      // the undone view step stands on it too
      if (history.index < history.entries.length - 1) await one.session.redo();
      expect(hashOf({ it: present(one).parts[0]!.uvSets } as never)).toBe(hashOf({ it: quiet } as never));
      while (historyOf(one).index >= at) await one.session.undo();
    }
  });

  it('other steps wait for it: none is refused, none works on half of it, and a cut of another part leaves it be', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    await done(one, 'makeForm', { kind: 'cylinder' });
    const [a, b] = present(one).parts.map(({ id }) => id);
    await done(one, 'firstLayout', { part: b! });
    const answers = await Promise.all([
      one.session.run('cut', { part: a!, edges: [100, 101, 102] }),
      one.session.run('cut', { part: b!, edges: [5] }),
      one.session.run('renameJob', { name: 'after' }),
      one.session.run('pack', { effort: 0 }),
    ]);
    expect(answers.map((answer) => (answer.ok ? '' : answer.sentence))).toEqual(['', '', '', '']);
    await one.session.idle();
    const { entries, index } = historyOf(one);
    expect(entries.slice(-4).map(({ operation, followUps }) => [operation, followUps?.at(-1)?.params['part']])).toEqual([
      ['cut', a],
      ['cut', b],
      ['renameJob', undefined],
      ['pack', undefined],
    ]);
    expect(hashOf(await replay(entries, index))).toBe(hashOf(present(one)));
  });

  it('lays what a cut touched in every part that it cut, and a faster cut of all of them takes them over', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    await done(one, 'makeForm', { kind: 'sphere' });
    const [a, b] = present(one).parts.map(({ id }) => id) as [string, string];
    await done(one, 'firstLayout', { part: b });
    const whole = (id: string) => {
      const part = partOf(present(one), id);
      const { states } = islandsOf(part.mesh, activeSet(part));
      return [...states.keys()].filter((e) => states[e] === 0);
    };
    const [own, beside] = [whole(a), whole(b)];
    const pick = (from: number) =>
      one.session.run('select', {
        part: a,
        kind: 'edges',
        ids: own.slice(from, from + 2),
        also: [{ part: b, ids: beside.slice(from, from + 2) }],
      });
    const answers = await Promise.all([pick(40), one.session.run('cut', {}), pick(90), one.session.run('cut', {})]);
    expect(answers.map((answer) => (answer.ok ? '' : answer.sentence))).toEqual(['', '', '', '']);
    await one.session.idle();
    const { entries, index } = historyOf(one);
    const cuts = entries.filter(({ operation }) => operation === 'cut');
    const last = cuts.at(-1)!.followUps!.filter(({ operation, params }) => operation === 'layTouched' && params['quick'] === false);
    expect(last.map(({ params }) => params['part'])).toEqual([a, b]);
    // all that both cuts touched, laid from the last one
    const settled = [a, b].map((id) => activeSet(partOf(present(one), id)));
    expect(settled.every((set) => set.unplaced.every((x) => x === 0))).toBe(true);
    expect(hashOf(await replay(entries, index))).toBe(hashOf(present(one)));
    await one.session.undo();
    await one.session.undo();
    await one.session.undo();
    expect(whole(a)).toEqual(own);
    expect(whole(b)).toEqual(beside);
  });

  it('undo while a shape is on its way drops it', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const before = hashOf(present(one));
    const cut = one.session.run('cut', { edges: [100] });
    const undone = one.session.undo();
    await Promise.all([cut, undone]);
    await one.session.idle();
    expect(hashOf(present(one))).toBe(before);
    await one.session.redo();
    expect(historyOf(one).index).toBe(2);
  });

  it('goes on after the job was read from storage, and is replayed from there', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    await done(one, 'cut', { edges: [100] });
    await one.session.letGo(present(one).id);
    const again = openBench(one.database);
    open.push(again);
    expect(await again.session.load('job-1')).toMatchObject({ ok: true, report: { missing: 0 } });
    await again.session.idle();
    await done(again, 'cut', { edges: [300, 301] });
    const { entries, index } = historyOf(again);
    expect(entries[index]!.cold).toBe(true);
    expect(hashOf(await replay(entries, index))).toBe(hashOf(present(again)));
  });
});

describe('a job that an earlier version kept', () => {
  it('gets UV points of its own for each island in all of its steps, written with the next save', async () => {
    const { database } = await bench();
    const mesh = meshFromFaces([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0, 5, 0, 0, 6, 0, 0, 6, 1, 0, 5, 1, 0], [[0, 1, 2, 3], [4, 5, 6, 7]]); // prettier-ignore
    // two squares that one vt each names for both, as files have it
    const shared = uvSetFrom(mesh, 'UV', Uint32Array.from([0, 1, 2, 3, 0, 1, 2, 3]), Float64Array.from([0.1, 0.1, 0.2, 0.1, 0.2, 0.2, 0.1, 0.2]));
    const part = { id: 'a', name: 'a', mesh, uvSets: [shared], activeUv: 0, imageId: null, origin: { kind: 'made' as const } };
    const first = newJob('old', 'old', [part]);
    const later = { ...first, name: 'later', parts: [{ ...part, uvSets: [{ ...shared, uv: shared.uv.map((x) => x + 0.5) }] }] };
    const entry = (job: Job, operation: string) => ({ job, operation, params: {}, sentence: operation, time: 1 });
    await new Keeper('old', database).save([entry(first, 'open'), entry(later, 'renameJob')], 1);
    const { own: _, ...row } = (await database.jobs.get('old')) as JobRow;
    await database.jobs.put(row);

    const again = openBench(database);
    open.push(again);
    expect(await again.session.load('old')).toMatchObject({ ok: true });
    const sets = historyOf(again).entries.map(({ job }) => activeSet(partOf(job)));
    expect(sets.map(({ uv }) => uv.length / 2)).toEqual([8, 8]);
    expect(sets[0]!.cornerUv).toBe(sets[1]!.cornerUv);
    expect([...sets[1]!.uv.subarray(8)]).toEqual([...later.parts[0]!.uvSets[0]!.uv]);
    await done(again, 'renameJob', { name: 'now' });
    await again.session.letGo('old');
    const kept = (await new Keeper('old', database).load())!;
    expect(kept.entries.map(({ job }) => activeSet(partOf(job)).uv.length / 2)).toEqual([8, 8, 8]);
    expect(await database.jobs.get('old')).toMatchObject({ own: true });
  });
});

describe('a look at what a step would do', () => {
  it('has the parts beside the one at work that it would change, and those of a version that differ', async () => {
    const one = await bench('box');
    await done(one, 'firstLayout', {});
    await done(one, 'makeForm', { kind: 'box' });
    const [a, b] = present(one).parts.map(({ id }) => id) as [string, string];
    await done(one, 'firstLayout', { part: b });
    await done(one, 'keepVersion', { name: 'before' });
    await done(one, 'select', { part: a, kind: 'islands', ids: [0], also: [{ part: b, ids: [0] }] });
    const places = (id: string) => {
      const { cornerUv, uv } = activeSet(partOf(present(one), id));
      return Float32Array.from([...cornerUv].flatMap((p) => [uv[p * 2]!, uv[p * 2 + 1]!]));
    };
    const before = places(b);
    const preview = (await one.session.previewStep('transform', { move: [0.25, 0] }))!;
    expect(preview.beside!.map(({ part }) => part)).toEqual([b]);
    const moved = preview.beside![0]!.places.filter((x, k) => Math.abs(x - before[k]!) > 1e-6);
    // of each corner of its island u alone
    const { ofFace } = islandsOf(partOf(present(one), b).mesh, activeSet(partOf(present(one), b)));
    expect(moved.length).toBe(ofFace.filter((i) => i === 0).length * 4);
    const id = present(one).versions![0]!.id;
    expect(one.session.previewVersion(id)!.beside).toBeUndefined();
    await done(one, 'transform', { move: [0.25, 0] });
    expect(one.session.previewVersion(id)!.beside!.map((other) => [other.part, [...other.places]])).toEqual([[b, [...before]]]);
  });
});

describe('a step that was done', () => {
  it('warns where islands found no room, and not where all did', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const pack = (params: ParamsOf<'pack'>) => one.session.run('pack', { parts: 'active', ...params });
    const fits = await pack({});
    expect(fits).toMatchObject({ ok: true });
    expect(fits).not.toHaveProperty('warns');
    // what covers most of the sheet has no room in a corner of it
    expect(await pack({ keepScale: true, area: [0, 0, 0.1, 0.1] })).toMatchObject({
      ok: true,
      warns: true,
      sentence: expect.stringContaining('in the tray') as string,
    });
  });
});

describe('a layout that is shown in place of the present one', () => {
  it('says which faces hang together in it, and how they are stretched', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const { layout } = one.last('layout')!;
    const mesh = partOf(present(one)).mesh;
    const kinds = (of: ArrayLike<number>) => new Set(Array.from(of)).size;
    const same = one.session.previewUv(layout.cornerUv.slice())!.faces!;
    const pairs = new Set(Array.from(same.faceIsland, (i, f) => `${i} ${layout.faceIsland[f]}`));
    expect([kinds(same.faceIsland), pairs.size]).toEqual([kinds(layout.faceIsland), kinds(layout.faceIsland)]);
    for (const name of ['faceSize', 'faceShape'] as const) same[name].forEach((x, f) => expect(x).toBeCloseTo(layout[name][f]!, 3));
    await done(one, 'select', { kind: 'islands', ids: Uint32Array.from([0]) });
    // a step that is tried is a whole layout; one that follows a hand has its places alone
    const tried = await one.session.tryStep('transform', { move: [0.1, 0] });
    if (!tried.ok) throw new Error(tried.sentence);
    expect(tried.report.preview!.faces!.faceIsland).toEqual(layout.faceIsland);
    expect((await one.session.previewStep('transform', { move: [0.1, 0] }))!.faces).toBeUndefined();
    // a face taken away from its island, twice as wide as it was
    const moved = layout.cornerUv.slice();
    for (let c = mesh.faceStart[0]!; c < mesh.faceStart[1]!; c++) moved[c * 2] = moved[c * 2]! * 2 + 3;
    const other = one.session.previewUv(moved)!.faces!;
    expect(kinds(other.faceIsland)).toBe(kinds(layout.faceIsland) + 1);
    expect(other.faceShape[0]).toBeGreaterThan(layout.faceShape[0]! + 0.5);
  });
});

describe('changes of the view', () => {
  it('undo like any other, are not among the steps that are kept, and do not push those out', async () => {
    const one = await bench();
    await done(one, 'renameJob', { name: 'kept' });
    for (let k = 0; k < 320; k++) await one.session.run('select', { kind: 'faces', ids: [k] });
    await one.session.idle();
    const { entries, index } = historyOf(one);
    expect(entries[0]!.operation).toBe('open');
    expect(entries[1]!.operation).toBe('renameJob');
    expect(entries.filter(({ view }) => view)).toHaveLength(300);
    expect(keptSteps(entries, index).entries.map(({ operation }) => operation)).toEqual(['open', 'renameJob', 'select']);
    await one.session.undo();
    expect([...present(one).selection.ids]).toEqual([318]);
  });

  it('are told alone: neither parts nor settings go over again', async () => {
    const one = await bench();
    one.told.length = 0;
    await done(one, 'select', { kind: 'faces', ids: [5] });
    const { changed, whole } = one.last('summary')!;
    expect(whole).toBe(false);
    expect(Object.keys(changed).sort()).toEqual(['history', 'historyIndex', 'selection']);
    expect(changed.history!.added).toHaveLength(1);
    expect(one.told.map(({ kind }) => kind)).not.toContain('layout');
  });

  it('the newest is there again after a reload', async () => {
    const one = await bench();
    await done(one, 'select', { kind: 'faces', ids: [7] });
    await one.session.letGo(present(one).id);
    const again = openBench(one.database);
    open.push(again);
    await again.session.load('job-1');
    expect([...present(again).selection.ids]).toEqual([7]);
  });
});

describe('an undo to a change of the view that storage had dropped', () => {
  it('is kept with all that it holds', async () => {
    const one = await bench();
    await done(one, 'select', { kind: 'faces', ids: [1] });
    await done(one, 'selectBy', { way: 'grow', kind: 'faces' });
    await done(one, 'hide', { what: 'selected' });
    await done(one, 'selectBy', { way: 'all', kind: 'faces' });
    const last = hashOf(present(one));
    for (let k = 0; k < 3; k++) {
      await one.session.undo();
      await one.session.idle();
    }
    const at = hashOf(present(one));
    for (const [want, moves] of [
      [at, 0],
      [last, 3],
    ] as const) {
      for (let k = 0; k < moves; k++) {
        await one.session.redo();
        await one.session.idle();
      }
      await one.session.settle();
      const again = await new Keeper('job-1', one.database).load();
      expect(again!.missing).toBe(0);
      expect(hashOf(again!.entries[again!.index]!.job)).toBe(want);
    }
  });
});

describe('what goes wrong', () => {
  it('a cancel ends an operation and leaves the job as it was', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const before = hashOf(present(one));
    const asked = one.session.run('unwrap', { method: 'isometric' });
    one.board.cancel(one.board.newest);
    one.session.cancel();
    await new Promise((next) => setTimeout(next, 0));
    one.session.cancel();
    expect(await asked).toMatchObject({ ok: false, code: 'cancelled' });
    expect(hashOf(present(one))).toBe(before);
    await done(one, 'unwrap', {});
  });

  it('a save that fails is told, and made up for by the next', async () => {
    const one = await bench();
    const put = vi.spyOn(one.database.jobs, 'put').mockRejectedValueOnce(Object.assign(new Error('full'), { name: 'QuotaExceededError' }));
    await one.session.run('renameJob', { name: 'not kept at first' });
    expect(await one.session.settle()).toBe(false);
    expect(one.last('unsaved')?.sentence).toMatch(/no room/);
    expect(put).toHaveBeenCalled();
    one.session.retrySave();
    expect(await one.session.settle()).toBe(true);
    const again = openBench(one.database);
    open.push(again);
    await again.session.load('job-1');
    expect(present(again).name).toBe('not kept at first');
  });

  it('a worker that ends over a task is replaced, and the task done once more', async () => {
    const one = await bench();
    one.seats.killNext = 1;
    await done(one, 'firstLayout', {});
    expect(activeSet(partOf(present(one))).unplaced.includes(1)).toBe(false);
  });

  it('a second that ends over it is told, and the job stays as it was', async () => {
    const one = await bench();
    const before = hashOf(present(one));
    one.seats.killNext = 2;
    expect(await one.session.run('firstLayout', { by: 'crease' })).toMatchObject({ ok: false, code: 'ended' });
    expect(hashOf(present(one))).toBe(before);
    await done(one, 'firstLayout', {});
  });

  it('a measuring worker that ends is replaced, and the measures come', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    one.told.length = 0;
    one.seats.killNext = 1;
    await done(one, 'pack', { parts: 'active' });
    expect(one.last('measures')).toBeDefined();
    expect(one.last('index')).toBeDefined();
  });

  it('how much edges are seen is worked out where there are seams, or at rest, and once', async () => {
    const seenTimes = (one: Bench) => one.seats.asked.filter((name) => name === 'sight').length;
    /** A cube that nobody unwrapped. */
    const bare = async (getsReady: boolean) => {
      const one = openBench();
      open.push(one);
      (one.session as unknown as { measuring: { state: { getsReady: boolean } } }).measuring.state.getsReady = getsReady;
      const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => `v ${k & 1} ${(k >> 1) & 1} ${k >> 2}`);
      const sides = ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 7 8 4', '1 5 7 3', '2 4 8 6'].map((side) => `f ${side}`);
      const bytes = new TextEncoder().encode([...corners, ...sides].join('\n'));
      expect(await one.session.open([{ name: 'box.obj', bytes }], `job-${open.length}`)).toMatchObject({ ok: true });
      await one.session.idle();
      return one;
    };
    const reportOf = (one: Bench) => one.last('measures')!.measures!.report;
    const cutAtOnce = await bare(false);
    expect(reportOf(cutAtOnce)).toMatchObject({ seamLength: 0, hiddenSeamShare: null });
    expect(seenTimes(cutAtOnce)).toBe(0);
    await done(cutAtOnce, 'cut', { edges: [0, 1, 2] });
    const report = reportOf(cutAtOnce);
    expect(report.seamLength).toBeGreaterThan(0);
    expect(report.hiddenSeamShare).not.toBeNull();
    await done(cutAtOnce, 'cut', { edges: [3] });
    expect(seenTimes(cutAtOnce)).toBe(1);

    const rested = await bare(true);
    expect(seenTimes(rested)).toBe(0);
    await vi.waitFor(() => expect(seenTimes(rested)).toBe(1), { timeout: 5000 });
    await done(rested, 'cut', { edges: [0, 1, 2] });
    expect(reportOf(rested)).toEqual(report);
    expect(seenTimes(rested)).toBe(1);
  });

  it('steps asked for at once are done in their order', async () => {
    const one = await bench();
    await Promise.all(['a', 'b', 'c', 'd'].map((name) => one.session.run('renameJob', { name })));
    expect(historyOf(one).entries.map(({ job }) => job.name)).toEqual(['Sphere', 'a', 'b', 'c', 'd']);
  });

  it('what does not fit an operation is refused in words', async () => {
    const one = await bench();
    expect(await one.session.run('settings', { margin: -5 })).toMatchObject({ ok: false, code: 'bad-parameter' });
    expect(await one.session.run('renamePart', { part: 'gone', name: 'x' })).toMatchObject({ ok: false });
    expect(historyOf(one).entries).toHaveLength(1);
  });
});

describe('seams worked out in several ways', () => {
  const ways = (['crease', 'stretch', 'flat'] as const).map((by) => ({ by, limit: 4.2, layout: true }));
  const found = ({ told }: Bench) => told.flatMap((event) => (event.kind === 'proposal' ? [event.report] : []));

  it('are told of one by one, found in the pool, as one thread finds them; nothing is changed, and a step asked for meanwhile does not wait', async () => {
    const one = await bench();
    const before = hashOf(present(one));
    const order: string[] = [];
    const shares: number[] = [];
    const { works } = one.session as unknown as { works: { list: { progress: { share: number } }[] } };
    const watch = setInterval(() => shares.push(...works.list.slice(0, 1).map(({ progress }) => progress.share)), 5);
    const all = one.session.propose(ways).then((outcome) => (order.push('ways'), outcome));
    while (!one.seats.asked.includes('propose')) await new Promise((next) => setTimeout(next, 0));
    await one.session.run('select', { kind: 'faces', ids: [1, 2] }).then(() => order.push('selected'));
    expect(await all).toMatchObject({ ok: true, report: { ways: 3 } });
    clearInterval(watch);
    expect(order).toEqual(['selected', 'ways']);
    // how far the ways are is told by the pool's workers
    expect(shares.some((share) => share > 0 && share < 1)).toBe(true);
    expect(shares).toEqual(shares.toSorted((a, b) => a - b));
    await one.session.undo();
    expect(hashOf(present(one))).toBe(before);
    expect(
      found(one)
        .map(({ by }) => by)
        .sort(),
    ).toEqual(['crease', 'flat', 'stretch']);
    expect(one.seats.asked.filter((name) => name === 'propose')).toHaveLength(3);
    for (const report of found(one)) {
      const alone = (await runOperation(present(one), 'propose', { by: report.by, limit: 4.2, layout: true })).report as ProposalReport;
      expect(alone.cuts).toEqual(report.cuts);
      expect(alone.seamInSight).toBe(report.seamInSight);
      expect(alone.uv).toEqual(report.uv);
    }
  });

  it('a cut meanwhile ends them, and so does Cancel; what was found before stays told', async () => {
    const one = await bench();
    // enough of them that the cut comes before the last
    const first = one.session.propose(Array.from({ length: 8 }, () => ways).flat());
    while (!one.seats.asked.includes('propose')) await new Promise((next) => setTimeout(next, 0));
    const part = partOf(present(one));
    const joined = islandsOf(part.mesh, activeSet(part)).states.indexOf(EdgeState.joined);
    expect(await one.session.run('cut', { edges: [joined] })).toMatchObject({ ok: true });
    expect(await first).toMatchObject({ ok: false, code: 'cancelled', sentence: expect.stringContaining('changed meanwhile') as string });
    await one.session.idle();
    // and so does another side from which the part is looked at
    const turned = one.session.propose(Array.from({ length: 8 }, () => ways).flat());
    expect(await one.session.run('settings', { seenFrom: 'front' })).toMatchObject({ ok: true });
    expect(await turned).toMatchObject({ ok: false, code: 'cancelled', sentence: expect.stringContaining('changed meanwhile') as string });
    await one.session.idle();
    one.seats.asked.length = 0;
    const second = one.session.propose(ways);
    while (!one.seats.asked.includes('propose')) await new Promise((next) => setTimeout(next, 0));
    one.session.cancel();
    expect(await second).toMatchObject({ ok: false, code: 'cancelled', sentence: expect.stringContaining('nothing was changed') as string });
    await one.session.idle();
    // a worker that ends once is replaced
    one.told.length = 0;
    one.seats.killNext = 1;
    expect(await one.session.propose(ways.slice(0, 1))).toMatchObject({ ok: true });
    expect(found(one)).toHaveLength(1);
  });

  it('without a job, or of a part that is gone, it is refused', async () => {
    const one = await bench();
    expect(await one.session.propose([{ by: 'crease', part: 'gone' }])).toMatchObject({ ok: false });
    expect(found(one)).toHaveLength(0);
  });
});

describe('remedies for a jump of the picture', () => {
  it('are worked out in the pool; a newer question ends an older one, and nothing is changed', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    await done(one, 'addImages', { images: [{ name: 'a.png', bytes: cutOut() }], show: true });
    const part = partOf(present(one));
    const { states } = islandsOf(part.mesh, activeSet(part));
    const edges = [...states.keys()].filter((e) => states[e] === EdgeState.seam);
    const before = hashOf(present(one));
    const [older, newer] = await Promise.all([0, 1].map(() => one.session.seamRemedies({ edges, islands: [0, 0], way: 'turn' })));
    expect(older).toMatchObject({ ok: false, code: 'cancelled' });
    expect(newer).toMatchObject({ ok: true });
    expect(one.seats.asked.filter((name) => name === 'moveSeam')).toHaveLength(1);
    expect(hashOf(present(one))).toBe(before);
  });

  it('a seam is moved in the pool, and a cancel of it leaves the job as it was', async () => {
    const one = await bench();
    await done(one, 'firstLayout', {});
    const part = partOf(present(one));
    const { states } = islandsOf(part.mesh, activeSet(part));
    const edges = [...states.keys()].filter((e) => states[e] === EdgeState.seam);
    const before = hashOf(present(one));
    const moving = one.session.run('moveSeam', { edges });
    while (!one.seats.asked.includes('moveSeam')) await new Promise((next) => setTimeout(next, 0));
    one.session.cancel();
    expect(await moving).toMatchObject({ ok: false, code: 'cancelled' });
    expect(hashOf(present(one))).toBe(before);
  });
});

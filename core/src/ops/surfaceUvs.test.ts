import { encode } from 'fast-png';
import { describe, expect, it } from 'vitest';
import { asItLies, placedAt, placementMatrix, placementSchema } from '../images/placement.ts';
import { joinsWithItself, selfJoin } from '../images/joins.ts';
import { activeSet, newJob, partOf, type Job, type Part } from '../job/job.ts';
import { drivenBy } from '../job/driveLayer.ts';
import { surfacePlanOf } from '../job/layers.ts';
import { Surface } from '../images/surface/surface.ts';
import { makeJig } from '../jigs/jig.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { chanceOfFaces } from '../images/surface/chance.ts';
import { seamJumps } from '../measure/continuity.ts';
import { continuingSeams } from '../uv/continuing.ts';
import { islandsOf } from '../uv/islands.ts';
import { runOperation } from './registry.ts';

const png = (width: number, value: (x: number, y: number) => number) =>
  encode({
    width,
    height: 8,
    data: Uint8Array.from({ length: width * 8 * 3 }, (_, k) => value(Math.floor(k / 3) % width, Math.floor(k / 3 / width))),
    channels: 3,
    depth: 8,
  });
const step = async (job: Job, name: string, params: object) => (await runOperation(job, name, params as Record<string, unknown>)).job;

async function start(): Promise<Job> {
  const job = await step(newJob('j', 'j', []), 'makeForm', { kind: 'box' });
  return step(job, 'addImages', { images: [{ name: 'a.png', bytes: png(16, (x, y) => x * 15 + y) }], show: true });
}

/** What the part shows in the middle of each triangle. */
function shown(job: Job): number[] {
  const part = partOf(job);
  const data = Uint8Array.from({ length: 16 * 8 * 4 }, (_, k) => (k % 4 === 3 ? 255 : ((k >> 2) % 16) * 15 + Math.floor((k >> 2) / 16)));
  const surface = new Surface(part.mesh, surfacePlanOf(job, part), () => ({ width: 16, height: 8, data }));
  const out = new Float64Array(4);
  return Array.from({ length: trianglesOf(part.mesh).count }, (_, t) => {
    surface.at(t, 0.3, 0.3, 0.4);
    surface.colour(out);
    return Math.round(out[0]! * 1e9) / 1e9;
  });
}

describe('writing a placement to the UVs', () => {
  it('the picture looks as before, its placement is at rest; a copy leaves the set as it was', async () => {
    let job = await start();
    const placement = placementSchema.parse({ repeats: [2, 3], turn: 30, offset: [0.2, 0.1], mirrorU: true });
    job = await step(job, 'placeImage', { placement });
    const before = shown(job);
    const written = await step(job, 'writePlacement', {});
    expect(partOf(written)).not.toHaveProperty('placement');
    shown(written).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
    const copied = await step(job, 'writePlacement', { into: 'copy' });
    expect(partOf(copied).uvSets[0]).toBe(partOf(job).uvSets[0]);
    expect(partOf(copied).activeUv).toBe(1);
    shown(copied).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
    await expect(step(written, 'writePlacement', {})).rejects.toThrow('lies as the UVs have it already');
  });

  /** A box with its picture, a layer of two by two repeats that is turned, one with a mask placed by itself, and one at rest. */
  const layered = async (repeats: [number, number]) => {
    let job = await start();
    const image = job.images[0]!.id;
    const layer = { source: { kind: 'image', image }, opacity: 0.5 };
    const mask = { kind: 'image', image, channel: 'red', placement: placementSchema.parse({ repeats: [3, 1], offset: [0.3, 0] }) };
    job = await step(job, 'addLayer', { layer: { name: 'one', ...layer, placement: placementSchema.parse({ repeats, turn: 20 }), masks: [mask] } });
    job = await step(job, 'addLayer', { layer: { name: 'two', ...layer, placement: placementSchema.parse({ repeats: [1, 5], turn: 65 }), masks: [mask] } });
    return step(job, 'addLayer', { layer: { name: 'rest', ...layer } });
  };

  it('of a layer: what else the set drives, and masks that are placed by themselves, look as before', async () => {
    const job = await layered([2, 2]);
    const before = shown(job);
    const { job: written, report } = await runOperation(job, 'writePlacement', { layer: 'layer-1' });
    expect(report).toMatchObject({ alsoMoved: [] });
    expect(partOf(written).layers![0]!.placement).toEqual(asItLies);
    expect(partOf(written).placement).toMatchObject({ repeats: [0.5, 0.5] });
    shown(written).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
    const copied = await step(job, 'writePlacement', { layer: 'layer-1', into: 'copy' });
    expect(partOf(copied).layers![0]).toMatchObject({ driver: { kind: 'set', set: 'UV set 1 2' }, placement: asItLies });
    shown(copied).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
    // written back, all is as it was
    const back = await step(written, 'writePlacement', {});
    expect(
      partOf(back)
        .layers!.slice(1)
        .map(({ placement }) => placement),
    ).toEqual(
      partOf(job)
        .layers!.slice(1)
        .map(({ placement }) => placement),
    );
  });

  it('what would have to be skewed for that moves along, and is told', async () => {
    const job = await layered([2, 3]);
    const { report, sentence } = await runOperation(job, 'writePlacement', { layer: 'layer-1' });
    expect(report).toMatchObject({
      alsoMoved: ['the part’s own picture', 'a mask of “one” that is placed by itself', '“two”', 'a mask of “two” that is placed by itself', '“rest”'],
    });
    expect(sentence).toContain('moved along');
  });

  it('of the part’s own picture into a copy: layers that went by the set at work go on by it', async () => {
    const job = await step(await layered([2, 2]), 'placeImage', { placement: placementSchema.parse({ repeats: [2, 3], turn: 30 }) });
    const before = shown(job);
    const { job: copied, report } = await runOperation(job, 'writePlacement', { into: 'copy' });
    expect(report).toMatchObject({ set: 'UV set 1 2', alsoMoved: [] });
    expect(partOf(copied).activeUv).toBe(1);
    shown(copied).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
  });
});

describe('writing the placement of a layer for chosen faces', () => {
  const laidOut = async () => {
    const bare = await start();
    let job = await step(bare, 'showImage', { part: partOf(bare).id, image: null });
    const placement = placementSchema.parse({ repeats: [2, 3], turn: 30, offset: [0.2, 0.1] });
    const layer = { name: 'a', source: { kind: 'image', image: job.images[0]!.id }, placement };
    job = await step(job, 'addLayer', { layer });
    job = await step(job, 'addLayer', { layer: { ...layer, name: 'tint', opacity: 0.4, placement: asItLies } });
    return { job: await step(job, 'select', { kind: 'faces', ids: [0, 3] }), id: partOf(job).layers![0]!.id };
  };

  it('they have a layer of their own at rest, all looks as before, and undoing gives it back; none but their UVs move', async () => {
    const { job, id } = await laidOut();
    const part = partOf(job);
    // what else goes by these UVs moves along, and is told: looked at without it
    const bare = await step(job, 'removeLayer', { layer: part.layers![1]!.id });
    const before = shown(bare);
    const { job: written, report } = await runOperation(bare, 'writePlacement', { layer: id, faces: 'selected' });
    expect(report).toMatchObject({ faces: 2, alsoMoved: [] });
    shown(written).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
    const [others, own] = partOf(written).layers!;
    expect(own!.placement).toEqual(asItLies);
    expect(others!.placement).toEqual(partOf(bare).layers![0]!.placement);
    expect([others!.masks, own!.masks]).toMatchObject([
      [{ kind: 'faces', faces: [0, 3], isInverted: true }],
      [{ kind: 'faces', faces: [0, 3], isInverted: false }],
    ]);
    const [was, now] = [activeSet(part), activeSet(partOf(written))];
    for (let f = 0; f + 1 < part.mesh.faceStart.length; f++) {
      const moved = [...Array(part.mesh.faceStart[f + 1]! - part.mesh.faceStart[f]!).keys()].some((k) => {
        const c = part.mesh.faceStart[f]! + k;
        return was.uv[was.cornerUv[c]! * 2] !== now.uv[now.cornerUv[c]! * 2];
      });
      expect(moved).toBe(f === 0 || f === 3);
    }
    expect((await runOperation(job, 'writePlacement', { layer: id, faces: 'selected' })).report).toMatchObject({ alsoMoved: ['“tint”'] });
  });

  it('into a copy: the set stays, and the layer of these faces alone goes by the copy', async () => {
    const { job, id } = await laidOut();
    const before = shown(job);
    const written = await step(job, 'writePlacement', { layer: id, faces: 'selected', into: 'copy' });
    expect(partOf(written).uvSets[0]).toBe(partOf(job).uvSets[0]);
    expect(partOf(written).layers!.map(({ driver }) => driver)).toEqual([
      { kind: 'set', set: '' },
      { kind: 'set', set: partOf(written).uvSets[1]!.name },
      { kind: 'set', set: '' },
    ]);
    shown(written).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
  });

  it('of all faces it is the same as for the whole; without any, or where it cannot be, it says what to do', async () => {
    const { job, id } = await laidOut();
    const all = await step(job, 'select', { kind: 'faces', ids: [...Array(partOf(job).mesh.faceStart.length - 1).keys()] });
    expect(partOf(await step(all, 'writePlacement', { layer: id, faces: 'selected' })).layers).toHaveLength(2);
    const none = await step(job, 'select', { kind: 'faces', ids: [] });
    await expect(step(none, 'writePlacement', { layer: id, faces: 'selected' })).rejects.toThrow('No face of this part is selected');
    await expect(step(job, 'writePlacement', { faces: 'selected' })).rejects.toThrow('shows no picture');
    await expect(step(job, 'writePlacement', { layer: id, material: 'm', faces: 'selected' })).rejects.toThrow('does not follow this layer of m');
  });

  it.each(['this', 'copy'])('of the part’s own picture, into %s: it becomes two layers under the others', async (into) => {
    let job = await step(await start(), 'placeImage', { placement: placementSchema.parse({ repeats: [2, 3], turn: 30, offset: [0.2, 0.1] }) });
    job = await step(job, 'select', { kind: 'faces', ids: [1, 4] });
    const before = shown(job);
    const { job: written, report, sentence } = await runOperation(job, 'writePlacement', { faces: 'selected', into });
    expect(report).toMatchObject({ faces: 2, alsoMoved: [] });
    expect(sentence).toContain('the picture of Box is layers now');
    expect(partOf(written).imageId).toBeNull();
    expect(partOf(written).placement).toBeUndefined();
    expect(partOf(written).layers!.map(({ placement }) => placement.turn)).toEqual([30, 0]);
    shown(written).forEach((x, k) => expect(x).toBeCloseTo(before[k]!, 6));
  });
});

describe('writing the placement of a material’s layer', () => {
  /** Two boxes of which three faces each are of steel, which has a layer; the second part has one face more of something else on the same UV points. */
  async function steel(): Promise<Job> {
    let job = await step(await start(), 'assignMaterial', { faces: [0, 1, 2], material: 'steel' });
    job = await step(await step(job, 'makeForm', { kind: 'box' }), 'assignMaterial', { faces: [3, 4], material: 'steel' });
    const layer = {
      name: 'l',
      source: { kind: 'image', image: job.images[0]!.id },
      placement: placementSchema.parse({ repeats: [2, 3], turn: 30, offset: [0.2, 0.1] }),
    };
    return step(job, 'addLayer', { material: 'steel', layer });
  }
  const seenOnAll = (job: Job) => job.parts.map((part) => shown({ ...job, selection: { ...job.selection, part: part.id }, activePart: part.id } as Job));
  const placesOf = ({ mesh, uvSets }: Part, k: number, f: number) =>
    Array.from({ length: mesh.faceStart[f + 1]! - mesh.faceStart[f]! }, (_, c) => {
      const { cornerUv, uv } = uvSets[k]!;
      const p = cornerUv[mesh.faceStart[f]! + c]! * 2;
      return [uv[p], uv[p + 1]];
    });

  it('moves the UVs of the faces of that material on all parts, and of no others; it looks as before', async () => {
    const job = await steel();
    const before = seenOnAll(job);
    const layer = job.materialLayers![0]!.layers[0]!.id;
    const { job: written, report } = await runOperation(job, 'writePlacement', { material: 'steel', layer });
    expect(written.materialLayers![0]!.layers[0]!.placement).toMatchObject({ repeats: [1, 1], turn: 0, offset: [0, 0] });
    seenOnAll(written).forEach((list, k) => list.forEach((x, t) => expect(x).toBeCloseTo(before[k]![t]!, 6)));
    // the first part’s picture goes by the same UVs: it moves along, and is told
    expect(report).toMatchObject({ set: 'UV set 1', alsoMoved: [`the picture of ${job.parts[0]!.name}`] });
    job.parts.forEach((part, k) => {
      const steel = part.mesh.materials.indexOf('steel');
      for (let f = 0; f + 1 < part.mesh.faceStart.length; f++) {
        const same = JSON.stringify(placesOf(written.parts[k]!, 0, f)) === JSON.stringify(placesOf(part, 0, f));
        expect(same).toBe(part.mesh.faceMaterial[f] !== steel);
      }
    });
    await expect(step(written, 'writePlacement', { material: 'steel', layer })).rejects.toThrow('lies as the UVs have it already');
    await expect(step(job, 'writePlacement', { material: 'steel', layer: 'none' })).rejects.toThrow('not there');
  });

  it('or those of a copy that all of these parts get by one name', async () => {
    const job = await steel();
    const before = seenOnAll(job);
    const copied = await step(job, 'writePlacement', { material: 'steel', layer: job.materialLayers![0]!.layers[0]!.id, into: 'copy' });
    expect(copied.parts.map(({ uvSets }) => uvSets.map(({ name }) => name))).toEqual([
      ['UV set 1', 'UV set 1 2'],
      ['UV set 1', 'UV set 1 2'],
    ]);
    copied.parts.forEach((part, k) => expect(part.uvSets[0]).toBe(job.parts[k]!.uvSets[0]));
    expect(copied.materialLayers![0]!.layers[0]!.driver).toEqual({ kind: 'set', set: 'UV set 1 2' });
    seenOnAll(copied).forEach((list, k) => list.forEach((x, t) => expect(x).toBeCloseTo(before[k]![t]!, 6)));
  });

  it('for chosen faces of one part: that part has layers of its own then, the others follow as before', async () => {
    const laid = await steel();
    const job = await step(laid, 'showImage', { part: laid.parts[0]!.id, image: null });
    const [first, second] = job.parts as [Part, Part];
    const layer = job.materialLayers![0]!.layers[0]!.id;
    // face 5 is of something else: it stays as it is
    const chosen = await step(await step(job, 'activatePart', { part: first.id }), 'select', { kind: 'faces', ids: [0, 2, 5] });
    const before = seenOnAll(chosen);
    const { job: written, report, sentence } = await runOperation(chosen, 'writePlacement', { part: first.id, material: 'steel', layer, faces: 'selected' });
    expect(report).toMatchObject({ faces: 2 });
    expect(sentence).toContain('has layers of its own now');
    expect(written.materialLayers).toEqual(job.materialLayers);
    expect(written.parts[1]).toBe(second);
    seenOnAll(written).forEach((list, k) => list.forEach((x, t) => expect(x).toBeCloseTo(before[k]![t]!, 6)));
    for (let f = 0; f < 6; f++) {
      const same = JSON.stringify(placesOf(written.parts[0]!, 0, f)) === JSON.stringify(placesOf(first, 0, f));
      expect(same).toBe(f !== 0 && f !== 2);
    }
    const other = await step(job, 'select', { kind: 'faces', ids: [5] });
    await expect(step(other, 'writePlacement', { part: partOf(other).id, material: 'steel', layer, faces: 'selected' })).rejects.toThrow('No face of steel');
  });

  it('splits UV points that other faces have, too', async () => {
    const job = await steel();
    const first = await step(job, 'activatePart', { part: job.parts[0]!.id });
    const { states } = islandsOf(partOf(first).mesh, activeSet(partOf(first)));
    const whole = await step(first, 'uncut', { edges: [...states.keys()].filter((e) => states[e] === 1).slice(0, 3) });
    // neighbours of the steel faces have points of theirs
    const { mesh } = partOf(whole);
    const pointsOf = (isSteel: boolean) =>
      new Set(
        [...mesh.corners.keys()]
          .filter((c) => (mesh.faceMaterial[Math.floor(c / 4)] === mesh.materials.indexOf('steel')) === isSteel)
          .map((c) => activeSet(partOf(whole)).cornerUv[c]!),
      );
    expect([...pointsOf(true)].some((p) => pointsOf(false).has(p))).toBe(true);
    const before = seenOnAll(whole);
    const written = await step(whole, 'writePlacement', { material: 'steel', layer: whole.materialLayers![0]!.layers[0]!.id });
    seenOnAll(written).forEach((list, k) => list.forEach((x, t) => expect(x).toBeCloseTo(before[k]![t]!, 6)));
  });
});

describe('driving a layer otherwise', () => {
  it('keeps size and heading on the model: to a jig and back, to three sides', async () => {
    let job = await start();
    const jig = makeJig({ kind: 'box', origin: [0, 0, 0], size: [1, 1, 1], repeats: [1, 1] });
    job = { ...job, jigs: [{ id: 'j', name: 'Box', jig, state: 'off', drives: [], belongs: 'part' }] };
    job = await step(job, 'addLayer', {
      layer: {
        name: 'one',
        source: { kind: 'image', image: job.images[0]!.id },
        driver: { kind: 'jig', jig: 'j' },
        placement: placementSchema.parse({ repeats: [2, 4], turn: 20 }),
      },
    });
    const [layer] = partOf(job).layers!;
    // units of the model per picture along its own sides
    const sizeOf = (one: typeof layer, perUnit: (axis: 0 | 1) => number) => [one!.placement.repeats[0] * perUnit(0), one!.placement.repeats[1] * perUnit(1)];
    const tri = drivenBy(job, partOf(job), layer!, { kind: 'triplanar', size: 0.5, blend: 0.2, offset: [0, 0, 0], turn: [0, 0, 0] });
    // the jig's picture is one unit wide and tall, that of three sides half a unit wide and a quarter tall (16 × 8 px)
    const [wide, tall] = sizeOf(tri, (axis) => (axis === 0 ? 2 : 4));
    expect([wide! / 2, tall! / 4]).toEqual([expect.closeTo(1, 1), expect.closeTo(1, 1)]);
    const back = drivenBy(job, partOf(job), tri, { kind: 'jig', jig: 'j' });
    expect(back.placement.repeats[0]).toBeCloseTo(2, 1);
    expect(back.placement.repeats[1]).toBeCloseTo(4, 1);
    const same = drivenBy(job, partOf(job), layer!, { kind: 'jig', jig: 'j' });
    expect(same.placement.repeats).toEqual([expect.closeTo(2, 9), expect.closeTo(4, 9)]);
    expect(same.placement.turn).toBeCloseTo(20, 9);
    const [u, v] = placedAt(placementMatrix(same.placement), 0.3, 0.8);
    const [x, y] = placedAt(placementMatrix(layer!.placement), 0.3, 0.8);
    expect([u, v]).toEqual([expect.closeTo(x, 9), expect.closeTo(y, 9)]);
  });
});

describe('driving a layer otherwise and back', () => {
  const withLayer = async () => {
    let job = await start();
    const jig = makeJig({ kind: 'box', origin: [0, 0, 0], size: [1, 1, 1], repeats: [1, 1] });
    job = { ...job, jigs: [{ id: 'j', name: 'Box', jig, state: 'off', drives: [], belongs: 'part' }] };
    const placement = placementSchema.parse({ repeats: [2.3, 3.1], turn: 17, offset: [0.123, -4], mirrorU: true });
    return step(job, 'addLayer', { layer: { name: 'one', source: { kind: 'image', image: job.images[0]!.id }, placement } });
  };
  const one = (job: Job) => partOf(job).layers![0]!;
  const to = (job: Job, by: object) => step(job, 'driveLayer', { layer: one(job).id, by });
  const said = (job: Job) => ({ driver: one(job).driver, placement: one(job).placement });

  it('gives the layer back exactly, over any way round, while nothing was changed', async () => {
    const first = await withLayer();
    const atJig = await to(first, { kind: 'jig', jig: 'j' });
    const atSides = await to(atJig, { kind: 'triplanar', size: 0.4 });
    const backAtJig = await to(atSides, { kind: 'jig', jig: 'j' });
    expect(said(backAtJig)).toEqual(said(atJig));
    const again = await to(backAtJig, { kind: 'triplanar', size: 9 });
    // three sides as they were, whatever width the list begins with
    expect(said(again)).toEqual(said(atSides));
    expect(said(await to(again, { kind: 'set' }))).toEqual(said(first));
    // asked for with another width while it is driven so, it has that width, and the picture its size
    const wider = said(await to(again, { kind: 'triplanar', size: 0.8 }));
    expect(wider.driver).toMatchObject({ size: 0.8 });
    expect(wider.placement.repeats[0]).toBeCloseTo(2 * said(again).placement.repeats[0], 6);
  });

  it('works it out afresh where the layer, the jig or the layout was changed meanwhile', async () => {
    const first = await withLayer();
    const atJig = await to(first, { kind: 'jig', jig: 'j' });
    const turned = await step(atJig, 'setLayer', { layer: { ...one(atJig), placement: { ...one(atJig).placement, turn: one(atJig).placement.turn + 90 } } });
    expect(said(await to(turned, { kind: 'set' })).placement.turn).not.toBeCloseTo(17, 1);
    const moved = await step(atJig, 'changeJig', { id: 'j', jig: { ...atJig.jigs![0]!.jig, size: [2, 2, 2] } });
    // the picture grew with the jig: back on the UVs it is as large as it is now
    expect(said(await to(moved, { kind: 'set' })).placement.repeats[0]).toBeLessThan(0.6 * 2.3);
    const half = (part: Part): Part => ({ ...part, uvSets: part.uvSets.map((set) => ({ ...set, uv: set.uv.map((x) => x / 2) })) });
    // the form is another one now: half as wide, its UVs as they were
    const narrow = (part: Part): Part => ({ ...part, mesh: { ...part.mesh, points: part.mesh.points.map((x, k) => (k % 3 === 0 ? x / 2 : x)) } });
    const atSides = await to(first, { kind: 'triplanar', size: 0.4 });
    const onNarrow = said(await to({ ...atSides, parts: atSides.parts.map(narrow) }, { kind: 'set' }));
    expect(onNarrow.placement).not.toEqual(said(first).placement);
    const shrunk = { ...atJig, parts: atJig.parts.map(half) };
    const back = said(await to(shrunk, { kind: 'set' })).placement.repeats;
    expect(back[0]).toBeCloseTo(2 * 2.3, 1);
  });

  it('from three sides of the part or of space: the same places when it is said, and the part’s go with it', async () => {
    const atSides = await to(await withLayer(), { kind: 'triplanar', size: 0.4, offset: [0.1, 0.2, 0.3] });
    const ofPart = await to(atSides, { ...one(atSides).driver, belongs: 'part' });
    expect(shown(ofPart)).toEqual(shown(atSides));
    const away = (job: Job): Job => ({
      ...job,
      parts: job.parts.map((part) => ({ ...part, mesh: { ...part.mesh, points: part.mesh.points.map((x) => x + 0.13) } })),
    });
    expect(shown(away(ofPart))).toEqual(shown(ofPart));
    expect(shown(away(atSides))).not.toEqual(shown(atSides));
  });
});

describe('variation', () => {
  it('is the same for the same seed, by whole texels, and keeps shapes', async () => {
    const job = await step(await start(), 'unwrap', {});
    const cut = await step(await step(job, 'seams', { by: 'crease', angle: 40 }), 'unwrap', {});
    const one = await step(cut, 'vary', { seed: 7, texels: 16 });
    expect(activeSet(partOf(await step(cut, 'vary', { seed: 7, texels: 16 }))).uv).toEqual(activeSet(partOf(one)).uv);
    expect(activeSet(partOf(await step(cut, 'vary', { seed: 8, texels: 16 }))).uv).not.toEqual(activeSet(partOf(one)).uv);
    const [before, after] = [activeSet(partOf(cut)), activeSet(partOf(one))];
    expect(islandsOf(partOf(cut).mesh, before).count).toBe(6);
    for (let p = 0; p < before.uv.length; p++) {
      const texels = (after.uv[p]! - before.uv[p]!) * 16;
      expect(texels).toBeCloseTo(Math.round(texels), 9);
    }
    const turned = await step(cut, 'vary', { offset: false, turn: 'quarter', mirror: true, seed: 3 });
    const area = (uv: Float64Array) => Math.abs((uv[2]! - uv[0]!) * (uv[5]! - uv[1]!) - (uv[4]! - uv[0]!) * (uv[3]! - uv[1]!));
    expect(area(activeSet(partOf(turned)).uv)).toBeCloseTo(area(before.uv), 9);
    await expect(step(cut, 'vary', { offset: false })).rejects.toThrow('Nothing is to vary');
  });

  it('never parts islands over a seam that is kept going on: placed one from the other they jump no more after it, turned and mirrored', async () => {
    const bare = await step(await start(), 'unwrap', {});
    const cut = await step(await step(bare, 'seams', { by: 'crease', angle: 40 }), 'unwrap', {});
    const jumpsOf = (job: Job) => seamJumps(partOf(job).mesh, activeSet(partOf(job)), partOf(job).placement, { width: 16, height: 8 });
    const placed = await step(cut, 'pack', { effort: 0 });
    const seam = jumpsOf(placed)[0]!;
    const [first, second] = seam.islands;
    const met = await step(placed, 'goOn', { island: second, from: first, way: 'size' });
    const isSeam = ({ islands }: { islands: readonly number[] }) => islands.join() === seam.islands.join();
    expect(jumpsOf(met).some(isSeam)).toBe(false);
    const how = { turn: 'free', mirror: true, seed: 5 };
    expect(jumpsOf(await step(met, 'vary', how)).some(isSeam)).toBe(true);

    const select = { kind: 'edges', ids: Uint32Array.from(seam.edges).sort() };
    const kept = await step(await step(met, 'select', select), 'keepGoing', {});
    expect(continuingSeams(partOf(kept).mesh, activeSet(partOf(kept)))).toEqual([...seam.edges].sort((a, b) => a - b));
    await expect(step(kept, 'keepGoing', {})).rejects.toThrow('None of these edges');
    for (const seed of [1, 5, 9]) {
      const varied = await step(kept, 'vary', { ...how, seed });
      expect(jumpsOf(varied).some(isSeam)).toBe(false);
      expect(activeSet(partOf(varied)).uv).not.toEqual(activeSet(partOf(kept)).uv);
    }
    // by chance they are alike, too
    const each = await step(kept, 'addLayer', { layer: { name: 'x', source: { kind: 'colour' }, masks: [{ kind: 'each', by: 'island' }] } });
    const values = chanceOfFaces(partOf(each).mesh, activeSet(partOf(each)), partOf(each).layers![0]!.masks[0] as never, 'p');
    const { ofFace } = islandsOf(partOf(kept).mesh, activeSet(partOf(kept)));
    const valueOf = (island: number) => values[ofFace.indexOf(island)];
    expect(valueOf(second)).toBe(valueOf(first));
    expect(new Set(values).size).toBe(5);
    // one of them locked, or not meant: both stay
    const one = await step(kept, 'select', { kind: 'islands', ids: Uint32Array.of(first) });
    const locked = await step(one, 'lockIslands', { do: 'lock' });
    const after = activeSet(partOf(await step(locked, 'vary', { ...how, which: 'all' })));
    const points = (island: number) => [...ofFace.keys()].filter((f) => ofFace[f] === island).map((f) => after.cornerUv[partOf(kept).mesh.faceStart[f]!]!);
    for (const island of seam.islands) for (const p of points(island)) expect(after.uv[p * 2]).toBe(activeSet(partOf(kept)).uv[p * 2]);
    await expect(step(one, 'vary', { ...how, which: 'selected' })).rejects.toThrow('go on over a seam that is kept so');
    // let go, they are varied apart again; selected by rule until then
    const again = await step(kept, 'selectBy', { way: 'continuing' });
    expect([...again.selection.ids]).toEqual([...select.ids]);
    const free = await step(again, 'keepGoing', { keep: false });
    expect(jumpsOf(await step(free, 'vary', how)).some(isSeam)).toBe(true);
  });
});

describe('images that come back', () => {
  it('take the place of the one of their name in parts, layers and masks; a changed size is told', async () => {
    let job = await start();
    const old = job.images[0]!.id;
    job = await step(job, 'addLayer', { layer: { name: 'l', source: { kind: 'image', image: old }, masks: [{ kind: 'image', image: old }] } });
    const { job: next, sentence } = await runOperation(job, 'addImages', { images: [{ name: 'A.png', bytes: png(24, (x) => x) }] });
    expect(next.images).toHaveLength(1);
    const id = next.images[0]!.id;
    expect(id).not.toBe(old);
    expect(partOf(next).imageId).toBe(id);
    expect(partOf(next).layers).toMatchObject([{ source: { image: id }, masks: [{ image: id }] }]);
    expect(sentence).toContain('24 × 8 px instead of 16 × 8 px');
    expect((await step(job, 'addImages', { images: [{ name: 'a.png', bytes: png(24, (x) => x) }], replace: false })).images).toHaveLength(2);
  });

  it('a picture says whether it joins with itself', () => {
    const pixels = (value: (x: number, y: number) => number) => ({
      width: 64,
      height: 64,
      data: Uint8Array.from({ length: 64 * 64 * 4 }, (_, k) => (k % 4 === 3 ? 255 : value((k >> 2) % 64, Math.floor((k >> 2) / 64)))),
    });
    const wave = selfJoin(pixels((x, y) => 128 + 60 * Math.sin((x / 64) * 2 * Math.PI) + 60 * Math.cos((y / 64) * 4 * Math.PI)));
    expect(joinsWithItself(wave)).toEqual({ across: true, up: true });
    const ramp = selfJoin(pixels((x) => x * 4));
    expect(joinsWithItself(ramp)).toEqual({ across: false, up: true });
    expect(ramp.across).toBeCloseTo(252, 9);
  });
});

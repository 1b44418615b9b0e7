import type { Context } from '../context.ts';
import { driverSchema, type Layer } from '../images/surface/layer.ts';
import { JigError } from '../jigError.ts';
import { drivenBy } from '../job/driveLayer.ts';
import { activeSet, partOf, type Job, type Part } from '../job/job.ts';
import { freshLayer, ownerLayers, pictureAsLayer, withLayers } from '../job/layers.ts';
import { sheetAspect } from '../job/sheets.ts';
import { jumpLengths, seamJumps, type GoOnWay } from '../measure/continuity.ts';
import type { SeamLook } from '../measure/seamLooks.ts';
import type { ViewingSide } from '../measure/seamSight.ts';
import { faceAreas } from '../mesh/normals.ts';
import { topologyOf } from '../mesh/topology.ts';
import { moveSeamByWishes, type SeamMove } from '../propose/seamMove.ts';
import { edgeLengths } from '../seams/crease.ts';
import { uncut } from '../seams/uncut.ts';
import { widened } from '../select/widened.ts';
import { islandFacts, islandLetter, islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { scaleU } from '../uv/scaleU.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { goneOn, pictureOf } from './continuity.ts';
import { edgesOf, mirroredEdges, wishesOf, withSeams } from './seams.ts';
import type { CoverWay } from './seamRemedies.ts';

interface Meant {
  part?: string | undefined;
  edges?: number[] | undefined;
}

/** Seam edges that an operation means, part by part. @throws JigError `nothing-to-do` where none of the edges is a seam */
function seamsMeant(job: Job, meant: Meant): { part: Part; edges: number[] }[] {
  const found = edgesOf(job, meant)
    .map(({ part, edges }) => {
      const { states } = islandsOf(part.mesh, activeSet(part));
      return { part, edges: mirroredEdges(job, part, edges).filter((e) => states[e] === EdgeState.seam) };
    })
    .filter(({ edges }) => edges.length > 0);
  if (found.length === 0) throw new JigError('nothing-to-do', 'None of these edges is a seam.', '', 'Select the seam first.');
  return found;
}

const whyItStays = {
  ring: 'The seam goes all round, or ends within its island: it has no two ends to be moved between.',
  best: 'No other way between the ends of the seam is better hidden or shorter.',
};

/** In another thread where there is one: on a large part it takes a second or two. */
const moveOf = async (job: Job, part: Part, edges: readonly number[], seenFrom: ViewingSide, context: Context): Promise<SeamMove> => {
  const [set, wishes] = [activeSet(part), wishesOf(job, part, seenFrom)];
  return context.pool?.moveSeam ? context.pool.moveSeam(part.mesh, set, edges, wishes) : moveSeamByWishes(part.mesh, set, edges, wishes, context);
};

/** Cuts seams where they cost less. @throws JigError `nothing-to-do` where all stay, with the reason */
export async function seamMoved(
  job: Job,
  { seenFrom, ...meant }: Meant & { seenFrom: ViewingSide },
  context: Context,
): Promise<{ job: Job; report: { from: number; to: number } }> {
  let next = job;
  const report = { from: 0, to: 0 };
  let why = whyItStays.ring;
  for (const { part, edges } of seamsMeant(job, meant)) {
    const { moved } = await moveOf(job, part, edges, seenFrom, context);
    if (typeof moved === 'string') {
      why = whyItStays[moved];
      continue;
    }
    next = withSeams(next, part, moved.set);
    report.from += moved.from.length;
    report.to += moved.to.length;
  }
  if (report.to === 0) throw new JigError('nothing-to-do', why);
  return { job: next, report };
}

/** How wide the picture goes over, as a share of the root of the islands' area; as for the smears of a jig. */
const softShare = 0.06;

/** Covers seams with what lies by the UVs there, from three sides. @throws JigError where a part has the layers of its material, eight of its own, or nothing that lies by UVs */
export function seamCovered(job: Job, { how, ...meant }: Meant & { how: CoverWay }): { job: Job; report: { layer: string; faces: number; share: number } } {
  let next = job;
  const report = { layer: '', faces: 0, share: 0 };
  let [covered, all] = [0, 0];
  for (const { part, edges } of seamsMeant(job, meant)) {
    const { layers, last, faces } = withCover(job, part, edges, how);
    next = withLayers(next, { part: part.id }, layers);
    const areas = faceAreas(part.mesh);
    covered += faces.reduce((sum, f) => sum + areas[f]!, 0);
    all += areas.reduce((sum, x) => sum + x, 0);
    report.layer ||= last;
    report.faces += faces.length;
  }
  return { job: next, report: { ...report, share: covered / (all || 1) } };
}

/** A part's layers with those over a seam, which take the place of earlier ones over the same; the last one's id, and the faces that they cover. */
function withCover(job: Job, part: Part, edges: readonly number[], how: CoverWay): { layers: readonly Layer[]; last: string; faces: number[] } {
  const { mesh } = part;
  if (part.layers === undefined && (job.materialLayers ?? []).some(({ material }) => mesh.materials.includes(material)))
    throw new JigError('nothing-to-do', 'The part follows the layers of its material.', '', 'Make them its own first, at Images.');
  const { ofFace } = islandsOf(mesh, activeSet(part));
  const islands = new Set(facesAt(mesh, edges).map((f) => ofFace[f]!));
  const ofThem = [...ofFace.keys()].filter((f) => islands.has(ofFace[f]!));
  const areas = faceAreas(mesh);
  const soft = how === 'along' ? softShare * Math.sqrt(ofThem.reduce((sum, f) => sum + areas[f]!, 0)) : 0;
  const faces = how === 'along' ? widened(mesh, facesRound(mesh, edges), null, soft) : ofThem;
  const letters = [...islands].sort((a, b) => a - b).map(islandLetter);
  const called = how === 'along' ? `Over the seam of ${letters.join(' and ')}` : `${letters.join(' and ')} from three sides`;
  const masks: Layer['masks'] = [{ kind: 'faces', faces, soft, isInverted: false, how: 'and' }];
  let layers: readonly Layer[] = ownerLayers(job, { part: part.id });
  let last = '';
  for (const to of ['colour', 'relief'] as const) {
    const name = to === 'relief' ? `${called}, relief` : called;
    const known = layers.find((one) => one.name === name);
    const others = layers.filter((one) => one !== known);
    const under = laidByUvs(job, part, others, to);
    if (!under) continue;
    const { covers: _, alike: _alike, ...plain } = under;
    const fresh = known ? { id: known.id, name } : freshLayer(layers, name);
    const cover: Layer = { ...drivenBy(job, part, { ...plain, ...fresh }, driverSchema.parse({ kind: 'triplanar' })), masks };
    // right over what it covers: what is over that stays in sight
    const at = known ? layers.indexOf(known) : others.indexOf(under) + 1;
    layers = [...others.slice(0, at), cover, ...others.slice(at)];
    last = cover.id;
  }
  if (last === '' && part.imageId === null && layers.length === 0)
    throw new JigError('nothing-to-do', 'This part shows no picture yet.', '', 'Put one on it at Images.');
  if (last === '') throw new JigError('nothing-to-do', 'No picture of this part lies by its UVs everywhere.', '', 'Cover the seam by a layer of your own.');
  return { layers, last, faces };
}

/** The topmost layer that hides all others, or the picture, where that lies by UVs; of relief only a layer. */
function laidByUvs(job: Job, part: Part, layers: readonly Layer[], to: Layer['to']): Layer | null {
  const covers = ({ isOn, to: target, opacity, blend, isAdded, masks }: Layer) =>
    isOn && target === to && opacity > 0.5 && masks.length === 0 && (to === 'relief' ? !isAdded : blend === 'normal');
  const byUvs = ({ driver, source }: Layer) => driver.kind === 'set' && (source.kind === 'image' || source.kind === 'grid');
  const top = layers.findLast(covers);
  if (top) return byUvs(top) ? top : null;
  if (to === 'relief') return null;
  const picture = pictureAsLayer(job, part);
  return picture && byUvs(picture) ? picture : null;
}

/** Faces on both sides of edges. */
function facesAt(mesh: Part['mesh'], edges: readonly number[]): number[] {
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  return [...new Set(edges.flatMap((e) => [...edgeCorners.subarray(edgeStart[e]!, edgeStart[e + 1]!)].map((c) => cornerFace[c]!)))];
}

/** Faces that have a point of the edges. */
function facesRound(mesh: Part['mesh'], edges: readonly number[]): number[] {
  const { edgePoints, pointStart, pointCorners, cornerFace } = topologyOf(mesh);
  const faces = new Set<number>();
  for (const e of edges)
    for (let k = 0; k < 2; k++) {
      const p = edgePoints[e * 2 + k]!;
      for (let i = pointStart[p]!; i < pointStart[p + 1]!; i++) faces.add(cornerFace[pointCorners[i]!]!);
    }
  return [...faces];
}

/** A remedy that cannot be had, and why. */
export interface NotToBeHad {
  why: string;
}

/** The seam at which a picture jumps, and how an island that goes on may be changed. */
export interface JumpAt {
  edges: readonly number[];
  islands: readonly [number, number];
  way: GoOnWay;
}

export interface SeamRemedies {
  /** Length of the part's seams at which the picture visibly jumps now, units. */
  jumping: number;
  /** One island goes on from the other: px of the image that are left at this seam, and the length that jumps then. */
  goOn: ({ island: number; from: number } & ({ left: number; jumping: number } | NotToBeHad))[];
  /** Both sides joined: energy of what is joined, laid flat. */
  join: { energy: number } | NotToBeHad;
  /** Length of the seams of the part in plain sight, before and after, and the energy of the pieces laid flat again. */
  move: { before: number; after: number; energy: number } | NotToBeHad;
  /** How far the colours on both sides of the seam are apart, of 255, before and after, and the mean over all seams of the part. */
  cover: ({ how: CoverWay } & ({ before: number; after: number; allBefore: number; allAfter: number; share: number } | NotToBeHad))[];
}

/** Milliseconds that laying flat may take for a remedy: the best so far is good enough to judge by. */
const layLimit = 1500;

/**
 * What each remedy for a jump of the picture at a seam would bring, measured on the job as it would be; nothing is changed.
 * @param looks how what is seen of a part differs over its seams
 * @param between waited for before each measure: what is asked for meanwhile may come in
 */
export async function seamRemedies(
  job: Job,
  { edges, islands, way }: JumpAt,
  looks: (job: Job) => Promise<SeamLook[]>,
  context: Context,
  between: () => Promise<void> = () => Promise.resolve(),
): Promise<SeamRemedies> {
  const part = partOf(job);
  const set = activeSet(part);
  const { mesh } = part;
  const { placement, size } = pictureOf(job, part);
  const orWhy = async <T>(measure: () => T | Promise<T>): Promise<T | NotToBeHad> => {
    await between();
    context.throwIfCancelled();
    try {
      return await measure();
    } catch (error) {
      if (!(error instanceof JigError) || error.code === 'cancelled') throw error;
      return { why: error.message };
    }
  };
  const flat = async (next: UvSet, touched: readonly number[]): Promise<number> => {
    const { ofFace } = islandsOf(mesh, next);
    const which = [...new Set(touched.map((f) => ofFace[f]!))];
    const facts = islandFacts(mesh, next);
    if (which.some((i) => facts[i]!.shape === 'closed' || facts[i]!.shape === 'handle')) throw new JigError('cannot-lie-flat', 'It would not lie flat.');
    const square = scaleU(next, sheetAspect(job, part.id));
    return (await unwrapIslands(mesh, square, which, 'isometric', context, { timeLimit: layLimit })).report.energy;
  };
  const beside = facesAt(mesh, edges);
  const [a, b] = islands;
  const isOne = a === b;
  const goOn: SeamRemedies['goOn'] = [];
  for (const [island, from] of isOne
    ? []
    : ([
        [b, a],
        [a, b],
      ] as const)) {
    const found = await orWhy(() => {
      const { set: moved } = goneOn(job, part, island, from, way);
      const here = seamJumps(mesh, moved, placement, size).find(({ islands: [i, j] }) => i === Math.min(a, b) && j === Math.max(a, b));
      return { left: here?.offset ?? 0, jumping: jumpLengths(mesh, moved, placement, size).jumping };
    });
    goOn.push({ island, from, ...found });
  }
  const join = await orWhy(async () => ({ energy: await flat(uncut(mesh, set, edges).set, beside) }));
  const move = await orWhy(async () => {
    const [meant] = seamsMeant(job, { edges: [...edges] });
    const { moved, before, after } = await moveOf(job, part, meant!.edges, job.settings.seenFrom, context);
    if (typeof moved === 'string') throw new JigError('nothing-to-do', whyItStays[moved]);
    return { before, after, energy: await flat(moved.set, beside) };
  });
  const cover: SeamRemedies['cover'] = [];
  const own = new Set(edges);
  const apart = (found: readonly SeamLook[]) => found.find((one) => one.edges.some((e) => own.has(e)))?.colour ?? 0;
  const length = edgeLengths(mesh);
  const { states } = islandsOf(mesh, set);
  const seams = states.reduce((sum, state, e) => sum + (state === EdgeState.seam ? length[e]! : 0), 0);
  const mean = (found: readonly SeamLook[]) => Math.sqrt(found.reduce((sum, one) => sum + one.colour * one.colour * one.length, 0) / (seams || 1));
  let now: SeamLook[] | null = null;
  for (const how of ['along', 'whole'] as const) {
    const found = await orWhy(async () => {
      const { job: after, report } = seamCovered(job, { edges: [...edges], how });
      now ??= await looks(job);
      const then = await looks(after);
      return { before: apart(now), after: apart(then), allBefore: mean(now), allAfter: mean(then), share: report.share };
    });
    cover.push({ how, ...found });
  }
  return { jumping: jumpLengths(mesh, set, placement, size).jumping, goOn, join, move, cover };
}

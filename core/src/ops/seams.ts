import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, emptySelection, partOf, withPart, withSet, type Job, type Part } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import type { Context } from '../context.ts';
import { borderGapOf } from '../job/borderGap.ts';
import { sheetFor } from '../job/sheets.ts';
import { faceAreas } from '../mesh/normals.ts';
import type { ProposalSheet } from '../propose/layProposal.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { sightOptionsOf } from '../job/sight.ts';
import { viewingSides, type ViewingSide } from '../measure/seamSight.ts';
import { topologyOf } from '../mesh/topology.ts';
import { bevelWays, type BevelWay } from '../propose/bevels.ts';
import { creaseSeams } from '../propose/flatSeams.ts';
import { seamPrices, type SeamWishes } from '../propose/seamPrices.ts';
import type { SeamProposal } from '../propose/proposeSeams.ts';
import { seamWays, type SeamWay } from '../propose/seamWays.ts';
import { symmetryOf, withMirrored, type AxisName } from '../select/symmetry.ts';
import { edgeLengths } from '../seams/crease.ts';
import { cut as cutEdges } from '../seams/cut.ts';
import { openIslands } from '../seams/cutGraph.ts';
import { uncut as uncutEdges } from '../seams/uncut.ts';
import { islandFacts, islandLetter, islandsOf } from '../uv/islands.ts';
import { EdgeState } from '../uv/seamEdges.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { emptyUvSet, type UvSet } from '../uv/uvSet.ts';
import { defineOperation, partSchema, plural } from './operation.ts';
import { facesMeant } from './faceSelector.ts';

const edgesSchema = z.array(z.number().int().min(0)).optional().describe('edge numbers; default: the selected edges');

interface EdgesMeant {
  part?: string | undefined;
  edges?: number[] | undefined;
}

/** The edges that an operation means, part by part: the given ones, else the selected ones, of all parts unless one is named. */
export function edgesOf(job: Job, { part: id, edges }: EdgesMeant): { part: Part; edges: number[] }[] {
  if (edges) return edges.length > 0 ? [{ part: partOf(job, id), edges }] : [];
  const named = id === undefined ? null : partOf(job, id).id;
  return selectionByPart(job)
    .filter(({ part, kind }) => kind === 'edges' && (named === null || part.id === named))
    .map(({ part, ids }) => ({ part, edges: [...ids] }));
}

/** Seams changed part by part. @returns how many edges changed, and the islands that these parts have now */
function withEdges(job: Job, meant: ReturnType<typeof edgesOf>, change: typeof cutEdges): { job: Job; report: { edges: number; islands: number } } {
  let next = job;
  const report = { edges: 0, islands: 0 };
  for (const { part, edges } of meant) {
    const { set, changed } = change(part.mesh, activeSet(part), mirroredEdges(job, part, edges));
    if (changed.length === 0) continue;
    next = withSeams(next, part, set);
    report.edges += changed.length;
    report.islands += islandsOf(part.mesh, set).count;
  }
  return { job: next, report };
}

/** The edges, and what lies across where hand work is mirrored. */
export function mirroredEdges(job: Job, part: Part, edges: number[]): number[] {
  const { mirror } = job.settings;
  return mirror === 'off' ? edges : withMirrored(symmetryOf(part.mesh, mirror), edges);
}

/** A selection of islands does not outlive a change of the islands' numbers. */
export function withSeams(job: Job, part: Part, set: UvSet): Job {
  const next = withSet(job, part.id, set);
  const same = islandsOf(part.mesh, set).count === islandsOf(part.mesh, activeSet(part)).count;
  return job.selection.kind === 'islands' && !same ? { ...next, selection: { ...emptySelection(part.id), kind: 'islands' } } : next;
}

export const cut = defineOperation({
  name: 'cut',
  label: 'Cut the selected edges',
  words: 'seam split rip mark',
  changes: ['seams', 'uvs', 'marks', 'view'],
  needs: 'edges',
  summary: 'Make edges seams',
  params: z.object({ part: partSchema, edges: edgesSchema }),
  run(job, params) {
    const meant = edgesOf(job, params);
    if (meant.length === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges first, or draw with the seam pen.');
    const cuts = withEdges(job, meant, cutEdges);
    if (cuts.report.edges === 0) throw new JigError('nothing-to-do', 'These edges are seams or borders already.');
    return cuts;
  },
  sentence: (_params, report: { edges: number; islands: number }) => `Cut ${plural(report.edges, 'edge')}`,
});

export const uncut = defineOperation({
  name: 'uncut',
  label: 'Uncut the selected edges',
  words: 'sew stitch weld heal mend',
  changes: ['seams', 'uvs', 'marks', 'view'],
  needs: 'edges',
  summary: 'Make seams whole again',
  params: z.object({ part: partSchema, edges: edgesSchema }),
  run(job, params) {
    const meant = edgesOf(job, params);
    if (meant.length === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select seams first.');
    const whole = withEdges(job, meant, uncutEdges);
    if (whole.report.edges === 0) throw new JigError('nothing-to-do', 'None of these edges is a seam.');
    return whole;
  },
  sentence: (_params, report: { edges: number; islands: number }) => `Made ${plural(report.edges, 'edge')} whole`,
});

export const open = defineOperation({
  name: 'open',
  label: 'Open what cannot lie flat',
  words: 'cut closed handle',
  changes: ['seams', 'uvs', 'marks', 'view'],
  summary: 'Cut open what cannot lie flat, along short, hidden cuts',
  params: z.object({ part: partSchema, islands: z.array(z.number().int().min(0)).optional().describe('island numbers; default: all that need it') }),
  run(job, params, context) {
    const part = partOf(job, params.part);
    const { price } = seamPrices(part.mesh, wishesOf(job, part, job.settings.seenFrom), context);
    const { set, cuts, opened } = openIslands(part.mesh, activeSet(part), params.islands ?? 'all', price);
    if (cuts.length === 0) throw new JigError('nothing-to-do', 'Every piece can lie flat already.');
    return { job: withSeams(job, part, set), report: { opened: opened.length, edges: cuts.length } };
  },
  sentence: (_params, report: { opened: number; edges: number }) => `Opened ${plural(report.opened, 'piece')} with ${plural(report.edges, 'edge')}`,
});

export const wayParams = {
  angle: z.number().min(1).max(180).optional().describe('degrees: of a fold for crease (default 40), from the mean facing of a group for flat (default 45)'),
  limit: z.number().min(4.001).max(100).default(4.2).describe('for stretch and limbs: symmetric Dirichlet energy to come down to, 4 without stretch'),
  preferHidden: z.boolean().default(true).describe('seams go where they are seldom seen'),
  symmetry: z.enum(['auto', 'none', 'x', 'y', 'z']).default('none').describe('seams in pairs across this axis; auto: where the part is alike left and right'),
  bevels: z
    .enum(bevelWays)
    .default('larger')
    .describe('for crease and flat: bevels and rounded edges stay with the larger neighbour, are parted half and half, or become islands'),
  seenFrom: z.enum(viewingSides).default('standing').describe('where the part is looked at from; standing: around and above, seldom from below'),
};

/** Seams proposed for a part of a job, with its marks and the other parts before it. */
export async function proposalFor(
  job: Job,
  part: Part,
  params: { by: SeamWay; angle?: number; limit: number; preferHidden: boolean; symmetry: AxisName | 'auto' | 'none'; bevels: BevelWay; seenFrom: ViewingSide },
  context: Context,
  sheet: ProposalSheet | null = null,
): Promise<SeamProposal> {
  const options = { ...params, ...wishesOf(job, part, params.seenFrom), timeLimit: 20_000, sheet };
  if (context.pool?.propose) return context.pool.propose(part.mesh, activeSet(part), options, context);
  // loaded when seams are worked out first
  const { proposeSeams } = await import('../propose/proposeSeams.ts');
  return proposeSeams(part.mesh, activeSet(part), options, context);
}

/** The part as if nothing of its layout were cut yet. */
export function withoutSeams(part: Part): Part {
  const bare = emptyUvSet(part.mesh, activeSet(part).name);
  return { ...part, uvSets: part.uvSets.map((set, k) => (k === part.activeUv ? bare : set)) };
}

/** Marks on the part's faces, and the other parts that stand before it. */
export function wishesOf(job: Job, part: Part, seenFrom: ViewingSide): SeamWishes {
  const { seamMarks } = part;
  const marked = (value: number) => (seamMarks ? seamMarks.map((mark) => (mark === value ? 1 : 0)) : null);
  return {
    keepWhole: marked(1),
    mayGo: marked(2),
    lookedAt: marked(3),
    ...sightOptionsOf(job, part, seenFrom),
  };
}

/** What is told of a proposal: everything but the layout itself. */
export interface ProposalReport extends Omit<SeamProposal, 'set' | 'layout'> {
  /** Of the part, square units. */
  area: number;
  /** Share of the sheet that the pieces would cover; null where they were not laid out. */
  coverage: number | null;
  /** Where each corner would be on the sheet, 2 numbers. */
  uv: Float32Array | null;
}

export const propose = defineOperation({
  name: 'propose',
  label: 'Work out seams',
  words: 'propose suggest',
  changes: [],
  summary: 'Work out seams and measure what they would make of the part; nothing is cut',
  fromSettings: ['seenFrom'],
  params: z.object({
    part: partSchema,
    by: z.enum(seamWays).default('stretch'),
    ...wayParams,
    keepSeams: z.boolean().default(true).describe('go on from the seams that are there'),
    layout: z.boolean().default(true).describe('lay the pieces out on the sheet, too'),
  }),
  async run(job, params, context) {
    const part = partOf(job, params.part);
    const sheet = sheetFor(job, part.id);
    const on = params.layout ? { width: sheet.width, height: sheet.height, gap: sheet.margin, borderGap: borderGapOf(sheet) } : null;
    const { set: _, layout, ...rest } = await proposalFor(job, params.keepSeams ? part : withoutSeams(part), params, context, on);
    const area = faceAreas(part.mesh).reduce((sum, x) => sum + x, 0);
    const report: ProposalReport = { ...rest, area, coverage: layout?.coverage ?? null, uv: layout ? cornerPlaces(part.mesh, layout.set) : null };
    return { job, report };
  },
  sentence: ({ by }, report: ProposalReport) => `Proposed seams by ${by}: ${plural(report.cuts.length, 'edge')}`,
});

function cornerPlaces(mesh: Mesh, { uv, cornerUv }: UvSet): Float32Array {
  const out = new Float32Array(mesh.corners.length * 2);
  for (let c = 0; c < mesh.corners.length; c++) out.set(uv.subarray(cornerUv[c]! * 2, cornerUv[c]! * 2 + 2), c * 2);
  return out;
}

export const seams = defineOperation({
  name: 'seams',
  label: 'Cut seams',
  words: 'crease stretch flat groups limbs auto',
  asked: ['by', 'angle', 'limit', 'bevels', 'preferHidden', 'symmetry', 'seenFrom'],
  changes: ['seams', 'uvs', 'marks', 'view'],
  commandLine: { output: 'model', hidden: ['part', 'edges'] },
  summary: 'Cut seams: by crease, near-flat groups, a stretch limit or at the limbs',
  fromSettings: ['seenFrom'],
  params: z.object({
    part: partSchema,
    by: z.enum(seamWays).default('crease'),
    ...wayParams,
    edges: z.array(z.number().int().min(0)).optional().describe('edges of a proposal, taken as they are'),
  }),
  async run(job, params, context) {
    const part = partOf(job, params.part);
    const before = activeSet(part);
    if (params.edges) {
      const { set, changed } = cutEdges(part.mesh, before, params.edges);
      if (changed.length === 0) throw new JigError('nothing-to-do', 'These edges are seams already.');
      return { job: withSeams(job, part, set), report: { edges: changed.length, met: true } };
    }
    if (params.by === 'crease' && params.symmetry === 'none' && !part.seamMarks) {
      const angle = params.angle ?? 40;
      const { set, changed } = cutEdges(part.mesh, before, creaseSeams(part.mesh, angle, params.bevels));
      if (changed.length === 0) throw new JigError('nothing-to-do', `No uncut edge folds by ${angle}° or more.`, '', 'Try a smaller angle.');
      return { job: withSeams(job, part, set), report: { edges: changed.length, met: true } };
    }
    const { cuts, met } = await proposalFor(job, part, params, context);
    if (cuts.length === 0) throw new JigError('nothing-to-do', 'No further seam is needed.');
    return { job: withSeams(job, part, cutEdges(part.mesh, before, cuts).set), report: { edges: cuts.length, met } };
  },
  sentence: ({ by }, report: { edges: number }) => `Cut ${plural(report.edges, 'edge')} by ${by === 'flat' ? 'near-flat groups' : by}`,
});

export const markSeams = defineOperation({
  name: 'markSeams',
  label: 'Wishes for proposed seams',
  words: 'keep whole protect',
  changes: ['marks'],
  needs: 'selection',
  summary: 'Say where proposed seams may not or may well run: keep faces whole, looked at most, or seams may go here',
  params: z.object({ part: partSchema, mark: z.enum(['keepWhole', 'mayGo', 'lookedAt', 'clear']), faces: z.string().default('selected') }),
  run(job, { part: id, mark, faces: selector }) {
    const value = mark === 'keepWhole' ? 1 : mark === 'mayGo' ? 2 : mark === 'lookedAt' ? 3 : 0;
    let next = job;
    let changed = 0;
    for (const { part, faces } of facesMeant(job, id, selector)) {
      const marks = part.seamMarks?.slice() ?? new Uint8Array(part.mesh.faceStart.length - 1);
      for (const f of faces) {
        if (marks[f] === value) continue;
        marks[f] = value;
        changed++;
      }
      next = withPart(next, part.id, ({ seamMarks: _, ...rest }) => (marks.some((m) => m > 0) ? { ...rest, seamMarks: marks } : rest));
    }
    if (changed === 0) throw new JigError('nothing-to-do', 'These faces are marked so already.');
    return { job: next, report: { faces: changed } };
  },
  sentence: ({ mark }, report: { faces: number }) =>
    `${{ keepWhole: 'Keep whole', mayGo: 'Seams may go here', lookedAt: 'Looked at', clear: 'No wish for seams' }[mark]}: ${plural(report.faces, 'face')}`,
});

export const join = defineOperation({
  name: 'join',
  label: 'Join two islands',
  words: 'sew stitch weld shell',
  changes: ['seams', 'uvs', 'marks', 'view'],
  needs: 'islandPair',
  summary: 'An island travels to its neighbour along their shared border and is joined',
  params: z.object({
    part: partSchema,
    island: z.number().int().min(0).describe('the island that travels; the other keeps place and scale'),
    to: z.number().int().min(0).describe('the island it travels to'),
    edges: z.array(z.number().int().min(0)).optional().describe('only along these seams; default: the whole shared border'),
  }),
  run(job, params) {
    const part = partOf(job, params.part);
    const set = activeSet(part);
    const shared = sharedBorder(part.mesh, set, params.island, params.to);
    const wanted = params.edges ? shared.filter((e) => params.edges!.includes(e)) : shared;
    if (wanted.length === 0) throw new JigError('nothing-to-do', 'These islands share no border there.', '', 'Choose two islands that meet on the model.');
    const { set: joined, changed } = uncutEdges(part.mesh, set, wanted, params.island);
    return {
      job: withSeams(job, part, joined),
      report: { edges: changed.length, letters: `${islandLetter(params.island)} to ${islandLetter(params.to)}` },
    };
  },
  sentence: (_params, report: { edges: number; letters: string }) => `Joined ${report.letters} along ${plural(report.edges, 'edge')}`,
});

/** Seam edges between two islands, rising. O(edges). */
export function sharedBorder(mesh: Mesh, set: UvSet, a: number, b: number): number[] {
  const { states, ofFace } = islandsOf(mesh, set);
  const { edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const out: number[] = [];
  for (let e = 0; e < states.length; e++) {
    if (states[e] !== EdgeState.seam) continue;
    const x = ofFace[cornerFace[edgeCorners[edgeStart[e]!]!]!];
    const y = ofFace[cornerFace[edgeCorners[edgeStart[e]! + 1]!]!];
    if ((x === a && y === b) || (x === b && y === a)) out.push(e);
  }
  return out;
}

export interface JoinAdvice {
  to: number;
  letter: string;
  /** Length of the shared border, units. */
  length: number;
  /** Symmetric Dirichlet energy of the joined island laid flat, Infinity if it cannot lie flat. */
  energy: number;
}

export const joinAdvice = defineOperation({
  name: 'joinAdvice',
  label: 'Islands that could be joined',
  words: 'neighbours',
  changes: [],
  summary: 'Neighbours that an island could be joined to, by shared border, with the stretch it would have then',
  params: z.object({ part: partSchema, island: z.number().int().min(0) }),
  async run(job, { part: id, island }, context) {
    const part = partOf(job, id);
    const { mesh } = part;
    const set = activeSet(part);
    const lengths = edgeLengths(mesh);
    const { count, faces, start } = islandsOf(mesh, set);
    if (island >= count) throw new JigError('bad-parameter', `There is no island ${island}; there are ${count}.`);
    const neighbours: JoinAdvice[] = [];
    for (let to = 0; to < count; to++) {
      if (to === island) continue;
      const edges = sharedBorder(mesh, set, island, to);
      if (edges.length > 0) neighbours.push({ to, letter: islandLetter(to), length: edges.reduce((sum, e) => sum + lengths[e]!, 0), energy: Infinity });
    }
    neighbours.sort((x, y) => y.length - x.length);
    neighbours.length = Math.min(neighbours.length, 6);
    const first = faces[start[island]!]!;
    for (const one of neighbours) {
      context.throwIfCancelled();
      const joined = uncutEdges(mesh, set, sharedBorder(mesh, set, island, one.to), island).set;
      const now = islandsOf(mesh, joined);
      const at = now.ofFace[first]!;
      const { shape } = islandFacts(mesh, joined)[at]!;
      if (shape !== 'disk' && shape !== 'ring') continue;
      const { report } = await unwrapIslands(mesh, joined, [at], 'isometric', context, { timeLimit: 1500 });
      one.energy = report.energy;
    }
    return { job, report: { neighbours } };
  },
  sentence: (_params, report: { neighbours: JoinAdvice[] }) => `Measured ${plural(report.neighbours.length, 'neighbour')}`,
});

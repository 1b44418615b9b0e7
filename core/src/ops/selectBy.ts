import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, selectionKinds, withPart, type Job, type Part, type SelectionKind } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import { facesOnSheetWith } from '../job/sheetFaults.ts';
import { partsOnSheet, sheetFor } from '../job/sheets.ts';
import { facesWith, problemKinds, unwindStrips, type ProblemLimits } from '../measure/uvState.ts';
import { faceCount } from '../mesh/mesh.ts';
import { symmetryOf } from '../select/symmetry.ts';
import { topologyOf } from '../mesh/topology.ts';
import { borderOfFaces, convertSelection, elementCount, marksOf, growSelection, invertSelection, listed, shrinkSelection } from '../select/convert.ts';
import { connectedFaces, edgeRing, facePath, flatRegion, pointPath, sameFacing } from '../select/flood.ts';
import { edgeLoop } from '../select/loop.ts';
import { smoothRun } from '../select/run.ts';
import { islandsOf } from '../uv/islands.ts';
import { edgesInState, EdgeState } from '../uv/seamEdges.ts';
import { continuingSeams } from '../uv/continuing.ts';
import { keepsLength, wayOf } from '../uv/straight.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

export const selectWays = [
  'all',
  'invert',
  'grow',
  'shrink',
  'connected',
  'loop',
  'ring',
  'run',
  'path',
  'facing',
  'flat',
  'border',
  'seams',
  'convert',
  'mirror',
  'care',
  'straight',
  'kept',
  'continuing',
  'detail',
  ...problemKinds,
] as const;
export type SelectWay = (typeof selectWays)[number];

const isProblem = (way: SelectWay): way is (typeof problemKinds)[number] => (problemKinds as readonly string[]).includes(way);
const byThemselves: ReadonlySet<SelectWay> = new Set<SelectWay>(['all', 'care', 'straight', 'kept', 'continuing', 'detail']);
/** Whether a way begins at what is selected. */
const goesOn = (way: SelectWay) => !byThemselves.has(way) && !isProblem(way);
/** Whether it may be asked of parts of which nothing is selected. */
const asksAll = (way: SelectWay, isAnySelected: boolean) => !goesOn(way) || way === 'invert' || (way === 'seams' && !isAnySelected);

export interface Found {
  kind: SelectionKind;
  ids: Uint32Array;
  /** Elements whose mirror image is missing. */
  unmatched?: number;
}

const params = z.object({
  part: partSchema,
  way: z.enum(selectWays),
  over: z.enum(['part', 'sheet']).default('part').describe('of what to select all, or all of a sort; default: of the part at work'),
  kind: z.enum(selectionKinds).describe('what to select; default: the kind selected now').optional(),
  angle: z.number().min(0).max(180).default(30).describe('degrees, for run, facing, flat and turned'),
  limit: z.number().min(1).max(100).default(1.5).describe('times, for stretched'),
  gap: z.number().min(0).max(512).describe('px, for close; default: the margin').optional(),
  axis: z.enum(['x', 'y', 'z']).default('x').describe('for mirror: the axis across the plane'),
  tolerance: z.number().min(0).describe('units, for mirror; default: a thousandth of the size').optional(),
  rule: z.enum(['touching', 'within']).default('within').describe('for convert to a larger kind'),
  mode: z.enum(['replace', 'add', 'take']).default('replace'),
});

/** Chooses by a rule, from what is selected now. */
export const selectBy = defineOperation({
  name: 'selectBy',
  label: 'Select by a rule',
  words: 'grow loop ring flat flipped',
  changes: ['view'],
  summary: 'Choose by a rule: grow, loop, ring, flat region, flipped …',
  params,
  async run(job, given) {
    const part = partOf(job, given.part);
    const before = selectionByPart(job);
    // what goes from the selection goes from all of it
    const from = given.part === undefined && goesOn(given.way) ? before : [];
    if (given.way === 'path' && from.length > 1)
      throw new JigError('nothing-to-do', 'A path runs between two elements of one part.', '', 'Select exactly two of the same part.');
    let kind: SelectionKind | null = null;
    let unmatched: number | undefined;
    const chosen = new Map<string, Uint32Array>();
    const isOverSheet = given.over === 'sheet' && given.part === undefined && asksAll(given.way, from.length > 0);
    const all = () => partsOnSheet(job, part.id).filter((one) => one.id === part.id || !one.isHidden);
    const targets = isOverSheet ? all() : from.length > 0 ? from.map((one) => one.part) : [part];
    let nothing: JigError | null = null;
    for (const target of targets) {
      let found: Found;
      try {
        found = await find(job, target, given);
      } catch (error) {
        // one part of several may have nothing of the sort
        if (!(isOverSheet && error instanceof JigError && error.code === 'nothing-to-do')) throw error;
        nothing = error;
        continue;
      }
      kind ??= found.kind;
      if (found.unmatched !== undefined) unmatched = (unmatched ?? 0) + found.unmatched;
      chosen.set(target.id, withoutHidden(target, found.kind, found.ids));
    }
    if (kind === null) throw nothing!;
    if (given.mode !== 'replace')
      for (const own of before) {
        if (own.kind !== kind) continue;
        const islands = islandsOf(own.part.mesh, activeSet(own.part));
        const now = marksOf(elementCount(own.part.mesh, islands, kind), own.ids);
        for (const id of chosen.get(own.part.id) ?? []) now[id] = given.mode === 'add' ? 1 : 0;
        chosen.set(own.part.id, listed(now));
      }
    const also = [...chosen].filter(([id, ids]) => id !== part.id && ids.length > 0).map(([id, ids]) => ({ part: id, ids }));
    const ids = chosen.get(part.id) ?? new Uint32Array(0);
    return {
      job: { ...job, activePart: part.id, selection: { part: part.id, kind, ids, ...(also.length > 0 ? { also } : {}) } },
      report: {
        selected: also.reduce((sum, one) => sum + one.ids.length, ids.length),
        kind,
        ...(unmatched === undefined ? {} : { unmatched }),
      },
    };
  },
  sentence: ({ way }, { selected, kind }) => `Selected ${way}: ${plural(selected, kind.slice(0, -1))}`,
});

function find(job: Job, part: Part, given: z.infer<typeof params>): Found | Promise<Found> {
  const { mesh } = part;
  const set = activeSet(part);
  const islands = islandsOf(mesh, set);
  const { way, angle } = given;
  const mine = selectionByPart(job).find((one) => one.part.id === part.id) ?? { kind: job.selection.kind, ids: new Uint32Array(0) };
  const kind = given.kind ?? mine.kind;
  if (isProblem(way)) {
    const limits: ProblemLimits = {
      width: sheetFor(job, part.id).width,
      height: sheetFor(job, part.id).height,
      stretch: given.limit,
      tiles: sheetFor(job, part.id).tiles,
      gapPx: given.gap ?? sheetFor(job, part.id).margin,
      angle,
    };
    const faces = listed(given.over === 'sheet' ? facesOnSheetWith(way, job, part, limits) : facesWith(way, mesh, set, limits));
    const wanted = given.kind ?? 'faces';
    return { kind: wanted, ids: convertSelection(mesh, islands, 'faces', faces, wanted) };
  }
  if (way === 'all') return { kind, ids: invertSelection(mesh, islands, kind, []) };
  if (way === 'invert') return { kind, ids: invertSelection(mesh, islands, kind, mine.kind === kind ? mine.ids : []) };
  if (way === 'care') {
    const weights = set.care ?? new Float64Array(0);
    const faces = [...weights.keys()].filter((f) => weights[f] !== 1);
    if (faces.length === 0) throw new JigError('nothing-to-do', 'The stretch of all faces counts alike.');
    const wanted = given.kind ?? 'faces';
    return { kind: wanted, ids: convertSelection(mesh, islands, 'faces', faces, wanted) };
  }
  if (way === 'detail')
    return import('../select/meshDetail.ts').then(({ detailFaces }) => {
      const faces = detailFaces(mesh);
      if (faces.length === 0) throw new JigError('nothing-to-do', 'No place of this mesh is modelled finer than the rest.');
      const wanted = given.kind ?? 'faces';
      return { kind: wanted, ids: convertSelection(mesh, islands, 'faces', faces, wanted) };
    });
  if (way === 'straight' || way === 'kept') {
    const { cornerEdge } = topologyOf(mesh);
    const edges = new Set<number>();
    set.straight?.forEach((mark, c) => (way === 'kept' ? mark & keepsLength : wayOf(mark)) !== 0 && edges.add(cornerEdge[c]!));
    if (edges.size === 0) throw new JigError('nothing-to-do', way === 'kept' ? 'No edge keeps its length.' : 'No edge is kept straight.');
    return { kind: 'edges', ids: Uint32Array.from(edges).sort() };
  }
  if (way === 'continuing') {
    const edges = continuingSeams(mesh, set);
    if (edges.length === 0) throw new JigError('nothing-to-do', 'The picture is kept going on over no seam.');
    return { kind: 'edges', ids: Uint32Array.from(edges) };
  }
  if (way === 'seams') {
    const seams = edgesInState(islands.states, EdgeState.seam);
    if (mine.ids.length === 0 || mine.kind === 'edges') return { kind: 'edges', ids: Uint32Array.from(seams) };
    const near = marksOf(topologyOf(mesh).edgeCount, convertSelection(mesh, islands, mine.kind, mine.ids, 'edges', 'touching'));
    return { kind: 'edges', ids: Uint32Array.from(seams.filter((e) => near[e])) };
  }
  if (mine.ids.length === 0) throw new JigError('nothing-to-do', 'Nothing is selected to start from.', '', 'Select something first.');
  const faces = () => convertSelection(mesh, islands, mine.kind, mine.ids, 'faces', 'touching');
  const asKind = (chosen: Uint32Array): Found => ({ kind, ids: convertSelection(mesh, islands, 'faces', chosen, kind) });
  const edges = (next: (edge: number) => number[]): Found => {
    if (mine.kind !== 'edges') throw new JigError('nothing-to-do', 'This starts from edges.', '', 'Select an edge first.');
    return { kind: 'edges', ids: Uint32Array.from(new Set([...mine.ids].flatMap(next))).sort() };
  };
  switch (way) {
    case 'grow':
      return { kind: mine.kind, ids: growSelection(mesh, islands, mine.kind, mine.ids) };
    case 'shrink':
      return { kind: mine.kind, ids: shrinkSelection(mesh, islands, mine.kind, mine.ids) };
    case 'connected':
      return asKind(connectedFaces(mesh, faces()));
    case 'loop':
      return edges((e) => edgeLoop(mesh, e));
    case 'ring':
      return edges((e) => edgeRing(mesh, e));
    case 'run':
      return edges((e) => smoothRun(mesh, e, angle));
    case 'path':
      return path(part, mine.kind, mine.ids);
    case 'facing':
      return asKind(sameFacing(mesh, faces(), angle));
    case 'flat':
      return asKind(flatRegion(mesh, faces(), angle));
    case 'border':
      return { kind: 'edges', ids: borderOfFaces(mesh, faces()) };
    case 'convert':
      return { kind, ids: convertSelection(mesh, islands, mine.kind, mine.ids, kind, given.rule) };
    case 'mirror':
      return mirrored(part, mine.kind, mine.ids, given.axis, given.tolerance);
  }
}

/** A shortest way between the two selected elements. */
function path(part: Part, kind: SelectionKind, ids: Uint32Array): Found {
  const { mesh } = part;
  if (ids.length !== 2 || kind === 'islands')
    throw new JigError('nothing-to-do', 'A path runs between two points, two edges or two faces.', '', 'Select exactly two.');
  const [a, b] = [ids[0]!, ids[1]!];
  let found: Found;
  if (kind === 'faces') found = { kind, ids: Uint32Array.from(facePath(mesh, a, b)).sort() };
  else if (kind === 'points') found = { kind: 'edges', ids: Uint32Array.from(pointPath(mesh, a, b)).sort() };
  else {
    const { edgePoints } = topologyOf(mesh);
    let best: number[] | null = null;
    for (const p of [edgePoints[a * 2]!, edgePoints[a * 2 + 1]!]) {
      for (const q of [edgePoints[b * 2]!, edgePoints[b * 2 + 1]!]) {
        const way = p === q ? [] : pointPath(mesh, p, q);
        if ((way.length > 0 || p === q) && (best === null || way.length < best.length)) best = way;
      }
    }
    found = { kind, ids: best === null ? new Uint32Array(0) : Uint32Array.from(new Set([a, b, ...best])).sort() };
  }
  if (found.ids.length === 0) throw new JigError('nothing-to-do', 'There is no way between the two: they are not joined.');
  return found;
}

function mirrored(part: Part, kind: SelectionKind, ids: Uint32Array, axisName: 'x' | 'y' | 'z', given?: number): Found {
  const { mesh } = part;
  const islands = islandsOf(mesh, activeSet(part));
  const { points: across } = symmetryOf(mesh, axisName, given);
  const out = new Set<number>();
  let unmatched = 0;
  if (kind === 'points') {
    for (const p of ids) {
      if (across[p]! < 0) unmatched++;
      else out.add(across[p]!);
    }
    return { kind, ids: Uint32Array.from(out).sort(), unmatched };
  }
  // an edge or a face has an image if all of its points have, and they make one
  const chosen = kind === 'islands' ? convertSelection(mesh, islands, kind, ids, 'faces') : ids;
  const element = kind === 'edges' ? 'edges' : 'faces';
  const { edgePoints, pointStart, pointCorners, cornerFace, cornerEdge } = topologyOf(mesh);
  const pointsOf = (id: number) =>
    element === 'edges' ? edgePoints.subarray(id * 2, id * 2 + 2) : mesh.corners.subarray(mesh.faceStart[id], mesh.faceStart[id + 1]);
  for (const id of chosen) {
    const images = Array.from(pointsOf(id), (p) => across[p]!);
    let match = -1;
    if (images.every((p) => p >= 0)) {
      const wanted = new Set(images);
      const first = images[0]!;
      for (let k = pointStart[first]!; k < pointStart[first + 1]! && match < 0; k++) {
        const c = pointCorners[k]!;
        const f = cornerFace[c]!;
        const before = c === mesh.faceStart[f]! ? mesh.faceStart[f + 1]! - 1 : c - 1;
        for (const candidate of element === 'faces' ? [f] : [cornerEdge[c]!, cornerEdge[before]!]) {
          const its = pointsOf(candidate);
          if (its.length === images.length && its.every((p) => wanted.has(p))) match = candidate;
        }
      }
    }
    if (match < 0) unmatched++;
    else out.add(match);
  }
  const found = Uint32Array.from(out).sort();
  return kind === 'islands' ? { kind, ids: convertSelection(mesh, islands, 'faces', found, 'islands'), unmatched } : { kind, ids: found, unmatched };
}

/** Selections pass over what is hidden: a point or edge is, once all of its faces are. */
export function withoutHidden(part: Part, kind: SelectionKind, ids: Uint32Array): Uint32Array {
  const { hidden, mesh } = part;
  if (!hidden) return ids;
  const islands = islandsOf(mesh, activeSet(part));
  const shown = listed(hidden.map((x) => 1 - x));
  const allowed = marksOf(elementCount(mesh, islands, kind), convertSelection(mesh, islands, 'faces', shown, kind));
  return ids.filter((id) => allowed[id]);
}

export const hide = defineOperation({
  name: 'hide',
  label: 'Hide or show faces',
  words: 'visible isolate',
  changes: ['view'],
  summary: 'Hide the selected or what is done, show only the selected, show all',
  params: z.object({ part: partSchema, what: z.enum(['selected', 'others', 'done', 'none']) }),
  run(job, { part: id, what }) {
    const part = partOf(job, id);
    if (what === 'none') {
      const here = id === undefined ? partsOnSheet(job, part.id) : [part];
      const away = here.filter((one) => one.hidden);
      if (away.length === 0) throw new JigError('nothing-to-do', 'Nothing is hidden.');
      return { job: away.reduce((so, one) => withPart(so, one.id, ({ hidden: _, ...rest }) => rest), job), report: { hidden: 0 } };
    }
    if (what === 'done') {
      if (!part.done) throw new JigError('nothing-to-do', 'Nothing is marked as done.', '', 'Select what is finished and mark it first.');
      const hidden = part.done.slice();
      if (hidden.every((x) => x === 1)) throw new JigError('nothing-to-do', 'All of it is done.');
      return {
        job: { ...withPart(job, part.id, (p) => ({ ...p, hidden })), selection: { ...job.selection, ids: new Uint32Array(0) } },
        report: { hidden: hidden.reduce((sum, x) => sum + x, 0) },
      };
    }
    const chosen = selectionByPart(job).filter((one) => id === undefined || one.part.id === part.id);
    if (chosen.length === 0) throw new JigError('nothing-to-do', 'Nothing is selected.', '', 'Select faces or islands first.');
    let next = job;
    let count = 0;
    for (const { part: one, kind, ids } of chosen) {
      const marked = marksOf(faceCount(one.mesh), convertSelection(one.mesh, islandsOf(one.mesh, activeSet(one)), kind, ids, 'faces', 'touching'));
      const hidden = one.hidden?.slice() ?? new Uint8Array(marked.length);
      for (let f = 0; f < hidden.length; f++) if (marked[f] === (what === 'selected' ? 1 : 0)) hidden[f] = 1;
      const own = hidden.reduce((sum, x) => sum + x, 0);
      const isAll = own === hidden.length;
      if (isAll && one.id === part.id) throw new JigError('nothing-to-do', 'That would hide the whole part.', '', 'Leave some faces unselected.');
      next = withPart(next, one.id, (p) => (isAll ? { ...p, isHidden: true } : { ...p, hidden }));
      count += own;
    }
    const { also: _also, corners: _corners, ...bare } = job.selection;
    return { job: { ...next, selection: what === 'selected' ? { ...bare, ids: new Uint32Array(0) } : job.selection }, report: { hidden: count } };
  },
  sentence: ({ what }) =>
    ({ selected: 'Hid the selected', others: 'Showed only the selected', done: 'Showed only what is left to do', none: 'Showed all' })[what],
});

export const saveSelection = defineOperation({
  name: 'saveSelection',
  label: 'Keep the selection under a name',
  words: 'store set',
  changes: ['marks'],
  needs: 'selection',
  summary: 'Keep the selection under a name',
  params: z.object({ name: z.string().trim().min(1).max(80) }),
  run(job, { name }) {
    const chosen = selectionByPart(job);
    if (chosen.length === 0) throw new JigError('nothing-to-do', 'Nothing is selected.', '', 'Select something first.');
    const others = (job.savedSelections ?? []).filter((saved) => saved.name !== name);
    const { selection } = job;
    if (selection.kind !== 'islands') return { job: { ...job, savedSelections: [...others, { ...selection, name }] }, report: { name } };
    // islands are renumbered by cuts: their faces are kept instead
    const faces = chosen.map(({ part, ids }) => ({
      part: part.id,
      ids: convertSelection(part.mesh, islandsOf(part.mesh, activeSet(part)), 'islands', ids, 'faces'),
    }));
    const [first, ...also] = faces.sort((a, b) => Number(b.part === selection.part) - Number(a.part === selection.part));
    const kept = { ...first!, kind: 'faces' as const, ...(also.length > 0 ? { also } : {}) };
    return { job: { ...job, savedSelections: [...others, { ...kept, name }] }, report: { name } };
  },
  sentence: ({ name }) => `Kept the selection “${name}”`,
});

export const useSelection = defineOperation({
  name: 'useSelection',
  label: 'Use a kept selection',
  words: 'recall forget',
  changes: ['view', 'marks'],
  summary: 'Select what was kept under a name, or forget it',
  params: z.object({ name: z.string(), forget: z.boolean().default(false) }),
  run(job, { name, forget }) {
    const saved = job.savedSelections?.find((s) => s.name === name);
    if (!saved) throw new JigError('not-found', `There is no kept selection “${name}”.`);
    if (forget) return { job: { ...job, savedSelections: job.savedSelections!.filter((s) => s !== saved) }, report: { name } };
    const { name: _, ...selection } = saved;
    return { job: { ...job, activePart: saved.part, selection }, report: { name } };
  },
  sentence: ({ name, forget }) => `${forget ? 'Forgot' : 'Selected'} “${name}”`,
});

export const unwind = defineOperation({
  name: 'unwindStrips',
  label: 'Put right strips that run backwards',
  words: 'wrap seam unwind',
  changes: ['uvs', 'seams', 'marks'],
  summary: 'Put right strips that run backwards where a wrap closes',
  params: z.object({ part: partSchema }),
  run(job, { part: id }) {
    const part = partOf(job, id);
    const { set, faces } = unwindStrips(part.mesh, activeSet(part));
    if (faces === 0) throw new JigError('nothing-to-do', 'No strip runs backwards.');
    return { job: withPart(job, part.id, (p) => ({ ...p, uvSets: p.uvSets.map((old, k) => (k === p.activeUv ? set : old)) })), report: { faces } };
  },
  sentence: (_, { faces }) => `Put right a backward strip of ${plural(faces, 'face')}`,
});

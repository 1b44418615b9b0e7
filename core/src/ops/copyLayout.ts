import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withPart, withSet, type Job, type Part } from '../job/job.ts';
import { partsOnSheet, sheetAspect, sheetOfPart } from '../job/sheets.ts';
import { SheetIslands } from '../job/stacks.ts';
import { topologyOf } from '../mesh/topology.ts';
import type { MeshMatch } from '../shape/matchMeshes.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { scaleU } from '../uv/scaleU.ts';
import { unplacedCount, type UvSet } from '../uv/uvSet.ts';
import { defineOperation, isUnsettled, partSchema, plural } from './operation.ts';
import { placeApart } from './placeFresh.ts';
import { freshStack, islandsOfPart } from './stack.ts';

const edge = z.number().int().min(0);

export const copyLayout = defineOperation({
  name: 'copyLayout',
  label: 'Copy the layout to like parts',
  words: 'transfer uvs duplicate same topology instances',
  changes: ['uvs', 'seams', 'marks'],
  commandLine: { output: 'model', hidden: ['from', 'to', 'how', 'pair'], name: 'copy-layout', takesFrom: true },
  stacks: 'apart',
  summary: 'Give other parts of the same topology the layout of one: seams, shapes, pins',
  params: z.object({
    from: partSchema,
    to: z.array(z.string()).optional().describe('parts by id; default: all others that fit'),
    how: z.enum(['stack', 'beside']).default('stack').describe('on the islands they are copied from, as stacks, or beside them'),
    mirrored: z.boolean().default(false).describe('also to parts whose faces run the other way round'),
    pair: z.tuple([edge, edge]).optional().describe('an edge of the first part and the one it corresponds to, where several ways fit'),
  }),
  async run(job, { from: fromId, to, how, mirrored, pair }, context) {
    const from = partOf(job, fromId);
    if (unplacedCount(activeSet(from)) === activeSet(from).unplaced.length)
      throw new JigError('nothing-to-do', `“${from.name}” has no layout to copy yet.`, '', 'Unwrap it first.');
    // loaded when it is asked for first
    const { matchMeshes } = await import('../shape/matchMeshes.ts');
    const wanted = to?.map((id) => partOf(job, id)).filter((part) => part.id !== from.id);
    const left: { part: string; name: string; why: string }[] = [];
    const fits: { part: Part; match: MeshMatch }[] = [];
    for (const part of wanted ?? job.parts.filter(({ id }) => id !== from.id)) {
      context.throwIfCancelled();
      const found = matchMeshes(from.mesh, part.mesh, { mirrored, ...(pair ? { pair } : {}) });
      if ('match' in found) fits.push({ part, match: found.match });
      else left.push({ part: part.id, name: part.name, why: found.differs });
    }
    if (fits.length === 0)
      throw new JigError(
        'nothing-to-do',
        left[0] ? `No part fits. “${from.name}” and “${left[0].name}” differ: ${left[0].why}.` : 'There is no other part.',
        '',
        mirrored || !left[0] ? '' : 'Mirrored parts fit where that is allowed.',
      );
    const { job: stacked, aside } = copyTo(job, from, fits, how === 'stack');
    const placed = how === 'beside' ? await besideEach(stacked, aside, context) : { job: stacked, waiting: 0 };
    const report = {
      parts: fits.length,
      left,
      byOrder: fits.filter(({ match }) => match.by === 'order').length,
      mirrored: fits.filter(({ match }) => match.mirrored).length,
      ways: Math.max(...fits.map(({ match }) => match.ways)),
      waiting: placed.waiting,
    };
    return { job: placed.job, report };
  },
  warns: isUnsettled,
  sentence: ({ how }, { parts, left, ways }) =>
    `Copied the layout to ${plural(parts, 'part')}, ${how === 'stack' ? 'on one another' : 'side by side'}${
      ways > 1 ? `; ${ways} ways fitted, the one most like in shape was taken` : ''
    }${left.length > 0 ? `; left out: ${leftWords(left)}` : ''}`,
});

const leftWords = (left: readonly { name: string; why: string }[]) =>
  left.length === 1 ? `“${left[0]!.name}” (${left[0]!.why})` : `${left.length} parts, “${left[0]!.name}” among them (${left[0]!.why})`;

function copyTo(job: Job, from: Part, fits: readonly { part: Part; match: MeshMatch }[], asStack: boolean): { job: Job; aside: string[] } {
  const sheet = sheetOfPart(job, from)?.id;
  const onSame = fits.filter(({ part }) => sheet !== undefined && sheetOfPart(job, part)?.id === sheet);
  const marks = asStack && onSame.length > 0 ? stackMarks(job, from) : null;
  let next = marks ? withSet(job, from.id, { ...activeSet(from), stack: marks }) : job;
  for (const { part, match } of fits) {
    const own = onSame.some((one) => one.part === part);
    const set = layoutFor(from, part, match, marks && own ? marks : null, sheetAspect(job, from.id) / sheetAspect(job, part.id));
    next = withPart(next, part.id, (now) => ({ ...now, uvSets: now.uvSets.map((old, k) => (k === now.activeUv ? { ...set, name: old.name } : old)) }));
  }
  return { job: next, aside: onSame.map(({ part }) => part.id) };
}

/** Each placed island of the part gets a stack, its own where it has one. */
function stackMarks(job: Job, part: Part): Uint32Array {
  const set = activeSet(part);
  const facts = islandFacts(part.mesh, set);
  const marks = set.stack?.slice() ?? new Uint32Array(set.unplaced.length);
  const { start, faces } = islandsOf(part.mesh, set);
  let fresh = freshStack(job);
  for (const { island } of islandsOfPart(part)) {
    if (facts[island]!.unplaced || marks[faces[start[island]!]!]) continue;
    for (let k = start[island]!; k < start[island + 1]!; k++) marks[faces[k]!] = fresh;
    fresh++;
  }
  return marks;
}

/** The layout of one part on the corners of another. */
function layoutFor(from: Part, to: Part, { corner }: MeshMatch, marks: Uint32Array | null, factor: number): UvSet {
  const set = activeSet(from);
  const [a, b] = [topologyOf(from.mesh), topologyOf(to.mesh)];
  const faces = to.mesh.faceStart.length - 1;
  const faceFrom = Uint32Array.from({ length: faces }, (_, f) => a.cornerFace[corner[to.mesh.faceStart[f]!]!]!);
  const slits = new Set(set.slits);
  const own: number[] = [];
  if (slits.size > 0)
    for (let c = 0; c < corner.length; c++) {
      const f = b.cornerFace[c]!;
      const end = corner[c + 1 < to.mesh.faceStart[f + 1]! ? c + 1 : to.mesh.faceStart[f]!]!;
      // the same edge, whichever way round it is run
      const [p, q] = [from.mesh.corners[corner[c]!]!, from.mesh.corners[end]!];
      const edge = [corner[c]!, end]
        .map((k) => a.cornerEdge[k]!)
        .find((e) => Math.min(p, q) === a.edgePoints[e * 2] && Math.max(p, q) === a.edgePoints[e * 2 + 1]);
      if (edge !== undefined && slits.has(edge)) own.push(b.cornerEdge[c]!);
    }
  return scaleU(
    {
      name: set.name,
      cornerUv: Uint32Array.from(corner, (c) => set.cornerUv[c]!),
      uv: set.uv.slice(),
      unplaced: Uint8Array.from(faceFrom, (f) => set.unplaced[f]!),
      slits: Uint32Array.from(new Set(own)).sort(),
      pins: set.pins.slice(),
      ...(marks ? { stack: Uint32Array.from(faceFrom, (f) => marks[f]!) } : {}),
    },
    factor,
  );
}

async function besideEach(job: Job, parts: readonly string[], context: Parameters<typeof placeApart>[3]) {
  if (parts.length === 0) return { job, waiting: 0 };
  const all = new SheetIslands(partsOnSheet(job, parts[0]));
  const islands = parts.flatMap((id) => {
    const part = partOf(job, id);
    const facts = islandFacts(part.mesh, activeSet(part));
    return islandsOfPart(part).flatMap((one) => (facts[one.island]!.unplaced ? [] : [all.numberOf(part, one.island)]));
  });
  return placeApart(job, all, islands, context);
}

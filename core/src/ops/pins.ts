import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { grainWish } from '../job/grainWish.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { sheetAspect } from '../job/sheets.ts';
import { placedIslandsOf, selectionByPart, uvPointsOf } from '../job/selected.ts';
import { topologyOf } from '../mesh/topology.ts';
import { symmetryOf } from '../select/symmetry.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { scaleU } from '../uv/scaleU.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { relaxIslands } from '../unwrap/relax.ts';
import { passRanks } from '../uv/ranks.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { defineOperation, partSchema, plural } from './operation.ts';
import { facesBy } from './faceSelector.ts';

/** UV points of what is selected of a part. */
export function selectedUvPoints(job: Job, part: Part): number[] {
  const own = selectionByPart(job).find((one) => one.part.id === part.id);
  return own ? [...uvPointsOf(own)] : [];
}

/** UV points, and those of the mesh points across where hand work is mirrored. */
function withAcross(job: Job, part: Part, uvPoints: number[]): number[] {
  if (job.settings.mirror === 'off') return uvPoints;
  const { points } = symmetryOf(part.mesh, job.settings.mirror);
  const set = activeSet(part);
  const wanted = new Set(uvPoints);
  const across = new Set<number>();
  part.mesh.corners.forEach((p, c) => wanted.has(set.cornerUv[c]!) && points[p]! >= 0 && across.add(points[p]!));
  part.mesh.corners.forEach((p, c) => across.has(p) && wanted.add(set.cornerUv[c]!));
  return [...wanted];
}

export const pin = defineOperation({
  name: 'pin',
  label: 'Pin on or off',
  words: 'keep lock fix anchor',
  changes: ['marks'],
  needs: 'selection',
  summary: 'Pin points so that they stay where they are when their island is unwrapped, or take the pins off',
  params: z.object({
    part: partSchema,
    points: z.array(z.number().int().min(0)).optional().describe('UV points; default: those of what is selected'),
    islands: z
      .array(z.number().int().min(0))
      .optional()
      .describe('only where these islands have them, not on the other sides of their seams; default: all islands'),
    to: z.enum(['on', 'off', 'toggle', 'none']).default('toggle').describe('none: takes every pin of the part off'),
  }),
  run(job, { part: id, points, islands, to }) {
    const part = partOf(job, id);
    const own = to === 'none' ? [...activeSet(part).pins.keys()].filter((p) => activeSet(part).pins[p]) : (points ?? selectedUvPoints(job, part));
    // what is selected of other parts goes along, unless it is said otherwise
    const others = points === undefined && id === undefined && to !== 'none' ? selectionByPart(job).filter((one) => one.part.id !== part.id) : [];
    const meant = [
      { part, points: to === 'none' ? own : withAcross(job, part, onIslands(part, own, islands)) },
      ...others.map((one) => ({ part: one.part, points: withAcross(job, one.part, [...uvPointsOf(one)]) })),
    ].filter((one) => one.points.length > 0);
    if (meant.length === 0)
      throw new JigError(
        'nothing-to-do',
        to === 'none' ? 'Nothing is pinned.' : 'Nothing is selected.',
        '',
        to === 'none' ? '' : 'Select points to pin first.',
      );
    const count = activeSet(part).uv.length / 2;
    const missing = own.find((p) => p >= count);
    if (missing !== undefined) throw new JigError('bad-parameter', `There is no UV point ${missing}; there are ${count}.`);
    const on = to === 'on' || (to === 'toggle' && meant.some((one) => one.points.some((p) => !activeSet(one.part).pins[p])));
    let next = job;
    let changed = 0;
    for (const one of meant) {
      const set = activeSet(one.part);
      const pins = set.pins.slice();
      for (const p of one.points) {
        if (pins[p] === (on ? 1 : 0)) continue;
        pins[p] = on ? 1 : 0;
        changed++;
      }
      next = withSet(next, one.part.id, { ...set, pins });
    }
    if (changed === 0) throw new JigError('nothing-to-do', on ? 'These points are pinned already.' : 'None of these points is pinned.');
    return { job: next, report: { pinned: on ? changed : 0, freed: on ? 0 : changed } };
  },
  sentence: (_params, report: { pinned: number; freed: number }) =>
    report.pinned > 0 ? `Pinned ${plural(report.pinned, 'point')}` : `Took the pin off ${plural(report.freed, 'point')}`,
});

/** Those of the UV points that the islands have. */
function onIslands(part: Part, uvPoints: number[], islands: readonly number[] | undefined): number[] {
  if (!islands) return uvPoints;
  const set = activeSet(part);
  const { ofFace } = islandsOf(part.mesh, set);
  const wanted = new Set(islands);
  const there = new Set<number>();
  for (let f = 0; f < ofFace.length; f++)
    if (wanted.has(ofFace[f]!)) for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) there.add(set.cornerUv[c]!);
  return uvPoints.filter((p) => there.has(p));
}

/** Islands that hold the UV points, rising. */
export function islandsOfPoints(part: Part, set: UvSet, points: readonly number[]): number[] {
  const wanted = new Set(points);
  const { ofFace } = islandsOf(part.mesh, set);
  const out = new Set<number>();
  for (let f = 0; f < ofFace.length; f++)
    for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) if (wanted.has(set.cornerUv[c]!)) out.add(ofFace[f]!);
  return [...out].sort((a, b) => a - b);
}

/**
 * Pins that are moved, and those across where hand work is mirrored: a pinned point across that lies on the same island moves the mirrored way, seen
 * in the line half way between the two.
 */
export function withMirroredMoves(job: Job, part: Part, points: readonly number[], places: readonly number[]): { points: number[]; places: number[] } {
  const out = { points: [...points], places: [...places] };
  if (job.settings.mirror === 'off') return out;
  const set = activeSet(part);
  const { points: across } = symmetryOf(part.mesh, job.settings.mirror);
  const { ofFace } = islandsOf(part.mesh, set);
  const { cornerFace } = topologyOf(part.mesh);
  const corners = new Map<number, number>();
  part.mesh.corners.forEach((_, c) => set.pins[set.cornerUv[c]!] && corners.set(set.cornerUv[c]!, c));
  points.forEach((p, k) => {
    const c = corners.get(p);
    if (c === undefined) return;
    const [other] = [...corners].filter(
      ([q, d]) => !out.points.includes(q) && part.mesh.corners[d] === across[part.mesh.corners[c]!] && ofFace[cornerFace[d]!] === ofFace[cornerFace[c]!],
    );
    if (!other) return;
    const [q] = other;
    const [nx, ny] = [set.uv[q * 2]! - set.uv[p * 2]!, set.uv[q * 2 + 1]! - set.uv[p * 2 + 1]!];
    const [dx, dy] = [places[k * 2]! - set.uv[p * 2]!, places[k * 2 + 1]! - set.uv[p * 2 + 1]!];
    const along = (2 * (dx * nx + dy * ny)) / (nx * nx + ny * ny || 1);
    out.points.push(q);
    out.places.push(set.uv[q * 2]! + dx - along * nx, set.uv[q * 2 + 1]! + dy - along * ny);
  });
  return out;
}

export const movePins = defineOperation({
  name: 'movePins',
  label: 'Move pins',
  words: 'drag',
  changes: ['uvs', 'marks'],
  summary: 'Move pinned points; their islands follow, unwrapped again',
  params: z.object({
    part: partSchema,
    points: z.array(z.number().int().min(0)).min(1).describe('pinned UV points'),
    places: z.array(z.number().min(-1000).max(1000)).describe('u and v of each'),
  }),
  async run(job, { part: id, points: own, places: ownPlaces }, context) {
    const part = partOf(job, id);
    const set = activeSet(part);
    if (ownPlaces.length !== own.length * 2) throw new JigError('bad-parameter', 'Each pin needs u and v.');
    const loose = own.find((p) => !set.pins[p]);
    if (loose !== undefined) throw new JigError('bad-parameter', `UV point ${loose} is not pinned.`, '', 'Pin it first.');
    const { points, places } = withMirroredMoves(job, part, own, ownPlaces);
    const islands = islandsOfPoints(part, set, points);
    const uv = set.uv.slice();
    points.forEach((p, k) => {
      uv[p * 2] = places[k * 2]!;
      uv[p * 2 + 1] = places[k * 2 + 1]!;
    });
    const aspect = sheetAspect(job, part.id);
    const moved = scaleU(passRanks(set, { ...set, uv }), aspect);
    // sizes are those of the island before the pin was drawn away
    const { set: laid } = await unwrapIslands(part.mesh, moved, islands, job.settings.method, context, {
      warm: true,
      ...grainWish(job, part),
      sizeOf: scaleU(set, aspect),
    });
    return { job: withSet(job, part.id, scaleU(laid, 1 / aspect)), report: { points: points.length } };
  },
  sentence: (_params, report: { points: number }) => `Moved ${plural(report.points, 'pin')}`,
});

export const relax = defineOperation({
  name: 'relax',
  label: 'Relax',
  words: 'smooth optimise minimise stretch',
  asked: ['border', 'steps'],
  changes: ['uvs'],
  summary: 'Less stretch from the layout as it lies: whole islands, or only selected faces',
  params: z.object({
    part: partSchema,
    islands: z
      .union([z.literal('all'), z.array(z.number().int().min(0))])
      .optional()
      .describe('island numbers, or all; default: those of what is selected, else all'),
    faces: z.string().optional().describe('only these faces move: selected, group:NAME, 0,4,7-12'),
    border: z.enum(['free', 'held']).default('free').describe('whether the borders of the islands may move'),
    steps: z.number().int().min(1).max(200).default(40),
  }),
  run(job, params, context) {
    const chosen = selectionByPart(job);
    // what is selected, whichever part it is of, unless it is said otherwise
    const parts =
      params.part === undefined && params.islands === undefined && (!params.faces || params.faces.trim() === 'selected') && chosen.length > 0
        ? chosen.map((one) => one.part)
        : [partOf(job, params.part)];
    let next = job;
    const sum = { islands: 0, before: 0, after: 0 };
    for (const part of parts) {
      const set = activeSet(part);
      const islands = islandsOf(part.mesh, set);
      const own = chosen.find((one) => one.part === part);
      const faces = params.faces ? facesBy(job, part, params.faces) : null;
      const wanted = faces ? [...new Set(Array.from(faces, (f) => islands.ofFace[f]!))] : (params.islands ?? (own ? placedIslandsOf(own) : 'all'));
      const facts = islandFacts(part.mesh, set);
      const list = (wanted === 'all' ? facts.map((_, i) => i) : wanted).filter((i) => facts[i] && !facts[i].unplaced);
      if (list.length === 0) continue;
      const aspect = sheetAspect(job, part.id);
      const how = { faces, holdBorder: params.border === 'held', steps: params.steps };
      const { set: laid, before, after } = relaxIslands(part.mesh, scaleU(set, aspect), list, how, context);
      next = withSet(next, part.id, scaleU(laid, 1 / aspect));
      sum.before += before * list.length;
      sum.after += after * list.length;
      sum.islands += list.length;
    }
    if (sum.islands === 0) throw new JigError('nothing-to-do', 'There is no island on the sheet to relax.', '', 'Unwrap first.');
    return { job: next, report: { islands: sum.islands, before: sum.before / sum.islands, after: sum.after / sum.islands } };
  },
  sentence: (_params, report: { islands: number; before: number; after: number }) =>
    `Relaxed ${plural(report.islands, 'island')}: energy ${report.before.toFixed(2)} → ${report.after.toFixed(2)}`,
});

import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { grainWish } from '../job/grainWish.ts';
import type { Context } from '../context.ts';
import { activeSet, withSet, type Job, type Part } from '../job/job.ts';
import { selectionByPart, type PartSelection } from '../job/selected.ts';
import { sheetAspect } from '../job/sheets.ts';
import { nextCorner } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { lineUp as placesOf, lineUpWays, type UvLine } from '../shape/lineUp.ts';
import { islandsOf } from '../uv/islands.ts';
import { passRanks } from '../uv/ranks.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { scaleU } from '../uv/scaleU.ts';
import { unwrapIslands } from '../unwrap/unwrapIslands.ts';
import { defineOperation, plural } from './operation.ts';

const words = { level: 'level', upright: 'upright', straight: 'straight', evenly: 'spaced by their lengths' } as const;

/** Chosen edges on the sheet become level, upright or straight, or their points are spaced as on the model. */
export const lineUp = defineOperation({
  name: 'lineUp',
  headings: 'set',
  label: 'Make edges level, upright or straight',
  words: 'align vertices flatten horizontal vertical plumb line',
  changes: ['uvs'],
  needs: 'edges',
  offered: lineUpWays.flatMap((way) => [
    { id: `line-${way}`, label: `Make the edges ${words[way]}`, params: { way } },
    { id: `line-${way}-relaxed`, label: `Make the edges ${words[way]}, and lay what is round them again`, params: { way, relax: true } },
  ]),
  summary: 'Make chosen edges level, upright, straight, or spaced by their lengths',
  params: z.object({ way: z.enum(lineUpWays), relax: z.boolean().default(false).describe('lay the rest of their islands again, the edges held') }),
  async run(job, { way, relax }, context) {
    const chosen = selectionByPart(job).filter(({ kind }) => kind === 'edges');
    if (chosen.length === 0) throw new JigError('nothing-to-do', 'No edge is selected.', '', 'Select edges on the sheet first.');
    let next = job;
    const report = { lines: 0, points: 0 };
    for (const one of chosen) {
      const lines = linesOf(one);
      if (lines.length === 0) continue;
      next = withSet(next, one.part.id, await linedUp(job, one.part, lines, { way, relax }, context));
      report.lines += lines.length;
      report.points += lines.reduce((sum, { points }) => sum + points.length, 0);
    }
    if (report.lines === 0) throw new JigError('nothing-to-do', 'The selected edges have no place on the sheet yet.', '', 'Unwrap first.');
    return { job: next, report };
  },
  sentence: ({ way }, { lines, points }) => `Made ${plural(lines, 'line')} of ${plural(points, 'UV point')} ${words[way]}`,
});

/** The layout of a part with lines put level, upright, straight or evenly spaced, the rest of their islands laid again if wanted. */
async function linedUp(
  job: Job,
  part: Part,
  lines: readonly UvLine[],
  { way, relax }: { way: (typeof lineUpWays)[number]; relax: boolean },
  context: Context,
): Promise<UvSet> {
  const own = activeSet(part);
  const aspect = sheetAspect(job, part.id);
  const uv = own.uv.slice();
  for (const line of lines) {
    const places = placesOf(line, (p) => [own.uv[p * 2]! * aspect, own.uv[p * 2 + 1]!], way);
    line.points.forEach((p, k) => {
      uv[p * 2] = places[k]![0] / aspect;
      uv[p * 2 + 1] = places[k]![1];
    });
  }
  const set = passRanks(own, { ...own, uv });
  if (!relax) return set;
  const pins = own.pins.slice();
  for (const { points } of lines) for (const p of points) pins[p] = 1;
  const touched = new Set<number>();
  const { ofFace } = islandsOf(part.mesh, set);
  const moved = new Set(lines.flatMap(({ points }) => points));
  for (let f = 0; f < ofFace.length; f++)
    for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) if (moved.has(set.cornerUv[c]!)) touched.add(ofFace[f]!);
  const square = scaleU({ ...set, pins }, aspect);
  const { set: laid } = await unwrapIslands(part.mesh, square, [...touched], job.settings.method, context, {
    apart: job.settings.apart,
    ...grainWish(job, part),
    sizeOf: scaleU(own, aspect),
  });
  const back = scaleU(laid, 1 / aspect);
  // pins that were set for this alone go again
  return { ...back, pins: back.pins.map((x, p) => (p < own.pins.length && !own.pins[p] ? 0 : x)) };
}

/** Chosen half edges as lines of UV points, each from end to end; one that branches is split at its branches. */
function linesOf({ part, ids, corners }: PartSelection): UvLine[] {
  const { mesh } = part;
  const set = activeSet(part);
  const { cornerFace, edgeStart, edgeCorners } = topologyOf(mesh);
  const all = corners ?? [...ids].flatMap((e) => [...edgeCorners.subarray(edgeStart[e], edgeStart[e + 1])]);
  const next = new Map<number, Map<number, number>>();
  for (const c of all) {
    if (set.unplaced[cornerFace[c]!]) continue;
    const d = nextCorner(mesh, c, cornerFace[c]!);
    const [a, b] = [set.cornerUv[c]!, set.cornerUv[d]!];
    if (a === b) continue;
    const [p, q] = [mesh.corners[c]! * 3, mesh.corners[d]! * 3];
    const length = Math.hypot(...[0, 1, 2].map((k) => mesh.points[p + k]! - mesh.points[q + k]!));
    (next.get(a) ?? next.set(a, new Map()).get(a)!).set(b, length);
    (next.get(b) ?? next.set(b, new Map()).get(b)!).set(a, length);
  }
  const used = new Set<string>();
  const key = (a: number, b: number) => (a < b ? `${a} ${b}` : `${b} ${a}`);
  const walk = (start: number, first: number): UvLine => {
    const points = [start];
    const lengths: number[] = [];
    let [before, at] = [start, first];
    for (;;) {
      used.add(key(before, at));
      lengths.push(next.get(before)!.get(at)!);
      points.push(at);
      if (next.get(at)!.size !== 2) break;
      const to = [...next.get(at)!.keys()].find((p) => p !== before)!;
      if (used.has(key(at, to))) break;
      [before, at] = [at, to];
    }
    return { points, lengths };
  };
  const lines: UvLine[] = [];
  const begin = (points: Iterable<number>) => {
    for (const p of points) for (const q of next.get(p)!.keys()) if (!used.has(key(p, q))) lines.push(walk(p, q));
  };
  const rising = [...next.keys()].sort((a, b) => a - b);
  begin(rising.filter((p) => next.get(p)!.size !== 2));
  begin(rising);
  return lines;
}

import { z } from 'zod';
import { guidePicture, guideSvg } from '../images/layoutGuide.ts';
import { encode } from 'fast-png';
import { joinParts } from '../job/joinParts.ts';
import { jointSight } from '../job/sight.ts';
import { checkLayout, type CheckReport } from '../measure/check.ts';
import { mostTiles } from '../job/sheet.ts';
import { tilePlace } from '../uv/tiles.ts';
import { leftOut, leftOutWords } from '../job/leftOut.ts';
import { bounds, type Mesh } from '../mesh/mesh.ts';
import { shapeFacts, topologyOf } from '../mesh/topology.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandsOf } from '../uv/islands.ts';
import { onceEach } from '../uv/stacks.ts';
import { unplacedCount, type UvSet } from '../uv/uvSet.ts';
import type { Context } from '../context.ts';
import { activeSet, type Job, type Part } from '../job/job.ts';
import { sheetOfPart } from '../job/sheets.ts';
import { JigError } from '../jigError.ts';
import { defineOperation, parseSize, plural, sizeSchema } from './operation.ts';

export const info = defineOperation({
  name: 'info',
  label: 'What is in the job',
  words: 'count statistics',
  changes: [],
  commandLine: { output: 'none' },
  summary: 'Parts, counts, polygons, UV sets, topology, size',
  params: z.object({}),
  run(job) {
    const parts = job.parts.map((part) => {
      const { mesh } = part;
      const topology = topologyOf(mesh);
      const sides: Record<string, number> = {};
      for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
        const n = mesh.faceStart[f + 1]! - mesh.faceStart[f]!;
        sides[n > 4 ? 'more' : String(n)] = (sides[n > 4 ? 'more' : String(n)] ?? 0) + 1;
      }
      const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
      return {
        name: part.name,
        points: mesh.points.length / 3,
        faces: mesh.faceStart.length - 1,
        triangles: trianglesOf(mesh).count,
        edges: topology.edgeCount,
        sides,
        groups: mesh.groups,
        materials: mesh.materials,
        uvSets: part.uvSets.map((set) => ({ name: set.name, islands: islandsOf(mesh, set).count, facesWithoutUv: unplacedCount(set) })),
        ...shapeFacts(mesh),
        borderEdges: topology.borderEdges,
        nonManifoldEdges: topology.nonManifoldEdges,
        windingEdges: topology.windingEdges,
        size: [x1 - x0, y1 - y0, z1 - z0],
      };
    });
    return { job, report: { parts, units: job.settings.unit === 'unit' ? 'units of the file' : job.settings.unit, notes: job.intake } };
  },
  sentence: () => 'Looked at the file',
});

/** What is between islands, and how full the sheet is, where the parts are on several sheets: islands of two sheets are in nobody's way. Nothing for one sheet. */
function bySheet(job: Job, width: number, height: number, context: Context): Partial<CheckReport> {
  const groups = new Map<string | null, Part[]>();
  for (const part of job.parts) {
    const id = sheetOfPart(job, part)?.id ?? null;
    groups.set(id, [...(groups.get(id) ?? []), part]);
  }
  if (groups.size < 2) return {};
  const reports = [...groups.values()].map((parts) => {
    const { mesh, set } = joinParts(parts);
    return checkLayout(mesh, set, width, height, context, 1).report;
  });
  const gaps = reports.map(({ smallestGapPx }) => smallestGapPx).filter((gap) => gap !== null);
  return {
    overlapArea: reports.reduce((sum, one) => sum + one.overlapArea, 0),
    coverage: reports.reduce((sum, one) => sum + one.coverage, 0) / reports.length,
    smallestGapPx: gaps.length > 0 ? Math.min(...gaps) : null,
  };
}

export const check = defineOperation({
  name: 'check',
  label: 'Measure the layout',
  words: 'stretch overlap flips report',
  changes: [],
  commandLine: { output: 'none' },
  summary: 'All measures of the layout',
  fromSettings: ['size'],
  params: z.object({ size: sizeSchema.default('2048'), set: z.number().int().min(0).default(0).describe('UV set, counted from 0') }),
  run(given, { size, set }, context) {
    const { width, height } = parseSize(size);
    const job: Job = { ...given, parts: given.parts.map((part) => ({ ...part, activeUv: Math.min(set, part.uvSets.length - 1) })) };
    if (given.parts.every((part) => set >= part.uvSets.length))
      throw new JigError('bad-parameter', `There is no UV set ${set}.`, '', 'Sets are counted from 0.');
    const joined = joinParts(job.parts);
    const { report } = checkLayout(joined.mesh, joined.set, width, height, context, 1, jointSight(job, job.parts));
    return { job: given, report: { ...report, ...bySheet(job, width, height, context) } satisfies CheckReport };
  },
  sentence: () => 'Checked the layout',
});

interface GuideReport {
  width: number;
  height: number;
  /** Islands that show. */
  islands: number;
  /** What is not on the sheet, a sentence a part. */
  leftOut: string[];
  png: () => Uint8Array;
  svg: () => string;
  pdf: () => Promise<Uint8Array>;
}

export const guide = defineOperation({
  name: 'guide',
  label: 'Layout guide',
  words: 'picture outline export',
  changes: [],
  commandLine: { output: 'picture' },
  summary: 'The picture of the islands for the painter, PNG, SVG or PDF',
  params: z.object({
    size: sizeSchema.default('1024'),
    fills: z.boolean().default(true).describe('fill islands with pale tints'),
    innerLines: z.boolean().default(true).describe('draw the edges inside islands'),
    names: z.boolean().default(true).describe('write the islands’ letters'),
    notches: z.boolean().default(false).describe('mark what belongs together on both sides of the seams'),
    grid: z.boolean().default(false).describe('draw a faint net of 32 px'),
    bleed: z.number().min(0).max(256).default(0).describe('px beyond the borders that paint should reach'),
    tile: z
      .number()
      .int()
      .min(1001)
      .max(1000 + mostTiles)
      .default(1001)
      .describe('the tile that is drawn'),
  }),
  run(job, { size, tile, ...look }): { job: Job; report: GuideReport } {
    const { width, height } = parseSize(size);
    const { mesh, set: all } = joinParts(job.parts);
    // a stack is painted once
    const set = onceEach(mesh, all);
    if (unplacedCount(set) === set.unplaced.length) throw new JigError('nothing-to-do', 'There is no layout to draw yet.', '', 'Unwrap first.');
    const missing = leftOut(job.parts);
    // only what lies wholly off the sheet does not show at all
    const at = tile - 1001;
    const away = whollyAway(mesh, set, at);
    const options = { width, height, tile: at, ...look };
    return {
      job,
      report: {
        width,
        height,
        islands: islandsOf(mesh, set).count - away,
        leftOut: leftOutWords(missing),
        png: () => encode({ width, height, data: guidePicture(mesh, set, options).data, channels: 4, depth: 8 }),
        svg: () => guideSvg(mesh, set, options),
        pdf: async () => (await import('../images/guidePdf.ts')).guidePdf([{ mesh, set, options }], job.name),
      },
    };
  },
  sentence: (_params, report: GuideReport) =>
    `Drew the layout guide, ${plural(report.islands, 'island')}${report.leftOut.length > 0 ? `. Left out or cut off: ${report.leftOut.join(' ')}` : ''}`.replace(
      /\.$/,
      '',
    ),
});

/** Islands of which nothing is on the tile, those without a place among them. */
function whollyAway(mesh: Mesh, set: UvSet, tile: number): number {
  const [x, y] = tilePlace(tile);
  const { count, ofFace } = islandsOf(mesh, set);
  const box = Array.from({ length: count }, () => [Infinity, Infinity, -Infinity, -Infinity]);
  for (let f = 0; f < ofFace.length; f++) {
    if (set.unplaced[f]) continue;
    const b = box[ofFace[f]!]!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      for (let d = 0; d < 2; d++) {
        const x = set.uv[set.cornerUv[c]! * 2 + d]!;
        b[d] = Math.min(b[d]!, x);
        b[d + 2] = Math.max(b[d + 2]!, x);
      }
    }
  }
  return box.filter(([left, low, right, high]) => !(left! < x + 1 && low! < y + 1 && right! > x && high! > y)).length;
}

/** Counts that every screen wants: islands and faces without a place over all parts. */
export function layoutState(job: Job): { islands: number; unplaced: number; faces: number } {
  let islands = 0;
  let unplaced = 0;
  let faces = 0;
  for (const part of job.parts) {
    islands += islandsOf(part.mesh, activeSet(part)).count;
    unplaced += unplacedCount(activeSet(part));
    faces += part.mesh.faceStart.length - 1;
  }
  return { islands, unplaced, faces };
}

import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { partsOnSheet, sheetOfPart } from '../job/sheets.ts';
import { selectionByPart } from '../job/selected.ts';
import { islandDensities } from '../pack/density.ts';
import { convertSelection } from '../select/convert.ts';
import { islandsOf } from '../uv/islands.ts';
import { lockedIslands } from '../uv/locked.ts';
import { onceEach } from '../uv/stacks.ts';
import { SheetIslands } from '../job/stacks.ts';
import { sightOptionsOf } from '../job/sight.ts';
import { visibleShare } from '../measure/visibility.ts';
import { faceMiddles } from '../mesh/faceMiddles.ts';
import { faceAreas } from '../mesh/normals.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/** Parameters that say what a weight is for. */
export const weightTarget = {
  of: z.enum(['selected', 'part', 'material']).default('selected').describe('what is selected, a part, or what has a material in all parts'),
  part: partSchema,
  material: z.string().optional().describe('material by name'),
};

/** Says how sharp islands are to be against others; nothing moves until density is evened out or the sheet is packed. */
export const weigh = defineOperation({
  name: 'weigh',
  label: 'Weigh density',
  words: 'sharper coarser priority importance texel resolution scale factor',
  changes: ['marks'],
  asked: ['weight', 'of'],
  summary: 'Say how many times as sharp as others islands are to be',
  params: z.object({
    weight: z.number().min(0.05).max(20).default(2).describe('2: twice as sharp, 0.5: half; 1 takes the weight off'),
    ...weightTarget,
  }),
  run(job, { weight, of, part, material }) {
    const targets = facesMeant(job, of, part, material);
    let next = job;
    let islands = 0;
    for (const { part: one, faces } of targets) {
      const set = activeSet(one);
      const own = islandsOf(one.mesh, set);
      const whole = new Set([...faces].map((f) => own.ofFace[f]!));
      islands += whole.size;
      const weights = set.weight?.slice() ?? new Float64Array(set.unplaced.length).fill(1);
      for (const i of whole) for (let k = own.start[i]!; k < own.start[i + 1]!; k++) weights[own.faces[k]!] = weight;
      const { weight: _, ...rest } = set;
      next = withSet(next, one.id, weights.every((x) => x === 1) ? rest : { ...rest, weight: weights });
    }
    if (islands === 0)
      throw new JigError(
        'nothing-to-do',
        of === 'material' ? 'No face has this material.' : 'No island is selected.',
        '',
        of === 'selected' ? 'Select islands first.' : '',
      );
    return { job: next, report: { islands } };
  },
  sentence: ({ weight }, { islands }) =>
    `${plural(islands, 'island')} ${islands === 1 ? 'is' : 'are'} to be ${weight === 1 ? 'as sharp as others' : `${weight} times as sharp`}`,
});

/** Faces that a weight is for, by part. @throws JigError for a part that is not there, whatever is meant */
export function facesMeant(
  job: Job,
  of: 'selected' | 'part' | 'material',
  id: string | undefined,
  material: string | undefined,
): { part: Part; faces: Iterable<number> }[] {
  if (id !== undefined) partOf(job, id);
  if (of === 'part') return [{ part: partOf(job, id), faces: partOf(job, id).mesh.faceStart.subarray(1).keys() }];
  if (of === 'material') {
    if (material === undefined) throw new JigError('bad-parameter', 'Say which material.');
    return job.parts.map((part) => {
      const wanted = part.mesh.materials.indexOf(material);
      return { part, faces: wanted < 0 ? [] : [...part.mesh.faceMaterial.keys()].filter((f) => part.mesh.faceMaterial[f] === wanted) };
    });
  }
  if (job.selectedParts && job.selectedParts.length > 0)
    return job.selectedParts.map((one) => ({ part: partOf(job, one), faces: partOf(job, one).mesh.faceStart.subarray(1).keys() }));
  return selectionByPart(job).map(({ part, kind, ids }) => ({
    part,
    faces: convertSelection(part.mesh, islandsOf(part.mesh, activeSet(part)), kind, ids, 'faces'),
  }));
}

/**
 * Shares of the directions below which an island counts as never seen, and as hardly seen: an open, flat place is seen from half of them, the back of something seen
 * from the front from about a twentieth. Common practice, no source.
 */
const seenShares = { never: 0.07, hardly: 0.2 };

/** What is seen less gets fewer px: defaults of the weights for a layout that is painted. A repeating image keeps one density everywhere. */
export const weighBySight = defineOperation({
  name: 'weighBySight',
  label: 'Weigh density by what is seen',
  words: 'hidden underside inside priority importance texel visibility',
  changes: ['marks'],
  asked: ['hardly', 'never'],
  summary: 'Islands that are hardly or never seen, from the side that the job is seen from, are to be less sharp; none where the image repeats',
  params: z.object({
    part: partSchema.describe('one part; without it all that are in view'),
    hardly: z.number().min(0.05).max(1).default(0.5).describe('how sharp what is hardly seen is to be'),
    never: z.number().min(0.05).max(1).default(0.25).describe('how sharp what is never seen is to be'),
  }),
  run(job, { part: id, hardly, never }, context) {
    const parts = id === undefined ? job.parts.filter((part) => !part.isHidden) : [partOf(job, id)];
    const repeats = job.settings.purpose === 'repeating';
    const report = { repeats, islands: 0, hardly: 0, never: 0 };
    let next = job;
    for (const [k, part] of parts.entries()) {
      context.throwIfCancelled();
      context.progress(k / parts.length, `Looking at ${part.name}`);
      const { mesh } = part;
      const set = activeSet(part);
      const { count, start, faces } = islandsOf(mesh, set);
      const seen = repeats ? null : visibleShare(mesh, faceMiddles(mesh), sightOptionsOf(job, part));
      const area = faceAreas(mesh);
      const weights = new Float64Array(set.unplaced.length).fill(1);
      report.islands += count;
      for (let i = 0; i < count && seen; i++) {
        const own = faces.subarray(start[i]!, start[i + 1]!);
        const whole = own.reduce((sum, f) => sum + area[f]!, 0);
        // without area every face counts alike
        const share = own.reduce((sum, f) => sum + seen[f]! * (whole > 0 ? area[f]! / whole : 1 / own.length), 0);
        const rank = share < seenShares.never ? 'never' : share < seenShares.hardly ? 'hardly' : null;
        if (!rank) continue;
        report[rank]++;
        const weight = rank === 'never' ? never : hardly;
        for (const f of own) weights[f] = weight;
      }
      if (weights.every((x, f) => x === (set.weight?.[f] ?? 1))) continue;
      const { weight: _, ...rest } = set;
      next = withSet(next, part.id, weights.every((x) => x === 1) ? rest : { ...rest, weight: weights });
    }
    if (next === job)
      throw new JigError('nothing-to-do', repeats ? 'The image repeats: all islands are to be equally sharp already.' : 'These are the weights already.');
    return { job: next, report };
  },
  sentence: (_params, { repeats, islands, hardly, never }) =>
    repeats
      ? 'The image repeats: all islands are to be equally sharp'
      : `Of ${plural(islands, 'island')} ${hardly} ${hardly === 1 ? 'is' : 'are'} hardly seen, ${never} never: less sharp after Even out or Pack`,
});

/** Density of each island on the sheet of a part, and what a target asks of the sheet; changes nothing. */
export const densityFigures = defineOperation({
  name: 'densityFigures',
  label: 'Density of each island',
  changes: [],
  summary: 'Px per unit of each island on the sheet, by area',
  params: z.object({ part: partSchema }),
  run(job, params) {
    const part = partOf(job, params.part);
    const sheet = sheetOfPart(job, part);
    const { width, height } = sheet ?? job.settings;
    const all = new SheetIslands(partsOnSheet(job, part.id).filter((one) => !one.isHidden || one.id === part.id));
    const { mesh } = all.joined;
    const once = onceEach(mesh, all.joined.set);
    const locked = lockedIslands(mesh, once);
    const islands = islandDensities(mesh, once, width, height)
      .filter(({ density }) => density > 0)
      .map(({ island, density, area, weight }) => {
        const own = all.of(island);
        return { part: own.part.id, island: own.island, density, area, weight, isLocked: locked[island] === 1 };
      });
    const weighted = islands.reduce((sum, { area, weight }) => sum + area * weight * weight, 0);
    return { job, report: { islands, weighted, width, height, tiles: sheet?.tiles ?? 1 } };
  },
  sentence: (_params, { islands }) => `${plural(islands.length, 'island')} on the sheet`,
});

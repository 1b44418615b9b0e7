import { z } from 'zod';
import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { activeSet, withSet, type Job, type Part } from '../job/job.ts';
import { placedIslandsOf, selectionByPart } from '../job/selected.ts';
import { partsOnSheet, sheetFor } from '../job/sheets.ts';
import { facesOfIsland, SheetIslands, stacksOnSheet, type IslandOfPart } from '../job/stacks.ts';
import { separateFans } from '../seams/cut.ts';
import { alikeIslands, type AlikeGroup } from '../shape/alike.ts';
import { islandFacts, islandLetter, islandsOf } from '../uv/islands.ts';
import { passRanks } from '../uv/ranks.ts';
import { trayIslands } from '../uv/tray.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { defineOperation, isUnsettled, plural } from './operation.ts';
import { placeApart } from './placeFresh.ts';

const which = z
  .enum(['selected', 'sheet'])
  .default('selected')
  .describe('the selected islands, of one those like it, all where nothing is selected; or all on the sheet');
const asked = {
  which,
  by: z
    .enum(['shape', 'connections'])
    .default('shape')
    .describe('congruent on the sheet; or faces and edges alone correspond, and all take the first one’s shape'),
  tolerance: z.number().min(0).max(64).default(1).describe('px that congruent islands may differ by'),
  mirrored: z.boolean().default(false).describe('mirrored ones are alike too'),
};
type Asked = { which: 'selected' | 'sheet'; by: 'shape' | 'connections'; tolerance: number; mirrored: boolean };

/** Like islands, an entry a group; the first stays where it is. */
export interface LikeIslands {
  faces: number;
  /** Some of the others are mirrored. */
  mirrored: number;
  islands: { part: string; island: number; letter: string }[];
  /** All of them are on one another already. */
  stacked: boolean;
}

/** Only looks. */
export const findLike = defineOperation({
  name: 'findLike',
  label: 'Find like islands',
  words: 'similar congruent identical duplicates groups',
  changes: [],
  summary: 'Islands that are alike by shape or by their connections, in groups',
  params: z.object(asked),
  run(job, params, context) {
    const { all, groups } = groupsOf(job, params, context);
    const stacked = stacksOnSheet(all.parts).map((stack) => new Set(stack.map((one) => all.numberOf(one.part, one.island))));
    const found = groups.map(({ first, others, faces }): LikeIslands => {
      const numbers = [first, ...others.map(({ island }) => island)];
      return {
        faces,
        mirrored: others.filter((one) => one.mirrored).length,
        islands: numbers.map((number) => {
          const { part, island } = all.of(number);
          return { part: part.id, island, letter: islandLetter(island) };
        }),
        stacked: stacked.some((one) => numbers.every((number) => one.has(number))),
      };
    });
    return { job, report: { groups: found } };
  },
  sentence: (_params, { groups }) => `Found ${plural(groups.length, 'group')} of like islands`,
});

export const stack = defineOperation({
  name: 'stack',
  label: 'Stack like islands',
  words: 'overlap share identical instances duplicates pile',
  asked: ['which', 'by', 'tolerance', 'mirrored'],
  changes: ['uvs'],
  commandLine: { output: 'model' },
  stacks: 'apart',
  summary: 'Lay like islands exactly on one another; a stack moves and packs as one',
  params: z.object(asked),
  run(job, params, context) {
    const { all, groups, looked } = groupsOf(job, params, context);
    if (groups.length === 0)
      throw new JigError(
        'nothing-to-do',
        looked < 2 ? 'There are no two islands to compare.' : 'No islands are alike this way.',
        '',
        params.by === 'shape' ? 'Let mirrored ones count too, allow more px, or go by connections.' : 'Let mirrored ones count too.',
      );
    const next = layStacks(job, all, groups);
    const islands = groups.reduce((sum, { others }) => sum + others.length + 1, 0);
    return { job: next, report: { stacks: groups.length, islands, largest: Math.max(...groups.map(({ others }) => others.length + 1)) } };
  },
  sentence: (_params, { stacks, islands }) => `Laid ${plural(islands, 'island')} on one another in ${plural(stacks, 'stack')}`,
});

export const unstack = defineOperation({
  name: 'unstack',
  label: 'Take stacks apart',
  words: 'separate split unpile spread',
  changes: ['uvs'],
  commandLine: { output: 'model', hidden: ['only'] },
  stacks: 'apart',
  summary: 'Lay the islands of stacks side by side again',
  params: z.object({ which, only: z.boolean().default(false).describe('take only the selected islands out, the rest stay stacked') }),
  async run(job, { which: whose, only }, context) {
    const parts = partsOnSheet(job);
    const chosen = chosenIslands(job);
    const all = new SheetIslands(parts);
    const numbers = new Set(chosen.map((one) => all.numberOf(one.part, one.island)));
    const everything = whose === 'sheet' || numbers.size === 0;
    const leave: number[] = [];
    const clear: number[] = [];
    let stacks = 0;
    for (const members of stacksOnSheet(parts)) {
      const own = members.map((one) => all.numberOf(one.part, one.island));
      if (!everything && !own.some((number) => numbers.has(number))) continue;
      stacks++;
      const out = only && !everything ? own.filter((number) => numbers.has(number)) : own.slice(1);
      // of a whole stack one stays
      const moved = out.length === own.length ? out.slice(1) : out;
      leave.push(...moved);
      clear.push(...(own.length - moved.length < 2 ? own : moved));
    }
    if (stacks === 0) throw new JigError('nothing-to-do', everything ? 'There is no stack on this sheet.' : 'What is selected is in no stack.');
    let next = job;
    for (const number of clear) {
      const { part, island } = all.of(number);
      next = marked(next, part, facesOfIsland({ part, island }), 0);
    }
    const now = new SheetIslands(partsOnSheet(next));
    const { job: placed, waiting } = await placeApart(next, now, leave, context);
    return { job: placed, report: { stacks, islands: leave.length, waiting } };
  },
  warns: isUnsettled,
  sentence: (_params, { stacks, islands, waiting }) =>
    `Took ${plural(stacks, 'stack')} apart: ${plural(islands, 'island')} laid aside${waiting > 0 ? `, ${waiting} in the tray for want of room` : ''}`,
});

/** Groups among what was asked for. */
function groupsOf(job: Job, { which: whose, by, tolerance, mirrored }: Asked, context: Context): { all: SheetIslands; groups: AlikeGroup[]; looked: number } {
  const chosen = chosenIslands(job);
  const visible = partsOnSheet(job).filter((part) => !part.isHidden || chosen.some((one) => one.part.id === part.id));
  const all = new SheetIslands(visible);
  const selected = chosen.map((one) => all.numberOf(one.part, one.island));
  const rest = onSheetFirst(all).filter((number) => !selected.includes(number));
  const isAll = whose === 'sheet' || selected.length === 0;
  const islands = isAll || selected.length === 1 ? [...selected, ...rest] : selected;
  const { width, height } = sheetFor(job, visible[0]!.id);
  const groups = alikeIslands(all.joined.mesh, all.joined.set, { by, tolerance, mirrored, islands, width, height }, context);
  const wanted = !isAll && selected.length === 1 ? groups.filter(({ first }) => first === selected[0]) : groups;
  return { all, groups: wanted, looked: islands.length };
}

/** Selected islands that have a place, of the present sheet. */
function chosenIslands(job: Job): IslandOfPart[] {
  const here = new Set(partsOnSheet(job));
  return selectionByPart(job)
    .filter(({ part }) => here.has(part))
    .flatMap((one) => placedIslandsOf(one).map((island) => ({ part: one.part, island })));
}

/** Islands of a sheet, those that wait in the tray last: what the others are laid on should be on the sheet. */
function onSheetFirst({ joined: { mesh, set } }: SheetIslands): number[] {
  const waits = trayIslands(mesh, set);
  const all = islandFacts(mesh, set).flatMap(({ unplaced }, i) => (unplaced ? [] : [i]));
  return [...all.filter((i) => !waits[i]), ...all.filter((i) => waits[i])];
}

function layStacks(job: Job, all: SheetIslands, groups: readonly AlikeGroup[]): Job {
  const { width, height } = sheetFor(job, all.parts[0]!.id);
  const { cornerUv, uv } = all.joined.set;
  let fresh = freshStack(job);
  let next = job;
  for (const { first, others } of groups) {
    const leader = all.of(first);
    const led = facesOfIsland(leader);
    const id = activeSet(leader.part).stack?.[led[0]!] || fresh++;
    next = marked(next, leader.part, led, id);
    for (const { island, corners, onto, fit } of others) {
      const one = all.of(island);
      const faces = facesOfIsland(one);
      const own = all.ownCorners(one.part, corners);
      next = marked(next, one.part, faces, id, (set) => {
        const at = set.uv.slice();
        own.forEach((c, k) => {
          const p = set.cornerUv[c]! * 2;
          if (onto) {
            const q = cornerUv[onto[k]!]! * 2;
            at[p] = uv[q]!;
            at[p + 1] = uv[q + 1]!;
          } else {
            const q = cornerUv[corners[k]!]! * 2;
            const [x, y] = [uv[q]! * width, uv[q + 1]! * height];
            at[p] = (fit.affine[0] * x + fit.affine[2] * y + fit.affine[4]) / width;
            at[p + 1] = (fit.affine[1] * x + fit.affine[3] * y + fit.affine[5]) / height;
          }
        });
        return at;
      });
    }
  }
  return next;
}

/** A number that no stack of the job has yet. */
export function freshStack(job: Job): number {
  let most = 0;
  for (const part of job.parts) for (const { stack: ids } of part.uvSets) for (const id of ids ?? []) most = Math.max(most, id);
  return most + 1;
}

/** Faces marked as of a stack (0: of none), with places of their own that a function may change. */
function marked(job: Job, { id: partId, mesh }: Part, faces: Uint32Array, id: number, places?: (set: UvSet) => Float64Array): Job {
  const now = activeSet(job.parts.find((part) => part.id === partId)!);
  const set = separateFans(mesh, now, faces);
  const ids = now.stack?.slice() ?? new Uint32Array(mesh.faceStart.length - 1);
  for (const f of faces) ids[f] = id;
  return withSet(job, partId, passRanks(now, { ...set, uv: places ? places(set) : set.uv, stack: ids }));
}

/** Islands of a part, each as its faces. */
export const islandsOfPart = (part: Part): IslandOfPart[] =>
  Array.from({ length: islandsOf(part.mesh, activeSet(part)).count }, (_, island) => ({ part, island }));

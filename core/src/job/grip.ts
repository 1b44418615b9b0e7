import { separateFans } from '../seams/cut.ts';
import { softReach, type SoftWay } from '../shape/softReach.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { boxOfPoints, type Box } from '../uv/box.ts';
import { moveBy, type UvAffine } from '../shape/transform.ts';
import { passRanks } from '../uv/ranks.ts';
import { activeSet, partOf, withSet, type Job, type Part } from './job.ts';
import { partsOnSheet, sheetAspect } from './sheets.ts';
import { stacksOnSheet } from './stacks.ts';
import { placedIslandsOf, selectionByPart, uvPointsOf, type PartSelection } from './selected.ts';

/** UV points of one part that are moved as one, and how far each goes along. */
export interface Grip {
  readonly part: string;
  /** The layout with points apart that islands share and only one of them takes along. */
  readonly set: UvSet;
  readonly groups: readonly GripGroup[];
}

export interface GripGroup {
  readonly points: Uint32Array;
  /** Of the way, one for each point; null: all of it. */
  readonly share: Float64Array | null;
  /** What is moved whole: left, bottom, right, top. */
  readonly box: Box;
}

export interface GripHow {
  /** Each island by itself, round its own middle. */
  each?: boolean;
  /** How far points beside go along, in heights of the sheet; 0: not at all. */
  radius?: number;
  way?: SoftWay;
}

/** What a hand on the sheet moves: the selected UV points of all parts. Nothing for what has no place. O(corners of the parts with a selection) */
export function gripOf(job: Job, { each = false, radius = 0, way = 'island' }: GripHow = {}): Grip[] {
  const aspect = sheetAspect(job);
  return selectionByPart(job.selection.kind === 'islands' ? withStackMates(job) : job)
    .map((chosen): Grip => {
      const { part, set, groups } = gripOfPart(chosen, each);
      const soft = radius > 0 && chosen.kind !== 'islands';
      return {
        part: part.id,
        set,
        groups: groups.map((points) => {
          const box = boxOfPoints(set.uv, points);
          return soft ? { ...softReach(part.mesh, set, points, radius, way, aspect), box } : { points, share: null, box };
        }),
      };
    })
    .filter(({ groups }) => groups.length > 0);
}

function gripOfPart(chosen: PartSelection, each: boolean) {
  const { part } = chosen;
  const own = activeSet(part);
  const islands = placedIslandsOf(chosen);
  const { ofFace, start, faces } = islandsOf(part.mesh, own);
  const facesOf = (i: number) => faces.subarray(start[i]!, start[i + 1]!);
  // an island's points go with it alone
  const set =
    chosen.kind === 'islands'
      ? separateFans(
          part.mesh,
          own,
          islands.flatMap((i) => [...facesOf(i)]),
        )
      : own;
  const points = uvPointsOf({ ...chosen, part: set === own ? part : { ...part, uvSets: part.uvSets.map((old) => (old === own ? set : old)) } });
  if (!each || points.length === 0) return { part, set, groups: points.length > 0 ? [points] : [] };
  const groupOf = new Int32Array(set.uv.length / 2).fill(-1);
  for (let f = 0; f < ofFace.length; f++) for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) groupOf[set.cornerUv[c]!] = ofFace[f]!;
  const groups = new Map<number, number[]>();
  for (const p of points) (groups.get(groupOf[p]!) ?? groups.set(groupOf[p]!, []).get(groupOf[p]!)!).push(p);
  return { part, set, groups: [...groups.values()].map((group) => Uint32Array.from(group)) };
}

/** The job with the islands of their stacks selected too, where those follow. */
function withStackMates(job: Job): Job {
  if (!job.settings.stacksFollow) return job;
  const chosen = new Map(selectionByPart(job).map((one) => [one.part.id, new Set(placedIslandsOf(one))]));
  for (const stack of stacksOnSheet(partsOnSheet(job))) {
    if (!stack.some(({ part, island }) => chosen.get(part.id)?.has(island))) continue;
    for (const { part, island } of stack) (chosen.get(part.id) ?? chosen.set(part.id, new Set()).get(part.id)!).add(island);
  }
  const idsOf = (part: string) => Uint32Array.from(chosen.get(part) ?? []).sort();
  const { part } = job.selection;
  const also = [...chosen.keys()].filter((id) => id !== part).map((id) => ({ part: id, ids: idsOf(id) }));
  return { ...job, selection: { part, kind: 'islands', ids: idsOf(part), ...(also.length > 0 ? { also } : {}) } };
}

/** Selected islands that are carried along by another selected one of their stack. */
function stackCopies(job: Job): Set<string> {
  const copies = new Set<string>();
  if (!job.settings.stacksFollow) return copies;
  const chosen = new Set(selectionByPart(job).flatMap((one) => placedIslandsOf(one).map((island) => `${island} ${one.part.id}`)));
  for (const stack of stacksOnSheet(partsOnSheet(job)))
    for (const { part, island } of stack.filter((one) => chosen.has(`${one.island} ${one.part.id}`)).slice(1)) copies.add(`${island} ${part.id}`);
  return copies;
}

/** Whole islands of all that is selected, each a group of its own, whatever kind is selected. */
export function wholeIslands(job: Job): Grip[] {
  const copies = stackCopies(job);
  const chosen = selectionByPart(job).map((one) => ({
    part: one.part.id,
    ids: Uint32Array.from(placedIslandsOf(one).filter((island) => !copies.has(`${island} ${one.part.id}`))),
  }));
  const { selection } = job;
  const own = chosen.find(({ part }) => part === selection.part);
  const islands = { part: selection.part, kind: 'islands' as const, ids: own?.ids ?? new Uint32Array(0), also: chosen.filter((one) => one !== own) };
  return gripOf({ ...job, selection: islands, settings: { ...job.settings, stacksFollow: false } }, { each: true });
}

/** An island that is moved whole. */
export interface WholeIsland {
  readonly part: Part;
  readonly set: UvSet;
  /** Its number in `set`. */
  readonly island: number;
  readonly box: Box;
}

/** The islands of `wholeIslands`, one for each group. O(corners of their parts) */
export function islandsOfGrips(job: Job, grips: readonly Grip[]): WholeIsland[] {
  return grips.flatMap(({ part: id, set, groups }) => {
    const part = partOf(job, id);
    const { ofFace } = islandsOf(part.mesh, set);
    const islandAt = new Int32Array(set.uv.length / 2).fill(-1);
    for (let f = 0; f < ofFace.length; f++) for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) islandAt[set.cornerUv[c]!] = ofFace[f]!;
    return groups.map(({ points, box }) => ({ part, set, island: islandAt[points[0]!]!, box }));
  });
}

/** Moves groups of UV points. @param affineOfGroup counted over all parts @returns how many moved */
export function moveGroups(job: Job, grips: readonly Grip[], affineOfGroup: (n: number) => UvAffine | readonly number[]): { job: Job; moved: number } {
  let next = job;
  let n = 0;
  let moved = 0;
  for (const { part, set, groups } of grips) {
    const uv = set.uv.slice();
    let changed = false;
    for (const group of groups) {
      const affine = affineOfGroup(n++) as UvAffine;
      if (affine.every((x, k) => x === identity[k])) continue;
      moveBy(uv, set.uv, group.points, affine, group.share);
      changed = true;
      moved++;
    }
    if (changed) next = withSet(next, part, passRanks(activeSet(partOf(job, part)), { ...set, uv }));
  }
  return { job: next, moved };
}

const identity: UvAffine = [1, 0, 0, 1, 0, 0];

import { separateFans } from '../seams/cut.ts';
import { softReach, type SoftWay } from '../shape/softReach.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { boxOfPoints, type Box } from '../uv/box.ts';
import { moveBy, type UvAffine } from '../shape/transform.ts';
import { passRanks } from '../uv/ranks.ts';
import { activeSet, partOf, withSet, type Job } from './job.ts';
import { sheetAspect } from './sheets.ts';
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
  return selectionByPart(job)
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

/** Whole islands of all that is selected, each a group of its own, whatever kind is selected. */
export function wholeIslands(job: Job): Grip[] {
  const chosen = selectionByPart(job).map((one) => ({ part: one.part.id, ids: Uint32Array.from(placedIslandsOf(one)) }));
  const { selection } = job;
  const own = chosen.find(({ part }) => part === selection.part);
  const islands = { part: selection.part, kind: 'islands' as const, ids: own?.ids ?? new Uint32Array(0), also: chosen.filter((one) => one !== own) };
  return gripOf({ ...job, selection: islands }, { each: true });
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

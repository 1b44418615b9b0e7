import type { WholeIsland } from '../job/grip.ts';
import { activeSet, withSet, type Job, type Part } from '../job/job.ts';
import { partsOnSheet } from '../job/sheets.ts';
import { facesOfIsland, stacksOnSheet, type IslandOfPart } from '../job/stacks.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { lockedIslands } from '../uv/locked.ts';
import { passRanks } from '../uv/ranks.ts';

/** The job with all placed islands of the sheet selected that are not locked yet. @param isMeant only of these parts */
export function allUnlocked(job: Job, isMeant: (part: Part) => boolean = () => true): Job {
  const chosen = partsOnSheet(job)
    .filter((part) => !part.isHidden && isMeant(part))
    .map((part) => {
      const set = activeSet(part);
      const locked = lockedIslands(part.mesh, set);
      return { part: part.id, ids: Uint32Array.from(islandFacts(part.mesh, set).flatMap(({ unplaced }, i) => (unplaced || locked[i] ? [] : [i]))) };
    })
    .filter(({ ids }) => ids.length > 0);
  const [first, ...also] = chosen;
  return first ? { ...job, selection: { part: first.part, kind: 'islands', ids: first.ids, ...(also.length > 0 ? { also } : {}) } } : job;
}

/** Islands with those of their stacks: a stack is locked as one. */
export function withMates(job: Job, islands: readonly WholeIsland[]): IslandOfPart[] {
  const found = islands.map(({ part, set, island }): IslandOfPart => {
    const { start, faces } = islandsOf(part.mesh, set);
    return { part, island: islandsOf(part.mesh, activeSet(part)).ofFace[faces[start[island]!]!]! };
  });
  const isOne = (a: IslandOfPart, b: IslandOfPart) => a.part === b.part && a.island === b.island;
  const stacks = stacksOnSheet(partsOnSheet(job)).filter((stack) => stack.some((one) => found.some((own) => isOne(own, one))));
  return [...found, ...stacks.flat()];
}

export function withLocks(job: Job, islands: readonly IslandOfPart[], value: 0 | 1): Job {
  let next = job;
  for (const part of new Set(islands.map((one) => one.part))) {
    const now = activeSet(next.parts.find(({ id }) => id === part.id)!);
    const locked = now.locked?.slice() ?? new Uint8Array(now.unplaced.length);
    for (const one of islands) {
      if (one.part !== part) continue;
      for (const f of facesOfIsland(one)) locked[f] = value;
    }
    next = withSet(next, part.id, passRanks(now, { ...now, locked }));
  }
  return next;
}

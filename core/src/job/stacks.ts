import { separateFans } from '../seams/cut.ts';
import type { UvAffine } from '../shape/transform.ts';
import { islandsOf, type Islands } from '../uv/islands.ts';
import { passRanks } from '../uv/ranks.ts';
import { onOneAnother, stackedIslands, type StackedIsland } from '../uv/stacks.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { activeSet, withSet, type Job, type Part } from './job.ts';
import { joinParts } from './joinParts.ts';
import { partsOnSheet } from './sheets.ts';

/** An island of a part. */
export interface IslandOfPart {
  readonly part: Part;
  readonly island: number;
}

/** Islands of all parts of a sheet as those of one mesh, and back. */
export class SheetIslands {
  readonly parts: readonly Part[];
  readonly joined: ReturnType<typeof joinParts>;
  readonly islands: Islands;
  private readonly faceStart: number[] = [0];
  private readonly cornerStart: number[] = [0];

  constructor(parts: readonly Part[]) {
    this.parts = parts;
    this.joined = joinParts(parts);
    this.islands = islandsOf(this.joined.mesh, this.joined.set);
    for (const { mesh } of parts) {
      this.faceStart.push(this.faceStart.at(-1)! + mesh.faceStart.length - 1);
      this.cornerStart.push(this.cornerStart.at(-1)! + mesh.corners.length);
    }
  }

  /** The part that an island of all is of, and its number there. */
  of(island: number): IslandOfPart {
    const face = this.islands.faces[this.islands.start[island]!]!;
    const k = this.partAt(this.faceStart, face);
    const part = this.parts[k]!;
    return { part, island: islandsOf(part.mesh, activeSet(part)).ofFace[face - this.faceStart[k]!]! };
  }

  /** The number among all of an island of a part. */
  numberOf(part: Part, island: number): number {
    const { start, faces } = islandsOf(part.mesh, activeSet(part));
    return this.islands.ofFace[this.faceStart[this.parts.indexOf(part)]! + faces[start[island]!]!]!;
  }

  /** Corners of all as the part's own. */
  ownCorners(part: Part, corners: ArrayLike<number>): Uint32Array {
    const from = this.cornerStart[this.parts.indexOf(part)]!;
    return Uint32Array.from(corners, (c) => c - from);
  }

  private partAt(starts: readonly number[], x: number): number {
    let [low, high] = [0, this.parts.length - 1];
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (starts[middle]! <= x) low = middle;
      else high = middle - 1;
    }
    return low;
  }
}

/** Corners of a part's faces. */
export function cornersOf({ mesh }: Part, faces: ArrayLike<number>): number[] {
  const out: number[] = [];
  for (let k = 0; k < faces.length; k++) for (let c = mesh.faceStart[faces[k]!]!; c < mesh.faceStart[faces[k]! + 1]!; c++) out.push(c);
  return out;
}

export const facesOfIsland = ({ part, island }: IslandOfPart) => {
  const { start, faces } = islandsOf(part.mesh, activeSet(part));
  return faces.subarray(start[island]!, start[island + 1]!);
};

/** The stacks of a sheet as islands of its parts. */
export const stacksOnSheet = (parts: readonly Part[]): (IslandOfPart & StackedIsland)[][] =>
  onOneAnother(parts.flatMap((part) => stackedIslands(part.mesh, activeSet(part)).map((one) => ({ ...one, part }))));

/**
 * What a step did to one island of a stack, done to the others: the first that changed carries the rest along, point by point. A stack comes apart where the
 * step cut one of its islands, or took the mark off. O(corners of the stacks)
 */
export function carryStacks(before: Job, after: Job): Job {
  if (before.parts === after.parts || !before.parts.some((part) => activeSet(part).stack)) return after;
  let next = after;
  const done = new Set<string>();
  for (const one of before.parts) {
    if (done.has(one.id)) continue;
    const parts = partsOnSheet(before, one.id);
    for (const { id } of parts) done.add(id);
    if (parts.every((part) => after.parts.find(({ id }) => id === part.id) === part)) continue;
    for (const stack of stacksOnSheet(parts)) next = carryStack(next, stack);
  }
  return next;
}

function carryStack(job: Job, stack: readonly IslandOfPart[]): Job {
  const now = stack.map((one) => ({ ...one, after: job.parts.find(({ id }) => id === one.part.id) }));
  const changed = now.map((one) => (one.after ? changeOf(one.part, one.after, facesOfIsland(one)) : 'gone'));
  const leads = changed.indexOf('moved');
  if (leads < 0 || changed.includes('gone')) return job;
  const leader = now[leads]!;
  const led = facesOfIsland(leader);
  const places = new PlaceTable();
  const [own, moved] = [activeSet(leader.part), activeSet(leader.after!)];
  for (const c of cornersOf(leader.part, led)) {
    const [p, q] = [own.cornerUv[c]! * 2, moved.cornerUv[c]! * 2];
    places.add(own.uv[p]!, own.uv[p + 1]!, moved.uv[q]!, moved.uv[q + 1]!);
  }
  let next = job;
  now.forEach((one, k) => {
    if (k === leads || changed[k] === 'cut') return;
    const part = next.parts.find(({ id }) => id === one.part.id)!;
    next = withSet(next, part.id, placedAt(part, activeSet(one.part), facesOfIsland(one), places));
  });
  return next;
}

/** What became of an island: nothing, its places, or its borders. */
function changeOf(part: Part, after: Part, faces: Uint32Array): 'none' | 'moved' | 'cut' | 'gone' {
  if (part.mesh !== after.mesh) return 'gone';
  const [own, now] = [activeSet(part), activeSet(after)];
  if (own === now) return 'none';
  if (own.name !== now.name || own.cornerUv.length !== now.cornerUv.length || !now.stack) return 'gone';
  const islands = islandsOf(after.mesh, now);
  const island = islands.ofFace[faces[0]!]!;
  if (islands.start[island + 1]! - islands.start[island]! !== faces.length || faces.some((f) => islands.ofFace[f] !== island || now.unplaced[f])) return 'cut';
  const corners = cornersOf(part, faces);
  const isMoved = corners.some((c) => [0, 1].some((d) => own.uv[own.cornerUv[c]! * 2 + d] !== now.uv[now.cornerUv[c]! * 2 + d]));
  return isMoved ? 'moved' : 'none';
}

/** A part's layout with the corners of some faces where their former places went. */
function placedAt(part: Part, former: UvSet, faces: Uint32Array, places: PlaceTable): UvSet {
  const now = activeSet(part);
  const set = separateFans(part.mesh, now, faces);
  const uv = set.uv.slice();
  const corners = cornersOf(part, faces);
  const to = corners.map((c) => places.at(former.uv[former.cornerUv[c]! * 2]!, former.uv[former.cornerUv[c]! * 2 + 1]!));
  // alike by its outline alone: it goes as the whole went
  const whole = to.some((one) => one === null) ? places.affine() : null;
  corners.forEach((c, k) => {
    const p = former.cornerUv[c]! * 2;
    const [u, v] = whole ? apply(whole, former.uv[p]!, former.uv[p + 1]!) : to[k]!;
    uv[set.cornerUv[c]! * 2] = u;
    uv[set.cornerUv[c]! * 2 + 1] = v;
  });
  return passRanks(now, { ...set, uv });
}

/** Where places went, found again within what counts as the same place. */
class PlaceTable {
  private readonly cells = new Map<string, number[]>();

  add(u: number, v: number, toU: number, toV: number): void {
    const key = `${Math.round(u / cell)} ${Math.round(v / cell)}`;
    const list = this.cells.get(key);
    if (!list) this.cells.set(key, [u, v, toU, toV]);
    else if (!list.some((x, k) => k % 4 === 0 && x === u && list[k + 1] === v)) list.push(u, v, toU, toV);
  }

  /** The move, turn and size that brings them there in the mean (least squares, about their middle). */
  affine(): UvAffine {
    const all = [...this.cells.values()].flat();
    const n = all.length / 4;
    const mean = [0, 1, 2, 3].map((d) => all.reduce((sum, x, k) => sum + (k % 4 === d ? x : 0), 0) / n);
    let [xx, xy, yy, ux, uy, vx, vy] = [0, 0, 0, 0, 0, 0, 0];
    for (let k = 0; k < all.length; k += 4) {
      const [x, y, u, v] = [all[k]! - mean[0]!, all[k + 1]! - mean[1]!, all[k + 2]! - mean[2]!, all[k + 3]! - mean[3]!];
      xx += x * x;
      xy += x * y;
      yy += y * y;
      ux += u * x;
      uy += u * y;
      vx += v * x;
      vy += v * y;
    }
    const det = xx * yy - xy * xy;
    const [a, c] = det > 0 ? [(ux * yy - uy * xy) / det, (uy * xx - ux * xy) / det] : [1, 0];
    const [b, d] = det > 0 ? [(vx * yy - vy * xy) / det, (vy * xx - vx * xy) / det] : [0, 1];
    return [a, b, c, d, mean[2]! - a * mean[0]! - c * mean[1]!, mean[3]! - b * mean[0]! - d * mean[1]!];
  }

  /** The nearest one. */
  at(u: number, v: number): [number, number] | null {
    const [column, row] = [Math.round(u / cell), Math.round(v / cell)];
    const exact = this.cells.get(`${column} ${row}`);
    for (let k = 0; exact && k < exact.length; k += 4) if (exact[k] === u && exact[k + 1] === v) return [exact[k + 2]!, exact[k + 3]!];
    let best: [number, number] | null = null;
    let least = near;
    for (let dx = -1; dx <= 1; dx++)
      for (let dy = -1; dy <= 1; dy++) {
        const list = this.cells.get(`${column + dx} ${row + dy}`) ?? [];
        for (let k = 0; k < list.length; k += 4) {
          const far = Math.hypot(list[k]! - u, list[k + 1]! - v);
          if (far >= least) continue;
          least = far;
          best = [list[k + 2]!, list[k + 3]!];
        }
      }
    return best;
  }
}
/** What counts as the same place, shares of the sheet: a five-hundredth of a px on 2048. */
const near = 2e-6;
const cell = near * 2;

const apply = ([a, b, c, d, e, f]: UvAffine, u: number, v: number): [number, number] => [a * u + c * v + e, b * u + d * v + f];

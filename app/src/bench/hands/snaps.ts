import type { Box } from '@jig-peel/core';
import type { Guide, Snaps } from './handsState.ts';

/** Lines and points that a hand may catch at. */
export interface Targets {
  u: { at: number; words: string }[];
  v: { at: number; words: string }[];
  /** Places of other islands' UV points: 2 numbers each. */
  points: Float32Array;
  /** Points along the picture's outline. */
  outline: Float32Array;
}

interface SheetSize {
  width: number;
  height: number;
  margin: number;
  /** To the border, px. */
  border: number;
  tiles: number;
}

/** Lines of the sheet and of islands that do not move. @param others their boxes @param outline points along the picture's outline */
export function targetsOf(
  snaps: Snaps,
  { width, height, margin, border, tiles }: SheetSize,
  others: readonly Box[],
  points: Float32Array,
  outline: Float32Array = new Float32Array(0),
): Targets {
  const out: Targets = { u: [], v: [], points: snaps.points ? points : new Float32Array(0), outline: snaps.outline ? outline : new Float32Array(0) };
  const columns = Math.min(10, tiles);
  const rows = Math.ceil(tiles / 10);
  if (snaps.sheet) {
    for (let k = 0; k <= columns; k++) out.u.push({ at: k, words: 'sheet' });
    for (let k = 0; k <= rows; k++) out.v.push({ at: k, words: 'sheet' });
    out.u.push({ at: 0.5, words: 'middle of the sheet' });
    out.v.push({ at: 0.5, words: 'middle of the sheet' });
  }
  if (snaps.gap)
    for (let k = 0; k < columns; k++) {
      out.u.push({ at: k + border / width, words: `${border} px` }, { at: k + 1 - border / width, words: `${border} px` });
      if (k < rows) out.v.push({ at: k + border / height, words: `${border} px` }, { at: k + 1 - border / height, words: `${border} px` });
    }
  for (const [left, bottom, right, top] of others) {
    if (snaps.islands) {
      out.u.push({ at: left, words: 'left' }, { at: right, words: 'right' }, { at: (left + right) / 2, words: 'middle' });
      out.v.push({ at: bottom, words: 'bottom' }, { at: top, words: 'top' }, { at: (bottom + top) / 2, words: 'middle' });
    }
    if (snaps.gap) {
      out.u.push({ at: left - margin / width, words: `${margin} px` }, { at: right + margin / width, words: `${margin} px` });
      out.v.push({ at: bottom - margin / height, words: `${margin} px` }, { at: top + margin / height, words: `${margin} px` });
    }
  }
  return out;
}

/** The line nearest to one of some places, within reach; null: none. */
function nearest(places: readonly number[], lines: Targets['u'], reach: number): { by: number; at: number; words: string } | null {
  let best: { by: number; at: number; words: string } | null = null;
  for (const place of places)
    for (const { at, words } of lines) if (Math.abs(at - place) <= (best ? Math.abs(best.by) - 1e-12 : reach)) best = { by: at - place, at, words };
  return best;
}

/** The nearest of some places, within reach; null: none. O(places) */
function nearestPlace([u, v]: readonly [number, number], places: Float32Array, reach: readonly [number, number]): [number, number] | null {
  let [best, near] = [-1, 1];
  for (let k = 0; k < places.length; k += 2) {
    const d = Math.hypot((places[k]! - u) / reach[0], (places[k + 1]! - v) / reach[1]);
    if (d < near) [near, best] = [d, k];
  }
  return best < 0 ? null : [places[best]!, places[best + 1]!];
}

export interface Caught {
  move: [number, number];
  guides: Guide[];
}

/**
 * A move that catches at what is near.
 * @param box of what is moved, before
 * @param grabbed the UV point in hand, before; null: none
 * @param reach how near is near, along u and v
 */
export function snapMove(
  move: readonly [number, number],
  box: Box,
  grabbed: readonly [number, number] | null,
  targets: Targets,
  snaps: Snaps,
  { width, height }: Pick<SheetSize, 'width' | 'height'>,
  reach: readonly [number, number],
): Caught {
  const out: Caught = { move: [move[0], move[1]], guides: [] };
  if (grabbed)
    for (const [points, words] of [
      [targets.points, 'point'],
      [targets.outline, 'outline'],
    ] as const) {
      const best = nearestPlace([grabbed[0] + move[0], grabbed[1] + move[1]], points, reach);
      if (!best) continue;
      return {
        move: [best[0] - grabbed[0], best[1] - grabbed[1]],
        guides: [
          { axis: 'u', at: best[0], words },
          { axis: 'v', at: best[1], words },
        ],
      };
    }
  const [left, bottom, right, top] = box;
  const ends = [
    [left, (left + right) / 2, right],
    [bottom, (bottom + top) / 2, top],
  ] as const;
  (['u', 'v'] as const).forEach((axis, d) => {
    const places = ends[d]!.map((x) => x + move[d]!);
    const lines = snaps.grid > 0 ? [...targets[axis], ...gridNear(places, snaps.grid)] : targets[axis];
    const caught = nearest(places, lines, reach[d]!);
    if (caught) {
      out.move[d]! += caught.by;
      out.guides.push({ axis, at: caught.at, words: caught.words });
    } else if (snaps.px) {
      const px = d === 0 ? width : height;
      out.move[d] = Math.round((ends[d]![0] + move[d]!) * px) / px - ends[d]![0];
    }
  });
  return out;
}

const gridNear = (places: readonly number[], parts: number) => places.map((x) => ({ at: Math.round(x * parts) / parts, words: `1/${parts}` }));

/** A place along one axis that catches at what is near: a side that is drawn, or the pivot. */
export function snapPlace(place: number, axis: 'u' | 'v', targets: Targets, snaps: Snaps, px: number, reach: number): { at: number; guide: Guide | null } {
  const lines = snaps.grid > 0 ? [...targets[axis], ...gridNear([place], snaps.grid)] : targets[axis];
  const caught = nearest([place], lines, reach);
  if (caught) return { at: caught.at, guide: { axis, at: caught.at, words: caught.words } };
  return { at: snaps.px ? Math.round(place * px) / px : place, guide: null };
}

import type { ParamsOf, SelectionKind } from '@jig-peel/core';
import type { LayoutView, PartGeometry } from '../session/messages.ts';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';
import type { Hit } from './views/pick.ts';

/** What is chosen, while a click changes it. */
export interface Chosen {
  ids: ReadonlySet<number>;
  /** Of points and edges: the corners that are meant; null: all places. */
  corners: ReadonlySet<number> | null;
  /** Islands of other parts. */
  also: ReadonlyMap<string, ReadonlySet<number>>;
}

export const nothingChosen: Chosen = { ids: new Set(), corners: null, also: new Map() };

/** The present selection, as far as it is of the kind at hand. */
export function chosenNow(): Chosen {
  const { summary, kind } = useBench.getState();
  const selection = summary?.selection;
  if (!selection || selection.kind !== kind || selection.part !== summary.activePart) return nothingChosen;
  return {
    ids: new Set(selection.ids),
    corners: selection.corners ? new Set(selection.corners) : null,
    also: new Map((selection.also ?? []).map(({ part, ids }) => [part, new Set(ids)])),
  };
}

/** All corners of points, or at which half edges of edges start. O(corners) for points */
function allCorners({ corners, edgeStart, edgeCorners }: PartGeometry, kind: SelectionKind, ids: ReadonlySet<number>): Set<number> {
  const out = new Set<number>();
  if (kind === 'edges') for (const e of ids) for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) out.add(edgeCorners[i]!);
  else corners.forEach((p, c) => ids.has(p) && out.add(c));
  return out;
}

/** Corners at the same place of the sheet as another corner of their point. */
function atOnePlace({ corners }: PartGeometry, { cornerUv }: LayoutView, corner: number): number[] {
  const out: number[] = [];
  corners.forEach((p, c) => {
    if (p === corners[corner] && cornerUv[c * 2] === cornerUv[corner * 2] && cornerUv[c * 2 + 1] === cornerUv[corner * 2 + 1]) out.push(c);
  });
  return out;
}

/** Where on the sheet a hit means its point or edge; null: everywhere, as on the model. */
export function cornersMeant(hit: Hit): number[] | null {
  const { kind, geometry, layout } = useBench.getState();
  if (hit.view !== 'sheet' || !geometry || !layout) return null;
  if (kind === 'edges' && hit.edgeCorner !== undefined && hit.edgeCorner >= 0) return [hit.edgeCorner];
  if (kind === 'points' && hit.pointCorner !== undefined && hit.pointCorner >= 0) return atOnePlace(geometry, layout, hit.pointCorner);
  return null;
}

/** With the keys held: elements added to, taken from, or in the place of what was chosen. @param corners where they are meant; null: everywhere */
export function combined(found: ReadonlySet<number>, corners: readonly number[] | null, keys: { shift: boolean; ctrl: boolean }): Chosen {
  const { kind, geometry } = useBench.getState();
  const before = keys.shift || keys.ctrl ? chosenNow() : nothingChosen;
  const ids = new Set(before.ids);
  if ((kind !== 'points' && kind !== 'edges') || !geometry || (corners === null && before.corners === null)) {
    for (const id of found) {
      if (keys.ctrl) ids.delete(id);
      else ids.add(id);
    }
    return { ...before, ids };
  }
  const all = new Set(before.corners ?? allCorners(geometry, kind, before.ids));
  for (const c of corners ?? allCorners(geometry, kind, found)) {
    if (keys.ctrl) all.delete(c);
    else all.add(c);
  }
  const left = new Set([...all].map((c) => (kind === 'edges' ? geometry.cornerEdge[c]! : geometry.corners[c]!)));
  // where every place of them is meant, that need not be said
  return { ids: left, corners: allCorners(geometry, kind, left).size === all.size ? null : all, also: before.also };
}

const sizeOf = ({ ids, corners, also }: Chosen) => [ids.size, corners?.size ?? -1, ...[...also.values()].map((one) => one.size)].join();
const holds = (a: Chosen, b: Chosen) =>
  [...a.ids].every((id) => b.ids.has(id)) &&
  [...(a.corners ?? [])].every((c) => b.corners?.has(c) === true) &&
  [...a.also].every(([part, ids]) => [...ids].every((id) => b.also.get(part)?.has(id) === true));

/** Makes it the selection. Shown at once, so that a key pressed right after the click finds it; the session's answer follows. */
export async function choose(chosen: Chosen): Promise<void> {
  const before = chosenNow();
  if (sizeOf(before) === sizeOf(chosen) && holds(before, chosen)) return;
  const { kind, summary, showSelection } = useBench.getState();
  if (kind === 'parts') return;
  const sorted = (ids: ReadonlySet<number>) => Uint32Array.from(ids).sort();
  const also = [...chosen.also].filter(([, ids]) => ids.size > 0).map(([part, ids]) => ({ part, ids: sorted(ids) }));
  const more = { ...(chosen.corners && chosen.ids.size > 0 ? { corners: sorted(chosen.corners) } : {}), ...(also.length > 0 ? { also } : {}) };
  if (summary) showSelection({ part: summary.activePart, kind, ids: sorted(chosen.ids), ...more });
  await run('select', { kind, ids: [...chosen.ids], ...more } as ParamsOf<'select'>);
}

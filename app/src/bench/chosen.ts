import type { ParamsOf, Selection, SelectionKind } from '@jig-peel/core';
import type { LayoutView, PartGeometry } from '../session/messages.ts';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';
import type { Hit } from './views/pick.ts';

/** What is chosen of one part. */
export interface ChosenOfPart {
  ids: ReadonlySet<number>;
  /** Of points and edges: the corners that are meant; null: all places. */
  corners: ReadonlySet<number> | null;
}

/** What is chosen, while a click changes it. */
export interface Chosen extends ChosenOfPart {
  /** Of other parts. */
  also: ReadonlyMap<string, ChosenOfPart>;
}

export const nothingChosen: Chosen = { ids: new Set(), corners: null, also: new Map() };

/** The present selection, as far as it is of the kind at hand. */
export function chosenNow(): Chosen {
  const { summary, kind } = useBench.getState();
  const selection = summary?.selection;
  if (!selection || selection.kind !== kind || selection.part !== summary.activePart) return nothingChosen;
  return {
    ...chosenOf(selection),
    also: new Map((selection.also ?? []).map((one) => [one.part, chosenOf(one)])),
  };
}

const chosenOf = ({ ids, corners }: Pick<Selection, 'ids' | 'corners'>): ChosenOfPart => ({
  ids: new Set(ids),
  corners: corners ? new Set(corners) : null,
});

/** Islands of another part, with the keys held as for those of the part at work. */
export async function chooseIslandBeside({ part, island }: { part: string; island: number }, keys: { shift: boolean; ctrl: boolean }): Promise<void> {
  const before = keys.shift || keys.ctrl ? chosenNow() : nothingChosen;
  const ids = new Set(before.also.get(part)?.ids);
  if (keys.ctrl) ids.delete(island);
  else ids.add(island);
  await choose({ ...before, also: new Map([...before.also, [part, { ids, corners: null }]]) });
}

/** The same choice, seen from another part: what was chosen of the part at work before is beside it then. */
export function seenFrom({ ids, corners, also }: Chosen, before: string, part: string): Chosen {
  const beside = new Map(also);
  const own = beside.get(part) ?? { ids: new Set(), corners: null };
  beside.delete(part);
  if (ids.size > 0) beside.set(before, { ids, corners });
  return { ...own, also: beside };
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
export function combined(
  found: ReadonlySet<number>,
  corners: readonly number[] | null,
  keys: { shift: boolean; ctrl: boolean },
  now: Chosen = chosenNow(),
): Chosen {
  const { kind, geometry } = useBench.getState();
  const before = keys.shift || keys.ctrl ? now : nothingChosen;
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

const isSame = (a: ReadonlySet<number> | null | undefined, b: ReadonlySet<number> | null | undefined) =>
  (a?.size ?? -1) === (b?.size ?? -1) && [...(a ?? [])].every((id) => b!.has(id));
const isSameOfPart = (a: ChosenOfPart, b: ChosenOfPart | undefined) => isSame(a.ids, b?.ids) && isSame(a.corners, b?.corners);

/** Makes it the selection. Shown at once, so that a key pressed right after the click finds it; the session's answer follows. */
export async function choose(chosen: Chosen): Promise<void> {
  const before = chosenNow();
  if (isSameOfPart(before, chosen) && before.also.size === chosen.also.size && [...before.also].every(([id, one]) => isSameOfPart(one, chosen.also.get(id))))
    return;
  const { kind, summary, showSelection } = useBench.getState();
  if (kind === 'parts') return;
  const sorted = (ids: ReadonlySet<number>) => Uint32Array.from(ids).sort();
  const ofPart = ({ ids, corners }: ChosenOfPart) => ({ ids: sorted(ids), ...(corners && ids.size > 0 ? { corners: sorted(corners) } : {}) });
  const also = [...chosen.also].filter(([, { ids }]) => ids.size > 0).map(([part, one]) => ({ part, ...ofPart(one) }));
  const { ids, ...corners } = ofPart(chosen);
  const more = { ...corners, ...(also.length > 0 ? { also } : {}) };
  if (summary) showSelection({ part: summary.activePart, kind, ids, ...more });
  await run('select', { kind, ids: [...chosen.ids], ...more } as ParamsOf<'select'>);
}

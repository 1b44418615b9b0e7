import {
  activeSet,
  modelRegion,
  partOf,
  partsOnSheet,
  rising,
  sheetRegionWithCorners,
  topologyOf,
  type Job,
  type Part,
  type Selection,
  type SelectionKind,
} from '@jig-peel/core';
import type { RegionTake, RegionView } from './messages.ts';

/**
 * The selection that a drawn region makes of the present one; null where that stays as it is. On the sheet it takes of all parts there, on the model of the
 * part at work. O(corners of the parts it looks at)
 */
export function regionSelection(job: Job, { region, kind, through, mode, touched }: RegionTake, view: RegionView): Selection | null {
  const part = partOf(job);
  const { selection: before } = job;
  const own = before.part === part.id && before.kind === kind ? before : null;
  const question = (one: Part) => ({ mesh: one.mesh, set: activeSet(one), hidden: one.hidden ?? null, kind, region });
  if (view.view === 'model') {
    const ids = combined(own?.ids, modelRegion(question(part), view, through), touched, mode);
    const also = mode === 'set' ? undefined : own?.also;
    return changed(own, { part: part.id, kind, ids, ...(also ? { also } : {}) });
  }
  const ofPart = (one: Part, chosen: Pick<Selection, 'ids' | 'corners'> | undefined, hit: number[]) => {
    const found = sheetRegionWithCorners(question(one), view);
    if (!found.corners) return { ids: combined(chosen?.ids, found.ids, hit, mode) };
    const all = rising([...found.corners, ...cornersOf(one, kind, hit)]);
    const corners = combined(chosen && (chosen.corners ?? cornersOf(one, kind, chosen.ids)), all, [], mode);
    const { cornerEdge } = topologyOf(one.mesh);
    const ids = rising(Array.from(corners, (c) => (kind === 'edges' ? cornerEdge[c]! : one.mesh.corners[c]!)));
    return { ids, ...(corners.length > 0 ? { corners } : {}) };
  };
  const chosenOf = (one: Part) => own?.also?.find((other) => other.part === one.id);
  const also = partsOnSheet(job, part.id)
    .filter((one) => one.id !== part.id && !one.isHidden)
    .map((one) => ({ part: one.id, ...ofPart(one, chosenOf(one), []) }))
    .filter(({ ids }) => ids.length > 0);
  return changed(own, { part: part.id, kind, ...ofPart(part, own ?? undefined, touched), ...(also.length > 0 ? { also } : {}) });
}

/** All corners of points, or at which half edges of edges start. */
export function cornersOf({ mesh }: Part, kind: SelectionKind, ids: Iterable<number>): Uint32Array {
  const { cornerEdge } = topologyOf(mesh);
  const wanted = new Set(ids);
  if (wanted.size === 0) return new Uint32Array(0);
  return Uint32Array.from(mesh.corners.keys()).filter((c) => wanted.has(kind === 'edges' ? cornerEdge[c]! : mesh.corners[c]!));
}

/** Elements changed by what was found, rising. */
function combined(before: Uint32Array = new Uint32Array(0), found: Uint32Array, touched: number[], mode: RegionTake['mode']): Uint32Array {
  const all = touched.length > 0 ? Uint32Array.from([...found, ...touched]) : found;
  if (mode === 'take') {
    const gone = new Set(all);
    return before.filter((id) => !gone.has(id));
  }
  return rising(mode === 'add' ? [...before, ...all] : all);
}

const same = (a: Uint32Array | undefined, b: Uint32Array | undefined) => a === b || (a?.length === b?.length && a?.every((id, k) => id === b![k]) === true);

function changed(before: Selection | null, after: Selection): Selection | null {
  const others = (one: Selection) => one.also ?? [];
  const isSame =
    same(before?.ids ?? new Uint32Array(0), after.ids) &&
    same(before?.corners, after.corners) &&
    (before ? others(before) : []).length === others(after).length &&
    others(after).every(
      (one, k) => one.part === before!.also![k]!.part && same(one.ids, before!.also![k]!.ids) && same(one.corners, before!.also![k]!.corners),
    );
  return isSame ? null : after;
}

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

/** The selection that a drawn region makes of the present one; null where that stays as it is. O(corners of the parts it looks at) */
export function regionSelection(job: Job, { region, kind, through, mode, touched }: RegionTake, view: RegionView): Selection | null {
  const part = partOf(job);
  const { selection: before } = job;
  const own = before.part === part.id && before.kind === kind ? before : null;
  const question = (one: Part) => ({ mesh: one.mesh, set: activeSet(one), hidden: one.hidden ?? null, kind, region });
  if (view.view === 'model') {
    const ids = combined(own?.ids, modelRegion(question(part), view, through), touched, mode);
    return changed(own, { part: part.id, kind, ids });
  }
  if (kind === 'islands') {
    const also = partsOnSheet(job, part.id)
      .filter((one) => one.id !== part.id && !one.isHidden)
      .map((one) => {
        const chosen = own?.also?.find((other) => other.part === one.id)?.ids;
        return { part: one.id, ids: combined(chosen, sheetRegionWithCorners(question(one), view).ids, [], mode) };
      })
      .filter(({ ids }) => ids.length > 0);
    const ids = combined(own?.ids, sheetRegionWithCorners(question(part), view).ids, touched, mode);
    return changed(own, { part: part.id, kind, ids, ...(also.length > 0 ? { also } : {}) });
  }
  const found = sheetRegionWithCorners(question(part), view);
  if (!found.corners) return changed(own, { part: part.id, kind, ids: combined(own?.ids, found.ids, touched, mode) });
  const ofTouched = cornersOf(part, kind, touched);
  const all = rising([...found.corners, ...ofTouched]);
  const corners = combined(own ? (own.corners ?? cornersOf(part, kind, own.ids)) : undefined, all, [], mode);
  const { cornerEdge } = topologyOf(part.mesh);
  const ids = rising(Array.from(corners, (c) => (kind === 'edges' ? cornerEdge[c]! : part.mesh.corners[c]!)));
  return changed(own, { part: part.id, kind, ids, ...(corners.length > 0 ? { corners } : {}) });
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
    others(after).every((one, k) => one.part === before!.also![k]!.part && same(one.ids, before!.also![k]!.ids));
  return isSame ? null : after;
}

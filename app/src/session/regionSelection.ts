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
  type Region,
  type Selection,
} from '@jig-peel/core';
import { cornersOf } from './cornersOf.ts';
import type { RegionTake, RegionView } from './messages.ts';

/**
 * The selection that a drawn region makes of the present one; null where that stays as it is. It takes of all parts of the sheet: on the model of those
 * that are shown there. O(corners of the parts it looks at)
 */
export function regionSelection(job: Job, { region, kind, through, mode, touched }: RegionTake, view: RegionView): Selection | null {
  const part = partOf(job);
  const { selection: before } = job;
  const own = before.part === part.id && before.kind === kind ? before : null;
  const question = (one: Part) => ({ mesh: one.mesh, set: activeSet(one), hidden: one.hidden ?? null, kind, region });
  const chosenOf = (one: Part) => own?.also?.find((other) => other.part === one.id);
  const others = partsOnSheet(job, part.id).filter((one) => one.id !== part.id && !one.isHidden);
  const taken = (ofOthers: { part: string; ids: Uint32Array; corners?: Uint32Array }[], ofOwn: Pick<Selection, 'ids' | 'corners'>) => {
    const also = ofOthers.filter(({ ids }) => ids.length > 0);
    return changed(own, { part: part.id, kind, ...ofOwn, ...(also.length > 0 ? { also } : {}) });
  };
  if (view.view === 'model') {
    const shown = new Set(view.beside);
    // the others are drawn faintly: the part at work hides them, they hide nothing of it
    const blockers = [{ mesh: part.mesh, hidden: part.hidden ?? null }];
    const besides = others.filter((one) => shown.has(one.id));
    const found = besides.map((one) => ({
      part: one.id,
      ids: combined(chosenOf(one)?.ids, modelRegion({ ...question(one), blockers }, view, through), [], mode),
    }));
    const kept = mode === 'set' ? [] : (own?.also ?? []).filter((one) => !besides.some(({ id }) => id === one.part));
    return taken([...found, ...kept], { ids: combined(own?.ids, modelRegion(question(part), view, through), touched, mode) });
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
  return taken(
    others.map((one) => ({ part: one.id, ...ofPart(one, chosenOf(one), []) })),
    ofPart(part, own ?? undefined, touched),
  );
}

/** Faces of the part at work in sight in a region of a view. */
export function facesInRegion(job: Job, region: Region, view: RegionView): Uint32Array {
  const part = partOf(job);
  const question = { mesh: part.mesh, set: activeSet(part), hidden: part.hidden ?? null, kind: 'faces' as const, region };
  return view.view === 'model' ? modelRegion(question, view, false) : sheetRegionWithCorners(question, view).ids;
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

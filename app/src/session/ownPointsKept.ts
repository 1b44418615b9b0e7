import { layoutIn, withOwnPoints, type HistoryEntry, type Job, type Mesh, type UvSet } from '@jig-peel/core';

/** How corners of a layout come to have UV points of their own, and arrays that were made so. */
interface Split {
  readonly corners: Uint32Array;
  readonly slits: Uint32Array;
  readonly cornerUv: Uint32Array;
  /** The UV point that each is a copy of; null: all are as they were. */
  readonly from: Uint32Array | null;
  readonly uv: Map<Float64Array, Float64Array>;
  readonly pins: Map<Uint8Array, Uint8Array>;
}

/**
 * Steps that were kept before each island had UV points of its own, as they would be read now: packing would move what islands share. Arrays that steps share are
 * shared again. O(corners) for each layout that differs
 */
export function ownPointsKept(entries: readonly HistoryEntry[]): HistoryEntry[] {
  const known = new Map<Uint32Array, Split[]>();
  const splitOf = (mesh: Mesh, set: UvSet): Split => {
    const before = known.get(set.cornerUv) ?? [];
    const found = before.find((one) => one.corners === mesh.corners && one.slits === set.slits);
    if (found) return found;
    const { set: own, from } = withOwnPoints(mesh, set);
    const made: Split = {
      corners: mesh.corners,
      slits: set.slits,
      cornerUv: own.cornerUv,
      from,
      uv: new Map([[set.uv, own.uv]]),
      pins: new Map([[set.pins, own.pins]]),
    };
    known.set(set.cornerUv, [...before, made]);
    return made;
  };
  const ownSet = (mesh: Mesh, set: UvSet): UvSet => {
    const { cornerUv, from, uv, pins } = splitOf(mesh, set);
    if (!from) return set;
    const own = {
      uv: uv.get(set.uv) ?? Float64Array.from({ length: from.length * 2 }, (_, k) => set.uv[from[k >> 1]! * 2 + (k & 1)]!),
      pins: pins.get(set.pins) ?? Uint8Array.from(from, (p) => set.pins[p]!),
    };
    uv.set(set.uv, own.uv);
    pins.set(set.pins, own.pins);
    return { ...set, cornerUv, ...own };
  };
  return entries.map((entry) => {
    const job = withSets(entry.job, ownSet);
    return job === entry.job ? entry : { ...entry, job };
  });
}

function withSets(job: Job, of: (mesh: Mesh, set: UvSet) => UvSet): Job {
  let isSame = true;
  const each = (mesh: Mesh, sets: readonly UvSet[]) =>
    sets.map((set) => {
      const own = of(mesh, set);
      if (own !== set) isSame = false;
      return own;
    });
  const parts = job.parts.map((part) => ({ ...part, uvSets: each(part.mesh, part.uvSets) }));
  const versions = job.versions?.map((version) => ({
    ...version,
    layouts: version.layouts.map((layout) => {
      const part = job.parts.find(({ id }) => id === layout.part);
      return part && layoutIn(version, part) === layout ? { ...layout, uvSets: each(part.mesh, layout.uvSets) } : layout;
    }),
  }));
  return isSame ? job : { ...job, parts, ...(versions ? { versions } : {}) };
}

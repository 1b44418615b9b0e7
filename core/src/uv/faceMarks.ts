import type { UvSet } from './uvSet.ts';

/** Marks of faces that a layout may have, each with its kind of list and the value of a face without one. All that carries marks along goes by this list; archives state theirs beside it (formats/archive, soundJob). */
const kinds = {
  stack: { rest: 0, make: (faces: number) => new Uint32Array(faces) },
  block: { rest: 0, make: (faces: number) => new Uint32Array(faces) },
  locked: { rest: 0, make: (faces: number) => new Uint8Array(faces) },
  headed: { rest: 0, make: (faces: number) => new Uint8Array(faces) },
  weight: { rest: 1, make: (faces: number) => new Float64Array(faces).fill(1) },
  care: { rest: 1, make: (faces: number) => new Float64Array(faces).fill(1) },
} as const;

type FaceMark = keyof typeof kinds;
export type FaceMarks = Pick<UvSet, FaceMark>;

const names = Object.keys(kinds) as FaceMark[];

export const hasFaceMarks = (set: UvSet): boolean => names.some((name) => set[name]);

/**
 * Marks of faces that come from those of other layouts; marks that none of these has stay absent. O(faces · marks)
 *
 * @param sets the layouts that marks come from
 * @param setOf the layout that a face comes from, by number; below 0: none
 * @param faceOf the face's number there; below 0: none
 */
export function faceMarksFrom(sets: readonly UvSet[], faces: number, setOf: (f: number) => number, faceOf: (f: number) => number): FaceMarks {
  const found: Partial<Record<FaceMark, Uint32Array | Uint8Array | Float64Array>> = {};
  for (const name of names) {
    if (!sets.some((set) => set[name])) continue;
    const { rest, make } = kinds[name];
    const out = make(faces);
    for (let f = 0; f < faces; f++) {
      const from = setOf(f);
      const face = faceOf(f);
      out[f] = (from < 0 || face < 0 ? undefined : sets[from]![name]?.[face]) ?? rest;
    }
    found[name] = out;
  }
  return found as FaceMarks;
}

/** Marks of faces that all come from one layout. @param faceFrom the face each was there; below 0: a new one */
export const faceMarksOf = (set: UvSet, faceFrom: ArrayLike<number>): FaceMarks =>
  faceMarksFrom(
    [set],
    faceFrom.length,
    () => 0,
    (f) => faceFrom[f]!,
  );

/** Without the marks that say nothing: those in which all faces are as if they had none. */
export function withoutIdleMarks(marks: FaceMarks): FaceMarks {
  const kept: Partial<Record<FaceMark, unknown>> = {};
  for (const name of names) if (marks[name]?.some((x) => x !== kinds[name].rest)) kept[name] = marks[name];
  return kept as FaceMarks;
}

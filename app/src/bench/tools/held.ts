/** Things that are shown until they are taken or dropped; each says whether there was one. */
export const looked = new Set<() => boolean>();

/** Drops what is shown; false if nothing is. */
export const dropLooked = (): boolean => [...looked].some((undo) => undo());

let drop: (() => void) | null = null;

/** A press has begun something; `undo` drops it without a trace. */
export function holds(undo: () => void): void {
  drop = undo;
}

/** It was let go of. */
export function letsGo(): void {
  drop = null;
}

/** Drops what is being drawn or dragged; false if nothing is. */
export function dropHeld(): boolean {
  const undo = drop;
  drop = null;
  undo?.();
  return undo !== null;
}

import { activeSet, withSet, type Job } from './job.ts';

/**
 * The job with islands marked whose heading on the sheet a step set, or freed: all faces that it moved, or that have a place since. Packing keeps headings that
 * were set. O(corners of the parts that changed).
 */
export function markHeadings(before: Job, after: Job, what: 'set' | 'free'): Job {
  if (before.parts === after.parts) return after;
  const value = what === 'set' ? 1 : 0;
  let next = after;
  for (const part of after.parts) {
    const was = before.parts.find(({ id }) => id === part.id);
    const now = activeSet(part);
    const old = was && activeSet(was);
    if (!was || !old || old === now || was.mesh !== part.mesh || (value === 0 && !now.headed)) continue;
    let headed: Uint8Array | null = null;
    for (let f = 0; f < now.unplaced.length; f++) {
      if (now.unplaced[f]) continue;
      let moved = old.unplaced[f] === 1;
      for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]! && !moved; c++) {
        const [a, b] = [old.cornerUv[c]! * 2, now.cornerUv[c]! * 2];
        moved = old.uv[a] !== now.uv[b] || old.uv[a + 1] !== now.uv[b + 1];
      }
      if (!moved || (now.headed?.[f] ?? 0) === value) continue;
      headed ??= now.headed?.slice() ?? new Uint8Array(now.unplaced.length);
      headed[f] = value;
    }
    if (headed) next = withSet(next, part.id, { ...now, headed });
  }
  return next;
}

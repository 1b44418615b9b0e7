import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import type { JobSettings, Part } from '../job/job.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { packAside } from '../pack/pack.ts';

/**
 * New islands get a place: all new, the whole layout is packed; some new, they go into free room at their size; what finds no room waits
 * beside the sheet.
 */
export async function placeFresh(
  part: Part,
  set: UvSet,
  fresh: readonly number[],
  settings: JobSettings,
  context: Context,
): Promise<{ set: UvSet; waiting: number }> {
  if (fresh.length === 0) return { set, waiting: 0 };
  const facts = islandFacts(part.mesh, set);
  const placed = facts.filter((fact) => !fact.unplaced).length;
  const options = { width: settings.width, height: settings.height, gap: settings.margin, borderGap: settings.margin, turn: 'none' as const };
  if (placed === fresh.length) return { set: (await packAside(part.mesh, set, { ...options, keepScale: false }, context)).set, waiting: 0 };
  try {
    return { set: (await packAside(part.mesh, set, { ...options, keepScale: true, islands: fresh, resolution: 512 }, context)).set, waiting: 0 };
  } catch (error) {
    if (!(error instanceof JigError) || error.code !== 'does-not-fit') throw error;
    return { set: besideSheet(part, set, fresh), waiting: fresh.length };
  }
}

/** The tray's right edge. */
const trayEdge = -0.05;

/** Islands one below the other in the tray, left of the sheet; further columns begin where the first would run below it. */
function besideSheet(part: Part, set: UvSet, islands: readonly number[]): UvSet {
  const all = islandsOf(part.mesh, set);
  const uv = set.uv.slice();
  const pointsOf = (i: number) => {
    const points = new Set<number>();
    for (let k = all.start[i]!; k < all.start[i + 1]!; k++) {
      const f = all.faces[k]!;
      for (let c = part.mesh.faceStart[f]!; c < part.mesh.faceStart[f + 1]!; c++) points.add(set.cornerUv[c]!);
    }
    return [...points];
  };
  let [right, wide, top] = [trayEdge, 0, 1];
  for (const i of islands) {
    const points = pointsOf(i);
    let [left, low, far, high] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const p of points) {
      left = Math.min(left, uv[p * 2]!);
      far = Math.max(far, uv[p * 2]!);
      low = Math.min(low, uv[p * 2 + 1]!);
      high = Math.max(high, uv[p * 2 + 1]!);
    }
    if (top < 1 && top - (high - low) < 0) {
      right -= wide + 0.03;
      [wide, top] = [0, 1];
    }
    for (const p of points) {
      uv[p * 2]! += right - far;
      uv[p * 2 + 1]! += top - high;
    }
    wide = Math.max(wide, far - left);
    top -= high - low + 0.03;
  }
  return { ...set, uv };
}

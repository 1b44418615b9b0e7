import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import { joinParts, splitUv } from '../job/joinParts.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import type { SheetIslands } from '../job/stacks.ts';
import { onceEach } from '../uv/stacks.ts';
import { borderGapOf } from '../job/borderGap.ts';
import { partsOnSheet, sheetFor, sheetOfPart } from '../job/sheets.ts';
import { evenDensity, islandDensities } from '../pack/density.ts';
import { trayFaces } from '../uv/tray.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { unplacedCount, type UvSet } from '../uv/uvSet.ts';
import { packAside } from '../pack/packAside.ts';

/**
 * New islands get a place: at the sheet's density where one is stated; nothing else on the sheet, the whole layout is packed; else they go into free room between the islands of all parts of the sheet,
 * at the density of these where the part has none of its own; what finds no room waits beside the sheet.
 */
export async function placeFresh(job: Job, part: Part, set: UvSet, fresh: readonly number[], context: Context): Promise<{ set: UvSet; waiting: number }> {
  if (fresh.length === 0) return { set, waiting: 0 };
  const placed = islandFacts(part.mesh, set).filter((fact) => !fact.unplaced).length;
  const others = partsOnSheet(job, part.id).filter((one) => one.id !== part.id && unplacedCount(activeSet(one)) < activeSet(one).unplaced.length);
  const sheet = sheetFor(job, part.id);
  const { width, height, margin } = sheet;
  const options = { width, height, gap: margin, borderGap: borderGapOf(sheet), turn: 'none' as const };
  const first = placed === fresh.length;
  const wanted = first ? (sheetOfPart(job, part)?.density ?? null) : null;
  if (first && others.length === 0 && wanted === null)
    return { set: (await packAside(part.mesh, set, { ...options, keepScale: false }, context)).set, waiting: 0 };
  const sized = wanted !== null ? evenDensity(part.mesh, set, width, height, wanted).set : first ? asDenseAs(others, part, set, width, height) : set;
  const joined = joinParts([...others, withOwn(part, sized)]);
  const faces = others.reduce((sum, one) => sum + one.mesh.faceStart.length - 1, 0);
  const [own, all] = [islandsOf(part.mesh, sized), islandsOf(joined.mesh, joined.set)];
  const islands = fresh.map((i) => all.ofFace[faces + own.faces[own.start[i]!]!]!);
  try {
    const { set: packed } = await packAside(joined.mesh, joined.set, { ...options, keepScale: true, islands, resolution: 512 }, context);
    return { set: others.length === 0 ? packed : { ...sized, uv: packed.uv.slice(joined.uvStart.at(-1)! * 2) }, waiting: 0 };
  } catch (error) {
    if (!(error instanceof JigError) || error.code !== 'does-not-fit') throw error;
    return { set: besideSheet(part, sized, fresh, trayStart(others)), waiting: fresh.length };
  }
}

/**
 * Islands of one or several parts go into free room of their sheet, at the size they have; into the tray where there is none.
 * @param all islands of the sheet; those of `islands` are moved, the others packed around
 */
export async function placeApart(job: Job, all: SheetIslands, islands: readonly number[], context: Context): Promise<{ job: Job; waiting: number }> {
  const { mesh, set } = all.joined;
  const sheet = sheetFor(job, all.parts[0]!.id);
  const { width, height, margin } = sheet;
  const options = { width, height, gap: margin, borderGap: borderGapOf(sheet), turn: 'none' as const, keepScale: true, islands, resolution: 512 };
  try {
    const { set: packed } = await packAside(mesh, onceEach(mesh, set), options, context);
    return { job: splitUv(job, all.joined, packed.uv), waiting: 0 };
  } catch (error) {
    if (!(error instanceof JigError) || error.code !== 'does-not-fit') throw error;
  }
  return {
    job: intoTray(
      job,
      islands.map((i) => all.of(i)),
    ),
    waiting: islands.length,
  };
}

/** Islands of any parts laid into the tray, beside what waits there already. */
export function intoTray(job: Job, moved: readonly { part: Part; island: number }[]): Job {
  let next = job;
  for (const id of new Set(moved.map((one) => one.part.id))) {
    const own = moved.filter((one) => one.part.id === id).map(({ island }) => island);
    const now = partOf(next, id);
    next = withSet(next, id, besideSheet(now, activeSet(now), own, trayStart(partsOnSheet(next, id))));
  }
  return next;
}

const withOwn = (part: Part, set: UvSet): Part => ({ ...part, uvSets: part.uvSets.map((old, k) => (k === part.activeUv ? set : old)) });

/** A new layout at the mean density of other parts. */
function asDenseAs(others: readonly Part[], part: Part, set: UvSet, width: number, height: number): UvSet {
  const all = others.flatMap((one) => islandDensities(one.mesh, activeSet(one), width, height)).filter(({ density }) => density > 0);
  const area = all.reduce((sum, one) => sum + one.area, 0);
  const flat = all.reduce((sum, one) => sum + one.area * one.density ** 2, 0);
  return area > 0 && flat > 0 ? evenDensity(part.mesh, set, width, height, Math.sqrt(flat / area)).set : set;
}

/** Where there is room in the tray: left of what waits there already. */
function trayStart(others: readonly Part[]): number {
  let left = trayEdge;
  for (const { mesh, ...part } of others) {
    const set = activeSet({ mesh, ...part });
    const waits = trayFaces(mesh, set);
    for (let f = 0; f < waits.length; f++)
      if (waits[f]) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) left = Math.min(left, set.uv[set.cornerUv[c]! * 2]! - 0.03);
  }
  return left;
}

/** The tray's right edge. */
const trayEdge = -0.05;

/** Islands one below the other in the tray, left of the sheet; further columns begin where the first would run below it. */
function besideSheet(part: Part, set: UvSet, islands: readonly number[], start: number): UvSet {
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
  let [right, wide, top] = [start, 0, 1];
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

import type { Context } from '../context.ts';
import { alphaOutline, type AlphaOutline } from '../images/alphaOutline.ts';
import { JigError } from '../jigError.ts';
import { islandsOfGrips, moveGroups, wholeIslands, type WholeIsland } from '../job/grip.ts';
import { activeSet, partOf, withSet, type Job, type Part } from '../job/job.ts';
import { outlinesOf } from '../pack/outline.ts';
import { separateFans } from '../seams/cut.ts';
import { borderFit } from '../shape/borderFit.ts';
import { hasInside, type Similarity } from '../shape/outlineFit.ts';
import { fitEach, fitTogether, type EachFit } from '../shape/outlineMatch.ts';
import { loopArea, type Loops } from '../shape/contours.ts';
import type { UvAffine } from '../shape/transform.ts';
import { prepare } from '../unwrap/conformal.ts';
import { pieceOf } from '../unwrap/piece.ts';
import { presentOf } from '../unwrap/unwrapIslands.ts';
import { stretchEnergy } from '../unwrap/isometric.ts';
import { islandLetter, islandsOf } from '../uv/islands.ts';
import { passRanks } from '../uv/ranks.ts';
import { scaleU } from '../uv/scaleU.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { allUnlocked, withLocks, withMates } from './locks.ts';
import { pictureOf } from './pictureOf.ts';

export interface MatchParams {
  fit: 'together' | 'each' | 'shape';
  pieces: 'near' | 'like';
  /** Alpha, 1 to 255. */
  threshold: number;
  lock: boolean;
}

export interface OutlineMatched {
  part: string;
  letter: string;
  /** Mean distance of its border from the picture's outline, px of the picture. */
  error: number;
  /** Only where its shape was changed: stretch before and after (4 without), whether its border is on the outline exactly. */
  shaped?: { before: number; after: number; isExact: boolean };
}

/** Matches islands to the outlines of the part's picture. @throws JigError `nothing-to-do` where there is no picture, outline or island */
export async function matchOutlines(job: Job, { fit, pieces, threshold, lock }: MatchParams, context: Context) {
  const outline = alphaOutline(await pictureOf(job, context, 'match'), threshold);
  if (outline.pieces.length === 0)
    throw new JigError('nothing-to-do', 'Nothing in the picture is opaque.', '', 'Use a picture with alpha, or a lower threshold.');
  if (isWhole(outline))
    throw new JigError('nothing-to-do', 'The picture is opaque all over: it has no outline.', '', 'Use a picture whose background is transparent.');
  const whole = job.selection.ids.length > 0 || job.selection.also?.length ? job : allUnlocked(job, ({ imageId }) => imageId === partOf(job).imageId);
  const grips = wholeIslands(whole);
  const { width, height } = outline;
  const of = new Map<UvSet, readonly Loops[]>();
  const islands = islandsOfGrips(whole, grips).map((island) => {
    if (!of.has(island.set)) of.set(island.set, outlinesOf(island.part.mesh, island.set, width, height));
    return { island, loops: of.get(island.set)![island.island] ?? [] };
  });
  if (islands.length === 0) throw new JigError('nothing-to-do', 'No island has a place on the sheet yet.', '', 'Unwrap first.');
  const usable = islands.map(({ loops }) => hasInside(loops));
  if (!usable.includes(true)) throw new JigError('nothing-to-do', 'The islands have no area on the sheet.', '', 'Unwrap first.');
  const own = islands.map(({ loops }, k) => (usable[k] ? loops : []));
  const step = (share: number) => {
    context.throwIfCancelled();
    context.progress(share * (fit === 'shape' ? 0.5 : 1), 'Comparing outlines');
  };
  const fits: (EachFit | null)[] = fit === 'together' ? fitTogether(own, outline.pieces, step) : fitEach(own, outline.pieces, pieces, step);
  const { job: moved } = moveGroups(whole, grips, (n) => {
    const found = fits[n];
    return found ? inShares(found.how, width, height) : [1, 0, 0, 1, 0, 0];
  });
  const matched = islands.flatMap(({ island }, k) => (fits[k] ? [{ island, found: fits[k] }] : []));
  if (matched.length === 0)
    throw new JigError('nothing-to-do', 'No island is like any opaque piece of the picture.', '', 'Lay them near, then match those they are on.');
  let next = moved;
  const report: OutlineMatched[] = matched.map(({ island, found }) => ({ part: island.part.id, letter: islandLetter(island.island), error: found.error }));
  if (fit === 'shape')
    for (const [k, { island, found }] of matched.entries()) {
      context.throwIfCancelled();
      context.progress(0.5 + k / matched.length / 2, 'Drawing borders onto the outline');
      if (found.piece < 0) continue;
      const shaped = shapeTo(next, island, outline.pieces[found.piece]!, outline, context);
      if (!shaped) continue;
      next = withSet(next, island.part.id, shaped.set);
      report[k] = { ...report[k]!, error: shaped.error, shaped };
    }
  const placed = matched.map(({ island }) => island);
  const done = { ...(lock ? withLocks(next, withMates(job, placed), 1) : next), selection: job.selection };
  const taken = new Set(fits.flatMap((found) => (found && found.piece >= 0 ? [found.piece] : [])));
  return {
    job: done,
    report: {
      matched: report.map(({ part, letter, error, shaped }) => ({
        part,
        letter,
        error,
        ...(shaped ? { shaped: { before: shaped.before, after: shaped.after, isExact: shaped.isExact } } : {}),
      })),
      left: islands.flatMap(({ island }, k) => (fits[k] ? [] : [islandLetter(island.island)])),
      unused: fit === 'together' ? 0 : outline.pieces.length - taken.size,
    },
  };
}

/** One piece that fills the picture is no outline. */
const isWhole = ({ pieces, width, height }: AlphaOutline) => pieces.length === 1 && pieces[0]!.length === 1 && loopArea(pieces[0]![0]!) > 0.99 * width * height;

/** A similarity in px of the picture as an affine map of u and v. */
function inShares([a, b, e, f]: Similarity, width: number, height: number): UvAffine {
  return [a, (b * width) / height, (-b * height) / width, a, e / width, f / height];
}

/** The set with an island's border drawn onto a piece's outline; null where the island has triangles turned over. */
function shapeTo(job: Job, island: WholeIsland, piece: Loops, { width, height }: AlphaOutline, context: Context) {
  const part: Part = job.parts.find(({ id }) => id === island.part.id)!;
  // px of the picture are square here, whatever proportions the sheet has
  const aspect = width / height;
  const present = scaleU(activeSet(part), aspect);
  const faces = islandsOf(island.part.mesh, island.set);
  const first = faces.faces[faces.start[island.island]!]!;
  const number = islandsOf(part.mesh, present).ofFace[first]!;
  const own = islandsOf(part.mesh, present);
  const set = separateFans(part.mesh, present, own.faces.subarray(own.start[number]!, own.start[number + 1]!));
  const taken = pieceOf(part.mesh, set, islandsOf(part.mesh, set).ofFace[first]!);
  const { start, scale, mirror } = presentOf(taken, set);
  const prepared = prepare(taken.positions, taken.triangles);
  if (!Number.isFinite(stretchEnergy(prepared, start))) return null;
  const lines = piece.map((loop) => {
    const line = loop.map((x) => (x / height) * scale);
    if (mirror > 0) return line;
    // seen from the other side it runs the other way
    const n = line.length / 2;
    return Float64Array.from({ length: line.length }, (_, k) => (k % 2 === 0 ? -line[(n - 1 - (k >> 1)) * 2]! : line[(n - 1 - (k >> 1)) * 2 + 1]!));
  });
  const pinned = Array.from(taken.uvPoint).flatMap((p, v) => (set.pins[p] ? [v] : []));
  const fitted = borderFit(prepared, start, lines, {
    pinned,
    check: () => context.throwIfCancelled(),
  });
  const uv = set.uv.slice();
  taken.uvPoint.forEach((p, v) => {
    uv[p * 2] = (fitted.uv[v * 2]! / scale) * mirror;
    uv[p * 2 + 1] = fitted.uv[v * 2 + 1]! / scale;
  });
  return {
    set: passRanks(activeSet(part), scaleU({ ...set, uv }, 1 / aspect)),
    error: (fitted.mean / scale) * height,
    before: fitted.before,
    after: fitted.after,
    isExact: fitted.isExact,
  };
}

import { quietContext, type Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { leastDistance } from './clearance.ts';
import { boxOfLoops, doubleArea, outlinesOf, type Loop } from './outline.ts';
import { packLayout, packRows, Unfinished } from './pack.ts';
import { hasPackKernel } from './packKernel.ts';
import type { PackOptions, PackReport } from './packing.ts';
import { mostForSampledFirst, mostForSearch, mostRounds, mostWithObstacles, searchLayout, settleLayout } from './search.ts';
import type { Placed, SearchField, SearchPiece } from './searchField.ts';
import { bestFit, uprightTurn } from './upright.ts';
import * as portable from '../numeric/portable.ts';

/** UV points of each island. O(corners). */
function pointsOf(mesh: Mesh, set: UvSet): Uint32Array[] {
  const islands = islandsOf(mesh, set);
  const takenBy = new Int32Array(set.uv.length / 2).fill(-1);
  const out: number[][] = Array.from({ length: islands.count }, () => []);
  for (let f = 0; f < islands.ofFace.length; f++) {
    const i = islands.ofFace[f]!;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const id = set.cornerUv[c]!;
      if (takenBy[id] === i) continue;
      takenBy[id] = i;
      out[i]!.push(id);
    }
  }
  return out.map((list) => Uint32Array.from(list));
}

/** The layout with islands turned, each about the middle of its points. @param turns radians by island */
function withTurns(mesh: Mesh, set: UvSet, width: number, height: number, turns: ReadonlyMap<number, number>): UvSet {
  if (turns.size === 0) return set;
  const points = pointsOf(mesh, set);
  const uv = set.uv.slice();
  for (const [i, turn] of turns) {
    const cos = portable.cos(turn);
    const sin = portable.sin(turn);
    let [mx, my] = [0, 0];
    for (const id of points[i]!) {
      mx += (set.uv[id * 2]! * width) / points[i]!.length;
      my += (set.uv[id * 2 + 1]! * height) / points[i]!.length;
    }
    for (const id of points[i]!) {
      const x = set.uv[id * 2]! * width - mx;
      const y = set.uv[id * 2 + 1]! * height - my;
      uv[id * 2] = (mx + x * cos - y * sin) / width;
      uv[id * 2 + 1] = (my + x * sin + y * cos) / height;
    }
  }
  return { ...set, uv };
}

/** The layout with islands mirrored from left to right, each about the middle of its points. */
function withMirrored(mesh: Mesh, set: UvSet, islands: readonly number[]): UvSet {
  if (islands.length === 0) return set;
  const points = pointsOf(mesh, set);
  const uv = set.uv.slice();
  for (const i of islands) {
    const middle = points[i]!.reduce((sum, id) => sum + set.uv[id * 2]!, 0) / points[i]!.length;
    for (const id of points[i]!) uv[id * 2] = 2 * middle - set.uv[id * 2]!;
  }
  return { ...set, uv };
}

/** The layout with islands turned upright. @returns how many were turned */
export function laidUpright(mesh: Mesh, set: UvSet, width: number, height: number, islands: readonly number[]): { set: UvSet; turned: number } {
  const outlines = outlinesOf(mesh, set, width, height);
  const turns = new Map<number, number>();
  for (const i of islands) {
    const turn = outlines[i]!.length > 0 ? uprightTurn(outlines[i]!) : 0;
    if (Math.abs(turn) >= 1e-6) turns.set(i, turn);
  }
  return { set: withTurns(mesh, set, width, height, turns), turned: turns.size };
}

/** An island within this of filling the sheet one way sets the scale of all. */
const fillsFrom = 0.8;

/**
 * Islands so long that they set the scale of a layout, turned to the angle at which they leave the most: along the diagonal, as a rule. Null where there is
 * none that may be turned so.
 */
function laidAlongDiagonal(mesh: Mesh, set: UvSet, islands: readonly number[], scale: number, options: PackOptions): UvSet | null {
  const { width, height, borderGap } = options;
  const [roomX, roomY] = [width - 2 * borderGap, height - 2 * borderGap];
  const outlines = outlinesOf(mesh, set, width, height);
  const turns = new Map<number, number>();
  for (const i of islands) {
    if (outlines[i]!.length === 0 || (options.turnOf?.[i] ?? options.turn) !== 'free') continue;
    const upright = bestFit(outlines[i]!, roomX, roomY, 'quarter').scale;
    if (scale < upright * fillsFrom) continue;
    const free = bestFit(outlines[i]!, roomX, roomY, 'free');
    if (free.scale > upright * 1.02) turns.set(i, free.angle);
  }
  return turns.size > 0 ? withTurns(mesh, set, width, height, turns) : null;
}

/** What is made, or null where it was not waited for. */
function orNull<T>(make: () => T): T | null {
  try {
    return make();
  } catch (error) {
    if (error instanceof Unfinished) return null;
    throw error;
  }
}

/** Some islands have long borders for their size: a raster on which more than this share of them would be lost is too coarse for a first layout. */
const mostLoss = 0.15;

/** By how much larger islands seem on a raster of so many cells along the sheet's side, as a share of their area, where they cover seven tenths of it. O(points). */
function lossOnRaster(outlines: readonly (readonly Loop[])[], islands: readonly number[], cells: number): number {
  let [area, border] = [0, 0];
  for (const loop of islands.flatMap((i) => outlines[i]!)) {
    area += doubleArea(loop) / 2;
    for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) border += Math.hypot(loop[k]! - loop[j]!, loop[k + 1]! - loop[j + 1]!);
  }
  // a cell is taken where its border is touched: half a cell along it, at the scale at which the area is 0.7
  return area > 0 ? (border * 0.5) / cells / Math.sqrt(0.7 * area) : 0;
}

/** Of more islands than this rows of boxes are shown first. */
const fewIslands = 64;
/** Work of the raster (`PackOptions.mostWork`) that a first layout of many islands may take: some 3 s. Sets of real charts take a tenth of it. */
const mostWork = 2e8;

const turnsOf = { none: 1, half: 2, quarter: 4, eighth: 8, free: 4 } as const;

/** What is told of a layout that is better than those before it; what costs something is made when it is asked for. */
export interface BetterLayout {
  coverage: number;
  /** Common factor on all sizes. */
  scale: number;
  uv(): Float64Array;
  /** Whether it keeps all gaps, measured between the outlines. */
  isClear(): boolean;
}

export interface SearchControl {
  /** Told of each better layout, the first one among them. */
  better?(found: BetterLayout): void;
  /** True once the best so far is to be taken. */
  isStopped?(): boolean;
}

/**
 * The first layout (`packLayout`), then a search for a tighter one: as many rounds as the effort says, or until the seconds are over. Islands keep to their
 * outlines, gaps and turns as asked.
 * @throws JigError `does-not-fit` where the islands do not fit at the scale they have to keep, or no scale fits
 */
export function packBest(
  mesh: Mesh,
  given: UvSet,
  options: PackOptions,
  context: Context = quietContext,
  control: SearchControl = {},
): { set: UvSet; report: PackReport } {
  const { width, height, effort = 0, seconds } = options;
  const begun = performance.now();
  const facts = islandFacts(mesh, given);
  const wanted = (options.islands ?? facts.map((_, i) => i)).filter((i) => facts[i] && !facts[i].unplaced);
  const upright = (options.upright ?? []).filter((i) => wanted.includes(i));
  const { turned, ...laid } = upright.length > 0 ? laidUpright(mesh, given, width, height, upright) : { set: given, turned: 0 };
  let { set } = laid;
  const moving = new Set(wanted);
  const isWanted = (effort > 0 || seconds !== undefined) && wanted.length > 0;
  // of a sheet's tiles the islands on others are in no one's way
  const obstacles =
    isWanted && wanted.length <= mostForSearch
      ? outlinesOf(mesh, given, width, height).filter((loops, i) => !moving.has(i) && loops.length > 0 && isOnSheet(loops, width, height))
      : [];
  const isTooMany = wanted.length > mostForSearch || wanted.length + obstacles.length > mostWithObstacles;
  const searches = isWanted && !isTooMany && hasPackKernel();
  const isMany = wanted.length > mostForSampledFirst;
  const roughCells = wanted.length > fewIslands ? 1024 : 512;
  let first: { set: UvSet; report: PackReport } | null = null;
  let failure: JigError | null = null;
  const isOver = () => (control.isStopped?.() ?? false) || (seconds !== undefined && performance.now() - begun > seconds * 1000);
  // long and narrow islands take the raster many seconds: boxes in rows are there at once, to be looked at and to be had
  const rows = isWanted && wanted.length > fewIslands && !options.keepScale ? packRows(mesh, set, options) : null;
  if (rows) control.better?.({ coverage: rows.report.coverage, scale: rows.report.scale, uv: () => rows.set.uv, isClear: () => true });
  let toldScale = rows?.report.scale ?? 0;
  // the raster takes seconds where islands are many, or ragged: what fits on its way is shown
  const tell = (scale: number, layout: () => { set: UvSet; report: PackReport }) => {
    if (scale <= toldScale || !isWanted || options.keepScale) return;
    toldScale = scale;
    const { set: laid, report } = layout();
    control.better?.({ coverage: report.coverage, scale, uv: () => laid.uv, isClear: () => true });
  };
  const untilOver: Context = {
    progress: (share, what) => context.progress(share, what),
    throwIfCancelled: () => {
      context.throwIfCancelled();
      if ((rows || toldScale > 0) && isOver()) throw new Unfinished();
    },
  };
  try {
    // too many to be searched: then a finer raster has to do
    const finest = effort >= 4 ? 4096 : effort >= 2 ? 3072 : 2048;
    const resolution = searches ? roughCells : effort > 0 && isTooMany ? finest : undefined;
    const withResolution = { ...options, ...(resolution ? { resolution } : {}) };
    const byRaster = (from: UvSet) => {
      if (!searches || !rows) return packLayout(mesh, from, withResolution, untilOver, tell);
      const isFine = isMany || lossOnRaster(outlinesOf(mesh, from, width, height), wanted, 512) > mostLoss;
      for (const fine of isFine ? [2048, 1024] : [512]) {
        const found = orNull(() => packLayout(mesh, from, { ...options, resolution: fine, mostWork }, untilOver, tell));
        if (found || isOver()) return found;
      }
      return null;
    };
    const rastered = byRaster(set);
    // what takes the raster too long goes on from rows
    first = rastered && rows && rows.report.scale > rastered.report.scale ? rows : (rastered ?? rows)!;
    const diagonal = options.keepScale ? null : laidAlongDiagonal(mesh, set, wanted, first.report.scale, options);
    const other = diagonal && byRaster(diagonal);
    if (other && other.report.scale > first.report.scale) [first, set] = [other, diagonal];
    // the search goes on with the islands mirrored as the first layout has them
    set = withMirrored(mesh, set, first.report.mirroredIslands ?? []);
  } catch (error) {
    const kept = first ?? rows;
    if (error instanceof Unfinished && kept) return { set: kept.set, report: { ...kept.report, turned } };
    if (!(error instanceof JigError) || error.code !== 'does-not-fit' || !searches || !options.keepScale) throw error;
    failure = error;
  }
  // at a scale that is kept there is nothing to search for but room for what is left over
  const isLeft = (first?.report.left?.length ?? 0) > 0;
  if (first && (!searches || (options.keepScale && !isLeft))) return { set: first.set, report: { ...first.report, turned } };
  const outlines = outlinesOf(mesh, set, width, height);
  // what has no outline takes no room: it stays where the first layout put it
  const islands = wanted.filter((i) => outlines[i]!.length > 0);
  if (islands.length === 0 && first) return { set: first.set, report: { ...first.report, turned } };
  const field: SearchField = {
    width,
    height,
    gap: options.gap,
    borderGap: options.borderGap,
    obstacles,
  };
  const pieces: SearchPiece[] = [];
  const origin: [number, number][] = [];
  let area = 0;
  const inBlock = new Map((options.together ?? []).flatMap((group) => group.map((i) => [i, group] as const)));
  const blocks: (readonly number[])[] = [];
  for (const i of islands) {
    const group = inBlock.get(i);
    if (!group) blocks.push([i]);
    else if (!blocks.some((block) => block.includes(i))) blocks.push(group.filter((one) => islands.includes(one)));
  }
  for (const block of blocks) {
    const i = block[0]!;
    const own = block.flatMap((one) => outlines[one]!);
    const loops = block.length > 1 ? [boxRound(own)] : own;
    const [x, y] = middleOf(loops);
    origin.push([x, y]);
    area += own.reduce((sum, loop) => sum + doubleArea(loop) / 2, 0);
    const turn = options.turnOf?.[i] ?? options.turn;
    pieces.push({ loops: loops.map((loop) => loop.map((v, k) => v - (k % 2 === 0 ? x : y))), turns: turnsOf[turn], isFree: turn === 'free' });
  }
  const points = pointsOf(mesh, set);
  const layout = (placed: Placed): Float64Array => {
    const uv = (first?.set.uv ?? set.uv).slice();
    blocks.forEach((block, k) => {
      const quarters = Math.round((placed.angle[k]! * 2) / Math.PI);
      const isWhole = Math.abs((placed.angle[k]! * 2) / Math.PI - quarters) < 1e-12;
      const cos = placed.scale * (isWhole ? [1, 0, -1, 0][quarters & 3]! : portable.cos(placed.angle[k]!));
      const sin = placed.scale * (isWhole ? [0, 1, 0, -1][quarters & 3]! : portable.sin(placed.angle[k]!));
      for (const id of block.flatMap((i) => [...points[i]!])) {
        const x = set.uv[id * 2]! * width - origin[k]![0];
        const y = set.uv[id * 2 + 1]! * height - origin[k]![1];
        uv[id * 2] = (placed.x[k]! + x * cos - y * sin) / width;
        uv[id * 2 + 1] = (placed.y[k]! + x * sin + y * cos) / height;
      }
    });
    return uv;
  };
  const coverageAt = (scale: number) => (area * scale * scale) / (width * height);
  const startOf = (laid: { set: UvSet; report: PackReport }) =>
    startFrom(
      set,
      laid.set,
      blocks.map((block) => block[0]!),
      points,
      origin,
      width,
      height,
      laid.report.scale,
    );
  const start = first ? startOf(first) : scattered(pieces, field, options.seed ?? 1);
  const searchOptions = {
    seed: options.seed ?? 1,
    rounds: seconds !== undefined ? mostRounds : effort,
    isStopped: () => {
      context.throwIfCancelled();
      return isOver();
    },
    better: (placed: Placed) =>
      control.better?.({
        coverage: coverageAt(placed.scale),
        scale: placed.scale,
        uv: () => layout(placed),
        isClear: () => isClear(mesh, { ...set, uv: layout(placed) }, moving, options, inBlock),
      }),
    progress: (share: number) => context.progress(Math.min(0.99, share), 'Packing'),
  };
  /** A layout of all at the size that they have: packed smaller, and searched until they have grown to it. */
  const grownToScale = (): Placed | null => {
    let smaller: { set: UvSet; report: PackReport };
    try {
      smaller = packLayout(mesh, set, { ...options, mirror: [], keepScale: false, leavesRest: false, resolution: roughCells }, context);
    } catch (error) {
      if (error instanceof JigError && error.code === 'does-not-fit') return null;
      throw error;
    }
    let found = startOf(smaller);
    if (found.scale < 1)
      found = searchLayout(field, pieces, found, {
        ...searchOptions,
        isStopped: () => searchOptions.isStopped() || found.scale >= 1,
        better: (placed) => {
          found = placed;
        },
      });
    if (found.scale < 1) return null;
    // what stands in another one's bay may come nearer by that
    const exact = { ...found, scale: 1 };
    return isClear(mesh, { ...set, uv: layout(exact) }, moving, options, inBlock) ? exact : settleLayout(field, pieces, exact, searchOptions);
  };
  if (options.keepScale) {
    // what stands in the way takes room, too
    const taken = obstacles.reduce(
      (sum, loops) => sum + (isWithinSheet(loops, width, height) ? loops.reduce((all, loop) => all + doubleArea(loop) / 2, 0) : 0),
      0,
    );
    const settled = coverageAt(1) > 1 - taken / (width * height) ? null : (settleLayout(field, pieces, start, searchOptions) ?? grownToScale());
    if (!settled || !isClear(mesh, { ...set, uv: layout(settled) }, moving, options, inBlock)) {
      if (failure) throw failure;
      return { set: first!.set, report: { ...first!.report, turned } };
    }
    return {
      set: { ...set, uv: layout(settled) },
      report: { packed: islands.length, skipped: facts.length - wanted.length, scale: 1, coverage: coverageAt(1), tries: 1, turned },
    };
  }
  if (first && first !== rows) {
    const { set: laid, report } = first;
    control.better?.({ coverage: report.coverage, scale: report.scale, uv: () => laid.uv, isClear: () => true });
  }
  let best = searchLayout(
    field,
    pieces,
    start,
    isMany ? { ...searchOptions, rounds: 1, progress: (share) => context.progress(share * 0.2, 'Packing') } : searchOptions,
  );
  if (isMany && searchOptions.rounds > 1 && !searchOptions.isStopped()) {
    // of many pieces the first layout decides: with time at hand a finer one is made, and searched on from there
    const finer = orNull(() => packLayout(mesh, set, { ...options, mirror: [], resolution: 4096, mostWork: 3 * mostWork }, untilOver));
    const onward =
      finer &&
      searchLayout(field, pieces, startOf(finer), {
        ...searchOptions,
        rounds: searchOptions.rounds - 1,
        progress: (share) => context.progress(0.2 + Math.min(0.79, share * 0.8), 'Packing'),
        better: (placed) => placed.scale > best.scale && searchOptions.better(placed),
      });
    if (onward && onward.scale > best.scale) best = onward;
  }
  // what the search takes for clear is looked at again by other means: a layout that breaks a gap is never handed over
  if (best !== start && !isClear(mesh, { ...set, uv: layout(best) }, moving, options, inBlock))
    return { set: first!.set, report: { ...first!.report, turned } };
  if (best === start) return { set: first!.set, report: { ...first!.report, turned } };
  return { set: { ...set, uv: layout(best) }, report: { ...first!.report, scale: best.scale, coverage: coverageAt(best.scale), turned } };
}

/** Whether all islands that were packed keep the gap to one another, to those that stay, and to the border, measured between their outlines. */
function isClear(
  mesh: Mesh,
  set: UvSet,
  packed: ReadonlySet<number>,
  { width, height, gap, borderGap }: PackOptions,
  inBlock: ReadonlyMap<number, readonly number[]>,
): boolean {
  const outlines = outlinesOf(mesh, set, width, height);
  const slack = 1e-5;
  for (const i of packed)
    for (const loop of outlines[i]!)
      for (let k = 0; k < loop.length; k += 2) if (Math.min(loop[k]!, width - loop[k]!, loop[k + 1]!, height - loop[k + 1]!) < borderGap - slack) return false;
  return (
    leastDistance(outlines, gap + slack, (i, j) => (!packed.has(i) && !packed.has(j)) || (inBlock.has(i) && inBlock.get(i) === inBlock.get(j))) >= gap - slack
  );
}

/** The box round some outlines, as an outline. */
function boxRound(loops: readonly Loop[]): Loop {
  const [minX, minY, maxX, maxY] = boxOfLoops(loops);
  return Float64Array.from([minX, minY, maxX, minY, maxX, maxY, minX, maxY]);
}

const middleOf = (loops: readonly Loop[]): [number, number] => {
  let [x, y, count] = [0, 0, 0];
  for (const loop of loops) {
    for (let k = 0; k < loop.length; k += 2) {
      x += loop[k]!;
      y += loop[k + 1]!;
      count++;
    }
  }
  return [x / count, y / count];
};

const isOnSheet = (loops: readonly Loop[], width: number, height: number) => {
  const [minX, minY, maxX, maxY] = boxOfLoops(loops);
  return maxX > -width && minX < 2 * width && maxY > -height && minY < 2 * height;
};

const isWithinSheet = (loops: readonly Loop[], width: number, height: number) => {
  const [minX, minY, maxX, maxY] = boxOfLoops(loops);
  return minX >= 0 && maxX <= width && minY >= 0 && maxY <= height;
};

/** Where the first layout put the islands, as turns and places of their middles. */
function startFrom(
  set: UvSet,
  laid: UvSet,
  islands: readonly number[],
  points: readonly Uint32Array[],
  origin: readonly [number, number][],
  width: number,
  height: number,
  scale: number,
): Placed {
  const n = islands.length;
  const out: Placed = { scale, x: new Float64Array(n), y: new Float64Array(n), angle: new Float64Array(n) };
  islands.forEach((i, k) => {
    // the turn from the two points that are furthest from each other in a row: the first, and the one furthest from it
    const own = points[i]!;
    const at = (uv: Float64Array, id: number): [number, number] => [uv[id * 2]! * width, uv[id * 2 + 1]! * height];
    const a = own[0]!;
    const [ax, ay] = at(set.uv, a);
    let [b, away] = [a, -1];
    for (const id of own) {
      const [x, y] = at(set.uv, id);
      const d = (x - ax) ** 2 + (y - ay) ** 2;
      if (d > away) [b, away] = [id, d];
    }
    const [bx, by] = at(set.uv, b);
    const [cx, cy] = at(laid.uv, a);
    const [dx, dy] = at(laid.uv, b);
    const turn = portable.atan2(dy - cy, dx - cx) - portable.atan2(by - ay, bx - ax);
    // the first layout turns by quarters only
    const quarters = Math.round((turn * 2) / Math.PI) & 3;
    const [cos, sin] = [[1, 0, -1, 0][quarters]! * scale, [0, 1, 0, -1][quarters]! * scale];
    out.angle[k] = (quarters * Math.PI) / 2;
    const [ox, oy] = [origin[k]![0] - ax, origin[k]![1] - ay];
    out.x[k] = cx + ox * cos - oy * sin;
    out.y[k] = cy + ox * sin + oy * cos;
  });
  return out;
}

/** A start where the first layout found none: spread over the sheet as they come. */
function scattered(pieces: readonly SearchPiece[], field: SearchField, seed: number): Placed {
  const n = pieces.length;
  const columns = Math.ceil(Math.sqrt((n * field.width) / field.height));
  const rows = Math.ceil(n / columns);
  const out: Placed = { scale: 1, x: new Float64Array(n), y: new Float64Array(n), angle: new Float64Array(n) };
  for (let k = 0; k < n; k++) {
    out.x[k] = (((k + seed) % columns) + 0.5) * (field.width / columns);
    out.y[k] = (Math.floor(k / columns) + 0.5) * (field.height / rows);
  }
  return out;
}

import { quietContext, type Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { cellsOf } from './fastCells.ts';
import type { Cells } from './takenCells.ts';
import type { PackOptions, PackReport, PackTurn } from './packing.ts';
import { packShelves } from './shelves.ts';
import { outlinesOf } from './outline.ts';
import { grow, mirrorRaster, rasterise, rasteriseOutline, shapeFrom, turnRaster, type Shape } from './shape.ts';

/** What an item takes, px, the corner of its box at the origin. */
interface ItemShape {
  /** Its borders: 2 numbers a point. */
  loops: readonly Float64Array[];
  /** 6 numbers a triangle, instead of the borders; or null. */
  triangles: Float64Array | null;
}

interface Item {
  island: number;
  /** All islands that move with it, that one among them. */
  islands: readonly number[];
  /** Made when it is asked for: an island that is alone needs its box only. */
  shape(): ItemShape;
  minX: number;
  minY: number;
  width: number;
  height: number;
  area: number;
  uvPoints: Uint32Array;
}

/** In cells of the raster; whole ones where a search found them. */
interface Placement {
  x: number;
  y: number;
  turns: number;
  /** Mirrored from left to right before it is turned. */
  isMirrored?: boolean;
}

/** Ends a layout by raster that is not to be waited for. */
export class Unfinished extends Error {}

/** What is to be packed, the largest first, and what stays where it is. @throws JigError where there is nothing to pack, or no room on the sheet */
function itemsOf(mesh: Mesh, set: UvSet, options: PackOptions): { items: Item[]; fixed: Item[]; skipped: number } {
  const { width, height } = options;
  const facts = islandFacts(mesh, set);
  const wanted = new Set(options.islands ?? facts.map((_, i) => i));
  const placedItems = asBlocks(
    collect(mesh, set, width, height, (i) => !facts[i]!.unplaced),
    options.together ?? [],
  );
  const items = placedItems
    .filter((item) => wanted.has(item.island))
    .sort((a, b) => Math.max(b.width, b.height) - Math.max(a.width, a.height) || b.area - a.area);
  const fixed = placedItems.filter((item) => !wanted.has(item.island));
  const skipped = [...wanted].filter((i) => facts[i]?.unplaced).length;
  if (items.length === 0) {
    throw new JigError('nothing-to-do', skipped > 0 ? 'The islands have no shape yet.' : 'There is no island to pack.', '', 'Unwrap first.');
  }
  if (width - 2 * options.borderGap < 1 || height - 2 * options.borderGap < 1) {
    throw new JigError(
      'does-not-fit',
      `A margin of ${options.borderGap} px leaves no room on a sheet of ${width} × ${height} px.`,
      '',
      'Use a smaller margin.',
    );
  }
  return { items, fixed, skipped };
}

/**
 * Places islands by their real outlines on a raster of the sheet. Every cell that an island touches is its own, and the cells nearer than
 * the gap stay free of others, so the gap is kept exactly (never less) and nothing overlaps. Islands go in from large to small, each to
 * the lowest place where it fits, holes and bays included; the common scale is searched by halving.
 *
 * @param told of each larger scale at which they fit
 * @throws JigError `does-not-fit` if the islands do not fit at the scale they have to keep, or no scale fits; `Unfinished` where it takes more than
 * `options.mostWork` and none was found until then
 * O(tries · islands · turns · rows of the sheet · words a row) at worst; a full row is given up after one or two tests. More than
 * `manyIslands` that all are to be placed on an empty sheet go in rows by their boxes instead, O(islands · log islands).
 */
export function packLayout(
  mesh: Mesh,
  set: UvSet,
  options: PackOptions,
  context: Context = quietContext,
  told: (scale: number, layout: () => { set: UvSet; report: PackReport }) => void = () => {},
): { set: UvSet; report: PackReport } {
  const { width, height, turn, keepScale, resolution = 1024, mostWork = Infinity } = options;
  const { items, fixed, skipped } = itemsOf(mesh, set, options);
  const turns = turnsFor(turn);
  const mirror = new Set(options.mirror);
  let tries = 0;
  const attemptAt = (cells: number) => {
    const cell = Math.max(width, height) / cells;
    const columns = Math.floor(width / cell + 1e-9);
    const rows = Math.floor(height / cell + 1e-9);
    const gapCells = options.gap / cell;
    const border = Math.ceil(options.borderGap / cell - 1e-9);
    // where the gap is larger than the border gap, what surrounds an island may reach beyond the sheet: then the raster does too
    const pad = Math.max(0, Math.ceil(gapCells) - border);
    let floor: Cells | undefined;
    return (scale: number) => {
      tries++;
      const grid = {
        scale,
        cell,
        gapCells,
        border,
        pad,
        turns,
        turnsOf: (island: number) => (options.turnOf?.[island] ? turnsFor(options.turnOf[island]) : turns),
        mayMirror: (item: Item) => item.islands.length === 1 && mirror.has(item.island),
      };
      if (floor) floor.clear();
      else floor = cellsOf(columns + 2 * pad, rows + 2 * pad);
      return placeAll(items, fixed, floor, { grid, mostWork, leavesRest: keepScale && (options.leavesRest ?? false) }, context);
    };
  };
  const attempt = attemptAt(resolution);
  let cell = Math.max(width, height) / resolution;

  let scale = 1;
  let placements: (Placement | null)[] | null;
  if (keepScale) {
    placements = attempt(1);
    if (!placements)
      throw new JigError(
        'does-not-fit',
        'The islands do not fit on the sheet at the size they have.',
        '',
        'Use a larger sheet, a smaller margin, or let the size change.',
      );
  } else {
    const bound = largestBound(items, options);
    const alone = fixed.length === 0 && items.length === 1 ? onlyOne(items[0]!, turns, cell, options) : null;
    const rows = fixed.length === 0 && items.length > ((options.effort ?? 0) > 0 ? tooManyIslands : manyIslands) ? inRows(items, cell, bound, options) : null;
    const coarseCells = Math.ceil(resolution / 3);
    const coarseCell = Math.max(width, height) / coarseCells;
    const tell = ({ scale, placements, isCoarse }: Fitting) =>
      told(scale, () => laidOut(set, items, placements, { scale, cell: isCoarse ? coarseCell : cell, skipped, tries }, options));
    const found = alone ?? rows ?? largestScale(attemptAt(coarseCells), attempt, bound, context, tell);
    if (!found)
      throw new JigError(
        'does-not-fit',
        `${items.length} islands with ${options.gap} px between them do not fit on ${width} × ${height} px.`,
        '',
        'Use a larger sheet or a smaller margin.',
      );
    ({ scale, placements } = found);
    if ('isCoarse' in found && found.isCoarse) cell = coarseCell;
  }

  return laidOut(set, items, placements!, { scale, cell, skipped, tries }, options);
}

/**
 * A layout that is there at once, whatever the islands are: boxes in rows, none turned. Null where islands that stay are in the way, or no scale fits.
 * O(corners + islands · log islands).
 * @throws JigError `nothing-to-do` where there is no island, `does-not-fit` where the margin leaves no room
 */
export function packRows(mesh: Mesh, set: UvSet, options: PackOptions): { set: UvSet; report: PackReport } | null {
  const { items, fixed, skipped } = itemsOf(mesh, set, options);
  const found = fixed.length === 0 ? inRows(items, 1, largestBound(items, options), options) : null;
  return found && laidOut(set, items, found.placements, { scale: found.scale, cell: 1, skipped, tries: 1 }, options);
}

/** No larger scale can fit: by the room of the sheet, and its longer side. */
function largestBound(items: readonly Item[], { width, height, borderGap }: PackOptions): number {
  const room = (width - 2 * borderGap) * (height - 2 * borderGap);
  const area = items.reduce((sum, item) => sum + item.area, 0);
  const largest = items.reduce((most, item) => Math.max(most, Math.min(item.width, item.height)), 0);
  const bound = Math.min(area > 0 ? Math.sqrt(room / area) : Infinity, largest > 0 ? Math.max(width, height) / largest : Infinity);
  return Number.isFinite(bound) ? bound : 1;
}

/** The set with the items where they were placed, and what is to be told of that. */
function laidOut(
  set: UvSet,
  items: readonly Item[],
  placements: readonly (Placement | null)[],
  { scale, cell, skipped, tries }: { scale: number; cell: number; skipped: number; tries: number },
  { width, height }: PackOptions,
): { set: UvSet; report: PackReport } {
  const uv = set.uv.slice();
  let covered = 0;
  const left: number[] = [];
  const mirrored: number[] = [];
  items.forEach((item, k) => {
    const place = placements[k];
    if (!place) {
      left.push(...item.islands);
      return;
    }
    covered += item.area * scale * scale;
    if (place.isMirrored) mirrored.push(item.island);
    moveTo(item, place, scale, cell, width, height, uv);
  });
  const packed = items.reduce((sum, item) => sum + item.islands.length, 0) - left.length;
  const report = { packed, skipped, scale, coverage: covered / (width * height), tries };
  return { set: { ...set, uv }, report: { ...report, ...(mirrored.length > 0 ? { mirroredIslands: mirrored } : {}), ...(left.length > 0 ? { left } : {}) } };
}
/** Quarter turns in the order in which they are tried. */
const turnsFor = (turn: PackTurn) => (turn === 'none' ? [0] : turn === 'half' ? [0, 2] : [0, 2, 1, 3]);

/** From so many islands on boxes in rows serve: real outlines would take minutes. */
const manyIslands = 3000;
/** The same where an effort is asked for. */
const tooManyIslands = 20_000;

/** The one island there is, as large as it can be. Null where it has no width or no height. */
function onlyOne(item: Item, turns: number[], cell: number, { width, height, borderGap }: PackOptions) {
  if (!(item.width > 0 && item.height > 0)) return null;
  const scaleOf = (w: number, h: number) => Math.min((width - 2 * borderGap) / w, (height - 2 * borderGap) / h);
  const upright = scaleOf(item.width, item.height);
  const turned = turns.includes(1) ? scaleOf(item.height, item.width) : 0;
  const at = borderGap / cell;
  if (turned <= upright * 1.001) return { scale: upright, placements: [{ x: at, y: at, turns: 0 }] };
  // a quarter turn puts it against the far side of whole cells
  const cells = Math.floor((item.height * turned) / cell) + 1;
  return { scale: turned, placements: [{ x: at - (cells - (item.height * turned) / cell), y: at, turns: 1 }] };
}

function inRows(items: Item[], cell: number, bound: number, { width, height, gap, borderGap }: PackOptions) {
  const found = packShelves(items, { width: width - 2 * borderGap, height: height - 2 * borderGap }, gap, bound);
  if (!found) return null;
  const at = (k: number) => (borderGap + found.places[k]!) / cell;
  return { scale: found.scale, placements: items.map((_, k) => ({ x: at(k * 2), y: at(k * 2 + 1), turns: 0 })) };
}

type Attempt = (scale: number) => (Placement | null)[] | null;

interface Fitting {
  scale: number;
  placements: (Placement | null)[];
  /** Whether it is on the coarse raster. */
  isCoarse: boolean;
}

/**
 * The largest scale that fits, to within about one percent: bracketed on a raster of a third of the resolution, which errs to the
 * small side, then raised on the full one, in steps that grow where many succeed. Where it is to be left off (`Unfinished`), the best so far.
 */
function largestScale(coarse: Attempt, fine: Attempt, bound: number, context: Context, told: (found: Fitting) => void): Fitting | null {
  let high = bound;
  let low = bound * 0.75;
  let shrink = 0.85;
  let step = 0;
  let best: Fitting | null = null;
  const found = (attempt: Attempt, scale: number): boolean => {
    const placements = attempt(scale);
    if (!placements) return false;
    best = { scale, placements, isCoarse: attempt === coarse };
    told(best);
    return true;
  };
  const report = () => {
    context.progress(Math.min(0.95, 0.1 * ++step), 'Packing');
    context.throwIfCancelled();
  };
  try {
    while (!found(coarse, low)) {
      report();
      high = low;
      low *= shrink;
      shrink *= 0.92;
      if (low < bound * 1e-5) break;
    }
    while (high / low > 1.015) {
      report();
      const middle = (low + high) / 2;
      if (found(coarse, middle)) low = middle;
      else high = middle;
    }
    let scale = low * 1.025;
    for (let fall = 0.985; !found(fine, scale); fall *= 0.99) {
      report();
      scale *= fall;
      if (scale < bound * 1e-6) return null;
    }
    let rises = 0;
    for (let rise = 1.016; rise > 1.0065 && scale < bound;) {
      report();
      if (found(fine, scale * rise)) {
        scale *= rise;
        // the coarse raster was far off
        if (++rises >= 3) rise = 1 + (rise - 1) * 2;
      } else {
        rises = -Infinity;
        rise = 1 + (rise - 1) / 2.5;
      }
    }
  } catch (error) {
    if (!best || !(error instanceof Unfinished)) throw error;
  }
  return best;
}

interface Try {
  grid: Grid;
  /** Work of the raster after which it is given up, see `Unfinished`. */
  mostWork: number;
  /** Whether what finds no room is left over; else all is given up. */
  leavesRest: boolean;
}

interface Grid {
  scale: number;
  cell: number;
  gapCells: number;
  border: number;
  /** Cells of the raster beyond each side of the sheet. */
  pad: number;
  turns: number[];
  turnsOf(island: number): number[];
  mayMirror(item: Item): boolean;
}

function placeAll(items: Item[], fixed: Item[], floor: Cells, { grid, mostWork, leavesRest }: Try, context: Context): (Placement | null)[] | null {
  const { pad } = grid;
  const border = grid.border + pad;
  for (const item of fixed) {
    const x = Math.floor(item.minX / grid.cell);
    const y = Math.floor(item.minY / grid.cell);
    const shift: [number, number] = [item.minX / grid.cell - x, item.minY / grid.cell - y];
    const body = rasterOf(item, 1, grid.cell, shift);
    floor.take(shapeFrom(body, body, 0), x + pad, y + pad);
  }
  const placements: (Placement | null)[] = [];
  const from = new SizeClasses(items.length);
  for (const item of items) {
    context.throwIfCancelled();
    if (floor.work > mostWork) throw new Unfinished();
    const raster = rasterOf(item, grid.scale, grid.cell, [0, 0]);
    const { grown, reach } = grow(raster, grid.gapCells);
    const size = Math.max(raster.width, raster.height);
    const lowest = Math.max(border, from.of(size));
    let best: Placement | null = null;
    let bestTop = Infinity;
    let bestShape: Shape | null = null;
    const seen: Shape[] = [];
    for (const isMirrored of grid.mayMirror(item) ? [false, true] : [false]) {
      const asItIs = isMirrored ? mirrorRaster(raster) : raster;
      const grownAsItIs = isMirrored ? mirrorRaster(grown) : grown;
      let body = asItIs;
      let around = grownAsItIs;
      for (const turns of grid.turnsOf(item.island)) {
        // 0, 2, 1, 3: a half turn is cheap, a quarter turn goes bit by bit and is made once
        body = turns === 1 ? turnRaster(asItIs, 1) : turnRaster(body, turns === 0 ? 0 : 2);
        around = turns === 1 ? turnRaster(grownAsItIs, 1) : turnRaster(around, turns === 0 ? 0 : 2);
        const shape = shapeFrom(body, around, reach);
        if (seen.some((s) => sameShape(s, shape))) continue;
        seen.push(shape);
        const place = floor.lowestFit(shape, border, bestTop - shape.height, lowest);
        if (!place) continue;
        best = { ...place, turns, isMirrored };
        bestTop = place.y + shape.height;
        bestShape = shape;
      }
    }
    if (!best || !bestShape) {
      if (!leavesRest) return null;
      placements.push(null);
      continue;
    }
    floor.take(bestShape, best.x, best.y);
    from.placed(size, best.y);
    placements.push({ ...best, x: best.x - pad, y: best.y - pad });
  }
  return placements;
}

/**
 * Where to begin looking for room. Islands come in by size; where there are many, one that is about as large as those before it need not try
 * all the rows again in which they found none. Each step of a tenth in size looks from the bottom again, for the holes that are large enough now.
 * 2,000 islands at 1024 cells: 8.6 → 2.6 s.
 */
class SizeClasses {
  private readonly many: boolean;
  private size = Infinity;
  private row = 0;

  constructor(count: number) {
    this.many = count > 300;
  }

  of(size: number): number {
    if (!this.many || size < this.size * 0.9) {
      this.size = size;
      this.row = 0;
    }
    return this.row;
  }

  placed(size: number, y: number): void {
    if (this.many) this.row = Math.max(this.row, y - 2 * size);
  }
}

function sameShape(a: Shape, b: Shape): boolean {
  if (a.width !== b.width || a.height !== b.height || a.body.runs.length !== b.body.runs.length) return false;
  for (let k = 0; k < a.body.runs.length; k++) if (a.body.runs[k] !== b.body.runs[k]) return false;
  return true;
}

function rasterOf(item: Item, scale: number, cell: number, shift: [number, number]) {
  const factor = scale / cell;
  const cells = (points: Float64Array) => points.map((v, k) => v * factor + shift[k & 1]!);
  const columns = Math.floor(item.width * factor + shift[0]) + 1;
  const rows = Math.floor(item.height * factor + shift[1]) + 1;
  const { loops, triangles } = item.shape();
  return triangles ? rasterise(cells(triangles), columns, rows) : rasteriseOutline(loops.map(cells), columns, rows);
}

function collect(mesh: Mesh, set: UvSet, width: number, height: number, wanted: (island: number) => boolean): Item[] {
  const islands = islandsOf(mesh, set);
  const all = trianglesOf(mesh);
  const { uv, cornerUv } = set;
  const items: Item[] = [];
  /** The island that a UV point was taken for last. */
  const takenBy = new Int32Array(uv.length / 2).fill(-1);
  for (let i = 0; i < islands.count; i++) {
    if (!wanted(i)) continue;
    const faces = islands.faces.subarray(islands.start[i], islands.start[i + 1]);
    const points: number[] = [];
    let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
    /** Area (twice) of the triangles that are turned one way, and the other. */
    let [left, right] = [0, 0];
    let count = 0;
    for (const f of faces) {
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const id = cornerUv[c]!;
        if (takenBy[id] === i) continue;
        takenBy[id] = i;
        points.push(id);
        const x = uv[id * 2]! * width;
        const y = uv[id * 2 + 1]! * height;
        if (x < minX) minX = x;
        if (x > maxX) maxX = x;
        if (y < minY) minY = y;
        if (y > maxY) maxY = y;
      }
      for (let t = all.faceStart[f]!; t < all.faceStart[f + 1]!; t++) {
        const [a, b, c] = [cornerUv[all.corners[t * 3]!]! * 2, cornerUv[all.corners[t * 3 + 1]!]! * 2, cornerUv[all.corners[t * 3 + 2]!]! * 2];
        const double = ((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!)) * width * height;
        if (double > 0) left += double;
        else right -= double;
        count++;
      }
    }
    if (count === 0) continue;
    let shape: ItemShape | undefined;
    items.push({
      island: i,
      islands: [i],
      shape: () => (shape ??= shapeOf(mesh, set, width, height, { island: i, faces, minX, minY, isFolded: left > 0 && right > 0 })),
      minX,
      minY,
      width: maxX - minX,
      height: maxY - minY,
      area: (left + right) / 2,
      uvPoints: Uint32Array.from(points),
    });
  }
  return items;
}

/**
 * The outline of an island, the corner of its box at the origin; its triangles where the outline does not tell all that is taken: where some are turned over, or
 * where there is none.
 */
function shapeOf(
  mesh: Mesh,
  set: UvSet,
  width: number,
  height: number,
  { island, faces, minX, minY, isFolded }: { island: number; faces: Uint32Array; minX: number; minY: number; isFolded: boolean },
): ItemShape {
  const fromCorner = (points: Float64Array) => points.map((v, k) => v - (k & 1 ? minY : minX));
  const outline = isFolded ? [] : outlinesOf(mesh, set, width, height)[island]!;
  if (outline.length > 0) return { loops: outline.map(fromCorner), triangles: null };
  const all = trianglesOf(mesh);
  const triangles: number[] = [];
  for (const f of faces) {
    for (let k = all.faceStart[f]! * 3; k < all.faceStart[f + 1]! * 3; k++) {
      const id = set.cornerUv[all.corners[k]!]! * 2;
      triangles.push(set.uv[id]! * width, set.uv[id + 1]! * height);
    }
  }
  return { loops: [], triangles: fromCorner(Float64Array.from(triangles)) };
}

/** Islands that move as one become one item, the box round them. */
function asBlocks(items: Item[], together: readonly (readonly number[])[]): Item[] {
  if (together.length === 0) return items;
  const byIsland = new Map(items.map((item) => [item.island, item]));
  for (const group of together) {
    const own = group.map((i) => byIsland.get(i)).filter((item) => item !== undefined);
    if (own.length < 2) continue;
    const minX = Math.min(...own.map((item) => item.minX));
    const minY = Math.min(...own.map((item) => item.minY));
    const width = Math.max(...own.map((item) => item.minX + item.width)) - minX;
    const height = Math.max(...own.map((item) => item.minY + item.height)) - minY;
    for (const item of own) byIsland.delete(item.island);
    const points = Uint32Array.from(own.flatMap((item) => [...item.uvPoints]));
    byIsland.set(own[0]!.island, {
      island: own[0]!.island,
      islands: own.flatMap((item) => item.islands),
      // the whole of its box is its own: what is kept together is not to be mixed with others
      shape: () => ({ loops: [Float64Array.from([0, 0, width, 0, width, height, 0, height])], triangles: null }),
      minX,
      minY,
      width,
      height,
      area: own.reduce((sum, item) => sum + item.area, 0),
      uvPoints: points,
    });
  }
  return [...byIsland.values()];
}

function moveTo(item: Item, to: Placement, scale: number, cell: number, width: number, height: number, uv: Float64Array) {
  const bodyWidth = (Math.floor((item.width * scale) / cell) + 1) * cell;
  const bodyHeight = (Math.floor((item.height * scale) / cell) + 1) * cell;
  for (const id of item.uvPoints) {
    const own = (uv[id * 2]! * width - item.minX) * scale;
    const x = to.isMirrored ? bodyWidth - own : own;
    const y = (uv[id * 2 + 1]! * height - item.minY) * scale;
    const [tx, ty] = to.turns === 0 ? [x, y] : to.turns === 1 ? [bodyHeight - y, x] : to.turns === 2 ? [bodyWidth - x, bodyHeight - y] : [y, bodyWidth - x];
    uv[id * 2] = (to.x * cell + tx) / width;
    uv[id * 2 + 1] = (to.y * cell + ty) / height;
  }
}

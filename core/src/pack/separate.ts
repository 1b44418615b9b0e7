import { addresses } from './addresses.ts';
import { testPlaces } from './outline.ts';
import { packKernel, type PackKernel } from './packKernel.ts';
import * as portable from '../numeric/portable.ts';

/** Edges of a piece, 4 numbers an edge, in cells; the solid on their left. */
export type Edges = Float64Array;

/** Where each piece stands: its own origin in whole cells, and its pose. */
export interface Layout {
  x: Int32Array;
  y: Int32Array;
  /** Quarter turns. */
  pose: Int32Array;
}

export const copyLayout = ({ x, y, pose }: Layout): Layout => ({ x: x.slice(), y: y.slice(), pose: pose.slice() });

/** Edges turned by an angle. */
export const turned = (edges: Edges, angle: number): Edges => {
  const out = new Float64Array(edges.length);
  const cos = portable.cos(angle);
  const sin = portable.sin(angle);
  for (let k = 0; k < edges.length; k += 2) {
    out[k] = edges[k]! * cos - edges[k + 1]! * sin;
    out[k + 1] = edges[k]! * sin + edges[k + 1]! * cos;
  }
  return out;
};

export const quarterTurned = (edges: Edges, turns: number): Edges => {
  const out = new Float64Array(edges.length);
  for (let k = 0; k < edges.length; k += 2) {
    const x = edges[k]!;
    const y = edges[k + 1]!;
    out[k] = turns === 0 ? x : turns === 1 ? -y : turns === 2 ? -x : y;
    out[k + 1] = turns === 0 ? y : turns === 1 ? x : turns === 2 ? -y : -x;
  }
  return out;
};

export function boxOf(edges: Edges): [number, number, number, number] {
  let [minX, minY, maxX, maxY] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < edges.length; k += 2) {
    if (edges[k]! < minX) minX = edges[k]!;
    if (edges[k]! > maxX) maxX = edges[k]!;
    if (edges[k + 1]! < minY) minY = edges[k + 1]!;
    if (edges[k + 1]! > maxY) maxY = edges[k + 1]!;
  }
  return [minX, minY, maxX, maxY];
}

/** A piece to be separated from others. */
export interface PieceShape {
  edges: Edges;
  /** Quarter turns that it may have. */
  quarters: readonly number[];
  isFixed: boolean;
}

/**
 * Sweeps over all pieces until none overlaps another, or the cost of the overlaps has not become less by two percent for some sweeps.
 * @param loss what the overlaps cost at first; less than 0 where a piece is larger than the sheet
 * @param keep keeps the present layout: the best so far
 * @param patience how many sweeps
 * @returns what the overlaps that are left cost, 0 where none is; Infinity where a piece is larger than the sheet
 */
export function sweepUntilClear(loss: number, sweep: () => number, keep: () => void, patience: number, isOver: () => boolean): number {
  if (loss < 0) return Infinity;
  keep();
  let best = loss;
  let mark = loss;
  for (let idle = 0; loss > 0 && idle < patience && !isOver(); idle++) {
    loss = sweep();
    if (loss >= best) continue;
    best = loss;
    keep();
    if (loss < mark * 0.98) {
      idle = 0;
      mark = loss;
    }
  }
  return loss > 0 ? best : 0;
}

/** Bytes of maps that are kept; then all are dropped and made again as they are needed. */
const keptBytes = 150 * 2 ** 20;

/**
 * Takes overlaps out of a layout by guided local search: a piece that overlaps goes to the best place that is found for it on the whole sheet, and pairs that go
 * on overlapping gain weight. Where to look is told by the sum of coarse depth maps of all others, which knows every place of the sheet; how good a place is,
 * by looking up the fine ones. (Egeblad, Nielsen, Odgaard, EJOR 183, 2007, for the search by weights, from memory; the sums over all places are our own.)
 * O(pieces · poses · coarse cells of a map) a move, after each pair's map was made once: O(edges · edges · rows + cells of the map).
 */
export class Separator {
  readonly count: number;
  readonly kernel: PackKernel;
  private readonly memory: WebAssembly.Memory;
  private readonly xAt: number;

  constructor(pieces: readonly PieceShape[], side: number, coarse: number, seed: number, cost: (depth: number) => number) {
    const n = (this.count = pieces.length);
    const { take, end } = addresses();
    let edgeNumbers = 0;
    let longest = 0;
    let largest = 0;
    for (const { edges } of pieces) {
      edgeNumbers += edges.length * 4;
      longest = Math.max(longest, edges.length);
      const [minX, minY, maxX, maxY] = boxOf(edges);
      largest = Math.max(largest, Math.hypot(maxX - minX, maxY - minY));
    }
    const poses = n * 4;
    const stride = Math.ceil(side / coarse) + 16;
    const options = pieces.reduce((sum, { quarters }) => sum + quarters.length, 0);
    const table = take(19 * 4);
    const edgesAt = take(poses * 4);
    const innerAt = take(poses * 4);
    const placesAt = take(n * 4);
    const boxAt = take(poses * 32);
    const countAt = take(n * 4);
    this.xAt = take(n * 4 * 3 + 64);
    const optionStart = take((n + 1) * 4);
    const optionAt = take(options * 4);
    const weightAt = take(n * n * 4);
    const depthAt = take(n * n);
    const recordAt = take(n * n * 4 * 40);
    const diffAt = take((2 * largest + 8) ** 2 * 2);
    const sumsAt = take(stride * (stride + 2) * 2);
    const orderAt = take(n * 4);
    const costAt = take(1024 + 64);
    const fixedAt = take(n);
    const standingAt = take(Math.ceil(n / 2) * 64);
    const lines = take(edgeNumbers * 8);
    // at most as many places as edges, and one more
    const placeRoom = take(edgeNumbers * 4 + poses * 16);
    const { kernel, memory } = packKernel(end() + 65536);
    this.kernel = kernel;
    this.memory = memory;
    const ints = new Int32Array(memory.buffer);
    const doubles = new Float64Array(memory.buffer);
    const floats = new Float32Array(memory.buffer);
    const bytes = new Uint8Array(memory.buffer);
    ints.set(
      [
        edgesAt,
        innerAt,
        boxAt,
        countAt,
        this.xAt,
        this.xAt + n * 4,
        this.xAt + n * 8,
        optionStart,
        optionAt,
        weightAt,
        depthAt,
        recordAt,
        diffAt,
        sumsAt,
        orderAt,
        costAt,
        fixedAt,
        placesAt,
        standingAt,
      ],
      table / 4,
    );
    let line = lines;
    let place = placeRoom;
    let option = 0;
    pieces.forEach(({ edges, quarters, isFixed }, i) => {
      ints[countAt / 4 + i] = edges.length / 4;
      ints[optionStart / 4 + i] = option;
      bytes[fixedAt + i] = isFixed ? 1 : 0;
      for (let q = 0; q < 4; q++) {
        const pose = i * 4 + q;
        const own = quarterTurned(edges, q);
        ints[edgesAt / 4 + pose] = line;
        doubles.set(own, line / 8);
        line += own.length * 8;
        const places = testPlaces(own);
        ints[placesAt / 4 + i] = places.length / 2;
        ints[innerAt / 4 + pose] = place;
        doubles.set(places, place / 8);
        place += places.length * 8;
        doubles.set(boxOf(own), boxAt / 8 + pose * 4);
        if (quarters.includes(q)) ints[optionAt / 4 + option++] = q;
      }
    });
    ints[optionStart / 4 + n] = option;
    for (let depth = 0; depth < 256; depth++) floats[costAt / 4 + depth] = depth === 0 ? 0 : cost(depth);
    kernel.setUp(table, n, coarse, stride, end(), end() + keptBytes, seed);
  }

  private views(): [Int32Array, Int32Array, Int32Array] {
    const { buffer } = this.memory;
    const n = this.count;
    return [new Int32Array(buffer, this.xAt, n), new Int32Array(buffer, this.xAt + n * 4, n), new Int32Array(buffer, this.xAt + n * 8, n)];
  }

  private load({ x, y, pose }: Layout): void {
    const [vx, vy, vp] = this.views();
    vx.set(x);
    vy.set(y);
    vp.set(pose);
  }

  private store(layout: Layout): void {
    const [vx, vy, vp] = this.views();
    layout.x.set(vx);
    layout.y.set(vy);
    layout.pose.set(vp);
  }

  /**
   * Separates the pieces on a sheet of so many cells, in place.
   * @param patience sweeps without a gain after which it gives up
   * @returns what the overlaps that are left cost, 0 where none is; the layout is then the best one seen. Infinity where a piece is larger than the sheet
   */
  run(layout: Layout, width: number, height: number, patience: number, isOver: () => boolean): number {
    this.load(layout);
    const loss = this.kernel.begin(width, height);
    return sweepUntilClear(
      loss,
      () => this.kernel.sweep(width, height, 0.3, 0.95),
      () => this.store(layout),
      patience,
      isOver,
    );
  }
}

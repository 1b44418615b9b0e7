import { testPlaces } from './outline.ts';
import { packKernel, type PackKernel } from './packKernel.ts';
import { boxOf, quarterTurned, type PieceShape } from './separate.ts';

/** Where each piece stands: its own origin, and the angle it is turned by, radians. */
export interface Stand {
  x: Float64Array;
  y: Float64Array;
  angle: Float64Array;
}

export const copyStand = ({ x, y, angle }: Stand): Stand => ({ x: x.slice(), y: y.slice(), angle: angle.slice() });

const reach = 8;

/** A raster on which pieces may leap anywhere on the sheet. */
export interface LeapRaster {
  /** Cells a px at scale 1, and along the longer side of the sheet at most. */
  scale: number;
  cells: number;
  /** Cells of it that make one of the coarse cells that are looked at. */
  coarse: number;
}

/** Bytes of maps that are kept for leaps; then all are dropped and made again as they are needed. */
const keptBytes = 120 * 2 ** 20;

/**
 * As `Separator`, but pieces move only by small steps of any size, and turn by any small angle: of all places within eight steps the best is taken, at the
 * present angle and at others. No tables are kept; for each neighbour the depth map of that window alone is made. O(neighbours · their edges near the
 * border · window) a move. With a raster, pieces also leap to where coarse maps of all others say that there may be room.
 */
export class NearSeparator {
  readonly count: number;
  readonly kernel: PackKernel;
  private readonly memory: WebAssembly.Memory;
  private readonly xAt: number;
  private readonly countAt: number;
  private readonly pointAt: number;
  private readonly placesAt: number;
  private readonly baseOf: number[] = [];
  private readonly roomOf: number[] = [];
  sweeps = 0;

  constructor(
    pieces: readonly PieceShape[],
    seed: number,
    cost: (depth: number) => number,
    private readonly raster: LeapRaster | null = null,
  ) {
    const n = (this.count = pieces.length);
    let at = 4096;
    const take = (bytes: number) => {
      const here = at;
      at += Math.ceil(bytes / 16) * 16;
      return here;
    };
    // edges may become a few more at another scale
    this.roomOf = pieces.map(({ edges }) => Math.ceil((edges.length / 4) * 1.1 + 8) * 4);
    const numbers = this.roomOf.reduce((sum, length) => sum + length, 0);
    const longest = Math.max(0, ...this.roomOf);
    const size = 2 * reach + 1;
    let largest = 0;
    if (raster)
      for (const { edges } of pieces) {
        const [minX, minY, maxX, maxY] = boxOf(edges);
        largest = Math.max(largest, Math.hypot(maxX - minX, maxY - minY) * raster.scale);
      }
    const poses = raster ? n * 4 : 0;
    const stride = raster ? Math.ceil(raster.cells / raster.coarse) + 16 : 0;
    const options = raster ? pieces.reduce((sum, { quarters }) => sum + quarters.length, 0) : 0;
    const table = take(25 * 4);
    const wholeTable = take(18 * 4);
    const countAt = (this.countAt = take(n * 4));
    this.xAt = take(n * 8 * 3);
    const baseAt = take(n * 4);
    const presentAt = take(n * 4);
    const triedAt = take(longest * 8);
    const presentBox = take(n * 32);
    const pointAt = (this.pointAt = take(n * 4));
    const placesAt = (this.placesAt = take(n * 4));
    const placeRoom = take(numbers * 4 + n * 16);
    const nearA = take(longest * 8);
    const nearB = take(longest * 8);
    const window = take(size * size);
    const nearCount = take(n * 4);
    const nearList = take(n * n * 4);
    const windowSums = take(size * size * 4);
    const weightAt = take(n * n * 4);
    const depthAt = take(n * n);
    const diffAt = take(Math.max((size + 1) * size * 2, (2 * largest + 8) ** 2 * 2));
    const orderAt = take(n * 4);
    const costAt = take(1024 + 64);
    const fixedAt = take(n);
    const turnsAt = take(n);
    const radiusAt = take(n * 8);
    const edgesAt = take(poses * 4);
    const innerAt = take(poses * 4);
    const turnedPlaces = take(raster ? numbers * 16 + n * 64 : 0);
    const boxAt = take(poses * 32);
    const cellsAt = take(raster ? n * 12 : 0);
    const optionStart = take((n + 1) * 4);
    const optionAt = take(options * 4);
    const recordAt = take(raster ? n * n * 4 * 40 : 0);
    const sumsAt = take(stride * (stride + 2) * 2);
    const base = take(numbers * 8);
    const present = take(numbers * 8);
    const turnedAt = take(raster ? numbers * 4 * 8 : 0);
    const { kernel, memory } = packKernel(at);
    this.kernel = kernel;
    this.memory = memory;
    const ints = new Int32Array(memory.buffer);
    const doubles = new Float64Array(memory.buffer);
    const floats = new Float32Array(memory.buffer);
    const bytes = new Uint8Array(memory.buffer);
    const places = [this.xAt, this.xAt + n * 8, this.xAt + n * 16];
    ints.set(
      [
        countAt,
        ...places,
        baseAt,
        presentAt,
        triedAt,
        presentBox,
        pointAt,
        nearA,
        nearB,
        window,
        0,
        nearCount,
        windowSums,
        weightAt,
        depthAt,
        diffAt,
        orderAt,
        costAt,
        fixedAt,
        nearList,
        turnsAt,
        placesAt,
        radiusAt,
      ],
      table / 4,
    );
    let line = 0;
    let place = placeRoom;
    let turnedPlace = turnedPlaces;
    let option = 0;
    pieces.forEach(({ edges, isFixed, quarters, turns }, i) => {
      ints[pointAt / 4 + i] = place;
      place += (this.roomOf[i]! / 2 + 2) * 8;
      ints[baseAt / 4 + i] = base + line * 8;
      ints[presentAt / 4 + i] = present + line * 8;
      this.baseOf.push(base + line * 8);
      bytes[fixedAt + i] = isFixed ? 1 : 0;
      bytes[turnsAt + i] = turns;
      if (raster) {
        const scaled = edges.map((v) => v * raster.scale);
        ints[optionStart / 4 + i] = option;
        for (const q of quarters) ints[optionAt / 4 + option++] = q;
        for (let q = 0; q < 4; q++) {
          const own = quarterTurned(scaled, q);
          const from = turnedAt + (line * 4 + q * own.length) * 8;
          ints[edgesAt / 4 + i * 4 + q] = from;
          doubles.set(own, from / 8);
          const places = testPlaces(own);
          ints[innerAt / 4 + i * 4 + q] = turnedPlace;
          doubles.set(places, turnedPlace / 8);
          turnedPlace += places.length * 8;
          doubles.set(boxOf(own), boxAt / 8 + (i * 4 + q) * 4);
        }
      }
      line += this.roomOf[i]!;
    });
    ints[optionStart / 4 + n] = option;
    for (let depth = 1; depth < 256; depth++) floats[costAt / 4 + depth] = cost(depth);
    if (raster) {
      ints.set(
        [
          edgesAt,
          innerAt,
          boxAt,
          countAt,
          cellsAt,
          cellsAt + n * 4,
          cellsAt + n * 8,
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
        ],
        wholeTable / 4,
      );
      const heap = Math.ceil(at / 16) * 16;
      kernel.setUp(wholeTable, n, 1, raster.coarse, stride, heap, heap + keptBytes, seed);
    }
    kernel.setUpNear(table, n, reach, seed);
    this.setEdges(pieces.map(({ edges }) => edges));
  }

  /** Other edges for the pieces: they have grown. @param inner an inner point of each, where they are known @returns false where they do not fit into the memory that was taken for them */
  setEdges(edges: readonly Float64Array[], inner?: readonly (readonly [number, number])[]): boolean {
    const { buffer } = this.memory;
    const ints = new Int32Array(buffer);
    const doubles = new Float64Array(buffer);
    if (edges.some((own, i) => own.length > this.roomOf[i]!)) return false;
    edges.forEach((own, i) => {
      ints[this.countAt / 4 + i] = own.length / 4;
      doubles.set(own, this.baseOf[i]! / 8);
      const places = testPlaces(own, inner?.[i]);
      ints[this.placesAt / 4 + i] = places.length / 2;
      doubles.set(places, ints[this.pointAt / 4 + i]! / 8);
    });
    return true;
  }

  private views(): [Float64Array, Float64Array, Float64Array] {
    const { buffer } = this.memory;
    const n = this.count;
    return [new Float64Array(buffer, this.xAt, n), new Float64Array(buffer, this.xAt + n * 8, n), new Float64Array(buffer, this.xAt + n * 16, n)];
  }

  /**
   * Separates the pieces on a sheet, in place.
   * @param step by which pieces move
   * @param spin most that a piece is turned at a time, radians; 0: never
   * @param grown by how much pieces are larger than at scale 1, for the raster
   * @returns what the overlaps that are left cost, 0 where none is; the layout is then the best one seen. Infinity where a piece is larger than the sheet
   */
  run(stand: Stand, width: number, height: number, { step, spin, patience, grown, leaps, isOver }: NearRun): number {
    const fill = () => {
      const [x, y, angle] = this.views();
      x.set(stand.x);
      y.set(stand.y);
      angle.set(stand.angle);
    };
    const store = () => {
      // the memory may have grown
      const [x, y, angle] = this.views();
      stand.x.set(x);
      stand.y.set(y);
      stand.angle.set(angle);
    };
    fill();
    if (this.raster) this.kernel.setUpLeaps(this.raster.scale / grown, Math.round(leaps * 256));
    let loss = this.kernel.beginNear(width, height, step);
    if (loss < 0) return Infinity;
    let best = loss;
    let mark = loss;
    store();
    for (let idle = 0; loss > 0 && idle < patience && !isOver(); idle++) {
      loss = this.kernel.sweepNear(width, height, step, spin, 0.1, 0.98);
      this.sweeps++;
      if (loss >= best) continue;
      best = loss;
      store();
      if (loss < mark * 0.98) {
        idle = 0;
        mark = loss;
      }
    }
    return loss > 0 ? best : 0;
  }
}

export interface NearRun {
  step: number;
  spin: number;
  /** Sweeps without a gain after which it gives up. */
  patience: number;
  grown: number;
  /** Share of moves that are leaps, 0 to 1; needs a raster. */
  leaps: number;
  isOver(): boolean;
}

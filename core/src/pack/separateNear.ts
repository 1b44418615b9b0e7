import { testPlaces } from './outline.ts';
import { packKernel, type PackKernel } from './packKernel.ts';
import { addresses } from './addresses.ts';
import { sweepUntilClear } from './separate.ts';

/** Where each piece stands: its own origin, and the angle it is turned by, radians. */
export interface Stand {
  x: Float64Array;
  y: Float64Array;
  angle: Float64Array;
}

/** A piece that gives way to others near by. */
export interface NearShape {
  /** About its own origin, 4 numbers an edge; the solid on their left. */
  edges: Float64Array;
  /** Into how many turns a whole one is parted that it may take: 1 for none. */
  turns: number;
  /** Whether it may be turned by any angle. */
  isFree: boolean;
  isFixed: boolean;
}

export const copyStand = ({ x, y, angle }: Stand): Stand => ({ x: x.slice(), y: y.slice(), angle: angle.slice() });

const reach = 8;

/**
 * As `Separator`, but pieces move only by small steps of any size, and turn by any small angle: of all places within eight steps the best is taken, at the
 * present angle and at others. No tables are kept; for each neighbour the depth map of that window alone is made. O(neighbours · their edges near the
 * border · window) a move.
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

  constructor(pieces: readonly NearShape[], seed: number, cost: (depth: number) => number) {
    const n = (this.count = pieces.length);
    const { take, end } = addresses();
    // edges may become a few more at another scale
    this.roomOf = pieces.map(({ edges }) => Math.ceil((edges.length / 4) * 1.1 + 8) * 4);
    const numbers = this.roomOf.reduce((sum, length) => sum + length, 0);
    const longest = Math.max(0, ...this.roomOf);
    const size = 2 * reach + 1;
    const table = take(25 * 4);
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
    const diffAt = take((size + 1) * size * 2);
    const orderAt = take(n * 4);
    const costAt = take(1024 + 64);
    const fixedAt = take(n);
    const turnsAt = take(n);
    const radiusAt = take(n * 8);
    const base = take(numbers * 8);
    const present = take(numbers * 8);
    const { kernel, memory } = packKernel(end());
    this.kernel = kernel;
    this.memory = memory;
    const ints = new Int32Array(memory.buffer);
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
    pieces.forEach(({ isFixed, turns, isFree }, i) => {
      ints[pointAt / 4 + i] = place;
      place += (this.roomOf[i]! / 2 + 2) * 8;
      ints[baseAt / 4 + i] = base + line * 8;
      ints[presentAt / 4 + i] = present + line * 8;
      this.baseOf.push(base + line * 8);
      bytes[fixedAt + i] = isFixed ? 1 : 0;
      bytes[turnsAt + i] = turns | (isFree ? 128 : 0);
      line += this.roomOf[i]!;
    });
    for (let depth = 1; depth < 256; depth++) floats[costAt / 4 + depth] = cost(depth);
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
   * @param spin most that a piece that may have any angle is turned at a time, radians; 0: never
   * @returns what the overlaps that are left cost, 0 where none is; the layout is then the best one seen. Infinity where a piece is larger than the sheet
   */
  run(stand: Stand, width: number, height: number, { step, spin, patience, isOver }: NearRun): number {
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
    const loss = this.kernel.beginNear(width, height, step);
    return sweepUntilClear(loss, () => this.kernel.sweepNear(width, height, step, spin, 0.1, 0.98), store, patience, isOver);
  }
}

export interface NearRun {
  step: number;
  spin: number;
  /** Sweeps without a gain after which it gives up. */
  patience: number;
  isOver(): boolean;
}

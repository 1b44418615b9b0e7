import * as portable from '../numeric/portable.ts';
import { addresses } from './addresses.ts';
import { cellsKernel, hasCellsKernel, type CellsKernel } from './cellsKernel.ts';
import type { Shape } from './shape.ts';
import { TakenCells, testOrder, type Cells } from './takenCells.ts';

/** How many rows of positions the kernel rules out by one test. */
const together = 4;

/** As `TakenCells`, and finds the same places, by the SIMD module (core/assembly/cells.ts). 300 long and narrow islands at 1024 cells: 23 → 8 s. */
class FastCells implements Cells {
  private readonly stride: number;
  private readonly levels: number;
  private readonly freeAt: number;
  private readonly staleAt: number;
  private readonly staleWideAt: number;
  /** Room for the rows of a shape. */
  private readonly shapeAt: number;
  private readonly kernel: CellsKernel;
  private readonly memory: WebAssembly.Memory;
  private readonly start: () => void;

  constructor(
    private readonly width: number,
    private readonly height: number,
  ) {
    const words = ((width + 31) >> 5) + 1;
    this.stride = (((words + 3) >> 2) << 2) + 8;
    this.levels = Math.max(1, Math.ceil(portable.log2(Math.max(2, width))) + 1);
    const { take, end } = addresses();
    const bytes = this.stride * 4 * this.levels * height;
    // words before the first row are read, too
    take(this.stride * 4);
    this.freeAt = take(bytes);
    take(this.stride * 4);
    const wideAt = take(bytes);
    take(this.stride * 4);
    this.staleAt = take(height);
    this.staleWideAt = take(height * this.levels);
    const allowedAt = take(this.stride * 4);
    this.shapeAt = end();
    const { kernel, memory } = cellsKernel(end() + 65536);
    this.kernel = kernel;
    this.memory = memory;
    this.start = () => kernel.setUp(width, height, words, this.stride, this.levels, this.freeAt, wideAt, this.staleAt, this.staleWideAt, allowedAt);
    this.clear();
  }

  clear(): void {
    const { buffer } = this.memory;
    const row = this.stride * this.levels;
    const free = new Uint32Array(buffer, this.freeAt, row * this.height);
    for (let y = 0; y < this.height; y++) {
      free.fill(0xffffffff, y * row, y * row + (this.width >> 5));
      if ((this.width & 31) !== 0) free[y * row + (this.width >> 5)] = 0xffffffff >>> (32 - (this.width & 31));
    }
    new Uint8Array(buffer, this.staleAt, this.height).fill(1);
    new Uint8Array(buffer, this.staleWideAt, this.height * this.levels).fill(1);
    this.start();
  }

  get work(): number {
    return this.kernel.work.value;
  }

  take(shape: Shape, x: number, y: number): void {
    const { start, runs } = shape.body;
    const { buffer } = this.memory;
    const row = this.stride * this.levels;
    const free = new Uint32Array(buffer, this.freeAt, row * this.height);
    const stale = new Uint8Array(buffer, this.staleAt, this.height);
    const staleWide = new Uint8Array(buffer, this.staleWideAt, this.height * this.levels);
    for (let r = 0; r < shape.height; r++) {
      const at = y + r;
      if (at < 0 || at >= this.height) continue;
      stale[at] = 1;
      staleWide.fill(1, Math.max(0, at - together + 1) * this.levels, (at + 1) * this.levels);
      for (let k = start[r]!; k < start[r + 1]!; k += 2) {
        const to = Math.min(this.width - 1, runs[k + 1]! + x);
        for (let c = Math.max(0, runs[k]! + x); c <= to; c++) free[at * row + (c >> 5)]! &= ~(1 << (c & 31));
      }
    }
  }

  lowestFit(shape: Shape, border: number, limit: number, from = border): { x: number; y: number } | null {
    const { start, runs } = shape.grown;
    const order = testOrder(shape);
    const runsAt = start.length;
    const orderAt = runsAt + runs.length;
    const lacking = Math.ceil((this.shapeAt + (orderAt + order.length) * 4 - this.memory.buffer.byteLength) / 65536);
    if (lacking > 0) this.memory.grow(lacking);
    const room = new Int32Array(this.memory.buffer, this.shapeAt);
    room.set(start);
    room.set(runs, runsAt);
    room.set(order, orderAt);
    const found = this.kernel.lowestFit(
      this.shapeAt,
      this.shapeAt + runsAt * 4,
      start.length - 1,
      shape.reach,
      this.shapeAt + orderAt * 4,
      order.length,
      border,
      this.width - border - shape.width,
      from,
      Math.min(limit, this.height - border - shape.height + 1),
    );
    return found < 0 ? null : { x: found & 0xffff, y: found >>> 16 };
  }
}

/** The raster of a free sheet. */
export const cellsOf = (width: number, height: number): Cells => (hasCellsKernel() ? new FastCells(width, height) : new TakenCells(width, height));

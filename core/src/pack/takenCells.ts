import type { Shape } from './shape.ts';
import * as portable from '../numeric/portable.ts';

/** The raster of a sheet, by what is taken on it. */
export interface Cells {
  clear(): void;
  /** Work done so far, in vectors of four words: the same on any machine. */
  readonly work: number;
  take(shape: Shape, x: number, y: number): void;
  lowestFit(shape: Shape, border: number, limit: number, from?: number): { x: number; y: number } | null;
}

/** How many rows of positions are ruled out by one test. */
const together = 4;

/**
 * What is taken on the sheet, ready for the question "where in this row of positions does a shape fit?". For each row and each power of
 * two 2^k a row of bits is kept that says where 2^k free cells begin; a run of any length is free where two such stretches overlap it.
 * So a row of a shape is tested at all positions of the sheet at once, 32 at a time. The same bits joined over four rows rule out four
 * rows of positions with one test.
 *
 * Measured on 150 blobs, one try at 1024 cells: longest rows of the shape first 3.1 s (neighbouring rows fail at the same places);
 * halves, quarters, eighths … 0.85 s; keeping to the words that still hold a position, four rows together: 0.15 s.
 */
export class TakenCells implements Cells {
  readonly words: number;
  private readonly levels: number;
  /** free[(y · levels + k) · words …]; `wide` in the same layout, each row joined with the three above it. */
  private readonly free: Uint32Array;
  private readonly wide: Uint32Array;
  private readonly stale: Uint8Array;
  private readonly staleWide: Uint8Array;
  private readonly allowed: Uint32Array;
  /** The row of the sheet that ruled out all positions of the last block. */
  private barrier = -1;
  /** Words of `allowed` that may still hold a position. */
  private low = 0;
  private high = 0;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.words = ((width + 31) >> 5) + 1;
    this.levels = Math.max(1, Math.ceil(portable.log2(Math.max(2, width))) + 1);
    this.free = new Uint32Array(this.words * this.levels * height);
    this.wide = new Uint32Array(this.words * this.levels * height);
    this.stale = new Uint8Array(height);
    this.staleWide = new Uint8Array(height * this.levels);
    this.allowed = new Uint32Array(this.words);
    this.clear();
  }

  work = 0;

  /** Frees the whole sheet. */
  clear(): void {
    const { width, height } = this;
    for (let y = 0; y < height; y++) {
      const row = y * this.levels * this.words;
      for (let w = 0; w < width >> 5; w++) this.free[row + w] = 0xffffffff;
      if ((width & 31) !== 0) this.free[row + (width >> 5)] = 0xffffffff >>> (32 - (width & 31));
    }
    this.stale.fill(1);
    this.staleWide.fill(1);
    this.barrier = -1;
  }

  /** Marks the body of a shape as taken at cell (x, y). */
  take(shape: Shape, x: number, y: number): void {
    const { start, runs } = shape.body;
    for (let r = 0; r < shape.height; r++) {
      const at = y + r;
      if (at < 0 || at >= this.height) continue;
      this.stale[at] = 1;
      this.staleWide.fill(1, Math.max(0, at - together + 1) * this.levels, (at + 1) * this.levels);
      const row = at * this.levels * this.words;
      for (let k = start[r]!; k < start[r + 1]!; k += 2) {
        const from = Math.max(0, runs[k]! + x);
        const to = Math.min(this.width - 1, runs[k + 1]! + x);
        for (let c = from; c <= to; c++) this.free[row + (c >> 5)]! &= ~(1 << (c & 31));
      }
    }
  }

  private refresh(y: number): void {
    if (!this.stale[y]) return;
    this.stale[y] = 0;
    const { words, free } = this;
    const base = y * this.levels * words;
    for (let k = 1; k < this.levels; k++) {
      const from = base + (k - 1) * words;
      const to = base + k * words;
      const shift = 1 << (k - 1);
      const whole = shift >> 5;
      const rest = shift & 31;
      for (let w = 0; w < words; w++) {
        const a = w + whole < words ? free[from + w + whole]! : 0;
        const b = w + whole + 1 < words ? free[from + w + whole + 1]! : 0;
        const moved = rest === 0 ? a : (a >>> rest) | (b << (32 - rest));
        free[to + w] = free[from + w]! & moved;
      }
    }
  }

  /** Joins one level of row y with that of the rows above it. */
  private refreshWide(y: number, level: number): void {
    const size = this.levels * this.words;
    const to = y * size + level * this.words;
    this.staleWide[y * this.levels + level] = 0;
    for (let k = 0; k < together && y + k < this.height; k++) this.refresh(y + k);
    if (y + together > this.height) {
      // above the sheet everything counts as free
      this.wide.fill(0xffffffff, to, to + this.words);
      return;
    }
    const { free, wide } = this;
    for (let w = to; w < to + this.words; w++) wide[w] = free[w]! | free[w + size]! | free[w + 2 * size]! | free[w + 3 * size]!;
  }

  /** allowed &= positions x at which cells x + from … x + to are free in row y of `rows`. */
  private restrict(rows: Uint32Array, y: number, from: number, to: number): void {
    const length = to - from + 1;
    const k = Math.min(this.levels - 1, 31 - Math.clz32(length));
    if (rows === this.wide && this.staleWide[y * this.levels + k]) this.refreshWide(y, k);
    const level = (y * this.levels + k) * this.words;
    this.work += ((this.high - this.low) >> 2) + 4;
    this.andShifted(rows, level, from);
    if (1 << k !== length) this.andShifted(rows, level, to - (1 << k) + 1);
  }

  private andShifted(rows: Uint32Array, level: number, shift: number): void {
    const { words, allowed } = this;
    const whole = shift >> 5;
    const rest = shift & 31;
    // bit x of the result is bit x + shift of the level
    for (let w = this.low; w <= this.high; w++) {
      const at = w + whole;
      const a = at >= 0 && at < words ? rows[level + at]! : 0;
      if (rest === 0) allowed[w]! &= a;
      else {
        const b = at + 1 >= 0 && at + 1 < words ? rows[level + at + 1]! : 0;
        allowed[w]! &= (a >>> rest) | (b << (32 - rest));
      }
    }
  }

  /** Starts with every x that keeps the body inside the borders; false if there is none. */
  private open(border: number, last: number): boolean {
    if (last < border) return false;
    this.low = border >> 5;
    this.high = last >> 5;
    for (let w = this.low; w <= this.high; w++) this.allowed[w] = 0xffffffff;
    this.allowed[this.low]! &= 0xffffffff << (border & 31);
    this.allowed[this.high]! &= 0xffffffff >>> (31 - (last & 31));
    return true;
  }

  /** Tests the rows of a shape at y; true while a position is left. */
  private test(rows: Uint32Array, isWide: boolean, shape: Shape, order: Int32Array, y: number, border: number, last: number): boolean {
    const { start, runs } = shape.grown;
    const { reach } = shape;
    const { allowed } = this;
    // the row of the sheet that ruled out the last block probably rules out this one, too
    const likely = this.barrier - y + reach;
    const first = likely >= 0 && likely + 1 < start.length ? -1 : 0;
    for (let o = first; o < order.length; o++) {
      const r = o < 0 ? likely : order[o]!;
      const at = y + r - reach;
      if (at < 0 || at >= this.height) continue;
      if (!isWide) this.refresh(at);
      for (let k = start[r]!; k < start[r + 1]!; k += 2) {
        const from = runs[k]! - reach;
        const to = runs[k + 1]! - reach;
        if (border + from >= 0 && last + to < this.width) this.restrict(rows, at, from, to);
        else if (!isWide) this.restrictClipped(at, from, to, border, last);
      }
      while (this.low <= this.high && allowed[this.low] === 0) this.low++;
      if (this.low > this.high) {
        this.barrier = at;
        return false;
      }
      while (allowed[this.high] === 0) this.high--;
    }
    return true;
  }

  /** For runs that may stick out of the sheet, where the border gap is smaller than the gap: position by position. */
  private restrictClipped(y: number, from: number, to: number, border: number, last: number): void {
    const row = y * this.levels * this.words;
    for (let x = border; x <= last; x++) {
      if (((this.allowed[x >> 5]! >>> (x & 31)) & 1) === 0) continue;
      for (let c = Math.max(0, x + from); c <= Math.min(this.width - 1, x + to); c++) {
        if (((this.free[row + (c >> 5)]! >>> (c & 31)) & 1) === 0) {
          this.allowed[x >> 5]! &= ~(1 << (x & 31));
          break;
        }
      }
    }
  }

  /**
   * The lowest place, and there the leftmost, at which the shape fits with its lowest row at `from` or above and below `limit`: its body
   * keeps to the borders, its grown outline meets nothing that is taken. Null if there is none.
   */
  lowestFit(shape: Shape, border: number, limit: number, from = border): { x: number; y: number } | null {
    const order = testOrder(shape);
    const last = this.width - border - shape.width;
    const top = Math.min(limit, this.height - border - shape.height + 1);
    for (let block = from; block < top; block += together) {
      if (!this.open(border, last)) return null;
      if (!this.test(this.wide, true, shape, order, block, border, last)) continue;
      for (let y = block; y < Math.min(top, block + together); y++) {
        this.open(border, last);
        if (!this.test(this.free, false, shape, order, y, border, last)) continue;
        const word = this.allowed[this.low]!;
        return { x: this.low * 32 + (31 - Math.clz32(word & -word)), y };
      }
    }
    return null;
  }
}

/** In which order the rows of a shape's grown outline are tested: halves, quarters, eighths …, so that each test says something new. */
export function testOrder(shape: Shape): Int32Array {
  const rows = shape.grown.start.length - 1;
  const bits = 32 - Math.clz32(Math.max(1, rows - 1));
  const order: number[] = [];
  for (let k = 1; k <= 1 << bits; k++) {
    let r = 0;
    for (let b = 0; b < bits; b++) if ((k >> b) & 1) r |= 1 << (bits - 1 - b);
    if (r < rows && shape.grown.start[r + 1]! > shape.grown.start[r]!) order.push(r);
  }
  return Int32Array.from(order);
}

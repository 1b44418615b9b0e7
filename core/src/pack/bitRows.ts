/** A raster of bits in rows of 32-bit words; bit x of row y is word y·words + (x >> 5), bit x & 31. */
export class BitRows {
  readonly words: number;
  readonly bits: Uint32Array;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.words = (width + 31) >> 5;
    this.bits = new Uint32Array(this.words * height);
  }

  get(x: number, y: number): boolean {
    return ((this.bits[y * this.words + (x >> 5)]! >>> (x & 31)) & 1) === 1;
  }

  /** Sets bits from … to (both included) of row y; the part outside the raster is left out. */
  fillRun(y: number, from: number, to: number): void {
    if (y < 0 || y >= this.height) return;
    const a = Math.max(0, from);
    const b = Math.min(this.width - 1, to);
    if (a > b) return;
    const row = y * this.words;
    const first = a >> 5;
    const last = b >> 5;
    const head = (0xffffffff << (a & 31)) >>> 0;
    const tail = 0xffffffff >>> (31 - (b & 31));
    if (first === last) this.bits[row + first]! |= head & tail;
    else {
      this.bits[row + first]! |= head;
      for (let w = first + 1; w < last; w++) this.bits[row + w] = 0xffffffff;
      this.bits[row + last]! |= tail;
    }
  }

  /** Runs of set bits of row y, as pairs from, to (both included). O(words + runs). */
  runs(y: number): number[] {
    const out: number[] = [];
    let start = -1;
    for (let w = 0; w < this.words; w++) {
      const word = this.bits[y * this.words + w]!;
      if (start < 0 ? word === 0 : word === 0xffffffff) continue;
      let x = 0;
      while (x < 32) {
        // the next bit from x on that differs from the present state
        const rest = (start < 0 ? word : ~word) >>> x;
        if (rest === 0) break;
        x += 31 - Math.clz32(rest & -rest);
        if (start < 0) start = w * 32 + x;
        else {
          out.push(start, w * 32 + x - 1);
          start = -1;
        }
      }
    }
    if (start >= 0) out.push(start, this.width - 1);
    return out;
  }

  count(): number {
    let sum = 0;
    for (let w of this.bits) {
      w -= (w >>> 1) & 0x55555555;
      w = (w & 0x33333333) + ((w >>> 2) & 0x33333333);
      sum += (((w + (w >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
    }
    return sum;
  }
}

import type { Loops } from './contours.ts';

/** Points evenly along closed lines, with the direction that the line has there. */
export interface OutlineSamples {
  /** 2 numbers a point. */
  places: Float64Array;
  /** Unit direction along the line, the inside at its left: 2 numbers a point. */
  along: Float64Array;
}

/** Points along closed lines, `spacing` apart or a little less, at least eight a line. O(points) */
export function sampled(loops: Loops, spacing: number): OutlineSamples {
  const places: number[] = [];
  const along: number[] = [];
  for (const loop of loops) {
    const n = loop.length / 2;
    let length = 0;
    for (let k = 0; k < n; k++) length += Math.hypot(loop[((k + 1) % n) * 2]! - loop[k * 2]!, loop[((k + 1) % n) * 2 + 1]! - loop[k * 2 + 1]!);
    if (!(length > 0)) continue;
    const count = Math.max(8, Math.ceil(length / spacing));
    let [k, passed] = [0, 0];
    for (let i = 0; i < count; i++) {
      const at = ((i + 0.5) / count) * length;
      for (;;) {
        const j = (k + 1) % n;
        const [dx, dy] = [loop[j * 2]! - loop[k * 2]!, loop[j * 2 + 1]! - loop[k * 2 + 1]!];
        const own = Math.hypot(dx, dy);
        if (passed + own < at && k + 1 < n) {
          passed += own;
          k++;
          continue;
        }
        const share = own > 0 ? Math.min(1, (at - passed) / own) : 0;
        places.push(loop[k * 2]! + share * dx, loop[k * 2 + 1]! + share * dy);
        along.push(own > 0 ? dx / own : 1, own > 0 ? dy / own : 0);
        break;
      }
    }
  }
  return { places: Float64Array.from(places), along: smoothed(Float64Array.from(along)) };
}

/** Directions from px are in steps: each is meant with its neighbours. Lines are told apart well enough by their length. */
function smoothed(along: Float64Array): Float64Array {
  const out = new Float64Array(along.length);
  const n = along.length / 2;
  for (let k = 0; k < n; k++) {
    let [x, y] = [0, 0];
    for (let d = -1; d <= 1; d++) {
      const j = Math.min(n - 1, Math.max(0, k + d)) * 2;
      x += along[j]!;
      y += along[j + 1]!;
    }
    const length = Math.hypot(x, y) || 1;
    out[k * 2] = x / length;
    out[k * 2 + 1] = y / length;
  }
  return out;
}

/** Points of outlines by cells of a grid, to find the nearest one that runs the same way. */
export class OutlineIndex {
  readonly samples: OutlineSamples;
  /** How far apart its points are along the lines, about. */
  readonly spacing: number;
  private readonly cell: number;
  private readonly left: number;
  private readonly low: number;
  private readonly right: number;
  private readonly high: number;
  private readonly columns: number;
  private readonly rows: number;
  private readonly start: Int32Array;
  private readonly points: Int32Array;

  /** O(points) */
  constructor(samples: OutlineSamples) {
    this.samples = samples;
    const { places } = samples;
    const n = places.length / 2;
    const gaps = Array.from({ length: Math.max(0, n - 1) }, (_, k) => Math.hypot(places[k * 2 + 2]! - places[k * 2]!, places[k * 2 + 3]! - places[k * 2 + 1]!));
    this.spacing = gaps.sort((a, b) => a - b)[gaps.length >> 1] ?? 0;
    let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let k = 0; k < n; k++) {
      left = Math.min(left, places[k * 2]!);
      right = Math.max(right, places[k * 2]!);
      low = Math.min(low, places[k * 2 + 1]!);
      high = Math.max(high, places[k * 2 + 1]!);
    }
    this.left = left;
    this.low = low;
    this.right = right;
    this.high = high;
    // about one point a cell: lines leave most of the box empty, and what is looked for can be far off
    this.cell = Math.max(Math.sqrt(((right - left) * (high - low)) / Math.max(8, n)), (right - left + high - low) / 2048, 1e-300);
    this.columns = Math.min(2048, Math.floor((right - left) / this.cell) + 1);
    this.rows = Math.min(2048, Math.floor((high - low) / this.cell) + 1);
    const cellOf = (k: number) => this.row(places[k * 2 + 1]!) * this.columns + this.column(places[k * 2]!);
    this.start = new Int32Array(this.columns * this.rows + 1);
    for (let k = 0; k < n; k++) this.start[cellOf(k) + 1]!++;
    for (let c = 0; c + 1 < this.start.length; c++) this.start[c + 1]! += this.start[c]!;
    const fill = this.start.slice();
    this.points = new Int32Array(n);
    for (let k = 0; k < n; k++) this.points[fill[cellOf(k)]!++] = k;
  }

  /** Whether the boxes round both do not meet. */
  isApartFrom(other: OutlineIndex): boolean {
    return this.right < other.left || other.right < this.left || this.high < other.low || other.high < this.low;
  }

  private column(x: number): number {
    return Math.max(0, Math.min(this.columns - 1, Math.floor((x - this.left) / this.cell)));
  }

  private row(y: number): number {
    return Math.max(0, Math.min(this.rows - 1, Math.floor((y - this.low) / this.cell)));
  }

  /**
   * The nearest point that runs within about 60° of a direction; −1 where there is none.
   * @param most no further than this
   */
  nearest(x: number, y: number, dx: number, dy: number, most = Infinity): number {
    const { places, along } = this.samples;
    const [cx, cy] = [this.column(x), this.row(y)];
    let [best, near] = [-1, most * most];
    for (let ring = 0; ring <= Math.max(this.columns, this.rows); ring++) {
      // all of a further ring is further than what was found
      const bound = Math.max(0, ring - 1) * this.cell;
      if (bound * bound > near) break;
      for (let r = Math.max(0, cy - ring); r <= Math.min(this.rows - 1, cy + ring); r++) {
        const step = r === cy - ring || r === cy + ring ? 1 : Math.max(1, 2 * ring);
        for (let c = cx - ring; c <= cx + ring; c += step) {
          if (c < 0 || c >= this.columns) continue;
          const at = r * this.columns + c;
          for (let i = this.start[at]!; i < this.start[at + 1]!; i++) {
            const k = this.points[i]!;
            if (along[k * 2]! * dx + along[k * 2 + 1]! * dy < 0.5) continue;
            const d = (places[k * 2]! - x) ** 2 + (places[k * 2 + 1]! - y) ** 2;
            if (d < near) [near, best] = [d, k];
          }
        }
      }
    }
    return best;
  }
}

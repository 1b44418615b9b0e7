/** What the pointer drew over a view, in px of the view. */
export type Region =
  { shape: 'box'; points: [number, number, number, number] } | { shape: 'lasso'; points: number[] } | { shape: 'brush'; points: number[]; radius: number };

/** A picture of a region: one byte a px, 1 inside. Makes any test of a place O(1), however long the lasso. */
export class RegionMask {
  readonly bytes: Uint8Array;

  constructor(
    readonly width: number,
    readonly height: number,
    region: Region,
  ) {
    this.bytes = new Uint8Array(width * height);
    if (region.shape === 'box') {
      const [x0, y0, x1, y1] = region.points;
      for (let y = Math.max(0, Math.floor(Math.min(y0, y1))); y <= Math.min(height - 1, Math.floor(Math.max(y0, y1))); y++)
        this.fillRow(y, Math.min(x0, x1), Math.max(x0, x1));
    } else if (region.shape === 'lasso') this.fillPolygon(region.points);
    else for (let k = 0; k < region.points.length; k += 2) this.fillCapsule(region.points, Math.max(0, k - 2), k, region.radius);
  }

  has(x: number, y: number): boolean {
    const [px, py] = [Math.floor(x), Math.floor(y)];
    return px >= 0 && py >= 0 && px < this.width && py < this.height && this.bytes[py * this.width + px] === 1;
  }

  /** The smallest window that holds all px inside; empty (right ≤ left) if there are none. */
  window(): { left: number; top: number; right: number; bottom: number } {
    let [left, top, right, bottom] = [this.width, this.height, 0, 0];
    for (let y = 0; y < this.height; y++) {
      const row = this.bytes.subarray(y * this.width, (y + 1) * this.width);
      const first = row.indexOf(1);
      if (first < 0) continue;
      left = Math.min(left, first);
      right = Math.max(right, row.lastIndexOf(1) + 1);
      top = Math.min(top, y);
      bottom = y + 1;
    }
    return { left, top, right, bottom };
  }

  private fillRow(y: number, from: number, to: number) {
    const a = Math.max(0, Math.floor(from));
    const b = Math.min(this.width - 1, Math.floor(to));
    if (b >= a) this.bytes.fill(1, y * this.width + a, y * this.width + b + 1);
  }

  /** Even-odd filling at the middle of each row of px. */
  private fillPolygon(points: number[]) {
    const n = points.length / 2;
    for (let y = 0; y < this.height; y++) {
      const line = y + 0.5;
      const crossings: number[] = [];
      for (let k = 0; k < n; k++) {
        const m = (k + 1) % n;
        const [ax, ay, bx, by] = [points[k * 2]!, points[k * 2 + 1]!, points[m * 2]!, points[m * 2 + 1]!];
        if (ay <= line !== by <= line) crossings.push(ax + ((line - ay) / (by - ay)) * (bx - ax));
      }
      crossings.sort((a, b) => a - b);
      for (let k = 0; k + 1 < crossings.length; k += 2) this.fillRow(y, crossings[k]!, crossings[k + 1]!);
    }
  }

  private fillCapsule(points: number[], from: number, to: number, radius: number) {
    const [ax, ay, bx, by] = [points[from]!, points[from + 1]!, points[to]!, points[to + 1]!];
    const [ex, ey] = [bx - ax, by - ay];
    const length = ex * ex + ey * ey;
    for (let y = Math.max(0, Math.floor(Math.min(ay, by) - radius)); y <= Math.min(this.height - 1, Math.max(ay, by) + radius); y++) {
      for (let x = Math.max(0, Math.floor(Math.min(ax, bx) - radius)); x <= Math.min(this.width - 1, Math.max(ax, bx) + radius); x++) {
        const t = length > 0 ? Math.max(0, Math.min(1, ((x + 0.5 - ax) * ex + (y + 0.5 - ay) * ey) / length)) : 0;
        if (Math.hypot(ax + t * ex - x - 0.5, ay + t * ey - y - 0.5) <= radius) this.bytes[y * this.width + x] = 1;
      }
    }
  }
}

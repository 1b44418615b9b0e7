/** A picture in memory: RGBA, 8 bits each, straight alpha, first row on top. */
export class Canvas {
  readonly data: Uint8Array;

  constructor(
    readonly width: number,
    readonly height: number,
    background: readonly [number, number, number, number] = [0, 0, 0, 0],
  ) {
    this.data = new Uint8Array(width * height * 4);
    if (background.some((x) => x > 0)) for (let k = 0; k < this.data.length; k += 4) this.data.set(background, k);
  }

  /** Lays a colour over a pixel with the given cover (0 … 1). */
  blend(x: number, y: number, color: readonly number[], cover: number): void {
    if (x < 0 || y < 0 || x >= this.width || y >= this.height || cover <= 0) return;
    const k = (y * this.width + x) * 4;
    const alpha = Math.min(1, cover) * ((color[3] ?? 255) / 255);
    const under = this.data[k + 3]! / 255;
    const out = alpha + under * (1 - alpha);
    for (let c = 0; c < 3; c++) this.data[k + c] = Math.round((color[c]! * alpha + this.data[k + c]! * under * (1 - alpha)) / (out || 1));
    this.data[k + 3] = Math.round(out * 255);
  }

  fillRect(x0: number, y0: number, x1: number, y1: number, color: readonly number[]): void {
    for (let y = Math.max(0, Math.floor(y0)); y < Math.min(this.height, Math.ceil(y1)); y++) {
      for (let x = Math.max(0, Math.floor(x0)); x < Math.min(this.width, Math.ceil(x1)); x++) {
        const cover = (Math.min(x + 1, x1) - Math.max(x, x0)) * (Math.min(y + 1, y1) - Math.max(y, y0));
        this.blend(x, y, color, cover);
      }
    }
  }

  /** A round-ended line of the given width, smooth at its edges. */
  line(x1: number, y1: number, x2: number, y2: number, width: number, color: readonly number[]): void {
    const half = width / 2;
    const dx = x2 - x1;
    const dy = y2 - y1;
    const length = dx * dx + dy * dy;
    for (let y = Math.floor(Math.min(y1, y2) - half - 1); y <= Math.ceil(Math.max(y1, y2) + half + 1); y++) {
      for (let x = Math.floor(Math.min(x1, x2) - half - 1); x <= Math.ceil(Math.max(x1, x2) + half + 1); x++) {
        const px = x + 0.5 - x1;
        const py = y + 0.5 - y1;
        const t = length > 0 ? Math.max(0, Math.min(1, (px * dx + py * dy) / length)) : 0;
        const distance = Math.hypot(px - t * dx, py - t * dy);
        this.blend(x, y, color, half + 0.5 - distance);
      }
    }
  }

  /** Fills a triangle; `edgeCover` smooths its edges by four samples a pixel. */
  triangle(x0: number, y0: number, x1: number, y1: number, x2: number, y2: number, color: readonly number[]): void {
    const twice = (x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0);
    if (twice === 0) return;
    const s = twice > 0 ? 1 : -1;
    for (let y = Math.max(0, Math.floor(Math.min(y0, y1, y2))); y <= Math.min(this.height - 1, Math.floor(Math.max(y0, y1, y2))); y++) {
      for (let x = Math.max(0, Math.floor(Math.min(x0, x1, x2))); x <= Math.min(this.width - 1, Math.floor(Math.max(x0, x1, x2))); x++) {
        const px = x + 0.5;
        const py = y + 0.5;
        const a = s * ((x1 - x0) * (py - y0) - (px - x0) * (y1 - y0));
        const b = s * ((x2 - x1) * (py - y1) - (px - x1) * (y2 - y1));
        const c = s * ((x0 - x2) * (py - y2) - (px - x2) * (y0 - y2));
        // the half-open rule: a pixel on a shared edge belongs to one of the two triangles
        if (a >= 0 && b >= 0 && c >= 0 && !(a === 0 && b === 0)) this.put(x, y, color);
      }
    }
  }

  private put(x: number, y: number, color: readonly number[]) {
    const k = (y * this.width + x) * 4;
    for (let c = 0; c < 3; c++) this.data[k + c] = color[c]!;
    this.data[k + 3] = Math.max(this.data[k + 3]!, color[3] ?? 255);
  }
}

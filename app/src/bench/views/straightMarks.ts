import type { LayoutView } from '../../session/messages.ts';
import { overlays } from '../../theme/palette.ts';
import type { SheetCamera } from './cameras.ts';

/** Px between the ticks of an edge that is to be straight. */
const tickEvery = 9;

/** Edges that are to be straight, drawn as a ruler's: a line with ticks to the right of its way. */
export function straightMarks(c: CanvasRenderingContext2D, eye: SheetCamera, { cornerUv, straight }: LayoutView, width: number, height: number): void {
  if (straight.length === 0) return;
  const lines = new Path2D();
  for (let k = 0; k < straight.length; k += 2) {
    const [a, b] = [straight[k]! * 2, straight[k + 1]! * 2];
    const [x, y] = eye.toPx(cornerUv[a]!, cornerUv[a + 1]!, width, height);
    const [toX, toY] = eye.toPx(cornerUv[b]!, cornerUv[b + 1]!, width, height);
    if (Math.max(x, toX) < 0 || Math.max(y, toY) < 0 || Math.min(x, toX) > width || Math.min(y, toY) > height) continue;
    const long = Math.hypot(toX - x, toY - y);
    if (long === 0) continue;
    lines.moveTo(x, y);
    lines.lineTo(toX, toY);
    const ticks = Math.min(200, Math.floor(long / tickEvery));
    for (let t = 0; t < ticks; t++) {
      const share = (t + 0.5) / ticks;
      const [px, py] = [x + (toX - x) * share, y + (toY - y) * share];
      lines.moveTo(px, py);
      lines.lineTo(px - ((toY - y) / long) * 5, py + ((toX - x) / long) * 5);
    }
  }
  for (const [color, wide] of [
    [overlays.seamCasing, 4],
    [overlays.selectedEdge, 1.6],
  ] as const) {
    c.strokeStyle = color;
    c.lineWidth = wide;
    c.stroke(lines);
  }
}

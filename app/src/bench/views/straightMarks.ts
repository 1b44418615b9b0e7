import type { LayoutView } from '../../session/messages.ts';
import { overlays } from '../../theme/palette.ts';
import type { SheetCamera } from './cameras.ts';

/** Px between the ticks of an edge that is to be straight. */
const tickEvery = 9;

/** Edges that are to be straight, drawn as a ruler's: a line with ticks to the right of its way; those that keep their length as a measure's: with a bar at both ends. */
export function straightMarks(c: CanvasRenderingContext2D, eye: SheetCamera, { cornerUv, straight, kept }: LayoutView, width: number, height: number): void {
  if (straight.length === 0 && kept.length === 0) return;
  const lines = new Path2D();
  const each = (pairs: Uint32Array, mark: (x: number, y: number, toX: number, toY: number, long: number) => void) => {
    for (let k = 0; k < pairs.length; k += 2) {
      const [a, b] = [pairs[k]! * 2, pairs[k + 1]! * 2];
      const [x, y] = eye.toPx(cornerUv[a]!, cornerUv[a + 1]!, width, height);
      const [toX, toY] = eye.toPx(cornerUv[b]!, cornerUv[b + 1]!, width, height);
      if (Math.max(x, toX) < 0 || Math.max(y, toY) < 0 || Math.min(x, toX) > width || Math.min(y, toY) > height) continue;
      const long = Math.hypot(toX - x, toY - y);
      if (long === 0) continue;
      lines.moveTo(x, y);
      lines.lineTo(toX, toY);
      mark(x, y, toX, toY, long);
    }
  };
  each(straight, (x, y, toX, toY, long) => {
    const ticks = Math.min(200, Math.floor(long / tickEvery));
    for (let t = 0; t < ticks; t++) {
      const share = (t + 0.5) / ticks;
      const [px, py] = [x + (toX - x) * share, y + (toY - y) * share];
      lines.moveTo(px, py);
      lines.lineTo(px - ((toY - y) / long) * 5, py + ((toX - x) / long) * 5);
    }
  });
  each(kept, (x, y, toX, toY, long) => {
    const [barX, barY] = [-((toY - y) / long) * 4, ((toX - x) / long) * 4];
    for (const [px, py] of [
      [x, y],
      [toX, toY],
    ] as const) {
      lines.moveTo(px - barX, py - barY);
      lines.lineTo(px + barX, py + barY);
    }
  });
  for (const [color, wide] of [
    [overlays.seamCasing, 4],
    [overlays.selectedEdge, 1.6],
  ] as const) {
    c.strokeStyle = color;
    c.lineWidth = wide;
    c.stroke(lines);
  }
}

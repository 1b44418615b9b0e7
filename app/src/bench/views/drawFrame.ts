import { overlays } from '../../theme/palette.ts';
import { monospaced } from '../../theme/theme.ts';
import { useBench } from '../../store/bench.ts';
import { frameRect, handlesOf, isSmall } from '../hands/frame.ts';
import { isHandTool } from '../hands/gripMirror.ts';
import { pivotPlace, useHands } from '../hands/handsState.ts';
import type { SheetCamera } from './cameras.ts';

type Place = [number, number];

/** The frame round what is selected on the sheet, with its handles and pivot; while something is dragged where it is now, what it catches at, and its numbers. */
export function drawFrame(c: CanvasRenderingContext2D, eye: SheetCamera, width: number, height: number): void {
  const hands = useHands.getState();
  const { grip, drag } = hands;
  const pivot = pivotPlace(hands);
  if (!grip || !pivot || !isHandTool(useBench.getState().tool)) return;
  const toPx = (u: number, v: number): Place => eye.toPx(u, v, width, height);
  const rect = frameRect(grip.box, toPx);
  const [x0, y0, x1, y1] = rect;
  const moved = (x: number, y: number): Place => {
    if (!drag) return [x, y];
    const [u, v] = eye.toUv(x, y, width, height);
    const [a, b, m, n, e, f] = drag.affine;
    return toPx(a * u + m * v + e, b * u + n * v + f);
  };
  const lined = (dash: number[], draw: () => void) => {
    for (const [color, wide] of [
      [overlays.seamCasing, 3.4],
      [overlays.selectedEdge, 1.4],
    ] as const) {
      c.strokeStyle = color;
      c.lineWidth = wide;
      c.setLineDash(dash);
      c.beginPath();
      draw();
      c.stroke();
    }
    c.setLineDash([]);
  };
  lined([7, 4], () => {
    for (const [k, [x, y]] of (
      [
        [x0, y0],
        [x1, y0],
        [x1, y1],
        [x0, y1],
        [x0, y0],
      ] as Place[]
    ).entries())
      if (k === 0) c.moveTo(...moved(x, y));
      else c.lineTo(...moved(x, y));
  });
  if (!drag && !isSmall(rect)) {
    for (const { hold, at } of handlesOf(rect)) {
      const [x, y] = at;
      if (hold.kind === 'turn') {
        // a bow round the corner
        const from = Math.atan2(-hold.y, hold.x) - Math.PI / 4;
        lined([], () => c.arc(x - hold.x * 17, y + hold.y * 17, 22, from, from + Math.PI / 2));
      } else if (hold.kind === 'size') {
        const isCorner = hold.x !== 0 && hold.y !== 0;
        c.fillStyle = overlays.selected;
        c.strokeStyle = overlays.selectedEdge;
        c.lineWidth = 1.6;
        c.beginPath();
        if (isCorner) {
          c.moveTo(x - hold.x * 9, y);
          c.lineTo(x, y);
          c.lineTo(x, y + hold.y * 9);
          c.closePath();
        } else if (hold.x === 0) c.roundRect(x - 8, y - 3, 16, 6, 3);
        else c.roundRect(x - 3, y - 8, 6, 16, 3);
        c.fill();
        c.stroke();
      }
    }
  }
  const [px, py] = typeof hands.pivot === 'string' ? moved(...toPx(...pivot)) : toPx(...pivot);
  // over a single point it would hide what is moved
  const isOverPoint = isSmall(rect) && Math.abs(px - (x0 + x1) / 2) < 13 && Math.abs(py - (y0 + y1) / 2) < 13;
  if (!isOverPoint || drag)
    lined([], () => {
      c.arc(px, py, 5, 0, 2 * Math.PI);
      c.moveTo(px - 9, py);
      c.lineTo(px + 9, py);
      c.moveTo(px, py - 9);
      c.lineTo(px, py + 9);
    });
  if (!drag) return;
  for (const { axis, at, words } of drag.guides) {
    const [gx, gy] = toPx(at, at);
    lined([3, 3], () => {
      c.moveTo(axis === 'u' ? gx : 0, axis === 'u' ? 0 : gy);
      c.lineTo(axis === 'u' ? gx : width, axis === 'u' ? height : gy);
    });
    label(c, [words], axis === 'u' ? gx + 4 : 44, axis === 'u' ? 44 : gy - 4, 'bottom');
  }
  const lines = [...drag.words, ...(drag.flips > 0 ? [`${drag.flips} flipped`] : [])];
  label(c, lines, drag.at[0] + 16, drag.at[1] + 18, 'top', width);
}

/** Words on a paper ground, clear of whatever is below. */
function label(c: CanvasRenderingContext2D, lines: string[], x: number, y: number, base: 'top' | 'bottom', width = Infinity): void {
  c.font = `600 12px ${monospaced}`;
  c.textAlign = 'left';
  c.textBaseline = 'middle';
  const wide = Math.max(...lines.map((line) => c.measureText(line).width)) + 12;
  const high = lines.length * 16 + 6;
  const top = base === 'top' ? y : y - high;
  // clear of the view's right border
  if (x + wide > width - 4) x -= wide + 32;
  c.fillStyle = overlays.seamCasing;
  c.strokeStyle = overlays.selectedEdge;
  c.lineWidth = 1;
  c.beginPath();
  c.roundRect(x, top, wide, high, 4);
  c.fill();
  c.stroke();
  c.fillStyle = overlays.selectedEdge;
  lines.forEach((line, k) => c.fillText(line, x + 6, top + 11 + k * 16));
}

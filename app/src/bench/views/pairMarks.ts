import { monospaced } from '../../theme/theme.ts';
import { usePairing } from '../pairing.ts';

/** Numbers at the points, or places, that have been pointed at: a ring with a cross in it. */
export function drawPairs(
  c: CanvasRenderingContext2D,
  of: 'points' | 'places',
  color: string,
  background: string,
  toPx: (at: readonly number[]) => [number, number],
): void {
  const { pairing } = usePairing.getState();
  if (!pairing) return;
  c.font = `700 12px ${monospaced}`;
  c.textAlign = 'left';
  c.textBaseline = 'middle';
  pairing[of].forEach((at, k) => {
    const [x, y] = toPx(at);
    for (const [wide, stroke] of [
      [4, background],
      [1.8, color],
    ] as const) {
      c.strokeStyle = stroke;
      c.lineWidth = wide;
      c.beginPath();
      c.arc(x, y, 7, 0, 2 * Math.PI);
      c.moveTo(x - 11, y);
      c.lineTo(x + 11, y);
      c.moveTo(x, y - 11);
      c.lineTo(x, y + 11);
      c.stroke();
    }
    c.strokeStyle = background;
    c.lineWidth = 3;
    c.strokeText(String(k + 1), x + 13, y - 10);
    c.fillStyle = color;
    c.fillText(String(k + 1), x + 13, y - 10);
  });
}

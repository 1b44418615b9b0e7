import { contours, loopArea, piecesOf, type Loops } from '../shape/contours.ts';
import type { Pixels } from './surface/pixels.ts';

/** Larger pictures are looked at in a copy reduced to this: the outline is found to a fraction of its px. */
const mostPx = 1536;

/** So many opaque pieces are looked at, the largest. */
const mostPieces = 1000;

/** The outline of what is opaque in a picture. */
export interface AlphaOutline {
  /** By the piece that they bound, in px of the picture, y upwards. */
  pieces: Loops[];
  width: number;
  height: number;
}

/**
 * Lines round what is opaque: where alpha passes a threshold, between px linearly, evened out over three points, so that the steps of px do not show. Specks of
 * less than a few px are left out. O(px)
 * @param threshold 0 to 255
 */
export function alphaOutline(picture: Pixels, threshold = 128): AlphaOutline {
  const { width, height } = picture;
  const by = Math.max(1, Math.ceil(Math.max(width, height) / mostPx));
  const [wide, high] = [Math.ceil(width / by), Math.ceil(height / by)];
  const alpha = (x: number, y: number) => {
    // rows of the picture run downwards; what is beyond it is transparent
    let sum = 0;
    for (let dy = 0; dy < by; dy++)
      for (let dx = 0; dx < by; dx++) {
        const [px, py] = [x * by + dx, height - 1 - (y * by + dy)];
        if (px < width && py >= 0) sum += picture.data[(py * width + px) * 4 + 3]!;
      }
    return sum / (by * by);
  };
  const loops = contours(wide, high, alpha, threshold, 12).map((loop) => evened(evened(loop)).map((x) => x * by));
  const pieces = piecesOf(loops);
  // of leaves and specks the largest: thousands would be compared with every island
  const kept = pieces.length > mostPieces ? pieces.sort((a, b) => loopArea(b[0]!) - loopArea(a[0]!)).slice(0, mostPieces) : pieces;
  return { pieces: kept, width, height };
}

/** Each point meant with its neighbours. */
function evened(loop: Float64Array): Float64Array {
  const n = loop.length;
  return loop.map((x, k) => (loop[(k - 2 + n) % n]! + 2 * x + loop[(k + 2) % n]!) / 4);
}

import { boxOfLoops, type Loop } from './outline.ts';

/** Square of the distance between two straight pieces; 0 where they cross. */
function apart(ax: number, ay: number, bx: number, by: number, cx: number, cy: number, dx: number, dy: number): number {
  const side = (px: number, py: number, qx: number, qy: number, rx: number, ry: number) => (qx - px) * (ry - py) - (qy - py) * (rx - px);
  const [s1, s2] = [side(ax, ay, bx, by, cx, cy), side(ax, ay, bx, by, dx, dy)];
  const [s3, s4] = [side(cx, cy, dx, dy, ax, ay), side(cx, cy, dx, dy, bx, by)];
  if (((s1 > 0 && s2 < 0) || (s1 < 0 && s2 > 0)) && ((s3 > 0 && s4 < 0) || (s3 < 0 && s4 > 0))) return 0;
  const toward = (px: number, py: number, qx: number, qy: number, rx: number, ry: number) => {
    const [ux, uy] = [rx - qx, ry - qy];
    const t = Math.max(0, Math.min(1, ((px - qx) * ux + (py - qy) * uy) / (ux * ux + uy * uy || 1)));
    return (px - qx - t * ux) ** 2 + (py - qy - t * uy) ** 2;
  };
  return Math.min(toward(ax, ay, cx, cy, dx, dy), toward(bx, by, cx, cy, dx, dy), toward(cx, cy, ax, ay, bx, by), toward(dx, dy, ax, ay, bx, by));
}

const isInside = (loops: readonly Loop[], x: number, y: number): boolean => {
  let turns = 0;
  for (const loop of loops) {
    for (let k = 0, j = loop.length - 2; k < loop.length; j = k, k += 2) {
      const [y0, y1] = [loop[j + 1]!, loop[k + 1]!];
      if (y0 > y === y1 > y) continue;
      if (loop[j]! + ((y - y0) / (y1 - y0)) * (loop[k]! - loop[j]!) > x) turns += y1 > y0 ? 1 : -1;
    }
  }
  return turns !== 0;
};

/**
 * The least distance between any two shapes, by all their edges and not by any raster; −1 where edges cross or a shape is within the solid of another.
 * @param from distances from here on do not matter: Infinity is given where all are larger
 * @param skips whether a pair is left out
 * O(pairs whose boxes are near · edges²).
 */
export function leastDistance(shapes: readonly (readonly Loop[])[], from: number, skips: (i: number, j: number) => boolean = () => false): number {
  const boxes = shapes.map(boxOfLoops);
  const order = shapes.map((_, i) => i).sort((a, b) => boxes[a]![0] - boxes[b]![0]);
  let least = from * from;
  for (let s = 0; s < order.length; s++) {
    const i = order[s]!;
    const a = boxes[i]!;
    for (let t = s + 1; t < order.length && boxes[order[t]!]![0] <= a[2] + from; t++) {
      const j = order[t]!;
      const b = boxes[j]!;
      if (b[1] > a[3] + from || b[3] < a[1] - from || skips(i, j)) continue;
      for (const one of shapes[i]!) {
        for (let k = 0, h = one.length - 2; k < one.length; h = k, k += 2) {
          const [ax, ay, bx, by] = [one[h]!, one[h + 1]!, one[k]!, one[k + 1]!];
          if (Math.min(ax, bx) > b[2] + from || Math.max(ax, bx) < b[0] - from || Math.min(ay, by) > b[3] + from || Math.max(ay, by) < b[1] - from) continue;
          for (const other of shapes[j]!) {
            for (let m = 0, l = other.length - 2; m < other.length; l = m, m += 2) {
              const [cx, cy, dx, dy] = [other[l]!, other[l + 1]!, other[m]!, other[m + 1]!];
              if (Math.min(cx, dx) > Math.max(ax, bx) + from || Math.max(cx, dx) < Math.min(ax, bx) - from) continue;
              if (Math.min(cy, dy) > Math.max(ay, by) + from || Math.max(cy, dy) < Math.min(ay, by) - from) continue;
              const own = apart(ax, ay, bx, by, cx, cy, dx, dy);
              if (own === 0) {
                if (crosses(ax, ay, bx, by, cx, cy, dx, dy)) return -1;
                least = 0;
              } else if (own < least) least = own;
            }
          }
        }
      }
      // no edges cross: one may hold the other, seen at one point of each line
      for (const [inner, outer] of [
        [shapes[i]!, shapes[j]!],
        [shapes[j]!, shapes[i]!],
      ] as const)
        for (const loop of inner) if (least > 0 && isInside(outer, loop[0]!, loop[1]!)) return -1;
    }
  }
  const out = Math.sqrt(least);
  return out >= from ? Infinity : out;
}

function crosses(ax: number, ay: number, bx: number, by: number, cx: number, cy: number, dx: number, dy: number): boolean {
  const side = (px: number, py: number, qx: number, qy: number, rx: number, ry: number) => (qx - px) * (ry - py) - (qy - py) * (rx - px);
  return side(ax, ay, bx, by, cx, cy) * side(ax, ay, bx, by, dx, dy) < 0 && side(cx, cy, dx, dy, ax, ay) * side(cx, cy, dx, dy, bx, by) < 0;
}

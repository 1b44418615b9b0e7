import type { Box } from '@jig-peel/core';

/** What a press on the frame takes hold of: a corner or side, which sizes; a bow outside a corner, which turns; the pivot; the inside, which moves. */
export type Hold = { kind: 'size'; x: -1 | 0 | 1; y: -1 | 0 | 1 } | { kind: 'turn'; x: -1 | 1; y: -1 | 1 } | { kind: 'pivot' } | { kind: 'inside' };

export type Px = readonly [number, number];

const reach = 9;
/** Middle of the bow that turns, px outside its corner. */
export const bowOut = 17;

/** A frame is never thinner than this, px. */
const thinnest = 26;

/** A frame round a single point, or as good as one: it is moved, and has no handles that would lie over it. */
export const isSmall = ([x0, y0, x1, y1]: readonly [number, number, number, number]): boolean => x1 - x0 < thinnest + 1 && y1 - y0 < thinnest + 1;

/** The frame's box in px: left, top, right, bottom; never thinner than can be held. */
export function frameRect([left, bottom, right, top]: Box, toPx: (u: number, v: number) => [number, number]): [number, number, number, number] {
  const [x0, y1] = toPx(left, bottom);
  const [x1, y0] = toPx(right, top);
  const [wide, high] = [Math.max(0, thinnest - (x1 - x0)) / 2, Math.max(0, thinnest - (y1 - y0)) / 2];
  return [x0 - wide, y0 - high, x1 + wide, y1 + high];
}

/** Handles of a frame in px: y −1 is below. */
export function handlesOf([x0, y0, x1, y1]: readonly [number, number, number, number]): { hold: Hold; at: Px }[] {
  const xs = { [-1]: x0, 0: (x0 + x1) / 2, 1: x1 } as Record<number, number>;
  const ys = { [-1]: y1, 0: (y0 + y1) / 2, 1: y0 } as Record<number, number>;
  const out: { hold: Hold; at: Px }[] = [];
  for (const x of [-1, 0, 1] as const)
    for (const y of [-1, 0, 1] as const) {
      if (x === 0 && y === 0) continue;
      out.push({ hold: { kind: 'size', x, y }, at: [xs[x]!, ys[y]!] });
      if (x !== 0 && y !== 0) out.push({ hold: { kind: 'turn', x, y }, at: [xs[x]! + x * bowOut, ys[y]! - y * bowOut] });
    }
  return out;
}

/** What is under px of the view; null outside of it all. @param pivot in px */
export function holdAt(rect: readonly [number, number, number, number], pivot: Px, x: number, y: number): Hold | null {
  const [x0, y0, x1, y1] = rect;
  const isInside = (px: number, py: number) => px >= x0 && px <= x1 && py >= y0 && py <= y1;
  if (isSmall(rect) && isInside(x, y)) return { kind: 'inside' };
  if (Math.hypot(x - pivot[0], y - pivot[1]) < reach) return { kind: 'pivot' };
  if (isSmall(rect)) return null;
  let best: Hold | null = null;
  let near = reach + 1;
  for (const { hold, at } of handlesOf(rect)) {
    const d = Math.hypot(x - at[0], y - at[1]);
    if (d >= near) continue;
    near = d;
    best = hold;
  }
  if (best) return best;
  return isInside(x, y) ? { kind: 'inside' } : null;
}

/** The pointer over a hold, with a tool in hand. */
export function cursorOf(hold: Hold | null, tool: string): string {
  if (!hold || (hold.kind === 'inside' && tool !== 'move')) return tool === 'move' ? 'move' : 'crosshair';
  if (hold.kind === 'inside') return 'move';
  if (hold.kind === 'pivot') return 'pointer';
  if (hold.kind === 'turn') return 'grab';
  if (hold.x === 0) return 'ns-resize';
  if (hold.y === 0) return 'ew-resize';
  return hold.x === hold.y ? 'nesw-resize' : 'nwse-resize';
}

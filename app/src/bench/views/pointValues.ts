import { overlays } from '../../theme/palette.ts';
import { monospaced } from '../../theme/theme.ts';
import type { BenchState } from '../../store/bench.ts';

export interface PointValue {
  point: number;
  u: number;
  v: number;
}

/** More than these would only cover the view. */
const most = 40;

/**
 * The UV points of the selected mesh points, each different place once; empty when values are off, other things are selected, or too many.
 * O(corners).
 */
export function pointValues({ summary, layout, geometry, look }: Pick<BenchState, 'summary' | 'layout' | 'geometry' | 'look'>): PointValue[] {
  const selection = summary?.selection;
  if (!look.values || !selection || !layout || !geometry || selection.kind !== 'points' || selection.part !== geometry.part) return [];
  if (selection.ids.length === 0 || selection.ids.length > most) return [];
  const wanted = new Set(selection.ids);
  const seen = new Set<string>();
  const out: PointValue[] = [];
  for (let f = 0; f < geometry.faces; f++) {
    if (layout.unplaced[f]) continue;
    for (let c = geometry.faceStart[f]!; c < geometry.faceStart[f + 1]!; c++) {
      const point = geometry.corners[c]!;
      if (!wanted.has(point)) continue;
      const [u, v] = [layout.cornerUv[c * 2]!, layout.cornerUv[c * 2 + 1]!];
      const key = `${point} ${u} ${v}`;
      if (seen.has(key)) continue;
      seen.add(key);
      out.push({ point, u, v });
    }
  }
  return out;
}

let last: { of: unknown[]; values: PointValue[] } | null = null;

/** Writes the values beside their points; several of one point go below each other. */
export function drawValues(c: CanvasRenderingContext2D, state: BenchState, at: (value: PointValue) => [number, number]): void {
  if (state.kind !== 'points') return;
  const of = [state.summary?.selection, state.layout, state.geometry, state.look.values];
  if (!last || of.some((x, k) => x !== last!.of[k])) last = { of, values: pointValues(state) };
  const { values } = last;
  if (values.length === 0) return;
  c.font = `11px ${monospaced}`;
  c.textBaseline = 'middle';
  c.textAlign = 'left';
  const lines = new Map<string, number>();
  for (const value of values) {
    const [x, y] = at(value);
    const key = `${Math.round(x)},${Math.round(y)}`;
    const line = lines.get(key) ?? 0;
    lines.set(key, line + 1);
    const words = `${value.u.toFixed(4)}  ${value.v.toFixed(4)}`;
    const top = y - 9 + line * 17;
    c.fillStyle = 'rgba(35,32,30,0.86)';
    c.fillRect(x + 9, top, c.measureText(words).width + 10, 16);
    c.fillStyle = overlays.seamCasing;
    c.fillText(words, x + 14, top + 8.5);
  }
}

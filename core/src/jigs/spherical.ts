import type { Jig } from './jig.ts';
import type { ProjectionWork } from './projected.ts';
import { besideOneAnother, turnOf } from './round.ts';
import * as portable from '../numeric/portable.ts';

const turns = new Float64Array(64);

/**
 * Equidistant cylindrical projection (Snyder, Map Projections: A Working Manual, USGS Professional Paper 1395, 1987, ch. 12) from the middle: u is
 * the longitude from the back, v the latitude.
 */
export function sphereFace({ start, places, uv, put }: ProjectionWork, { size, start: turned }: Jig, f: number): void {
  const from = start[f]!;
  const to = start[f + 1]!;
  const scratch = to - from <= turns.length ? turns : new Float64Array(to - from);
  for (let k = from; k < to; k++) scratch[k - from] = turnOf(places[k * 3]! / size[0], places[k * 3 + 2]! / size[2], turned);
  besideOneAnother(scratch, 0, to - from);
  for (let k = from; k < to; k++) {
    const x = places[k * 3]! / size[0];
    const y = places[k * 3 + 1]! / size[1];
    const z = places[k * 3 + 2]! / size[2];
    put(uv, k * 2, 0.5 + scratch[k - from]!, 0.5 + portable.atan2(y, Math.sqrt(x * x + z * z)) / Math.PI);
  }
}

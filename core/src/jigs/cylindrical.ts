import { extentsOf, repeatsOf, type Jig } from './jig.ts';
import type { ProjectionWork } from './projected.ts';
import { besideOneAnother, turnOf } from './round.ts';
import * as portable from '../numeric/portable.ts';

/** Patches of a cylinder. */
export const cylinderPatch = { side: 0, top: 1, bottom: 2 } as const;

const turns = new Float64Array(64);

/**
 * Round the axis: u is the turn from the back, the front in the middle; v the height. Faces that look along the axis are lids: flat, at the side's
 * scale, right way round from outside, the top one above the side's band and the bottom one below it.
 */
export function cylinderFace(work: ProjectionWork, jig: Jig, f: number): void {
  const { start, places, normals, uv, patch, put } = work;
  const { size, lids, lidAngle } = jig;
  const from = start[f]!;
  const to = start[f + 1]!;
  const nx = normals[f * 3]!;
  const ny = normals[f * 3 + 1]!;
  const nz = normals[f * 3 + 2]!;
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz);
  if (lids && length > 0 && Math.abs(ny) / length >= portable.cos((lidAngle * Math.PI) / 180) - 1e-12 && lidAngle > 0) {
    const top = ny > 0;
    patch[f] = top ? cylinderPatch.top : cylinderPatch.bottom;
    const [ru, rv] = repeatsOf(jig);
    const own = jig.own[top ? 'top' : 'bottom'];
    const [across, along] = extentsOf(jig);
    // an own number of repeats spans the lid; else the side's scale holds: ru images round the circumference, rv over the height
    const perUnitU = own ? own[0] / size[0] : ru / across;
    const perUnitV = own ? own[1] / size[2] : rv / along;
    const middle = top ? rv + (size[2] / 2) * perUnitV : -(size[2] / 2) * perUnitV;
    for (let k = from; k < to; k++) {
      const x = places[k * 3]!;
      const z = places[k * 3 + 2]!;
      // put multiplies by the repeats: they are in already
      put(uv, k * 2, 0.5 + (x * perUnitU) / ru, (middle - (top ? z : -z) * perUnitV) / rv);
    }
    return;
  }
  patch[f] = cylinderPatch.side;
  const scratch = to - from <= turns.length ? turns : new Float64Array(to - from);
  for (let k = from; k < to; k++) scratch[k - from] = turnOf(places[k * 3]! / size[0], places[k * 3 + 2]! / size[2], jig.start);
  besideOneAnother(scratch, 0, to - from);
  for (let k = from; k < to; k++) put(uv, k * 2, 0.5 + scratch[k - from]!, 0.5 + places[k * 3 + 1]! / size[1]);
}

import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import * as portable from '../numeric/portable.ts';
import { triangleStretch } from '../uv/triangleStretch.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** From where a part is looked at, and on what. */
export interface Viewing {
  /** Units from the eye to the surface. */
  distance: number;
  /** Px of the screen from top to bottom. */
  screen: number;
  /** Degrees that the view spans from top to bottom. */
  angle: number;
}

/** Px of the screen per unit of a surface that faces the eye: h / (2 d tan(α/2)), by similar triangles. */
export const screenPxPerUnit = ({ distance, screen, angle }: Viewing): number => screen / (2 * distance * tangent(angle));

/** The distance up to which a surface with so many px per unit shows a px of its own for each of the screen. */
export const sharpFrom = (density: number, { screen, angle }: Pick<Viewing, 'screen' | 'angle'>): number => screen / (2 * density * tangent(angle));

const tangent = (angle: number) => {
  const half = (angle * Math.PI) / 360;
  return portable.sin(half) / portable.cos(half);
};

/** A px more or less in a hundred is not seen. Our own. */
const tolerance = 0.99;

export interface Sharpness {
  /** Px of the screen per unit, as asked. */
  needed: number;
  /** Px per unit of the picture: mean by area, and the least; along whichever direction is coarser. */
  mean: number;
  least: number;
  /** Share of the placed area that is too coarse, 0 to 1, and its faces, rising. */
  coarse: number;
  faces: Uint32Array;
}

/**
 * Where a picture has fewer px than the screen that it is seen on. A face counts by the direction in which it has the fewest. Null where nothing has a place.
 * O(triangles).
 * @param width, height px of the picture
 */
export function sharpness(mesh: Mesh, set: UvSet, width: number, height: number, viewing: Viewing): Sharpness | null {
  const needed = screenPxPerUnit(viewing);
  const { count, face } = trianglesOf(mesh);
  const { least, area } = triangleStretch(mesh, set, width, height);
  const isCoarse = new Uint8Array(mesh.faceStart.length - 1);
  let [all, sum, coarse, fewest] = [0, 0, 0, Infinity];
  for (let t = 0; t < count; t++) {
    const own = least[t]!;
    if (set.unplaced[face[t]!] || !(area[t]! > 0) || Number.isNaN(own)) continue;
    all += area[t]!;
    sum += own * area[t]!;
    if (own < fewest) fewest = own;
    if (own >= needed * tolerance) continue;
    coarse += area[t]!;
    isCoarse[face[t]!] = 1;
  }
  if (!(all > 0)) return null;
  const faces = Uint32Array.from(isCoarse.keys()).filter((f) => isCoarse[f] === 1);
  return { needed, mean: sum / all, least: fewest, coarse: coarse / all, faces };
}

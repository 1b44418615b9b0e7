import type { Jig } from './jig.ts';
import type { ProjectionWork } from './projected.ts';

/** Straight through, or from an eye in front of the image (a view with perspective): the image is seen from there without any distortion. */
export function planarPlace({ corners, places, uv, put }: ProjectionWork, { size, eye, kind }: Jig): void {
  for (let k = 0; k < corners.length; k++) {
    let [x, y] = [places[k * 3]!, places[k * 3 + 1]!];
    if (kind === 'view' && eye !== null) {
      // what lies behind the eye, or at it, is held just before it: it has no place of its own in the view
      const depth = Math.max(eye * 1e-3, eye - places[k * 3 + 2]!);
      x *= eye / depth;
      y *= eye / depth;
    }
    put(uv, k * 2, 0.5 + x / size[0], 0.5 + y / size[1]);
  }
}

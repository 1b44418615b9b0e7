import { cubeSphere } from '../mesh/starterForms.ts';
import type { Mesh } from '../mesh/mesh.ts';

/** A blob with two limbs, alike left and right: a ball drawn out sideways and at the top. For tests. @param side quads along a side of the ball's cube */
export function makeFormMesh(side = 12): Mesh {
  const ball = cubeSphere(1, side);
  const points = ball.points.slice();
  for (let k = 0; k < points.length; k += 3) {
    const x = points[k]!;
    const y = points[k + 1]!;
    const limb = 1.6 * Math.exp(-((1 - Math.abs(x)) ** 2) / 0.06);
    points[k] = x + Math.sign(x) * limb;
    points[k + 1] = y + 0.7 * Math.exp(-((1 - y) ** 2) / 0.1);
  }
  return { ...ball, points };
}

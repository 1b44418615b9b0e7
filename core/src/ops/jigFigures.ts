import { stretchFigures, triangleStretch } from '../measure/distortion.ts';
import { faceCount, type Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { partedLength } from '../jigs/apply.ts';

/** Root mean square and energy of the stretch of chosen faces alone. */
export function figuresOfFaces(mesh: Mesh, set: UvSet, faces: ArrayLike<number>, width: number, height: number) {
  const unplaced = new Uint8Array(faceCount(mesh)).fill(1);
  for (let k = 0; k < faces.length; k++) unplaced[faces[k]!] = 0;
  const { stretchL2, symmetricDirichlet } = stretchFigures(triangleStretch(mesh, { ...set, unplaced }, width, height));
  return { stretchL2, symmetricDirichlet, seamLength: partedLength(mesh, set, faces) };
}

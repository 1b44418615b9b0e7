import { faceCount, pointCount, type Mesh } from '../mesh/mesh.ts';
import type { Origin } from './job.ts';

/** Whether what was kept of the file that a part came from goes with its mesh. O(points). */
export const originFits = (origin: Origin, mesh: Mesh): boolean =>
  origin.kind === 'made' ||
  (origin.kind === 'obj'
    ? (!origin.filePoints || (origin.filePoints.length === pointCount(mesh) && origin.filePoints.every((p) => p < origin.filePointCount))) &&
      (!origin.vtOf || (origin.vtOf.length * 2 === origin.fileUv?.length && origin.vtOf.every((id, k) => id <= k)))
    : origin.facePrimitive.length === faceCount(mesh) && origin.cornerVertex.length === mesh.corners.length && mesh.corners.length === faceCount(mesh) * 3);

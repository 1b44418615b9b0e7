import type { Mesh } from './mesh.ts';
import { faceComponents } from './topology.ts';

/** Faces of each piece that hangs together over plain edges, rising. O(corners) */
export function facesOfShell(mesh: Mesh): Uint32Array[] {
  const { ofFace, count } = faceComponents(mesh);
  const size = new Uint32Array(count);
  for (const k of ofFace) size[k]!++;
  const shells = Array.from(size, (n) => new Uint32Array(n));
  size.fill(0);
  ofFace.forEach((k, f) => (shells[k]![size[k]!++] = f));
  return shells;
}

import { imageFacts } from '../images/imageFacts.ts';
import { asItLies, placedAt, placementMatrix } from '../images/placement.ts';
import type { Job, JobImage, Part } from './job.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { UvSet } from '../uv/uvSet.ts';

const sizes = new WeakMap<JobImage, { width: number; height: number } | null>();
function sizeOf(image: JobImage): { width: number; height: number } | null {
  let size = sizes.get(image);
  if (size === undefined) {
    try {
      const { width, height } = imageFacts(image.bytes, image.name);
      size = { width, height };
    } catch {
      // one that cannot be read counts as square, as the test grid does
      size = null;
    }
    sizes.set(image, size);
  }
  return size;
}

/**
 * A UV set as the part's image lands on it: its placement worked in, measured on a sheet of the image's proportions, so that a circle in the image
 * counts as a circle; `px` is its true size. Without an image the UVs as they are, on a square sheet. O(UV points).
 */
export function asImageLands(
  job: Pick<Job, 'images'>,
  part: Part,
  set: UvSet,
): { set: UvSet; width: number; height: number; px: { width: number; height: number } | null } {
  const image = job.images.find(({ id }) => id === part.imageId);
  const size = image ? sizeOf(image) : null;
  const matrix = placementMatrix((image && part.placement) ?? asItLies);
  const uv = new Float64Array(set.uv.length);
  for (let k = 0; k < uv.length; k += 2) {
    const [x, y] = placedAt(matrix, set.uv[k]!, set.uv[k + 1]!);
    uv[k] = x;
    uv[k + 1] = y;
  }
  // whatever the px, only the proportions count
  const aspect = size && size.width > 0 && size.height > 0 ? size.width / size.height : 1;
  return { set: { ...set, uv }, width: 1024 * aspect, height: 1024, px: size };
}

/** Area of the placed faces in space and in the UV square. O(triangles). */
export function layoutAreas(mesh: Mesh, set: UvSet): { area: number; uvArea: number } {
  const { count, corners, face } = trianglesOf(mesh);
  const { points } = mesh;
  let area = 0;
  let uvArea = 0;
  for (let t = 0; t < count; t++) {
    if (set.unplaced[face[t]!]) continue;
    const [i, j, k] = [corners[t * 3]!, corners[t * 3 + 1]!, corners[t * 3 + 2]!];
    const [a, b, c] = [mesh.corners[i]! * 3, mesh.corners[j]! * 3, mesh.corners[k]! * 3];
    const ux = points[b]! - points[a]!;
    const uy = points[b + 1]! - points[a + 1]!;
    const uz = points[b + 2]! - points[a + 2]!;
    const vx = points[c]! - points[a]!;
    const vy = points[c + 1]! - points[a + 1]!;
    const vz = points[c + 2]! - points[a + 2]!;
    area += Math.sqrt((uy * vz - uz * vy) ** 2 + (uz * vx - ux * vz) ** 2 + (ux * vy - uy * vx) ** 2) / 2;
    const [p, q, r] = [set.cornerUv[i]! * 2, set.cornerUv[j]! * 2, set.cornerUv[k]! * 2];
    uvArea += Math.abs((set.uv[q]! - set.uv[p]!) * (set.uv[r + 1]! - set.uv[p + 1]!) - (set.uv[r]! - set.uv[p]!) * (set.uv[q + 1]! - set.uv[p + 1]!)) / 2;
  }
  return { area, uvArea };
}

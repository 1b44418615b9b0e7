import type { UvSet } from '../uv/uvSet.ts';
import type { Job, Part } from './job.ts';
import { repeatsImage } from './repeatsImage.ts';

/**
 * 1 for each face that may lie over others or beyond the sheet by design: all where the part's image goes on outside its borders, those that a live
 * jig drives, since it repeats the image. Null if there is none.
 */
export function meantFaces(job: Job, part: Part, set: UvSet): Uint8Array | null {
  const faces = part.mesh.faceStart.length - 1;
  if (repeatsImage(part)) return new Uint8Array(faces).fill(1);
  const drives = (job.jigs ?? [])
    .filter(({ state }) => state === 'live')
    .flatMap((jig) => jig.drives.filter((drive) => drive.part === part.id && drive.set === set.name));
  if (drives.length === 0) return null;
  const out = new Uint8Array(faces);
  for (const { faces: driven } of drives) for (const f of driven) out[f] = 1;
  return out;
}

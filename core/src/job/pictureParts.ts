import { fromMtlOptions, isAsItLies } from '../images/placement.ts';
import type { Job } from './job.ts';
import { materialImages, sameName } from './materialImages.ts';

/** Parts without an image get the one that their first material names, where the job has it. */
export function withMaterialImages(job: Job): Job {
  const named = materialImages(job);
  if (named.length === 0) return job;
  return {
    ...job,
    parts: job.parts.map((part) => {
      if (part.imageId !== null) return part;
      for (const material of part.mesh.materials) {
        const name = named.map(({ images }) => images.get(material)).find((found) => found !== undefined);
        const image = name === undefined ? undefined : job.images.find((candidate) => sameName(candidate.name, name));
        if (!image) continue;
        const statement = named.map(({ statements }) => statements.get(material)).find((found) => found !== undefined);
        const placement = fromMtlOptions(statement ?? '');
        return { ...part, imageId: image.id, ...(isAsItLies(placement) ? {} : { placement }) };
      }
      return part;
    }),
  };
}

import type { Context } from '../context.ts';
import { decodeImage } from '../images/decode.ts';
import type { Pixels } from '../images/surface/pixels.ts';
import { JigError } from '../jigError.ts';
import { partOf, type Job } from '../job/job.ts';

/** The picture that the part at work shows. @param forWhat what it is wanted for @throws JigError `nothing-to-do` where it shows none */
export async function pictureOf(job: Job, context: Context, forWhat: string): Promise<Pixels> {
  const { imageId } = partOf(job);
  const image = job.images.find(({ id }) => id === imageId);
  if (!image) throw new JigError('nothing-to-do', `The part shows no picture to ${forWhat}.`, '', 'Show one on it at Images.');
  return decodeImage(image.bytes, image.name, context.pool?.decode);
}

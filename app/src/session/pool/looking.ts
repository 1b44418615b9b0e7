import { decodeImage } from '@jig-peel/core/images/decode';
import { Surface } from '@jig-peel/core/images/surface/surface';
import { seamLooks as looksOf } from '@jig-peel/core/measure/seamLooks';
import type { JobImage, Pixels } from '@jig-peel/core';
import { KeptImages } from '../keptImages.ts';
import { decodeByBrowser } from './baking.ts';
import type { Tasks, Tools } from './tasks.ts';

const read = ({ bytes, name }: Pick<JobImage, 'bytes' | 'name'>): Promise<Pixels | null> => decodeImage(bytes, name, decodeByBrowser).catch(() => null);
const kept = new KeptImages(read);

export const decode = (input: Tasks['decode']['input']): Promise<Tasks['decode']['output']> => read(input);

/** How a surface differs over the seams of a layout. */
export async function seamLooks({ set, plan, images }: Tasks['seamLooks']['input'], tools: Tools): Promise<Tasks['seamLooks']['output']> {
  const mesh = tools.mesh();
  const pixels = await kept.of(images);
  tools.check();
  return looksOf(mesh, set, new Surface(mesh, plan, (id) => pixels.get(id) ?? null), () => tools.check());
}

import type { Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { PackOptions, PackReport } from './packing.ts';

/**
 * The searches that go on side by side; the best of them is taken, the first of equals, so that the same seed gives the same layout on any machine. Of many
 * islands one short search: they differ little, and two side by side hold each other up. Where islands may be mirrored, one search more has some of them so:
 * after a search that is seldom worth much, and it is never to cost anything.
 */
export function searchesOf(options: PackOptions, islands: number): PackOptions[] {
  const { seed = 1, effort, mirror = [] } = options;
  const plain = (islands > 64 && effort === 1 ? [seed] : [seed, seed + 7919]).map((one) => ({ ...options, seed: one, mirror: [] }));
  return mirror.length > 0 ? [...plain, { ...options, seed }] : plain;
}

/** Whether it is worth searching twice: not where nothing is searched. */
export const isSearched = ({ effort = 0, seconds, keepScale }: PackOptions): boolean => (effort > 0 || seconds !== undefined) && !keepScale;

/** Packs, by two searches where there is anything to search: one after the other here, side by side in other threads where there are any. */
export const packAside = async (mesh: Mesh, set: UvSet, options: PackOptions, context: Context): Promise<{ set: UvSet; report: PackReport }> => {
  if (context.pool?.pack) return context.pool.pack(mesh, set, options, context);
  // loaded when something is packed first
  const { packBest } = await import('./packBest.ts');
  if (!isSearched(options)) return packBest(mesh, set, options, context);
  const searches = searchesOf(options, options.islands?.length ?? islandsOf(mesh, set).count);
  const found = searches.map((search, k) => {
    const half = { ...context, progress: (share: number, text: string) => context.progress((k + share) / searches.length, text) };
    return packBest(mesh, set, { ...search, ...(options.seconds === undefined ? {} : { seconds: options.seconds / searches.length }) }, half);
  });
  return found.reduce((a, b) => (b.report.coverage > a.report.coverage ? b : a));
};

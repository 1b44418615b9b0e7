import { cubeSphere, emptyUvSet, layerSchema, parseSize, quietContext, type SolverPool } from '@jig-peel/core';
import { ofWantedImages } from '@jig-peel/core/images/bakeBands';
import type { WorkerPool } from './pool/workerPool.ts';

/** Px of the longer side of a rough picture: fewer of many triangles, each of which takes its time however few px it has. */
const roughSide = (triangles: number) => (triangles > 50_000 ? 128 : 256);
/** Rays a sample at most: enough to see where it is dark. */
export const roughRays = 8;

/** The size of a rough picture: as the whole one, its longer side shortened. */
export function roughSize(size: string, triangles: number): string {
  const { width, height } = parseSize(size);
  const scale = Math.min(1, roughSide(triangles) / Math.max(width, height));
  return `${Math.max(1, Math.round(width * scale))}x${Math.max(1, Math.round(height * scale))}`;
}

/** Has a worker of a pool load and compile what baking needs, by the smallest picture there is: the first real one comes as soon as the next. */
export async function warmBake(pool: Pick<WorkerPool, 'run'>): Promise<void> {
  const mesh = cubeSphere(1, 4);
  const set = { ...emptyUvSet(mesh), unplaced: new Uint8Array(mesh.faceStart.length - 1) };
  const layer = layerSchema.parse({ id: 'warm', name: 'warm', source: { kind: 'colour' } });
  const input = { mesh, sets: [set], activeSet: set, jigs: new Map(), layers: [{ layer, material: null }] };
  const options = { what: 'colour', width: 16, height: 16, samples: 1, tile: [0, 0], depth: 8, range: 1, reach: 1, rays: 1 } as const;
  const made = aside(pool);
  const bands = await made.bake!({ parts: [{ input, set }], around: [], images: [], options: { ...options, tile: [0, 0] } }, quietContext);
  await made.finishBake!(bands, { ...options, tile: [0, 0] }, 'full');
}

/** Bakes a small picture in one worker of a pool. */
export const aside = (pool: Pick<WorkerPool, 'run'>): SolverPool => ({
  bake: (input) => pool.run('bake', { ...ofWantedImages(input), isRough: true }),
  finishBake: (bands, options, bleed) => pool.run('finishBake', { bands, options, bleed }),
});

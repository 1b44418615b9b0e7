import { knownEdgeSight, type SolverPool } from '@jig-peel/core';
import type { MeshIds } from './meshIds.ts';
import type { Asked, WorkerPool } from './pool/workerPool.ts';

/** Moves seams in a worker of the pool; how much edges are seen goes with the task where it is known. */
export const moveSeamIn =
  (pool: Pick<WorkerPool, 'run'>, meshIds: MeshIds, asked: Asked): NonNullable<SolverPool['moveSeam']> =>
  (mesh, set, edges, wishes) =>
    pool.run('moveSeam', { set, edges, wishes, seen: knownEdgeSight(mesh, wishes) }, { ...asked, mesh: { id: meshIds.of(mesh), mesh } });

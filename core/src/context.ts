import type { Band } from './images/bake.ts';
import type { BakeOptions } from './images/bakeKinds.ts';
import type { BakedFile, BakeInput } from './images/bakeBands.ts';
import type { OtherDecoder } from './images/decode.ts';
import { JigError } from './jigError.ts';
import type { Mesh } from './mesh/mesh.ts';
import type { PackOptions, PackReport } from './pack/packing.ts';
import type { ProposeOptions, SeamProposal } from './propose/proposeSeams.ts';
import type { SeamMove } from './propose/seamMove.ts';
import type { SeamWishes } from './propose/seamPrices.ts';
import type { UvSet } from './uv/uvSet.ts';
import type { IslandTask, IslandResult } from './unwrap/solveIsland.ts';

/** Runs what takes long in other threads. */
export interface SolverPool {
  /** Results come back in the order of the tasks. Absent where that is done in this thread. */
  solve?(tasks: readonly IslandTask[], context: Context): Promise<IslandResult[]>;
  /** Bands of baked pictures, in any order; absent where they are made in this thread. */
  bake?(input: BakeInput, context: Context): Promise<Band[]>;
  /** Puts bands together, fills what is between the islands, writes the file; absent where that is done in this thread. */
  finishBake?(bands: readonly Band[], options: BakeOptions, bleed: number | 'full'): Promise<BakedFile>;
  /** Reads an image of a type that the core does not read. */
  decode?: OtherDecoder;
  /** `packLayout`; absent where that is done in this thread. */
  pack?(mesh: Mesh, set: UvSet, options: PackOptions, context: Context): Promise<{ set: UvSet; report: PackReport }>;
  /** `proposeSeams`; absent where that is done in this thread. */
  propose?(mesh: Mesh, set: UvSet, options: ProposeOptions, context: Context): Promise<SeamProposal>;
  /** `moveSeamByWishes`; absent where that is done in this thread. */
  moveSeam?(mesh: Mesh, set: UvSet, edges: readonly number[], wishes: SeamWishes): Promise<SeamMove>;
}

/** What every long function is given: progress out, cancel in, and workers if there are any. */
export interface Context {
  /** Called with a share from 0 to 1 and what is being done. */
  progress(share: number, text: string): void;
  /** Throws a JigError with code `cancelled` once the person has cancelled. */
  throwIfCancelled(): void;
  pool?: SolverPool;
}

/** A context that shows nothing and cannot be cancelled. */
export const quietContext: Context = { progress: () => {}, throwIfCancelled: () => {} };

/** A context that an AbortSignal cancels. */
export function contextWithSignal(signal: AbortSignal, progress: Context['progress'] = () => {}): Context {
  return {
    progress,
    throwIfCancelled: () => {
      if (signal.aborted) throw new JigError('cancelled', 'Cancelled; nothing was changed.');
    },
  };
}

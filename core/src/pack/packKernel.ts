import { packModule } from './packModule.generated.ts';
import { sampleModule } from './sampleModule.generated.ts';
import { instanceOf, moduleFrom } from './wasmModule.ts';

/** What core/assembly/packing.ts exports; addresses in bytes, see there. */
export interface PackKernel {
  setUp(table: number, pieces: number, coarseFactor: number, stride: number, start: number, end: number, seed: number): void;
  dropMaps(): void;
  begin(width: number, height: number): number;
  sweep(width: number, height: number, gain: number, decay: number): number;
  setUpNear(table: number, pieces: number, reach: number, seed: number): void;
  beginNear(width: number, height: number, step: number): number;
  sweepNear(width: number, height: number, step: number, spin: number, gain: number, decay: number): number;
  /** Work done so far, in about 10 ns each. */
  readonly work: { readonly value: number };
}

const depths = moduleFrom(packModule);

/** False in an engine without SIMD: packing keeps to what the plain code finds. */
export const hasPackKernel = (): boolean => depths() !== null;

/** The kernel with a memory of its own. */
export const packKernel = (bytes: number) => instanceOf<PackKernel>(depths(), bytes);

/** What core/assembly/sampling.ts exports; addresses in bytes, see there. */
export interface SampleKernel {
  setUp(
    pieces: number,
    records: number,
    boxes: number,
    standing: number,
    weights: number,
    losses: number,
    order: number,
    edges: number,
    circles: number,
    places: number,
    seed: number,
  ): void;
  begin(width: number, height: number, growth: number): number;
  listOverlapping(): number;
  movePieces(from: number, to: number): void;
  reweigh(gain: number, decay: number): number;
  /** Work done so far, in about 10 ns each. */
  readonly work: { readonly value: number };
}

const sampling = moduleFrom(sampleModule);

/** The kernel that tries places, with a memory of its own. */
export const sampleKernel = (bytes: number) => instanceOf<SampleKernel>(sampling(), bytes);

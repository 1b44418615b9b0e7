import { packModule } from './packModule.generated.ts';
import { sampleModule } from './sampleModule.generated.ts';

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

const page = 65536;
let compiled: WebAssembly.Module | null | undefined;

function module(): WebAssembly.Module | null {
  if (compiled === undefined) {
    try {
      compiled = new WebAssembly.Module(Uint8Array.from(atob(packModule), (c) => c.charCodeAt(0)));
    } catch {
      // an engine without SIMD: packing keeps to what the plain code finds
      compiled = null;
    }
  }
  return compiled;
}

export const hasPackKernel = (): boolean => module() !== null;

/** The kernel with a memory of its own. */
export function packKernel(bytes: number): { kernel: PackKernel; memory: WebAssembly.Memory } {
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / page) + 16, maximum: 65536 });
  return { memory, kernel: new WebAssembly.Instance(module()!, { env: { memory } }).exports as unknown as PackKernel };
}

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

let sampling: WebAssembly.Module | undefined;

/** The kernel that tries places, with a memory of its own. */
export function sampleKernel(bytes: number): { kernel: SampleKernel; memory: WebAssembly.Memory } {
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / page) + 16, maximum: 65536 });
  sampling ??= new WebAssembly.Module(Uint8Array.from(atob(sampleModule), (c) => c.charCodeAt(0)));
  return { memory, kernel: new WebAssembly.Instance(sampling, { env: { memory } }).exports as unknown as SampleKernel };
}

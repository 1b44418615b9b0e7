import { cellsModule } from './cellsModule.generated.ts';

/** What core/assembly/cells.ts exports; addresses in bytes, see there. */
export interface CellsKernel {
  setUp(
    columns: number,
    rows: number,
    words: number,
    stride: number,
    levels: number,
    free: number,
    wide: number,
    stale: number,
    staleWide: number,
    allowed: number,
  ): void;
  lowestFit(
    starts: number,
    runs: number,
    rows: number,
    reach: number,
    order: number,
    count: number,
    border: number,
    last: number,
    from: number,
    top: number,
  ): number;
  /** Work done so far, in about 2 ns each. */
  readonly work: { readonly value: number };
}

const page = 65536;
let compiled: WebAssembly.Module | null | undefined;

function module(): WebAssembly.Module | null {
  if (compiled === undefined) {
    try {
      compiled = new WebAssembly.Module(Uint8Array.from(atob(cellsModule), (c) => c.charCodeAt(0)));
    } catch {
      // an engine without SIMD: the plain code does it
      compiled = null;
    }
  }
  return compiled;
}

export const hasCellsKernel = (): boolean => module() !== null;

/** The kernel that finds free cells, with a memory of its own. */
export function cellsKernel(bytes: number): { kernel: CellsKernel; memory: WebAssembly.Memory } {
  const memory = new WebAssembly.Memory({ initial: Math.ceil(bytes / page) + 1, maximum: 65536 });
  return { memory, kernel: new WebAssembly.Instance(module()!, { env: { memory } }).exports as unknown as CellsKernel };
}

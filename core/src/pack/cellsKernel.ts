import { cellsModule } from './cellsModule.generated.ts';
import { instanceOf, moduleFrom } from './wasmModule.ts';

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

const module = moduleFrom(cellsModule);

/** False in an engine without SIMD: the plain code does it there. */
export const hasCellsKernel = (): boolean => module() !== null;

/** The kernel that finds free cells, with a memory of its own. */
export const cellsKernel = (bytes: number) => instanceOf<CellsKernel>(module(), bytes);

import { findRow, singularMatrix } from './cholesky.ts';
import type { Factor } from './factor.ts';
import { fusedModule, simdModule } from './simdModule.generated.ts';
import type { Symbolic } from './symbolic.ts';

interface Exports {
  factorise(frontCount: number, fronts: number, places: number, children: number, relative: number, pairs: boolean, stack: number): number;
  solveTwo(frontCount: number, fronts: number, places: number, unknowns: number, x: number, local: number): void;
}

interface Arena {
  memory: WebAssembly.Memory;
  exports: Exports;
}

const PAGE = 65536;
/** 32-bit addresses, less one page. */
const LARGEST = 65535 * PAGE;
/** Arenas larger than this are left to the garbage collector. */
const KEPT_BYTES = 256 * 2 ** 20;
const KEPT_ARENAS = 3;

let compiled: WebAssembly.Module | null | undefined;
let kind: 'fused' | 'plain' | 'none' = 'none';
const idle: Arena[] = [];

const bytesOf = (base64: string) => Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));

/** The binary with fused multiplication and addition where the engine has that, else the plain one; null without SIMD. */
function module(): WebAssembly.Module | null {
  if (compiled === undefined) {
    try {
      const fused = bytesOf(fusedModule);
      const takesFused = WebAssembly.validate(fused);
      compiled = new WebAssembly.Module(takesFused ? fused : bytesOf(simdModule));
      kind = takesFused ? 'fused' : 'plain';
    } catch {
      compiled = null;
    }
  }
  return compiled;
}

/** Which binary the factorisations of this thread run: with multiplication and addition in one instruction (a quarter faster), without, or none. */
export function simdKind(): typeof kind {
  module();
  return kind;
}

function takeArena(bytes: number): Arena {
  const pages = Math.ceil(bytes / PAGE) + 1;
  const arena = idle.pop();
  if (arena) {
    const missing = pages - arena.memory.buffer.byteLength / PAGE;
    if (missing > 0) arena.memory.grow(missing);
    return arena;
  }
  const memory = new WebAssembly.Memory({ initial: pages, maximum: 65536 });
  return { memory, exports: new WebAssembly.Instance(module()!, { env: { memory } }).exports as unknown as Exports };
}

const up4 = (k: number) => (k + 3) & ~3;
const up16 = (k: number) => Math.ceil(k / 16) * 16;

interface Layout {
  fronts: Int32Array;
  /** Byte addresses: panel and update matrix of each front, counted from the start of the panels and of the stack. */
  panelAt: Float64Array;
  updateAt: Float64Array;
  panelBytes: number;
  stackBytes: number;
  tallest: number;
}

const updateBytes = (rows: number) => (rows / 4) * (rows / 4 + 1) * 64;

function plan({ frontCount, frontStart, rowStart, childStart, children }: Symbolic, b: number): Layout {
  const fronts = new Int32Array(frontCount * 8);
  const panelAt = new Float64Array(frontCount);
  const updateAt = new Float64Array(frontCount);
  let panelBytes = 0;
  let top = 0;
  let stackBytes = 0;
  let tallest = 0;
  for (let s = 0; s < frontCount; s++) {
    const columns = (frontStart[s + 1]! - frontStart[s]!) * b;
    const rows = (rowStart[s + 1]! - rowStart[s]!) * b;
    const stride = up4(columns);
    const updateRows = up4(rows);
    fronts.set([stride, updateRows, columns, rows, childStart[s]!, childStart[s + 1]!, rowStart[s]! * b, frontStart[s]! * b], s * 8);
    panelAt[s] = panelBytes;
    panelBytes += stride * (stride + updateRows) * 8;
    const base = childStart[s + 1]! > childStart[s]! ? updateAt[children[childStart[s]!]!]! : top;
    const bytes = updateBytes(updateRows);
    stackBytes = Math.max(stackBytes, top + bytes);
    updateAt[s] = base;
    top = base + bytes;
    tallest = Math.max(tallest, stride + updateRows);
  }
  return { fronts, panelAt, updateAt, panelBytes, stackBytes, tallest };
}

function bytesNeeded(symbolic: Symbolic, b: number, layout: Layout): number {
  const { frontCount, rows, children, size } = symbolic;
  return PAGE + layout.panelBytes + layout.stackBytes + frontCount * 40 + children.length * 4 + rows.length * b * 8 + size * b * 16 + layout.tallest * 16 + 256;
}

const layouts = new WeakMap<Symbolic, (Layout | undefined)[]>();

function layoutOf(symbolic: Symbolic, b: number): Layout {
  const known = layouts.get(symbolic) ?? [];
  layouts.set(symbolic, known);
  return (known[b] ??= plan(symbolic, b));
}

/** Is there a SIMD module here, and does this factorisation fit its 4 GB? */
export function simdFits(symbolic: Symbolic, blockSize: number): boolean {
  return module() !== null && bytesNeeded(symbolic, blockSize, layoutOf(symbolic, blockSize)) < LARGEST;
}

/** The factorisation of cholesky.ts in the SIMD module of core/assembly: the same numbers but for rounding, 4–6 times as fast. */
export class SimdCholesky implements Factor {
  private readonly symbolic: Symbolic;
  private readonly blockSize: number;
  private arena: Arena | undefined;
  private readonly at: { fronts: number; places: number; children: number; relative: number; unknowns: number; x: number; local: number; stack: number };
  private readonly panelBase: number;
  private readonly panelNumbers: number;
  private readonly entryTarget: Int32Array;
  private readonly entryTransposed: Uint8Array;

  /** @param blockSize unknowns a vertex (1 or 2) */
  constructor(symbolic: Symbolic, blockSize: 1 | 2) {
    this.symbolic = symbolic;
    this.blockSize = blockSize;
    const b = blockSize;
    const layout = layoutOf(symbolic, b);
    const { frontCount, rows, rowInParent, children, size } = symbolic;
    this.arena = takeArena(bytesNeeded(symbolic, b, layout));
    let free = 1024;
    const take = (bytes: number) => {
      const start = free;
      free += up16(bytes);
      return start;
    };
    this.at = {
      fronts: take(frontCount * 32),
      places: take(frontCount * 8),
      children: take(children.length * 4),
      relative: take(rows.length * b * 4),
      unknowns: take(rows.length * b * 4),
      x: take(size * b * 16),
      local: take(layout.tallest * 16),
      stack: 0,
    };
    this.panelBase = take(layout.panelBytes);
    this.panelNumbers = layout.panelBytes / 8;
    this.at.stack = take(layout.stackBytes);
    const ints = new Int32Array(this.arena.memory.buffer);
    ints.set(layout.fronts, this.at.fronts / 4);
    ints.set(children, this.at.children / 4);
    const places = new Uint32Array(this.arena.memory.buffer, this.at.places, frontCount * 2);
    for (let s = 0; s < frontCount; s++) {
      places[s * 2] = this.panelBase + layout.panelAt[s]!;
      places[s * 2 + 1] = this.at.stack + layout.updateAt[s]!;
    }
    for (const [from, to] of [
      [rowInParent, this.at.relative / 4],
      [rows, this.at.unknowns / 4],
    ] as const) {
      if (b === 1) ints.set(from, to);
      else {
        for (let e = 0; e < from.length; e++) {
          ints[to + e * 2] = from[e]! * 2;
          ints[to + e * 2 + 1] = from[e]! * 2 + 1;
        }
      }
    }
    this.entryTarget = new Int32Array(symbolic.pattern.rows.length);
    this.entryTransposed = new Uint8Array(symbolic.pattern.rows.length);
    this.placeEntries(layout);
  }

  /** Where each entry of the matrix goes in the panels. */
  private placeEntries(layout: Layout) {
    const { pattern, place, size, frontCount, frontStart, rowStart, rows } = this.symbolic;
    const b = this.blockSize;
    const frontOf = new Int32Array(size);
    for (let s = 0; s < frontCount; s++) frontOf.fill(s, frontStart[s]!, frontStart[s + 1]!);
    for (let j = 0; j < pattern.size; j++) {
      const pj = place[j]!;
      for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++) {
        const pi = place[pattern.rows[e]!]!;
        const low = pi < pj ? pi : pj;
        const high = pi < pj ? pj : pi;
        const s = frontOf[low]!;
        const stride = layout.fronts[s * 8]!;
        const row = high < frontStart[s + 1]! ? (high - frontStart[s]!) * b : stride + findRow(rows, rowStart[s]!, rowStart[s + 1]!, high) * b;
        const column = (low - frontStart[s]!) * b;
        this.entryTarget[e] = layout.panelAt[s]! / 8 + ((row >> 2) * stride + column) * 4 + (row & 3);
        this.entryTransposed[e] = pi >= pj ? 0 : 1;
      }
    }
  }

  /** @param values as in Cholesky.factorise; @throws JigError `singular` */
  factorise(values: Float64Array): void {
    const { entryTarget, entryTransposed, blockSize: b, symbolic, at } = this;
    const { memory, exports } = this.arena!;
    const panel = new Float64Array(memory.buffer, this.panelBase, this.panelNumbers);
    panel.fill(0);
    const entries = entryTarget.length;
    if (b === 1) {
      for (let e = 0; e < entries; e++) panel[entryTarget[e]!] = values[e]!;
    } else {
      for (let e = 0; e < entries; e++) {
        const to = entryTarget[e]!;
        const turned = entryTransposed[e]!;
        panel[to] = values[e * 4]!;
        panel[to + 1] = values[e * 4 + 2 - turned]!;
        panel[to + 4] = values[e * 4 + 1 + turned]!;
        panel[to + 5] = values[e * 4 + 3]!;
      }
    }
    const failed = exports.factorise(symbolic.frontCount, at.fronts, at.places, at.children, at.relative, b === 2, at.stack);
    if (failed) throw singularMatrix();
  }

  /** As Cholesky.solve; two sides cost as much as one. */
  solve(rhs: Float64Array, sides = 1): Float64Array {
    const { blockSize: b, symbolic, at } = this;
    const { memory, exports } = this.arena!;
    const { size, place } = symbolic;
    const x = new Float64Array(memory.buffer, at.x, size * b * 2);
    const out = new Float64Array(rhs.length);
    for (let side = 0; side < sides; side += 2) {
      const both = side + 1 < sides;
      for (let i = 0; i < size; i++) {
        for (let k = 0; k < b; k++) {
          const to = (place[i]! * b + k) * 2;
          const from = (i * b + k) * sides + side;
          x[to] = rhs[from]!;
          x[to + 1] = both ? rhs[from + 1]! : 0;
        }
      }
      exports.solveTwo(symbolic.frontCount, at.fronts, at.places, at.unknowns, at.x, at.local);
      for (let i = 0; i < size; i++) {
        for (let k = 0; k < b; k++) {
          const from = (place[i]! * b + k) * 2;
          const to = (i * b + k) * sides + side;
          out[to] = x[from]!;
          if (both) out[to + 1] = x[from + 1]!;
        }
      }
    }
    return out;
  }

  release(): void {
    const arena = this.arena;
    this.arena = undefined;
    if (arena && idle.length < KEPT_ARENAS && arena.memory.buffer.byteLength <= KEPT_BYTES) idle.push(arena);
  }
}

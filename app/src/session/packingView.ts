import { outlinesOf, type Mesh, type PackOptions, type UvSet } from '@jig-peel/core';
import type { PackingView } from './messages.ts';
import type { FoundLayout } from './pool/tasks.ts';

/** @returns what the screen shows of a search: the outlines of the best layout so far, and how the coverage grew */
export function packingView(mesh: Mesh, set: UvSet, { width, height }: PackOptions): (found: FoundLayout) => PackingView {
  const begun = performance.now();
  const trace: { seconds: number; coverage: number }[] = [];
  return ({ uv, coverage }) => {
    trace.push({ seconds: (performance.now() - begun) / 1000, coverage });
    const outlines = outlinesOf(mesh, { ...set, uv }, width, height).flatMap((loops) =>
      loops.length === 0 ? [] : [loops.map((loop) => Float32Array.from(loop, (v, k) => v / (k % 2 === 0 ? width : height)))],
    );
    return { outlines, coverage, trace: [...trace] };
  };
}

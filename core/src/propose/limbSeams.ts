import type { Mesh } from '../mesh/mesh.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import type { Symmetry } from '../select/symmetry.ts';
import { cut } from '../seams/cut.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { coarseSeams, type Prices } from './coarseSeams.ts';
import { madeAlike } from './madeAlike.ts';
import { findLimbs } from './limbs.ts';

/** Triangles of the coarser mesh on which limbs are sought where there are many more. */
const coarse = 4000;

/** Rings at the roots of a mesh's limbs (see `findLimbs`); on a large mesh found on a coarser one. @returns edges to cut, and how many limbs they part */
export function limbSeams(mesh: Mesh, given: UvSet, prices: Prices, symmetry: Symmetry | null): { edges: number[]; limbs: number } {
  if (trianglesOf(mesh).count <= 1.6 * coarse) {
    const limbs = findLimbs(mesh, prices, symmetry);
    return {
      edges: open(
        prices,
        limbs.flatMap(({ ring }) => ring),
      ),
      limbs: limbs.length,
    };
  }
  const rough = coarseSeams(mesh, given, prices, symmetry, coarse);
  const limbs = findLimbs(rough.mesh, rough.prices, rough.mirror);
  const rings = open(
    rough.prices,
    limbs.flatMap(({ ring }) => ring),
  );
  if (rings.length === 0) return { edges: [], limbs: 0 };
  const edges = rough.toFine(cut(rough.mesh, rough.given, rings).set);
  return { edges: symmetry ? madeAlike(mesh, given, edges, symmetry, prices) : edges, limbs: limbs.length };
}

/** Without those where no seam may run. */
const open = ({ price }: Prices, edges: number[]) => [...new Set(edges)].filter((e) => price[e]! < Infinity);

import type { Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { evenDensity } from '../pack/density.ts';
import { packAside } from '../pack/packAside.ts';
import type { PackOptions } from '../pack/packing.ts';
import type { Symmetry } from '../select/symmetry.ts';
import { symmetricLayout } from '../unwrap/symmetricLayout.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** The sheet that proposals are laid out on. */
export type ProposalSheet = Pick<PackOptions, 'width' | 'height' | 'gap' | 'borderGap'>;

/**
 * Pieces that lie flat at one scale, each by itself, as a first layout: made symmetric where they are, the rest upright, and packed without a search.
 * The set's UVs are square units.
 *
 * @returns UVs on the sheet, and the share of it that the pieces cover
 */
export async function firstPacking(
  mesh: Mesh,
  flat: UvSet,
  symmetry: Symmetry | null,
  { width, height, gap, borderGap }: ProposalSheet,
  context: Context,
): Promise<{ set: UvSet; coverage: number; astride: readonly number[] }> {
  const mirrored = symmetry ? symmetricLayout(mesh, flat, symmetry) : { set: flat, astride: [] };
  const { count } = islandsOf(mesh, flat);
  const standing = new Set(mirrored.astride);
  const uv = mirrored.set.uv.map((x, k) => (k % 2 === 0 ? (x * height) / width : x));
  const even = evenDensity(mesh, { ...mirrored.set, uv }, width, height).set;
  const { set, report } = await packAside(
    mesh,
    even,
    {
      width,
      height,
      gap,
      borderGap,
      turn: 'quarter',
      keepScale: false,
      resolution: 512,
      turnOf: Object.fromEntries(mirrored.astride.map((i) => [i, 'none' as const])),
      upright: Array.from({ length: count }, (_, i) => i).filter((i) => !standing.has(i)),
    },
    context,
  );
  return { set, coverage: report.coverage, astride: mirrored.astride };
}

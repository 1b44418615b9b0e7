import { z } from 'zod';
import { JigError } from '../jigError.ts';
import type { Context } from '../context.ts';
import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { checkLayout, type CheckReport, type FaultFaces } from './check.ts';
import { atOwnScale, stretchFigures, triangleStretch } from './distortion.ts';
import { limitKeys, type LimitKey, type Limits } from './judge.ts';
import { someLimitsSchema } from './limitsSchema.ts';

/** Limits as a file of their own. What a file leaves out is not asked for. */
export const limitsFileSchema = z.object({
  jigPeelLimits: z.literal(1),
  name: z.string().max(200).default('Limits'),
  limits: someLimitsSchema.strict(),
});

/** @throws JigError `bad-file` for what is no limits file */
export function readLimits(text: string): { name: string; limits: Limits } {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    throw new JigError('bad-file', 'The limits are no JSON.', '', 'Write them by “Keep as a file” at Check.');
  }
  const parsed = limitsFileSchema.strict().safeParse(given);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new JigError('bad-file', `These are no limits: ${issue!.message}.`, issue!.path.join('.'), 'Write them by “Keep as a file” at Check.');
  }
  const none = Object.fromEntries(limitKeys.map((key) => [key, null])) as Record<LimitKey, null>;
  return { name: parsed.data.name, limits: { ...none, ...parsed.data.limits } as Limits };
}

/** Where the stretch of each face is taken from, when it is not the layout itself: the layout as the image lands. */
export interface Landed {
  set: UvSet;
  width: number;
  height: number;
}

/**
 * All measures as they are judged: those of `checkLayout`, with the stretch inside of islands, each at its own scale; how their sizes differ is told by density.
 * @param landed the layout as the image lands, where stretch counts it
 */
export function judgedReport(
  mesh: Mesh,
  set: UvSet,
  { width, height, tiles = 1, sight, landed = null }: { width: number; height: number; tiles?: number; sight: Float64Array | null; landed?: Landed | null },
  context?: Context,
): { report: CheckReport; faults: FaultFaces } {
  const { report, faults } = checkLayout(mesh, set, width, height, context, tiles, sight);
  const of = landed ?? { set, width, height };
  const stretch = stretchFigures(atOwnScale(mesh, of.set, triangleStretch(mesh, of.set, of.width, of.height)));
  return { report: { ...report, ...stretch }, faults };
}

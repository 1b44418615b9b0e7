import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { applyJig } from '../jigs/apply.ts';
import { facesBy } from './faceSelector.ts';
import { figuresOfFaces } from './jigFigures.ts';
import { jigKinds, type Jig } from '../jigs/jig.ts';
import { placeJig, placementAxes } from '../jigs/place.ts';
import { activeSet, partOf, withSet, type Part } from '../job/job.ts';
import { sheetFor } from '../job/sheets.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

export interface PlaceReport {
  faces: number;
  parts: number;
  kind: Jig['kind'];
  /** Root mean square stretch of the faces placed (Sander et al. 2001). */
  stretchL2: number | null;
  symmetricDirichlet: number | null;
  /** Length between the placed faces that the projection parts, units. */
  seamLength: number;
  jig: Jig;
}

const pair = z
  .string()
  .regex(/^\d*\.?\d+(,\d*\.?\d+)?$/, 'one number, or two with a comma')
  .transform((text) => {
    const [u, v = u] = text.split(',').map(Number) as [number, number?];
    return [u, v] as [number, number];
  });

export const place = defineOperation({
  name: 'place',
  headings: 'set',
  label: 'Place a projection',
  words: 'planar cylindrical spherical box',
  changes: ['uvs', 'seams', 'marks', 'jigs'],
  commandLine: { output: 'model', hidden: ['part', 'parts'] },
  summary: 'Place a projection on faces and write it to the UVs',
  params: z.object({
    part: partSchema,
    parts: z.enum(['active', 'all']).default('all').describe('the part at work alone, or each part with a jig of its own'),
    kind: z.enum(jigKinds).describe('how the image is thrown on the faces'),
    axis: z.enum(placementAxes).default('auto').describe('direction of a flat one, axis of a tube or ball'),
    repeat: z
      .union([pair, z.tuple([z.number().positive(), z.number().positive()])])
      .describe('repeats of the image in u and v, e.g. 3 or 3,2')
      .optional(),
    imageWidth: z.number().positive().describe('the image is so many units wide: repeats follow from it').optional(),
    faces: z.string().default('all').describe('all, group:NAME, material:NAME, or numbers like 0,4,7-12'),
    lids: z.boolean().default(true).describe('a tube’s ends flat, at the side’s scale'),
  }),
  run(job, { part: id, parts, kind, axis, repeat, imageWidth, faces: selector, lids }) {
    const named = /^(group|material):/.test(selector);
    const chosen = id !== undefined || parts === 'active' || (selector !== 'all' && !named) ? [partOf(job, id)] : job.parts;
    const placed: PlaceReport[] = [];
    let next = job;
    for (const part of chosen) {
      if (named && chosen.length > 1 && !hasNamed(part, selector)) continue;
      const faces = facesBy(job, part, selector);
      const fitted = placeJig(part.mesh, faces, kind, axis);
      const jig: Jig = { ...fitted, lids, ...(repeat ? { repeats: [repeat[0], repeat[1]] as [number, number] } : {}), ...(imageWidth ? { imageWidth } : {}) };
      const set = applyJig(part.mesh, activeSet(part), faces, jig);
      next = withSet(next, part.id, set);
      placed.push({
        faces: faces.length,
        parts: 1,
        kind,
        ...figuresOfFaces(part.mesh, set, faces, sheetFor(job, part.id).width, sheetFor(job, part.id).height),
        jig,
      });
    }
    const first = placed[0];
    if (!first) throw new JigError('bad-parameter', `No part has the ${selector.replace(':', ' “')}”.`);
    const report: PlaceReport = {
      ...first,
      faces: placed.reduce((sum, p) => sum + p.faces, 0),
      parts: placed.length,
      seamLength: placed.reduce((sum, p) => sum + p.seamLength, 0),
    };
    return { job: next, report };
  },
  sentence: ({ kind }, { faces }) => `Placed a ${kind.replace('-', ' ')} projection on ${plural(faces, 'face')}`,
});

function hasNamed({ mesh }: Part, selector: string): boolean {
  const [what, ...rest] = selector.split(':');
  return (what === 'group' ? mesh.groups : mesh.materials).includes(rest.join(':'));
}

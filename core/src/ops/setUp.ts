import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { partOf, type JobJig, type Part } from '../job/job.ts';
import { turnUp, turnVector, upAxes } from '../mesh/upAxis.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

/** A jig that stands on a part goes round with it. */
function turnedJig(jig: JobJig, back: boolean): JobJig {
  const { origin, right, up } = jig.jig;
  return { ...jig, jig: { ...jig.jig, origin: turnVector(origin, back), right: turnVector(right, back), up: turnVector(up, back) } };
}

export const setUp = defineOperation({
  name: 'setUp',
  label: 'Which way is up in the file',
  words: 'axis z y orientation',
  changes: ['mesh', 'jigs', 'uvs', 'parts'],
  summary: 'Say which way is up in the file: z or y. The model stands upright, and is written back as it came',
  params: z.object({ up: z.enum(upAxes), part: partSchema.describe('only this part, by id; default: all parts') }),
  run(job, { up, part: id }) {
    const wanted = id === undefined ? job.parts : [partOf(job, id)];
    const turning = new Set(wanted.filter((part) => (part.up ?? 'y') !== up).map((part) => part.id));
    if (turning.size === 0) throw new JigError('nothing-to-do', `${up} is up already.`);
    const back = up === 'y';
    const parts = job.parts.map((part): Part => {
      if (!turning.has(part.id)) return part;
      // a starter form is not made again lying down
      const { up: _, form: __, ...rest } = part;
      return { ...rest, mesh: turnUp(part.mesh, back), ...(up === 'z' ? { up } : {}) };
    });
    const jigs = job.jigs?.map((jig) => (jig.drives.some((drive) => turning.has(drive.part)) ? turnedJig(jig, back) : jig));
    return { job: { ...job, parts, ...(jigs ? { jigs } : {}) }, report: { turned: turning.size } };
  },
  sentence: ({ up }, { turned }) => `Said that ${up} is up: turned ${plural(turned, 'part')}`,
});

import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, withSet } from '../job/job.ts';
import { defineOperation, plural } from './operation.ts';
import { facesMeant, weightTarget } from './weigh.ts';

/** Says whose stretch counts more; nothing moves until the islands are unwrapped or relaxed. */
export const care = defineOperation({
  name: 'care',
  label: 'Stretch some faces less',
  words: 'weight importance priority face lettering distortion protect',
  changes: ['marks'],
  asked: ['weight', 'of'],
  summary: 'Say how many times as much as others the stretch of faces counts when islands are laid by least stretch',
  params: z.object({
    weight: z.number().min(0.01).max(1000).default(10).describe('10: ten times as much, 0.1: a tenth; 1 takes the weight off'),
    ...weightTarget,
  }),
  run(job, { weight, of, part, material }) {
    let next = job;
    let faces = 0;
    for (const { part: one, faces: meant } of facesMeant(job, of, part, material)) {
      const set = activeSet(one);
      const weights = set.care?.slice() ?? new Float64Array(set.unplaced.length).fill(1);
      for (const f of meant) {
        weights[f] = weight;
        faces++;
      }
      const { care: _, ...rest } = set;
      next = withSet(next, one.id, weights.every((x) => x === 1) ? rest : { ...rest, care: weights });
    }
    if (faces === 0)
      throw new JigError(
        'nothing-to-do',
        of === 'material' ? 'No face has this material.' : 'No face is selected.',
        '',
        of === 'selected' ? 'Select faces first.' : '',
      );
    return { job: next, report: { faces } };
  },
  sentence: ({ weight }, { faces }) =>
    weight === 1
      ? `The stretch of ${plural(faces, 'face')} counts like that of others`
      : `The stretch of ${plural(faces, 'face')} counts ${weight} times as much: unwrap or relax brings it about`,
});

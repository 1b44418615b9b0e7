import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { islandsOfGrips, wholeIslands } from '../job/grip.ts';
import { withLocks, withMates } from './locks.ts';
import { defineOperation, plural } from './operation.ts';

const box = z.tuple([z.number(), z.number(), z.number(), z.number()]);

/** Islands on fields of a finished picture. */
export const placeOnFields = defineOperation({
  name: 'placeOnFields',
  label: 'Put islands on fields of a picture',
  words: 'atlas trim sheet regions cells assign',
  changes: ['uvs', 'marks'],
  summary: 'Put islands on given fields of a picture, filling them or in proportion',
  params: z.object({
    fields: z.array(box).min(1).max(4096).describe('left, bottom, right, top of each, shares of the sheet'),
    fit: z.enum(['proportion', 'fill']).default('proportion').describe('as large as it fits, or stretched to fill the field'),
    order: z
      .enum(['neighbours', 'picture', 'reading'])
      .default('neighbours')
      .describe(
        'neighbours on the model beside one another, so that the picture’s colours meet along the seams, or one after the other as the fields are given',
      ),
    turn: z.boolean().default(true).describe('a quarter turn where that fits better'),
    lock: z.boolean().default(true).describe('packing leaves them there'),
  }),
  async run(job, params, context) {
    // loaded when islands are put on fields first
    const { putOnFields } = await import('./fieldsWork.ts');
    return putOnFields(job, params, context);
  },
  sentence: (_params, { placed, left, unused, difference }) =>
    `Put ${plural(placed, 'island')} on fields${difference === null ? '' : `; colours along the seams differ by ${difference.toFixed(1)} of 255 in the mean`}${left.length > 0 ? `; ${left.length} found none` : ''}${unused.length > 0 ? `; ${plural(unused.length, 'field')} unused` : ''}`,
});

export const lockIslands = defineOperation({
  name: 'lockIslands',
  label: 'Lock islands for packing',
  words: 'fix freeze hold keep place',
  changes: ['marks'],
  needs: 'selection',
  offered: [
    { id: 'lock', label: 'Lock islands: packing leaves them where they are', params: { do: 'lock' } },
    { id: 'unlock', label: 'Unlock islands: packing may move them again', params: { do: 'unlock' } },
  ],
  summary: 'Keep islands where they are when others are packed',
  params: z.object({ do: z.enum(['lock', 'unlock']).default('lock') }),
  run(job, { do: what }) {
    const islands = islandsOfGrips(job, wholeIslands(job));
    if (islands.length === 0) throw new JigError('nothing-to-do', 'Nothing that has a place on the sheet is selected.', '', 'Select islands first.');
    return { job: withLocks(job, withMates(job, islands), what === 'lock' ? 1 : 0), report: { islands: islands.length } };
  },
  sentence: ({ do: what }, { islands }) => `${what === 'lock' ? 'Locked' : 'Unlocked'} ${plural(islands, 'island')}`,
});

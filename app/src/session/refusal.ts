import { JigError } from '@jig-peel/core';
import type { Outcome, RefusalCode, Refused } from './messages.ts';
import { wordsOf } from './words.ts';

export const refused = (sentence: string, code: RefusalCode): Refused => ({ ok: false, sentence, code });

/** The answer, or in words why there is none. */
export async function attempt<R>(work: () => Outcome<R> | Promise<Outcome<R>>): Promise<Outcome<R>> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof JigError)) console.error(error);
    return refused(wordsOf(error), error instanceof JigError ? error.code : 'internal');
  }
}

export const noJob = () => new JigError('nothing-to-do', 'No job is open.');

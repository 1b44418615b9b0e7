import type { UnwrapHow } from '../unwrap/unwrapIslands.ts';
import { grainAim } from './grainAim.ts';
import type { Job, Part } from './job.ts';

/** The grain of a part as what unwrapping is to meet, where the job holds it. */
export const grainWish = (job: Job, part: Part): Pick<UnwrapHow, 'grain'> =>
  job.settings.holdGrain && part.grain ? { grain: { grain: part.grain, aim: grainAim(job, part) } } : {};

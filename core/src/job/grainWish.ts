import type { UnwrapHow } from '../unwrap/unwrapIslands.ts';
import type { Job, Part } from './job.ts';

/** The grain of a part as what unwrapping is to meet, where the job holds it. */
export const grainWish = ({ settings: { holdGrain, grainAlong } }: Job, { grain }: Part): Pick<UnwrapHow, 'grain'> =>
  holdGrain && grain ? { grain: { grain, along: grainAlong } } : {};

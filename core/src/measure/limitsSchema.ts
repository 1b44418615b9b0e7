import { z } from 'zod';
import { limitKeys, purposeLimits, type LimitKey, type Limits } from './judge.ts';

const limit = z.number().min(0).max(1e9).nullable();

/** A limit for each figure, in its unit (see `limitWords`); null: not asked for. */
export const limitsSchema = z.object(Object.fromEntries(limitKeys.map((key) => [key, limit])) as Record<LimitKey, typeof limit>);

/** What a new job is asked for. */
export const defaultLimits: Limits = purposeLimits.paintedFlat;

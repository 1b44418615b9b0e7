import { z } from 'zod';
import { limitKeys, purposeLimits, type LimitKey, type Limits } from './judge.ts';

const limit = z.number().min(0).max(1e9).nullable();
const kept = limit.default(null);
const each = <L>(one: L) => Object.fromEntries(limitKeys.map((key) => [key, one])) as Record<LimitKey, L>;

/** A limit for each figure, in its unit (see `limitWords`); null: not asked for, as is one that came later than what was kept. */
export const limitsSchema = z.object(each(kept));

/** Single ones of them; what is left out stays as it is. */
export const someLimitsSchema = z.object(each(limit)).partial();

/** What a new job is asked for. */
export const defaultLimits: Limits = purposeLimits.paintedFlat;

import { z } from 'zod';
import type { Context } from '../context.ts';
import type { Job } from '../job/job.ts';

/** Parameters of operations that stand for settings of the job. */
export type SettingParameter = 'size' | 'margin' | 'turn' | 'method' | 'apart';

export const settingValue = ({ settings }: Job, name: SettingParameter): unknown =>
  name === 'size' ? (settings.width === settings.height ? String(settings.width) : `${settings.width}x${settings.height}`) : settings[name];

/** A named change of a job (or a look at it) with a schema for what it takes. Runs the same in the app, on the command line and in tests. */
export interface Operation<S extends z.ZodObject = z.ZodObject, R = unknown> {
  name: string;
  /** One line for help and for the command search. */
  summary: string;
  params: S;
  /** Parameters that the job's settings say where they are left out; a schema's default stands for a job that was never set up. */
  fromSettings?: readonly SettingParameter[];
  /** What was done, for the history. */
  sentence(params: z.infer<S>, report: R): string;
  run(job: Job, params: z.infer<S>, context: Context): Promise<{ job: Job; report: R }> | { job: Job; report: R };
}

export function defineOperation<S extends z.ZodObject, R>(operation: Operation<S, R>): Operation<S, R> {
  return operation;
}

/** A sheet size in px: one number, or width x height. */
export const sizeSchema = z
  .string()
  .regex(/^\d{2,5}(x\d{2,5})?$/, 'a sheet size like 2048 or 2048x1024')
  .describe('sheet size in px, e.g. 2048 or 2048x1024');

export function parseSize(size: string): { width: number; height: number } {
  const [width, height = width] = size.split('x').map(Number) as [number, number?];
  return { width, height };
}

export const partSchema = z.string().describe('part by id; default: the active part').optional();

export const plural = (n: number, noun: string) => `${n} ${noun}${n === 1 ? '' : 's'}`;

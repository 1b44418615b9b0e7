import { z } from 'zod';
import type { Context } from '../context.ts';
import type { Job } from '../job/job.ts';
import type { ChangeKind, Need } from './needs.ts';

/** Parameters of operations that stand for settings of the job. */
export type SettingParameter = 'size' | 'margin' | 'borderGap' | 'turn' | 'effort' | 'upright' | 'keepPinned' | 'method' | 'apart' | 'seenFrom';

export const settingValue = ({ settings }: Job, name: SettingParameter): unknown =>
  name === 'size' ? (settings.width === settings.height ? String(settings.width) : `${settings.width}x${settings.height}`) : (settings[name] ?? undefined);

/** A named change of a job (or a look at it) with a schema for what it takes. Runs the same in the app, on the command line and in tests. */
export interface Operation<N extends string = string, S extends z.ZodObject = z.ZodObject, R = unknown> {
  name: N;
  /** Short, for menus, buttons and the command search. */
  label: string;
  /** Other words of the trade that find it. */
  words?: string;
  /** What of the job it may change; nothing for a mere look at it. */
  changes: readonly ChangeKind[];
  /** What has to be selected for it. */
  needs?: Need;
  /** Lines of the command search, one for each way to run it, where these are no commands of their own. */
  offered?: readonly { id: string; label: string; words?: string; params: z.input<S> }[];
  /** Parameters that the command search asks for in a form, in this order, where it is offered with numbers of one's own. */
  asked?: readonly (keyof z.input<S> & string)[];
  /** How it is offered on the command line, if it is: what is written, and parameters that make no sense without the screen. */
  commandLine?: {
    output: 'none' | 'model' | 'picture';
    hidden?: readonly (keyof z.input<S> & string)[];
    /** Where it is called otherwise there. */
    name?: string;
    /** A first file beside the one to be changed: its part is named by the parameter `from`. */
    takesFrom?: boolean;
  };
  /** `apart`: it makes stacks or takes them apart, so that islands of a stack do not follow one another. */
  stacks?: 'apart';
  /** Whether it sets the headings of the islands that it moves, which packing then keeps, or frees them. */
  headings?: 'set' | 'free' | ((params: z.infer<S>) => 'set' | undefined);
  /** One line for help. */
  summary: string;
  params: S;
  /** Parameters that the job's settings say where they are left out; a schema's default stands for a job that was never set up. */
  fromSettings?: readonly SettingParameter[];
  /** What was done, for the history. */
  sentence(params: z.infer<S>, report: R): string;
  /** Whether something came of it that its sentence warns of, though it was done. */
  warns?(report: NoInfer<R>): boolean;
  run(job: Job, params: z.infer<S>, context: Context): Promise<{ job: Job; report: R }> | { job: Job; report: R };
}

export function defineOperation<const N extends string, S extends z.ZodObject, R>(operation: Operation<N, S, R>): Operation<N, S, R> {
  return operation;
}

/** `warns` of what lays islands: triangles are turned over, or islands found no room. */
export const isUnsettled = ({ flips = 0, waiting = 0 }: { flips?: number; waiting?: number }): boolean => flips > 0 || waiting > 0;

/** A sheet size in px: one number, or width x height. */
export const sizeSchema = z
  .string()
  .regex(/^\d{2,5}(x\d{2,5})?$/, 'a sheet size like 2048 or 2048x1024')
  .describe('sheet size in px, e.g. 2048 or 2048x1024');

export function parseSize(size: string): { width: number; height: number } {
  const [width, height = width] = size.split('x').map(Number) as [number, number?];
  return { width, height };
}

/** Numbers of elements as an array of that kind. */
export const indexArray = z.instanceof(Uint32Array) as unknown as z.ZodType<Uint32Array>;

export const partSchema = z.string().describe('part by id; default: the active part').optional();

export const plural = (n: number, noun: string) => `${n} ${noun}${n === 1 ? '' : 's'}`;

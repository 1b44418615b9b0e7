import type { FileDone } from './recipeFile.ts';

/** A file of a batch, to be worked. */
export interface QueueTask {
  batch: string;
  /** Its number in the batch, from 0. */
  file: number;
}

/** What a queue tells of its tasks; each task ends in one `finished`, however often it was tried. */
export interface QueueListener {
  started(task: QueueTask): void;
  /** Its worker died of it, or was lost; it is tried again. */
  triedAgain(task: QueueTask, why: string): void;
  finished(task: QueueTask, done: Omit<FileDone, 'file'>): void;
}

/** Tasks on their way to workers: in threads of this process, or in a Redis that many machines share. */
export interface WorkQueue {
  readonly kind: 'threads' | 'redis';
  /** @param isAgain they ended before: what the queue still knows of that is forgotten */
  add(tasks: readonly QueueTask[], isAgain?: boolean): Promise<void>;
  /** Takes back what waits of a batch; what is being worked ends where that can be, else its result is ignored. */
  drop(batch: string): Promise<void>;
  counts(): Promise<{ waiting: number; working: number }>;
  close(): Promise<void>;
}

/** Times that a file is tried whose worker dies of it, before it is given up. */
export const tries = 2;

/** What is said of a file that killed its worker each time. */
export const givenUp = `Given up: the program ended each of ${tries} times while it worked on this file. It may be too large for the memory there is.`;

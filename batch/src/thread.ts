import { Worker } from 'node:worker_threads';
import type { FileDone, FileTask } from './recipeFile.ts';

/** What is said of a file whose thread died of it. */
export const threadEnded: Omit<FileDone, 'file'> = {
  ok: false,
  words: 'The program ended while it worked on this file: it may be too large.',
  files: [],
  missed: [],
  seconds: 0,
};

/** A thread that works files, one after the other; null in answer where it died of one, or was ended. */
export class RecipeThread {
  private readonly worker = new Worker(new URL('./recipeThread.mjs', import.meta.url));
  private answer: ((done: FileDone | null) => void) | null = null;

  constructor() {
    this.worker.on('message', (done: FileDone) => this.give(done));
    this.worker.on('error', () => this.give(null));
    this.worker.on('exit', () => this.give(null));
  }

  private give(done: FileDone | null): void {
    this.answer?.(done);
    this.answer = null;
  }

  work(task: FileTask): Promise<FileDone | null> {
    return new Promise((resolve) => {
      this.answer = resolve;
      this.worker.postMessage(task);
    });
  }

  async end(): Promise<void> {
    await this.worker.terminate();
  }
}

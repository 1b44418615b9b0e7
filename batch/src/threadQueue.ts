import type { FileTask } from './recipeFile.ts';
import { RecipeThread, threadEnded } from './thread.ts';
import { givenUp, tries, type QueueListener, type QueueTask, type WorkQueue } from './workQueue.ts';

interface Hand {
  thread: RecipeThread | null;
  task: QueueTask | null;
  /** It takes one task after the other: at most once at a time. */
  isAtWork: boolean;
}

export interface ThreadQueueOptions {
  /** Files at once. */
  threads: number;
  /** Minutes that one file may take. */
  minutes: number;
  /** Where the file of a task is and where its results go; null where the batch is gone. */
  placeOf(task: QueueTask): Promise<FileTask | null>;
  listener: QueueListener;
}

/** The queue of a single machine: tasks in order, worked in threads of this process. What waits is known to the batches on disk, which add it again after a restart. */
export class ThreadQueue implements WorkQueue {
  readonly kind = 'threads';
  private waiting: (QueueTask & { tried: number })[] = [];
  private readonly hands: Hand[];
  private readonly options: ThreadQueueOptions;
  private isClosed = false;

  constructor(options: ThreadQueueOptions) {
    this.options = options;
    this.hands = Array.from({ length: Math.max(1, options.threads) }, () => ({ thread: null, task: null, isAtWork: false }));
  }

  add(tasks: readonly QueueTask[]): Promise<void> {
    this.waiting.push(...tasks.map((task) => ({ ...task, tried: 0 })));
    for (const hand of this.hands) if (!hand.isAtWork) void this.work(hand);
    return Promise.resolve();
  }

  async drop(batch: string): Promise<void> {
    this.waiting = this.waiting.filter((task) => task.batch !== batch);
    await Promise.all(
      this.hands
        .filter(({ task }) => task?.batch === batch)
        .map((hand) => {
          hand.task = null;
          return this.endThread(hand);
        }),
    );
  }

  counts(): Promise<{ waiting: number; working: number }> {
    return Promise.resolve({ waiting: this.waiting.length, working: this.hands.filter(({ task }) => task).length });
  }

  async close(): Promise<void> {
    this.isClosed = true;
    this.waiting = [];
    await Promise.all(this.hands.map((hand) => this.endThread(hand)));
  }

  private async endThread(hand: Hand): Promise<void> {
    const { thread } = hand;
    hand.thread = null;
    await thread?.end();
  }

  private async work(hand: Hand): Promise<void> {
    hand.isAtWork = true;
    try {
      await this.workThrough(hand);
    } finally {
      hand.isAtWork = false;
    }
  }

  /** One task after the other until none waits. */
  private async workThrough(hand: Hand): Promise<void> {
    const { listener, minutes } = this.options;
    while (!this.isClosed) {
      const task = this.waiting.shift();
      if (!task) return;
      hand.task = task;
      const { batch, file } = task;
      const told = { batch, file };
      const place = await this.options.placeOf(told).catch(() => null);
      // dropped meanwhile
      if (hand.task !== task) continue;
      if (!place) {
        hand.task = null;
        continue;
      }
      listener.started(told);
      const thread = (hand.thread ??= new RecipeThread());
      let isLate = false;
      const timer = setTimeout(() => {
        isLate = true;
        void thread.end();
      }, minutes * 60_000);
      const done = await thread.work(place);
      clearTimeout(timer);
      if (!done && hand.thread === thread) hand.thread = null;
      if (this.isClosed || hand.task !== task) continue;
      hand.task = null;
      if (done) listener.finished(told, done);
      else if (isLate) listener.finished(told, { ...threadEnded, words: `Given up after ${minutes} minutes. Try it by itself, with fewer steps.` });
      else if (task.tried + 1 < tries) {
        listener.triedAgain(told, threadEnded.words);
        this.waiting.unshift({ ...task, tried: task.tried + 1 });
      } else listener.finished(told, { ...threadEnded, words: givenUp });
    }
  }
}

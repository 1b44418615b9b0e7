import { JigError } from '@jig-peel/core';
import type { CancelBoard, CancelFlag } from './pool/cancelBoard.ts';

/** A question that is asked again and again while things change: a newer one ends the one before, and so does leaving. */
export class Newest {
  private slot = 0;

  constructor(
    private readonly board: CancelBoard,
    /** What one that was ended is told. */
    private readonly sentence: string,
  ) {}

  /** @param work is given what tells the pool to stop, and what throws in this thread. @throws JigError `cancelled` */
  async ask<T>(work: (flag: CancelFlag | null, throwIfCancelled: () => void) => Promise<T>): Promise<T> {
    const slot = this.board.begin();
    this.leave();
    this.slot = slot;
    const throwIfCancelled = () => {
      if (slot !== this.slot) throw new JigError('cancelled', this.sentence);
    };
    try {
      const answer = await work(this.board.flag(slot), throwIfCancelled);
      throwIfCancelled();
      return answer;
    } finally {
      // the slot goes to other work in time, which a later question must not end
      if (this.slot === slot) this.slot = 0;
    }
  }

  /** Nobody waits for the answer any more. */
  leave(): void {
    this.board.cancel(this.slot);
    this.slot = 0;
  }
}

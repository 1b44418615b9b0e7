/**
 * One question at a time: what is asked meanwhile waits, and only the newest of it is asked next. An answer is passed on unless `drop` was called since
 * its question was asked.
 */
export class LatestOnly<Q, A> {
  private waiting: { question: Q } | null = null;
  private busy: Promise<void> | null = null;
  private era = 0;

  constructor(
    private readonly work: (question: Q) => Promise<A>,
    private readonly answered: (answer: A, question: Q) => void,
    private readonly failed: (error: unknown) => void = () => {},
  ) {}

  ask(question: Q): void {
    this.waiting = { question };
    this.busy ??= this.run().finally(() => {
      this.busy = null;
    });
  }

  /** What waits is not asked, and what comes of a question that is under way is nobody's. */
  drop(): void {
    this.waiting = null;
    this.era++;
  }

  /** Whether a question is under way or waits. */
  get isBusy(): boolean {
    return this.busy !== null;
  }

  private async run(): Promise<void> {
    while (this.waiting) {
      const { question } = this.waiting;
      const { era } = this;
      this.waiting = null;
      try {
        const answer = await this.work(question);
        if (era === this.era) this.answered(answer, question);
      } catch (error) {
        if (era === this.era) this.failed(error);
      }
    }
  }
}

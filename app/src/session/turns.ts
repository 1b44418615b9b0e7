/** One after the other, in the order asked for: a cut sees the selection that was made just before it. */
export class Turns {
  private last: Promise<unknown> = Promise.resolve();

  take<T>(work: () => Promise<T>): Promise<T> {
    const turn = this.last.then(work);
    this.last = turn.catch(() => {});
    return turn;
  }
}

/** Which of several things were used last, and by how many at this moment: those that nobody uses and that were used longest ago may go. */
export class Recent {
  /** In the order of their last use. */
  private readonly users = new Map<string, number>();

  /** @param most things kept beyond those in use */
  constructor(private readonly most: number) {}

  begin(key: string): void {
    const now = this.users.get(key) ?? 0;
    this.users.delete(key);
    this.users.set(key, now + 1);
  }

  /** @returns what may go now */
  end(key: string): string[] {
    this.users.set(key, (this.users.get(key) ?? 1) - 1);
    const idle = [...this.users].filter(([, count]) => count <= 0).map(([one]) => one);
    const spare = idle.slice(0, Math.max(0, idle.length - this.most));
    for (const one of spare) this.users.delete(one);
    return spare;
  }
}

import type { Reporter, TestCase, TestResult } from '@playwright/test/reporter';

const shown = 10;

/** Says at the end which tests took longest. */
export default class Slowest implements Reporter {
  private readonly times: { title: string; ms: number }[] = [];

  onTestEnd(test: TestCase, { duration }: TestResult): void {
    this.times.push({ title: test.titlePath().slice(2).join(' › '), ms: duration });
  }

  onEnd(): void {
    this.times.sort((a, b) => b.ms - a.ms);
    console.log(`The ${Math.min(shown, this.times.length)} slowest:`);
    for (const { title, ms } of this.times.slice(0, shown)) console.log(`${(ms / 1000).toFixed(1).padStart(7)} s  ${title}`);
  }

  printsToStdio(): boolean {
    return true;
  }
}

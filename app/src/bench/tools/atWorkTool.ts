import type { PointerAt, Tool } from './tool.ts';
import { hitNow, toWork } from './toWork.ts';

/**
 * A tool for the part at work: pressed on another part, it brings that one to work first; what the pointer does meanwhile is done there once it can
 * be picked.
 */
export class AtWorkTool implements Tool {
  private waiting: (() => void)[] | null = null;

  constructor(private readonly tool: Tool) {}

  down(at: PointerAt): void {
    this.waiting = null;
    const beside = at.picker.beside(at);
    if (!beside) return this.tool.down(at);
    const waiting: (() => void)[] = [];
    this.waiting = waiting;
    this.do('down', at);
    void toWork(beside, at.view).then((isThere) => {
      // another press or Escape came between
      if (this.waiting !== waiting) return;
      this.waiting = null;
      if (isThere) for (const act of waiting) act();
    });
  }

  move(at: PointerAt): void {
    this.do('move', at);
  }

  up(at: PointerAt): void {
    this.do('up', at);
  }

  double(at: PointerAt): void {
    this.tool.double?.(at);
  }

  cancel(): void {
    this.waiting = null;
    this.tool.cancel();
  }

  private do(what: 'down' | 'move' | 'up', at: PointerAt): void {
    if (this.waiting) this.waiting.push(() => this.tool[what]({ ...at, hit: hitNow(at) }));
    else this.tool[what](at);
  }
}

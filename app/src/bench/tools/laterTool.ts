import type { PointerAt, Tool } from './tool.ts';

/** A tool that is fetched when it is first taken in hand; what the pointer does meanwhile is done once it is there. */
export class LaterTool implements Tool {
  private tool: Tool | null = null;
  private fetching: Promise<unknown> | null = null;
  private waiting: ((tool: Tool) => void)[] = [];

  constructor(private readonly fetchTool: () => Promise<Tool>) {}

  /** Fetches it, if it is not there yet. */
  fetch(): Promise<unknown> {
    this.fetching ??= this.fetchTool().then(
      (tool) => {
        this.tool = tool;
        for (const act of this.waiting.splice(0)) act(tool);
      },
      () => {
        // with the network back the next press tries again
        this.fetching = null;
        this.waiting = [];
      },
    );
    return this.fetching;
  }

  down(at: PointerAt): void {
    this.do((tool) => tool.down(at));
  }

  move(at: PointerAt): void {
    this.do((tool) => tool.move(at));
  }

  up(at: PointerAt): void {
    this.do((tool) => tool.up(at));
  }

  double(at: PointerAt): void {
    this.do((tool) => tool.double?.(at));
  }

  cancel(): void {
    this.waiting = [];
    this.tool?.cancel();
  }

  private do(act: (tool: Tool) => void): void {
    if (this.tool) act(this.tool);
    else {
      this.waiting.push(act);
      void this.fetch();
    }
  }
}

import { LatestOnly } from '../../session/latestOnly.ts';
import { useBench } from '../../store/bench.ts';
import { coreApi, run } from '../../worker/client.ts';
import type { PointerAt, Tool } from './tool.ts';

const none = new Uint32Array(0);

/** The seam pen: idle → drawing. A stroke clings to edges while it is drawn; lifting cuts them, with Ctrl makes them whole. */
export class PenTool implements Tool {
  private stroke: number[] | null = null;
  private uncuts = false;
  private last: [number, number] = [0, 0];
  private readonly edges = new LatestOnly<number[], Uint32Array>(
    (stroke) => coreApi().pen(Float64Array.from(stroke)),
    (edges) => {
      if (this.stroke) useBench.getState().set({ penEdges: edges });
    },
    () => {
      // said when the worker ended
    },
  );

  down(at: PointerAt): void {
    if (!at.hit?.place) return;
    this.uncuts = at.ctrl;
    this.stroke = [];
    this.add(at);
    useBench.getState().set({ penUncuts: at.ctrl, penEdges: none });
  }

  move(at: PointerAt): void {
    if (!this.stroke || !at.hit?.place) return;
    if (Math.hypot(at.x - this.last[0], at.y - this.last[1]) < 4) return;
    this.add(at);
    this.edges.ask(this.stroke);
  }

  private add(at: PointerAt) {
    const { place } = at.hit!;
    this.stroke!.push(place!.x, place!.y, place!.z);
    this.last = [at.x, at.y];
  }

  up(at: PointerAt): void {
    if (!this.stroke) return;
    if (at.hit?.place) this.add(at);
    const stroke = Float64Array.from(this.stroke);
    this.stroke = null;
    this.edges.drop();
    void (async () => {
      const edges = await coreApi().pen(stroke);
      if (edges.length > 0) await run(this.uncuts ? 'uncut' : 'cut', { edges: [...edges] });
      else useBench.getState().notice('The stroke was too short to find an edge: draw along where the seam should run.', 'info');
      useBench.getState().set({ penEdges: none });
    })();
  }

  cancel(): void {
    this.stroke = null;
    this.edges.drop();
    useBench.getState().set({ penEdges: none });
  }
}

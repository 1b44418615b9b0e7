import { useBench } from '../../store/bench.ts';
import { coreApi, step } from '../../worker/client.ts';
import type { PointerAt, Tool } from './tool.ts';

/** Relaxes what the brush passes over, in either view: idle → drawing. Only points with all of their faces under the stroke move. */
export class RelaxTool implements Tool {
  private view: PointerAt['view'] | null = null;
  private points: number[] = [];

  down(at: PointerAt): void {
    this.view = at.view;
    this.points = [];
    this.extend(at);
  }

  move(at: PointerAt): void {
    if (this.view === at.view) this.extend(at);
  }

  private extend(at: PointerAt) {
    this.points.push(at.x, at.y);
    const { brush, set } = useBench.getState();
    set({ drawn: { view: at.view, region: { shape: 'brush', points: [...this.points], radius: brush } }, hover: null });
  }

  up(at: PointerAt): void {
    const { view, points } = this;
    this.cancel();
    if (!view) return;
    const region = { shape: 'brush' as const, points: points.length > 2 ? points : [...points, ...points], radius: useBench.getState().brush };
    const seen = at.picker.viewOf(view);
    void step('relaxRegion', (writeLive) => coreApi().relaxRegion(region, seen, writeLive));
  }

  cancel(): void {
    this.view = null;
    this.points = [];
    if (useBench.getState().drawn) useBench.getState().set({ drawn: null });
  }
}

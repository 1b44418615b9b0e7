import type { Vector3 } from 'three';
import { useBench } from '../../store/bench.ts';
import { run } from '../../worker/client.ts';
import type { PointerAt, Tool } from './tool.ts';

/** Px from which a drag says a direction. */
const dragFrom = 8;

/** An arrow drawn on the model says which way the picture is to run over the selected faces, or over the island it begins on. */
export class GrainTool implements Tool {
  private start: { at: PointerAt; place: Vector3; face: number } | null = null;
  /** Where the pointer was last on the surface. */
  private end: Vector3 | null = null;

  down(at: PointerAt): void {
    this.cancel();
    if (at.view === 'model' && at.hit?.place && at.hit.face >= 0) this.start = { at, place: at.hit.place, face: at.hit.face };
  }

  move(at: PointerAt): void {
    if (!this.start) return;
    if (at.hit?.place) this.end = at.hit.place;
    const { x, y } = this.start.at;
    useBench.getState().set({ drawn: { view: 'model', region: { shape: 'lasso', points: [x, y, at.x, at.y] } }, hover: null });
  }

  up(at: PointerAt): void {
    const { start, end } = this;
    this.cancel();
    if (!start || !end || Math.hypot(at.x - start.at.x, at.y - start.at.y) < dragFrom) return;
    const way = end.clone().sub(start.place);
    void run('grain', { face: start.face, direction: [way.x, way.y, way.z] }, true);
  }

  cancel(): void {
    this.start = null;
    this.end = null;
    if (useBench.getState().drawn) useBench.getState().set({ drawn: null });
  }
}

import { LatestOnly } from '../../session/latestOnly.ts';
import { useBench } from '../../store/bench.ts';
import { show } from '../../store/shown.ts';
import { coreApi, run } from '../../worker/client.ts';
import type { Stage } from '../views/stage.ts';
import type { PointerAt, Tool } from './tool.ts';

type Params = { face: number; path: number[]; radius: number };

/** The stroke has a place at least so many px on, so that a long one stays short. */
const everyPx = 4;

/** Pushes points on the sheet along with the brush: shown in both views while it goes, one step when it is lifted. */
export class PushTool implements Tool {
  private stroke: Params | null = null;
  private last: [number, number] = [0, 0];
  private readonly previews = new LatestOnly<Params, Awaited<ReturnType<ReturnType<typeof coreApi>['previewStep']>>>(
    (params) => coreApi().previewStep('push', params),
    (preview) => {
      if (preview && this.stroke) show({ uvs: { preview, badly: null } });
    },
  );

  constructor(private readonly stage: Stage) {}

  down(at: PointerAt): void {
    this.cancel();
    if (at.view !== 'sheet' || !at.hit || at.hit.face < 0) return;
    const { brush } = useBench.getState();
    this.last = [at.x, at.y];
    this.stroke = { face: at.hit.face, path: this.uv(at), radius: brush / this.stage.sheetEye.scale };
    this.draw(at);
  }

  move(at: PointerAt): void {
    const { stroke } = this;
    if (!stroke || at.view !== 'sheet') return;
    this.draw(at);
    if (Math.hypot(at.x - this.last[0], at.y - this.last[1]) < everyPx) return;
    this.last = [at.x, at.y];
    stroke.path.push(...this.uv(at));
    this.previews.ask({ ...stroke, path: [...stroke.path] });
  }

  up(at: PointerAt): void {
    const { stroke } = this;
    if (!stroke) return;
    if (at.view === 'sheet' && (at.x !== this.last[0] || at.y !== this.last[1])) stroke.path.push(...this.uv(at));
    this.stroke = null;
    this.previews.drop();
    useBench.getState().set({ drawn: null });
    if (stroke.path.length < 4) {
      show({ uvs: null });
      return;
    }
    void run('push', stroke).then(() => show({ uvs: null }));
  }

  cancel(): void {
    if (this.stroke) {
      this.previews.drop();
      show({ uvs: null });
    }
    this.stroke = null;
    if (useBench.getState().drawn) useBench.getState().set({ drawn: null });
  }

  private uv({ x, y }: PointerAt): [number, number] {
    const { width, height } = this.stage.rects.sheet;
    return this.stage.sheetEye.toUv(x, y, width, height);
  }

  private draw({ x, y }: PointerAt): void {
    const { brush, set } = useBench.getState();
    set({ drawn: { view: 'sheet', region: { shape: 'brush', points: [x, y, x, y], radius: brush } }, hover: null });
  }
}

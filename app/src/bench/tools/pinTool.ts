import { LatestOnly } from '../../session/latestOnly.ts';
import type { UvPreview } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { show } from '../../store/shown.ts';
import { coreApi, run } from '../../worker/client.ts';
import type { Stage } from '../views/stage.ts';
import type { PointerAt, Tool } from './tool.ts';

const reach = 11;

/** The pin under the pointer in the sheet view, by its UV point, or −1. */
export function pinAt(stage: Stage, x: number, y: number): number {
  const { layout } = useBench.getState();
  if (!layout || layout.pins.length === 0) return -1;
  const { width, height } = stage.rects.sheet;
  let best = -1;
  let near = reach;
  for (const { point, corner } of layout.pins) {
    const [px, py] = stage.sheetEye.toPx(layout.cornerUv[corner * 2]!, layout.cornerUv[corner * 2 + 1]!, width, height);
    // the head of the pin stands above its point
    const d = Math.min(Math.hypot(px - x, py - y), Math.hypot(px - x, py - 14 - y));
    if (d >= near) continue;
    near = d;
    best = point;
  }
  return best;
}

/** Draws a pin to another place: idle → dragging. The island follows while it moves; letting go unwraps it with the pin there. */
export class PinTool implements Tool {
  private point = -1;
  private from: { x: number; y: number; u: number; v: number } | null = null;
  private readonly previews: LatestOnly<[number, number], UvPreview | null>;

  constructor(private readonly stage: Stage) {
    this.previews = new LatestOnly(
      async (place) => {
        const start = performance.now();
        const preview = await coreApi().movePins([this.point], place);
        performance.measure('pin drag', { start });
        return preview;
      },
      (preview) => {
        if (preview && this.from) show({ uvs: { preview, badly: null } });
      },
      () => {
        // said when the worker ended
      },
    );
  }

  down(at: PointerAt): void {
    this.point = pinAt(this.stage, at.x, at.y);
    const { layout } = useBench.getState();
    const pin = layout?.pins.find(({ point }) => point === this.point);
    if (!pin || !layout) return;
    this.from = { x: at.x, y: at.y, u: layout.cornerUv[pin.corner * 2]!, v: layout.cornerUv[pin.corner * 2 + 1]! };
  }

  private placeOf(at: PointerAt): [number, number] {
    const { width, height } = this.stage.rects.sheet;
    const [u0, v0] = this.stage.sheetEye.toUv(this.from!.x, this.from!.y, width, height);
    const [u1, v1] = this.stage.sheetEye.toUv(at.x, at.y, width, height);
    return [this.from!.u + u1 - u0, this.from!.v + v1 - v0];
  }

  move(at: PointerAt): void {
    if (!this.from) return;
    const place = this.placeOf(at);
    useBench.getState().set({ pinMoving: { point: this.point, u: place[0], v: place[1] } });
    this.previews.ask(place);
  }

  up(at: PointerAt): void {
    const { from, point } = this;
    if (!from) return;
    const place = this.placeOf(at);
    this.from = null;
    if (Math.hypot(at.x - from.x, at.y - from.y) < 2) {
      this.done();
      return;
    }
    void run('movePins', { points: [point], places: place }).finally(() => this.done());
  }

  cancel(): void {
    this.from = null;
    this.done();
  }

  private done(): void {
    this.previews.drop();
    show({ uvs: null });
    useBench.getState().set({ pinMoving: null });
    void coreApi().endPins();
  }
}

import { usePacking } from '../packing.ts';
import { useBench } from '../../store/bench.ts';
import type { Stage } from '../views/stage.ts';
import type { PointerAt, Tool } from './tool.ts';

/** A press within so many px of a corner means it. */
const near = 9;
/** A press that moves further than this (px) drags. */
const mostPx = 4;

const within = (x: number) => Math.min(1, Math.max(0, x));

/** Draws the polygon that packing goes into, on the sheet: a click is a corner, one on the first closes it; corners are dragged. */
export class AreaTool implements Tool {
  private from: PointerAt | null = null;
  private corner = -1;
  /** The polygon before a corner was dragged; null: none is. */
  private before: [number, number][] | null = null;

  constructor(private readonly stage: Stage) {}

  down(at: PointerAt): void {
    this.from = at.view === 'sheet' ? at : null;
    this.corner = at.view === 'sheet' ? this.cornerAt(at) : -1;
  }

  move(at: PointerAt): void {
    const { from } = this;
    if (!from || this.corner < 0 || Math.hypot(at.x - from.x, at.y - from.y) <= mostPx) return;
    const { polygon } = usePacking.getState();
    if (!polygon) return;
    this.before ??= polygon;
    usePacking.setState({ polygon: polygon.with(this.corner, this.uv(at)) });
  }

  up(at: PointerAt): void {
    const { from, corner, before } = this;
    this.from = null;
    this.corner = -1;
    this.before = null;
    if (!from || before || Math.hypot(at.x - from.x, at.y - from.y) > mostPx) return;
    const { polygon, isDrawn } = usePacking.getState();
    const corners = polygon ?? [];
    if (isDrawn && corner === 0 && corners.length > 2) this.close();
    // beside a closed one a click means nothing: another is begun by its button
    else if (corner < 0 && isDrawn) usePacking.setState({ polygon: [...corners, this.uv(at)] });
  }

  double(): void {
    const { polygon, isDrawn } = usePacking.getState();
    if (isDrawn && polygon && polygon.length > 2) this.close();
  }

  cancel(): void {
    if (this.before) usePacking.setState({ polygon: this.before });
    this.from = null;
    this.corner = -1;
    this.before = null;
  }

  private close(): void {
    usePacking.setState({ isDrawn: false });
    useBench.getState().set({ tool: 'select' });
  }

  private cornerAt({ x, y }: PointerAt): number {
    const { width, height } = this.stage.rects.sheet;
    return (usePacking.getState().polygon ?? []).findIndex(([u, v]) => {
      const [px, py] = this.stage.sheetEye.toPx(u, v, width, height);
      return Math.hypot(px - x, py - y) < near;
    });
  }

  private uv({ x, y }: PointerAt): [number, number] {
    const { width, height } = this.stage.rects.sheet;
    const [u, v] = this.stage.sheetEye.toUv(x, y, width, height);
    return [within(u), within(v)];
  }
}

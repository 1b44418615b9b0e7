import { inReadingOrder, type PictureField } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { useFielding } from '../hands/fielding.ts';
import type { Stage } from '../views/stage.ts';
import type { PointerAt, Tool } from './tool.ts';

/** A drag shorter than this along a side, px, is a click. */
const leastPx = 5;

/** Draws fields of a picture on the sheet: a drag is a new one, a click takes one away. */
export class FieldTool implements Tool {
  private from: [number, number] | null = null;

  constructor(private readonly stage: Stage) {}

  down(at: PointerAt): void {
    this.cancel();
    if (at.view === 'sheet') this.from = [at.x, at.y];
  }

  move(at: PointerAt): void {
    if (!this.from || at.view !== 'sheet') return;
    useBench.getState().set({ drawn: { view: 'sheet', region: { shape: 'box', points: [...this.from, at.x, at.y] } }, hover: null });
  }

  up(at: PointerAt): void {
    const { from } = this;
    this.cancel();
    if (!from) return;
    const fields = useFielding.getState().fields ?? [];
    const [u0, v0] = this.uv(from);
    const [u1, v1] = this.uv([at.x, at.y]);
    if (Math.abs(at.x - from[0]) < leastPx || Math.abs(at.y - from[1]) < leastPx) {
      const left = fields.filter(([l, b, r, t]) => !(u0 >= l && u0 <= r && v0 >= b && v0 <= t));
      if (left.length < fields.length) useFielding.setState({ fields: left, unused: new Set() });
      return;
    }
    const within = (x: number) => Math.min(1, Math.max(0, x));
    const field: PictureField = [within(Math.min(u0, u1)), within(Math.min(v0, v1)), within(Math.max(u0, u1)), within(Math.max(v0, v1))];
    // one beside the sheet is none
    if (field[2] - field[0] > 0 && field[3] - field[1] > 0) useFielding.setState({ fields: inReadingOrder([...fields, field]), unused: new Set() });
  }

  cancel(): void {
    this.from = null;
    if (useBench.getState().drawn) useBench.getState().set({ drawn: null });
  }

  private uv([x, y]: readonly [number, number]): [number, number] {
    const { width, height } = this.stage.rects.sheet;
    return this.stage.sheetEye.toUv(x, y, width, height);
  }
}

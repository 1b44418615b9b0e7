import type { Jig, Vector } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { commit, endPreview, jigInHand, onSurface, placeAt, preview, useJigs } from '../jigs.ts';
import { show } from '../../store/shown.ts';
import { modelEye } from '../views/cameras.ts';
import { onPlane } from '../views/jigShape.ts';
import { takeUnder } from './jigsUnder.ts';
import type { PointerAt, Tool } from './tool.ts';

/** Is the model view's pointer for jigs now? */
export function jigHasPointer(): boolean {
  const { placing, takes } = useJigs.getState();
  return useBench.getState().station === 'jigs' && (placing !== null || (takes === 'jig' && jigInHand() !== null));
}

/** A press that moves less is a click. px */
const still = 4;

/**
 * Places a jig by a drag in the model view: a rectangle drawn over it, or its middle and facing taken from the surface under the pointer. While
 * the pointer takes the jig, a drag anywhere slides it over the surface, and a click takes the jig there in hand.
 */
export class JigTool implements Tool {
  private start: PointerAt | null = null;
  private last: { place: Vector; out: Vector } | null = null;
  private isClick = false;

  down(at: PointerAt): void {
    this.start = at;
    this.last = null;
    const { placing } = useJigs.getState();
    this.isClick = placing === null;
    if (placing === 'surface') this.slide(at);
  }

  move(at: PointerAt): void {
    if (!this.start) return;
    this.isClick &&= Math.hypot(at.x - this.start.x, at.y - this.start.y) < still;
    if (this.isClick) return;
    if (useJigs.getState().placing === 'draw')
      useBench.getState().set({ drawn: { view: 'model', region: { shape: 'box', points: [this.start.x, this.start.y, at.x, at.y] } }, hover: null });
    else this.slide(at);
  }

  private slide(at: PointerAt) {
    const found = at.picker.facing(at.x, at.y);
    if (!found) return;
    this.last = found;
    const row = jigInHand();
    if (!row) return;
    const jig = onSurface(row.jig, found.place, found.out);
    show({ jig });
    if (row.state === 'live') preview([{ jig, id: row.id }]);
  }

  up(at: PointerAt): void {
    const { start, last } = this;
    const { placing } = useJigs.getState();
    this.start = null;
    useBench.getState().set({ drawn: null });
    if (!start) return;
    if (this.isClick) {
      takeUnder(at.x, at.y, at.picker.sight(at.x, at.y));
      return;
    }
    if (placing === 'draw') {
      const [wide, tall] = [Math.abs(at.x - start.x), Math.abs(at.y - start.y)];
      if (wide < 6 || tall < 6) {
        useBench.getState().notice('Drag a rectangle over the model: the jig is placed in it as you see it.', 'info');
        return;
      }
      void placeAt((jig) => drawn(jig, start, at), 'drew');
      return;
    }
    if (!last) {
      endPreview();
      show({ jig: null });
      useBench.getState().notice('Drag over the model: the jig settles on its surface.', 'info');
      return;
    }
    const row = jigInHand();
    if (placing === null && row) void commit(row.id, onSurface(row.jig, last.place, last.out), 'moved');
    else void placeAt((jig) => onSurface(jig, last.place, last.out), 'placed');
  }

  cancel(): void {
    this.start = null;
    useBench.getState().set({ drawn: null });
    endPreview();
    show({ jig: null });
  }
}

/** A jig in a rectangle of the view, as deep in the picture as what lies under its middle. */
function drawn(jig: Jig, from: PointerAt, to: PointerAt): Jig {
  const eye = modelEye.axes;
  const [cx, cy] = [(from.x + to.x) / 2, (from.y + to.y) / 2];
  const out = eye.out as unknown as Vector;
  const middle = to.picker.facing(cx, cy)?.place ?? onPlane(to.picker.sight(cx, cy), jig.origin, out) ?? jig.origin;
  const corner = (x: number, y: number) => onPlane(to.picker.sight(x, y), middle, out) ?? middle;
  const [a, b] = [corner(from.x, from.y), corner(to.x, to.y)];
  const along = (axis: number[]) => Math.abs(axis.reduce((sum, x, d) => sum + x * (b[d]! - a[d]!), 0));
  const [wide, tall] = [along(eye.right), along(eye.up)];
  const origin = [0, 1, 2].map((d) => (a[d]! + b[d]!) / 2) as Jig['origin'];
  const deep = jig.kind === 'planar' || jig.kind === 'view' ? jig.size[2] : wide;
  return { ...jig, origin, right: eye.right as Jig['right'], up: eye.up as Jig['up'], size: [wide, tall, deep] };
}

import { takePlace, takePoint } from '../pairing.ts';
import type { Stage } from '../views/stage.ts';
import type { Picker } from '../views/pick.ts';
import type { PointerAt, Tool } from './tool.ts';

/** How near (px) a click has to be to a point of the mesh to mean it. */
const near = 12;
/** A press that moves further than this (px) is no click. */
const mostPx = 5;

/** Points at two points of the model and at their places in the picture, by turns. */
export class PairTool implements Tool {
  private from: PointerAt | null = null;

  constructor(
    private readonly stage: Stage,
    private readonly picker: Picker,
  ) {}

  down(at: PointerAt): void {
    this.from = at;
  }

  move(): void {
    // nothing is dragged
  }

  up(at: PointerAt): void {
    const { from } = this;
    this.from = null;
    if (!from || from.view !== at.view || Math.hypot(at.x - from.x, at.y - from.y) > mostPx) return;
    if (at.view === 'sheet') {
      const { width, height } = this.stage.rects.sheet;
      const [u, v] = this.stage.sheetEye.toUv(at.x, at.y, width, height);
      takePlace([u, v]);
    } else if (at.hit?.place && at.hit.face >= 0) takePoint(this.pointAt(at, at.hit.face) ?? [at.hit.place.x, at.hit.place.y, at.hit.place.z]);
  }

  cancel(): void {
    this.from = null;
  }

  /** The mesh's own point near a click; null: none is. */
  private pointAt(at: PointerAt, face: number): [number, number, number] | null {
    const { geometry } = this.stage;
    if (!geometry) return null;
    let [best, least] = [-1, near];
    for (let c = geometry.faceStart[face]!; c < geometry.faceStart[face + 1]!; c++) {
      const p = geometry.corners[c]!;
      const [x, y] = this.picker.projectPoint(p);
      const d = Math.hypot(x - at.x, y - at.y);
      if (d < least) [best, least] = [p, d];
    }
    return best < 0 ? null : [geometry.points[best * 3]!, geometry.points[best * 3 + 1]!, geometry.points[best * 3 + 2]!];
  }
}

import type { DecalFrame, Layer } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import { useImageGrip } from '../../tools/imageTool.ts';
import type { PointerAt, Tool } from '../../tools/tool.ts';
import { addLayer, layersIn, partSize, previewLayer, rounded, setLayer, useLayerChoice } from './layerWork.ts';

type Vector = readonly [number, number, number];
const cross = (a: Vector, b: Vector): [number, number, number] => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const unit = (a: Vector): [number, number, number] => {
  const length = Math.hypot(...a) || 1;
  return [a[0] / length, a[1] / length, a[2] / length];
};

/** A frame on a surface: upright as the surface stands, on a level one with its top away from the front. @param turn degrees, counter-clockwise */
export function frameOn(out: Vector, turn = 0): Pick<DecalFrame, 'right' | 'up'> {
  const level = Math.abs(out[1]) > 0.98;
  const right = unit(level ? [1, 0, 0] : cross([0, 1, 0], out));
  const up = unit(cross(out, right));
  const [c, s] = [Math.cos((turn * Math.PI) / 180), Math.sin((turn * Math.PI) / 180)];
  const mix = (a: Vector, b: Vector, x: number, y: number): [number, number, number] => [a[0] * x + b[0] * y, a[1] * x + b[1] * y, a[2] * x + b[2] * y];
  return { right: mix(right, up, c, s), up: mix(up, right, c, -s) };
}

/** By how many degrees a frame is turned on its surface. */
export function turnOf({ right, up }: Pick<DecalFrame, 'right' | 'up'>): number {
  const out = cross(right, up);
  const straight = frameOn(out);
  const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const degrees = (Math.atan2(dot(right, straight.up), dot(right, straight.right)) * 180) / Math.PI;
  return Math.round(degrees * 1e6) / 1e6 + 0;
}

/** A decal of an image where the pointer is on the surface; null beside it. */
export function decalAt({ picker, x, y }: Pick<PointerAt, 'picker' | 'x' | 'y'>, aspect: number): DecalFrame | null {
  const at = picker.facing(x, y);
  if (!at) return null;
  const wide = rounded(partSize() / 5);
  return { kind: 'decal', centre: [...at.place], ...frameOn(at.out), size: [wide, wide * aspect], depth: rounded(partSize() / 12), facing: 80, bend: 0 };
}

/** Places an image as a decal by a press, then moves the decal in hand over the surface. */
export class DecalTool implements Tool {
  private start: Layer | null = null;
  private now: Layer | null = null;

  /** @param image to be placed; without one the open decal is moved */
  constructor(private readonly image: { id: string; name: string; aspect: number } | null) {}

  private decal(): Layer | null {
    const { summary } = useBench.getState();
    const { material, layer } = useLayerChoice.getState();
    const found = summary && layersIn(summary, material).find(({ id }) => id === layer);
    return found?.driver.kind === 'decal' ? found : null;
  }

  down(at: PointerAt): void {
    if (this.image) {
      const driver = decalAt(at, this.image.aspect);
      if (!driver) {
        useBench.getState().notice('Press on the model: the decal is put there.', 'info');
        return;
      }
      useImageGrip.setState({ hand: new DecalTool(null) });
      void addLayer({ name: `Decal ${this.image.name.replace(/\.[^.]*$/, '')}`, source: { kind: 'image', image: this.image.id, channel: 'all' }, driver });
      return;
    }
    this.start = this.decal();
    this.now = null;
  }

  move(at: PointerAt): void {
    const { start } = this;
    if (start?.driver.kind !== 'decal') return;
    const on = at.picker.facing(at.x, at.y);
    if (!on) return;
    const driver: DecalFrame = { ...start.driver, centre: [...on.place], ...frameOn(on.out, turnOf(start.driver)) };
    this.now = { ...start, driver };
    previewLayer(this.now);
  }

  up(): void {
    const { now } = this;
    this.start = this.now = null;
    if (now) void setLayer(now, 'moved');
  }

  cancel(): void {
    const { start } = this;
    this.start = this.now = null;
    if (start) previewLayer(start);
  }
}

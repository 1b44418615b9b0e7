import { create } from 'zustand';
import { numbersPerDab, type Layer } from '@jig-peel/core';
import { useBench } from '../../../store/bench.ts';
import type { PointerAt, Tool } from '../../tools/tool.ts';
import { layersIn, partSize, previewLayer, rounded, setLayer, useLayerChoice } from './layerWork.ts';

/** The brush for masks. Radius null: a fifteenth of the part. */
export const useBrush = create<{ radius: number | null; strength: number; erases: boolean }>(() => ({ radius: null, strength: 1, erases: false }));

/** Dabs of a mask at most, as its schema has it. */
const mostDabs = 4096;
/** From one dab to the next, in radii. */
const apart = 0.35;

/** Brushes a mask of a layer on the model: dabs in space, so that no seam and no UVs matter. */
export class BrushTool implements Tool {
  private layer: Layer | null = null;
  private dabs: number[] = [];
  private last: readonly [number, number, number] | null = null;

  constructor(
    private readonly id: string,
    private readonly mask: number,
  ) {}

  down(at: PointerAt): void {
    const { summary } = useBench.getState();
    this.layer = (summary && layersIn(summary, useLayerChoice.getState().material).find(({ id }) => id === this.id)) ?? null;
    const mask = this.layer?.masks[this.mask];
    if (mask?.kind !== 'brush') {
      this.layer = null;
      return;
    }
    this.dabs = [...mask.dabs];
    this.last = null;
    this.dab(at);
  }

  move(at: PointerAt): void {
    if (this.layer) this.dab(at);
  }

  private dab(at: PointerAt): void {
    const place = at.picker.facing(at.x, at.y)?.place;
    if (!place || !this.layer) return;
    const { radius, strength, erases } = useBrush.getState();
    const size = radius ?? rounded(partSize() / 15);
    if (this.last && Math.hypot(place[0] - this.last[0], place[1] - this.last[1], place[2] - this.last[2]) < size * apart) return;
    if (this.dabs.length >= mostDabs * numbersPerDab) return;
    this.last = place;
    this.dabs.push(...place, size, erases || at.ctrl ? -strength : strength);
    previewLayer(this.with(this.layer));
  }

  private with(layer: Layer): Layer {
    const dabs = [...this.dabs];
    return { ...layer, masks: layer.masks.map((mask, k) => (k === this.mask && mask.kind === 'brush' ? { ...mask, dabs } : mask)) };
  }

  up(): void {
    const { layer } = this;
    this.layer = null;
    if (!layer) return;
    if (this.dabs.length >= mostDabs * numbersPerDab)
      useBench.getState().notice(`This mask has ${mostDabs.toLocaleString('en')} dabs, as many as it can have: brush on in another mask.`, 'info');
    void setLayer(this.with(layer), 'brushed');
  }

  cancel(): void {
    const { layer } = this;
    this.layer = null;
    if (layer) previewLayer(layer);
  }
}

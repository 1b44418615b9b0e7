import { create } from 'zustand';
import type { Fade, Layer, LayerDriver } from '@jig-peel/core';
import type { JobSummary } from '../../../session/messages.ts';
import { useBench } from '../../../store/bench.ts';
import { show } from '../../../store/shown.ts';
import { run } from '../../../worker/client.ts';

/** Whose layers are worked on, and which of them is open. */
export interface LayerChoice {
  /** The name of a material; null: the part at work. */
  material: string | null;
  /** The open layer, by id. */
  layer: string | null;
}
export const useLayerChoice = create<LayerChoice>(() => ({ material: null, layer: null }));

type Summary = Pick<JobSummary, 'parts' | 'activePart' | 'materialLayers'>;

export const activeOf = (summary: Summary) => summary.parts.find((part) => part.id === summary.activePart)!;

/** Layers of the owner that is chosen, from the bottom to the top. */
export function layersIn(summary: Summary, material: string | null): readonly Layer[] {
  if (material !== null) return summary.materialLayers.find((one) => one.material === material)?.layers ?? [];
  return activeOf(summary).layers ?? [];
}

const ownerNow = () => {
  const { material } = useLayerChoice.getState();
  return material === null ? {} : { material };
};

/** What a new layer begins with: its opacity, blending and so on are filled in by its schema. */
export type NewLayer = Pick<Layer, 'name' | 'source'> & Partial<Layer>;

export async function addLayer(layer: NewLayer): Promise<void> {
  const outcome = await run('addLayer', { ...ownerNow(), layer });
  if (outcome.ok) useLayerChoice.setState({ layer: outcome.report.id });
  useBench.getState().set({ overlay: 'picture' });
}

/** A number as it is dragged: shown at once, kept by `setLayer`. */
export const previewLayer = (layer: Layer): void => show({ layer });

export async function setLayer(layer: Layer, what: string): Promise<void> {
  await run('setLayer', { ...ownerNow(), layer, what });
  show({ layer: null });
}

export const removeLayer = (id: string): void => void run('removeLayer', { ...ownerNow(), layer: id }, true);
export const orderLayers = (order: string[]): void => void run('orderLayers', { ...ownerNow(), order });

/** The length of the diagonal of the part at work, units. */
export function partSize(): number {
  const { geometry } = useBench.getState();
  if (!geometry) return 1;
  const [x0, y0, z0, x1, y1, z1] = geometry.bounds;
  return Math.hypot(x1 - x0, y1 - y0, z1 - z0) || 1;
}

/** A length that is easy to read. */
export const rounded = (x: number): number => Number(x.toPrecision(2));

/** What drives a new layer: the UVs where there are any, else three sides. */
export function firstDriver(): LayerDriver {
  const { layout } = useBench.getState();
  if (layout && !layout.allUnplaced) return { kind: 'set', set: '' };
  return { kind: 'triplanar', size: rounded(partSize() / 3), blend: 0.3, offset: [0, 0, 0], turn: [0, 0, 0] };
}

/** Faces that are selected on the part at work: as such, or by their islands. */
export function facesChosen(): number[] {
  const { summary, layout, geometry } = useBench.getState();
  const selection = summary?.selection;
  if (!selection || !geometry || selection.part !== summary.activePart) return [];
  if (selection.kind === 'faces') return [...selection.ids];
  if (selection.kind !== 'islands' || !layout) return [];
  const chosen = new Set(selection.ids);
  return Array.from({ length: geometry.faces }, (_, f) => f).filter((f) => chosen.has(layout.faceIsland[f]!));
}

/** Which fade of a layer: its own, or that of a mask by number. */
export type FadeAt = 'own' | number;

export function fadesOf({ source, masks }: Layer): { at: FadeAt; fade: Fade }[] {
  const own = source.kind === 'fade' ? [{ at: 'own' as const, fade: source.fade }] : [];
  return [...own, ...masks.flatMap((mask, k) => (mask.kind === 'fade' ? [{ at: k, fade: mask.fade }] : []))];
}

export function withFade(layer: Layer, at: FadeAt, fade: Fade): Layer {
  if (at === 'own') return layer.source.kind === 'fade' ? { ...layer, source: { ...layer.source, fade } } : layer;
  return { ...layer, masks: layer.masks.map((mask, k) => (k === at && mask.kind === 'fade' ? { ...mask, fade } : mask)) };
}

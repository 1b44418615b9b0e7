import { isOnOthers, reachingOnto } from '@jig-peel/core';
import type { BenchState } from '../store/bench.ts';

/** Layers of other parts, in their places, that may reach onto the one at work. */
export const layersOfOthers = ({ summary }: Pick<BenchState, 'summary'>) =>
  summary?.parts.map(({ id, layers }) => (id !== summary.activePart && layers?.some(isOnOthers) ? layers : null)) ?? [];

/** Whether any layer of the part at work, of its own, of a material's or a decal of another part, goes to relief. */
export function hasRelief({ summary, geometry }: Pick<BenchState, 'summary' | 'geometry'>): boolean {
  const part = summary?.parts.find(({ id }) => id === summary.activePart);
  if (!summary || !part) return false;
  const shows = (layers: readonly { to: string; isOn: boolean }[]) => layers.some(({ to, isOn }) => isOn && to === 'relief');
  // its own go before those of its materials
  if (shows(reachingOnto(summary.parts, part.id, () => geometry?.bounds ?? []).map(({ layer }) => layer))) return true;
  return part.layers ? shows(part.layers) : summary.materialLayers.some(({ material, layers }) => part.materials.includes(material) && shows(layers));
}

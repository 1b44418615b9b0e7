import type { BenchState } from '../store/bench.ts';

/** Whether any layer of the part at work, of its own or of a material's, goes to relief. */
export function hasRelief({ summary }: Pick<BenchState, 'summary'>): boolean {
  const part = summary?.parts.find(({ id }) => id === summary.activePart);
  if (!summary || !part) return false;
  const shows = (layers: readonly { to: string; isOn: boolean }[]) => layers.some(({ to, isOn }) => isOn && to === 'relief');
  // its own go before those of its materials
  const reaching = summary.parts
    .flatMap(({ id, layers }) => (id === part.id ? [] : (layers ?? [])))
    .filter(({ driver }) => driver.kind === 'decal' && driver.others);
  if (shows(reaching)) return true;
  return part.layers ? shows(part.layers) : summary.materialLayers.some(({ material, layers }) => part.materials.includes(material) && shows(layers));
}

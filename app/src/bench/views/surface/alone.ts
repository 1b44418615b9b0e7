import { unadjusted, type Layer, type PlannedLayer } from '@jig-peel/core';

/** A layer that is looked at without the others, or one of its masks by itself: white where it lets the layer through, black where not. */
export interface Alone {
  layer: string;
  /** Number of the mask; null: the layer itself. */
  mask: number | null;
}

/** The layer as it is shown alone: whole and not blended, relief as grey; a mask as white. */
export function aloneLayer(layer: Layer, mask: number | null): Layer {
  const whole = { ...layer, to: 'colour' as const, blend: 'normal' as const, opacity: 1, isOn: true };
  const chosen = mask === null ? undefined : layer.masks[mask];
  if (!chosen) return whole;
  return { ...whole, source: { kind: 'colour', colour: '#ffffff' }, adjust: unadjusted, masks: [{ ...chosen, how: 'and' }] };
}

/** The stack with only what is looked at in it; null where that is not there any more. */
export function aloneOf(layers: readonly PlannedLayer[], { layer: id, mask }: Alone): PlannedLayer[] | null {
  const found = layers.find(({ layer }) => layer.id === id);
  if (!found || (mask !== null && !found.layer.masks[mask])) return null;
  if (mask === null) return [{ ...found, layer: aloneLayer(found.layer, null) }];
  const black: Layer = { ...aloneLayer(found.layer, mask), id: `${id} black`, source: { kind: 'colour', colour: '#000000' }, masks: [] };
  return [
    { ...found, layer: black, fields: [], fieldCounts: [] },
    { ...found, layer: aloneLayer(found.layer, mask), fields: [found.fields[mask]!], fieldCounts: [found.fieldCounts[mask]!] },
  ];
}

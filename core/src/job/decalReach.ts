import type { DecalFrame, Layer } from '../images/surface/layer.ts';

/** Whether a layer is on other parts than its own, where it reaches them. */
export const isOnOthers = ({ driver }: Pick<Layer, 'driver'>): boolean => driver.kind === 'decal' && driver.others === true;

/** Whether a decal is not on a part that it reaches, as a picture baked of it is shown there. */
export const isBakedOn = ({ driver }: Pick<Layer, 'driver'>, part: string): boolean => driver.kind === 'decal' && (driver.notOn?.includes(part) ?? false);

/** Whether a decal may reach into a box: least x, y, z, then most. */
function comesNear({ centre, size, depth }: DecalFrame, box: ArrayLike<number>): boolean {
  const reach = Math.hypot(size[0], size[1]) / 2 + depth;
  return centre.every((x, d) => x + reach >= box[d]! && x - reach <= box[d + 3]!);
}

/**
 * Layers of other parts that are on a part, too.
 * @param box of the part: least x, y, z, then most; asked for where another part has such layers
 */
export function reachingOnto<P extends { readonly id: string; readonly layers?: readonly Layer[] | null | undefined }>(
  parts: readonly P[],
  part: string,
  box: () => ArrayLike<number>,
): { part: P; layer: Layer }[] {
  const found = parts.flatMap((other) => (other.id === part ? [] : (other.layers ?? []).filter(isOnOthers).map((layer) => ({ part: other, layer }))));
  if (found.length === 0) return found;
  const own = box();
  return found.filter(({ layer }) => !isBakedOn(layer, part) && comesNear(layer.driver as DecalFrame, own));
}

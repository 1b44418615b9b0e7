import type { LayoutView } from '../../session/messages.ts';

/** The sheet with all its tiles, and the tray beside it where islands wait there: least u, v, largest u, v. */
export function wholeSheet(
  layout: Pick<LayoutView, 'islands'> | null,
  tiles = 1,
  beside: readonly Pick<LayoutView, 'islands'>[] = [],
): [number, number, number, number] {
  const box: [number, number, number, number] = [0, 0, Math.min(10, tiles), Math.ceil(tiles / 10)];
  for (const { waits, left, bottom, height } of [layout, ...beside].flatMap((one) => one?.islands ?? [])) {
    if (!waits) continue;
    box[0] = Math.min(box[0], left);
    box[1] = Math.min(box[1], bottom);
    box[3] = Math.max(box[3], bottom + height);
  }
  return box;
}

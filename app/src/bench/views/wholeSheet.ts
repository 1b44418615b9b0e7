import type { LayoutView } from '../../session/messages.ts';

/** The sheet, and the tray beside it where islands wait there: least u, v, largest u, v. */
export function wholeSheet(layout: Pick<LayoutView, 'islands'> | null): [number, number, number, number] {
  const box: [number, number, number, number] = [0, 0, 1, 1];
  for (const { waits, u, v, width, height } of layout?.islands ?? []) {
    if (!waits) continue;
    box[0] = Math.min(box[0], u - width / 2);
    box[1] = Math.min(box[1], v - height / 2);
    box[3] = Math.max(box[3], v + height / 2);
  }
  return box;
}

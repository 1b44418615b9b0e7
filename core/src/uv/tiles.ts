/** Where tile k is (0: 1001): columns to the right, rows up, both in sheets. */
export const tilePlace = (k: number): [number, number] => [k % 10, Math.floor(k / 10)];
/** The number of a tile by the open numbering: 1001 + column + 10 · row. */
export const tileNumber = (k: number): number => 1001 + k;
/** Which of the tiles a place of the sheet is in, counted from 0; −1: in none. On a border between two it is in the one above or to the right, on the outermost still inside. */
export function tileAt(u: number, v: number, tiles: number): number {
  const last = tiles - 1;
  const columns = Math.min(10, tiles);
  const rows = Math.floor(last / 10) + 1;
  if (!(u >= 0 && v >= 0 && u <= columns && v <= rows)) return -1;
  const k = Math.min(columns - 1, Math.floor(u)) + 10 * Math.min(rows - 1, Math.floor(v));
  return k <= last ? k : -1;
}

/** Cells along the longer side of what is looked at. */
const resolution = 4096;
/** Most cells in all, most rows of all triangles together, and cells along the longer side at the least. */
const mostCells = 2 ** 23;
const mostRows = 4e6;
const coarsest = 256;

/**
 * What is covered at least once and more than once, by the middles of the cells of a raster: for layouts that lie over themselves so many times
 * that cutting every two triangles would never end. Areas are right to about the length of what is covered times the width of a cell.
 * @param xy 6 numbers a triangle, counter-clockwise
 * @returns 1 in `overlapping` for each triangle that holds a middle that another one holds, too
 * O(cells + rows of each triangle).
 */
export function rasterOverlap(xy: Float64Array): { overlapArea: number; coveredArea: number; overlapping: Uint8Array } {
  const n = xy.length / 6;
  const overlapping = new Uint8Array(n);
  let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < xy.length; k += 2) {
    left = Math.min(left, xy[k]!);
    right = Math.max(right, xy[k]!);
    low = Math.min(low, xy[k + 1]!);
    high = Math.max(high, xy[k + 1]!);
  }
  const long = Math.max(right - left, high - low);
  if (!(long > 0) || !Number.isFinite(long)) return { overlapArea: 0, coveredArea: 0, overlapping };
  let heights = 0;
  for (let o = 0; o < xy.length; o += 6) heights += Math.max(xy[o + 1]!, xy[o + 3]!, xy[o + 5]!) - Math.min(xy[o + 1]!, xy[o + 3]!, xy[o + 5]!);
  let cell = Math.min(long / coarsest, Math.max(long / resolution, heights / mostRows));
  while (Math.ceil((right - left) / cell) * Math.ceil((high - low) / cell) > mostCells) cell *= 1.1;
  const columns = Math.max(1, Math.ceil((right - left) / cell));
  const rows = Math.max(1, Math.ceil((high - low) / cell));
  // first where runs begin and end, then how often each middle is covered, then in how many of its row so far more often than once
  const stride = columns + 1;
  const counts = new Int32Array(stride * rows);
  // first and last place of each triangle's middles in each of its rows
  const each = (k: number, visit: (from: number, to: number) => void) => {
    // the corners from low to high: both sides of a shared edge so come to the same number, from its lower end
    let [a, b, c] = [k * 6, k * 6 + 2, k * 6 + 4];
    if (xy[a + 1]! > xy[b + 1]!) [a, b] = [b, a];
    if (xy[b + 1]! > xy[c + 1]!) [b, c] = [c, b];
    if (xy[a + 1]! > xy[b + 1]!) [a, b] = [b, a];
    const ax = xy[a]!;
    const ay = xy[a + 1]!;
    const bx = xy[b]!;
    const by = xy[b + 1]!;
    const cx = xy[c]!;
    const cy = xy[c + 1]!;
    if (ay === cy) return;
    const y0 = Math.max(0, Math.ceil((ay - low) / cell - 0.5));
    const y1 = Math.min(rows - 1, Math.floor((cy - low) / cell - 0.5));
    for (let row = y0; row <= y1; row++) {
      const y = low + (row + 0.5) * cell;
      const x = ax + ((y - ay) / (cy - ay)) * (cx - ax);
      const other = y < by || by === cy ? ax + ((y - ay) / (by - ay)) * (bx - ax) : bx + ((y - by) / (cy - by)) * (cx - bx);
      const first = Math.max(0, Math.ceil((Math.min(x, other) - left) / cell - 0.5));
      // a middle on a shared edge belongs to the triangle on its left
      const last = Math.min(columns - 1, Math.ceil((Math.max(x, other) - left) / cell - 0.5) - 1);
      if (first <= last) visit(row * stride + first, row * stride + last);
    }
  };
  for (let k = 0; k < n; k++)
    each(k, (from, to) => {
      counts[from]!++;
      counts[to + 1]!--;
    });
  let [covered, over] = [0, 0];
  for (let row = 0; row < rows; row++) {
    let [times, more] = [0, 0];
    for (let c = row * stride; c < row * stride + columns; c++) {
      times += counts[c]!;
      if (times > 0) covered++;
      if (times > 1) more++;
      counts[c] = more;
    }
    over += more;
  }
  for (let k = 0; k < n; k++)
    each(k, (from, to) => {
      if (counts[to]! > (from % stride === 0 ? 0 : counts[from - 1]!)) overlapping[k] = 1;
    });
  return { overlapArea: over * cell * cell, coveredArea: covered * cell * cell, overlapping };
}

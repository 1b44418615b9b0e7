/** A box to be placed, px. */
export interface Box {
  width: number;
  height: number;
}

/**
 * Boxes in rows, the tallest first, at the largest common scale to within a thousandth: what is left for thousands of islands, where trying real
 * outlines would take minutes. (Next-fit decreasing height: E. Coffman, M. Garey, D. Johnson, R. Tarjan, Performance bounds for level-oriented
 * two-dimensional packing algorithms, SIAM Journal on Computing 1980; from memory.)
 *
 * @param room width and height without the border gaps, px
 * @param gap px between boxes
 * @param most the largest scale to try
 * @returns the scale and the lower left corner of each box (2 numbers a box, px); null where even a millionth of `most` does not fit
 * O(n log n + n · halvings).
 */
export function packShelves(boxes: readonly Box[], room: Box, gap: number, most: number): { scale: number; places: Float64Array } | null {
  const order = boxes.map((_, k) => k).sort((a, b) => boxes[b]!.height - boxes[a]!.height);
  const places = new Float64Array(boxes.length * 2);
  const fits = (scale: number): boolean => {
    let [x, y, rowHeight] = [0, 0, 0];
    for (const k of order) {
      const width = boxes[k]!.width * scale;
      const height = boxes[k]!.height * scale;
      if (width > room.width) return false;
      if (x > 0 && x + width > room.width) {
        y += rowHeight + gap;
        x = 0;
        rowHeight = 0;
      }
      rowHeight = Math.max(rowHeight, height);
      if (y + rowHeight > room.height) return false;
      places[k * 2] = x;
      places[k * 2 + 1] = y;
      x += width + gap;
    }
    return true;
  };
  let [low, high] = [0, most];
  for (let step = 0; step < 60 && (low === 0 || high / low > 1.001); step++) {
    const middle = low === 0 && step > 0 ? high / 2 : (low + high) / 2;
    if (fits(middle)) low = middle;
    else high = middle;
    if (low === 0 && high < most * 1e-6) return null;
  }
  return fits(low) ? { scale: low, places } : null;
}

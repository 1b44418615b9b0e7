/**
 * The places of a symmetric sparse matrix's lower triangle, column by column, the diagonal always there.
 * Entry e of column j (columnStart[j] ≤ e < columnStart[j + 1]) is at row rows[e] ≥ j; rows rise within a column, so the
 * diagonal comes first.
 */
export interface SymmetricPattern {
  size: number;
  columnStart: Int32Array;
  rows: Int32Array;
}

/**
 * The pattern of the matrix that couples the corners of each triangle (a mesh Laplacian's).
 * @param size number of vertices
 * @param triangles 3 vertex numbers a triangle
 * O(T): two counting passes and one sort of short columns.
 */
export function trianglePattern(size: number, triangles: Uint32Array): SymmetricPattern {
  const count = new Int32Array(size + 1);
  for (let t = 0; t < triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k]!;
      const b = triangles[t + ((k + 1) % 3)]!;
      count[(a < b ? a : b) + 1]!++;
    }
  }
  for (let j = 0; j < size; j++) count[j + 1]! += count[j]!;
  const all = new Int32Array(count[size]!);
  const fill = count.slice(0, size);
  for (let t = 0; t < triangles.length; t += 3) {
    for (let k = 0; k < 3; k++) {
      const a = triangles[t + k]!;
      const b = triangles[t + ((k + 1) % 3)]!;
      if (a < b) all[fill[a]!++] = b;
      else all[fill[b]!++] = a;
    }
  }
  return withDiagonal(size, count, all);
}

/** Builds a pattern from any list of (row, column) pairs; doubles and both triangles are fine. */
export function patternFromPairs(size: number, pairs: ReadonlyArray<readonly [number, number]>): SymmetricPattern {
  const start = new Int32Array(size + 1);
  for (const [a, b] of pairs) start[Math.min(a, b) + 1]!++;
  for (let j = 0; j < size; j++) start[j + 1]! += start[j]!;
  const all = new Int32Array(pairs.length);
  const fill = start.slice(0, size);
  for (const [a, b] of pairs) all[fill[Math.min(a, b)]!++] = Math.max(a, b);
  return withDiagonal(size, start, all);
}

function withDiagonal(size: number, start: Int32Array, all: Int32Array): SymmetricPattern {
  const columnStart = new Int32Array(size + 1);
  const rows = new Int32Array(all.length + size);
  let out = 0;
  for (let j = 0; j < size; j++) {
    columnStart[j] = out;
    rows[out++] = j;
    const from = out;
    for (let e = start[j]!; e < start[j + 1]!; e++) {
      const row = all[e]!;
      if (row === j) continue;
      let at = out;
      while (at > from && rows[at - 1]! > row) at--;
      if (at > from && rows[at - 1] === row) continue;
      rows.copyWithin(at + 1, at, out);
      rows[at] = row;
      out++;
    }
  }
  columnStart[size] = out;
  return { size, columnStart, rows: rows.slice(0, out) };
}

/** The entry at (row, column) of the lower triangle, or −1. O(log of the column's length). */
export function entryAt(pattern: SymmetricPattern, row: number, column: number): number {
  if (row < column) return entryAt(pattern, column, row);
  let low = pattern.columnStart[column]!;
  let high = pattern.columnStart[column + 1]! - 1;
  while (low <= high) {
    const mid = (low + high) >> 1;
    const at = pattern.rows[mid]!;
    if (at === row) return mid;
    if (at < row) low = mid + 1;
    else high = mid - 1;
  }
  return -1;
}

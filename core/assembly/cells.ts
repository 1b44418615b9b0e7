/**
 * Where a shape fits on a raster of the sheet, in AssemblyScript with 128-bit SIMD: the inner loops of `TakenCells` (core/src/pack/takenCells.ts), which says what
 * the rows of bits mean. Rows are filled up with words of nothing to `stride` words, at least five more than a row has, so that four words can be read from any.
 */

let width: i32 = 0;
let height: i32 = 0;
let words: i32 = 0;
/** Words from one level of a row to the next. */
let stride: i32 = 0;
let levels: i32 = 0;
/** Words of what is free (u32), by row, level; and of each row joined with the three above it. */
let freeAt: usize = 0;
let wideAt: usize = 0;
/** 1 where a row (u8), or a level of a joined row (u8), is out of date. */
let staleAt: usize = 0;
let staleWideAt: usize = 0;
/** Positions of the present row that are left (u32). */
let allowedAt: usize = 0;
/** The row of the sheet that ruled out all positions of the last block. */
let barrier: i32 = -1;
/** Words of `allowed` that may still hold a position. */
let low: i32 = 0;
let high: i32 = 0;

/** Work done so far, in vectors of four words: the same on any machine. */
export let work: f64 = 0;

/** Rows of positions that one test rules out. */
const together: i32 = 4;

export function setUp(columns: i32, rows: i32, wordsOfRow: i32, strideOfRow: i32, levelsOfRow: i32, free: usize, wide: usize, stale: usize, staleWide: usize, allowed: usize): void {
  width = columns;
  height = rows;
  words = wordsOfRow;
  stride = strideOfRow;
  levels = levelsOfRow;
  freeAt = free;
  wideAt = wide;
  staleAt = stale;
  staleWideAt = staleWide;
  allowedAt = allowed;
  barrier = -1;
}

// @ts-ignore: decorator
@inline
function levelAt(rows: usize, y: i32, level: i32): usize {
  return rows + (<usize>((y * levels + level) * stride) << 2);
}

/** Four words, moved down by so many bits; the fifth gives the bits that come in. */
// @ts-ignore: decorator
@inline
function moved(at: usize, rest: i32): v128 {
  const v = v128.load(at);
  return rest ? v128.or(i32x4.shr_u(v, rest), i32x4.shl(v128.load(at, 4), 32 - rest)) : v;
}

function refresh(y: i32): void {
  if (!load<u8>(staleAt + y)) return;
  store<u8>(staleAt + y, 0);
  for (let k = 1; k < levels; k++) {
    const from = levelAt(freeAt, y, k - 1);
    const to = levelAt(freeAt, y, k);
    const shift = 1 << (k - 1);
    const whole = shift >> 5;
    for (let w = 0; w < words; w += 4) {
      const at = <usize>w << 2;
      v128.store(to + at, w + whole >= words ? i32x4.splat(0) : v128.and(v128.load(from + at), moved(from + at + (<usize>whole << 2), shift & 31)));
    }
  }
}

/** Joins one level of row y with that of the rows above it. */
function refreshWide(y: i32, level: i32): void {
  store<u8>(staleWideAt + y * levels + level, 0);
  for (let k = 0; k < together && y + k < height; k++) refresh(y + k);
  const to = levelAt(wideAt, y, level);
  if (y + together > height) {
    // above the sheet everything counts as free
    memory.fill(to, 255, <usize>words << 2);
    return;
  }
  const from = levelAt(freeAt, y, level);
  const row = <usize>(levels * stride) << 2;
  for (let at: usize = 0; at < <usize>words << 2; at += 16)
    v128.store(
      to + at,
      v128.or(v128.or(v128.load(from + at), v128.load(from + at + row)), v128.or(v128.load(from + at + 2 * row), v128.load(from + at + 3 * row))),
    );
}

/** allowed &= a level of a row, moved: bit x of the result is bit x + shift of it. */
// @ts-ignore: decorator
@inline
function andMoved(level: usize, shift: i32): void {
  const rest = shift & 31;
  let from = level + (<isize>(low + (shift >> 5)) << 2);
  const end = allowedAt + (<usize>high << 2);
  // what is read beyond the row meets no position that is left
  for (let at = allowedAt + (<usize>low << 2); at <= end; at += 16, from += 16) v128.store(at, v128.and(v128.load(at), moved(from, rest)));
}

/** For runs that may stick out of the sheet: position by position. */
function restrictClipped(y: i32, from: i32, to: i32, border: i32, last: i32): void {
  const row = levelAt(freeAt, y, 0);
  for (let x = border; x <= last; x++) {
    const at = allowedAt + (<usize>(x >> 5) << 2);
    if (!((load<u32>(at) >> (x & 31)) & 1)) continue;
    for (let c = max(0, x + from); c <= min(width - 1, x + to); c++) {
      if ((load<u32>(row + (<usize>(c >> 5) << 2)) >> (c & 31)) & 1) continue;
      store<u32>(at, load<u32>(at) & ~(1 << (x & 31)));
      break;
    }
  }
}

/** Starts with every x from `border` to `last`; false if there is none. */
function open(border: i32, last: i32): bool {
  if (last < border) return false;
  low = border >> 5;
  high = last >> 5;
  memory.fill(allowedAt + (<usize>low << 2), 255, <usize>(high - low + 1) << 2);
  v128.store(allowedAt + (<usize>(high + 1) << 2), i32x4.splat(0));
  const first = allowedAt + (<usize>low << 2);
  store<u32>(first, load<u32>(first) & (<u32>0xffffffff << (border & 31)));
  const end = allowedAt + (<usize>high << 2);
  store<u32>(end, load<u32>(end) & (<u32>0xffffffff >> (31 - (last & 31))));
  return true;
}

/** Tests the rows of a shape at y; true while a position is left. */
function test(isWide: bool, starts: usize, runs: usize, rows: i32, reach: i32, order: usize, count: i32, y: i32, border: i32, last: i32): bool {
  // the row of the sheet that ruled out the last block probably rules out this one, too
  const likely = barrier - y + reach;
  for (let o = likely >= 0 && likely < rows ? -1 : 0; o < count; o++) {
    const r = o < 0 ? likely : load<i32>(order + (<usize>o << 2));
    const at = y + r - reach;
    if (at < 0 || at >= height) continue;
    if (!isWide) refresh(at);
    const end = load<u32>(starts + (<usize>r << 2), 4);
    for (let k = load<u32>(starts + (<usize>r << 2)); k < end; k += 2) {
      const from = load<i32>(runs + (<usize>k << 2)) - reach;
      const to = load<i32>(runs + (<usize>k << 2), 4) - reach;
      if (border + from >= 0 && last + to < width) {
        const length = to - from + 1;
        const level = min(levels - 1, 31 - clz(length));
        if (isWide && load<u8>(staleWideAt + at * levels + level)) refreshWide(at, level);
        const row = levelAt(isWide ? wideAt : freeAt, at, level);
        andMoved(row, from);
        if (1 << level != length) andMoved(row, to - (1 << level) + 1);
        work += <f64>(((high - low) >> 2) + 4);
      } else if (!isWide) restrictClipped(at, from, to, border, last);
    }
    while (low <= high && !load<u32>(allowedAt + (<usize>low << 2))) low++;
    if (low > high) {
      barrier = at;
      return false;
    }
    while (!load<u32>(allowedAt + (<usize>high << 2))) high--;
  }
  return true;
}

/**
 * The lowest place, and there the leftmost, at which a shape fits; see `TakenCells.lowestFit`.
 * @param starts, runs rows of its grown outline (u32, one more than rows; i32), @param order in which they are tested (i32)
 * @param top rows of positions end here, @param last column of positions
 * @returns x in the lower half, y in the upper half of the word; −1 where there is none
 */
export function lowestFit(starts: usize, runs: usize, rows: i32, reach: i32, order: usize, count: i32, border: i32, last: i32, from: i32, top: i32): i32 {
  for (let block = from; block < top; block += together) {
    if (!open(border, last)) return -1;
    if (!test(true, starts, runs, rows, reach, order, count, block, border, last)) continue;
    const end = min(top, block + together);
    for (let y = block; y < end; y++) {
      open(border, last);
      if (!test(false, starts, runs, rows, reach, order, count, y, border, last)) continue;
      return (y << 16) | (low * 32 + ctz(load<u32>(allowedAt + (<usize>low << 2))));
    }
  }
  return -1;
}

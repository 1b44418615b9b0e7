/**
 * The inner loops of packing by depth maps, in AssemblyScript with 128-bit SIMD. All addresses are bytes in the imported memory.
 *
 * A depth map says for each whole-cell shift t between two pieces whether piece B at t overlaps piece A, and about how deep: 0 where they do not,
 * else the chamfer distance (2 a straight step, 3 a diagonal one, at most 255) to the next shift at which they do not. Two connected regions overlap
 * exactly where an edge of one crosses an edge of the other (the shifts of a pair of edges fill a parallelogram) or an inner point of one lies in the
 * other, so the map is the no-fit region of both, holes and bays included, without building its outline.
 */
import { below, random, setSeed } from './random';

/** Touching counts as overlapping, and so does what is so near to it. */
const EPS: f64 = -1e-7;

// @ts-ignore: decorator
@inline
function mark(diff: usize, w: i32, y: i32, from: f64, to: f64, by: i32): void {
  const a = from + EPS < 0 ? 0 : from > <f64>w ? w : <i32>Math.ceil(from + EPS);
  const b = to - EPS > <f64>(w - 1) ? w - 1 : to < -1 ? -1 : <i32>Math.floor(to - EPS);
  if (a > b) return;
  const row = diff + ((<usize>y * (<usize>w + 1)) << 1);
  const p = row + (<usize>a << 1);
  store<i16>(p, <i16>(load<i16>(p) + by));
  const q = row + ((<usize>b + 1) << 1);
  store<i16>(q, <i16>(load<i16>(q) - by));
}

/** Adds the crossings of one row of a region: everything right of the edge gets its winding. */
// @ts-ignore: decorator
@inline
function winding(diff: usize, edges: usize, count: i32, sign: f64, dx: f64, dy: f64, scale: f64, w: i32, h: i32): void {
  for (let k = 0; k < count; k++) {
    const e = edges + (<usize>k << 5);
    const y0 = (sign * load<f64>(e, 8) + dy) * scale;
    const y1 = (sign * load<f64>(e, 24) + dy) * scale;
    if (y0 == y1 || max(y0, y1) < 0 || min(y0, y1) > <f64>(h - 1)) continue;
    const x0 = (sign * load<f64>(e) + dx) * scale;
    const x1 = (sign * load<f64>(e, 16) + dx) * scale;
    const up = y1 > y0;
    const low = up ? y0 : y1;
    const high = up ? y1 : y0;
    const from = low < 0 ? 0 : <i32>Math.ceil(low);
    const to = high > <f64>h ? h - 1 : <i32>Math.ceil(high) - 1;
    const slope = (x1 - x0) / (y1 - y0);
    const by = up ? -1 : 1;
    for (let y = from; y <= to; y++) {
      const at = Math.ceil(x0 + (<f64>y - y0) * slope);
      const a = at < 0 ? 0 : at > <f64>w ? w : <i32>at;
      const p = diff + ((<usize>y * (<usize>w + 1) + <usize>a) << 1);
      store<i16>(p, <i16>(load<i16>(p) + by));
    }
  }
}

/** Sums the differences along each row; where the sum is not 0, the map's byte becomes 255. Clears the differences. */
function settle(diff: usize, out: usize, stride: i32, w: i32, h: i32): bool {
  let any = false;
  for (let y = 0; y < h; y++) {
    let p = diff + ((<usize>y * (<usize>w + 1)) << 1);
    const row = out + <usize>y * stride;
    let sum: i32 = 0;
    for (let x = 0; x < w; x++) {
      sum += load<i16>(p);
      if (sum != 0) {
        store<u8>(row + x, 255);
        any = true;
      }
      p += 2;
    }
  }
  memory.fill(diff, 0, (<usize>h * (<usize>w + 1)) << 1);
  return any;
}

/** Adds the shifts at which an edge of A crosses an edge of B, for all edges of B. @returns whether there is any */
function parallelograms(e: usize, b: usize, countB: i32, x0: i32, y0: i32, w: i32, h: i32, diff: usize): bool {
  const ox = <f64>x0;
  const oy = <f64>y0;
  let any = false;
  let sx = load<f64>(e) - ox;
  let sy = load<f64>(e, 8) - oy;
  let px = load<f64>(e, 16) - load<f64>(e);
  let py = load<f64>(e, 24) - load<f64>(e, 8);
  if (py < 0) {
    sx += px;
    sy += py;
    px = -px;
    py = -py;
  }
  for (let j = 0; j < countB; j++) {
    const f = b + (<usize>j << 5);
    // the shifts: a point of A's edge minus a point of B's
    let bx = sx - load<f64>(f);
    let by = sy - load<f64>(f, 8);
    let qx = load<f64>(f) - load<f64>(f, 16);
    let qy = load<f64>(f, 8) - load<f64>(f, 24);
    if (qy < 0) {
      bx += qx;
      by += qy;
      qx = -qx;
      qy = -qy;
    }
    const top = by + py + qy;
    if (top < EPS || by > <f64>(h - 1) - EPS) continue;
    const from = by + EPS < 0 ? 0 : <i32>Math.ceil(by + EPS);
    const to = top - EPS > <f64>(h - 1) ? h - 1 : <i32>Math.floor(top - EPS);
    if (from > to) continue;
    const left = bx + min(px, 0) + min(qx, 0);
    const right = bx + max(px, 0) + max(qx, 0);
    if (right < EPS || left > <f64>(w - 1) - EPS) continue;
    any = true;
    if (py == 0 && qy == 0) mark(diff, w, from, left, right, 1);
    else if (py == 0) {
      const slope = qx / qy;
      for (let y = from; y <= to; y++) {
        const x = bx + (<f64>y - by) * slope;
        mark(diff, w, y, x + min(px, 0), x + max(px, 0), 1);
      }
    } else {
      // by the steeper of the two: the other may be all but level
      const isSteeper = qy >= py;
      const ux = isSteeper ? px : qx;
      const uy = isSteeper ? py : qy;
      const vx = isSteeper ? qx : px;
      const vy = isSteeper ? qy : py;
      const ps = 1 / uy;
      const pq = vx / vy;
      const skew = ux - uy * pq;
      for (let y = from; y <= to; y++) {
        const rise = <f64>y - by;
        let s0 = uy == 0 ? 0 : (rise - vy) * ps;
        let s1 = uy == 0 ? 1 : rise * ps;
        if (s0 < 0) s0 = 0;
        if (s1 > 1) s1 = 1;
        const base = bx + rise * pq;
        const from = base + s0 * skew;
        const to = base + s1 * skew;
        mark(diff, w, y, min(from, to), max(from, to), 1);
      }
    }
  }
  return any;
}

/**
 * Writes the map of piece B shifted against piece A over the window of shifts x0 … x0 + w − 1, y0 … y0 + h − 1.
 * @param a, b edges of the pieces, 4 numbers (f64) an edge, the solid on their left
 * @param pointsA, pointsB places of each (2 × f64 a place): an inner point, and one of each border line where there are several
 * @param diff room for (w + 1) · h numbers of 16 bits, all 0
 * @param stride bytes a row of `out`, at least w
 * @param isCut the window is a part of the map: beyond its rim nothing is known
 * @returns cells that are not 0. O(edges of A · edges of B · rows of their parallelograms + w · h)
 */
function depthMap(a: usize, countA: i32, b: usize, countB: i32, pointsA: usize, placesA: i32, pointsB: usize, placesB: i32, x0: i32, y0: i32, w: i32, h: i32, diff: usize, out: usize, stride: i32, isCut: bool): i32 {
  memory.fill(out, 0, <usize>stride * h);
  const ox = <f64>x0;
  const oy = <f64>y0;
  for (let k = 0; k < placesB; k++) {
    const p = pointsB + (<usize>k << 4);
    winding(diff, a, countA, 1, -load<f64>(p) - ox, -load<f64>(p, 8) - oy, 1, w, h);
    settle(diff, out, stride, w, h);
  }
  for (let k = 0; k < placesA; k++) {
    const p = pointsA + (<usize>k << 4);
    winding(diff, b, countB, -1, load<f64>(p) - ox, load<f64>(p, 8) - oy, 1, w, h);
    settle(diff, out, stride, w, h);
  }
  for (let i = 0; i < countA; i++) parallelograms(a + (<usize>i << 5), b, countB, x0, y0, w, h, diff);
  settle(diff, out, stride, w, h);
  return chamfer(out, stride, w, h, isCut);
}

// @ts-ignore: decorator
@inline
function least(a: i32, b: i32): i32 {
  return a < b ? a : b;
}

/** Turns the map's marks into distances to the next cell without one. */
function chamfer(out: usize, stride: i32, w: i32, h: i32, isCut: bool): i32 {
  const rim = isCut ? 255 : 0;
  let count = 0;
  for (let y = 0; y < h; y++) {
    const row = out + <usize>y * stride;
    const up = row - stride;
    let left: i32 = rim;
    let upLeft: i32 = rim;
    let above: i32 = y > 0 ? load<u8>(up) : rim;
    for (let x = 0; x < w; x++) {
      const upRight: i32 = y > 0 && x + 1 < w ? load<u8>(up + x + 1) : rim;
      let v: i32 = load<u8>(row + x);
      if (v != 0) {
        v = least(least(255, least(left, above) + 2), least(upLeft, upRight) + 3);
        store<u8>(row + x, <u8>v);
        count++;
      }
      left = v;
      upLeft = above;
      above = upRight;
    }
  }
  for (let y = h - 1; y >= 0; y--) {
    const row = out + <usize>y * stride;
    const down = row + stride;
    let right: i32 = rim;
    let downRight: i32 = rim;
    let below: i32 = y < h - 1 ? load<u8>(down + w - 1) : rim;
    for (let x = w - 1; x >= 0; x--) {
      const downLeft: i32 = y < h - 1 && x > 0 ? load<u8>(down + x - 1) : rim;
      let v: i32 = load<u8>(row + x);
      if (v != 0) {
        v = least(least(v, least(right, below) + 2), least(downRight, downLeft) + 3);
        store<u8>(row + x, <u8>v);
      }
      right = v;
      downRight = below;
      below = downLeft;
    }
  }
  return count;
}


// ---- the search

/** Numbers (32 bits) of a map's record: address, x0, y0, w, h, address of its coarse copies, their x0, y0, w, h at no turn. */
const RECORD: i32 = 10;

let n: i32 = 0;
/** By piece · 4 + quarter turns, its pose: address of the edges (u32), of its places to test (u32), box minX, minY, maxX, maxY (4 × f64). */
let edgesAt: usize = 0;
let innerAt: usize = 0;
let boxAt: usize = 0;
/** Edges of each piece (i32), and places to test (i32). */
let countAt: usize = 0;
let placesAt: usize = 0;
/** x, y, pose of each piece (i32). */
let xAt: usize = 0;
let yAt: usize = 0;
let poseAt: usize = 0;
/** Poses that each piece may take: first entry of each piece and one more (i32), entries (i32). */
let optionStart: usize = 0;
let optionAt: usize = 0;
/** Of each pair: weight (f32), depth (u8), n · n. */
let weightAt: usize = 0;
let depthAt: usize = 0;
let recordAt: usize = 0;
let diffAt: usize = 0;
let sumsAt: usize = 0;
let orderAt: usize = 0;
/** Cost of each depth (256 × f32). */
let costAt: usize = 0;
/** 1 for each piece that stays (u8). */
let fixedAt: usize = 0;
/** Boxes of the pieces where they stand, two pieces at a time: least x, least y, most x, most y (2 × f64 each). */
let standingAt: usize = 0;
let heapStart: usize = 0;
let heap: usize = 0;
let heapEnd: usize = 0;
/** Fine cells a coarse one, and columns of the coarse sums. */
let factor: i32 = 8;
let coarseStride: i32 = 0;
export let mapsMade: i32 = 0;
/** Work done so far, in about 10 ns each: what a search may cost is counted by it, so that the same search ends at the same place on any machine. */
export let work: f64 = 0;
export let movesMade: i32 = 0;

/** @param table addresses, in the order of the variables above */
export function setUp(table: usize, pieces: i32, coarseFactor: i32, stride: i32, start: usize, end: usize, seedNumber: u32): void {
  n = pieces;
  factor = coarseFactor;
  coarseStride = stride;
  edgesAt = load<u32>(table);
  innerAt = load<u32>(table, 4);
  boxAt = load<u32>(table, 8);
  countAt = load<u32>(table, 12);
  xAt = load<u32>(table, 16);
  yAt = load<u32>(table, 20);
  poseAt = load<u32>(table, 24);
  optionStart = load<u32>(table, 28);
  optionAt = load<u32>(table, 32);
  weightAt = load<u32>(table, 36);
  depthAt = load<u32>(table, 40);
  recordAt = load<u32>(table, 44);
  diffAt = load<u32>(table, 48);
  sumsAt = load<u32>(table, 52);
  orderAt = load<u32>(table, 56);
  costAt = load<u32>(table, 60);
  fixedAt = load<u32>(table, 64);
  placesAt = load<u32>(table, 68);
  standingAt = load<u32>(table, 72);
  heapStart = start;
  heap = start;
  heapEnd = end;
  setSeed(seedNumber);
  mapsMade = 0;
  movesMade = 0;
}

/** Drops all maps: edges have changed, or there is no room for more. */
export function dropMaps(): void {
  memory.fill(recordAt, 0, <usize>n * n * 4 * RECORD * 4);
  heap = heapStart;
}

function room(size: i32): usize {
  const at = heap;
  heap += (<usize>size + 31) & ~15;
  const pages = <i32>((heap + 65535) >> 16) - memory.size();
  if (pages > 0) memory.grow(pages + 64);
  return at;
}

// @ts-ignore: decorator
@inline
function floorDiv(a: i32, b: i32): i32 {
  return a >= 0 ? a / b : -((-a + b - 1) / b);
}

function makeMap(low: i32, poseLow: i32, high: i32, poseHigh: i32, record: usize): void {
  const a = low * 4 + poseLow;
  const b = high * 4 + poseHigh;
  const boxA = boxAt + (<usize>a << 5);
  const boxB = boxAt + (<usize>b << 5);
  const x0 = <i32>Math.ceil(load<f64>(boxA) - load<f64>(boxB, 16));
  const y0 = <i32>Math.ceil(load<f64>(boxA, 8) - load<f64>(boxB, 24));
  const w = max(1, <i32>Math.floor(load<f64>(boxA, 16) - load<f64>(boxB)) - x0 + 1);
  const h = max(1, <i32>Math.floor(load<f64>(boxA, 24) - load<f64>(boxB, 8)) - y0 + 1);
  const at = room(w * h);
  depthMap(load<u32>(edgesAt + (<usize>a << 2)), load<i32>(countAt + (<usize>low << 2)), load<u32>(edgesAt + (<usize>b << 2)), load<i32>(countAt + (<usize>high << 2)), load<u32>(innerAt + (<usize>a << 2)), load<i32>(placesAt + (<usize>low << 2)), load<u32>(innerAt + (<usize>b << 2)), load<i32>(placesAt + (<usize>high << 2)), x0, y0, w, h, diffAt, at, w, false);
  // the coarse copy holds the least cost of each block of shifts, half a block to each side of a multiple of the factor
  const half = factor >> 1;
  const cx0 = floorDiv(x0 + half, factor);
  const cy0 = floorDiv(y0 + half, factor);
  const cw = floorDiv(x0 + w - 1 + half, factor) - cx0 + 1;
  const ch = floorDiv(y0 + h - 1 + half, factor) - cy0 + 1;
  const size = cw * ch;
  const coarse = room(size * 4);
  for (let cy = 0; cy < ch; cy++) {
    for (let cx = 0; cx < cw; cx++) {
      const fromX = (cx0 + cx) * factor - half - x0;
      const fromY = (cy0 + cy) * factor - half - y0;
      let value: i32 = 255;
      if (fromX < 0 || fromY < 0 || fromX + factor > w || fromY + factor > h) value = 0;
      else {
        for (let y = fromY; y < fromY + factor && value > 0; y++) {
          const row = at + <usize>y * w;
          for (let x = fromX; x < fromX + factor; x++) value = least(value, load<u8>(row + x));
        }
      }
      if (value > 0) value = least(255, <i32>Math.ceil(<f64>load<f32>(costAt + (<usize>value << 2))));
      store<u8>(coarse + cy * cw + cx, <u8>value);
      store<u8>(coarse + size + cx * ch + (ch - 1 - cy), <u8>value);
      store<u8>(coarse + 2 * size + (ch - 1 - cy) * cw + (cw - 1 - cx), <u8>value);
      store<u8>(coarse + 3 * size + (cw - 1 - cx) * ch + cy, <u8>value);
    }
  }
  work += 2 * <f64>(w * h) + 5 * <f64>load<i32>(countAt + (<usize>low << 2)) * <f64>load<i32>(countAt + (<usize>high << 2));
  store<u32>(record, <u32>at);
  store<i32>(record, x0, 4);
  store<i32>(record, y0, 8);
  store<i32>(record, w, 12);
  store<i32>(record, h, 16);
  store<u32>(record, <u32>coarse, 20);
  store<i32>(record, cx0, 24);
  store<i32>(record, cy0, 28);
  store<i32>(record, cw, 32);
  store<i32>(record, ch, 36);
  mapsMade++;
}

/** The record of the map of one piece against another, the lower number unturned. */
// @ts-ignore: decorator
@inline
function recordOf(low: i32, poseLow: i32, high: i32, poseHigh: i32): usize {
  const relative = (poseHigh - poseLow) & 3;
  const record = recordAt + <usize>(((low * n + high) * 4 + relative) * RECORD) * 4;
  if (load<u32>(record) == 0) makeMap(low, 0, high, relative, record);
  return record;
}

/** How deep piece b, shifted by (dx, dy) against a, overlaps it. */
function depthOf(a: i32, poseA: i32, b: i32, poseB: i32, dx: i32, dy: i32): i32 {
  let record: usize;
  let turns: i32;
  if (a < b) {
    record = recordOf(a, poseA, b, poseB);
    turns = poseA & 3;
  } else {
    record = recordOf(b, poseB, a, poseA);
    turns = (poseB + 2) & 3;
  }
  let x = dx;
  let y = dy;
  if (turns == 1) {
    x = dy;
    y = -dx;
  } else if (turns == 2) {
    x = -dx;
    y = -dy;
  } else if (turns == 3) {
    x = -dy;
    y = dx;
  }
  x -= load<i32>(record, 4);
  y -= load<i32>(record, 8);
  const w = load<i32>(record, 12);
  if (<u32>x >= <u32>w || <u32>y >= load<u32>(record, 16)) return 0;
  return load<u8>(<usize>load<u32>(record) + <usize>(y * w + x));
}

/** Writes down the box of a piece where it stands. */
function stand(i: i32): void {
  const box = boxAt + (<usize>(i * 4 + load<i32>(poseAt + (<usize>i << 2))) << 5);
  const at = standingAt + (<usize>(i >> 1) << 6) + (<usize>(i & 1) << 3);
  const x = <f64>load<i32>(xAt + (<usize>i << 2));
  const y = <f64>load<i32>(yAt + (<usize>i << 2));
  store<f64>(at, load<f64>(box) + x);
  store<f64>(at, load<f64>(box, 8) + y, 16);
  store<f64>(at, load<f64>(box, 16) + x, 32);
  store<f64>(at, load<f64>(box, 24) + y, 48);
}

/** Weighted cost of a piece at a place; leaves off where it reaches the limit. */
function costOf(i: i32, pose: i32, x: i32, y: i32, limit: f32): f32 {
  work += <f64>(n >> 3) + 4;
  const own = boxAt + (<usize>(i * 4 + pose) << 5);
  const minX = v128.splat<f64>(load<f64>(own) + <f64>x);
  const minY = v128.splat<f64>(load<f64>(own, 8) + <f64>y);
  const maxX = v128.splat<f64>(load<f64>(own, 16) + <f64>x);
  const maxY = v128.splat<f64>(load<f64>(own, 24) + <f64>y);
  let sum: f32 = 0;
  const weights = weightAt + (<usize>(i * n) << 2);
  let at = standingAt;
  for (let group = 0; group < n; group += 2, at += 64) {
    let hits = i64x2.bitmask(
      v128.and(
        v128.and(v128.lt<f64>(v128.load(at), maxX), v128.gt<f64>(v128.load(at, 32), minX)),
        v128.and(v128.lt<f64>(v128.load(at, 16), maxY), v128.gt<f64>(v128.load(at, 48), minY)),
      ),
    );
    for (; hits; hits &= hits - 1) {
      const j = group + ctz(hits);
      if (j == i) continue;
      const depth = depthOf(j, load<i32>(poseAt + (<usize>j << 2)), i, pose, x - load<i32>(xAt + (<usize>j << 2)), y - load<i32>(yAt + (<usize>j << 2)));
      if (depth == 0) continue;
      sum += load<f32>(weights + (<usize>j << 2)) * load<f32>(costAt + (<usize>depth << 2));
      if (sum >= limit) return sum;
    }
  }
  return sum;
}

/** sums += weight · coarse copy of the map of i in a pose against j. Eight places at a time; of the last ones of a row, those beyond it are left as they are. */
function addCoarse(i: i32, pose: i32, j: i32, originX: i32, originY: i32, width: i32, height: i32): void {
  const p = load<i32>(poseAt + (<usize>j << 2));
  let record: usize;
  let turns: i32;
  if (j < i) {
    record = recordOf(j, p, i, pose);
    turns = p & 3;
  } else {
    record = recordOf(i, pose, j, p);
    turns = (pose + 2) & 3;
  }
  const cw = load<i32>(record, 32);
  const ch = load<i32>(record, 36);
  const cx0 = load<i32>(record, 24);
  const cy0 = load<i32>(record, 28);
  const w = turns & 1 ? ch : cw;
  const h = turns & 1 ? cw : ch;
  const mx = turns == 0 ? cx0 : turns == 1 ? -(cy0 + ch - 1) : turns == 2 ? -(cx0 + cw - 1) : cy0;
  const my = turns == 0 ? cy0 : turns == 1 ? cx0 : turns == 2 ? -(cy0 + ch - 1) : -(cx0 + cw - 1);
  const half = factor >> 1;
  const x = floorDiv(load<i32>(xAt + (<usize>j << 2)) - originX + half, factor) + mx;
  const y = floorDiv(load<i32>(yAt + (<usize>j << 2)) - originY + half, factor) + my;
  const map = <usize>load<u32>(record, 20) + cw * ch * turns;
  const fromX = x < 0 ? -x : 0;
  const toX = x + w > width ? width - x : w;
  const fromY = y < 0 ? -y : 0;
  const toY = y + h > height ? height - y : h;
  if (fromX >= toX) return;
  const weight = least(256, max(1, <i32>(load<f32>(weightAt + (<usize>(i * n + j) << 2)) * 4 + 0.5)));
  const scale = i16x8.splat(<i16>weight);
  const rest = (toX - fromX) & 7;
  const restScale = v128.and(scale, v128.lt<i16>(i16x8(0, 1, 2, 3, 4, 5, 6, 7), i16x8.splat(<i16>rest)));
  for (let r = fromY; r < toY; r++) {
    let q = map + <usize>r * w + fromX;
    const end = map + <usize>r * w + toX;
    let to = sumsAt + ((<usize>(y + r) * coarseStride + (x + fromX)) << 1);
    for (; q + 8 <= end; q += 8, to += 16) v128.store(to, i16x8.add_sat_u(v128.load(to), i16x8.mul(v128.load_ext<u8>(q), scale)));
    if (rest) v128.store(to, i16x8.add_sat_u(v128.load(to), i16x8.mul(v128.load_ext<u8>(q), restScale)));
  }
}

/** Candidates of a move: cost (f32), x, y, pose. */
const CANDIDATES: i32 = 24;
let candidates: i32 = 0;
const candidateAt: usize = memory.data(24 * 16, 16);
/** Origins that a pose may have on the sheet: least x, y, most x, y. */
const rangeAt: usize = memory.data(16, 16);

function rangeOf(i: i32, pose: i32, width: f64, height: f64): bool {
  const box = boxAt + (<usize>(i * 4 + pose) << 5);
  const lx = <i32>Math.ceil(-load<f64>(box) - 1e-7);
  const ly = <i32>Math.ceil(-load<f64>(box, 8) - 1e-7);
  const hx = <i32>Math.floor(width - load<f64>(box, 16) + 1e-7);
  const hy = <i32>Math.floor(height - load<f64>(box, 24) + 1e-7);
  store<i32>(rangeAt, lx);
  store<i32>(rangeAt, ly, 4);
  store<i32>(rangeAt, hx, 8);
  store<i32>(rangeAt, hy, 12);
  return lx <= hx && ly <= hy;
}

/** Keeps a candidate among the best so many. */
function propose(i: i32, pose: i32, x: i32, y: i32, keep: i32): void {
  const limit: f32 = candidates < keep ? f32.MAX_VALUE : load<f32>(candidateAt + ((candidates - 1) << 4));
  const cost = costOf(i, pose, x, y, limit);
  if (cost >= limit) return;
  if (candidates < keep) candidates++;
  let k = candidates - 1;
  for (; k > 0 && load<f32>(candidateAt + ((k - 1) << 4)) > cost; k--) memory.copy(candidateAt + (k << 4), candidateAt + ((k - 1) << 4), 16);
  const at = candidateAt + (k << 4);
  store<f32>(at, cost);
  store<i32>(at, x, 4);
  store<i32>(at, y, 8);
  store<i32>(at, pose, 12);
}

/** Coordinate descent from a candidate, in place: steps are halved from the coarse cell's size down to one. */
function descend(i: i32, at: usize, width: f64, height: f64): void {
  let cost = load<f32>(at);
  let x = load<i32>(at, 4);
  let y = load<i32>(at, 8);
  const pose = load<i32>(at, 12);
  if (!rangeOf(i, pose, width, height)) return;
  const lx = load<i32>(rangeAt);
  const ly = load<i32>(rangeAt, 4);
  const hx = load<i32>(rangeAt, 8);
  const hy = load<i32>(rangeAt, 12);
  let step = factor;
  while (step > 0 && cost > 0) {
    let found = false;
    const first = below(8);
    for (let d = 0; d < 8; d++) {
      const way = (first + d) & 7;
      const dx = way == 0 || way == 4 || way == 5 ? step : way == 1 || way == 6 || way == 7 ? -step : 0;
      const dy = way == 2 || way == 4 || way == 6 ? step : way == 3 || way == 5 || way == 7 ? -step : 0;
      const nx = x + dx;
      const ny = y + dy;
      if (nx < lx || nx > hx || ny < ly || ny > hy) continue;
      const value = costOf(i, pose, nx, ny, cost);
      if (value < cost) {
        cost = value;
        x = nx;
        y = ny;
        found = true;
        break;
      }
    }
    if (!found) step >>= 1;
  }
  store<f32>(at, cost);
  store<i32>(at, x, 4);
  store<i32>(at, y, 8);
}

/** Sums of the coarse maps of all others against a piece in a pose, for each coarse place from (lx, ly) on. */
function sumPlaces(i: i32, pose: i32, lx: i32, ly: i32, w: i32, h: i32): void {
  work += <f64>(n * 12 + w * h / 4);
  memory.fill(sumsAt, 0, (<usize>coarseStride * h) << 1);
  for (let j = 0; j < n; j++) if (j != i) addCoarse(i, pose, j, lx, ly, w, h);
}

let lowX: i32 = 0;
let lowY: i32 = 0;

/** Finds the least sum, from a row anywhere on, and takes it and its neighbours out. @returns false where none is left */
function lowestPlace(w: i32, h: i32): bool {
  let best: i32 = 65535;
  let bx = -1;
  let by = 0;
  const firstRow = below(h);
  for (let r = 0; r < h; r++) {
    const y = r + firstRow < h ? r + firstRow : r + firstRow - h;
    const row = sumsAt + ((<usize>y * coarseStride) << 1);
    let low = i16x8.splat(-1);
    let x = 0;
    for (; x + 8 <= w; x += 8) low = i16x8.min_u(low, v128.load(row + (<usize>x << 1)));
    low = i16x8.min_u(low, v128.shuffle<i16>(low, low, 4, 5, 6, 7, 0, 1, 2, 3));
    low = i16x8.min_u(low, v128.shuffle<i16>(low, low, 2, 3, 0, 1, 4, 5, 6, 7));
    low = i16x8.min_u(low, v128.shuffle<i16>(low, low, 1, 0, 2, 3, 4, 5, 6, 7));
    let value: i32 = i16x8.extract_lane_u(low, 0);
    for (; x < w; x++) value = least(value, load<u16>(row + (<usize>x << 1)));
    if (value >= best) continue;
    best = value;
    by = y;
    const firstColumn = below(w);
    for (let c = 0; c < w; c++) {
      bx = c + firstColumn < w ? c + firstColumn : c + firstColumn - w;
      if (load<u16>(row + (<usize>bx << 1)) == value) break;
    }
  }
  if (bx < 0) return false;
  for (let y = max(0, by - 1); y <= least(h - 1, by + 1); y++)
    for (let x = max(0, bx - 1); x <= least(w - 1, bx + 1); x++) store<u16>(sumsAt + ((<usize>y * coarseStride + x) << 1), 65535);
  lowX = bx;
  lowY = by;
  return true;
}

function move(i: i32, width: f64, height: f64): void {
  movesMade++;
  candidates = 0;
  const px = xAt + (<usize>i << 2);
  const py = yAt + (<usize>i << 2);
  const pp = poseAt + (<usize>i << 2);
  const keep = 3;
  propose(i, load<i32>(pp), load<i32>(px), load<i32>(py), keep);
  const from = load<i32>(optionStart + (<usize>i << 2));
  const to = load<i32>(optionStart + (<usize>i << 2), 4);
  for (let o = from; o < to; o++) {
    const pose = load<i32>(optionAt + (<usize>o << 2));
    if (to - from > 2 && below(to - from) >= 2) continue;
    if (!rangeOf(i, pose, width, height)) continue;
    const lx = load<i32>(rangeAt);
    const ly = load<i32>(rangeAt, 4);
    const hx = load<i32>(rangeAt, 8);
    const hy = load<i32>(rangeAt, 12);
    const w = (hx - lx) / factor + 1;
    const h = (hy - ly) / factor + 1;
    sumPlaces(i, pose, lx, ly, w, h);
    for (let k = 0; k < 2 && lowestPlace(w, h); k++) propose(i, pose, least(hx, lx + lowX * factor), least(hy, ly + lowY * factor), keep);
  }
  let best = candidateAt;
  for (let k = 0; k < candidates; k++) {
    const at = candidateAt + (k << 4);
    descend(i, at, width, height);
    if (load<f32>(at) < load<f32>(best)) best = at;
    if (load<f32>(best) == 0) break;
  }
  store<i32>(px, load<i32>(best, 4));
  store<i32>(py, load<i32>(best, 8));
  store<i32>(pp, load<i32>(best, 12));
  stand(i);
  for (let j = 0; j < n; j++) if (j != i) remeasure(i, j);
}

function remeasure(i: i32, j: i32): void {
  const pi = load<i32>(poseAt + (<usize>i << 2));
  const pj = load<i32>(poseAt + (<usize>j << 2));
  const xi = load<i32>(xAt + (<usize>i << 2));
  const yi = load<i32>(yAt + (<usize>i << 2));
  const xj = load<i32>(xAt + (<usize>j << 2));
  const yj = load<i32>(yAt + (<usize>j << 2));
  const a = boxAt + (<usize>(i * 4 + pi) << 5);
  const b = boxAt + (<usize>(j * 4 + pj) << 5);
  let depth: i32 = 0;
  if (
    load<f64>(a) + <f64>xi < load<f64>(b, 16) + <f64>xj &&
    load<f64>(b) + <f64>xj < load<f64>(a, 16) + <f64>xi &&
    load<f64>(a, 8) + <f64>yi < load<f64>(b, 24) + <f64>yj &&
    load<f64>(b, 8) + <f64>yj < load<f64>(a, 24) + <f64>yi
  )
    depth = depthOf(j, pj, i, pi, xi - xj, yi - yj);
  store<u8>(depthAt + i * n + j, <u8>depth);
  store<u8>(depthAt + j * n + i, <u8>depth);
}

/** Brings what sticks out back onto the sheet and measures all pairs; all weights are 1. @returns what all overlaps cost; −1 where a piece is too large */
export function begin(width: f64, height: f64): f64 {
  if (heap > heapEnd) dropMaps();
  for (let i = 0; i < n; i++) {
    if (load<u8>(fixedAt + i)) continue;
    const pp = poseAt + (<usize>i << 2);
    if (!rangeOf(i, load<i32>(pp), width, height)) {
      let found = false;
      for (let o = load<i32>(optionStart + (<usize>i << 2)); o < load<i32>(optionStart + (<usize>i << 2), 4) && !found; o++) {
        const pose = load<i32>(optionAt + (<usize>o << 2));
        if (!rangeOf(i, pose, width, height)) continue;
        store<i32>(pp, pose);
        found = true;
      }
      if (!found) return -1;
    }
    const px = xAt + (<usize>i << 2);
    const py = yAt + (<usize>i << 2);
    store<i32>(px, max(load<i32>(rangeAt), least(load<i32>(rangeAt, 8), load<i32>(px))));
    store<i32>(py, max(load<i32>(rangeAt, 4), least(load<i32>(rangeAt, 12), load<i32>(py))));
  }
  if (n & 1) {
    // the last pair lacks one: a box that meets none
    const at = standingAt + (<usize>(n >> 1) << 6) + 8;
    store<f64>(at, Infinity);
    store<f64>(at, -Infinity, 32);
  }
  for (let i = 0; i < n; i++) stand(i);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++) store<f32>(weightAt + (<usize>(i * n + j) << 2), 1);
    for (let j = 0; j < i; j++) remeasure(i, j);
  }
  return total();
}

function total(): f64 {
  let loss: f64 = 0;
  for (let i = 0; i < n; i++) for (let j = 0; j < i; j++) loss += <f64>load<f32>(costAt + (<usize>load<u8>(depthAt + i * n + j) << 2));
  return loss;
}

function isClear(i: i32): bool {
  for (let j = 0; j < n; j++) if (load<u8>(depthAt + i * n + j)) return false;
  return true;
}

/** Moves each piece that overlaps another once, in any order; then pairs that still overlap gain weight, others lose some. @returns what all overlaps cost */
export function sweep(width: f64, height: f64, gain: f32, decay: f32): f64 {
  if (heap > heapEnd) dropMaps();
  let colliding = 0;
  for (let i = 0; i < n; i++) if (!load<u8>(fixedAt + i) && !isClear(i)) store<i32>(orderAt + (colliding++ << 2), i);
  for (let k = colliding - 1; k > 0; k--) {
    const other = below(k + 1);
    const held = load<i32>(orderAt + (k << 2));
    store<i32>(orderAt + (k << 2), load<i32>(orderAt + (other << 2)));
    store<i32>(orderAt + (other << 2), held);
  }
  for (let k = 0; k < colliding; k++) {
    const i = load<i32>(orderAt + (k << 2));
    if (!isClear(i)) move(i, width, height);
  }
  return reweigh(gain, decay);
}

/** Pairs that overlap gain weight, others lose some. @returns what all overlaps cost */
function reweigh(gain: f32, decay: f32): f64 {
  let deepest: f32 = 1;
  let loss: f64 = 0;
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) {
      const cost = load<f32>(costAt + (<usize>load<u8>(depthAt + i * n + j) << 2));
      loss += <f64>cost;
      deepest = max(deepest, cost);
    }
  }
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) {
      const cost = load<f32>(costAt + (<usize>load<u8>(depthAt + i * n + j) << 2));
      const at = weightAt + (<usize>(i * n + j) << 2);
      let weight = load<f32>(at);
      weight = cost > 0 ? weight * (1.1 + (gain * cost) / deepest) : max(<f32>1, weight * decay);
      weight = min(weight, <f32>1e6);
      store<f32>(at, weight);
      store<f32>(weightAt + (<usize>(j * n + i) << 2), weight);
    }
  }
  return loss;
}

// ---- the search near by, at any step and angle

/** Cells to each side of a window of shifts. */
let reachCells: i32 = 8;
/** Place (f64) of each piece, and its angle away from the pose it began with. */
let placeX: usize = 0;
let placeY: usize = 0;
let angleAt: usize = 0;
/** Edges of each piece at no turn (u32), at its present angle (u32), and at a tried one (room for the longest). */
let baseAt: usize = 0;
let presentAt: usize = 0;
let triedAt: usize = 0;
/** Box of each piece at its present angle, about its own origin (4 × f64). */
let presentBox: usize = 0;
/** Address of the places to test of each piece at no turn (u32). */
let pointAt: usize = 0;
/** Room for edges of two pieces in steps, near each other. */
let nearA: usize = 0;
let nearB: usize = 0;
/** The map of a window. */
let windowAt: usize = 0;
/** Of each piece: how many may come near it (i32), and which (n × i32). */
let nearCount: usize = 0;
let nearList: usize = 0;
/** Sweeps after which is looked again who is near whom. */
const LIST_SWEEPS: i32 = 12;
let sweepsDone: i32 = 0;
/** Of each piece (u8): into how many turns a whole one is parted that it may take, 1 for none, 4 for quarters; and 128 where it may be turned by any angle. */
let turnsAt: usize = 0;
/** Of each piece, how far it reaches from its own origin (f64). */
let radiusAt: usize = 0;
/** Sums of a window (f32). */
let windowSums: usize = 0;
const triedBox: usize = memory.data(32, 16);
/** What depends on the shift of two windows: 4 numbers. */
const twoPoints: usize = memory.data(32, 16);

/** @param table addresses, in the order of the variables: n, countAt, placeX … windowSums, weightAt, depthAt, diffAt, orderAt, costAt, fixedAt */
export function setUpNear(table: usize, pieces: i32, reach: i32, seedNumber: u32): void {
  n = pieces;
  reachCells = reach;
  countAt = load<u32>(table);
  placeX = load<u32>(table, 4);
  placeY = load<u32>(table, 8);
  angleAt = load<u32>(table, 12);
  baseAt = load<u32>(table, 16);
  presentAt = load<u32>(table, 20);
  triedAt = load<u32>(table, 24);
  presentBox = load<u32>(table, 28);
  pointAt = load<u32>(table, 32);
  nearA = load<u32>(table, 36);
  nearB = load<u32>(table, 40);
  windowAt = load<u32>(table, 44);
  nearCount = load<u32>(table, 52);
  windowSums = load<u32>(table, 56);
  weightAt = load<u32>(table, 60);
  depthAt = load<u32>(table, 64);
  diffAt = load<u32>(table, 68);
  orderAt = load<u32>(table, 72);
  costAt = load<u32>(table, 76);
  fixedAt = load<u32>(table, 80);
  nearList = load<u32>(table, 84);
  turnsAt = load<u32>(table, 88);
  placesAt = load<u32>(table, 92);
  radiusAt = load<u32>(table, 96);
  setSeed(seedNumber);
  movesMade = 0;
}

/** Writes the edges of a piece at an angle, and its box. */
function turnEdges(i: i32, angle: f64, out: usize, box: usize): void {
  // quarter turns are exact
  const quarters = (angle * 2) / Math.PI;
  const whole = Math.round(quarters);
  const isWhole = Math.abs(quarters - whole) < 1e-12;
  const part = <i32>whole & 3;
  const cos = isWhole ? (part == 0 ? 1 : part == 2 ? -1 : <f64>0) : Math.cos(angle);
  const sin = isWhole ? (part == 1 ? 1 : part == 3 ? -1 : <f64>0) : Math.sin(angle);
  let from: usize = load<u32>(baseAt + (<usize>i << 2));
  const end = from + (<usize>load<i32>(countAt + (<usize>i << 2)) << 5);
  let minX: f64 = Infinity;
  let minY: f64 = Infinity;
  let maxX: f64 = -Infinity;
  let maxY: f64 = -Infinity;
  for (; from < end; from += 16, out += 16) {
    const x = load<f64>(from);
    const y = load<f64>(from, 8);
    const tx = x * cos - y * sin;
    const ty = x * sin + y * cos;
    store<f64>(out, tx);
    store<f64>(out, ty, 8);
    minX = min(minX, tx);
    minY = min(minY, ty);
    maxX = max(maxX, tx);
    maxY = max(maxY, ty);
  }
  store<f64>(box, minX);
  store<f64>(box, minY, 8);
  store<f64>(box, maxX, 16);
  store<f64>(box, maxY, 24);
}

/** Edges that reach into a box, moved by (dx, dy) and counted in steps. @returns how many */
function edgesNear(edges: usize, count: i32, minX: f64, minY: f64, maxX: f64, maxY: f64, dx: f64, dy: f64, scale: f64, out: usize): i32 {
  let kept = 0;
  for (let k = 0; k < count; k++) {
    const e = edges + (<usize>k << 5);
    const x0 = load<f64>(e);
    const y0 = load<f64>(e, 8);
    const x1 = load<f64>(e, 16);
    const y1 = load<f64>(e, 24);
    if (max(x0, x1) < minX || min(x0, x1) > maxX || max(y0, y1) < minY || min(y0, y1) > maxY) continue;
    const to = out + (<usize>kept << 5);
    store<f64>(to, (x0 + dx) * scale);
    store<f64>(to, (y0 + dy) * scale, 8);
    store<f64>(to, (x1 + dx) * scale, 16);
    store<f64>(to, (y1 + dy) * scale, 24);
    kept++;
  }
  return kept;
}

/** Whether a box, moved by (dx, dy), is within another to a margin. */
// @ts-ignore: decorator
@inline
function isWithin(inner: usize, dx: f64, dy: f64, outer: usize, margin: f64): bool {
  return (
    load<f64>(inner) + dx >= load<f64>(outer) - margin &&
    load<f64>(inner, 8) + dy >= load<f64>(outer, 8) - margin &&
    load<f64>(inner, 16) + dx <= load<f64>(outer, 16) + margin &&
    load<f64>(inner, 24) + dy <= load<f64>(outer, 24) + margin
  );
}

/** Marks the shifts at which a place of one piece is in the solid of another. @param sign 1 where the piece of the places is shifted, −1 where the other is */
function inOther(piece: i32, angle: f64, edges: usize, count: i32, sign: f64, dx: f64, dy: f64, scale: f64, size: i32, out: usize): bool {
  const places = load<i32>(placesAt + (<usize>piece << 2));
  const cos = Math.cos(angle);
  const sin = Math.sin(angle);
  let any = false;
  for (let k = 0; k < places; k++) {
    const p = <usize>load<u32>(pointAt + (<usize>piece << 2)) + (<usize>k << 4);
    const x = load<f64>(p);
    const y = load<f64>(p, 8);
    winding(diffAt, edges, count, sign, dx - sign * (x * cos - y * sin), dy - sign * (x * sin + y * cos), scale, size, size);
    any = settle(diffAt, out, size, size, size) || any;
  }
  return any;
}

/**
 * The depth map of piece i, with given edges, against piece j, over shifts of up to `reach` steps from where they stand.
 * @returns whether any of it is not 0
 */
function windowMap(i: i32, edges: usize, box: usize, angle: f64, j: i32, step: f64, reach: i32, out: usize): bool {
  const scale = 1 / step;
  const size = 2 * reach + 1;
  const margin = step * <f64>(reach + 1);
  const dx = load<f64>(placeX + (<usize>i << 3)) - load<f64>(placeX + (<usize>j << 3));
  const dy = load<f64>(placeY + (<usize>i << 3)) - load<f64>(placeY + (<usize>j << 3));
  const other = presentBox + (<usize>j << 5);
  const edgesJ: usize = load<u32>(presentAt + (<usize>j << 2));
  const countJ = load<i32>(countAt + (<usize>j << 2));
  const countI = load<i32>(countAt + (<usize>i << 2));
  // j stays, its edges are seen from i's place, so that the shift in the window's middle is 0
  const a = edgesNear(edgesJ, countJ, load<f64>(box) + dx - margin, load<f64>(box, 8) + dy - margin, load<f64>(box, 16) + dx + margin, load<f64>(box, 24) + dy + margin, -dx, -dy, scale, nearA);
  const b = edgesNear(edges, countI, load<f64>(other) - dx - margin, load<f64>(other, 8) - dy - margin, load<f64>(other, 16) - dx + margin, load<f64>(other, 24) - dy + margin, 0, 0, scale, nearB);
  memory.fill(out, 0, size * size);
  work += <f64>(300 + 2 * a * b + countI + countJ);
  let any = false;
  for (let k = 0; k < a; k++) any = parallelograms(nearA + (<usize>k << 5), nearB, b, -reach, -reach, size, size, diffAt) || any;
  if (any) settle(diffAt, out, size, size, size);
  // where no edges cross, one may be within the other, if its box may be within the other's
  const rim = <f64>reach * step;
  if (load<i32>(placesAt + (<usize>i << 2)) > 1 || load<i32>(placesAt + (<usize>j << 2)) > 1 || isWithin(box, dx, dy, other, margin)) {
    any = inOther(i, angle, edgesJ, countJ, 1, rim - dx, rim - dy, scale, size, out) || any;
  }
  if (load<i32>(placesAt + (<usize>i << 2)) > 1 || load<i32>(placesAt + (<usize>j << 2)) > 1 || isWithin(other, -dx, -dy, box, margin)) {
    any = inOther(j, load<f64>(angleAt + (<usize>j << 3)), edges, countI, -1, rim - dx, rim - dy, scale, size, out) || any;
  }
  if (any) chamfer(out, size, size, size, true);
  return any;
}

let tryX: i32 = 0;
let tryY: i32 = 0;

/** The best place near by of a piece at an angle. @returns its cost; the place is left in tryX, tryY (steps from the present one) */
function bestNear(i: i32, angle: f64, edges: usize, box: usize, step: f64, reach: i32, width: f64, height: f64): f32 {
  const size = 2 * reach + 1;
  const x = load<f64>(placeX + (<usize>i << 3));
  const y = load<f64>(placeY + (<usize>i << 3));
  let fromX = <i32>Math.ceil((-load<f64>(box) - x) / step - 1e-7);
  let fromY = <i32>Math.ceil((-load<f64>(box, 8) - y) / step - 1e-7);
  let toX = <i32>Math.floor((width - load<f64>(box, 16) - x) / step + 1e-7);
  let toY = <i32>Math.floor((height - load<f64>(box, 24) - y) / step + 1e-7);
  fromX = max(fromX, -reach);
  fromY = max(fromY, -reach);
  toX = least(toX, reach);
  toY = least(toY, reach);
  if (fromX > toX || fromY > toY) return f32.MAX_VALUE;
  const margin = step * <f64>(reach + 1);
  memory.fill(windowSums, 0, size * size * 4);
  const list = nearList + <usize>i * n * 4;
  const count = load<i32>(nearCount + (<usize>i << 2));
  for (let k = 0; k < count; k++) {
    const j = load<i32>(list + (<usize>k << 2));
    const dx = load<f64>(placeX + (<usize>j << 3)) - x;
    const dy = load<f64>(placeY + (<usize>j << 3)) - y;
    const other = presentBox + (<usize>j << 5);
    if (
      load<f64>(other) + dx > load<f64>(box, 16) + margin ||
      load<f64>(other, 16) + dx < load<f64>(box) - margin ||
      load<f64>(other, 8) + dy > load<f64>(box, 24) + margin ||
      load<f64>(other, 24) + dy < load<f64>(box, 8) - margin
    )
      continue;
    if (!windowMap(i, edges, box, angle, j, step, reach, windowAt)) continue;
    const weight = load<f32>(weightAt + (<usize>(i * n + j) << 2));
    for (let c = 0; c < size * size; c++) {
      const depth = load<u8>(windowAt + c);
      if (depth == 0) continue;
      const at = windowSums + (c << 2);
      store<f32>(at, load<f32>(at) + weight * load<f32>(costAt + (<usize>depth << 2)));
    }
  }
  let best: f32 = f32.MAX_VALUE;
  let away: i32 = i32.MAX_VALUE;
  for (let r = fromY; r <= toY; r++) {
    for (let c = fromX; c <= toX; c++) {
      const value = load<f32>(windowSums + (((r + reach) * size + c + reach) << 2));
      const own = r * r + c * c;
      if (value > best || (value == best && own >= away)) continue;
      best = value;
      away = own;
      tryX = c;
      tryY = r;
    }
  }
  return best;
}

/** @param spin most that the angle is changed, radians; 0: never */
function moveNear(i: i32, step: f64, width: f64, height: f64, spin: f64): void {
  movesMade++;
  const reach = reachCells;
  const size = 2 * reach + 1;
  const own: usize = load<u32>(presentAt + (<usize>i << 2));
  const box = presentBox + (<usize>i << 5);
  const angle = load<f64>(angleAt + (<usize>i << 3));
  let best = bestNear(i, angle, own, box, step, reach, width, height);
  let bestX = tryX;
  let bestY = tryY;
  let bestAngle = angle;
  const turning = load<u8>(turnsAt + i);
  if (spin > 0 && best > 0 && turning & 128) {
    for (let k = 0; k < 2 && best > 0; k++) {
      const share = <f64>random() / 4294967296;
      const tried = angle + spin * share * share * (k == 0 ? 1 : -1);
      turnEdges(i, tried, triedAt, triedBox);
      const cost = bestNear(i, tried, triedAt, triedBox, step, reach, width, height);
      if (cost >= best) continue;
      best = cost;
      bestX = tryX;
      bestY = tryY;
      bestAngle = tried;
    }
  }
  const turns = turning & 127;
  if (best > 0 && turns > 1 && (random() & 1) == 0) {
    const tried = angle + (<f64>(1 + below(turns - 1)) * 2 * Math.PI) / <f64>turns;
    turnEdges(i, tried, triedAt, triedBox);
    const cost = bestNear(i, tried, triedAt, triedBox, step, reach, width, height);
    if (cost < best) {
      best = cost;
      bestX = tryX;
      bestY = tryY;
      bestAngle = tried;
    }
  }
  if (best == f32.MAX_VALUE) return;
  store<f64>(placeX + (<usize>i << 3), load<f64>(placeX + (<usize>i << 3)) + <f64>bestX * step);
  store<f64>(placeY + (<usize>i << 3), load<f64>(placeY + (<usize>i << 3)) + <f64>bestY * step);
  if (bestAngle != angle) {
    store<f64>(angleAt + (<usize>i << 3), bestAngle);
    turnEdges(i, bestAngle, own, box);
  }
  measureNear(i, step, false);
}

/** Depths of a piece against those near it, or, the first time, against those of lower number. */
function measureNear(i: i32, step: f64, isFirst: bool): void {
  const box = presentBox + (<usize>i << 5);
  const own: usize = load<u32>(presentAt + (<usize>i << 2));
  const x = load<f64>(placeX + (<usize>i << 3));
  const y = load<f64>(placeY + (<usize>i << 3));
  const reach = least(4, reachCells);
  const size = 2 * reach + 1;
  const list = nearList + <usize>i * n * 4;
  const count = load<i32>(nearCount + (<usize>i << 2));
  for (let k = 0; k < count; k++) {
    const j = load<i32>(list + (<usize>k << 2));
    if (isFirst && j > i) continue;
    const dx = load<f64>(placeX + (<usize>j << 3)) - x;
    const dy = load<f64>(placeY + (<usize>j << 3)) - y;
    const other = presentBox + (<usize>j << 5);
    let depth: i32 = 0;
    if (load<f64>(other) + dx < load<f64>(box, 16) && load<f64>(other, 16) + dx > load<f64>(box) && load<f64>(other, 8) + dy < load<f64>(box, 24) && load<f64>(other, 24) + dy > load<f64>(box, 8)) {
      if (windowMap(i, own, box, load<f64>(angleAt + (<usize>i << 3)), j, step, reach, windowAt)) depth = load<u8>(windowAt + reach * size + reach);
    }
    store<u8>(depthAt + i * n + j, <u8>depth);
    store<u8>(depthAt + j * n + i, <u8>depth);
  }
}

/** Turns all pieces to their angles, brings them onto the sheet and measures all pairs; weights are 1. @returns what all overlaps cost; −1 where a piece is too large */
export function beginNear(width: f64, height: f64, step: f64): f64 {
  for (let i = 0; i < n; i++) {
    const box = presentBox + (<usize>i << 5);
    turnEdges(i, load<f64>(angleAt + (<usize>i << 3)), load<u32>(presentAt + (<usize>i << 2)), box);
    let radius: f64 = 0;
    const count = load<i32>(countAt + (<usize>i << 2));
    for (let k = 0; k < count; k++) {
      const e: usize = <usize>load<u32>(baseAt + (<usize>i << 2)) + (<usize>k << 5);
      radius = max(radius, load<f64>(e) * load<f64>(e) + load<f64>(e, 8) * load<f64>(e, 8));
    }
    store<f64>(radiusAt + (<usize>i << 3), Math.sqrt(radius));
    if (load<u8>(fixedAt + i)) continue;
    if (load<f64>(box, 16) - load<f64>(box) > width + 1e-9 || load<f64>(box, 24) - load<f64>(box, 8) > height + 1e-9) return -1;
    const px = placeX + (<usize>i << 3);
    const py = placeY + (<usize>i << 3);
    store<f64>(px, max(-load<f64>(box), min(width - load<f64>(box, 16), load<f64>(px))));
    store<f64>(py, max(-load<f64>(box, 8), min(height - load<f64>(box, 24), load<f64>(py))));
  }
  for (let k = 0; k < n * n; k++) store<f32>(weightAt + (<usize>k << 2), 1);
  work += (<f64>n * <f64>n) / 4;
  memory.fill(depthAt, 0, <usize>n * n);
  sweepsDone = 0;
  listNear(step);
  for (let i = 0; i < n; i++) measureNear(i, step, true);
  let loss: f64 = 0;
  for (let i = 0; i < n; i++) {
    const list = nearList + <usize>i * n * 4;
    const count = load<i32>(nearCount + (<usize>i << 2));
    for (let k = 0; k < count; k++) {
      const j = load<i32>(list + (<usize>k << 2));
      if (j < i) loss += <f64>load<f32>(costAt + (<usize>load<u8>(depthAt + i * n + j) << 2));
    }
  }
  return loss;
}

/** Lists for each piece those so near that they may meet within the next sweeps, however they are turned. */
function listNear(step: f64): void {
  work += (<f64>n * <f64>n) / 8;
  const margin = 3 * step * <f64>(reachCells * LIST_SWEEPS);
  for (let i = 0; i < n; i++) store<i32>(nearCount + (<usize>i << 2), 0);
  for (let i = 0; i < n; i++) {
    const x = load<f64>(placeX + (<usize>i << 3));
    const y = load<f64>(placeY + (<usize>i << 3));
    const radius = load<f64>(radiusAt + (<usize>i << 3)) + margin;
    for (let j = 0; j < i; j++) {
      const dx = load<f64>(placeX + (<usize>j << 3)) - x;
      const dy = load<f64>(placeY + (<usize>j << 3)) - y;
      const reach = radius + load<f64>(radiusAt + (<usize>j << 3));
      if (dx * dx + dy * dy > reach * reach) continue;
      noteNear(i, j);
      noteNear(j, i);
    }
  }
}

function noteNear(i: i32, j: i32): void {
  const count = load<i32>(nearCount + (<usize>i << 2));
  store<i32>(nearList + (<usize>(i * n + count) << 2), j);
  store<i32>(nearCount + (<usize>i << 2), count + 1);
}

function isClearNear(i: i32): bool {
  const list = nearList + <usize>i * n * 4;
  const count = load<i32>(nearCount + (<usize>i << 2));
  for (let k = 0; k < count; k++) if (load<u8>(depthAt + i * n + load<i32>(list + (<usize>k << 2)))) return false;
  return true;
}

/** As `sweep`, among places near by. */
export function sweepNear(width: f64, height: f64, step: f64, spin: f64, gain: f32, decay: f32): f64 {
  if (++sweepsDone % LIST_SWEEPS == 0) listNear(step);
  work += <f64>(n * 6);
  let colliding = 0;
  for (let i = 0; i < n; i++) if (!load<u8>(fixedAt + i) && !isClearNear(i)) store<i32>(orderAt + (colliding++ << 2), i);
  for (let k = colliding - 1; k > 0; k--) {
    const other = below(k + 1);
    const held = load<i32>(orderAt + (k << 2));
    store<i32>(orderAt + (k << 2), load<i32>(orderAt + (other << 2)));
    store<i32>(orderAt + (other << 2), held);
  }
  for (let k = 0; k < colliding; k++) {
    const i = load<i32>(orderAt + (k << 2));
    if (!isClearNear(i)) moveNear(i, step, width, height, spin);
  }
  let deepest: f32 = 1;
  let loss: f64 = 0;
  for (let pass = 0; pass < 2; pass++) {
    for (let i = 0; i < n; i++) {
      const list = nearList + <usize>i * n * 4;
      const count = load<i32>(nearCount + (<usize>i << 2));
      for (let k = 0; k < count; k++) {
        const j = load<i32>(list + (<usize>k << 2));
        if (j > i) continue;
        const cost = load<f32>(costAt + (<usize>load<u8>(depthAt + i * n + j) << 2));
        if (pass == 0) {
          loss += <f64>cost;
          deepest = max(deepest, cost);
          continue;
        }
        const at = weightAt + (<usize>(i * n + j) << 2);
        let weight = load<f32>(at);
        weight = cost > 0 ? weight * (1.1 + (gain * cost) / deepest) : max(<f32>1, weight * decay);
        weight = min(weight, <f32>1e6);
        store<f32>(at, weight);
        store<f32>(weightAt + (<usize>(j * n + i) << 2), weight);
      }
    }
  }
  return loss;
}

/**
 * Separation of outlines at any place and angle by trying places: a piece that overlaps others is tried at places near by and all over the sheet, the best few of
 * them are improved by steps of halving size, and pairs that go on overlapping gain weight. Whether two outlines overlap is told exactly by their edges; how much,
 * by circles inscribed in both. (Guided local search as of Egeblad, Nielsen, Odgaard, EJOR 183, 2007; both from memory.)
 *
 * Edges stand in blocks of four: x0, y0, x1, y1 (4 × f32 each), then the box of the block: least x, least y, most x, most y (f32); circles in blocks of
 * four: x, y, radius (4 × f32). Short blocks are filled with edges without length and circles without radius, which say nothing.
 */
import { below, random, setSeed } from './random';

const edgeBlock: usize = 80;
const circleBlock: usize = 48;

/** Numbers (32 bits) of the record of a piece. */
const recordSize: usize = 80;

let n: i32 = 0;
/** Records of the pieces, see `setUp`. */
let records: usize = 0;
/** Of each pair: weight and present loss (f32, n · n). */
let weightAt: usize = 0;
let lossAt: usize = 0;
let orderAt: usize = 0;
/** Edges, circles and places of a piece at a tried angle. */
let triedEdges: usize = 0;
let triedCircles: usize = 0;
let triedPlaces: usize = 0;
let grown: f32 = 1;
let sheetWidth: f32 = 0;
let sheetHeight: f32 = 0;
/** Work done so far, in about 10 ns each, counted by inner loops: the same on any machine. */
export let work: f64 = 0;

// Record of a piece, 80 bytes:
//  0 address of the edges at no turn, 4 at the present angle, 8 blocks of them
// 12 address of the circles at no turn, 16 at the present angle, 20 blocks of them
// 24 address of the places to test at no turn, 28 at the present angle, 32 how many
// 36 into how many turns a whole one is parted that it may take; 0: any angle, 40 whether it stays
// 44 x, 48 y, 52 angle (f32), 56 its size (f32): the root of its area, 60 its reach (f32): the diameter of its circle
// 64 address of the boxes of its blocks at the present angle, four by four: least x, least y, most x, most y (4 × f32 each)

/** Box of the piece at its present angle, about its own origin (4 × f32), by piece. */
let boxAt: usize = 0;
/** The same on the sheet, four pieces at a time: least x, least y, most x, most y (4 × f32 each); filled up with boxes of nothing. */
let standingAt: usize = 0;
/** Box of the tried piece. */
let minX: f32 = 0;
let minY: f32 = 0;
let maxX: f32 = 0;
let maxY: f32 = 0;

// @ts-ignore: decorator
@inline
function record(i: i32): usize {
  return records + <usize>i * recordSize;
}

/** A number from 0 to 1. */
// @ts-ignore: decorator
@inline
function share(): f32 {
  return <f32>(random() >> 8) * (1 / 16777216);
}

export function setUp(pieces: i32, recordsAt: usize, boxes: usize, standing: usize, weights: usize, losses: usize, order: usize, edges: usize, circles: usize, places: usize, seedNumber: u32): void {
  n = pieces;
  records = recordsAt;
  boxAt = boxes;
  standingAt = standing;
  for (let i = 0; i < (n + 3) >> 2; i++) {
    v128.store(standing + (<usize>i << 6), v128.splat<f32>(Infinity));
    v128.store(standing + (<usize>i << 6), v128.splat<f32>(Infinity), 16);
    v128.store(standing + (<usize>i << 6), v128.splat<f32>(-Infinity), 32);
    v128.store(standing + (<usize>i << 6), v128.splat<f32>(-Infinity), 48);
  }
  weightAt = weights;
  lossAt = losses;
  orderAt = order;
  triedEdges = edges;
  triedCircles = circles;
  triedPlaces = places;
  setSeed(seedNumber);
}

// @ts-ignore: decorator
@inline
function least(v: v128): f32 {
  v = v128.min<f32>(v, v128.shuffle<f32>(v, v, 2, 3, 0, 1));
  return f32x4.extract_lane(v128.min<f32>(v, v128.shuffle<f32>(v, v, 1, 0, 3, 2)), 0);
}

// @ts-ignore: decorator
@inline
function most(v: v128): f32 {
  v = v128.max<f32>(v, v128.shuffle<f32>(v, v, 2, 3, 0, 1));
  return f32x4.extract_lane(v128.max<f32>(v, v128.shuffle<f32>(v, v, 1, 0, 3, 2)), 0);
}

/** Writes edges, circles and places of a piece at an angle, as large as it has grown; its box goes into minX … maxY. */
function turn(i: i32, angle: f32, edges: usize, circles: usize, places: usize): void {
  const at = record(i);
  const quarters = (<f64>angle * 2) / Math.PI;
  const whole = Math.round(quarters);
  const isWhole = Math.abs(quarters - whole) < 1e-6;
  const part = <i32>whole & 3;
  const size: f32 = load<u32>(at, 40) ? 1 : grown;
  const cos = v128.splat<f32>(size * <f32>(isWhole ? (part == 0 ? 1 : part == 2 ? -1 : 0) : Math.cos(<f64>angle)));
  const sin = v128.splat<f32>(size * <f32>(isWhole ? (part == 1 ? 1 : part == 3 ? -1 : 0) : Math.sin(<f64>angle)));
  let from: usize = load<u32>(at);
  let blocks = load<i32>(at, 8);
  let lowX: f32 = Infinity;
  let lowY: f32 = Infinity;
  let highX: f32 = -Infinity;
  let highY: f32 = -Infinity;
  for (let b = 0; b < blocks; b++) {
    const x0 = v128.load(from);
    const y0 = v128.load(from, 16);
    const x1 = v128.load(from, 32);
    const y1 = v128.load(from, 48);
    const tx0 = v128.sub<f32>(v128.mul<f32>(x0, cos), v128.mul<f32>(y0, sin));
    const ty0 = v128.add<f32>(v128.mul<f32>(x0, sin), v128.mul<f32>(y0, cos));
    const tx1 = v128.sub<f32>(v128.mul<f32>(x1, cos), v128.mul<f32>(y1, sin));
    const ty1 = v128.add<f32>(v128.mul<f32>(x1, sin), v128.mul<f32>(y1, cos));
    v128.store(edges, tx0);
    v128.store(edges, ty0, 16);
    v128.store(edges, tx1, 32);
    v128.store(edges, ty1, 48);
    const lx = v128.min<f32>(tx0, tx1);
    const ly = v128.min<f32>(ty0, ty1);
    const hx = v128.max<f32>(tx0, tx1);
    const hy = v128.max<f32>(ty0, ty1);
    const blx = least(lx);
    const bly = least(ly);
    const bhx = most(hx);
    const bhy = most(hy);
    store<f32>(edges, blx, 64);
    store<f32>(edges, bly, 68);
    store<f32>(edges, bhx, 72);
    store<f32>(edges, bhy, 76);
    lowX = min(lowX, blx);
    lowY = min(lowY, bly);
    highX = max(highX, bhx);
    highY = max(highY, bhy);
    from += edgeBlock;
    edges += edgeBlock;
  }
  work += <f64>blocks * 2;
  const scale = v128.splat<f32>(size);
  from = load<u32>(at, 12);
  blocks = load<i32>(at, 20);
  for (let b = 0; b < blocks; b++) {
    const x = v128.load(from);
    const y = v128.load(from, 16);
    v128.store(circles, v128.sub<f32>(v128.mul<f32>(x, cos), v128.mul<f32>(y, sin)));
    v128.store(circles, v128.add<f32>(v128.mul<f32>(x, sin), v128.mul<f32>(y, cos)), 16);
    v128.store(circles, v128.mul<f32>(v128.load(from, 32), scale), 32);
    from += circleBlock;
    circles += circleBlock;
  }
  from = load<u32>(at, 24);
  blocks = load<i32>(at, 32);
  const c = f32x4.extract_lane(cos, 0);
  const s = f32x4.extract_lane(sin, 0);
  for (let b = 0; b < blocks; b++) {
    const x = load<f32>(from);
    const y = load<f32>(from, 4);
    store<f32>(places, x * c - y * s);
    store<f32>(places, x * s + y * c, 4);
    from += 8;
    places += 8;
  }
  minX = lowX;
  minY = lowY;
  maxX = highX;
  maxY = highY;
}

/** Whether a place is in the solid of a piece, given about the piece's origin. */
function isInside(px: f32, py: f32, edges: usize, blocks: i32): bool {
  const x = v128.splat<f32>(px);
  const y = v128.splat<f32>(py);
  let winding = v128.splat<i32>(0);
  for (let b = 0; b < blocks; b++) {
    const x0 = v128.load(edges);
    const y0 = v128.load(edges, 16);
    const x1 = v128.load(edges, 32);
    const y1 = v128.load(edges, 48);
    const above0 = v128.gt<f32>(y0, y);
    const above1 = v128.gt<f32>(y1, y);
    // right of the edge's line, seen upward
    const side = v128.sub<f32>(
      v128.mul<f32>(v128.sub<f32>(x1, x0), v128.sub<f32>(y, y0)),
      v128.mul<f32>(v128.sub<f32>(x, x0), v128.sub<f32>(y1, y0)),
    );
    const zero = v128.splat<f32>(0);
    const up = v128.and(v128.andnot(above1, above0), v128.gt<f32>(side, zero));
    const down = v128.and(v128.andnot(above0, above1), v128.lt<f32>(side, zero));
    winding = v128.add<i32>(winding, v128.sub<i32>(down, up));
    edges += edgeBlock;
  }
  return i32x4.extract_lane(winding, 0) + i32x4.extract_lane(winding, 1) + i32x4.extract_lane(winding, 2) + i32x4.extract_lane(winding, 3) != 0;
}

/** Whether one of the four largest circles of a piece overlaps one of those of another: then the pieces do. */
// @ts-ignore: decorator
@inline
function circlesOverlap(circles: usize, otherCircles: usize, dx: f32, dy: f32): bool {
  const cx = v128.load(otherCircles);
  const cy = v128.load(otherCircles, 16);
  const cr = v128.load(otherCircles, 32);
  for (let k: usize = 0; k < 16; k += 4) {
    const ex = v128.sub<f32>(cx, v128.splat<f32>(load<f32>(circles + k) + dx));
    const ey = v128.sub<f32>(cy, v128.splat<f32>(load<f32>(circles + k, 16) + dy));
    const r = v128.add<f32>(cr, v128.splat<f32>(load<f32>(circles + k, 32)));
    if (v128.any_true(v128.lt<f32>(v128.add<f32>(v128.mul<f32>(ex, ex), v128.mul<f32>(ey, ey)), v128.mul<f32>(r, r)))) return true;
  }
  return false;
}

/**
 * Whether a piece, its edges given, overlaps another that stands at its present angle; told by their borders.
 * @param dx, dy from the other's origin to the piece's
 */
function overlaps(edges: usize, blocks: i32, places: usize, placeCount: i32, dx: f32, dy: f32, j: i32): bool {
  const other = record(j);
  const box = boxAt + (<usize>j << 4);
  const jMinX = load<f32>(box);
  const jMinY = load<f32>(box, 4);
  const jMaxX = load<f32>(box, 8);
  const jMaxY = load<f32>(box, 12);
  const otherEdges: usize = load<u32>(other, 4);
  const otherBlocks = load<i32>(other, 8);
  const groups = (otherBlocks + 3) >> 2;
  let from = edges;
  let spent = 4;
  const zero = v128.splat<f32>(0);
  for (let b = 0; b < blocks; b++, from += edgeBlock) {
    const bMinX = load<f32>(from, 64) + dx;
    const bMinY = load<f32>(from, 68) + dy;
    const bMaxX = load<f32>(from, 72) + dx;
    const bMaxY = load<f32>(from, 76) + dy;
    if (bMinX > jMaxX || bMaxX < jMinX || bMinY > jMaxY || bMaxY < jMinY) continue;
    spent += groups;
    const left = v128.splat<f32>(bMinX);
    const low = v128.splat<f32>(bMinY);
    const right = v128.splat<f32>(bMaxX);
    const high = v128.splat<f32>(bMaxY);
    let group: usize = load<u32>(other, 64);
    for (let g = 0; g < groups; g++, group += 64) {
      let hits = i32x4.bitmask(
        v128.and(
          v128.and(v128.ge<f32>(v128.load(group, 32), left), v128.le<f32>(v128.load(group), right)),
          v128.and(v128.ge<f32>(v128.load(group, 48), low), v128.le<f32>(v128.load(group, 16), high)),
        ),
      );
      for (; hits; hits &= hits - 1) {
        const against = otherEdges + <usize>((g << 2) + ctz(hits)) * edgeBlock;
        const bx0 = v128.load(against);
        const by0 = v128.load(against, 16);
        const bx1 = v128.load(against, 32);
        const by1 = v128.load(against, 48);
        const ux = v128.sub<f32>(bx1, bx0);
        const uy = v128.sub<f32>(by1, by0);
        spent += 4;
        for (let k: usize = 0; k < 16; k += 4) {
          const ax0 = v128.splat<f32>(load<f32>(from + k) + dx);
          const ay0 = v128.splat<f32>(load<f32>(from + k, 16) + dy);
          const ax1 = v128.splat<f32>(load<f32>(from + k, 32) + dx);
          const ay1 = v128.splat<f32>(load<f32>(from + k, 48) + dy);
          // on which side of b the ends of a are
          const px = v128.sub<f32>(ax0, bx0);
          const py = v128.sub<f32>(ay0, by0);
          const s0 = v128.sub<f32>(v128.mul<f32>(ux, py), v128.mul<f32>(uy, px));
          const s1 = v128.sub<f32>(v128.mul<f32>(ux, v128.sub<f32>(ay1, by0)), v128.mul<f32>(uy, v128.sub<f32>(ax1, bx0)));
          // and on which side of a those of b
          const vx = v128.sub<f32>(ax1, ax0);
          const vy = v128.sub<f32>(ay1, ay0);
          const t0 = v128.sub<f32>(v128.mul<f32>(vy, px), v128.mul<f32>(vx, py));
          const t1 = v128.sub<f32>(v128.mul<f32>(vx, v128.sub<f32>(by1, ay0)), v128.mul<f32>(vy, v128.sub<f32>(bx1, ax0)));
          const crossing = v128.and(v128.lt<f32>(v128.mul<f32>(s0, s1), zero), v128.lt<f32>(v128.mul<f32>(t0, t1), zero));
          if (v128.any_true(crossing)) {
            work += <f64>(spent + b);
            return true;
          }
        }
      }
    }
  }
  work += <f64>(spent + blocks);
  // no borders cross: one may hold the other
  for (let p = 0; p < placeCount; p++) {
    const x = load<f32>(places + (<usize>p << 3)) + dx;
    const y = load<f32>(places + (<usize>p << 3), 4) + dy;
    if (x <= jMinX || x >= jMaxX || y <= jMinY || y >= jMaxY) continue;
    work += <f64>otherBlocks;
    if (isInside(x, y, otherEdges, otherBlocks)) return true;
  }
  const otherPlaces: usize = load<u32>(other, 28);
  const otherCount = load<i32>(other, 32);
  for (let p = 0; p < otherCount; p++) {
    const x = load<f32>(otherPlaces + (<usize>p << 3)) - dx;
    const y = load<f32>(otherPlaces + (<usize>p << 3), 4) - dy;
    if (x <= minX || x >= maxX || y <= minY || y >= maxY) continue;
    work += <f64>blocks;
    if (isInside(x, y, edges, blocks)) return true;
  }
  return false;
}

/**
 * How much two overlapping pieces do so, by their circles. All of it adds up, so that it can be left off early.
 * @param limit from which on it does not matter how much more it is
 */
function depth(i: i32, circles: usize, j: i32, dx: f32, dy: f32, limit: f32): f32 {
  const one = record(i);
  const other = record(j);
  const count = load<i32>(one, 20) << 2;
  const otherFrom: usize = load<u32>(other, 16);
  const otherBlocks = load<i32>(other, 20);
  const soft: f32 = 0.01 * max(load<f32>(one, 60), load<f32>(other, 60));
  const soft4 = v128.splat<f32>(soft);
  const square = v128.splat<f32>(soft * soft);
  const double = v128.splat<f32>(2 * soft);
  const size = sqrt<f32>(load<f32>(one, 56) * load<f32>(other, 56));
  const most = (limit / size) * (limit / size);
  let sum = v128.splat<f32>(0);
  let whole: f32 = 0;
  let a = 0;
  while (a < count) {
    const from = circles + <usize>(a >> 2) * circleBlock + (<usize>(a & 3) << 2);
    const radius = load<f32>(from, 32);
    if (radius <= 0) break;
    const x = v128.splat<f32>(load<f32>(from) + dx);
    const y = v128.splat<f32>(load<f32>(from, 16) + dy);
    const r = v128.splat<f32>(radius);
    let against = otherFrom;
    for (let b = 0; b < otherBlocks; b++, against += circleBlock) {
      const ex = v128.sub<f32>(v128.load(against), x);
      const ey = v128.sub<f32>(v128.load(against, 16), y);
      const or = v128.load(against, 32);
      const away = v128.sqrt<f32>(v128.add<f32>(v128.mul<f32>(ex, ex), v128.mul<f32>(ey, ey)));
      const into = v128.sub<f32>(v128.add<f32>(r, or), away);
      const far = v128.div<f32>(square, v128.sub<f32>(double, v128.min<f32>(into, soft4)));
      const value = v128.bitselect(into, far, v128.gt<f32>(into, soft4));
      sum = v128.add<f32>(sum, v128.mul<f32>(value, v128.min<f32>(r, or)));
    }
    a++;
    if (a & 1) {
      whole = f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3);
      if (whole >= most) break;
    }
  }
  work += <f64>(a * otherBlocks) * 0.5;
  whole = f32x4.extract_lane(sum, 0) + f32x4.extract_lane(sum, 1) + f32x4.extract_lane(sum, 2) + f32x4.extract_lane(sum, 3);
  return sqrt<f32>(whole) * size;
}

/** Which of four pieces' boxes meet a box, as bits. */
// @ts-ignore: decorator
@inline
function boxHits(group: i32, left: f32, low: f32, right: f32, high: f32): i32 {
  const at = standingAt + (<usize>group << 6);
  return i32x4.bitmask(
    v128.and(
      v128.and(v128.ge<f32>(v128.load(at, 32), v128.splat<f32>(left)), v128.le<f32>(v128.load(at), v128.splat<f32>(right))),
      v128.and(v128.ge<f32>(v128.load(at, 48), v128.splat<f32>(low)), v128.le<f32>(v128.load(at, 16), v128.splat<f32>(high))),
    ),
  );
}

/** Pieces whose boxes meet that of the tried one and whose largest circles do not (i32). */
const mostWaiting = 256;
const waitingAt = memory.data(256 * 4, 16);

/**
 * Weighted loss of a piece at a place, at the tried angle; leaves off where it reaches the limit. First come those whose circles overlap: that is soon found out,
 * and they cost most.
 */
function lossAtPlace(i: i32, x: f32, y: f32, limit: f32): f32 {
  const at = record(i);
  const blocks = load<i32>(at, 8);
  const places = load<i32>(at, 32);
  const left = x + minX;
  const right = x + maxX;
  const low = y + minY;
  const high = y + maxY;
  const row = weightAt + (<usize>(i * n) << 2);
  let loss: f32 = 0;
  const groups = (n + 3) >> 2;
  let waiting = 0;
  work += <f64>groups * 0.3 + 40;
  for (let g = 0; g < groups; g++) {
    let hits = boxHits(g, left, low, right, high);
    for (; hits; hits &= hits - 1) {
      const j = (g << 2) + ctz(hits);
      if (j == i) continue;
      const other = record(j);
      const dx = x - load<f32>(other, 44);
      const dy = y - load<f32>(other, 48);
      work += 2;
      if (waiting < mostWaiting && !circlesOverlap(triedCircles, load<u32>(other, 16), dx, dy)) {
        store<i32>(waitingAt + (<usize>waiting << 2), j);
        waiting++;
        continue;
      }
      if (waiting == mostWaiting && !circlesOverlap(triedCircles, load<u32>(other, 16), dx, dy) && !overlaps(triedEdges, blocks, triedPlaces, places, dx, dy, j)) continue;
      const weight = load<f32>(row + (<usize>j << 2));
      loss += weight * depth(i, triedCircles, j, dx, dy, (limit - loss) / weight);
      if (loss >= limit) return loss;
    }
  }
  for (let k = 0; k < waiting; k++) {
    const j = load<i32>(waitingAt + (<usize>k << 2));
    const other = record(j);
    const dx = x - load<f32>(other, 44);
    const dy = y - load<f32>(other, 48);
    if (!overlaps(triedEdges, blocks, triedPlaces, places, dx, dy, j)) continue;
    const weight = load<f32>(row + (<usize>j << 2));
    loss += weight * depth(i, triedCircles, j, dx, dy, (limit - loss) / weight);
    if (loss >= limit) return loss;
  }
  return loss;
}

/** Measures a piece where it stands against all others; the pairs' losses are written down. */
function measure(i: i32, from: i32): void {
  const at = record(i);
  const x = load<f32>(at, 44);
  const y = load<f32>(at, 48);
  const box = boxAt + (<usize>i << 4);
  minX = load<f32>(box);
  minY = load<f32>(box, 4);
  maxX = load<f32>(box, 8);
  maxY = load<f32>(box, 12);
  for (let j = from; j < n; j++) {
    if (j == i) continue;
    const other = record(j);
    const ox = load<f32>(other, 44);
    const oy = load<f32>(other, 48);
    const against = boxAt + (<usize>j << 4);
    let loss: f32 = 0;
    if (
      !(load<u32>(at, 40) && load<u32>(other, 40)) &&
      x + minX <= ox + load<f32>(against, 8) &&
      x + maxX >= ox + load<f32>(against) &&
      y + minY <= oy + load<f32>(against, 12) &&
      y + maxY >= oy + load<f32>(against, 4) &&
      (circlesOverlap(load<u32>(at, 16), load<u32>(other, 16), x - ox, y - oy) ||
        overlaps(load<u32>(at, 4), load<i32>(at, 8), load<u32>(at, 28), load<i32>(at, 32), x - ox, y - oy, j))
    )
      loss = depth(i, load<u32>(at, 16), j, x - ox, y - oy, Infinity);
    store<f32>(lossAt + (<usize>(i * n + j) << 2), loss);
    store<f32>(lossAt + (<usize>(j * n + i) << 2), loss);
  }
}

/** Best places of a move: loss, x, y, angle (f32), best first. */
const bestRoom = memory.data(16 * 8);
let bestCount: i32 = 0;
const keep: i32 = 3;

function propose(loss: f32, x: f32, y: f32, angle: f32): void {
  if (bestCount == keep && loss >= load<f32>(bestRoom + (<usize>(keep - 1) << 4))) return;
  if (bestCount < keep) bestCount++;
  let k = bestCount - 1;
  while (k > 0 && load<f32>(bestRoom + (<usize>(k - 1) << 4)) > loss) {
    v128.store(bestRoom + (<usize>k << 4), v128.load(bestRoom + (<usize>(k - 1) << 4)));
    k--;
  }
  const at = bestRoom + (<usize>k << 4);
  store<f32>(at, loss);
  store<f32>(at, x, 4);
  store<f32>(at, y, 8);
  store<f32>(at, angle, 12);
}

// @ts-ignore: decorator
@inline
function worst(): f32 {
  return bestCount < keep ? <f32>Infinity : load<f32>(bestRoom + (<usize>(keep - 1) << 4));
}

let triedAngle: f32 = NaN;
let triedPiece: i32 = -1;

/** Turns the tried piece to an angle. @returns false where it is larger than the sheet then */
function tryAngle(i: i32, angle: f32): bool {
  if (triedPiece != i || triedAngle != angle) {
    turn(i, angle, triedEdges, triedCircles, triedPlaces);
    triedPiece = i;
    triedAngle = angle;
  }
  return maxX - minX <= sheetWidth && maxY - minY <= sheetHeight;
}

// @ts-ignore: decorator
@inline
function clampX(x: f32): f32 {
  return min(max(x, -minX), sheetWidth - maxX);
}

// @ts-ignore: decorator
@inline
function clampY(y: f32): f32 {
  return min(max(y, -minY), sheetHeight - maxY);
}

/** Improves a place by steps along the axes and the diagonals, and, where angles are free, by turning; steps are halved where none is better. */
function descend(i: i32, at: usize, step: f32, spin: f32, least: f32): void {
  let loss = load<f32>(at);
  let x = load<f32>(at, 4);
  let y = load<f32>(at, 8);
  let angle = load<f32>(at, 12);
  while (step > least && loss > 0) {
    const way = below(spin > 0 ? 5 : 4);
    let better = false;
    if (way == 4) {
      const from = angle;
      for (let sign: f32 = -1; sign <= 1; sign += 2) {
        const next = from + sign * spin;
        if (!tryAngle(i, next)) continue;
        const tx = clampX(x);
        const ty = clampY(y);
        const found = lossAtPlace(i, tx, ty, loss);
        if (found >= loss) continue;
        loss = found;
        x = tx;
        y = ty;
        angle = next;
        better = true;
      }
      tryAngle(i, angle);
    } else {
      const wx: f32 = way == 1 ? 0 : step;
      const wy: f32 = way == 0 ? 0 : way == 3 ? -step : step;
      const fromX = x;
      const fromY = y;
      tryAngle(i, angle);
      for (let sign: f32 = -1; sign <= 1; sign += 2) {
        const tx = clampX(fromX + sign * wx);
        const ty = clampY(fromY + sign * wy);
        const found = lossAtPlace(i, tx, ty, loss);
        if (found >= loss) continue;
        loss = found;
        x = tx;
        y = ty;
        better = true;
      }
    }
    const by: f32 = better ? 1.1 : 0.5;
    step *= by;
    spin *= by;
  }
  store<f32>(at, loss);
  store<f32>(at, x, 4);
  store<f32>(at, y, 8);
  store<f32>(at, angle, 12);
}

/** Places that are tried in a move: near by, about free places of the sheet, and anywhere. */
const samplesNear = 8;
const samplesGap = 26;
const samplesFar = 6;
/** So many places in a row are tried at one angle: turning a piece costs as much as looking at a place. */
const samplesEach = 4;

let gapX: f32 = 0;
let gapY: f32 = 0;

/** Finds a place that no piece but the one given covers. @returns false where a few tries find none */
function findGap(i: i32): bool {
  for (let k = 0; k < 6; k++) {
    const x = share() * sheetWidth;
    const y = share() * sheetHeight;
    let isFree = true;
    for (let g = 0; g < (n + 3) >> 2 && isFree; g++) {
      for (let hits = boxHits(g, x, y, x, y); hits && isFree; hits &= hits - 1) {
        const j = (g << 2) + ctz(hits);
        if (j == i) continue;
        const other = record(j);
        isFree = !isInside(x - load<f32>(other, 44), y - load<f32>(other, 48), load<u32>(other, 4), load<i32>(other, 8));
        work += <f64>load<i32>(other, 8) * 0.5;
      }
    }
    if (!isFree) continue;
    gapX = x;
    gapY = y;
    return true;
  }
  return false;
}

function move(i: i32): void {
  const at = record(i);
  const x = load<f32>(at, 44);
  const y = load<f32>(at, 48);
  const angle = load<f32>(at, 52);
  const turns = load<i32>(at, 36);
  const isFree = turns == 0;
  const reach = load<f32>(at, 60) * grown;
  let present: f32 = 0;
  for (let j = 0; j < n; j++) present += load<f32>(weightAt + (<usize>(i * n + j) << 2)) * load<f32>(lossAt + (<usize>(i * n + j) << 2));
  bestCount = 0;
  triedPiece = -1;
  propose(present, x, y, angle);
  let turned: f32 = angle;
  for (let s = 0; s < samplesNear; s++) {
    if (isFree && s > samplesNear / 3 && (s & 1)) turned = angle + (share() - 0.5) * 0.4;
    if (!tryAngle(i, turned)) continue;
    const tx = clampX(x + (share() - 0.5) * 0.5 * reach);
    const ty = clampY(y + (share() - 0.5) * 0.5 * reach);
    propose(lossAtPlace(i, tx, ty, worst()), tx, ty, turned);
  }
  for (let s = 0; s < samplesGap + samplesFar; s++) {
    if (s % samplesEach == 0) turned = isFree ? share() * <f32>6.2831853 : turns == 1 ? angle : angle + <f32>below(turns) * (<f32>6.2831853 / <f32>turns);
    if (!tryAngle(i, turned)) continue;
    let tx: f32;
    let ty: f32;
    if (s < samplesGap && findGap(i)) {
      // its largest circle about a free place
      tx = clampX(gapX - load<f32>(triedCircles));
      ty = clampY(gapY - load<f32>(triedCircles, 16));
    } else {
      tx = -minX + share() * (sheetWidth - maxX + minX);
      ty = -minY + share() * (sheetHeight - maxY + minY);
    }
    propose(lossAtPlace(i, tx, ty, worst()), tx, ty, turned);
  }
  for (let k = 0; k < bestCount; k++) descend(i, bestRoom + (<usize>k << 4), reach * 0.1, isFree ? 0.1 : 0, reach * 0.005);
  let best = bestRoom;
  for (let k = 1; k < bestCount; k++) if (load<f32>(bestRoom + (<usize>k << 4)) < load<f32>(best)) best = bestRoom + (<usize>k << 4);
  descend(i, best, reach * 0.005, isFree ? 0.01 : 0, reach * 0.0002);
  if (load<f32>(best) >= present) return;
  let final = load<f32>(best, 12);
  // within one turn, so that the same numbers mean the same angle
  if (final > <f32>6.2831853) final -= <f32>6.2831853;
  if (final < 0) final += <f32>6.2831853;
  place(i, load<f32>(best, 4), load<f32>(best, 8), final);
  measure(i, 0);
}

/** Puts a piece at a place and an angle. */
function place(i: i32, x: f32, y: f32, angle: f32): void {
  const at = record(i);
  turn(i, angle, load<u32>(at, 4), load<u32>(at, 16), load<u32>(at, 28));
  let from: usize = load<u32>(at, 4);
  let group: usize = load<u32>(at, 64);
  const blocks = load<i32>(at, 8);
  for (let b = 0; b < blocks; b++, from += edgeBlock) {
    const lane = <usize>(b & 3) << 2;
    if (b > 0 && lane == 0) group += 64;
    store<f32>(group + lane, load<f32>(from, 64));
    store<f32>(group + lane, load<f32>(from, 68), 16);
    store<f32>(group + lane, load<f32>(from, 72), 32);
    store<f32>(group + lane, load<f32>(from, 76), 48);
  }
  for (let b = blocks; b & 3; b++) {
    const lane = <usize>(b & 3) << 2;
    store<f32>(group + lane, <f32>Infinity);
    store<f32>(group + lane, <f32>-Infinity, 32);
  }
  const box = boxAt + (<usize>i << 4);
  store<f32>(box, minX);
  store<f32>(box, minY, 4);
  store<f32>(box, maxX, 8);
  store<f32>(box, maxY, 12);
  store<f32>(at, x, 44);
  store<f32>(at, y, 48);
  store<f32>(at, angle, 52);
  const standing = standingAt + (<usize>(i >> 2) << 6) + (<usize>(i & 3) << 2);
  store<f32>(standing, x + minX);
  store<f32>(standing, y + minY, 16);
  store<f32>(standing, x + maxX, 32);
  store<f32>(standing, y + maxY, 48);
}

/**
 * Brings all pieces onto the sheet, as large as they have grown, and measures all pairs; all weights are 1.
 * @returns what all overlaps cost; −1 where a piece is too large
 */
export function begin(width: f32, height: f32, growth: f32): f64 {
  sheetWidth = width;
  sheetHeight = height;
  grown = growth;
  for (let i = 0; i < n; i++) {
    const at = record(i);
    place(i, load<f32>(at, 44), load<f32>(at, 48), load<f32>(at, 52));
    if (load<u32>(at, 40)) continue;
    if (maxX - minX > width || maxY - minY > height) return -1;
    place(i, clampX(load<f32>(at, 44)), clampY(load<f32>(at, 48)), load<f32>(at, 52));
  }
  for (let i = 0; i < n; i++) measure(i, i + 1);
  for (let i = 0; i < n * n; i++) store<f32>(weightAt + (<usize>i << 2), 1);
  let loss: f64 = 0;
  for (let i = 0; i < n; i++) for (let j = 0; j < i; j++) loss += <f64>load<f32>(lossAt + (<usize>(i * n + j) << 2));
  return loss;
}

function isClear(i: i32): bool {
  for (let j = 0; j < n; j++) if (i != j && load<f32>(lossAt + (<usize>(i * n + j) << 2)) > 0) return false;
  return true;
}

/** Takes down which pieces overlap others, in any order. @returns how many: `movePieces` moves them */
export function listOverlapping(): i32 {
  let colliding = 0;
  for (let i = 0; i < n; i++) if (!load<u32>(record(i), 40) && !isClear(i)) store<i32>(orderAt + (colliding++ << 2), i);
  for (let k = colliding - 1; k > 0; k--) {
    const other = below(k + 1);
    const held = load<i32>(orderAt + (<usize>k << 2));
    store<i32>(orderAt + (<usize>k << 2), load<i32>(orderAt + (<usize>other << 2)));
    store<i32>(orderAt + (<usize>other << 2), held);
  }
  return colliding;
}

/** Moves some of the pieces that were listed, each once, where it still overlaps another. */
export function movePieces(from: i32, to: i32): void {
  for (let k = from; k < to; k++) {
    const i = load<i32>(orderAt + (<usize>k << 2));
    if (!isClear(i)) move(i);
  }
}

/** Pairs that overlap gain weight, others lose some. @returns what all overlaps cost */
export function reweigh(gain: f32, decay: f32): f64 {
  let most: f32 = 1e-9;
  let loss: f64 = 0;
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) {
      const own = load<f32>(lossAt + (<usize>(i * n + j) << 2));
      loss += <f64>own;
      most = max(most, own);
    }
  }
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) {
      const own = load<f32>(lossAt + (<usize>(i * n + j) << 2));
      const at = weightAt + (<usize>(i * n + j) << 2);
      let weight = load<f32>(at);
      weight = own > 0 ? weight * (1.1 + (gain * own) / most) : max(<f32>1, weight * decay);
      weight = min(weight, <f32>1e6);
      store<f32>(at, weight);
      store<f32>(weightAt + (<usize>(j * n + i) << 2), weight);
    }
  }
  work += <f64>(n * n) * 0.3;
  return loss;
}

/**
 * The numeric part of the sparse Cholesky factorisation, in AssemblyScript with 128-bit SIMD. Same mathematics as
 * src/numeric/cholesky.ts (multifrontal over relaxed supernodes), other layout: four rows make a pack, and a pack is kept column by
 * column (4 numbers a column), so that a 4 × 4 tile of any matrix is 16 numbers in a row and needs no edge tests. An update matrix
 * keeps only the tiles on and below its diagonal: pack p starts at 8 · p · (p + 1) numbers.
 *
 * All arguments are byte addresses into the imported memory. Each front is described by 8 numbers (i32) at `fronts`:
 * padded columns, padded rows, columns, rows, first child in `children`, its end, first entry in `rowInParent`, first unknown;
 * and by 2 addresses (u32) at `places`: its panel, its update matrix.
 */

const BLOCK: i32 = 48;

/** c − a · b, in one instruction where the relaxed kind is to be had (the binary built with it is taken only where it is). */
// @ts-ignore: decorator
@inline
function lessProduct(c: v128, a: v128, b: v128): v128 {
  if (ASC_FEATURE_RELAXED_SIMD) return f64x2.relaxed_nmadd(a, b, c);
  return f64x2.sub(c, f64x2.mul(a, b));
}

// @ts-ignore: decorator
@inline
function tile(a: usize, b: usize, count: i32, out: usize): void {
  let c00 = v128.load(out);
  let c01 = v128.load(out, 16);
  let c10 = v128.load(out, 32);
  let c11 = v128.load(out, 48);
  let c20 = v128.load(out, 64);
  let c21 = v128.load(out, 80);
  let c30 = v128.load(out, 96);
  let c31 = v128.load(out, 112);
  const end = a + (<usize>count << 5);
  while (a < end) {
    const a0 = v128.load(a);
    const a1 = v128.load(a, 16);
    const b0 = v128.load64_splat(b);
    const b1 = v128.load64_splat(b, 8);
    const b2 = v128.load64_splat(b, 16);
    const b3 = v128.load64_splat(b, 24);
    c00 = lessProduct(c00, a0, b0);
    c01 = lessProduct(c01, a1, b0);
    c10 = lessProduct(c10, a0, b1);
    c11 = lessProduct(c11, a1, b1);
    c20 = lessProduct(c20, a0, b2);
    c21 = lessProduct(c21, a1, b2);
    c30 = lessProduct(c30, a0, b3);
    c31 = lessProduct(c31, a1, b3);
    a += 32;
    b += 32;
  }
  v128.store(out, c00);
  v128.store(out, c01, 16);
  v128.store(out, c10, 32);
  v128.store(out, c11, 48);
  v128.store(out, c20, 64);
  v128.store(out, c21, 80);
  v128.store(out, c30, 96);
  v128.store(out, c31, 112);
}

/** Factors the 4 × 4 tile on the diagonal; false when a pivot is not positive and finite. */
function factorTile(at: usize): bool {
  for (let c: usize = 0; c < 4; c++) {
    const column = at + (c << 5);
    for (let r = c; r < 4; r++) {
      let value = load<f64>(column + (r << 3));
      for (let k: usize = 0; k < c; k++) value -= load<f64>(at + (k << 5) + (r << 3)) * load<f64>(at + (k << 5) + (c << 3));
      if (r === c) {
        if (!(value > 0) || value === Infinity) return false;
        value = Math.sqrt(value);
      } else {
        value /= load<f64>(column + (c << 3));
      }
      store<f64>(column + (r << 3), value);
    }
  }
  return true;
}

/** One tile below a factored diagonal tile: X · Lᵀ = tile. */
// @ts-ignore: decorator
@inline
function solveTile(at: usize, diagonal: usize): void {
  for (let half: usize = 0; half < 32; half += 16) {
    const t = at + half;
    const x0 = f64x2.div(v128.load(t), v128.load64_splat(diagonal));
    v128.store(t, x0);
    let x1 = f64x2.sub(v128.load(t, 32), f64x2.mul(x0, v128.load64_splat(diagonal, 8)));
    x1 = f64x2.div(x1, v128.load64_splat(diagonal, 40));
    v128.store(t, x1, 32);
    let x2 = f64x2.sub(v128.load(t, 64), f64x2.mul(x0, v128.load64_splat(diagonal, 16)));
    x2 = f64x2.sub(x2, f64x2.mul(x1, v128.load64_splat(diagonal, 48)));
    x2 = f64x2.div(x2, v128.load64_splat(diagonal, 80));
    v128.store(t, x2, 64);
    let x3 = f64x2.sub(v128.load(t, 96), f64x2.mul(x0, v128.load64_splat(diagonal, 24)));
    x3 = f64x2.sub(x3, f64x2.mul(x1, v128.load64_splat(diagonal, 56)));
    x3 = f64x2.sub(x3, f64x2.mul(x2, v128.load64_splat(diagonal, 88)));
    x3 = f64x2.div(x3, v128.load64_splat(diagonal, 120));
    v128.store(t, x3, 96);
  }
}

/** Factors a panel of `stride` columns and `height` rows and takes its outer product off the update matrix. */
function factorPanel(panel: usize, stride: i32, height: i32, update: usize): bool {
  const packs = height >> 2;
  const ownPacks = stride >> 2;
  const packBytes = <usize>stride << 5;
  for (let from = 0; from < stride; from += BLOCK) {
    const to = min(from + BLOCK, stride);
    const fromBytes = <usize>from << 5;
    for (let j = from; j < to; j += 4) {
      const jp = j >> 2;
      const jRow = panel + <usize>jp * packBytes;
      const jBytes = <usize>j << 5;
      tile(jRow + fromBytes, jRow + fromBytes, j - from, jRow + jBytes);
      if (!factorTile(jRow + jBytes)) return false;
      for (let ip = jp + 1; ip < packs; ip++) {
        const row = panel + <usize>ip * packBytes;
        tile(row + fromBytes, jRow + fromBytes, j - from, row + jBytes);
        solveTile(row + jBytes, jRow + jBytes);
      }
    }
    const count = to - from;
    for (let ip = to >> 2; ip < packs; ip++) {
      const row = panel + <usize>ip * packBytes;
      const a = row + fromBytes;
      const last = min(ip + 1, ownPacks);
      for (let jp = to >> 2; jp < last; jp++) tile(a, panel + <usize>jp * packBytes + fromBytes, count, row + (<usize>jp << 7));
    }
    for (let ip = ownPacks; ip < packs; ip++) {
      const a = panel + <usize>ip * packBytes + fromBytes;
      const p = <usize>(ip - ownPacks);
      let out = update + p * (p + 1) * 64;
      for (let jp = ownPacks; jp <= ip; jp++) {
        tile(a, panel + <usize>jp * packBytes + fromBytes, count, out);
        out += 128;
      }
    }
  }
  return true;
}

/** Adds a child's update matrix into its parent's front. `relative`: place of each of the child's unknowns in that front. */
function extendAdd(update: usize, relative: usize, count: i32, pairs: bool, panel: usize, stride: i32, columns: i32, target: usize): void {
  const step = pairs ? 2 : 1;
  for (let i = 0; i < count; i += step) {
    const ri = load<i32>(relative + (<usize>i << 2));
    const p = <usize>(i >> 2);
    const source = update + p * (p + 1) * 64 + (<usize>(i & 3) << 3);
    const own = ri < columns;
    const row = own ? ri : stride + ri - columns;
    const panelRow = panel + (<usize>((row >> 2) * stride) << 5) + (<usize>(row & 3) << 3);
    const q = ri - columns;
    const qp = <usize>(q >> 2);
    const updateRow: usize = own ? 0 : target + qp * (qp + 1) * 64 + (<usize>(q & 3) << 3);
    const last = i + step;
    if (pairs) {
      for (let j = 0; j < last; j++) {
        const rj = load<i32>(relative + (<usize>j << 2));
        const out: usize = rj < columns ? panelRow + (<usize>rj << 5) : updateRow + (<usize>(rj - columns) << 5);
        v128.store(out, f64x2.add(v128.load(out), v128.load(source + (<usize>j << 5))));
      }
    } else {
      for (let j = 0; j < last; j++) {
        const rj = load<i32>(relative + (<usize>j << 2));
        const out: usize = rj < columns ? panelRow + (<usize>rj << 5) : updateRow + (<usize>(rj - columns) << 5);
        store<f64>(out, load<f64>(out) + load<f64>(source + (<usize>j << 5)));
      }
    }
  }
}

/**
 * @param pairs unknowns come two a vertex
 * @returns 0, or 1 + the front whose pivot was not positive
 */
export function factorise(frontCount: i32, fronts: usize, places: usize, children: usize, relative: usize, pairs: bool, stack: usize): i32 {
  let top = stack;
  for (let s = 0; s < frontCount; s++) {
    const front = fronts + (<usize>s << 5);
    const stride = load<i32>(front);
    const updateRows = load<i32>(front, 4);
    const columns = load<i32>(front, 8);
    const panel = <usize>load<u32>(places + (<usize>s << 3));
    const home = <usize>load<u32>(places + (<usize>s << 3), 4);
    const p = <usize>(updateRows >> 2);
    const bytes = p * (p + 1) * 64;
    const target = top;
    memory.fill(target, 0, bytes);
    const end = load<i32>(front, 20);
    for (let c = load<i32>(front, 16); c < end; c++) {
      const child = load<i32>(children + (<usize>c << 2));
      const childFront = fronts + (<usize>child << 5);
      const from = relative + (<usize>load<i32>(childFront, 24) << 2);
      extendAdd(<usize>load<u32>(places + (<usize>child << 3), 4), from, load<i32>(childFront, 12), pairs, panel, stride, columns, target);
    }
    for (let k = columns; k < stride; k++) store<f64>(panel + (<usize>((k >> 2) * stride + k) << 5) + (<usize>(k & 3) << 3), 1);
    if (!factorPanel(panel, stride, stride + updateRows, target)) return 1 + s;
    if (home !== target) memory.copy(home, target, bytes);
    top = home + bytes;
  }
  return 0;
}

/**
 * Solves for two right-hand sides at once, 2 numbers (lanes) an unknown.
 * @param unknowns for each update row of each front its unknown
 * @param x in elimination order, overwritten
 * @param local room for the tallest front
 */
export function solveTwo(frontCount: i32, fronts: usize, places: usize, unknowns: usize, x: usize, local: usize): void {
  const zero = f64x2.splat(0);
  for (let s = 0; s < frontCount; s++) {
    const front = fronts + (<usize>s << 5);
    const stride = load<i32>(front);
    const updateRows = load<i32>(front, 4);
    const columns = load<i32>(front, 8);
    const rows = load<i32>(front, 12);
    const from = unknowns + (<usize>load<i32>(front, 24) << 2);
    const own = x + (<usize>load<i32>(front, 28) << 4);
    let pack = <usize>load<u32>(places + (<usize>s << 3));
    for (let k = 0; k < columns; k++) v128.store(local + (<usize>k << 4), v128.load(own + (<usize>k << 4)));
    for (let k = columns; k < stride; k++) v128.store(local + (<usize>k << 4), zero);
    for (let r = 0; r < stride + updateRows; r += 4) {
      const isOwn = r < stride;
      let s0 = zero;
      let s1 = zero;
      let s2 = zero;
      let s3 = zero;
      const count = isOwn ? r : columns;
      let at = pack;
      for (let k = 0; k < count; k++) {
        const value = v128.load(local + (<usize>k << 4));
        s0 = f64x2.add(s0, f64x2.mul(v128.load64_splat(at), value));
        s1 = f64x2.add(s1, f64x2.mul(v128.load64_splat(at, 8), value));
        s2 = f64x2.add(s2, f64x2.mul(v128.load64_splat(at, 16), value));
        s3 = f64x2.add(s3, f64x2.mul(v128.load64_splat(at, 24), value));
        at += 32;
      }
      if (isOwn) {
        const y = local + (<usize>r << 4);
        const d = pack + (<usize>r << 5);
        const y0 = f64x2.div(f64x2.sub(v128.load(y), s0), v128.load64_splat(d));
        const y1 = f64x2.div(f64x2.sub(f64x2.sub(v128.load(y, 16), s1), f64x2.mul(v128.load64_splat(d, 8), y0)), v128.load64_splat(d, 40));
        let y2 = f64x2.sub(f64x2.sub(v128.load(y, 32), s2), f64x2.mul(v128.load64_splat(d, 16), y0));
        y2 = f64x2.div(f64x2.sub(y2, f64x2.mul(v128.load64_splat(d, 48), y1)), v128.load64_splat(d, 80));
        let y3 = f64x2.sub(f64x2.sub(v128.load(y, 48), s3), f64x2.mul(v128.load64_splat(d, 24), y0));
        y3 = f64x2.sub(y3, f64x2.mul(v128.load64_splat(d, 56), y1));
        y3 = f64x2.div(f64x2.sub(y3, f64x2.mul(v128.load64_splat(d, 88), y2)), v128.load64_splat(d, 120));
        v128.store(y, y0);
        v128.store(y, y1, 16);
        v128.store(y, y2, 32);
        v128.store(y, y3, 48);
      } else {
        const first = r - stride;
        takeOff(x, from, first, rows, 0, s0);
        takeOff(x, from, first, rows, 1, s1);
        takeOff(x, from, first, rows, 2, s2);
        takeOff(x, from, first, rows, 3, s3);
      }
      pack += <usize>stride << 5;
    }
    for (let k = 0; k < columns; k++) v128.store(own + (<usize>k << 4), v128.load(local + (<usize>k << 4)));
  }
  for (let s = frontCount - 1; s >= 0; s--) {
    const front = fronts + (<usize>s << 5);
    const stride = load<i32>(front);
    const updateRows = load<i32>(front, 4);
    const columns = load<i32>(front, 8);
    const rows = load<i32>(front, 12);
    const from = unknowns + (<usize>load<i32>(front, 24) << 2);
    const own = x + (<usize>load<i32>(front, 28) << 4);
    const panel = <usize>load<u32>(places + (<usize>s << 3));
    for (let k = 0; k < columns; k++) v128.store(local + (<usize>k << 4), v128.load(own + (<usize>k << 4)));
    for (let k = columns; k < stride; k++) v128.store(local + (<usize>k << 4), zero);
    for (let r = 0; r < updateRows; r += 4) {
      const x0 = rowOf(x, from, r, rows);
      const x1 = rowOf(x, from, r + 1, rows);
      const x2 = rowOf(x, from, r + 2, rows);
      const x3 = rowOf(x, from, r + 3, rows);
      backStep(panel + (<usize>(((stride + r) >> 2) * stride) << 5), columns, local, x0, x1, x2, x3);
    }
    for (let r = stride - 4; r >= 0; r -= 4) {
      const pack = panel + (<usize>((r >> 2) * stride) << 5);
      const d = pack + (<usize>r << 5);
      const y = local + (<usize>r << 4);
      const x3 = f64x2.div(v128.load(y, 48), v128.load64_splat(d, 120));
      const x2 = f64x2.div(f64x2.sub(v128.load(y, 32), f64x2.mul(v128.load64_splat(d, 88), x3)), v128.load64_splat(d, 80));
      let x1 = f64x2.sub(v128.load(y, 16), f64x2.mul(v128.load64_splat(d, 48), x2));
      x1 = f64x2.div(f64x2.sub(x1, f64x2.mul(v128.load64_splat(d, 56), x3)), v128.load64_splat(d, 40));
      let x0 = f64x2.sub(v128.load(y), f64x2.mul(v128.load64_splat(d, 8), x1));
      x0 = f64x2.sub(x0, f64x2.mul(v128.load64_splat(d, 16), x2));
      x0 = f64x2.div(f64x2.sub(x0, f64x2.mul(v128.load64_splat(d, 24), x3)), v128.load64_splat(d));
      v128.store(y, x0);
      v128.store(y, x1, 16);
      v128.store(y, x2, 32);
      v128.store(y, x3, 48);
      backStep(pack, r, local, x0, x1, x2, x3);
    }
    for (let k = 0; k < columns; k++) v128.store(own + (<usize>k << 4), v128.load(local + (<usize>k << 4)));
  }
}

// @ts-ignore: decorator
@inline
function takeOff(x: usize, from: usize, first: i32, rows: i32, r: i32, sum: v128): void {
  if (first + r >= rows) return;
  const at = x + (<usize>load<i32>(from + (<usize>(first + r) << 2)) << 4);
  v128.store(at, f64x2.sub(v128.load(at), sum));
}

// @ts-ignore: decorator
@inline
function rowOf(x: usize, from: usize, r: i32, rows: i32): v128 {
  return r < rows ? v128.load(x + (<usize>load<i32>(from + (<usize>r << 2)) << 4)) : f64x2.splat(0);
}

/** local[k] −= Σ pack[r][k] · x[r] for the columns k < count. */
// @ts-ignore: decorator
@inline
function backStep(pack: usize, count: i32, local: usize, x0: v128, x1: v128, x2: v128, x3: v128): void {
  for (let k = 0; k < count; k++) {
    const y = local + (<usize>k << 4);
    let value = v128.load(y);
    value = f64x2.sub(value, f64x2.mul(v128.load64_splat(pack), x0));
    value = f64x2.sub(value, f64x2.mul(v128.load64_splat(pack, 8), x1));
    value = f64x2.sub(value, f64x2.mul(v128.load64_splat(pack, 16), x2));
    value = f64x2.sub(value, f64x2.mul(v128.load64_splat(pack, 24), x3));
    v128.store(y, value);
    pack += 32;
  }
}

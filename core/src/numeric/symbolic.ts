import { minimumDegree } from './minimumDegree.ts';
import type { SymmetricPattern } from './pattern.ts';

/**
 * What a sparse Cholesky factorisation needs to know about the places of its nonzeros, worked out once a pattern and used for
 * any values and for blocks of any size (one vertex = one unknown, or two).
 */
export interface Symbolic {
  size: number;
  pattern: SymmetricPattern;
  /** place[i] is the place of vertex i in the elimination order. */
  place: Int32Array;
  /** Supernode s eliminates places frontStart[s] … frontStart[s + 1] − 1. */
  frontStart: Int32Array;
  frontCount: number;
  /** Supernode s's update rows (places, rising, beyond its own) are rows[rowStart[s]] … */
  rowStart: Int32Array;
  rows: Int32Array;
  /** For each entry of `rows`: its place in the parent's front (own columns first, then update rows). */
  rowInParent: Int32Array;
  parent: Int32Array;
  childStart: Int32Array;
  children: Int32Array;
  /** Nonzeros of the factor with one unknown a vertex. */
  factorNonzeros: number;
}

/**
 * Order and symbolic analysis.
 *
 * Sources: J. Liu, "The Role of Elimination Trees in Sparse Factorization", SIAM J. Matrix Anal. Appl. 11(1), 1990 (tree and
 * postorder); J. Gilbert, E. Ng, B. Peyton, "An Efficient Algorithm to Compute Row and Column Counts for Sparse Cholesky
 * Factorization", SIAM J. Matrix Anal. Appl. 15(4), 1994; C. Ashcraft, R. Grimes, "The Influence of Relaxed Supernode
 * Partitions on the Multifrontal Method", ACM TOMS 15(4), 1989.
 *
 * @param given an order to take instead of finding one, for instance that of nearly the same mesh
 * Cost: near-linear in the entries, plus the rows of the supernodes.
 */
export function analyse(pattern: SymmetricPattern, given?: Int32Array): Symbolic {
  const n = pattern.size;
  const firstOrder = given ?? minimumDegree(pattern);
  const firstPlace = invert(firstOrder);
  const upper = coupledPlaces(pattern, firstPlace, 'below');
  const tree = eliminationTree(n, upper);
  const post = postorder(tree);
  const order = new Int32Array(n);
  for (let k = 0; k < n; k++) order[k] = firstOrder[post[k]!]!;
  const place = invert(order);
  const parentPlain = new Int32Array(n);
  const postPlace = invert(post);
  for (let k = 0; k < n; k++) {
    const p = tree[k]!;
    parentPlain[postPlace[k]!] = p < 0 ? -1 : postPlace[p]!;
  }
  const rowsOf = coupledPlaces(pattern, place, 'below');
  const counts = columnCounts(n, rowsOf, parentPlain);
  const fronts = relaxedFronts(n, parentPlain, counts);
  return frontStructure(pattern, place, parentPlain, fronts);
}

function invert(order: Int32Array): Int32Array {
  const place = new Int32Array(order.length);
  for (let k = 0; k < order.length; k++) place[order[k]!] = k;
  return place;
}

interface Rows {
  start: Int32Array;
  list: Int32Array;
}

/** For each place k: the places coupled with it that are below k (its row of the lower triangle left of the diagonal), or above k. */
function coupledPlaces(pattern: SymmetricPattern, place: Int32Array, side: 'below' | 'above'): Rows {
  const n = pattern.size;
  const isBelow = side === 'below';
  const start = new Int32Array(n + 1);
  for (let j = 0; j < n; j++) {
    for (let e = pattern.columnStart[j]! + 1; e < pattern.columnStart[j + 1]!; e++) {
      const a = place[j]!;
      const b = place[pattern.rows[e]!]!;
      start[(a > b === isBelow ? a : b) + 1]!++;
    }
  }
  for (let k = 0; k < n; k++) start[k + 1]! += start[k]!;
  const fill = start.slice(0, n);
  const list = new Int32Array(start[n]!);
  for (let j = 0; j < n; j++) {
    for (let e = pattern.columnStart[j]! + 1; e < pattern.columnStart[j + 1]!; e++) {
      const a = place[j]!;
      const b = place[pattern.rows[e]!]!;
      if (a > b === isBelow) list[fill[a]!++] = b;
      else list[fill[b]!++] = a;
    }
  }
  return { start, list };
}

function eliminationTree(n: number, rows: Rows): Int32Array {
  const parent = new Int32Array(n).fill(-1);
  const ancestor = new Int32Array(n).fill(-1);
  for (let k = 0; k < n; k++) {
    for (let e = rows.start[k]!; e < rows.start[k + 1]!; e++) {
      let i = rows.list[e]!;
      while (i !== -1 && i < k) {
        const next = ancestor[i]!;
        ancestor[i] = k;
        if (next === -1) parent[i] = k;
        i = next;
      }
    }
  }
  return parent;
}

function postorder(parent: Int32Array): Int32Array {
  const n = parent.length;
  const head = new Int32Array(n).fill(-1);
  const next = new Int32Array(n);
  for (let j = n - 1; j >= 0; j--) {
    const p = parent[j]!;
    if (p >= 0) {
      next[j] = head[p]!;
      head[p] = j;
    }
  }
  const post = new Int32Array(n);
  const stack = new Int32Array(n);
  let k = 0;
  for (let root = 0; root < n; root++) {
    if (parent[root] !== -1) continue;
    let top = 0;
    stack[0] = root;
    while (top >= 0) {
      const p = stack[top]!;
      const child = head[p]!;
      if (child === -1) {
        top--;
        post[k++] = p;
      } else {
        head[p] = next[child]!;
        stack[++top] = child;
      }
    }
  }
  return post;
}

/** Entries of each column of the factor, diagonal included; the tree is postordered. */
function columnCounts(n: number, rows: Rows, parent: Int32Array): Int32Array {
  // columns: for each j the places above it
  const start = new Int32Array(n + 1);
  for (let e = 0; e < rows.list.length; e++) start[rows.list[e]! + 1]!++;
  for (let j = 0; j < n; j++) start[j + 1]! += start[j]!;
  const fill = start.slice(0, n);
  const column = new Int32Array(rows.list.length);
  for (let k = 0; k < n; k++) for (let e = rows.start[k]!; e < rows.start[k + 1]!; e++) column[fill[rows.list[e]!]!++] = k;

  const first = new Int32Array(n).fill(-1);
  const delta = new Int32Array(n);
  for (let k = 0; k < n; k++) {
    let j = k;
    delta[j] = first[j] === -1 ? 1 : 0;
    while (j !== -1 && first[j] === -1) {
      first[j] = k;
      j = parent[j]!;
    }
  }
  const maxFirst = new Int32Array(n).fill(-1);
  const previousLeaf = new Int32Array(n).fill(-1);
  const ancestor = new Int32Array(n);
  for (let j = 0; j < n; j++) ancestor[j] = j;
  for (let j = 0; j < n; j++) {
    if (parent[j] !== -1) delta[parent[j]!]!--;
    for (let e = start[j]!; e < start[j + 1]!; e++) {
      const i = column[e]!;
      if (first[j]! <= maxFirst[i]!) continue;
      maxFirst[i] = first[j]!;
      const before = previousLeaf[i]!;
      previousLeaf[i] = j;
      delta[j]!++;
      if (before === -1) continue;
      let root = before;
      while (root !== ancestor[root]) root = ancestor[root]!;
      for (let s = before; s !== root;) {
        const up = ancestor[s]!;
        ancestor[s] = root;
        s = up;
      }
      delta[root]!--;
    }
    if (parent[j] !== -1) ancestor[j] = parent[j]!;
  }
  for (let j = 0; j < n; j++) if (parent[j] !== -1) delta[parent[j]!]! += delta[j]!;
  return delta;
}

/** May a child be merged into its parent? `zeros` of `total` entries would be stored for nothing. */
function worthMerging(columns: number, zeros: number, total: number): boolean {
  if (columns <= 4) return true;
  if (columns <= 24) return zeros <= 0.5 * total;
  if (columns <= 64) return zeros <= 0.15 * total;
  return zeros <= 0.05 * total;
}

/** Fundamental supernodes, then a last child merged into its parent while few zeros are added. Returns starts of fronts. */
function relaxedFronts(n: number, parent: Int32Array, counts: Int32Array): Int32Array {
  const childCount = new Int32Array(n);
  for (let j = 0; j < n; j++) if (parent[j]! >= 0) childCount[parent[j]!]!++;
  // a stack of fronts [first column, rows of the front, zeros]; in a postorder a parent's last child lies right before it
  const first: number[] = [];
  const height: number[] = [];
  const zeros: number[] = [];
  for (let j = 0; j < n; j++) {
    const count = counts[j]!;
    if (j > 0 && parent[j - 1] === j && childCount[j] === 1 && counts[j - 1] === count + 1) continue;
    first.push(j);
    height.push(count);
    zeros.push(0);
  }
  first.push(n);
  const outFirst: number[] = [];
  const outHeight: number[] = [];
  const outZeros: number[] = [];
  const outWidth: number[] = [];
  for (let f = 0; f + 1 < first.length; f++) {
    let start = first[f]!;
    let width = first[f + 1]! - start;
    let tall = height[f]!;
    let zero = 0;
    while (outFirst.length > 0) {
      const top = outFirst.length - 1;
      const childWidth = outWidth[top]!;
      const childLast = outFirst[top]! + childWidth - 1;
      const up = parent[childLast]!;
      if (childLast + 1 !== start || up < start || up >= start + width) break;
      const mergedTall = tall + childWidth;
      const extra = outZeros[top]! + zero + (mergedTall - outHeight[top]!) * childWidth;
      const mergedWidth = width + childWidth;
      const total = mergedTall * mergedWidth - (mergedWidth * (mergedWidth - 1)) / 2;
      if (!worthMerging(mergedWidth, extra, total)) break;
      start = outFirst[top]!;
      width = mergedWidth;
      tall = mergedTall;
      zero = extra;
      outFirst.pop();
      outHeight.pop();
      outZeros.pop();
      outWidth.pop();
    }
    outFirst.push(start);
    outWidth.push(width);
    outHeight.push(tall);
    outZeros.push(zero);
  }
  outFirst.push(n);
  return Int32Array.from(outFirst);
}

function frontStructure(pattern: SymmetricPattern, place: Int32Array, parentPlain: Int32Array, frontStart: Int32Array): Symbolic {
  const n = pattern.size;
  const frontCount = frontStart.length - 1;
  const frontOf = new Int32Array(n);
  for (let s = 0; s < frontCount; s++) frontOf.fill(s, frontStart[s]!, frontStart[s + 1]!);
  const parent = new Int32Array(frontCount).fill(-1);
  const childStart = new Int32Array(frontCount + 1);
  for (let s = 0; s < frontCount; s++) {
    const up = parentPlain[frontStart[s + 1]! - 1]!;
    if (up >= 0) {
      parent[s] = frontOf[up]!;
      childStart[parent[s]! + 1]!++;
    }
  }
  for (let s = 0; s < frontCount; s++) childStart[s + 1]! += childStart[s]!;
  const fill = childStart.slice(0, frontCount);
  const children = new Int32Array(childStart[frontCount]!);
  for (let s = 0; s < frontCount; s++) if (parent[s]! >= 0) children[fill[parent[s]!]!++] = s;

  const above = coupledPlaces(pattern, place, 'above');
  const rowStart = new Int32Array(frontCount + 1);
  let rows = new Int32Array(Math.max(1024, pattern.rows.length * 3));
  let out = 0;
  const seen = new Int32Array(n).fill(-1);
  let factorNonzeros = 0;
  for (let s = 0; s < frontCount; s++) {
    const from = frontStart[s]!;
    const to = frontStart[s + 1]!;
    const base = out;
    rowStart[s] = base;
    const take = (k: number) => {
      if (k < to || seen[k] === s) return;
      seen[k] = s;
      if (out === rows.length) {
        const grown = new Int32Array(rows.length * 2);
        grown.set(rows);
        rows = grown;
      }
      rows[out++] = k;
    };
    for (let j = from; j < to; j++) for (let e = above.start[j]!; e < above.start[j + 1]!; e++) take(above.list[e]!);
    for (let c = childStart[s]!; c < childStart[s + 1]!; c++) {
      const child = children[c]!;
      for (let e = rowStart[child]!; e < rowStart[child + 1]!; e++) take(rows[e]!);
    }
    rows.subarray(base, out).sort();
    rowStart[s + 1] = out;
    const width = to - from;
    factorNonzeros += (width * (width + 1)) / 2 + width * (out - base);
  }
  rows = rows.slice(0, out);

  const rowInParent = new Int32Array(out);
  const at = new Int32Array(n);
  for (let s = 0; s < frontCount; s++) {
    const width = frontStart[s + 1]! - frontStart[s]!;
    for (let e = rowStart[s]!; e < rowStart[s + 1]!; e++) at[rows[e]!] = width + e - rowStart[s]!;
    for (let c = childStart[s]!; c < childStart[s + 1]!; c++) {
      const child = children[c]!;
      for (let e = rowStart[child]!; e < rowStart[child + 1]!; e++) {
        const k = rows[e]!;
        rowInParent[e] = k < frontStart[s + 1]! ? k - frontStart[s]! : at[k]!;
      }
    }
  }
  return { size: n, pattern, place, frontStart, frontCount, rowStart, rows, rowInParent, parent, childStart, children, factorNonzeros };
}

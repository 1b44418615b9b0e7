import { makeFactor } from '../numeric/makeFactor.ts';
import { entryAt, trianglePattern } from '../numeric/pattern.ts';
import { analyse } from '../numeric/symbolic.ts';
import { flatTriangles } from './flatTriangles.ts';
import type { Pins, Prepared } from './prepared.ts';

/**
 * @param positions 3 numbers a vertex
 * @param triangles 3 vertices a triangle
 * @param rank a whole number a vertex, not below 0: eliminate in this order (see `ranks`), which saves finding one. Near the order of nearly the same piece it is as good
 */
export function prepare(positions: Float64Array, triangles: Uint32Array, rank?: ArrayLike<number>): Prepared {
  const vertices = positions.length / 3;
  const pattern = trianglePattern(vertices, triangles);
  const count = triangles.length / 3;
  const entries = new Int32Array(count * 6);
  for (let t = 0; t < count; t++) {
    for (let k = 0; k < 3; k++) {
      entries[t * 6 + k] = pattern.columnStart[triangles[t * 3 + k]!]!;
      entries[t * 6 + 3 + k] = entryAt(pattern, triangles[t * 3 + k]!, triangles[t * 3 + ((k + 1) % 3)]!);
    }
  }
  return {
    vertices,
    positions,
    triangles,
    flat: flatTriangles(positions, triangles),
    symbolic: analyse(pattern, rank ? byRank(rank) : undefined),
    border: borderEdges(triangles, entries, pattern.rows.length),
    entries,
  };
}

/** Vertices by rising rank, those of one rank by number: counted, since ranks are whole numbers of about the mesh's size. */
function byRank(rank: ArrayLike<number>): Int32Array {
  let most = 0;
  for (let v = 0; v < rank.length; v++) most = Math.max(most, rank[v]!);
  const next = new Int32Array(most + 2);
  for (let v = 0; v < rank.length; v++) next[rank[v]! + 1]!++;
  for (let r = 0; r <= most; r++) next[r + 1]! += next[r]!;
  const out = new Int32Array(rank.length);
  for (let v = 0; v < rank.length; v++) out[next[rank[v]!]!++] = v;
  return out;
}

/** Half edges whose edge has only them. */
function borderEdges(triangles: Uint32Array, entries: Int32Array, entryCount: number): Uint32Array {
  const uses = new Int32Array(entryCount);
  const count = triangles.length / 3;
  for (let t = 0; t < count; t++) for (let k = 3; k < 6; k++) uses[entries[t * 6 + k]!]!++;
  const border: number[] = [];
  for (let t = 0; t < count; t++) {
    for (let k = 0; k < 3; k++) {
      if (uses[entries[t * 6 + 3 + k]!] === 1) border.push(triangles[t * 3 + k]!, triangles[t * 3 + ((k + 1) % 3)]!);
    }
  }
  return Uint32Array.from(border);
}

/** Two border vertices that lie far apart (any two far vertices if there is no border). */
export function farBorderPair({ border, positions, vertices }: Prepared): [number, number] {
  const candidates = border.length > 0 ? border : Uint32Array.from({ length: vertices }, (_, k) => k);
  const farFrom = (v: number) => {
    let best = candidates[0]!;
    let far = -1;
    for (const k of candidates) {
      const d =
        (positions[k * 3]! - positions[v * 3]!) ** 2 +
        (positions[k * 3 + 1]! - positions[v * 3 + 1]!) ** 2 +
        (positions[k * 3 + 2]! - positions[v * 3 + 2]!) ** 2;
      if (d > far) {
        far = d;
        best = k;
      }
    }
    return best;
  };
  const a = farFrom(farFrom(candidates[0]!));
  return [a, farFrom(a)];
}

/**
 * Least-squares conformal map with a free border: keeps angles.
 *
 * Source: B. Lévy, S. Petitjean, N. Ray, J. Maillot, "Least Squares Conformal Maps for Automatic Texture Atlas Generation", SIGGRAPH
 * 2002. The energy is written as Dirichlet energy less area (M. Desbrun, M. Meyer, P. Alliez, "Intrinsic Parameterizations of Surface
 * Meshes", Eurographics 2002), so the matrix is the cotangent Laplacian twice plus a term on border edges only. Two border vertices
 * far apart are held, or the pins where there are two and more: then nothing is scaled afterwards.
 *
 * @returns 2 numbers a vertex, scaled so that the flat area equals the area in space; may hold flipped triangles
 * @throws JigError `singular` for pieces that do not hang together
 */
export function conformal(prepared: Prepared, pins?: Pins): Float64Array {
  const { vertices, positions, symbolic, border } = prepared;
  const { pattern } = symbolic;
  const values = laplacianBlocks(prepared);
  for (let k = 0; k < border.length; k += 2) {
    const i = border[k]!;
    const j = border[k + 1]!;
    const e = entryAt(pattern, i, j) * 4;
    // block (row, column) with row > column: [u_row v_column] and [v_row u_column]
    const sign = i > j ? 0.5 : -0.5;
    values[e + 1]! -= sign;
    values[e + 2]! += sign;
  }
  const pinned = pins !== undefined && pins.vertices.length > 1;
  const at = new Map<number, [number, number]>();
  if (pinned) for (let k = 0; k < pins.vertices.length; k++) at.set(pins.vertices[k]!, [pins.places[k * 2]!, pins.places[k * 2 + 1]!]);
  else {
    const held = farBorderPair(prepared);
    const distance = Math.hypot(...[0, 1, 2].map((k) => positions[held[0] * 3 + k]! - positions[held[1] * 3 + k]!)) || 1;
    at.set(held[0], [0, 0]).set(held[1], [distance, 0]);
  }
  const rhs = new Float64Array(vertices * 2);
  hold(prepared, values, rhs, at);
  const factor = makeFactor(symbolic, 2);
  try {
    factor.factorise(values);
    const uv = factor.solve(rhs);
    return pinned ? uv : scaleToArea(prepared, uv);
  } finally {
    factor.release();
  }
}

/** The cotangent Laplacian as 2 × 2 blocks over the pattern (4 numbers an entry). */
function laplacianBlocks({ flat, entries, symbolic }: Prepared): Float64Array {
  const values = new Float64Array(symbolic.pattern.rows.length * 4);
  for (let t = 0; t < flat.count; t++) {
    for (let k = 0; k < 3; k++) {
      // the edge from corner k to k + 1 lies across from corner k + 2
      const w = flat.cot[t * 3 + ((k + 2) % 3)]! / 2;
      const e = entries[t * 6 + 3 + k]! * 4;
      values[e]! -= w;
      values[e + 3]! -= w;
      for (const d of [entries[t * 6 + k]! * 4, entries[t * 6 + ((k + 1) % 3)]! * 4]) {
        values[d]! += w;
        values[d + 3]! += w;
      }
    }
  }
  return values;
}

/** Holds some vertices in place: their rows become the identity, what they pull on goes to the right-hand side. */
function hold({ symbolic }: Prepared, values: Float64Array, rhs: Float64Array, at: Map<number, [number, number]>) {
  const { pattern } = symbolic;
  for (let j = 0; j < pattern.size; j++) {
    const heldColumn = at.get(j);
    for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++) {
      const i = pattern.rows[e]!;
      const heldRow = at.get(i);
      if (!heldRow && !heldColumn) continue;
      const v = values.subarray(e * 4, e * 4 + 4);
      if (i === j) {
        v.set([1, 0, 0, 1]);
        rhs[i * 2] = heldRow![0];
        rhs[i * 2 + 1] = heldRow![1];
        continue;
      }
      if (heldColumn && !heldRow) {
        rhs[i * 2]! -= v[0]! * heldColumn[0] + v[1]! * heldColumn[1];
        rhs[i * 2 + 1]! -= v[2]! * heldColumn[0] + v[3]! * heldColumn[1];
      } else if (heldRow && !heldColumn) {
        rhs[j * 2]! -= v[0]! * heldRow[0] + v[2]! * heldRow[1];
        rhs[j * 2 + 1]! -= v[1]! * heldRow[0] + v[3]! * heldRow[1];
      }
      v.fill(0);
    }
  }
}

/** Sizes a map so that the sum of its triangles' areas is the area in space. */
export function scaleToArea({ flat, triangles }: Prepared, uv: Float64Array): Float64Array {
  let inSpace = 0;
  let onSheet = 0;
  for (let t = 0; t < flat.count; t++) {
    const [a, b, c] = [triangles[t * 3]! * 2, triangles[t * 3 + 1]! * 2, triangles[t * 3 + 2]! * 2];
    inSpace += flat.area[t]!;
    onSheet += Math.abs((uv[b]! - uv[a]!) * (uv[c + 1]! - uv[a + 1]!) - (uv[c]! - uv[a]!) * (uv[b + 1]! - uv[a + 1]!)) / 2;
  }
  const scale = onSheet > 0 ? Math.sqrt(inSpace / onSheet) : 1;
  return uv.map((x) => x * scale);
}

import fc from 'fast-check';
import { Matrix, solve as denseSolve } from 'ml-matrix';
import { describe, expect, it } from 'vitest';
import { Cholesky } from './cholesky.ts';
import { makeFactor } from './makeFactor.ts';
import { minimumDegree } from './minimumDegree.ts';
import { entryAt, patternFromPairs, trianglePattern } from './pattern.ts';
import { seededRandom } from './random.ts';
import { SimdCholesky, simdFits } from './simdCholesky.ts';
import { analyse, type Symbolic } from './symbolic.ts';

const solvers: [string, (symbolic: Symbolic, block: 1 | 2) => Cholesky | SimdCholesky][] = [
  ['plain', (symbolic, block) => new Cholesky(symbolic, block)],
  ['SIMD module', (symbolic, block) => new SimdCholesky(symbolic, block)],
];

/** A random symmetric, diagonally dominant block matrix on a random graph, dense and sparse. */
function randomSystem(size: number, edges: number, block: number, seed: number) {
  const random = seededRandom(seed);
  const pairs: [number, number][] = [];
  for (let k = 0; k < edges; k++) pairs.push([Math.floor(random() * size), Math.floor(random() * size)]);
  const pattern = patternFromPairs(size, pairs);
  const dense = Matrix.zeros(size * block, size * block);
  const values = new Float64Array(pattern.rows.length * block * block);
  for (let j = 0; j < size; j++) {
    for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++) {
      const i = pattern.rows[e]!;
      for (let r = 0; r < block; r++) {
        for (let c = 0; c < block; c++) {
          if (i === j && c > r) continue;
          const value = i === j && r === c ? 4 + (edges / size) * 4 + random() : random() - 0.5;
          dense.set(i * block + r, j * block + c, value);
          dense.set(j * block + c, i * block + r, value);
          values[e * block * block + r * block + c] = value;
          if (i === j) values[e * block * block + c * block + r] = value;
        }
      }
    }
  }
  return { pattern, dense, values };
}

describe.each(solvers)('sparse Cholesky (%s) against a dense library (ml-matrix)', (_name, makeSolver) => {
  it.each([
    [1, 1, 0, 1],
    [5, 6, 1, 2],
    [40, 90, 1, 3],
    [40, 90, 2, 4],
    [120, 200, 2, 5],
    [150, 1500, 1, 6],
  ])('%i vertices, %i couplings, blocks of %i', (size, edges, blockOrZero, seed) => {
    const block = blockOrZero === 2 ? 2 : 1;
    const { pattern, dense, values } = randomSystem(size, edges, block, seed);
    const random = seededRandom(seed + 100);
    const sides = 2;
    const rhs = Float64Array.from({ length: size * block * sides }, () => random() - 0.5);
    const factor = makeSolver(analyse(pattern), block as 1 | 2);
    factor.factorise(values);
    const x = factor.solve(rhs, sides);
    const b = new Matrix(size * block, sides);
    for (let i = 0; i < size * block; i++) for (let s = 0; s < sides; s++) b.set(i, s, rhs[i * sides + s]!);
    const expected = denseSolve(dense, b);
    for (let i = 0; i < size * block; i++) for (let s = 0; s < sides; s++) expect(x[i * sides + s]).toBeCloseTo(expected.get(i, s), 9);
  });

  it('solves random systems of any shape (property)', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 0, max: 200 }), fc.integer({ min: 1, max: 2 }), fc.nat(), (size, edges, block, seed) => {
        const { pattern, dense, values } = randomSystem(size, edges, block, seed);
        const rhs = Float64Array.from({ length: size * block }, (_, i) => Math.sin(i + 1));
        const factor = makeSolver(analyse(pattern), block as 1 | 2);
        factor.factorise(values);
        const x = factor.solve(rhs);
        for (let i = 0; i < size * block; i++) {
          let sum = -rhs[i]!;
          for (let j = 0; j < size * block; j++) sum += dense.get(i, j) * x[j]!;
          expect(Math.abs(sum)).toBeLessThan(1e-10);
        }
      }),
      { numRuns: 60 },
    );
  });

  it('refactorises with new values on the same analysis', () => {
    const { pattern, values } = randomSystem(30, 60, 1, 9);
    const factor = makeSolver(analyse(pattern), 1);
    const rhs = new Float64Array(30).fill(1);
    factor.factorise(values);
    const once = factor.solve(rhs);
    factor.factorise(values.map((v) => v * 2));
    const twice = factor.solve(rhs);
    for (let i = 0; i < 30; i++) expect(twice[i]! * 2).toBeCloseTo(once[i]!, 12);
  });

  it('names a matrix that is not positive definite', () => {
    const pattern = patternFromPairs(2, [[0, 1]]);
    const factor = makeSolver(analyse(pattern), 1);
    expect(() => factor.factorise(Float64Array.from([1, 2, 1]))).toThrow(/cannot be solved/);
  });
});

describe('choice of the solver', () => {
  it('takes the module for all but tiny systems and gives the same numbers as plain code', () => {
    const triangles = heightTriangles(40);
    const symbolic = analyse(trianglePattern(1600, triangles));
    expect(simdFits(symbolic, 2)).toBe(true);
    expect(makeFactor(symbolic, 2)).toBeInstanceOf(SimdCholesky);
    expect(makeFactor(analyse(patternFromPairs(3, [[0, 1]])), 1)).toBeInstanceOf(Cholesky);
    const { pattern } = symbolic;
    const values = Float64Array.from({ length: pattern.rows.length }, (_, e) => -1 + Math.sin(e) / 3);
    for (let j = 0; j < pattern.size; j++) values[pattern.columnStart[j]!] = 9;
    const rhs = Float64Array.from({ length: 3200 }, (_, k) => Math.cos(k));
    const [plain, fast] = [new Cholesky(symbolic, 1), new SimdCholesky(symbolic, 1)];
    plain.factorise(values);
    fast.factorise(values);
    const [a, b] = [plain.solve(rhs, 2), fast.solve(rhs, 2)];
    for (let k = 0; k < a.length; k++) expect(Math.abs(a[k]! - b[k]!)).toBeLessThan(1e-13);
  });

  it('uses the memory of a released factor again without leaving anything of it behind', () => {
    const { pattern, values } = randomSystem(60, 150, 1, 21);
    const rhs = new Float64Array(60).fill(1);
    const first = new SimdCholesky(analyse(pattern), 1);
    first.factorise(values);
    const expected = first.solve(rhs);
    const large = new SimdCholesky(analyse(trianglePattern(1600, heightTriangles(40))), 2);
    large.release();
    first.release();
    const again = new SimdCholesky(analyse(pattern), 1);
    again.factorise(values);
    expect(again.solve(rhs)).toEqual(expected);
  });
});

function heightTriangles(n: number): Uint32Array {
  const triangles: number[] = [];
  for (let y = 0; y + 1 < n; y++) {
    for (let x = 0; x + 1 < n; x++) {
      const a = y * n + x;
      triangles.push(a, a + 1, a + n + 1, a, a + n + 1, a + n);
    }
  }
  return Uint32Array.from(triangles);
}

describe('minimum degree', () => {
  const grid = (n: number) => trianglePattern(n * n, heightTriangles(n));

  it('gives each vertex one place', () => {
    const order = minimumDegree(grid(30));
    expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: 900 }, (_, i) => i));
  });

  it('fills in far less than the natural order on a grid', () => {
    const symbolic = analyse(grid(60));
    // a band matrix in natural order stores about n · (width + 1) = 3600 · 61
    expect(symbolic.factorNonzeros).toBeLessThan(0.55 * 3600 * 61);
  });
});

describe('patterns', () => {
  it('finds entries of the lower triangle from either side', () => {
    const pattern = patternFromPairs(4, [
      [3, 1],
      [1, 3],
      [0, 2],
    ]);
    expect(pattern.rows.length).toBe(6);
    expect(entryAt(pattern, 1, 3)).toBe(entryAt(pattern, 3, 1));
    expect(entryAt(pattern, 0, 1)).toBe(-1);
  });
});

import { trianglePattern } from './pattern.ts';
import { seededRandom } from './random.ts';
import { analyse } from './symbolic.ts';

/** The Laplacian of a grid of triangles with a little on its diagonal, in blocks; and a right-hand side by chance. For tests. */
export function bumpySystem(side: number, block: 1 | 2) {
  const triangles: number[] = [];
  for (let i = 0; i + 1 < side; i++)
    for (let j = 0; j + 1 < side; j++) {
      const a = i * side + j;
      triangles.push(a, a + 1, a + side, a + 1, a + side + 1, a + side);
    }
  const pattern = trianglePattern(side * side, Uint32Array.from(triangles));
  const diagonal = new Float64Array(pattern.size).fill(0.01);
  const values = new Float64Array(pattern.rows.length * block * block);
  for (let j = 0; j < pattern.size; j++) {
    for (let e = pattern.columnStart[j]! + 1; e < pattern.columnStart[j + 1]!; e++) {
      diagonal[j]!++;
      diagonal[pattern.rows[e]!]!++;
    }
  }
  for (let j = 0; j < pattern.size; j++)
    for (let e = pattern.columnStart[j]!; e < pattern.columnStart[j + 1]!; e++)
      for (let k = 0; k < block * block; k++)
        values[e * block * block + k] = (e === pattern.columnStart[j] ? diagonal[j]! : -1) * (k % (block + 1) === 0 ? 1 : 0.3);
  const random = seededRandom(3);
  return { symbolic: analyse(pattern), values, rhs: Float64Array.from({ length: pattern.size * block }, () => random() - 0.5) };
}

import type { Noise } from './layer.ts';

/**
 * A hash of three whole numbers, 0 to 2³² − 1: the pcg3d of M. Jarzynski, M. Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020 (from memory);
 * whole-number arithmetic alone, so that it is the same on every machine.
 */
export function hash3(x: number, y: number, z: number): number {
  let a = (Math.imul(x, 1664525) + 1013904223) | 0;
  let b = (Math.imul(y, 1664525) + 1013904223) | 0;
  let c = (Math.imul(z, 1664525) + 1013904223) | 0;
  a = (a + Math.imul(b, c)) | 0;
  b = (b + Math.imul(c, a)) | 0;
  c = (c + Math.imul(a, b)) | 0;
  a ^= a >>> 16;
  b ^= b >>> 16;
  c ^= c >>> 16;
  a = (a + Math.imul(b, c)) | 0;
  return a >>> 0;
}

const lattice = (x: number, y: number, z: number, seed: number) => hash3(x + seed * 101, y, z) / 4294967295;
const smooth = (t: number) => t * t * t * (t * (t * 6 - 15) + 10);

/** The last cell that was asked for, and the values at its eight corners: neighbouring places mostly share it. One for each octave's turn. */
const keptCells = 8;
const cellAt = new Float64Array(keptCells * 4).fill(NaN);
const cellValues = new Float64Array(keptCells * 8);

/** Values at whole places, smoothly in between (value noise with K. Perlin's fade, 2002). 0 to 1. */
function valueNoise(x: number, y: number, z: number, seed: number, octave: number): number {
  const i = Math.floor(x);
  const j = Math.floor(y);
  const k = Math.floor(z);
  const kept = octave % keptCells;
  const at = kept * 4;
  const values = kept * 8;
  if (cellAt[at] !== i || cellAt[at + 1] !== j || cellAt[at + 2] !== k || cellAt[at + 3] !== seed) {
    cellAt[at] = i;
    cellAt[at + 1] = j;
    cellAt[at + 2] = k;
    cellAt[at + 3] = seed;
    for (let corner = 0; corner < 8; corner++) cellValues[values + corner] = lattice(i + (corner & 1), j + ((corner >> 1) & 1), k + (corner >> 2), seed);
  }
  const u = smooth(x - i);
  const v = smooth(y - j);
  const w = smooth(z - k);
  let sum = 0;
  for (let corner = 0; corner < 8; corner++)
    sum += ((corner & 1) !== 0 ? u : 1 - u) * ((corner & 2) !== 0 ? v : 1 - v) * ((corner & 4) !== 0 ? w : 1 - w) * cellValues[values + corner]!;
  return sum;
}

/** Of a place in units, 0 to 1, about 0.5 on the mean; each finer layer has half the weight of the one before. */
export function noiseAt({ seed, size, detail }: Noise, x: number, y: number, z: number): number {
  let sum = 0;
  let all = 0;
  let weight = 1;
  let scale = 1 / size;
  for (let octave = 0; octave < detail; octave++) {
    sum += weight * valueNoise(x * scale, y * scale, z * scale, seed + octave, octave);
    all += weight;
    weight /= 2;
    scale *= 2;
  }
  return sum / all;
}

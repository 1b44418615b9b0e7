import { describe, expect, it } from 'vitest';
import { heightField, hemisphere } from '../mesh/starterForms.ts';
import { topologyOf } from '../mesh/topology.ts';
import { cut } from '../seams/cut.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { borderCrossings, borderSegments } from './borderCrossings.ts';
import { coarseStart } from './coarseStart.ts';
import { conformal, prepare } from './conformal.ts';
import type { Prepared } from './prepared.ts';
import { isometric, stretchEnergy } from './isometric.ts';
import { pieceOf } from './piece.ts';
import { flipCount, nearStart, solveIsland } from './solveIsland.ts';

const areaOf = ({ flat }: Prepared) => flat.area.reduce((sum, a) => sum + a, 0);
const bumps = heightField(70, 70, (u, v) => [u, v, 0.12 * Math.sin(9 * u) * Math.cos(7 * v) + 0.2 * u * v]);
const bumpsPiece = pieceOf(bumps, emptyUvSet(bumps), 0);
/** A stair that winds on two and a half times: laid freely it lies over itself. */
const coil = heightField(160, 8, (u, v) => {
  const turn = u * 2.6 * 2 * Math.PI;
  const r = 1 + 0.25 * v;
  return [Math.cos(turn) * r, 0.12 * turn, Math.sin(turn) * r];
});
const coilPiece = pieceOf(coil, emptyUvSet(coil), 0);

describe('a start from a coarser piece', () => {
  it.each([
    ['bumps', bumpsPiece],
    ['a half ball', pieceOf(hemisphere(1, 40), emptyUvSet(hemisphere(1, 40)), 0)],
    ['nearly a whole ball, hard to lay', pieceOf(hemisphere(1, 60, 2.9), emptyUvSet(hemisphere(1, 60, 2.9)), 0)],
  ])('%s: no flip, and within some per cent of the end; the end is the same as from the conformal map', (_, piece) => {
    const prepared = prepare(piece.positions, piece.triangles);
    const near = nearStart(prepared)!;
    expect(near).not.toBeNull();
    expect(flipCount(piece.triangles, near)).toBe(0);
    const far = isometric(prepared, conformal(prepared), { tolerance: 1e-9 });
    const end = far.energies.at(-1)!;
    expect(stretchEnergy(prepared, near) / areaOf(prepared)).toBeLessThan(end * 1.03);
    const result = isometric(prepared, near, { tolerance: 1e-9, near: true });
    expect(result.energies.at(-1)!).toBeCloseTo(end, 5);
    expect(result.energies.findIndex((e) => e < end * 1.001)).toBeLessThanOrEqual(far.energies.findIndex((e) => e < end * 1.001));
  });

  it('a long strip, all border, has none, and is held apart all the same', () => {
    const strip = heightField(500, 1, (u, v) => [Math.cos(u * 16) * (1 + 0.1 * v), 0.05 * u * 16, Math.sin(u * 16) * (1 + 0.1 * v)]);
    const piece = pieceOf(strip, emptyUvSet(strip), 0);
    const prepared = prepare(piece.positions, piece.triangles);
    expect(coarseStart(piece.positions, piece.triangles, prepared.border, 100, () => new Float64Array(0), true)).toBeNull();
    const held = solveIsland({ ...piece, method: 'isometric', apart: true, apartSteps: 30 });
    expect(held.flips).toBe(0);
  });

  it('small and closed pieces have none', () => {
    const small = heightField(4, 4, (u, v) => [u, v, 0]);
    const piece = pieceOf(small, emptyUvSet(small), 0);
    expect(nearStart(prepare(piece.positions, piece.triangles))).toBeNull();
  });

  it('what lies nowhere over itself coarsely does not when all its points are back', () => {
    const { positions, triangles } = coilPiece;
    const prepared = prepare(positions, triangles);
    const lay = (p: Float64Array, t: Uint32Array) => {
      const coarse = solveIsland({ positions: p, triangles: t, method: 'isometric', apart: true });
      expect(borderCrossings(borderSegments(prepare(p, t), coarse.uv))).toEqual([]);
      return coarse.uv;
    };
    const straight = coarseStart(positions, triangles, prepared.border, 300, lay, true)!;
    expect(flipCount(triangles, straight)).toBe(0);
    expect(borderCrossings(borderSegments(prepared, straight))).toEqual([]);
    const held = solveIsland({ positions, triangles, method: 'isometric', apart: true });
    expect(held.flips).toBe(0);
    expect(borderCrossings(borderSegments(prepared, held.uv))).toEqual([]);
    // known to lie over itself: the same end without trying
    const sure = solveIsland({ positions, triangles, method: 'isometric', apart: true, over: true });
    expect(borderCrossings(borderSegments(prepared, sure.uv))).toEqual([]);
    expect(Math.abs(sure.energy / held.energy - 1)).toBeLessThan(0.1);
  });

  it('the same of a saddle with many slits, whose sides lie over one another when laid freely', () => {
    const n = 64;
    const saddle = heightField(n, n, (u, v) => [u - 0.5, v - 0.5, 2.2 * ((u - 0.5) ** 2 - (v - 0.5) ** 2)]);
    const { edgeCount, edgePoints } = topologyOf(saddle);
    // slits along every eighth row, from both sides to near the middle
    const slits = Array.from({ length: edgeCount }, (_, e) => e).filter((e) => {
      const [p, q] = [edgePoints[e * 2]!, edgePoints[e * 2 + 1]!];
      const row = Math.floor(p / (n + 1));
      return row === Math.floor(q / (n + 1)) && row % 8 === 4 && Math.abs((p % (n + 1)) + 0.5 - n / 2) > 6;
    });
    const { set } = cut(saddle, emptyUvSet(saddle), slits);
    const piece = pieceOf(saddle, set, 0);
    const prepared = prepare(piece.positions, piece.triangles);
    expect(borderCrossings(borderSegments(prepared, solveIsland({ ...piece, method: 'isometric' }).uv)).length).toBeGreaterThan(0);
    const lay = (p: Float64Array, t: Uint32Array) => solveIsland({ positions: p, triangles: t, method: 'isometric', apart: true }).uv;
    const straight = coarseStart(piece.positions, piece.triangles, prepared.border, 900, lay, true)!;
    expect(borderCrossings(borderSegments(prepared, straight))).toEqual([]);
    expect(flipCount(piece.triangles, straight)).toBe(0);
    const held = solveIsland({ ...piece, method: 'isometric', apart: true });
    expect(borderCrossings(borderSegments(prepared, held.uv))).toEqual([]);
    expect(held.energy).toBeLessThan(4.6);
  });

  it('keep shapes goes on beyond its first steps where nothing turns over', () => {
    const gentle = solveIsland({ ...bumpsPiece, method: 'rigid' });
    expect(gentle).toMatchObject({ putRight: false, flips: 0 });
    expect(gentle.steps).toBeGreaterThan(8);
  });

  it('gives up where the coarse piece cannot be laid, and stops when told', () => {
    const { positions, triangles } = bumpsPiece;
    const { border } = prepare(positions, triangles);
    expect(coarseStart(positions, triangles, border, 500, () => null)).toBeNull();
    let calls = 0;
    const check = () => {
      if (++calls > 3) throw new Error('stopped');
    };
    expect(() => coarseStart(positions, triangles, border, 500, (p, t) => conformal(prepare(p, t)), false, check)).toThrow('stopped');
  });
});

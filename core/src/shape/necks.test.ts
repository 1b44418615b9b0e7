import { describe, expect, it } from 'vitest';
import { activeSet, newJob, type Part } from '../job/job.ts';
import { meshFromFaces } from '../mesh/mesh.ts';
import { runOperation } from '../ops/registry.ts';
import { cut } from '../seams/cut.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { neckCuts } from './necks.ts';

/** A flat piece of square cells, each of `fine` × `fine` quads: # is one. On the sheet as it is on the model. */
function cells(rows: readonly string[], fine: number, wide = 1) {
  const numbers = new Map<string, number>();
  const points: number[] = [];
  const at = (x: number, y: number) => {
    const key = `${x} ${y}`;
    if (!numbers.has(key)) {
      numbers.set(key, points.length / 3);
      points.push(x / fine, y / fine, 0);
    }
    return numbers.get(key)!;
  };
  const faces: number[][] = [];
  rows.forEach((row, r) =>
    [...row].forEach((cell, c) => {
      if (cell !== '#') return;
      for (let i = 0; i < fine; i++)
        for (let j = 0; j < fine; j++) {
          const [x, y] = [c * fine + i, (rows.length - 1 - r) * fine + j];
          faces.push([at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y + 1)]);
        }
    }),
  );
  const mesh = meshFromFaces(points, faces);
  const uv = Float64Array.from({ length: (points.length / 3) * 2 }, (_, k) => points[Math.floor(k / 2) * 3 + (k % 2)]! / (k % 2 === 0 ? 20 * wide : 20));
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

/** Faces of each piece as its cells: a box by its sides, area over box. */
function piecesAfter({ mesh, set }: ReturnType<typeof cells>, edges: number[]) {
  const after = cut(mesh, set, edges).set;
  const { count, start, faces } = islandsOf(mesh, after);
  return Array.from({ length: count }, (_, i) => {
    const corners = [...faces.subarray(start[i], start[i + 1])].flatMap((f) => Array.from({ length: 4 }, (_, k) => mesh.corners[mesh.faceStart[f]! + k]!));
    const xs = corners.map((p) => mesh.points[p * 3]!);
    const ys = corners.map((p) => mesh.points[p * 3 + 1]!);
    return { wide: Math.max(...xs) - Math.min(...xs), tall: Math.max(...ys) - Math.min(...ys), faces: start[i + 1]! - start[i]! };
  });
}

const cross = ['...#...', '...#...', '...#...', '#######', '...#...', '...#...', '...#...'];
const ring = ['########', '#......#', '#......#', '#......#', '########'];

describe('cuts at the necks of an island', () => {
  it.each([2, 5])('take the arms off a cross, one beam left whole (%i quads a cell)', (fine) => {
    const piece = cells(cross, fine);
    const { edges, pieces, before, after } = neckCuts(piece.mesh, piece.set, 0, { aspect: 1 });
    // by hand: 13 cells in a hull of 31, then three rectangles
    expect(before).toBeCloseTo(13 / 31, 6);
    expect(after).toBeCloseTo(1, 6);
    expect(pieces).toBe(3);
    expect(edges).toHaveLength(2 * fine);
    expect(
      piecesAfter(piece, edges)
        .map(({ wide, tall }) => [Math.min(wide, tall), Math.max(wide, tall)])
        .sort((a, b) => a[1]! - b[1]!),
    ).toEqual([
      [1, 3],
      [1, 3],
      [1, 7],
    ]);
  });

  it('open a frame into pieces that are disks and fill their hulls', () => {
    const piece = cells(ring, 3);
    const { edges, pieces, before, after } = neckCuts(piece.mesh, piece.set, 0, { aspect: 1 });
    expect(before).toBeCloseTo(22 / 40, 6);
    expect(after).toBeGreaterThan(0.7);
    const set = cut(piece.mesh, piece.set, edges).set;
    expect(islandFacts(piece.mesh, set).map(({ shape }) => shape)).toEqual(Array.from({ length: pieces }, () => 'disk'));
    expect(pieces).toBeGreaterThan(1);
    // no more is cut than parts something: fewer edges than twice the cells across each
    expect(edges.length).toBeLessThanOrEqual((pieces + 1) * 3 * 2);
  });

  it('are the same on a mirrored island of many border points', () => {
    const piece = cells(cross, 24);
    const mirrored = { ...piece.set, uv: piece.set.uv.map((x, k) => (k % 2 === 0 ? -x : x)) };
    for (const set of [piece.set, mirrored]) {
      const found = neckCuts(piece.mesh, set, 0, { aspect: 1 });
      expect(found.pieces).toBe(3);
      expect(found.after).toBeGreaterThan(0.95);
    }
  });

  it('leave what is compact as it is, and go by the sheet’s proportions', () => {
    for (const rows of [['########'], ['####', '####', '####'], ['##', '#.', '##']]) {
      const piece = cells(rows, 3);
      expect(neckCuts(piece.mesh, piece.set, 0, { aspect: 1, enough: 0.5 })).toMatchObject({ edges: [], pieces: 1 });
    }
    // the same picture on a sheet twice as wide
    const [plain, wide] = [cells(cross, 2), cells(cross, 2, 2)];
    const found = neckCuts(wide.mesh, wide.set, 0, { aspect: 2 });
    expect(found).toEqual(neckCuts(plain.mesh, plain.set, 0, { aspect: 1 }));
  });
});

describe('the operation', () => {
  const job = () => {
    const { mesh, set } = cells(cross, 2);
    const part: Part = { id: 'a', name: 'A', mesh, uvSets: [set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
    return newJob('j', 'j', [part]);
  };

  it('cuts what is selected and moves no UV point', async () => {
    const start = job();
    const chosen = (await runOperation(start, 'select', { kind: 'faces', ids: [0] })).job;
    const { job: next, sentence } = await runOperation(chosen, 'cutNecks', {});
    expect(sentence).toBe('Cut 1 island at its necks into 3 pieces: 42 → 100 % of the hull filled');
    const [was, now] = [activeSet(start.parts[0]!), activeSet(next.parts[0]!)];
    for (let c = 0; c < was.cornerUv.length; c++) for (const k of [0, 1]) expect(now.uv[now.cornerUv[c]! * 2 + k]).toBe(was.uv[was.cornerUv[c]! * 2 + k]);
  });

  it('says so where there is no neck, no selection, or no such island', async () => {
    await expect(runOperation(job(), 'cutNecks', {})).rejects.toThrow('No island is selected.');
    await expect(runOperation(job(), 'cutNecks', { islands: [3] })).rejects.toThrow('has no island 3');
    await expect(runOperation(job(), 'cutNecks', { islands: [0], enough: 0.3 })).rejects.toThrow('no necks');
  });
});

import { describe, expect, it } from 'vitest';
import { useBench } from '../../store/bench.ts';
import { frameSelection } from './framing.ts';
import type { Stage } from './stage.ts';

/** A stage with a part of one triangle, and another beside it on the sheet; what its eyes are asked to frame. */
function stageWith(shown: string[]) {
  const framed: { places: number[]; flat: number[] } = { places: [], flat: [] };
  const stage = {
    geometry: {
      part: 'own',
      faces: 1,
      points: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      corners: Uint32Array.of(0, 1, 2),
      faceStart: Uint32Array.of(0, 3),
      bounds: [0, 0, 0, 1, 1, 0],
    },
    layout: { cornerUv: Float32Array.of(0.1, 0.1, 0.2, 0.1, 0.1, 0.2), faceIsland: Int32Array.of(0), islands: [], allUnplaced: false },
    tiles: 1,
    rects: { model: { width: 100, height: 100 }, sheet: { width: 100, height: 100 } },
    moved: {},
    eye: { distance: 1, frame: (places: ArrayLike<number>) => (framed.places = [...Array.from(places)]) },
    sheetEye: { frame: (flat: number[]) => (framed.flat = flat) },
    shownContexts: () => shown.map((part) => ({ part })),
    shownSheetParts: () => [
      { part: 'other', cornerUv: Float32Array.of(0.7, 0.7, 0.9, 0.8), border: Uint32Array.of(0, 1, 1, 0), borderIsland: Uint32Array.of(3, 3), islands: [] },
    ],
    invalidate: () => {},
  } as unknown as Stage;
  return { stage, framed };
}
const select = (selection: object, alsoMarks: object[] = []) => useBench.setState({ summary: { selection, alsoMarks } } as never);
const reach = (places: number[]) =>
  [0, 1, 2].map((d) => places.filter((_, k) => k % 3 === d)).map((xs) => [Math.min(...xs), Math.max(...xs)].map((x) => Math.round(x) + 0));

describe('bringing the selection into view', () => {
  it('frames what is selected of other parts with what is of the one at work', () => {
    const { stage, framed } = stageWith(['other']);
    const marks = [{ part: 'other', kind: 'points', corners: Uint32Array.of(0, 1), model: Float32Array.of(20, 0, 0, 30, 5, 0) }];
    select({ part: 'own', kind: 'points', ids: Uint32Array.of(0), also: [{ part: 'other', ids: Uint32Array.of(0, 1) }] }, marks);
    frameSelection(stage);
    expect(reach(framed.places)[0]).toEqual([0, 30]);
    expect(framed.flat.map((x) => x.toFixed(2))).toEqual(['-0.07', '-0.07', '1.07', '0.97']);
  });

  it('only what is selected of another part, by the borders of its islands; without those places where it is not shown on the model', () => {
    const marks = [{ part: 'other', kind: 'islands', corners: new Uint32Array(0), model: Float32Array.of(20, 0, 0, 30, 5, 0) }];
    const nothing = { part: 'own', kind: 'islands', ids: new Uint32Array(0), also: [{ part: 'other', ids: Uint32Array.of(3) }] };
    const { stage, framed } = stageWith(['other']);
    select(nothing, marks);
    frameSelection(stage);
    expect(reach(framed.places)[0]).toEqual([20, 30]);
    expect(framed.flat.map((x) => x.toFixed(2))).toEqual(['0.65', '0.65', '0.95', '0.85']);
    const away = stageWith([]);
    frameSelection(away.stage);
    expect(reach(away.framed.places)).toEqual([
      [0, 1],
      [0, 1],
      [0, 0],
    ]);
  });

  it('everything where nothing is selected', () => {
    const { stage, framed } = stageWith(['other']);
    select({ part: 'own', kind: 'faces', ids: new Uint32Array(0) });
    frameSelection(stage);
    expect(framed.flat).toEqual([0, 0, 1, 1]);
    expect(stage.moved).toEqual({ model: false, sheet: false });
  });
});

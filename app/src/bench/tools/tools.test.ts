import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { useBench } from '../../store/bench.ts';
import { useShown } from '../../store/shown.ts';
import type { LayoutView, UvPreview } from '../../session/messages.ts';
import { imageHasPointer, ImageTool, useImageGrip } from './imageTool.ts';
import { useFielding } from '../hands/fielding.ts';
import type { Stage } from '../views/stage.ts';
import { usePacking } from '../packing.ts';
import { AreaTool } from './areaTool.ts';
import { AtWorkTool } from './atWorkTool.ts';
import { FieldTool } from './fieldTool.ts';
import { PenTool } from './penTool.ts';
import { pinAt, PinTool } from './pinTool.ts';
import { RelaxTool } from './relaxTool.ts';
import { SelectTool } from './selectTool.ts';
import type { PointerAt } from './tool.ts';

/** What the tools ask of the session, and answers that a test gives when it likes. */
const session = vi.hoisted(() => ({
  ran: [] as [string, unknown][],
  asked: [] as { question: unknown[]; answer: (with_: unknown) => void }[],
  regions: [] as unknown[],
}));
vi.mock('../../worker/client.ts', () => {
  const ask = (...question: unknown[]) => new Promise((answer) => session.asked.push({ question, answer }));
  return {
    run: (name: string, params: unknown) => (session.ran.push([name, params]), Promise.resolve({ ok: true, sentence: '', report: {} })),
    step: (_name: string, work: (live: boolean) => unknown) => Promise.resolve(work(false)),
    takeRegion: (take: unknown) => (session.regions.push(take), Promise.resolve()),
    notify: () => {},
    coreApi: () => ({
      pen: ask,
      movePins: ask,
      loop: ask,
      under: ask,
      endPins: () => Promise.resolve(),
      relaxRegion: (region: unknown) => (session.regions.push(region), Promise.resolve({ ok: true })),
      takeRegion: (take: unknown) => (session.regions.push(take), Promise.resolve({ ok: true })),
    }),
  };
});

const settled = () => new Promise((next) => setTimeout(next, 0));
const answer = async (k: number, with_: unknown) => {
  session.asked[k]!.answer(with_);
  await settled();
};
const hit = (more: object = {}) =>
  ({ face: 0, edge: 3, point: 1, island: 0, place: { x: 0, y: 0, z: 0 }, ...more }) as unknown as NonNullable<PointerAt['hit']>;
const picker = {
  beside: () => null,
  viewOf: (view: string) => ({ view }),
  uvAt: (x: number, y: number) => [x / 100, y / 100],
} as unknown as PointerAt['picker'];
const at = (x: number, y: number, more: Partial<PointerAt> = {}): PointerAt => ({
  view: 'model',
  picker,
  x,
  y,
  hit: hit(),
  shift: false,
  ctrl: false,
  ...more,
});
const bench = () => useBench.getState();

beforeEach(() => {
  session.ran.length = session.asked.length = session.regions.length = 0;
  useBench.setState({ kind: 'edges', shape: 'box', through: false, drawn: null, notices: [], penEdges: new Uint32Array(0), pinMoving: null, layout: null });
  useShown.setState({ uvs: null, placement: null, jig: null });
  useImageGrip.setState({ grip: null });
});

describe('the seam pen', () => {
  it('shows what the stroke would cut while it is drawn, and cuts it when it is lifted: one step', async () => {
    const pen = new PenTool();
    pen.down(at(0, 0));
    pen.move(at(10, 0));
    await answer(0, Uint32Array.of(4, 5));
    expect([...bench().penEdges]).toEqual([4, 5]);
    pen.up(at(20, 0));
    await answer(1, Uint32Array.of(4, 5, 6));
    expect(session.ran).toEqual([['cut', { edges: [4, 5, 6] }]]);
    expect(bench().penEdges).toHaveLength(0);
  });

  it('asks one question at a time, then the newest stroke alone', async () => {
    const pen = new PenTool();
    pen.down(at(0, 0));
    for (let x = 10; x <= 60; x += 10) pen.move(at(x, 0));
    expect(session.asked).toHaveLength(1);
    await answer(0, Uint32Array.of(1));
    expect(session.asked).toHaveLength(2);
    // six places were moved to, and the first press
    expect((session.asked[1]!.question[0] as Float64Array).length).toBe(7 * 3);
  });

  it('makes whole with Ctrl; small tremors add nothing to the stroke', async () => {
    const pen = new PenTool();
    pen.down(at(0, 0, { ctrl: true }));
    pen.move(at(2, 0));
    expect(session.asked).toHaveLength(0);
    pen.up(at(30, 0));
    await answer(0, Uint32Array.of(9));
    expect(session.ran).toEqual([['uncut', { edges: [9] }]]);
  });

  it('a stroke that is dropped leaves nothing, also when its answer comes late', async () => {
    const pen = new PenTool();
    pen.down(at(0, 0));
    pen.move(at(10, 0));
    pen.cancel();
    await answer(0, Uint32Array.of(4));
    expect(bench().penEdges).toHaveLength(0);
    pen.up(at(20, 0));
    await settled();
    expect(session.ran).toEqual([]);
  });

  it('says so where a stroke finds no edge, and begins on the model alone', async () => {
    const pen = new PenTool();
    pen.down(at(0, 0, { hit: null }));
    pen.up(at(20, 0));
    expect(session.asked).toHaveLength(0);
    pen.down(at(0, 0));
    pen.up(at(1, 0));
    await answer(0, new Uint32Array(0));
    expect(session.ran).toEqual([]);
    expect(bench().notices.at(-1)!.text).toContain('too short');
  });
});

describe('a tool for the part at work, pressed on another part', () => {
  const calls: [string, number, unknown][] = [];
  const inner = {
    down: ({ x, hit: under }: PointerAt) => void calls.push(['down', x, under]),
    move: ({ x, hit: under }: PointerAt) => void calls.push(['move', x, under]),
    up: ({ x, hit: under }: PointerAt) => void calls.push(['up', x, under]),
    cancel: () => void calls.push(['cancel', 0, null]),
  };
  const now = hit({ face: 7 });
  const other = { part: 'other', island: -1, triangle: 3, corner: -1 };
  const beside = (found: typeof other | null) => ({ ...picker, beside: () => found, model: () => now }) as unknown as PointerAt['picker'];
  const on = (x: number, found: typeof other | null = other) => at(x, 0, { hit: found ? null : hit(), picker: beside(found) });
  const arrives = (activePart: string) => useBench.setState({ summary: { activePart }, geometry: { part: activePart }, layout: { part: activePart } } as never);
  const waited = () => new Promise((next) => setTimeout(next, 60));
  beforeEach(() => {
    calls.length = 0;
    useBench.setState({ summary: { activePart: 'own' }, geometry: null, layout: null, hoverOther: null } as never);
  });
  afterEach(() => useBench.setState({ summary: null, geometry: null, layout: null, hoverOther: null }));

  it('brings that part to work and does there what the pointer did meanwhile', async () => {
    const tool = new AtWorkTool(inner);
    tool.down(on(1));
    tool.move(on(2));
    tool.up(on(3));
    await settled();
    expect([session.ran, calls]).toEqual([[['activatePart', { part: 'other' }]], []]);
    // what is under the pointer is in sight already
    expect(bench().hoverOther).toEqual({ part: 'other', island: -1 });
    arrives('other');
    await waited();
    expect(calls).toEqual([
      ['down', 1, now],
      ['move', 2, now],
      ['up', 3, now],
    ]);
  });

  it('is the tool itself on the part at work', () => {
    const tool = new AtWorkTool(inner);
    tool.down(on(1, null));
    tool.up(on(2, null));
    expect(session.ran).toEqual([]);
    expect(calls.map(([what]) => what)).toEqual(['down', 'up']);
  });

  it('does nothing more once Escape was pressed, another press came, or another part came to work', async () => {
    const tool = new AtWorkTool(inner);
    tool.down(on(1));
    tool.cancel();
    arrives('other');
    await waited();
    expect(calls.map(([what]) => what)).toEqual(['cancel']);
    tool.down(on(1));
    tool.down(on(5, null));
    await waited();
    expect(calls.slice(1).map(([what, x]) => [what, x])).toEqual([['down', 5]]);
    useBench.setState({ summary: { activePart: 'own' } } as never);
    tool.down(on(1));
    arrives('other');
    useBench.setState({ geometry: { part: 'own' } } as never);
    await settled();
    arrives('own');
    await waited();
    expect(calls).toHaveLength(2);
  });
});

describe('a click on another part', () => {
  const parts = ['own', 'other', 'far'].map((id) => ({ id, sheet: id === 'far' ? 's2' : 's1' }));
  const click = (part: string, island: number, more: Partial<PointerAt> = {}) => {
    const under = { part, island, triangle: 3, corner: -1 };
    const from = { ...picker, beside: () => under, model: () => hit({ face: 7 }) } as unknown as PointerAt['picker'];
    const there = at(1, 1, { hit: null, picker: from, ...more });
    const tool = new SelectTool();
    tool.down(there);
    tool.up(there);
  };
  const selection = { part: 'own', kind: 'islands', ids: Uint32Array.of(2) };
  beforeEach(() =>
    useBench.setState({ kind: 'islands', summary: { activePart: 'own', parts, selection, selectedParts: [] }, showSelection: () => {} } as never),
  );
  afterEach(() => useBench.setState({ summary: null }));

  it('chooses its island beside; with Shift to what is chosen of the part at work', async () => {
    click('other', 5);
    await vi.waitFor(() => expect(session.ran).toHaveLength(1));
    expect(session.ran[0]).toEqual(['select', { kind: 'islands', ids: [], also: [{ part: 'other', ids: Uint32Array.of(5) }] }]);
    click('other', 5, { shift: true });
    await vi.waitFor(() => expect(session.ran).toHaveLength(2));
    expect(session.ran[1]).toEqual(['select', { kind: 'islands', ids: [2], also: [{ part: 'other', ids: Uint32Array.of(5) }] }]);
  });

  it('is a step before the click returns, so that a drag takes hold of what it chose', () => {
    click('other', 5);
    expect(session.ran.map(([name]) => name)).toEqual(['select']);
  });

  it('asks the session which island it is where the view does not know', async () => {
    click('other', -1);
    await vi.waitFor(() => expect(session.asked).toHaveLength(1));
    expect(session.asked[0]!.question[0]).toMatchObject({ part: 'other', kind: 'islands', triangle: 3 });
    await answer(0, { part: 'other', island: 4 });
    expect(session.ran).toEqual([['select', { kind: 'islands', ids: [], also: [{ part: 'other', ids: Uint32Array.of(4) }] }]]);
  });

  it('brings one of another sheet to work', async () => {
    click('far', -1);
    await vi.waitFor(() => expect(session.ran).toHaveLength(1));
    expect(session.ran[0]).toEqual(['activatePart', { part: 'far' }]);
  });
});

describe('the polygon that packing goes into', () => {
  const stage = {
    rects: { sheet: { left: 0, top: 0, width: 100, height: 100 } },
    sheetEye: { toPx: (u: number, v: number) => [u * 100, v * 100], toUv: (x: number, y: number) => [x / 100, y / 100] },
  } as unknown as ConstructorParameters<typeof AreaTool>[0];
  const on = (x: number, y: number) => at(x, y, { view: 'sheet' });
  const click = (tool: AreaTool, x: number, y: number) => {
    tool.down(on(x, y));
    tool.up(on(x, y));
  };
  beforeEach(() => usePacking.setState({ polygon: [], isDrawn: true }));

  it('is drawn by clicks and closed by one on its first corner; a click beside a closed one changes nothing', () => {
    const tool = new AreaTool(stage);
    for (const [x, y] of [
      [10, 10],
      [90, 10],
      [50, 150],
    ] as const)
      click(tool, x, y);
    expect(usePacking.getState()).toMatchObject({
      polygon: [
        [0.1, 0.1],
        [0.9, 0.1],
        [0.5, 1],
      ],
      isDrawn: true,
    });
    click(tool, 12, 11);
    expect(usePacking.getState().isDrawn).toBe(false);
    click(tool, 40, 40);
    expect(usePacking.getState().polygon).toHaveLength(3);
  });

  it('corners of a closed one are dragged; Escape in the middle of it puts the corner back', () => {
    const tool = new AreaTool(stage);
    usePacking.setState({
      polygon: [
        [0.1, 0.1],
        [0.9, 0.1],
        [0.5, 0.9],
      ],
      isDrawn: false,
    });
    const drag = (end: 'up' | 'cancel') => {
      tool.down(on(50, 90));
      tool.move(on(60, 80));
      tool.move(on(70, 60));
      if (end === 'up') tool.up(on(70, 60));
      else tool.cancel();
      return usePacking.getState().polygon![2];
    };
    expect(drag('cancel')).toEqual([0.5, 0.9]);
    expect(drag('up')).toEqual([0.7, 0.6]);
    expect(usePacking.getState().isDrawn).toBe(false);
  });
});

describe('pins', () => {
  const layout = { pins: [{ point: 7, corner: 1 }], cornerUv: Float32Array.of(0, 0, 0.5, 0.5) } as unknown as LayoutView;
  const stage = {
    rects: { sheet: { left: 0, top: 0, width: 100, height: 100 } },
    sheetEye: { toPx: (u: number, v: number) => [u * 100, v * 100], toUv: (x: number, y: number) => [x / 100, y / 100] },
  } as unknown as ConstructorParameters<typeof PinTool>[0];
  const preview = { meshId: 1 } as unknown as UvPreview;

  it('are found under the pointer, by their head too', () => {
    useBench.setState({ layout });
    expect([pinAt(stage, 52, 51), pinAt(stage, 50, 36), pinAt(stage, 80, 50)]).toEqual([7, 7, -1]);
  });

  it('the island follows while a pin is dragged; letting go moves it in one step', async () => {
    useBench.setState({ layout });
    const pin = new PinTool(stage);
    pin.down(at(50, 50, { view: 'sheet' }));
    pin.move(at(60, 50, { view: 'sheet' }));
    pin.move(at(70, 50, { view: 'sheet' }));
    expect(bench().pinMoving).toMatchObject({ point: 7, u: 0.7 });
    await answer(0, preview);
    expect(useShown.getState().uvs?.preview).toBe(preview);
    pin.up(at(70, 60, { view: 'sheet' }));
    await settled();
    expect(session.ran).toEqual([['movePins', { points: [7], places: [0.7, expect.closeTo(0.6, 9)] }]]);
    expect([useShown.getState().uvs, bench().pinMoving]).toEqual([null, null]);
  });

  it('Escape puts the pin back: no step, and an answer on its way is not shown', async () => {
    useBench.setState({ layout });
    const pin = new PinTool(stage);
    pin.down(at(50, 50, { view: 'sheet' }));
    pin.move(at(60, 50, { view: 'sheet' }));
    pin.cancel();
    await answer(0, preview);
    pin.up(at(70, 50, { view: 'sheet' }));
    await settled();
    expect(session.ran).toEqual([]);
    expect([useShown.getState().uvs, bench().pinMoving]).toEqual([null, null]);
  });

  it('a press that moves by a px is none', async () => {
    useBench.setState({ layout });
    const pin = new PinTool(stage);
    pin.down(at(50, 50, { view: 'sheet' }));
    pin.up(at(51, 50, { view: 'sheet' }));
    await settled();
    expect(session.ran).toEqual([]);
  });
});

describe('the relaxing brush', () => {
  it('shows its stroke and relaxes what is under it when it is lifted', () => {
    useBench.setState({ brush: 12 });
    const relax = new RelaxTool();
    relax.down(at(0, 0));
    relax.move(at(5, 0));
    relax.move(at(5, 9, { view: 'sheet' }));
    expect(bench().drawn).toEqual({ view: 'model', region: { shape: 'brush', points: [0, 0, 5, 0], radius: 12 } });
    relax.up(at(5, 0));
    expect(session.regions).toEqual([{ shape: 'brush', points: [0, 0, 5, 0], radius: 12 }]);
    expect(bench().drawn).toBeNull();
  });

  it('a dot is a stroke, too; a stroke that is dropped is none', () => {
    const relax = new RelaxTool();
    relax.down(at(3, 4));
    relax.up(at(3, 4));
    expect(session.regions).toMatchObject([{ points: [3, 4, 3, 4] }]);
    relax.down(at(3, 4));
    relax.cancel();
    relax.up(at(9, 9));
    expect(session.regions).toHaveLength(1);
    expect(bench().drawn).toBeNull();
  });
});

describe('selecting', () => {
  it('a drag draws a box, and its end takes what lies in it, by the keys held then', () => {
    const select = new SelectTool();
    select.down(at(0, 0));
    select.move(at(3, 3));
    expect(bench().drawn).toBeNull();
    select.move(at(30, 20));
    expect(bench().drawn?.region).toEqual({ shape: 'box', points: [0, 0, 30, 20] });
    select.up(at(30, 20, { shift: true }));
    expect(session.regions).toMatchObject([{ kind: 'edges', mode: 'add', through: false, region: { points: [0, 0, 30, 20] } }]);
    expect(bench().drawn).toBeNull();
  });

  it('a lasso keeps its way; a brush also takes what it passed right over', () => {
    useBench.setState({ shape: 'lasso' });
    const select = new SelectTool();
    select.down(at(0, 0));
    for (const [x, y] of [
      [20, 0],
      [20, 20],
      [0, 20],
    ] as const)
      select.move(at(x, y));
    select.up(at(0, 20, { ctrl: true }));
    expect(session.regions).toMatchObject([{ mode: 'take', region: { shape: 'lasso', points: [0, 0, 20, 0, 20, 20, 0, 20] } }]);
    useBench.setState({ shape: 'brush', brush: 5 });
    select.down(at(0, 0, { hit: hit({ edge: 3 }) }));
    select.move(at(20, 0, { hit: hit({ edge: 8 }) }));
    select.move(at(40, 0, { hit: hit({ edge: 8 }) }));
    select.up(at(40, 0));
    expect(session.regions[1]).toMatchObject({ mode: 'set', touched: [3, 8], region: { shape: 'brush', radius: 5 } });
  });

  it('Escape in the middle of a drag takes nothing', () => {
    const select = new SelectTool();
    select.down(at(0, 0));
    select.move(at(30, 30));
    select.cancel();
    select.up(at(30, 30));
    expect(session.regions).toEqual([]);
    expect(bench().drawn).toBeNull();
  });
});

describe('the image on the model', () => {
  const placement = { repeats: [1, 1], offset: [0, 0], turn: 0, pivot: [0.5, 0.5], mirrorU: false, mirrorV: false, outsideU: 'repeat', outsideV: 'repeat' };
  beforeEach(() => useBench.setState({ summary: { activePart: 'p', parts: [{ id: 'p', placement }] } as never }));

  it('has the pointer while a grip is chosen', () => {
    expect(imageHasPointer()).toBe(false);
    useImageGrip.setState({ grip: 'slide' });
    expect(imageHasPointer()).toBe(true);
  });

  it('is shown where it is dragged to, and kept there in one step', async () => {
    useImageGrip.setState({ grip: 'slide' });
    const tool = new ImageTool();
    tool.down(at(10, 10));
    tool.move(at(30, 10));
    expect(useShown.getState().placement!.offset[0]).not.toBe(0);
    tool.up(at(10, 10));
    expect(session.ran).toMatchObject([['placeImage', { what: 'slid', placement: { turn: 0 } }]]);
    await settled();
    expect(useShown.getState().placement).toBeNull();
  });

  it('goes back on Escape; a press without a drag changes nothing', () => {
    useImageGrip.setState({ grip: 'turn' });
    const tool = new ImageTool();
    tool.down(at(10, 10));
    tool.move(at(30, 60));
    tool.cancel();
    tool.up(at(10, 10));
    tool.down(at(10, 10));
    tool.up(at(10, 10));
    expect(session.ran).toEqual([]);
    expect(useShown.getState().placement).toBeNull();
  });
});

describe('fields drawn on the sheet', () => {
  // 100 px a sheet, v upwards
  const stage = { rects: { sheet: { width: 100, height: 100 } }, sheetEye: { toUv: (x: number, y: number) => [x / 100, 1 - y / 100] } } as unknown as Stage;
  const on = (x: number, y: number) => at(x, y, { view: 'sheet' });
  const draw = (tool: FieldTool, from: [number, number], to: [number, number]) => {
    tool.down(on(...from));
    tool.move(on(...to));
    tool.up(on(...to));
  };
  const fields = () => (useFielding.getState().fields ?? []).map((field) => field.map((x) => Number(x.toFixed(6))));
  beforeEach(() => useFielding.setState({ fields: null, unused: new Set() }));

  it('a drag is a field, whichever way it goes, cut off at the sheet; they are numbered as they read; a click takes one away', () => {
    const tool = new FieldTool(stage);
    draw(tool, [90, 95], [60, 60]);
    expect(bench().drawn).toBeNull();
    draw(tool, [10, 10], [40, 30]);
    draw(tool, [-20, 50], [30, 80]);
    expect(fields()).toEqual([
      [0.1, 0.7, 0.4, 0.9],
      [0, 0.2, 0.3, 0.5],
      [0.6, 0.05, 0.9, 0.4],
    ]);
    useFielding.setState({ unused: new Set([1]) });
    draw(tool, [20, 20], [22, 21]);
    expect(fields()).toEqual([
      [0, 0.2, 0.3, 0.5],
      [0.6, 0.05, 0.9, 0.4],
    ]);
    expect(useFielding.getState().unused.size).toBe(0);
  });

  it('Escape in the middle of a drag, a press on the model, a drag beside the sheet and a click on nothing draw none', () => {
    const tool = new FieldTool(stage);
    tool.down(on(10, 10));
    tool.move(on(50, 50));
    expect(bench().drawn).not.toBeNull();
    tool.cancel();
    expect(bench().drawn).toBeNull();
    tool.up(on(50, 50));
    tool.down(at(10, 10));
    tool.up(at(50, 50));
    draw(tool, [-50, 10], [-20, 40]);
    draw(tool, [50, 50], [50, 50]);
    expect(fields()).toEqual([]);
  });
});

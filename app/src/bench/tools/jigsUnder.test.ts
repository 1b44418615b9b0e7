import { beforeEach, describe, expect, it, vi } from 'vitest';
import { makeJig } from '@jig-peel/core';
import { useBench } from '../../store/bench.ts';
import { useShown } from '../../store/shown.ts';
import { useJigs } from '../jigs.ts';
import type { Ray } from '../views/jigShape.ts';
import { JigTool } from './jigTool.ts';
import { entersFrame, jigsUnder } from './jigsUnder.ts';
import type { PointerAt } from './tool.ts';

const session = vi.hoisted(() => ({ ran: [] as [string, unknown][] }));
vi.mock('../../worker/client.ts', () => ({
  run: (name: string, params: unknown) => (session.ran.push([name, params]), Promise.resolve({ ok: true, sentence: '', report: {} })),
  notify: () => {},
  coreApi: () => ({}),
}));

const row = (id: string, origin: [number, number, number], size: [number, number, number] = [2, 2, 2], more: object = {}) => ({
  id,
  name: id,
  drives: [],
  state: 'off',
  jig: makeJig({ kind: 'box', origin, size, ...more }),
});
/** Looks down the z axis at a place. */
const down = (x: number, y: number): Ray => ({ from: [x, y, 10], along: [0, 0, -1] });
const names = (rows: { id: string }[]) => rows.map(({ id }) => id);

describe('jigs under the pointer', () => {
  it('are those whose frames the line of sight goes through, nearest first', () => {
    const rows = [row('far', [0, 0, -4]), row('near', [0.5, 0, 3]), row('beside', [5, 0, 0])];
    expect(names(jigsUnder(rows, down(0, 0)))).toEqual(['near', 'far']);
    expect(names(jigsUnder(rows, down(5.9, 0.9)))).toEqual(['beside']);
    expect(names(jigsUnder(rows, down(0, 1.1)))).toEqual([]);
    expect(entersFrame(rows[1]!, down(0, 0))).toBeCloseTo(6, 12);
  });

  it('behind the eye are none; around it they count', () => {
    expect(names(jigsUnder([row('behind', [0, 0, 14]), row('around', [0, 0, 10])], down(0, 0)))).toEqual(['around']);
    expect(entersFrame(row('around', [0, 0, 10]), down(0, 0))).toBe(0);
  });

  it('turned frames are met as they stand, flat ones too', () => {
    // a square turned by an eighth reaches √2 along the axes
    const turned = row('turned', [0, 0, 0], [2, 2, 2], { right: [Math.SQRT1_2, Math.SQRT1_2, 0], up: [-Math.SQRT1_2, Math.SQRT1_2, 0] });
    expect(entersFrame(turned, down(1.4, 0))).toBeLessThan(Infinity);
    expect(entersFrame(turned, down(0.8, 0.8))).toBe(Infinity);
    expect(entersFrame(row('flat', [0, 0, 0], [2, 2, 1e-6]), down(0.9, 0))).toBeCloseTo(10, 2);
  });

  it('that stand in one place come in the order of the list', () => {
    expect(names(jigsUnder([row('a', [0, 0, 0]), row('b', [0, 0, 0.0005]), row('c', [0, 0, 1])], down(0, 0)))).toEqual(['c', 'a', 'b']);
  });
});

describe('a click while the pointer takes the jig', () => {
  const picker = {
    sight: (x: number, y: number) => down(x / 100, y / 100),
    facing: () => ({ place: [1, 2, 3], out: [0, 0, 1] }),
  } as unknown as PointerAt['picker'];
  const at = (x: number, y: number) => ({ view: 'model', picker, x, y, hit: null, shift: false, ctrl: false }) as PointerAt;
  const click = (x: number, y: number, to = x) => {
    const tool = new JigTool();
    tool.down(at(x, y));
    if (to !== x) tool.move(at(to, y));
    tool.up(at(to, y));
  };
  const chosen = () => useJigs.getState().chosen;
  const said = () => useBench.getState().notices.at(-1)?.text;

  beforeEach(() => {
    session.ran.length = 0;
    const jigs = [row('hull', [0, 0, 0]), row('deck', [0, 0, 0]), row('mast', [0, 0, 0]), row('away', [5, 0, 0])];
    useBench.setState({ notices: [], station: 'jigs', summary: { jigs, activePart: 'part-1' } } as never);
    useShown.setState({ jig: null });
    useJigs.setState({ chosen: 'hull', takes: 'jig', placing: null });
  });

  it('steps through the jigs that stand in one place, round again, and says which it is', () => {
    click(0, 0);
    expect(chosen()).toBe('hull');
    expect(said()).toBe('hull is in hand, 1 of 3 here: click again for the next.');
    click(2, 1);
    expect([chosen(), said()]).toEqual(['deck', 'deck is in hand, 2 of 3 here: click again for the next.']);
    click(0, 0);
    click(0, 0);
    expect(chosen()).toBe('hull');
    // elsewhere it begins with the nearest
    click(0, 0);
    click(500, 0);
    expect([chosen(), said()]).toEqual(['away', 'away is in hand.']);
    click(300, 0);
    expect([chosen(), said()]).toEqual(['away', 'No jig stands here: click on its frame, or choose it from the list.']);
    expect(session.ran).toEqual([]);
  });

  it('moves nothing; a drag slides the jig in hand, and takes no other', () => {
    click(0, 0, 2);
    expect([session.ran, useShown.getState().jig]).toEqual([[], null]);
    useJigs.setState({ chosen: 'deck' });
    click(0, 0, 40);
    expect(chosen()).toBe('deck');
    expect(session.ran.map(([name, params]) => [name, (params as { id: string; jig: { origin: number[] } }).id])).toEqual([['changeJig', 'deck']]);
  });
});

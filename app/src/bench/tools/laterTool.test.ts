import { describe, expect, it } from 'vitest';
import { LaterTool } from './laterTool.ts';
import type { PointerAt, Tool } from './tool.ts';

const at = (x: number) => ({ x }) as PointerAt;

function tool() {
  const done: string[] = [];
  const own: Tool = {
    down: ({ x }) => done.push(`down ${x}`),
    move: ({ x }) => done.push(`move ${x}`),
    up: ({ x }) => done.push(`up ${x}`),
    cancel: () => done.push('cancel'),
  };
  return { own, done };
}

describe('a tool that is fetched when it is needed', () => {
  it('does what the pointer did meanwhile, in order, once; it is fetched once', async () => {
    const { own, done } = tool();
    let asked = 0;
    const later = new LaterTool(() => {
      asked++;
      return Promise.resolve(own);
    });
    later.down(at(1));
    later.move(at(2));
    expect(done).toEqual([]);
    await later.fetch();
    later.up(at(3));
    expect(done).toEqual(['down 1', 'move 2', 'up 3']);
    expect(asked).toBe(1);
  });

  it('what is cancelled while it is fetched is not done; one that could not be fetched is tried again', async () => {
    const { own, done } = tool();
    let fails = true;
    const later = new LaterTool(() => (fails ? Promise.reject(new Error('no network')) : Promise.resolve(own)));
    later.down(at(1));
    await later.fetch();
    fails = false;
    later.down(at(2));
    later.cancel();
    await later.fetch();
    expect(done).toEqual([]);
    later.down(at(3));
    expect(done).toEqual(['down 3']);
  });
});

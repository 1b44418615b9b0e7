// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';

const load = async () => {
  vi.resetModules();
  return import('./swatches.ts');
};

describe('kept colours', () => {
  beforeEach(() => localStorage.clear());
  afterEach(() => vi.unstubAllGlobals());

  it('last from page to page, the newest first, each once, up to 24', async () => {
    const first = await load();
    for (const colour of ['#A8743C', '#000000', '#a8743c']) first.keepSwatch(colour);
    expect(first.useSwatches.getState().colours).toEqual(['#a8743c', '#000000']);
    const next = await load();
    expect(next.useSwatches.getState().colours).toEqual(['#a8743c', '#000000']);
    for (let k = 0; k < 30; k++) next.keepSwatch(`#0000${(k + 16).toString(16)}`);
    expect(next.useSwatches.getState().colours).toHaveLength(24);
    expect(next.useSwatches.getState().colours[0]).toBe('#00002d');
    next.forgetSwatch('#00002d');
    expect((await load()).useSwatches.getState().colours[0]).toBe('#00002c');
  });

  it.each(['{', '[1]', '["red"]', '{"a":1}', 'null'])('of a damaged list (%s) none is taken', async (text) => {
    localStorage.setItem('jig-peel swatches', text);
    expect((await load()).useSwatches.getState().colours).toEqual([]);
  });

  it('a colour from the screen, or none after Escape', async () => {
    const { canPick, pickColour } = await load();
    expect(canPick()).toBe(false);
    vi.stubGlobal(
      'EyeDropper',
      class {
        open = () => Promise.resolve({ sRGBHex: '#C0FFEE' });
      },
    );
    expect([canPick(), await pickColour()]).toEqual([true, '#c0ffee']);
    vi.stubGlobal(
      'EyeDropper',
      class {
        open = () => Promise.reject(new DOMException('left', 'AbortError'));
      },
    );
    expect(await pickColour()).toBeNull();
  });
});

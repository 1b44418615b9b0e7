import { beforeEach, describe, expect, it } from 'vitest';
import { commandWith, defaultKeys, hotkeyOf, keyFromEvent, keysOf, useKeys } from './keyTable.ts';

const pressed = (key: string, code: string, held: Partial<Record<'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey', boolean>> = {}) =>
  keyFromEvent({ key, code, ctrlKey: false, metaKey: false, shiftKey: false, altKey: false, ...held });

beforeEach(() => useKeys.getState().reset());

describe('keys', () => {
  it('one that is given away leaves the command that had it', () => {
    useKeys.getState().give('pen', 'J');
    expect(keysOf('pen')).toEqual(['J']);
    expect(keysOf('join')).toEqual([]);
    expect(commandWith('J')).toBe('pen');
    expect(commandWith('E')).toBeUndefined();
    useKeys.getState().give('join', 'J');
    expect(keysOf('pen')).toEqual([]);
    useKeys.getState().reset();
    expect(keysOf('pen')).toEqual(['E']);
  });

  it('of two keys of a command only the one that is given away goes', () => {
    useKeys.getState().give('cut', 'Ctrl+Y');
    expect(keysOf('redo')).toEqual(['Ctrl+Shift+Z']);
  });

  it('one can be taken off', () => {
    useKeys.getState().takeOff('cut');
    expect(keysOf('cut')).toEqual([]);
  });

  it('letters go by what is printed on them, everything else by its place; every key of the table can be pressed', () => {
    expect(hotkeyOf('Shift+X')).toEqual({ keys: ['shift+x'], byCode: false });
    expect(hotkeyOf('=')).toEqual({ keys: ['equal', 'numpadadd'], byCode: true });
    expect(hotkeyOf('Ctrl+Enter')).toEqual({ keys: ['mod+enter'], byCode: true });
    expect(pressed('x', 'KeyX', { shiftKey: true })).toBe('Shift+X');
    expect(pressed('!', 'Digit1', { shiftKey: true })).toBe('Shift+1');
    expect(pressed('?', 'Slash', { shiftKey: true })).toBe('?');
    expect(pressed('Escape', 'Escape')).toBe('Esc');
    expect(pressed('z', 'KeyY', { metaKey: true })).toBe('Ctrl+Z');
    expect(pressed('Dead', 'Quote')).toBeNull();
    for (const keys of Object.values(defaultKeys)) for (const key of keys) expect(hotkeyOf(key).keys.every((one) => /^[a-z?+0-9]+$/.test(one))).toBe(true);
  });
});

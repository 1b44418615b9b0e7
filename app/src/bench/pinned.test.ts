// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest';
import { useBench } from '../store/bench.ts';
import { pinPicture, placePinned, togglePinned, unpinPicture, usePinned } from './pinned.ts';

const open = (id: string) => useBench.setState({ summary: { id } as never });
const { getState: now } = usePinned;

describe('pinned pictures', () => {
  beforeEach(() => {
    localStorage.clear();
    useBench.setState({ summary: null });
    open('one');
  });

  it('belong to a job, and are there again when it is opened again', () => {
    pinPicture('a');
    placePinned('a', { left: 40, bottom: 50, width: 300 });
    togglePinned();
    open('two');
    expect(now()).toEqual({ pins: [], isHidden: false });
    open('one');
    expect(now()).toEqual({ pins: [{ image: 'a', left: 40, bottom: 50, width: 300 }], isHidden: true });
    // another one pinned is seen at once
    pinPicture('b');
    expect(now().isHidden).toBe(false);
    unpinPicture('a');
    unpinPicture('b');
    expect(localStorage).toHaveLength(0);
  });

  it('stand side by side, each once, six at the most, of a size that can be seen', () => {
    for (const image of ['a', 'b', 'a']) pinPicture(image);
    expect(now().pins.map(({ image, left }) => [image, left])).toEqual([
      ['b', 200],
      ['a', 388],
    ]);
    for (let k = 0; k < 9; k++) pinPicture(`${k}`);
    expect(now().pins.map(({ image }) => image)).toEqual(['3', '4', '5', '6', '7', '8']);
    placePinned('8', { left: -20, width: 1 });
    expect(now().pins.at(-1)).toMatchObject({ left: 0, width: 60 });
  });

  it('what is kept and damaged is passed over', () => {
    for (const text of [
      '{',
      '[]',
      '{"pins":7}',
      '{"pins":[{"image":"a"},{"image":"a","left":0,"bottom":0,"width":1e9},{"image":3,"left":0,"bottom":0,"width":99}]}',
    ]) {
      localStorage.setItem('jig-peel pinned three', text);
      open('three');
      expect(now(), text).toEqual({ pins: [], isHidden: false });
      open('one');
    }
  });
});

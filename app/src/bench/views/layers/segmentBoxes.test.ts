import { describe, expect, it } from 'vitest';
import { segmentBoxes } from './segmentBoxes.ts';

const two = Float32Array.of(0, 0, 0, 3, 4, 0, 3, 4, 0, 3, 4, 12);

describe('boxes of segments', () => {
  it('have four corners each that know both ends, and two triangles that are seen from before', () => {
    const geometry = segmentBoxes(two, false);
    const [start, end] = [geometry.getAttribute('start'), geometry.getAttribute('end')];
    expect(start.count).toBe(8);
    for (let corner = 0; corner < 8; corner++) {
      const of = Math.floor(corner / 4) * 6;
      expect([start.getX(corner), start.getY(corner), start.getZ(corner)]).toEqual([...two.subarray(of, of + 3)]);
      expect([end.getX(corner), end.getY(corner), end.getZ(corner)]).toEqual([...two.subarray(of + 3, of + 6)]);
    }
    const index = [...geometry.getIndex()!.array];
    expect(index).toHaveLength(12);
    expect(Math.max(...index.slice(0, 6))).toBe(3);
    expect(index.slice(6)).toEqual(index.slice(0, 6).map((c) => c + 4));
    // a corner's lowest bit is its side, right of the way from start to end, the next one its end: as the shader has it
    const place = (c: number) => [(c & 1) * 2 - 1, (c & 2) - 1] as const;
    for (let t = 0; t < 6; t += 3) {
      const [[ax, ay], [bx, by], [cx, cy]] = [place(index[t]!), place(index[t + 1]!), place(index[t + 2]!)];
      expect((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)).toBe(4);
    }
    expect(geometry.hasAttribute('distances')).toBe(false);
  });

  it('tell dashes how far both ends are along all segments', () => {
    const distances = segmentBoxes(two, true).getAttribute('distances');
    expect(Array.from({ length: 8 }, (_, c) => [distances.getX(c), distances.getY(c)])).toEqual([...Array(4).fill([0, 5]), ...Array(4).fill([5, 17])]);
  });

  it('share what is the same for all, whether few come after many or many after few', () => {
    const many = segmentBoxes(new Float32Array(6 * 1000), false).getIndex()!;
    expect([many.count, Math.max(...many.array)]).toEqual([6000, 3999]);
    expect(segmentBoxes(two, false).getIndex()!.count).toBe(12);
    expect(Math.max(...segmentBoxes(new Float32Array(6 * 5000), false).getIndex()!.array)).toBe(19_999);
  });
});

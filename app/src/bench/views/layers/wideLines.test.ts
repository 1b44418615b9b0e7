import { Scene } from 'three';
import { describe, expect, it } from 'vitest';
import { WideLines } from './wideLines.ts';

/** Segments of length 1, one above the other. */
const segments = (count: number) => Float32Array.from({ length: count * 6 }, (_, k) => (k % 6 === 3 ? 1 : k % 3 === 1 ? Math.floor(k / 6) : 0));

describe('wide lines', () => {
  it('are drawn thin, without their casing, where there are very many; wide again when they are few', () => {
    const scene = new Scene();
    const lines = new WideLines({ width: 3, casing: 5, order: 7 }).addTo(scene);
    lines.recolor('#ff0000', '#000000');
    lines.set(segments(10));
    expect([lines.top.visible, lines.casing!.visible, lines.thin]).toEqual([true, true, null]);
    lines.set(segments(50_000));
    expect([lines.top.visible, lines.casing!.visible]).toEqual([false, false]);
    expect(lines.thin!.geometry.getAttribute('position').count).toBe(100_000);
    expect([lines.thin!.renderOrder, lines.thin!.material.color.getHexString()]).toEqual([lines.top.renderOrder, 'ff0000']);
    expect(scene.children).toContain(lines.thin);
    lines.recolor('#00ff00', '#000000');
    lines.fade(0.5);
    expect([lines.thin!.material.color.getHexString(), lines.thin!.material.opacity]).toEqual(['00ff00', 0.5]);
    const { thin } = lines;
    lines.set(segments(10));
    expect([lines.top.visible, lines.thin, scene.children.includes(thin!)]).toEqual([true, null, false]);
    lines.set(segments(50_000));
    lines.removeFrom(scene);
    expect(scene.children).toEqual([]);
  });
});

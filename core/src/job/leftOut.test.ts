import { describe, expect, it } from 'vitest';
import { meshFromFaces } from '../mesh/mesh.ts';
import { runOperation } from '../ops/registry.ts';
import { uvSetFrom } from '../uv/uvSet.ts';
import { newJob, type Part } from './job.ts';
import { leftOut, leftOutWords } from './leftOut.ts';
import { repeatsImage } from './repeatsImage.ts';

/** Squares whose lower left corners lie at the given u, v 0.1. */
function squares(...at: number[]): Part {
  const mesh = meshFromFaces(
    at.flatMap((_, k) => [2 * k, 0, 0, 2 * k + 1, 0, 0, 2 * k + 1, 1, 0, 2 * k, 1, 0]),
    at.map((_, k) => [4 * k, 4 * k + 1, 4 * k + 2, 4 * k + 3]),
  );
  const uv = Float64Array.from(at.flatMap((u) => [u, 0.1, u + 0.2, 0.1, u + 0.2, 0.3, u, 0.3]));
  return {
    id: 'p',
    name: 'flags',
    mesh,
    uvSets: [uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv)],
    activeUv: 0,
    imageId: null,
    origin: { kind: 'made' },
  };
}

describe('what is not on the sheet', () => {
  it('is named by letter: waiting in the tray, off the sheet, cut off by its border', () => {
    const part = squares(0.1, -0.5, 1.5, 0.9);
    expect(leftOut([part])).toEqual([{ part: 'p', name: 'flags', islands: 4, waiting: ['B'], outside: ['C', 'D'], unplaced: 0, repeats: false }]);
    expect(leftOutWords(leftOut([part]))).toEqual(['flags: 1 island waits in the tray (B); 2 islands are off the sheet (C, D).']);
    expect(leftOut([squares(0.1, 0.5)])).toEqual([]);
  });

  it('is said by the layout guide, which counts only what shows', async () => {
    const { report, sentence } = await runOperation(newJob('j', 'j', [squares(0.1, -0.5, 1.5, 0.9)]), 'guide', { size: '128' });
    expect(report).toMatchObject({ islands: 2, leftOut: ['flags: 1 island waits in the tray (B); 2 islands are off the sheet (C, D).'] });
    expect(sentence).toMatch(/2 islands\. Left out or cut off: flags/);
  });

  it('an image that goes on outside its borders makes islands beyond the sheet a use of it', () => {
    const part = { ...squares(0.1, 1.5), imageId: 'i' };
    expect(repeatsImage(part)).toBe(true);
    expect(leftOut([part])[0]!.repeats).toBe(true);
    const once = { ...part, placement: { outsideU: 'edge', outsideV: 'repeat' } as never };
    expect(repeatsImage(once)).toBe(false);
  });
});

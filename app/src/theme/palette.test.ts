import { describe, expect, it } from 'vitest';
import { contrast, densityScale, palettes, stretchScale, type Mode } from './palette.ts';

const modes: Mode[] = ['light', 'dark'];

describe.each(modes)('%s theme (WCAG 2.2: text 4.5 : 1, lines that carry meaning 3 : 1)', (mode) => {
  const p = palettes[mode];
  it.each([
    ['ink on paper', p.ink, p.paper, 4.5],
    ['ink on ground', p.ink, p.ground, 4.5],
    ['soft ink on paper', p.inkSoft, p.paper, 4.5],
    ['soft ink on raised', p.inkSoft, p.raised, 4.5],
    ['text on the primary', p.onPrimary, p.primary, 4.5],
    ['primary on paper', p.primary, p.paper, 4.5],
    ['warning on paper', p.warn, p.paper, 4.5],
    ['fault on paper', p.bad, p.paper, 4.5],
    ['good on paper', p.good, p.paper, 4.5],
    ['ruler text on the mat', p.matText, p.mat, 4.5],
    ['sheet edge on the mat', p.sheetEdge, p.mat, 3],
    ['seam on its casing', p.seam, p.seamCasing, 3],
    ['seam on clay', p.seam, p.clay, 3],
    ['outline of the selection on its fill', p.selectedEdge, p.selected, 3],
    ['selection on the mat', p.selected, p.mat, 3],
    ['hover line on its casing', p.hover, p.seamCasing, 3],
  ])('%s', (_name, a, b, least) => {
    expect(contrast(a, b)).toBeGreaterThanOrEqual(least);
  });

  it('a double outline of ink and paper shows on every step of the stretch and density scales', () => {
    for (const step of [...stretchScale, ...densityScale])
      expect(Math.max(contrast(p.selectedEdge, step), contrast(p.seamCasing, step))).toBeGreaterThanOrEqual(3);
  });
});

describe('density scale', () => {
  it('grows lighter step by step, so that it reads without colour', () => {
    const dark = densityScale.map((step) => contrast(step, '#000000'));
    for (let k = 1; k < dark.length; k++) expect(dark[k]!).toBeGreaterThan(dark[k - 1]!);
  });
});

describe('contrast', () => {
  it('is 21 for black on white and 1 for a colour on itself', () => {
    expect(contrast('#000000', '#ffffff')).toBeCloseTo(21, 6);
    expect(contrast('#85285f', '#85285f')).toBe(1);
  });
});

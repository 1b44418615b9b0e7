import { describe, expect, it } from 'vitest';
import { newJob, type Job } from '../job/job.ts';
import { judgedSheets } from '../job/judgedSheets.ts';
import { box, cylinder, plane } from '../mesh/starterForms.ts';
import { meshFromFaces, type Mesh } from '../mesh/mesh.ts';
import { reportHtml, reportJson } from '../formats/checkReport.ts';
import { modelPicture } from '../images/modelPicture.ts';
import { runOperation, type ReportOf } from '../ops/registry.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { densityAt, figureWords, judge, limitFigures, limitKeys, limitsFile, purposeLimits, purposes, type LimitReport, type Limits } from './judge.ts';
import { sightOptionsOf } from '../job/sight.ts';
import { edgeLengths } from '../seams/crease.ts';
import { islandsOf } from '../uv/islands.ts';
import { edgesInState, EdgeState } from '../uv/seamEdges.ts';
import { edgeSight, seamSight } from './seamSight.ts';
import { readLimits } from './limits.ts';
import { limitsSchema } from './limitsSchema.ts';

const none = Object.fromEntries(limitKeys.map((key) => [key, null])) as unknown as Limits;
const report: LimitReport = {
  facesWithoutUv: 0,
  flippedTriangles: 0,
  fanFlips: 2,
  overlapArea: 0.02,
  outsideArea: 1e-12,
  smallestGapPx: 5,
  smallestBorderGapPx: null,
  symmetricDirichlet: 4.2,
  areaDistortionP99: null,
  conformalMean: 1,
  densityMedian: 512,
  densityCV: 0.1,
  coverage: 0.5,
  seamInSight: 3,
  seamLength: 12,
  islands: 7,
};
const jobOf = (...list: { mesh: Mesh; set?: UvSet }[]): Job =>
  newJob(
    'j',
    'A & B <job>',
    list.map(({ mesh, set }, k) => ({
      id: `p${k}`,
      name: `part ${k}`,
      mesh,
      uvSets: [set ?? emptyUvSet(mesh)],
      activeUv: 0,
      imageId: null,
      origin: { kind: 'made' as const },
    })),
  );

describe('limits', () => {
  it('by hand: shares in %, what equals the limit is kept, either diagonal counts for flips', () => {
    expect(limitFigures(report)).toMatchObject({ flips: 2, overlap: 2, outside: 0, gap: 5, coverage: 50, inSight: 25, spread: 10, energy: 4.2 });
    const verdict = (limits: Partial<Limits>) => judge(report, { ...none, ...limits }).map(({ passed }) => passed);
    expect(verdict({ flips: 2 })).toEqual([true]);
    expect(verdict({ flips: 1 })).toEqual([false]);
    expect(verdict({ gap: 5, coverage: 50, density: 512, energy: 4.2, spread: 10 })).toEqual([true, true, true, true, true]);
    expect(verdict({ gap: 5.01, coverage: 50.1, density: 513, energy: 4.19, spread: 9.9 })).toEqual([false, false, false, false, false]);
    expect(judge(report, none)).toEqual([]);
  });

  it('a figure that is not to be had breaks its limit, but for a gap without a neighbour', () => {
    expect(judge(report, { ...none, size: 2, borderGap: 8, grain: 5 }).map(({ key, passed }) => [key, passed])).toEqual([
      ['borderGap', true],
      ['size', false],
      ['grain', true],
    ]);
    expect(judge(report, { ...none, grain: 5 }, { grain: 6, jumps: null })[0]!.passed).toBe(false);
  });

  it('jumps of the picture are asked for only where a part has one; limits kept before there was this one do not ask', () => {
    const asked = (jumps: number | null) => judge(report, { ...none, continuity: 10 }, { grain: null, jumps }).map(({ figure, passed }) => [figure, passed]);
    expect([asked(null), asked(10), asked(10.1)]).toEqual([[[null, true]], [[10, true]], [[10.1, false]]]);
    const { continuity: _, ...before } = purposeLimits.repeating;
    expect(limitsSchema.parse(before)).toEqual({ ...before, continuity: null });
  });

  it('each purpose has a whole set of them, which a file keeps', () => {
    for (const purpose of purposes) {
      const limits = purposeLimits[purpose];
      expect(limitsSchema.parse(limits)).toEqual(limits);
      expect(readLimits(limitsFile(limits, purpose))).toEqual({ name: purpose, limits });
    }
    // what a file leaves out is not asked for
    expect(readLimits('{"jigPeelLimits":1,"limits":{"gap":4}}')).toEqual({ name: 'Limits', limits: { ...none, gap: 4 } });
  });

  it.each([
    ['no JSON', 'gap: 4', /no JSON/],
    ['another file', '{"name":"x"}', /no limits/],
    ['an unknown limit', '{"jigPeelLimits":1,"limits":{"weight":4}}', /no limits/],
    ['no number', '{"jigPeelLimits":1,"limits":{"gap":"8"}}', /no limits/],
    ['less than nothing', '{"jigPeelLimits":1,"limits":{"gap":-1}}', /no limits/],
  ])('%s is refused', (_, text, words) => expect(() => readLimits(text)).toThrow(words));

  it('a texel a line at a distance: a screen of 1080 lines seen at 50° from 10 units spans 2 · 10 · tan 25° = 9.326 units', () => {
    expect(densityAt(10)).toBeCloseTo(1080 / 9.3262, 2);
    expect(densityAt(20)).toBeCloseTo(densityAt(10) / 2, 9);
  });

  it('figures as they are read', () => {
    expect([
      figureWords('gap', 12),
      figureWords('energy', 4.2034),
      figureWords('overlap', 0.01234),
      figureWords('spread', 12.345),
      figureWords('size', null),
    ]).toEqual(['12 px', '4.20', '0.012 %', '12.3 %', '–']);
  });
});

describe('limits of a job', () => {
  it('a purpose sets them, single ones are changed, a distance asks for density; what is so already is said', async () => {
    let { job } = await runOperation(jobOf({ mesh: box() }), 'setLimits', { purpose: 'repeating' });
    expect(job.settings.limits).toEqual(purposeLimits.repeating);
    ({ job } = await runOperation(job, 'setLimits', { limits: { gap: 3 } }));
    expect(job.settings.limits).toEqual({ ...purposeLimits.repeating, gap: 3 });
    ({ job } = await runOperation(job, 'setLimits', { distance: 10 }));
    expect(job.settings.limits.density).toBeCloseTo(115.8, 1);
    await expect(runOperation(job, 'setLimits', { distance: 10 })).rejects.toThrow(/already/);
    ({ job } = await runOperation(job, 'setLimits', { distance: null }));
    expect(job.settings.limits.density).toBeNull();
    ({ job } = await runOperation(job, 'limitsFile', { text: limitsFile({ ...none, islands: 3 }) }));
    expect(job.settings.limits).toEqual({ ...none, islands: 3 });
  });

  const placesOf = async (job: Job, limit: string, part = 'p0') =>
    ((await runOperation(job, 'offenders', { limit, part })).report as ReportOf<'offenders'>).list;

  it('the places that break one: turned-over faces in patches, the largest first', async () => {
    const mesh = plane(6, 1, 6, 1);
    const uv = mesh.points.filter((_, k) => k % 3 !== 2).map((x, k) => (k % 2 === 0 ? x / 8 + 0.5 : x / 8 + 0.5));
    const set = uvSetFrom(mesh, 'UV', mesh.corners.slice(), Float64Array.from(uv));
    // the third column of points goes beyond the fifth: the quads between run backwards
    for (const p of [3, 10]) set.uv[p * 2] = 0.5 + 2.5 / 8;
    const list = await placesOf(jobOf({ mesh, set }), 'flips');
    expect(list.length).toBeGreaterThan(0);
    const sizes = list.map(({ ids }) => ids.length);
    expect(sizes).toEqual([...sizes].sort((a, b) => b - a));
    expect(list[0]!.words).toMatch(/^piece A, \d+ faces?$/);
  });

  it('islands off the density, seams in plain sight, faces without UVs, nothing where nothing is wrong', async () => {
    const job = jobOf({ mesh: box(1, 1, 1) });
    expect((await placesOf(job, 'unplaced')).flatMap(({ ids }) => [...ids])).toHaveLength(6);
    let { job: laid } = await runOperation(job, 'firstLayout', { by: 'crease' });
    for (const key of ['unplaced', 'flips', 'overlap', 'outside', 'spread', 'density'] as const) expect(await placesOf(laid, key)).toEqual([]);
    // a cube's edges are all in sight: from around and above the ones below less so
    const seams = await placesOf(laid, 'inSight');
    expect(seams.length).toBeGreaterThan(0);
    expect(seams[0]!.kind).toBe('edges');
    laid = (await runOperation(laid, 'select', { kind: 'islands', ids: [2] })).job;
    laid = (await runOperation(laid, 'transform', { scale: [0.5, 0.5] })).job;
    const uneven = await placesOf(laid, 'spread');
    expect(uneven.map(({ kind, ids }) => [kind, ...ids])).toContainEqual(['islands', 2]);
  });

  it('what two parts of a sheet do to one another: overlaps, narrow gaps and uneven densities have their places, as the figures of the sheet say', async () => {
    const square = (left: number, side: number) => {
      const mesh = plane(1, 1, 1, 1);
      const places = mesh.points.filter((_, k) => k % 3 !== 2).map((x, k) => (k % 2 === 0 ? left : 0.1) + (x + 0.5) * side);
      return { mesh, set: uvSetFrom(mesh, 'UV', mesh.corners.slice(), Float64Array.from(places)) };
    };
    const over = jobOf(square(0.1, 0.3), square(0.3, 0.3));
    expect(judgedSheets(over, none)[0]!.report.overlapArea).toBeCloseTo(0.03, 9);
    for (const part of ['p0', 'p1']) expect((await placesOf(over, 'overlap', part)).map(({ ids }) => [...ids])).toEqual([[0]]);
    const near = jobOf(square(0.1, 0.3), square(0.401, 0.3));
    expect(await placesOf(near, 'overlap')).toEqual([]);
    for (const part of ['p0', 'p1']) expect((await placesOf(near, 'gap', part)).map(({ ids }) => [...ids])).toEqual([[0]]);
    const uneven = jobOf(square(0.1, 0.1), square(0.5, 0.3));
    expect(judgedSheets(uneven, none)[0]!.report.densityCV).toBeGreaterThan(0.4);
    for (const part of ['p0', 'p1']) expect(await placesOf(uneven, 'spread', part)).toHaveLength(1);
    // a part out of sight is left out, as by the figures
    const { job: alone } = await runOperation(over, 'hideParts', { what: 'hide', parts: ['p1'] });
    expect(await placesOf(alone, 'overlap')).toEqual([]);
    // and so do the rules that select, where they are asked of the sheet
    const chosen = async (job: Job, params: Record<string, unknown>) => (await runOperation(job, 'selectBy', params)).job.selection;
    expect([...(await chosen(over, { way: 'overlapping' })).ids]).toEqual([]);
    const found = await chosen(over, { way: 'overlapping', over: 'sheet' });
    expect([[...found.ids], found.also?.map(({ part, ids }) => [part, ...ids])]).toEqual([[0], [['p1', 0]]]);
  });

  it('seams are seen alike whether parts are measured alone or together, with others before them', async () => {
    const far = { ...box(), points: box().points.map((x, k) => (k % 3 === 0 ? x + 1.2 : x)) };
    let job = jobOf({ mesh: box() }, { mesh: far });
    for (const part of ['p0', 'p1']) job = (await runOperation(job, 'firstLayout', { part, by: 'crease' })).job;
    const [first, second] = job.parts as [(typeof job.parts)[0], (typeof job.parts)[0]];
    const together = judgedSheets(job, none)[0]!.report;
    const alone = [first, second].map(({ mesh, uvSets }) =>
      seamSight(
        edgeLengths(mesh),
        edgeSight(mesh, sightOptionsOf(job, mesh === first.mesh ? first : second)),
        edgesInState(islandsOf(mesh, uvSets[0]!).states, EdgeState.seam),
      ),
    );
    expect(together.seamInSight).toBeCloseTo(alone[0]!.seamInSight + alone[1]!.seamInSight, 9);
    // the sides that look at one another are seen less than those of a box that stands alone
    const apart = judgedSheets({ ...job, parts: [first] }, none)[0]!.report;
    expect(alone[0]!.hiddenSeamShare!).toBeGreaterThan(apart.hiddenSeamShare! + 0.03);
  });

  it('parts farther off than one is large do not stand before it', () => {
    const moved = (by: number) => ({ ...box(), points: box().points.map((x, k) => (k % 3 === 0 ? x + by : x)) });
    // boxes of size 1: √3 across
    const job = jobOf({ mesh: box() }, { mesh: moved(2.5) }, { mesh: moved(4) });
    expect(sightOptionsOf(job, job.parts[0]!).blockers).toEqual([job.parts[1]!.mesh]);
  });

  it('every part of a sheet counts, a hidden one does not, a stack is meant', async () => {
    let job = jobOf({ mesh: box() }, { mesh: cylinder(1, 2, 12, 1) });
    job = (await runOperation(job, 'firstLayout', { part: 'p0', by: 'crease' })).job;
    const verdictOf = (one: Job, key: string) => judgedSheets(one, one.settings.limits)[0]!.verdicts.find((verdict) => verdict.key === key)!;
    expect(verdictOf(job, 'unplaced')).toMatchObject({ passed: false, figure: 14 });
    job = (await runOperation(job, 'hideParts', { what: 'hide', parts: ['p1'] })).job;
    expect(verdictOf(job, 'unplaced')).toMatchObject({ passed: true, figure: 0 });
    expect(judgedSheets(job, job.settings.limits)[0]!.parts).toEqual(['part 0']);
    const { job: stacked } = await runOperation(job, 'stack', {});
    expect(verdictOf(stacked, 'overlap')).toMatchObject({ passed: true, figure: 0 });
    for (const key of ['overlap', 'gap']) expect(await placesOf(stacked, key)).toEqual([]);
  });
});

describe('the report', () => {
  it('one HTML file with nothing from elsewhere, names made safe, and the same as JSON', async () => {
    const { job } = await runOperation(jobOf({ mesh: box() }), 'firstLayout', { by: 'crease' });
    const sheets = judgedSheets(job, { ...purposeLimits.paintedFlat, inSight: null, islands: 3 });
    const input = { job: job.name, made: '1 May', sheets, limitsName: 'a <b> set' };
    const html = reportHtml(input);
    expect(html).toContain('A &#38; B &#60;job&#62;');
    expect(html).not.toMatch(/<(script|link|iframe)|https?:\/\/(?!www\.w3\.org)/);
    expect(html).toContain('✗ 1 limit is not kept.');
    expect(html.match(/✓ kept/g)!.length).toBe(sheets[0]!.verdicts.length - 1);
    expect(html.match(/data:image\/png;base64,/g)).toHaveLength(4);
    expect(html).toContain('<svg');
    const json = JSON.parse(reportJson(input)) as { passed: boolean; sheets: { report: { islands: number }; verdicts: { key: string; passed: boolean }[] }[] };
    expect(json.passed).toBe(false);
    expect(json.sheets[0]!.report.islands).toBe(6);
    expect(json.sheets[0]!.verdicts.filter(({ passed }) => !passed).map(({ key }) => key)).toEqual(['islands']);
  });

  it('pictures are of the model as it stands: what is nearer is seen, up is up, from the back left and right change', () => {
    // red on the left and low, green on the right and high, blue a little before green's upper half
    const quad = (x: number, y: number, z: number, width: number, height: number) => [x, y, z, x + width, y, z, x + width, y + height, z, x, y + height, z];
    const mesh = meshFromFaces(
      [...quad(0, 0, 0, 1, 1), ...quad(1, 1, 0, 1, 1), ...quad(1, 1.5, 0.2, 1, 0.5)],
      [
        [0, 1, 2, 3],
        [4, 5, 6, 7],
        [8, 9, 10, 11],
      ],
    );
    const colours = [
      [255, 0, 0],
      [0, 255, 0],
      [0, 0, 255],
    ] as const;
    const at = (view: 'front' | 'back', x: number, y: number) => {
      const size = 100;
      const data = modelPicture([{ mesh, colourOf: (f) => colours[f]! }], view, size);
      const scale = 48 / (Math.hypot(2, 2, 0.2) / 2);
      const px = Math.round(50 + (view === 'back' ? -1 : 1) * (x - 1) * scale);
      const py = Math.round(50 - (y - 1) * scale);
      return [...data.subarray((py * size + px) * 4, (py * size + px) * 4 + 4)].map((v) => (v > 100 ? 1 : 0));
    };
    expect(at('front', 0.5, 0.5)).toEqual([1, 0, 0, 1]);
    expect(at('front', 1.5, 1.25)).toEqual([0, 1, 0, 1]);
    expect(at('front', 1.5, 1.75)).toEqual([0, 0, 1, 1]);
    expect(at('back', 1.5, 1.75)).toEqual([0, 1, 0, 1]);
    expect(at('front', 1.5, 0.5)).toEqual([0, 0, 0, 0]);
  });

  it('says that there is nothing to report where no part is on a sheet', async () => {
    const bare = jobOf({ mesh: box() });
    const job = { ...bare, parts: bare.parts.map((part) => ({ ...part, sheet: null })) };
    await expect(runOperation(job, 'report', {})).rejects.toThrow(/No part/);
  });
});

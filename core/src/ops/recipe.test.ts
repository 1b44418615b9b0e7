import { Ajv2020 } from 'ajv/dist/2020.js';
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { History } from '../job/history.ts';
import { activeSet, newJob, partOf, type Job } from '../job/job.ts';
import { joinParts } from '../job/joinParts.ts';
import { checkLayout } from '../measure/check.ts';
import { box, cylinder } from '../mesh/starterForms.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { tubeCross } from '../propose/testForms.ts';
import { emptyUvSet } from '../uv/uvSet.ts';
import { makeRecipe, readRecipe, recipeJsonSchema, recipeOrder, runRecipe, type Recipe } from './recipe.ts';
import { runOperation } from './registry.ts';

const jobOf = (...meshes: Mesh[]): Job =>
  newJob(
    'j',
    'j',
    meshes.map((mesh, k) => ({
      id: `p${k}`,
      name: `part ${k}`,
      mesh,
      uvSets: [emptyUvSet(mesh)],
      activeUv: 0,
      imageId: null,
      origin: { kind: 'made' as const },
    })),
  );
const historyOf = (job: Job) => new History({ job, operation: 'open', params: {}, sentence: 'Opened', time: 0 });
async function step(history: History, operation: string, params: Record<string, unknown> = {}) {
  const ran = await runOperation(history.present, operation, params);
  history.push({ job: ran.job, operation, params: ran.params, sentence: ran.sentence, time: 0 });
}
const cross = (steps: number) =>
  tubeCross(
    [
      [1, 0, 0],
      [-1, 0, 0],
      [0, 1, 0],
    ],
    3,
    steps,
  );
const names = (recipe: Recipe) => recipe.steps.map(({ operation }) => operation);
const checked = (job: Job) => {
  const { mesh, set } = joinParts(job.parts);
  return checkLayout(mesh, set, job.settings.width, job.settings.height).report;
};

describe('a recipe of the steps done', () => {
  it('run on the same model gives the same layout, bit for bit', async () => {
    const history = historyOf(jobOf(cross(2)));
    await step(history, 'select', { kind: 'faces', ids: [0, 1] });
    await step(history, 'settings', { margin: 12 });
    const { report } = await runOperation(history.present, 'propose', { by: 'limbs', symmetry: 'x' });
    await step(history, 'laySeams', { edges: (report as { cuts: number[] }).cuts, by: 'limbs', symmetry: 'x' });
    await step(history, 'density', { even: true });
    await step(history, 'pack', { effort: 0 });
    const recipe = readRecipe(JSON.stringify(makeRecipe(history.entries, 'Limbs')));
    expect(names(recipe)).toEqual(['settings', 'laySeams', 'density', 'pack']);
    expect(recipe.steps.every(({ asks }) => !asks)).toBe(true);
    expect(recipe.steps[1]!.params).not.toHaveProperty('edges');
    const { job, stopped, done } = await runRecipe(jobOf(cross(2)), recipe);
    expect(stopped).toBeNull();
    expect(done).toHaveLength(4);
    expect(activeSet(partOf(job)).uv).toEqual(activeSet(partOf(history.present)).uv);
    // on another model, finer and with another arm
    const other = await runRecipe(jobOf(cross(4), cylinder(1, 3, 24, 4)), recipe);
    expect(other.stopped).toBeNull();
    expect(checked(other.job)).toMatchObject({ facesWithoutUv: 0, flippedTriangles: 0, outsideArea: 0 });
    expect(checked(other.job).smallestGapPx).toBeGreaterThanOrEqual(12 - 1e-6);
    // every part was laid flat
    expect(other.done.filter((words) => words.startsWith('part 1: Cut'))).toHaveLength(1);
  }, 60_000);

  it('selections become rules: all, a material, a problem; creases; what no rule tells asks for a person', async () => {
    const mesh = { ...box(1, 2, 3), materials: ['wood', 'iron'], faceMaterial: Int32Array.of(0, 0, 1, 1, 1, 0) };
    const history = historyOf(jobOf(mesh));
    await step(history, 'cut', { edges: [...Array(12).keys()] });
    await step(history, 'unwrap', { islands: 'all' });
    await step(history, 'select', { kind: 'islands', ids: [0, 1, 2, 3, 4, 5] });
    await step(history, 'turnIslands', { to: 'leastBox' }).catch(() => step(history, 'arrange', { how: 'left' }));
    await step(history, 'select', { kind: 'faces', ids: [2, 3, 4] });
    await step(history, 'markSeams', { mark: 'keepWhole' });
    await step(history, 'select', { kind: 'faces', ids: [1, 2] });
    await step(history, 'markSeams', { mark: 'mayGo' });
    const recipe = makeRecipe(history.entries, 'Rules');
    expect(recipe.steps[0]).toMatchObject({ operation: 'seams', params: { by: 'crease', bevels: 'apart' } });
    expect(recipe.steps.find(({ operation, params }) => operation === 'selectBy' && params['way'] === 'all')).toBeDefined();
    expect(recipe.steps.find(({ operation }) => operation === 'selectNamed')).toMatchObject({ params: { what: 'material', name: 'iron' } });
    const last = recipe.steps.at(-1)!;
    expect(last).toMatchObject({ operation: 'markSeams', asks: 'it is about 2 selected faces, which no rule tells.' });
    const { stopped, job, done } = await runRecipe(jobOf(mesh), recipe);
    expect(stopped).toMatchObject({ step: recipe.steps.length, operation: 'markSeams', why: expect.stringMatching(/asks for a person/) as string });
    // what came before it was done
    expect(done.length).toBe(recipe.steps.length - 1);
    expect([...partOf(job).seamMarks!]).toEqual([0, 0, 1, 1, 1, 0]);
    // left out, it does not stop anything
    const rest = { ...recipe, steps: recipe.steps.map((one) => (one.asks ? { ...one, isOff: true } : one)) };
    expect((await runRecipe(jobOf(mesh), rest)).stopped).toBeNull();
  });

  it('a step with nothing to do is passed over; another trouble stops it and says where', async () => {
    const recipe: Recipe = {
      jigPeelRecipe: 1,
      name: 'r',
      steps: [
        { operation: 'firstLayout', params: { by: 'crease' }, isOff: false },
        { operation: 'bringBack', params: {}, isOff: false },
        { operation: 'pack', params: { size: 'huge' }, isOff: false },
        { operation: 'density', params: {}, isOff: false },
      ],
    };
    const { stopped, passed, done } = await runRecipe(jobOf(box()), recipe);
    expect(done).toHaveLength(1);
    expect(passed).toHaveLength(1);
    expect(stopped).toMatchObject({ step: 3, operation: 'pack' });
  });

  it('steps about a part are done on each in turn, those about the sheet once, in their place', () => {
    const steps = ['settings', 'firstLayout', 'relax', 'pack', 'unwrap'].map((operation) => ({ operation, params: {}, isOff: operation === 'relax' }));
    expect(recipeOrder({ jigPeelRecipe: 1, name: 'r', steps }, ['a', 'b']).map(({ step, part }) => `${step}${part ?? ''}`)).toEqual([
      '0',
      '1a',
      '1b',
      '3',
      '4a',
      '4b',
    ]);
    expect(recipeOrder({ jigPeelRecipe: 1, name: 'r', steps }, ['b']).map(({ part }) => part)).toEqual([null, 'b', null, 'b']);
  });

  it('can be cancelled', async () => {
    const recipe: Recipe = { jigPeelRecipe: 1, name: 'r', steps: [{ operation: 'firstLayout', params: {}, isOff: false }] };
    const context = {
      progress: () => {},
      throwIfCancelled: () => {
        throw new Error('cancelled');
      },
    };
    await expect(runRecipe(jobOf(box()), recipe, context)).rejects.toThrow('cancelled');
  });

  it.each([
    ['no JSON', 'steps', /no JSON/],
    ['no steps', '{"jigPeelRecipe":1,"steps":[]}', /no recipe/],
    ['an unknown step', '{"jigPeelRecipe":1,"steps":[{"operation":"explode"}]}', /not known: “explode”/],
    ['a step about files', '{"jigPeelRecipe":1,"steps":[{"operation":"removeParts"}]}', /not known/],
    ['another version', '{"jigPeelRecipe":2,"steps":[{"operation":"pack"}]}', /no recipe/],
  ])('%s is refused', (_, text, words) => expect(() => readRecipe(text)).toThrow(words));

  it('nothing to keep is said; the schema says what a file may hold', () => {
    expect(() => makeRecipe(historyOf(jobOf(box())).entries, 'r')).toThrow(/No step/);
    expect(recipeJsonSchema()).toMatchObject({ type: 'object', required: ['jigPeelRecipe', 'steps'], properties: { steps: { type: 'array', maxItems: 500 } } });
  });

  it('the schema that the app serves is the present one, and another reader of JSON Schema takes our recipes by it, and no others', async () => {
    const served: unknown = JSON.parse(readFileSync(new URL('../../../app/public/recipe.schema.json', import.meta.url), 'utf8'));
    expect(served, 'run npx tsx scripts/recipeSchema.ts').toEqual(JSON.parse(JSON.stringify(recipeJsonSchema())));
    const holds = new Ajv2020({ strict: false }).compile(served as object);
    const history = historyOf(jobOf(box(), cylinder()));
    for (const [name, params] of [
      ['firstLayout', { by: 'crease' }],
      ['density', { even: true }],
      ['pack', { size: '1024', gap: 6, effort: 0 }],
    ] as const)
      await step(history, name, params);
    const recipe = makeRecipe(history.entries, 'Measured');
    expect(holds(JSON.parse(JSON.stringify(recipe))), JSON.stringify(holds.errors)).toBe(true);
    const one = (operation: string, params: object) => ({ jigPeelRecipe: 1, steps: [{ operation, params }] });
    expect(holds(one('pack', { gap: 4 }))).toBe(true);
    for (const wrong of [
      {},
      one('explode', {}),
      one('removeParts', {}),
      one('pack', { gap: 'wide' }),
      one('pack', { effort: 99 }),
      { jigPeelRecipe: 2, steps: [] },
    ])
      expect(holds(wrong), JSON.stringify(wrong)).toBe(false);
  });
});

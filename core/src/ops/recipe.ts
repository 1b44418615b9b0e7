import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { quietContext, type Context } from '../context.ts';
import type { HistoryEntry } from '../job/history.ts';
import { activeSet, partOf, type Job, type Part, type Selection } from '../job/job.ts';
import { sheetFor } from '../job/sheets.ts';
import { facesWith, problemKinds } from '../measure/uvState.ts';
import { convertSelection, elementCount } from '../select/convert.ts';
import { creaseEdges } from '../seams/crease.ts';
import { islandsOf } from '../uv/islands.ts';
import { edgesInState, EdgeState } from '../uv/seamEdges.ts';
import { operations, runOperation } from './registry.ts';

/** One step of a recipe. */
export const recipeStepSchema = z.object({
  operation: z.string().min(1).max(60),
  params: z.record(z.string(), z.unknown()).default({}),
  /** Why a person has to do it: what it was about cannot be told by a rule. */
  asks: z.string().max(300).optional(),
  /** Left out. */
  isOff: z.boolean().default(false),
});

/** Steps that can be done again on other models. */
export const recipeSchema = z.object({
  jigPeelRecipe: z.literal(1),
  name: z.string().min(1).max(120).default('Recipe'),
  steps: z.array(recipeStepSchema).min(1).max(500),
});
export type Recipe = z.infer<typeof recipeSchema>;
export type RecipeStep = Recipe['steps'][number];

/** Steps about the job, its files or its other things, not about the layout of any model. */
const left = new Set([
  'open',
  'renameJob',
  'renamePart',
  'renameNamed',
  'removeParts',
  'splitParts',
  'rejoinParts',
  'makeForm',
  'keepVersion',
  'editVersion',
  'useVersion',
  'addImages',
  'removeImage',
  'setImageUse',
  'newerMesh',
  'saveSelection',
  'markDone',
]);

/** Parameters that number elements of one mesh, and those that name things of one job. */
const numbered = ['edges', 'ids', 'islands', 'faces', 'points', 'corners', 'places', 'island', 'face', 'to', 'fields'];
const named = ['id', 'image', 'images', 'version', 'from', 'sheet', 'items', 'drive', 'layer', 'text'];

const same = (a: ArrayLike<number>, b: ArrayLike<number>) => a.length === b.length && Array.from(a).every((x, k) => x === b[k]);
const listed = (marks: Uint8Array) => Uint32Array.from(marks.keys()).filter((f) => marks[f] === 1);
/** Degrees at which creases are looked for. */
const creaseAngles = Array.from({ length: 17 }, (_, k) => 10 + k * 5);

/** A step that selects the same by a rule; null where there is none. */
function selectionRule(job: Job, part: Part, { kind, ids }: Selection): RecipeStep | null {
  const { mesh } = part;
  const set = activeSet(part);
  const islands = islandsOf(mesh, set);
  if (ids.length === elementCount(mesh, islands, kind)) return { operation: 'selectBy', params: { way: 'all', kind }, isOff: false };
  if (kind === 'edges' && same(ids, edgesInState(islands.states, EdgeState.seam)))
    return { operation: 'selectBy', params: { way: 'seams', kind }, isOff: false };
  const matches = (faces: Uint32Array) => faces.length > 0 && same(ids, convertSelection(mesh, islands, 'faces', faces, kind));
  for (const [what, names, of] of [
    ['material', mesh.materials, mesh.faceMaterial],
    ['group', mesh.groups, mesh.faceGroup],
  ] as const)
    for (const [k, name] of names.entries()) {
      const faces = Uint32Array.from(of.keys()).filter((f) => of[f] === k);
      if (kind === 'faces' && matches(faces)) return { operation: 'selectNamed', params: { what, name }, isOff: false };
    }
  const { width, height, tiles, margin } = sheetFor(job, part.id);
  if (kind === 'faces' || kind === 'islands')
    for (const way of problemKinds)
      if (matches(listed(facesWith(way, mesh, set, { width, height, tiles, gapPx: margin, stretch: 1.5, angle: 30 }))))
        return { operation: 'selectBy', params: { way, kind }, isOff: false };
  return null;
}

/** A step of a history as one of a recipe, with the one that selects what it is about; null where it has no place in a recipe. */
function stepOf(before: Job, { operation: name, params, followUps }: HistoryEntry): RecipeStep[] | null {
  const operation = operations.get(name);
  if (!operation || left.has(name) || operation.changes.length === 0 || operation.changes.every((kind) => kind === 'view')) return null;
  const part = partOf(before, typeof params['part'] === 'string' ? params['part'] : undefined);
  const own = Object.fromEntries(Object.entries(params).filter(([key, value]) => key !== 'part' && value !== undefined));
  const asks: string[] = [];
  const steps: RecipeStep[] = [];
  let step: RecipeStep = { operation: name, params: own, isOff: false };
  if (name === 'cut' && Array.isArray(own['edges'])) {
    const edges = Uint32Array.from(own['edges'] as number[]).sort();
    const angle = creaseAngles.find((degrees) => same(edges, creaseEdges(part.mesh, degrees)));
    if (angle !== undefined) step = { operation: 'seams', params: { by: 'crease', angle, bevels: 'apart' }, isOff: false };
  }
  // what was proposed is worked out again
  const workedOut = (name === 'seams' || name === 'laySeams') && typeof own['by'] === 'string';
  if (workedOut) delete step.params['edges'];
  if (Array.isArray(step.params['islands'])) {
    const { count } = islandsOf(part.mesh, activeSet(part));
    if (new Set(step.params['islands'] as number[]).size === count) step.params['islands'] = 'all';
  }
  const usesSelection = !workedOut && (operation.needs !== undefined || Object.values(step.params).includes('selected'));
  const { selection } = before;
  const given = numbered.some(
    (key) => Array.isArray(step.params[key]) || ArrayBuffer.isView(step.params[key]) || (typeof step.params[key] === 'number' && key !== 'to'),
  );
  if (given) asks.push('it is about chosen places of one model');
  else if (usesSelection && selection.part === part.id && (selection.ids.length > 0 || selection.also)) {
    const rule = selection.also ? null : selectionRule(before, part, selection);
    const count = (selection.also ?? []).reduce((sum, { ids }) => sum + ids.length, selection.ids.length);
    if (rule) steps.push(rule);
    else asks.push(`it is about ${count} selected ${selection.kind}, which no rule tells`);
  }
  for (const key of named)
    if (step.params[key] !== undefined && step.params[key] !== '' && step.params[key] !== 'active') asks.push(`it names a thing of this job (${key})`);
  if (asks.length > 0) step.asks = `${asks[0]!}.`;
  steps.push(step);
  if (followUps && followUps.length > 0) steps.push({ operation: 'unwrap', params: {}, isOff: false });
  return steps;
}

/**
 * The steps of a history as a recipe: parameters as they were resolved, selections as rules where a rule tells them (all, a material, a group, seams, a problem,
 * creases); steps of which that cannot be said are marked with why. What only changed the view, and what is about the job itself, is left out.
 * @throws JigError `nothing-to-do` where nothing is left
 */
export function makeRecipe(entries: readonly HistoryEntry[], name: string): Recipe {
  const steps = entries.slice(1).flatMap((entry, k) => stepOf(entries[k]!.job, entry) ?? []);
  // laid flat twice in a row is once
  const plain = steps.filter((step, k) => !(step.operation === 'unwrap' && Object.keys(step.params).length === 0 && steps[k + 1]?.operation === 'unwrap'));
  if (plain.length === 0) throw new JigError('nothing-to-do', 'No step so far can be done on another model.', '', 'Lay something out first.');
  return recipeSchema.parse({ jigPeelRecipe: 1, name, steps: JSON.parse(JSON.stringify(plain)) as unknown });
}

/** @throws JigError `bad-file` for what is no recipe, or has a step that is not known */
export function readRecipe(text: string): Recipe {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch {
    throw new JigError('bad-file', 'The recipe is no JSON.', '', 'Keep one as a file at Deliver.');
  }
  const parsed = recipeSchema.safeParse(given);
  if (!parsed.success) {
    const [issue] = parsed.error.issues;
    throw new JigError('bad-file', `This is no recipe: ${issue!.message}.`, issue!.path.join('.'), 'Keep one as a file at Deliver.');
  }
  for (const [k, { operation }] of parsed.data.steps.entries())
    if (!operations.has(operation) || left.has(operation))
      throw new JigError('bad-file', `The recipe has a step that is not known: “${operation}”.`, `step ${k + 1}`);
  return parsed.data;
}

/** The recipe's schema as JSON Schema (draft 2020-12), the parameters of each operation among it. */
export function recipeJsonSchema(): unknown {
  const schema = z.toJSONSchema(recipeSchema, { io: 'input' }) as unknown as {
    properties: { steps: { items: { properties: Record<string, object>; allOf?: object[] } } };
  };
  const known = [...operations.values()].filter(({ name }) => !left.has(name));
  const { items } = schema.properties.steps;
  items.properties.operation = { enum: known.map(({ name }) => name) };
  items.allOf = known.map(({ name, params }) => {
    const { $schema: _, ...own } = z.toJSONSchema(params, { io: 'input', unrepresentable: 'any' }) as Record<string, unknown>;
    return { if: { properties: { operation: { const: name } } }, then: { properties: { params: own } } };
  });
  return schema;
}

export interface RecipeRun {
  job: Job;
  /** What was done, in the words of the history, with the part where there are several. */
  done: string[];
  /** Steps that had nothing to do. */
  passed: string[];
  /** Where it stopped, and why; null: it came to its end. */
  stopped: { step: number; operation: string; part: string; why: string } | null;
}

/** Is a step about one part? Those about the sheet are done once. */
const isOfPart = ({ operation }: RecipeStep) => {
  const found = operations.get(operation)!;
  return 'part' in found.params.shape || found.needs !== undefined;
};

/**
 * In which order the steps of a recipe are done on some parts: those about a part on each in turn, up to the next one about the sheet, which is done once.
 * @returns step by its number from 0, and the part, null for what is done once
 */
export function recipeOrder(recipe: Recipe, parts: readonly string[]): { step: number; part: string | null }[] {
  const on = recipe.steps.map((step, k) => ({ step, k })).filter(({ step }) => !step.isOff);
  const out: { step: number; part: string | null }[] = [];
  for (let at = 0; at < on.length;) {
    let end = at;
    while (end < on.length && isOfPart(on[end]!.step)) end++;
    if (end === at) {
      out.push({ step: on[at++]!.k, part: null });
      continue;
    }
    for (const part of parts) for (const { k } of on.slice(at, end)) out.push({ step: k, part });
    at = end;
  }
  return out;
}

/**
 * Does the steps of a recipe on a job: those about a part on each part in turn, those about the sheet once. A step with nothing to do is passed over; any other
 * trouble, and a step that asks for a person, stops it there.
 */
export async function runRecipe(job: Job, recipe: Recipe, context: Context = quietContext): Promise<RecipeRun> {
  const result: RecipeRun = { job, done: [], passed: [], stopped: null };
  const several = job.parts.length > 1;
  const one = async (step: RecipeStep, k: number, part: Part | null): Promise<boolean> => {
    context.throwIfCancelled();
    context.progress(k / recipe.steps.length, `Step ${k + 1} of ${recipe.steps.length}${part && several ? `, ${part.name}` : ''}`);
    const stop = (why: string) => {
      result.stopped = { step: k + 1, operation: step.operation, part: part?.name ?? '', why };
      return false;
    };
    if (step.asks) return stop(`It asks for a person: ${step.asks}`);
    try {
      const ran = await runOperation(result.job, step.operation, step.params, { ...context, progress: () => {} });
      result.job = ran.job;
      result.done.push(several && part ? `${part.name}: ${ran.sentence}` : ran.sentence);
    } catch (error) {
      if (!(error instanceof JigError) || error.code === 'cancelled') throw error;
      if (error.code !== 'nothing-to-do') return stop(error.sentence);
      result.passed.push(several && part ? `${part.name}: ${error.message}` : error.message);
    }
    return true;
  };
  for (const { step, part } of recipeOrder(
    recipe,
    job.parts.map(({ id }) => id),
  )) {
    if (part !== null && result.job.activePart !== part) result.job = (await runOperation(result.job, 'activatePart', { part })).job;
    if (!(await one(recipe.steps[step]!, step, part === null ? null : partOf(result.job, part)))) return result;
  }
  return result;
}

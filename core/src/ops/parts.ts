import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { emptySelection, partOf, withPart, type Job, type Part } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import { faceCount } from '../mesh/mesh.ts';
import { facesMeant } from './faceSelector.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const idsSchema = z.array(z.string()).min(1);

/** The job with another part at work; its own selection is empty then. */
function atWork(job: Job, id: string): Job {
  return id === job.activePart ? job : { ...job, activePart: id, selection: { ...emptySelection(id), kind: job.selection.kind } };
}

/** The job with nothing of these parts selected beside the part at work. */
function withoutParts(job: Job, ids: readonly string[]): Job {
  const { also, ...selection } = job.selection;
  const left = also?.filter((one) => !ids.includes(one.part)) ?? [];
  return also ? { ...job, selection: { ...selection, ...(left.length > 0 ? { also: left } : {}) } } : job;
}

export const selectParts = defineOperation({
  name: 'selectParts',
  label: 'Choose parts',
  words: 'object mesh',
  changes: ['view'],
  summary: 'Choose parts; the last of them is worked on',
  params: z.object({ parts: z.array(z.string()) }),
  run(job, { parts }) {
    const known = new Set(job.parts.map((part) => part.id));
    const chosen = [...new Set(parts)].filter((id) => known.has(id));
    if (chosen.length < new Set(parts).size) throw new JigError('not-found', 'One of these parts is not in the job.');
    const active = chosen.at(-1);
    const next = active === undefined ? job : atWork(job, active);
    return { job: { ...next, selectedParts: chosen }, report: { selected: chosen.length } };
  },
  sentence: (_, { selected }) => (selected === 0 ? 'Selected no part' : `Selected ${plural(selected, 'part')}`),
});

export const hideParts = defineOperation({
  name: 'hideParts',
  label: 'Hide or show parts',
  words: 'visible isolate',
  changes: ['view'],
  summary: 'Hide parts, show only some, show all',
  params: z.object({ what: z.enum(['hide', 'only', 'show', 'all']), parts: z.array(z.string()).default([]) }),
  run(job, { what, parts }) {
    const chosen = new Set(parts.map((id) => partOf(job, id).id));
    if (what !== 'all' && !job.parts.some((part) => chosen.has(part.id))) throw new JigError('nothing-to-do', 'No part is chosen.', '', 'Choose one first.');
    const away = (part: Part) =>
      what === 'all' ? false : what === 'only' ? !chosen.has(part.id) : chosen.has(part.id) ? what === 'hide' : part.isHidden === true;
    const list = job.parts.map((part): Part => {
      if (away(part)) return part.isHidden ? part : { ...part, isHidden: true };
      if (!part.isHidden) return part;
      const { isHidden: _, ...shown } = part;
      return shown;
    });
    const shown = list.filter((part) => !part.isHidden);
    if (shown.length === 0) throw new JigError('nothing-to-do', 'That would hide every part.', '', 'Leave one to be seen.');
    const next = { ...job, parts: list };
    // the part at work is one that is seen
    return { job: shown.some((part) => part.id === job.activePart) ? next : atWork(next, shown[0]!.id), report: { shown: shown.length } };
  },
  sentence: ({ what, parts }) =>
    what === 'all' ? 'Showed all parts' : `${{ hide: 'Hid', only: 'Showed only', show: 'Showed' }[what]} ${plural(parts.length, 'part')}`,
});

export const renameNamed = defineOperation({
  name: 'renameNamed',
  label: 'Rename a group or material',
  words: 'name',
  changes: ['mesh', 'parts'],
  summary: 'Give a group or material another name',
  params: z.object({ part: partSchema, what: z.enum(['group', 'material']), name: z.string(), to: z.string().trim().min(1).max(120) }),
  run(job, { part: id, what, name, to }) {
    const part = partOf(job, id);
    const key = what === 'group' ? 'groups' : 'materials';
    const names = part.mesh[key];
    const at = names.indexOf(name);
    if (at < 0) throw new JigError('not-found', `There is no ${what} “${name}”.`);
    if (names.includes(to)) throw new JigError('bad-parameter', `There is a ${what} “${to}” already.`, '', 'Take another name.');
    return {
      job: withPart(job, part.id, (p) => ({ ...p, mesh: { ...p.mesh, [key]: names.map((old, k) => (k === at ? to : old)) } })),
      report: {},
    };
  },
  sentence: ({ what, name, to }) => `Named the ${what} “${name}” “${to}”`,
});

export const hideNamed = defineOperation({
  name: 'hideNamed',
  label: 'Hide a group or material',
  words: 'visible isolate',
  changes: ['view'],
  summary: 'Hide the faces of a group or material, show only them, show them again',
  params: z.object({ part: partSchema, what: z.enum(['group', 'material']), name: z.string(), how: z.enum(['hide', 'only', 'show']) }),
  run(job, { part: id, what, name, how }) {
    const part = partOf(job, id);
    const { mesh } = part;
    const at = (what === 'group' ? mesh.groups : mesh.materials).indexOf(name);
    if (at < 0) throw new JigError('not-found', `There is no ${what} “${name}”.`);
    const of = what === 'group' ? mesh.faceGroup : mesh.faceMaterial;
    const hidden = new Uint8Array(faceCount(mesh));
    for (let f = 0; f < hidden.length; f++) {
      const before = part.hidden?.[f] ?? 0;
      const mine = of[f] === at;
      hidden[f] = how === 'only' ? (mine ? 0 : 1) : mine ? (how === 'hide' ? 1 : 0) : before;
    }
    const count = hidden.reduce((sum, x) => sum + x, 0);
    if (count === hidden.length) throw new JigError('nothing-to-do', 'That would hide the whole part.', '', 'Hide the part instead.');
    const changed = withPart(job, part.id, ({ hidden: _, ...rest }) => (count > 0 ? { ...rest, hidden } : rest));
    const { selection } = job;
    const dropped = selection.part === part.id && selection.kind === 'faces' ? { ...selection, ids: selection.ids.filter((f) => !hidden[f]) } : selection;
    return { job: { ...changed, selection: dropped }, report: { hidden: count } };
  },
  sentence: ({ what, name, how }) => `${{ hide: 'Hid', only: 'Showed only', show: 'Showed' }[how]} the ${what} “${name}”`,
});

export const markDone = defineOperation({
  name: 'markDone',
  label: 'Mark faces as done',
  words: 'finished complete check off',
  changes: ['marks'],
  summary: 'Mark the selected as done, or as still to do',
  params: z.object({
    part: partSchema,
    done: z.boolean().default(true),
    faces: z.array(z.number().int().min(0)).min(1).optional().describe('face numbers; default: those of what is selected, of all parts unless one is named'),
  }),
  run(job, { part: id, done, faces: given }) {
    const part = partOf(job, id);
    if (!given && selectionByPart(job).length === 0) throw new JigError('nothing-to-do', 'Nothing is selected.', '', 'Select faces or islands first.');
    const meant = given ? [{ part, faces: given }] : facesMeant(job, id, 'selected');
    let next = job;
    let changed = 0;
    for (const { part, faces } of meant) {
      const flags = part.done?.slice() ?? new Uint8Array(faceCount(part.mesh));
      for (const f of faces) {
        if (f >= flags.length || flags[f] === (done ? 1 : 0)) continue;
        flags[f] = done ? 1 : 0;
        changed++;
      }
      next = withPart(next, part.id, ({ done: _, ...rest }) => (flags.some((x) => x === 1) ? { ...rest, done: flags } : rest));
    }
    if (changed === 0) throw new JigError('nothing-to-do', done ? 'These are marked as done already.' : 'None of these is marked as done.');
    return { job: next, report: { changed } };
  },
  sentence: ({ done }, { changed }) => `Marked ${plural(changed, 'face')} as ${done ? 'done' : 'still to do'}`,
});

export const removeParts = defineOperation({
  name: 'removeParts',
  label: 'Remove parts',
  words: 'delete object',
  changes: ['parts', 'jigs', 'view', 'mesh', 'uvs', 'seams'],
  summary: 'Take parts out of the job',
  params: z.object({ parts: idsSchema }),
  run(job, { parts: ids }) {
    const parts = job.parts.filter((part) => !ids.includes(part.id));
    const removed = job.parts.length - parts.length;
    if (removed === 0) throw new JigError('not-found', 'These parts are not in the job.');
    if (parts.length === 0) throw new JigError('nothing-to-do', 'A job keeps one part at least.');
    const active = parts.some((part) => part.id === job.activePart) ? job.activePart : (parts.find((part) => !part.isHidden) ?? parts[0]!).id;
    const { selectedParts, ...rest } = withoutParts(atWork(job, active), ids);
    const chosen = (selectedParts ?? []).filter((id) => !ids.includes(id));
    return { job: { ...rest, parts, ...(chosen.length > 0 ? { selectedParts: chosen } : {}) }, report: { removed } };
  },
  sentence: (_, { removed }) => `Took out ${plural(removed, 'part')}`,
});

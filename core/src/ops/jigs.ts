import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { jigSchema, type Jig } from '../jigs/jig.ts';
import { driveJigs, followed, jigName, jigWords, releaseFaces } from '../job/liveJigs.ts';
import { matchJig, matches } from '../jigs/match.ts';
import { figuresOfFaces } from './jigFigures.ts';
import { activeSet, partOf, type Job, type JobJig, type Part } from '../job/job.ts';
import { sheetFor } from '../job/sheets.ts';
import { faceCount } from '../mesh/mesh.ts';
import { rising } from '../select/convert.ts';
import { defineOperation, indexArray, partSchema, plural } from './operation.ts';
import { facesBy } from './faceSelector.ts';

const id = z.string().describe('jig by id');
const faceList = z.array(z.number().int().min(0)).min(1).or(indexArray);

export function jigOf(job: Job, wanted: string): JobJig {
  const found = job.jigs?.find((jig) => jig.id === wanted);
  if (!found) throw new JigError('bad-parameter', `There is no jig “${wanted}”.`);
  return found;
}

const withJig = (job: Job, changed: JobJig): Job => ({ ...job, jigs: (job.jigs ?? []).map((jig) => (jig.id === changed.id ? changed : jig)) });
const drive = (job: Job, ...ids: string[]) => driveJigs(job, new Set(ids));

/** Jigs on faces, live or written at once: what the advice or the bench has made of them. */
export const addJigs = defineOperation({
  name: 'addJigs',
  label: 'Place jigs',
  words: 'projection planar cylindrical spherical box',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Put jigs on faces of a part',
  params: z.object({
    part: partSchema,
    items: z
      .array(z.object({ faces: faceList, jig: jigSchema, name: z.string().max(80).optional() }))
      .min(1)
      .max(64),
    live: z.boolean().default(true).describe('go on driving the faces, or write their UVs and be done'),
    replace: z.array(z.string()).default([]).describe('jigs by id that these take the place of'),
  }),
  run(job, { part: partId, items, live, replace }) {
    const part = partOf(job, partId);
    const set = activeSet(part);
    let next: Job = replace.length > 0 ? { ...job, jigs: (job.jigs ?? []).filter((jig) => !replace.includes(jig.id)) } : job;
    const ids: string[] = [];
    const all: number[] = [];
    for (const { faces: given, jig, name } of items) {
      const faces = rising(given);
      if (faces.length > 0 && faces[faces.length - 1]! >= faceCount(part.mesh))
        throw new JigError('bad-parameter', `There is no face ${faces[faces.length - 1]}.`, '', `Faces run from 0 to ${faceCount(part.mesh) - 1}.`);
      const made: JobJig = {
        id: freshJigId(next),
        name: jigName(next, jig.kind, name),
        jig,
        state: 'live',
        drives: [{ part: part.id, set: set.name, faces }],
        belongs: 'part',
      };
      // a jig that loses its last faces to this one has been replaced; one that was given a name is kept
      const left = releaseFaces(next.jigs ?? [], made.drives[0]!, made.id).filter(
        (one) => one.drives.length > 0 || one.state === 'written' || !isOwnName(one) || jigOf(next, one.id).drives.length === 0,
      );
      next = drive({ ...next, jigs: [...left, made] }, made.id);
      if (!live) next = withJig(next, { ...made, state: 'written' });
      ids.push(made.id);
      for (const f of faces) all.push(f);
    }
    const laid = next.parts.find((p) => p.id === part.id)!;
    return {
      job: next,
      report: { jigs: ids, faces: all.length, ...figuresOfFaces(part.mesh, activeSet(laid), all, sheetFor(job, part.id).width, sheetFor(job, part.id).height) },
    };
  },
  sentence: ({ items, live }, { faces }) =>
    `${live ? 'Put' : 'Wrote'} ${items.length === 1 ? `a ${items[0]!.jig.kind.replace('-', ' ')} jig` : `${items.length} jigs`} ${live ? 'on' : 'to'} ${plural(faces, 'face')}`,
});

/** A name that the app gave. */
const isOwnName = ({ name, jig }: JobJig) => name.startsWith(`${jigWords[jig.kind]} `) && /^\d+$/.test(name.slice(jigWords[jig.kind].length + 1));

/** An id that no jig has. */
export function freshJigId(job: Job): string {
  const taken = new Set((job.jigs ?? []).map((jig) => jig.id));
  for (let k = 1; ; k++) if (!taken.has(`jig-${k}`)) return `jig-${k}`;
}

export const changeJig = defineOperation({
  name: 'changeJig',
  headings: 'set',
  label: 'Change a jig',
  words: 'move turn size',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Change a jig’s name, place or numbers',
  params: z.object({
    id,
    name: z.string().trim().min(1).max(80).optional(),
    jig: jigSchema.optional().describe('the whole jig as it is to be'),
    belongs: z.enum(['part', 'space']).optional(),
    what: z.string().max(60).default('').describe('what was done, for the history: moved, turned …'),
  }),
  run(job, { id: wanted, name, jig, belongs }) {
    const before = jigOf(job, wanted);
    const free = name === undefined ? before.name : jigName({ jigs: (job.jigs ?? []).filter((other) => other.id !== wanted) }, before.jig.kind, name);
    const next: JobJig = { ...before, name: free, jig: jig ?? before.jig, belongs: belongs ?? before.belongs };
    // what is written stays; a jig that is moved after writing goes on from there once it is made live
    return { job: drive(withJig(job, next), jig ? wanted : ''), report: { before: before.name } };
  },
  sentence: ({ what, name, belongs }, { before }) =>
    name !== undefined
      ? `Renamed jig ${before} to ${name}`
      : belongs !== undefined
        ? `${before} ${belongs === 'part' ? 'belongs to its part' : 'stands in space'}`
        : `${what ? what[0]!.toUpperCase() + what.slice(1) : 'Changed'} ${before}`,
});

export const driveFaces = defineOperation({
  name: 'driveFaces',
  headings: 'set',
  label: 'Give faces to a jig',
  words: 'take',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Give faces to a jig, or take them from it',
  params: z.object({
    id,
    part: partSchema,
    set: z.string().optional().describe('UV set by name; default: the one at work'),
    faces: z.string().default('selected').describe('all, selected, group:NAME, material:NAME, or numbers'),
    take: z.boolean().default(false).describe('take them from the jig'),
  }),
  run(job, { id: wanted, part: partId, set, faces: selector, take }) {
    const jig = jigOf(job, wanted);
    const part = partOf(job, partId);
    const name = set ?? activeSet(part).name;
    if (!part.uvSets.some((one) => one.name === name)) throw new JigError('bad-parameter', `${part.name} has no UV set “${name}”.`);
    const faces = facesBy(job, part, selector);
    const before = jig.drives.find((d) => d.part === part.id && d.set === name)?.faces ?? new Uint32Array(0);
    const given = new Set(faces);
    const after = take ? before.filter((f) => !given.has(f)) : rising([...before, ...faces]);
    if (after.length === before.length)
      throw new JigError('nothing-to-do', take ? `${jig.name} drives none of these faces.` : `${jig.name} drives these faces already.`);
    const drives = [
      ...jig.drives.filter((d) => !(d.part === part.id && d.set === name)),
      ...(after.length > 0 ? [{ part: part.id, set: name, faces: after }] : []),
    ];
    const next: JobJig = { ...jig, drives, state: jig.state === 'written' ? 'live' : jig.state };
    const free = take ? (job.jigs ?? []) : releaseFaces(job.jigs ?? [], { part: part.id, set: name, faces }, wanted);
    return { job: drive(withJig({ ...job, jigs: free }, next), wanted), report: { faces: Math.abs(after.length - before.length), name: jig.name } };
  },
  sentence: ({ take }, { faces, name }) => (take ? `Took ${plural(faces, 'face')} from ${name}` : `Gave ${plural(faces, 'face')} to ${name}`),
});

export const setJigState = defineOperation({
  name: 'setJigState',
  label: 'Write a jig, or switch it',
  words: 'bake freeze live off remove',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Write a jig, switch it off, make it live again, or remove it',
  params: z.object({ ids: z.array(z.string()).min(1), to: z.enum(['live', 'off', 'written', 'removed']) }),
  run(job, { ids, to }) {
    const chosen = ids.map((wanted) => jigOf(job, wanted));
    const names = chosen.map(({ name }) => name);
    if (to === 'removed') return { job: { ...job, jigs: (job.jigs ?? []).filter(({ id: one }) => !ids.includes(one)) }, report: { names } };
    let next = job;
    for (const one of chosen) {
      // a face is driven by one jig: those that took its faces meanwhile give them back
      if (to === 'live') next = { ...next, jigs: one.drives.reduce<readonly JobJig[]>((list, drives) => releaseFaces(list, drives, one.id), next.jigs ?? []) };
      next = withJig(next, { ...jigOf(next, one.id), state: to });
    }
    return { job: to === 'live' ? drive(next, ...ids) : next, report: { names } };
  },
  sentence: ({ to }, { names }) =>
    ({ live: 'Made live again: ', off: 'Switched off: ', written: 'Written to the UVs: ', removed: 'Removed, its UVs stay: ' })[to] + names.join(', '),
});

export const copyJig = defineOperation({
  name: 'copyJig',
  label: 'Copy a jig',
  words: 'duplicate',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Copy a jig to other parts, or to their face groups of the same name',
  params: z.object({
    id,
    parts: z.array(z.string()).min(1).describe('parts by id'),
    by: z.enum(['part', 'group']).default('part').describe('the whole part, or the face groups that the jig’s own faces belong to'),
  }),
  run(job, { id: wanted, parts, by }) {
    const jig = jigOf(job, wanted);
    const home = job.parts.find((part) => part.id === jig.drives[0]?.part);
    const groups = home
      ? new Set(Array.from(jig.drives[0]!.faces, (f) => home.mesh.groups[home.mesh.faceGroup[f]!]).filter((name) => name !== undefined))
      : new Set();
    if (by === 'group' && groups.size === 0) throw new JigError('nothing-to-do', `The faces of ${jig.name} belong to no named group.`, '', 'Copy it by part.');
    let next = job;
    let done = 0;
    for (const partId of parts) {
      const part = job.parts.find((one) => one.id === partId);
      if (!part || part.id === home?.id) continue;
      const faces = by === 'part' ? facesBy(job, part, 'all') : facesOfGroups(part, groups as Set<string>);
      if (faces.length === 0) continue;
      const copy: JobJig = {
        ...jig,
        id: freshJigId(next),
        name: jigName(next, jig.jig.kind, jig.name),
        jig: jig.belongs === 'part' && home ? followed(jig.jig, home.mesh, part.mesh) : jig.jig,
        state: 'live',
        drives: [{ part: part.id, set: activeSet(part).name, faces }],
      };
      next = drive({ ...next, jigs: [...releaseFaces(next.jigs ?? [], copy.drives[0]!, copy.id), copy] }, copy.id);
      done++;
    }
    if (done === 0)
      throw new JigError('nothing-to-do', by === 'group' ? 'None of these parts has such a face group.' : 'There is no other part to copy it to.');
    return { job: next, report: { parts: done, name: jig.name } };
  },
  sentence: (_, { parts, name }) => `Copied ${name} to ${plural(parts, 'part')}`,
});

function facesOfGroups({ mesh }: Part, names: Set<string>): Uint32Array {
  const out: number[] = [];
  mesh.faceGroup.forEach((g, f) => names.has(mesh.groups[g] ?? '\0') && out.push(f));
  return Uint32Array.from(out);
}

export const matchJigs = defineOperation({
  name: 'matchJig',
  headings: 'set',
  label: 'Match a jig to other faces',
  words: 'continue align',
  changes: ['jigs', 'uvs', 'seams', 'marks'],
  summary: 'Make a jig’s image go on from other faces: size, heading, phase',
  params: z.object({
    id,
    what: z.array(z.enum(matches)).min(1).default(['size', 'heading', 'phase']),
    to: z.string().optional().describe('faces to match: a jig by id, or a selector like group:NAME; default: all neighbours'),
  }),
  run(job, { id: wanted, what, to }) {
    const one = jigOf(job, wanted);
    const home = one.drives[0];
    const part = home && job.parts.find((p) => p.id === home.part);
    if (!home || !part) throw new JigError('nothing-to-do', `${one.name} drives no faces yet.`);
    const set = part.uvSets.find(({ name }) => name === home.set) ?? activeSet(part);
    const target = new Uint8Array(faceCount(part.mesh));
    const other = job.jigs?.find((jig) => jig.id === to);
    if (other) for (const d of other.drives) if (d.part === part.id) for (const f of d.faces) target[f] = 1;
    if (!other) for (const f of facesBy(job, part, to ?? 'all')) target[f] = 1;
    for (const f of home.faces) target[f] = 0;
    const jig: Jig | null = matchJig(part.mesh, set, home.faces, one.jig, target, what);
    if (!jig)
      throw new JigError(
        'nothing-to-do',
        `The faces of ${one.name} share no edge with ${other ? other.name : 'these faces'}.`,
        '',
        'Choose faces that lie beside them.',
      );
    return { job: drive(withJig(job, { ...one, jig }), wanted), report: { name: one.name, kind: jigWords[jig.kind] } };
  },
  sentence: ({ what }, { name }) => `Matched ${what.join(', ')} of ${name} to its neighbours`,
});

import { z } from 'zod';
import type { LayerMask } from '../images/surface/layer.ts';
import { JigError } from '../jigError.ts';
import { applyJig } from '../jigs/apply.ts';
import { placeJig } from '../jigs/place.ts';
import { packLayout } from '../pack/pack.ts';
import { emptySelection, formSchema, partOf, withPart, type Job, type JobJig, type Part } from '../job/job.ts';
import { selectionByPart } from '../job/selected.ts';
import { formKinds } from '../mesh/formKinds.ts';
import { makeForm, type FormSpec } from '../mesh/makeForm.ts';
import { faceCount, pointCount, type Mesh } from '../mesh/mesh.ts';
import { repairMesh } from '../mesh/repair.ts';
import { topologyOf } from '../mesh/topology.ts';
import { faceMarksOf } from '../uv/faceMarks.ts';
import { withOwnPoints } from '../uv/ownPoints.ts';
import { carriedStraight } from '../uv/straight.ts';
import { emptyUvSet, uvSetFrom, type UvSet } from '../uv/uvSet.ts';
import { facesMeant } from './faceSelector.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

export const starterForm = defineOperation({
  name: 'makeForm',
  label: 'Add a starter form',
  words: 'primitive cube cylinder sphere plane cone torus',
  asked: ['kind', 'width', 'height', 'depth', 'segments', 'rows'],
  changes: ['mesh', 'parts', 'uvs', 'seams', 'jigs', 'view'],
  summary: 'Add a starter form: plane, box, cylinder, cone, sphere, torus',
  params: formSchema.extend({ replace: z.string().describe('a starter form by part id, to be made again').optional() }),
  run(job, { uvs, replace, ...spec }) {
    const fewest: Partial<Record<FormSpec['kind'], number>> = { cylinder: 3, cone: 3, sphere: 3, torus: 3 };
    if (spec.segments < (fewest[spec.kind] ?? 1)) throw new JigError('bad-parameter', `A ${spec.kind} needs at least 3 faces round.`);
    if ((spec.kind === 'sphere' && spec.rows < 2) || (spec.kind === 'torus' && spec.rows < 3))
      throw new JigError('bad-parameter', `A ${spec.kind} needs at least ${spec.kind === 'sphere' ? 2 : 3} rows.`);
    if (spec.kind === 'torus' && spec.tube * 2 > spec.width)
      throw new JigError('bad-parameter', 'The tube is thicker than half of the ring.', '', 'Use a thinner tube.');
    if (spec.segments * spec.rows > 1e6) throw new JigError('too-large', 'That would be more than a million faces.', '', 'Use fewer segments or rows.');
    const { mesh, cornerUv, uv } = makeForm(spec);
    const set = uvs ? uvSetFrom(mesh, 'UV set 1', cornerUv, uv) : emptyUvSet(mesh);
    const words = spec.kind[0]!.toUpperCase() + spec.kind.slice(1);
    const old = replace === undefined ? undefined : job.parts.find((part) => part.id === replace && isPristineForm(part, job.jigs));
    if (replace !== undefined && !old) throw new JigError('not-found', 'That part is not a starter form as it was made.');
    if (old && liveFaces(old, job.jigs) && (mesh.corners.length !== old.mesh.corners.length || mesh.corners.some((p, c) => p !== old.mesh.corners[c])))
      throw new JigError(
        'bad-parameter',
        'Live jigs drive faces of this form: only its sizes can be changed.',
        '',
        'Write or remove the jigs to change its faces.',
      );
    const taken = new Set(job.parts.filter((part) => part !== old).map((part) => part.name));
    let name = words;
    for (let k = 2; taken.has(name); k++) name = `${words} ${k}`;
    const id = old?.id ?? freeId(job);
    const part: Part = {
      id,
      name: old && !formKinds.some((kind) => old.name.toLowerCase().startsWith(kind)) ? old.name : name,
      mesh,
      uvSets: [set],
      activeUv: 0,
      imageId: old?.imageId ?? null,
      origin: { kind: 'made' },
      form: { ...spec, uvs },
    };
    const parts = old ? job.parts.map((p) => (p === old ? part : p)) : [...job.parts, part];
    return {
      job: { ...job, parts, activePart: id, selection: { ...emptySelection(id), kind: job.selection.kind } },
      report: { part: id, name: part.name, points: pointCount(mesh), faces: faceCount(mesh) },
    };
  },
  sentence: ({ kind, replace }, { faces }) => `${replace ? 'Changed' : 'Added'} a ${kind} of ${plural(faces, 'face')}`,
});

const pristine = new WeakMap<UvSet, boolean>();

/** 1 for each face of a part that a live jig drives; null if none does. */
function liveFaces(part: Part, jigs: readonly JobJig[] = []): Uint8Array | null {
  const drives = jigs.filter(({ state }) => state === 'live').flatMap((jig) => jig.drives.filter((drive) => drive.part === part.id));
  if (drives.length === 0) return null;
  const out = new Uint8Array(faceCount(part.mesh));
  for (const { faces } of drives) for (const f of faces) out[f] = 1;
  return out;
}

/** Is a starter form still as it was made, so that making it again loses no work? What live jigs drive is none: they drive the new one, too. */
export function isPristineForm(part: Part, jigs?: readonly JobJig[]): boolean {
  const { form, mesh } = part;
  const set = part.uvSets[0]!;
  if (!form || part.uvSets.length !== 1 || part.hidden || mesh.materials.length > 0) return false;
  const driven = liveFaces(part, jigs);
  let known = driven ? undefined : pristine.get(set);
  if (known === undefined) {
    const fresh = makeForm(form);
    const made = form.uvs ? uvSetFrom(fresh.mesh, set.name, fresh.cornerUv, fresh.uv) : emptyUvSet(fresh.mesh);
    known = fresh.mesh.corners.length === mesh.corners.length && set.slits.length === 0;
    for (let f = 0; known && f < faceCount(mesh); f++) {
      if (driven?.[f]) continue;
      known = set.unplaced[f] === made.unplaced[f];
      for (let c = mesh.faceStart[f]!; known && !set.unplaced[f] && c < mesh.faceStart[f + 1]!; c++) {
        const [a, b] = [set.cornerUv[c]! * 2, made.cornerUv[c]! * 2];
        known = set.uv[a] === made.uv[b] && set.uv[a + 1] === made.uv[b + 1];
      }
    }
    // seams within what no jig drives: as many UV points as it was made with
    if (!driven) known &&= form.uvs ? set.uv.length === made.uv.length : true;
    if (!driven) pristine.set(set, known);
  }
  return known;
}

function freeId(job: Job): string {
  for (let k = job.parts.length + 1; ; k++) if (!job.parts.some((part) => part.id === `part-${k}`)) return `part-${k}`;
}

export const repair = defineOperation({
  name: 'repair',
  label: 'Repair the mesh',
  words: 'clean merge weld duplicate',
  changes: ['mesh', 'uvs', 'seams', 'marks', 'jigs', 'view'],
  summary: 'Repair the mesh: merge points, drop faces without area, make winding agree, split edges with more than two faces',
  params: z.object({
    part: partSchema,
    merge: z.boolean().default(true),
    within: z.number().min(0).default(0).describe('units; 0: only points at exactly the same place'),
    degenerate: z.boolean().default(true),
    winding: z.boolean().default(true),
    nonManifold: z.boolean().default(true),
  }),
  run(job, { part: id, merge, within, degenerate, winding, nonManifold }) {
    const part = partOf(job, id);
    const { mesh, cornerFrom, faceFrom, report } = repairMesh(part.mesh, {
      mergeWithin: merge ? within : null,
      dropDegenerate: degenerate,
      agreeWinding: winding,
      splitNonManifold: nonManifold,
    });
    const said = [
      report.pointsMerged > 0 && `${plural(report.pointsMerged, 'point')} merged`,
      report.facesDropped > 0 && `${plural(report.facesDropped, 'face')} without area dropped`,
      report.facesTurned > 0 && `${plural(report.facesTurned, 'face')} turned round`,
      report.edgesSplit > 0 && `${plural(report.edgesSplit, 'edge')} with more than two faces split`,
    ].filter(Boolean);
    if (said.length === 0) throw new JigError('nothing-to-do', 'Nothing had to be repaired.');
    if (report.facesAfter === 0) throw new JigError('nothing-to-do', 'No face would be left; nothing was changed.');
    const uvSets = part.uvSets.map((set) => carried(part.mesh, mesh, set, cornerFrom, faceFrom));
    const { hidden, seamMarks, grain, layers, form: _, ...rest } = part;
    const next: Part = {
      ...rest,
      mesh,
      uvSets,
      // what the file held of vertices no longer fits: it is written as a new mesh
      origin: { kind: 'made' },
      ...(hidden ? { hidden: Uint8Array.from(faceFrom, (f) => hidden[f]!) } : {}),
      ...(seamMarks ? { seamMarks: Uint8Array.from(faceFrom, (f) => seamMarks[f]!) } : {}),
      ...(layers ? { layers: layers.map((layer) => ({ ...layer, masks: layer.masks.map((mask) => masksCarried(mask, faceFrom)) })) } : {}),
      ...(grain ? { grain: Float64Array.from({ length: faceFrom.length * 3 }, (_, k) => grain[faceFrom[Math.floor(k / 3)]! * 3 + (k % 3)]!) } : {}),
    };
    const saved = job.savedSelections?.filter((s) => s.part !== part.id);
    return {
      job: {
        ...withPart(job, part.id, () => next),
        selection: { ...emptySelection(part.id), kind: job.selection.kind },
        ...(saved ? { savedSelections: saved } : {}),
      },
      report: { ...report, words: said.join(', ') },
    };
  },
  sentence: (_, { words }) => `Repaired the mesh: ${words}`,
});

/** A mask of faces on a mesh whose faces come from another's. */
function masksCarried(mask: LayerMask, faceFrom: Uint32Array): LayerMask {
  if (mask.kind !== 'faces') return mask;
  const had = new Set(mask.faces);
  return { ...mask, faces: [...faceFrom.keys()].filter((f) => had.has(faceFrom[f]!)) };
}

/** A UV set on a mesh whose corners and faces come from another's. */
function carried(before: Mesh, after: Mesh, set: UvSet, cornerFrom: Uint32Array, faceFrom: Uint32Array): UvSet {
  const old = topologyOf(before);
  const slit = new Set(set.slits);
  const now = topologyOf(after);
  const slits = new Set<number>();
  if (slit.size > 0) {
    const edgeOfPair = new Map<string, number>();
    for (const e of slit) for (let i = old.edgeStart[e]!; i < old.edgeStart[e + 1]!; i++) edgeOfPair.set(String(old.edgeCorners[i]!), e);
    for (let c = 0; c < cornerFrom.length; c++) if (edgeOfPair.has(String(cornerFrom[c]!))) slits.add(now.cornerEdge[c]!);
  }
  const next: UvSet = {
    ...set,
    cornerUv: withMergedPoints(before, after, set, cornerFrom),
    unplaced: Uint8Array.from(faceFrom, (f) => set.unplaced[f]!),
    ...faceMarksOf(set, faceFrom),
    slits: Uint32Array.from(slits).sort(),
    ...(set.straight ? { straight: carriedStraight(before, after, set.straight, cornerFrom) } : {}),
  };
  return withOwnPoints(after, next).set;
}

/** The UV point of each corner; where mesh points became one, those of theirs that are in one place of the sheet do, too. O(corners). */
function withMergedPoints(before: Mesh, after: Mesh, set: UvSet, cornerFrom: Uint32Array): Uint32Array {
  const first = new Map<string, { id: number; point: number }>();
  return Uint32Array.from(cornerFrom, (old, c) => {
    const id = set.cornerUv[old]!;
    const key = `${after.corners[c]!} ${set.uv[id * 2]!} ${set.uv[id * 2 + 1]!}`;
    const known = first.get(key);
    if (!known) first.set(key, { id, point: before.corners[old]! });
    return known && known.point !== before.corners[old] ? known.id : id;
  });
}

const nameSchema = z.string().trim().min(1).max(80);

export const uvSets = defineOperation({
  name: 'uvSets',
  label: 'UV sets',
  words: 'channel layer add copy remove',
  changes: ['parts', 'uvs', 'seams', 'marks', 'jigs'],
  summary: 'Add, copy, rename, remove, move or choose a UV set',
  params: z.object({
    part: partSchema,
    what: z.enum(['add', 'copy', 'starter', 'rename', 'remove', 'up', 'down', 'choose']),
    set: z.number().int().min(0).describe('which set, counted from 0; default: the one being worked on').optional(),
    name: nameSchema.optional(),
  }),
  run(job, { part: id, what, set: given, name }) {
    const part = partOf(job, id);
    const at = given ?? part.activeUv;
    const set = part.uvSets[at];
    if (!set) throw new JigError('bad-parameter', `There is no UV set ${at}.`, '', 'Sets are counted from 0.');
    const others = part.uvSets.filter((_, k) => what !== 'rename' || k !== at).map((s) => s.name);
    const free = () => {
      for (let k = part.uvSets.length + 1; ; k++) if (!others.includes(`UV set ${k}`)) return `UV set ${k}`;
    };
    if (name && (what === 'add' || what === 'copy' || what === 'rename') && others.includes(name))
      throw new JigError('bad-parameter', `There is a UV set “${name}” already.`, '', 'Choose another name.');
    const list = [...part.uvSets];
    let active = part.activeUv;
    let told = name ?? set.name;
    if (what === 'add' || what === 'copy' || what === 'starter') {
      if (list.length >= 8) throw new JigError('too-large', 'A part holds eight UV sets at most.', '', 'Remove one first.');
      told = name ?? free();
      list.push(what === 'add' ? emptyUvSet(part.mesh, told) : what === 'copy' ? { ...set, name: told } : starterSet(job, part, told));
      active = list.length - 1;
    } else if (what === 'rename') {
      if (!name) throw new JigError('bad-parameter', 'A name is needed.');
      list[at] = { ...set, name };
    } else if (what === 'remove') {
      if (list.length === 1) throw new JigError('nothing-to-do', 'A part keeps one UV set at least.');
      list.splice(at, 1);
      active = Math.min(active > at ? active - 1 : active, list.length - 1);
      told = set.name;
    } else if (what === 'choose') active = at;
    else {
      const to = at + (what === 'up' ? -1 : 1);
      if (to < 0 || to >= list.length) throw new JigError('nothing-to-do', `“${set.name}” is ${what === 'up' ? 'first' : 'last'} already.`);
      [list[at], list[to]] = [list[to]!, list[at]!];
      if (active === at) active = to;
      else if (active === to) active = at;
    }
    // islands are numbered by the set: a selection of them would mean others
    const selection = active !== part.activeUv && job.selection.kind === 'islands' ? emptySelection(part.id) : job.selection;
    // jigs know their sets by name
    const jigs =
      what === 'rename' && job.jigs
        ? { jigs: job.jigs.map((jig) => ({ ...jig, drives: jig.drives.map((d) => (d.part === part.id && d.set === set.name ? { ...d, set: told } : d)) })) }
        : {};
    return {
      job: { ...withPart(job, part.id, (p) => ({ ...p, uvSets: list, activeUv: active })), selection, ...jigs },
      report: { name: told, sets: list.length, active },
    };
  },
  sentence: ({ what }, { name }) =>
    ({ add: 'Added', copy: 'Copied to', starter: 'Added starter', rename: 'Named', remove: 'Removed', up: 'Moved up', down: 'Moved down', choose: 'Went to' })[
      what
    ] + ` UV set “${name}”`,
});

/** A set to begin with: a starter form's own; for any other mesh six sides by their facing, packed. */
function starterSet(job: Job, part: Part, name: string): UvSet {
  const { mesh, form } = part;
  if (form) {
    const made = makeForm(form);
    if (made.mesh.corners.length === mesh.corners.length && made.mesh.corners.every((p, c) => p === mesh.corners[c]))
      return uvSetFrom(mesh, name, made.cornerUv, made.uv);
  }
  const faces = Uint32Array.from({ length: faceCount(mesh) }, (_, f) => f);
  const sides = applyJig(mesh, emptyUvSet(mesh, name), faces, { ...placeJig(mesh, faces, 'box'), group: 0.01 });
  const { width, height, margin, borderGap } = job.settings;
  return packLayout(mesh, sides, { width, height, gap: margin, borderGap: borderGap ?? margin, turn: 'none', keepScale: false }).set;
}

export const renamePart = defineOperation({
  name: 'renamePart',
  label: 'Rename a part',
  words: 'name',
  changes: ['parts'],
  summary: 'Give a part another name',
  params: z.object({ part: z.string(), name: nameSchema }),
  run: (job, { part, name }) => ({ job: withPart(job, partOf(job, part).id, (p) => ({ ...p, name })), report: { name } }),
  sentence: ({ name }) => `Named the part “${name}”`,
});

export const assignMaterial = defineOperation({
  name: 'assignMaterial',
  label: 'Give faces to a material',
  words: 'assign',
  changes: ['mesh', 'uvs', 'seams', 'marks', 'jigs', 'view'],
  needs: 'selection',
  summary: 'Give the selected faces to a material',
  params: z.object({
    part: partSchema,
    faces: z.array(z.number().int().min(0)).min(1).optional().describe('face numbers; default: those of what is selected, of all parts unless one is named'),
    material: nameSchema,
  }),
  run(job, { part: id, faces: given, material }) {
    const own = partOf(job, id);
    if (!given && selectionByPart(job).length === 0) throw new JigError('nothing-to-do', 'Nothing is selected.', '', 'Select faces first.');
    let next = job;
    let count = 0;
    for (const { part, faces } of given ? [{ part: own, faces: given }] : facesMeant(job, id, 'selected')) {
      const { mesh } = part;
      const known = mesh.materials.indexOf(material);
      const materials = known >= 0 ? mesh.materials : [...mesh.materials, material];
      const faceMaterial = mesh.faceMaterial.slice();
      for (const f of faces) if (f < faceMaterial.length) faceMaterial[f] = known >= 0 ? known : materials.length - 1;
      // the same form: what was worked out of it could stay, but a mesh is never changed in place
      next = withPart(next, part.id, (p) => ({ ...p, mesh: { ...mesh, materials, faceMaterial } }));
      count += faces.length;
    }
    return { job: next, report: { material, faces: count } };
  },
  sentence: (_, { faces, material }) => `Gave ${plural(faces, 'face')} to “${material}”`,
});

export const selectNamed = defineOperation({
  name: 'selectNamed',
  label: 'Select a group or material',
  words: 'faces by name',
  changes: ['view'],
  summary: 'Choose the faces of a group or material',
  params: z.object({ part: partSchema, what: z.enum(['group', 'material']), name: z.string() }),
  run(job, { part: id, what, name }) {
    const part = partOf(job, id);
    const { mesh } = part;
    const at = (what === 'group' ? mesh.groups : mesh.materials).indexOf(name);
    if (at < 0) throw new JigError('not-found', `There is no ${what} “${name}”.`);
    const of = what === 'group' ? mesh.faceGroup : mesh.faceMaterial;
    const ids: number[] = [];
    for (let f = 0; f < of.length; f++) if (of[f] === at && !part.hidden?.[f]) ids.push(f);
    return { job: { ...job, activePart: part.id, selection: { part: part.id, kind: 'faces', ids: Uint32Array.from(ids) } }, report: { selected: ids.length } };
  },
  sentence: ({ what, name }) => `Selected the ${what} “${name}”`,
});

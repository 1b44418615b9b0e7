import { encode } from 'fast-png';
import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { guidePicture } from '../images/layoutGuide.ts';
import { activeSet, partOf, type Job, type Part } from '../job/job.ts';
import { joinParts } from '../job/joinParts.ts';
import { partsOnSheet, sheetFor, sheetOfPart, sheetsOf } from '../job/sheets.ts';
import { changesBetweenSets, faceChanges, layoutIn, layoutsOf, mixedSet, mostVersions, type Version, type VersionFigures } from '../job/versions.ts';
import { judgedReport } from '../measure/limits.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { onceEach } from '../uv/stacks.ts';
import { selectionByPart } from '../job/selected.ts';
import { facesBy } from './faceSelector.ts';
import { defineOperation, partSchema, plural } from './operation.ts';

const idSchema = z.string().max(60).default('').describe('version by id; default: the last one kept');

/** @throws JigError `not-found` */
function versionOf(job: Job, id: string): Version {
  const found = id === '' ? job.versions?.at(-1) : job.versions?.find((one) => one.id === id);
  if (!found) throw new JigError('not-found', id === '' ? 'No version is kept yet.' : 'There is no such version.', '', 'Keep one at Check first.');
  return found;
}

/** Px of the longer side of a version's picture. */
const pictureSize = 128;

/** The sheet at work, small. */
function smallPicture(job: Job): Uint8Array {
  const parts = partsOnSheet(job).filter((part) => !part.isHidden || part.id === job.activePart);
  const { mesh, set } = joinParts(parts);
  const sheet = sheetFor(job);
  const scale = pictureSize / Math.max(sheet.width, sheet.height);
  const [width, height] = [Math.max(1, Math.round(sheet.width * scale)), Math.max(1, Math.round(sheet.height * scale))];
  const { data } = guidePicture(mesh, onceEach(mesh, set), { width, height, fills: true, innerLines: false, names: false });
  return encode({ width, height, data, channels: 4, depth: 8 });
}

function figuresOf(job: Job): VersionFigures[] {
  return sheetsOf(job).flatMap((sheet) => {
    const parts = job.parts.filter((part) => sheetOfPart(job, part)?.id === sheet.id);
    if (parts.length === 0) return [];
    const { mesh, set } = joinParts(parts);
    // how much seams are seen is not among the figures
    const sight = new Float64Array(topologyOf(mesh).edgeCount);
    const { report } = judgedReport(mesh, set, { width: sheet.width, height: sheet.height, tiles: sheet.tiles, sight });
    const { islands, symmetricDirichlet: energy, coverage, overlapArea: overlap, flippedTriangles: flips } = report;
    return [{ sheet: sheet.name, islands, energy, coverage, overlap, flips }];
  });
}

export const keepVersion = defineOperation({
  name: 'keepVersion',
  label: 'Keep the layout as a version',
  words: 'save snapshot variant',
  changes: ['settings'],
  summary: 'Keep the present layout of all parts under a name, to go on from it or back to it',
  params: z.object({
    name: z.string().max(80).default('').describe('default: Version and a number'),
    note: z.string().max(500).default(''),
    time: z.number().min(0).max(1e15).default(0).describe('ms since 1970; 0: not known'),
  }),
  run(job, { name, note, time }) {
    const versions = job.versions ?? [];
    if (versions.length >= mostVersions)
      throw new JigError('nothing-to-do', `A job keeps up to ${mostVersions} versions.`, '', 'Remove one that is not needed any more.');
    let k = versions.length + 1;
    while (versions.some(({ id }) => id === `version-${k}`)) k++;
    const version: Version = {
      id: `version-${k}`,
      name: name.trim() || `Version ${k}`,
      note: note.trim(),
      made: time,
      layouts: layoutsOf(job),
      figures: figuresOf(job),
      picture: smallPicture(job),
    };
    return { job: { ...job, versions: [...versions, version] }, report: { id: version.id, name: version.name } };
  },
  sentence: (_params, { name }) => `Kept the layout as “${name}”`,
});

export const useVersion = defineOperation({
  name: 'useVersion',
  label: 'Go back to a version',
  words: 'restore revert load variant',
  asked: ['what'],
  changes: ['uvs', 'seams', 'marks', 'parts', 'view'],
  stacks: 'apart',
  summary: 'Take the layout of a version: of all parts, of one, or only of the selected faces',
  params: z.object({
    version: idSchema,
    what: z.enum(['all', 'part', 'selected']).default('all').describe('all parts, one part, or its selected faces with what they belong to'),
    part: partSchema,
  }),
  run(job, { version: id, what, part: partId }) {
    const version = versionOf(job, id);
    const chosenParts = what === 'selected' && partId === undefined ? selectionByPart(job).map(({ part }) => part) : [];
    const wanted = what === 'all' ? job.parts : chosenParts.length > 0 ? chosenParts : [partOf(job, partId)];
    const left: string[] = [];
    const changed = new Map<string, Part>();
    for (const part of wanted) {
      const layout = layoutIn(version, part);
      if (!layout) {
        left.push(part.name);
        continue;
      }
      if (what !== 'selected') {
        changed.set(part.id, { ...part, uvSets: layout.uvSets, activeUv: layout.activeUv });
        continue;
      }
      const now = activeSet(part);
      const then = layout.uvSets.find(({ name }) => name === now.name) ?? layout.uvSets[layout.activeUv]!;
      const takes = new Uint8Array(part.mesh.faceStart.length - 1);
      // whole islands, of the version and of now: half a piece is none
      const chosen = new Set(facesBy(job, part, 'selected'));
      const [was, is] = [islandsOf(part.mesh, then), islandsOf(part.mesh, now)];
      const old = new Set([...chosen].map((f) => was.ofFace[f]!));
      const own = new Set([...chosen].map((f) => is.ofFace[f]!));
      for (let f = 0; f < takes.length; f++) if (old.has(was.ofFace[f]!) || own.has(is.ofFace[f]!)) takes[f] = 1;
      const mixed = mixedSet(part.mesh, now, then, takes);
      changed.set(part.id, { ...part, uvSets: part.uvSets.map((set, k) => (k === part.activeUv ? mixed : set)) });
    }
    if (changed.size === 0)
      throw new JigError(
        'nothing-to-do',
        left.length > 0 ? `“${version.name}” has no layout that fits ${left.join(', ')}.` : 'Nothing is to be taken.',
        '',
        'The mesh has other faces since.',
      );
    const parts = job.parts.map((part) => changed.get(part.id) ?? part);
    // a selection of islands is by numbers that mean others now
    const selection = job.selection.kind === 'islands' ? { ...job.selection, ids: new Uint32Array(0) } : job.selection;
    const { also: _, ...rest } = selection;
    return {
      job: { ...job, parts, selection: job.selection.kind === 'islands' ? rest : selection },
      report: { name: version.name, parts: changed.size, left },
    };
  },
  sentence: ({ what }, { name, left }) =>
    `${what === 'all' ? 'Went back to' : what === 'part' ? 'Took a part of' : 'Took the selected pieces of'} “${name}”${left.length > 0 ? `; ${left.join(', ')} ${left.length === 1 ? 'has' : 'have'} other faces now and ${left.length === 1 ? 'stays' : 'stay'}` : ''}`,
});

export const editVersion = defineOperation({
  name: 'editVersion',
  label: 'Name, note or remove a version',
  words: 'rename delete',
  asked: ['do', 'name', 'note'],
  changes: ['settings'],
  summary: 'Give a version another name or note, or remove it',
  params: z.object({
    version: idSchema,
    do: z.enum(['rename', 'remove']).default('rename'),
    name: z.string().max(80).optional(),
    note: z.string().max(500).optional(),
  }),
  run(job, { version: id, do: what, name, note }) {
    const version = versionOf(job, id);
    const versions = job.versions!;
    if (what === 'remove') {
      const rest = versions.filter((one) => one !== version);
      const { versions: _, ...others } = job;
      return { job: rest.length > 0 ? { ...others, versions: rest } : others, report: { name: version.name } };
    }
    const next = { ...version, name: name?.trim() || version.name, note: note === undefined ? version.note : note.trim() };
    if (next.name === version.name && next.note === version.note) throw new JigError('nothing-to-do', 'It has that name and note already.');
    return { job: { ...job, versions: versions.map((one) => (one === version ? next : one)) }, report: { name: next.name } };
  },
  sentence: ({ do: what }, { name }) => (what === 'remove' ? `Removed the version “${name}”` : `Changed the version “${name}”`),
});

/** What became of a part's islands from one version to another. */
export interface PartChanges {
  part: string;
  name: string;
  /** A number of `faceChanges` a face; null: the version has no layout that fits. */
  faces: Uint8Array | null;
  islands: { same: number; moved: number; reshaped: number; recut: number };
}

export const compareVersions = defineOperation({
  name: 'compareVersions',
  label: 'Compare versions',
  words: 'difference changed',
  asked: ['version'],
  changes: [],
  summary: 'What became of each island from one version to another, or to the layout as it is',
  params: z.object({ version: idSchema, to: z.string().max(60).default('').describe('another version by id; default: the layout as it is') }),
  run(job, { version: id, to }): { job: Job; report: { parts: PartChanges[]; now: VersionFigures[] } } {
    const version = versionOf(job, id);
    const other = to === '' ? null : versionOf(job, to);
    const parts = job.parts.map((part): PartChanges => {
      const islands = { same: 0, moved: 0, reshaped: 0, recut: 0 };
      const before = layoutIn(version, part);
      const after = other ? layoutIn(other, part) : { uvSets: part.uvSets, activeUv: part.activeUv };
      if (!before || !after) return { part: part.id, name: part.name, faces: null, islands };
      const [a, b] = [before.uvSets[before.activeUv]!, after.uvSets[after.activeUv]!];
      const faces = changesBetweenSets(part.mesh, a, b);
      const now = islandsOf(part.mesh, b);
      for (let i = 0; i < now.count; i++) islands[faceChanges[faces[now.faces[now.start[i]!]!]!]!]++;
      return { part: part.id, name: part.name, faces, islands };
    });
    return { job, report: { parts, now: figuresOf(job) } };
  },
  sentence: (_params, { parts }) => `Compared ${plural(parts.length, 'part')}`,
});

import { JigError } from '../jigError.ts';
import { activeSet, emptySelection, partOf, type Job, type JobJig, type Part } from '../job/job.ts';
import { ownImages, withPicturesOfPieces } from '../job/pictureParts.ts';
import { selectionByPart } from '../job/selected.ts';
import { sheetsOf } from '../job/sheets.ts';
import type { Sheet } from '../job/sheet.ts';
import { facesByName, splitPart, wholeParts, type Split } from '../job/splitPart.ts';
import { facesKey, type Version, type VersionLayout } from '../job/versions.ts';
import { convertSelection } from '../select/convert.ts';
import { islandsOf } from '../uv/islands.ts';

interface SplitParams {
  parts?: string[];
  by: 'material' | 'group' | 'selected';
  sheets: boolean;
}

/** Which faces of which part become parts. @throws JigError `nothing-to-do` */
function splitsOf(job: Job, { parts: ids, by }: SplitParams): Map<Part, Split[]> {
  const taken = new Set(job.parts.map(({ id }) => id));
  const freeId = () => {
    for (let n = job.parts.length + 1; ; n++) {
      const id = `part-${n}`;
      if (taken.has(id)) continue;
      taken.add(id);
      return id;
    }
  };
  const named = (part: Part, lists: { name: string; faces: Uint32Array }[]) =>
    // the first keeps the part's id, so that what names it still finds something
    lists.map(({ name, faces }, k): Split => ({ id: k === 0 ? part.id : freeId(), name: `${part.name} · ${name}`.slice(0, 120), faces }));
  const wanted = ids ? ids.map((id) => partOf(job, id)) : null;
  const out = new Map<Part, Split[]>();
  if (by !== 'selected') {
    for (const part of wanted ?? job.parts) {
      const lists = facesByName(part, by);
      if (lists.length > 1) out.set(part, named(part, lists));
    }
    if (out.size === 0)
      throw new JigError('nothing-to-do', `No part has more than one ${by}.`, '', by === 'material' ? 'Give faces to a material first, at Parts.' : '');
    return out;
  }
  for (const { part, kind, ids: chosen } of selectionByPart(job)) {
    if (wanted && !wanted.includes(part)) continue;
    const faces = convertSelection(part.mesh, islandsOf(part.mesh, activeSet(part)), kind, chosen, 'faces', 'touching');
    const total = part.mesh.faceStart.length - 1;
    if (faces.length === 0 || faces.length === total) continue;
    const isChosen = new Set(faces);
    const rest = Uint32Array.from({ length: total }, (_, f) => f).filter((f) => !isChosen.has(f));
    out.set(part, [
      { id: part.id, name: part.name, faces: rest },
      { id: freeId(), name: `${part.name} · taken out`.slice(0, 120), faces: Uint32Array.from(faces) },
    ]);
  }
  if (out.size === 0) throw new JigError('nothing-to-do', 'Some, but not all faces of a part have to be selected.', '', 'Select faces or islands first.');
  return out;
}

/** Where the faces of one part are in others: the part and number of each. */
type FaceMap = (face: number) => { part: string; face: number } | undefined;

function jigsOn(jigs: readonly JobJig[] | undefined, part: string, map: FaceMap): readonly JobJig[] | undefined {
  return jigs?.map((jig) => ({
    ...jig,
    drives: jig.drives.flatMap((drive) => {
      if (drive.part !== part) return [drive];
      const byPart = new Map<string, number[]>();
      for (const f of drive.faces) {
        const to = map(f);
        if (to) byPart.set(to.part, [...(byPart.get(to.part) ?? []), to.face]);
      }
      return [...byPart].map(([id, faces]) => ({ ...drive, part: id, faces: Uint32Array.from(faces).sort() }));
    }),
  }));
}

/** Sheets named after the materials, those of that name where there are some; each piece on its own. */
function onOwnSheets(job: Job, pieces: readonly Part[]): { job: Job; sheets: number } {
  const list: Sheet[] = [...sheetsOf(job)];
  const { width, height, margin, borderGap } = job.settings;
  const sheetOf = new Map<string, string>();
  for (const { mesh } of pieces) {
    const name = (mesh.materials[0] ?? 'no material').slice(0, 80);
    if (sheetOf.has(name)) continue;
    const known = list.find((sheet) => sheet.name === name);
    let n = list.length + 1;
    while (list.some(({ id }) => id === `sheet-${n}`)) n++;
    const sheet = known ?? { id: `sheet-${n}`, name, width, height, margin, borderGap, tiles: 1, density: null };
    if (!known) list.push(sheet);
    sheetOf.set(name, sheet.id);
  }
  const moved = new Map(pieces.map((part) => [part.id, sheetOf.get((part.mesh.materials[0] ?? 'no material').slice(0, 80))!]));
  const parts = job.parts.map((part) => (moved.has(part.id) ? { ...part, sheet: moved.get(part.id)! } : part));
  // sheets that nothing is on any more go, where the job had but the one it began with
  const used = new Set(parts.map((part) => (part.sheet === undefined ? list[0]!.id : part.sheet)));
  const left = job.sheets ? list : list.filter(({ id }) => used.has(id));
  return { job: { ...job, parts, sheets: left }, sheets: sheetOf.size };
}

/** A version's layout of the part as those of its pieces. */
function splitVersions(
  versions: readonly Version[] | undefined,
  part: Part,
  splits: readonly Split[],
  pieces: readonly Part[],
): readonly Version[] | undefined {
  const key = facesKey(part.mesh);
  return versions?.map((version) => ({
    ...version,
    layouts: version.layouts.flatMap((layout): VersionLayout[] => {
      if (layout.part !== part.id || layout.faces !== key) return [layout];
      const then = splitPart({ ...part, uvSets: layout.uvSets, activeUv: layout.activeUv }, splits);
      return then.map(({ id, name, uvSets, activeUv }, k) => ({ part: id, name, faces: facesKey(pieces[k]!.mesh), uvSets, activeUv }));
    }),
  }));
}

export function splitNow(job: Job, params: SplitParams): { job: Job; report: { parts: number; pieces: number; sheets: number } } {
  const splits = splitsOf(job, params);
  let next = job;
  const made: Part[] = [];
  for (const [part, list] of splits) {
    const pieces = splitPart(part, list);
    made.push(...pieces);
    const at = new Map<number, { part: string; face: number }>();
    list.forEach(({ id, faces }) => faces.forEach((f, k) => at.set(f, { part: id, face: k })));
    const { jigs, versions, savedSelections, selectedParts, ...rest } = next;
    const saved = savedSelections?.filter((one) => one.part !== part.id && !one.also?.some((other) => other.part === part.id));
    const chosen = selectedParts?.flatMap((id) => (id === part.id ? list.map((split) => split.id) : [id]));
    const nowJigs = jigsOn(jigs, part.id, (f) => at.get(f));
    const nowVersions = splitVersions(versions, part, list, pieces);
    next = {
      ...rest,
      parts: rest.parts.flatMap((one) => (one.id === part.id ? pieces : [one])),
      selection: { ...emptySelection(rest.activePart), kind: rest.selection.kind },
      ...(nowJigs ? { jigs: nowJigs } : {}),
      ...(nowVersions ? { versions: nowVersions } : {}),
      ...(saved?.length ? { savedSelections: saved } : {}),
      ...(chosen?.length ? { selectedParts: chosen } : {}),
    };
  }
  if (params.by === 'material') next = ownImages(next, new Set(made.map(({ id }) => id)));
  const sheets =
    params.by === 'material' && params.sheets
      ? onOwnSheets(
          next,
          next.parts.filter(({ id }) => made.some((one) => one.id === id)),
        )
      : null;
  return { job: sheets?.job ?? next, report: { parts: splits.size, pieces: made.length, sheets: sheets?.sheets ?? 0 } };
}

export function rejoinNow(job: Job, { parts: ids }: { parts?: string[] }): { job: Job; report: { parts: number; pieces: number } } {
  const asked = (ids ?? job.parts.filter((part) => part.piece).map(({ id }) => id)).map((id) => partOf(job, id));
  const wholes = new Set(asked.flatMap(({ piece }) => (piece ? [piece.whole] : [])));
  if (wholes.size === 0) throw new JigError('nothing-to-do', 'No part was split.');
  const joined = wholeParts(job.parts.filter(({ piece }) => piece && wholes.has(piece.whole))).filter((part) => part.pieces);
  if (joined.length === 0)
    throw new JigError('nothing-to-do', 'A piece is missing, or its mesh was changed since; they cannot be put together.', '', 'Undo that first.');
  let next = job;
  let count = 0;
  for (const { pieces, ...whole } of joined) {
    const own = pieces!;
    count += own.length;
    // a part that was added since may have the old name
    const id = own.some((part) => part.id === whole.id) || !job.parts.some((part) => part.id === whole.id) ? whole.id : own[0]!.id;
    const isOwn = new Set(own.map((part) => part.id));
    let jigs = next.jigs;
    for (const part of own) jigs = jigsOn(jigs, part.id, (f) => ({ part: id, face: part.piece!.faces[f]! }));
    const { savedSelections, selectedParts, versions, ...rest } = next;
    const saved = savedSelections?.filter((one) => !isOwn.has(one.part) && !one.also?.some((other) => isOwn.has(other.part)));
    const chosen = selectedParts ? [...new Set(selectedParts.map((one) => (isOwn.has(one) ? id : one)))] : [];
    const { piece: _, ...plain } = whole as Part;
    const part: Part = { ...plain, id };
    const active = isOwn.has(rest.activePart) ? id : rest.activePart;
    next = {
      ...rest,
      parts: rest.parts.flatMap((one) => (one.id === own[0]!.id ? [part] : isOwn.has(one.id) ? [] : [one])),
      activePart: active,
      selection: { ...emptySelection(active), kind: rest.selection.kind },
      ...(jigs ? { jigs: jigs.map((jig) => ({ ...jig, drives: mergedDrives(jig.drives) })) } : {}),
      ...(versions ? { versions: versions.map((version) => withWhole(version, part, own)) } : {}),
      ...(saved?.length ? { savedSelections: saved } : {}),
      ...(chosen.length > 0 ? { selectedParts: chosen } : {}),
    };
    next = withPicturesOfPieces(next, part, own);
  }
  return { job: next, report: { parts: joined.length, pieces: count } };
}

/** What a jig drives of one part and set is one. */
function mergedDrives(drives: JobJig['drives']): JobJig['drives'] {
  const byKey = new Map<string, JobJig['drives'][number]>();
  for (const drive of drives) {
    const key = `${drive.part} ${drive.set}`;
    const known = byKey.get(key);
    byKey.set(key, known ? { ...known, faces: Uint32Array.from(new Set([...known.faces, ...drive.faces])).sort() } : drive);
  }
  return [...byKey.values()];
}

/** A version's layouts of the pieces as that of the whole, where it has all of them. */
function withWhole(version: Version, whole: Part, pieces: readonly Part[]): Version {
  const found = pieces.map((part) => version.layouts.find((one) => one.part === part.id && one.faces === facesKey(part.mesh)));
  if (!found.every((one) => one !== undefined)) return version;
  const [then] = wholeParts(pieces.map((part, k) => ({ ...part, uvSets: found[k]!.uvSets, activeUv: found[k]!.activeUv })));
  const layout: VersionLayout = { part: whole.id, name: whole.name, faces: facesKey(whole.mesh), uvSets: then!.uvSets, activeUv: then!.activeUv };
  const at = version.layouts.indexOf(found[0]!);
  return { ...version, layouts: version.layouts.flatMap((one, k) => (k === at ? [layout] : found.includes(one) ? [] : [one])) };
}

import { JigError } from '../jigError.ts';
import { originFits } from '../job/originFits.ts';
import { emptySelection, type Job, type JobJig, type Part, type PartPiece, type Selection } from '../job/job.ts';
import { facesKey, type Version } from '../job/versions.ts';
import { faceCount, pointCount } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import { withOwnPoints } from '../uv/ownPoints.ts';
import type { UvSet } from '../uv/uvSet.ts';

/**
 * A job that was read from a file, made sure of: meshes and UVs must be whole; what merely shows them (selections, hidden faces, marks, the set
 * and part at hand) is left out where it does not fit, and said in the intake. O(job).
 * @throws JigError `bad-file` with the part
 */
export function soundJob(read: Job): Job {
  const words = new Set<string>();
  const ids = new Set(read.parts.map(({ id }) => id));
  if (ids.size !== read.parts.length) throw bad('Two of its parts have one id', '');
  const images = new Set(read.images.map(({ id }) => id));
  const parts = read.parts.map((part) => soundPart(part, images, words));
  const jigs = read.jigs && soundJigs(read.jigs, parts, words);
  const activePart = ids.has(read.activePart) ? read.activePart : parts[0]!.id;
  const selection = fits(read.selection, parts) ? read.selection : emptySelection(activePart);
  const saved = read.savedSelections?.filter((one) => fits(one, parts));
  if (selection !== read.selection || saved?.length !== read.savedSelections?.length) words.add('a selection of what is not there');
  const selectedParts = read.selectedParts?.filter((id) => ids.has(id));
  const versions = read.versions && soundVersions(read.versions, parts, words);
  const intake = words.size > 0 ? [...read.intake, `The file was damaged; this was left out: ${[...words].join(', ')}.`] : read.intake;
  return {
    ...read,
    parts,
    activePart,
    selection,
    intake,
    ...(saved ? { savedSelections: saved } : {}),
    ...(selectedParts ? { selectedParts } : {}),
    ...(jigs ? { jigs } : {}),
    ...(versions ? { versions } : {}),
  };
}

/** Versions with the layouts that are whole: one that says it fits a part has to. */
function soundVersions(versions: readonly Version[], parts: readonly Part[], words: Set<string>): Version[] {
  return versions.map((version) => ({
    ...version,
    layouts: version.layouts.flatMap((layout) => {
      const part = parts.find(({ id }) => id === layout.part);
      if (!part || layout.faces !== facesKey(part.mesh)) return [layout];
      const edges = topologyOf(part.mesh).edgeCount;
      try {
        for (const set of layout.uvSets) assertSet(set, part, edges);
      } catch {
        words.add('a layout of a version');
        return [];
      }
      if (layout.activeUv < 0 || layout.activeUv >= layout.uvSets.length) return [];
      return [{ ...layout, uvSets: layout.uvSets.map((set) => withOwnPoints(part.mesh, set).set) }];
    }),
  }));
}

const bad = (what: string, name: string) =>
  new JigError('bad-file', `The job cannot be used: ${what}.`, name ? `part “${name.slice(0, 60)}”` : '', 'Use an earlier copy.');

function soundPart(part: Part, images: ReadonlySet<string>, words: Set<string>): Part {
  const { mesh, name } = part;
  const faces = faceCount(mesh);
  if (faces < 1 || mesh.faceStart[0] !== 0 || mesh.faceStart[faces] !== mesh.corners.length || mesh.points.length % 3 !== 0)
    throw bad('its faces are not whole', name);
  for (let f = 0; f < faces; f++) if (mesh.faceStart[f + 1]! < mesh.faceStart[f]! + 3) throw bad('its faces are not whole', name);
  const points = pointCount(mesh);
  for (const p of mesh.corners) if (p >= points) throw bad('its faces use points that are not there', name);
  for (const x of mesh.points) if (!Number.isFinite(x)) throw bad('its points are not all numbers', name);
  const edges = topologyOf(mesh).edgeCount;
  for (const set of part.uvSets) assertSet(set, part, edges);
  const fit = <K extends string, A extends ArrayLike<number>>(key: K, array: A | undefined, length: number, what: string): Partial<Record<K, A>> => {
    if (!array) return {};
    if (array.length === length) return { [key]: array } as Record<K, A>;
    words.add(what);
    return {};
  };
  const numbered = (array: Int32Array, names: readonly string[], what: string): Int32Array => {
    if (array.length === faces && array.every((k) => k >= -1 && k < names.length)) return array;
    words.add(what);
    return Int32Array.from({ length: faces }, (_, f) => (array[f]! >= 0 && array[f]! < names.length ? array[f]! : -1));
  };
  const { pointColors, normals, cornerNormal, ...plain } = mesh;
  const { hidden, done, seamMarks, grain, uvSets, piece, ...rest } = part;
  const normalsFit = normals && cornerNormal && cornerNormal.length === mesh.corners.length && cornerNormal.every((n) => n >= -1 && n * 3 + 2 < normals.length);
  if ((normals || cornerNormal) && !normalsFit) words.add('normals');
  if (part.imageId !== null && !images.has(part.imageId)) words.add('an image that is not there');
  if (part.activeUv < 0 || part.activeUv >= part.uvSets.length) words.add('the UV set at hand');
  return {
    ...rest,
    mesh: {
      ...plain,
      faceGroup: numbered(mesh.faceGroup, mesh.groups, 'face groups'),
      faceMaterial: numbered(mesh.faceMaterial, mesh.materials, 'materials of faces'),
      faceSmooth: mesh.faceSmooth.length === faces ? mesh.faceSmooth : (words.add('smoothing groups'), new Int32Array(faces).fill(-1)),
      ...fit('pointColors', pointColors, mesh.points.length, 'colours of points'),
      ...(normalsFit ? { normals, cornerNormal } : {}),
    },
    // archives of before had UV points that several islands shared
    uvSets: uvSets
      .map((one) => withOwnPoints(mesh, one).set)
      .map(({ stack, block, locked, headed, weight, care, straight, ...set }) => ({
        ...set,
        ...fit('stack', stack, faces, 'marks of stacks'),
        ...fit('block', block, faces, 'blocks for packing'),
        ...fit('locked', locked, faces, 'locks of islands'),
        ...fit('weight', weight?.every((x) => x > 0 && x < 1e6) ? weight : undefined, faces, 'weights of density'),
        ...fit('care', care?.every((x) => x > 0 && x < 1e6) ? care : undefined, faces, 'weights of stretch'),
        ...fit('straight', straight?.every((x) => x <= 15) ? straight : undefined, mesh.corners.length, 'edges that are to be straight'),
        ...fit('headed', headed, faces, 'headings set on purpose'),
      })),
    activeUv: part.activeUv >= 0 && part.activeUv < part.uvSets.length ? part.activeUv : 0,
    imageId: part.imageId !== null && images.has(part.imageId) ? part.imageId : null,
    origin: soundOrigin(part, words),
    ...(piece ? soundPiece(piece, words) : {}),
    ...fit('hidden', hidden, faces, 'hidden faces'),
    ...fit('done', done, faces, 'faces marked as done'),
    ...fit('seamMarks', seamMarks, faces, 'marks for seams'),
    ...fit('grain', grain?.every(Number.isFinite) ? grain : undefined, faces * 3, 'the grain'),
  };
}

function assertSet(set: UvSet, { mesh, name }: Part, edges: number) {
  const count = set.uv.length / 2;
  if (set.cornerUv.length !== mesh.corners.length || set.unplaced.length !== faceCount(mesh) || set.pins.length !== count || set.uv.length % 2 !== 0)
    throw bad('its UVs do not fit its mesh', name);
  for (const i of set.cornerUv) if (i >= count) throw bad('its UVs do not fit its mesh', name);
  for (const x of set.uv) if (!Number.isFinite(x)) throw bad('its UVs are not all numbers', name);
  for (const e of set.slits) if (e >= edges) throw bad('its seams are not on its mesh', name);
}

/** Where a part came from, or `made` where that does not fit what is there. */
function soundOrigin({ origin, mesh }: Part, words: Set<string>): Part['origin'] {
  if (originFits(origin, mesh)) return origin;
  words.add('what was kept of the file that a part came from');
  return { kind: 'made' };
}

/** Ids rise and are there. */
function fits({ part: id, kind, ids, corners, also }: Selection, parts: readonly Part[]): boolean {
  if (also && !also.every((one) => fits({ ...one, kind }, parts))) return false;
  if (ids.length === 0) return true;
  const part = parts.find((one) => one.id === id);
  if (!part) return false;
  const { mesh } = part;
  const count =
    kind === 'points'
      ? pointCount(mesh)
      : kind === 'edges'
        ? topologyOf(mesh).edgeCount
        : kind === 'faces'
          ? faceCount(mesh)
          : islandsOf(mesh, part.uvSets[part.activeUv]!).count;
  return ids.every((x, k) => x < count && (k === 0 || x > ids[k - 1]!)) && (corners ?? []).every((c) => c < mesh.corners.length);
}

function soundJigs(jigs: readonly JobJig[], parts: readonly Part[], words: Set<string>): JobJig[] {
  return jigs.map((jig) => {
    const drives = jig.drives.filter((drive) => {
      const part = parts.find(({ id }) => id === drive.part);
      return part && drive.faces.every((f) => f < faceCount(part.mesh));
    });
    if (drives.length === jig.drives.length) return jig;
    words.add(`what the jig “${jig.name.slice(0, 60)}” drove`);
    return { ...jig, drives };
  });
}

/** Where a piece was in the whole; a part by itself where its numbers are beyond it. */
function soundPiece(piece: PartPiece, words: Set<string>): { piece?: PartPiece } {
  const { faces, points } = piece;
  if (faces.every((f) => f < piece.faceCount) && points.every((p) => p < piece.pointCount)) return { piece };
  words.add('what a part was split off');
  return {};
}

import type { Mesh } from '../mesh/mesh.ts';
import { faceMarksFrom, hasFaceMarks, type FaceMarks } from '../uv/faceMarks.ts';
import { passRanks } from '../uv/ranks.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { activeSet, type Job, type Part } from './job.ts';

/** Several parts as one mesh with one UV set, for measures and packing over all of them. */
export interface Joined {
  mesh: Mesh;
  set: UvSet;
  parts: readonly Part[];
  uvStart: number[];
}

const cache = new WeakMap<Mesh, { key: Mesh[]; mesh: Mesh }>();

/** Puts parts side by side in the arrays, each keeping its own points. O(size); the mesh is kept while the parts' meshes stay. */
export function joinParts(parts: readonly Part[]): Joined {
  if (parts.length === 1) return { mesh: parts[0]!.mesh, set: activeSet(parts[0]!), parts, uvStart: [0] };
  const mesh = joinedMesh(parts.map((part) => part.mesh));
  const sets = parts.map(activeSet);
  const uvStart: number[] = [];
  let uvCount = 0;
  for (const set of sets) {
    uvStart.push(uvCount);
    uvCount += set.uv.length / 2;
  }
  const cornerUv = new Uint32Array(mesh.corners.length);
  const uv = new Float64Array(uvCount * 2);
  const pins = new Uint8Array(uvCount);
  const unplaced = new Uint8Array(mesh.faceStart.length - 1);
  let corner = 0;
  let face = 0;
  sets.forEach((set, k) => {
    for (let c = 0; c < set.cornerUv.length; c++) cornerUv[corner + c] = set.cornerUv[c]! + uvStart[k]!;
    uv.set(set.uv, uvStart[k]! * 2);
    pins.set(set.pins, uvStart[k]);
    unplaced.set(set.unplaced, face);
    corner += set.cornerUv.length;
    face += set.unplaced.length;
  });
  // slits part no UV points, so measures and packing do not need them
  return { mesh, set: { name: 'all', cornerUv, uv, unplaced, slits: new Uint32Array(0), pins, ...joinedMarks(sets) }, parts, uvStart };
}

function joinedFaceMarks(sets: readonly UvSet[]): FaceMarks {
  const faces = sets.reduce((sum, { unplaced }) => sum + unplaced.length, 0);
  const setOf = new Int32Array(faces);
  const faceOf = new Int32Array(faces);
  let at = 0;
  sets.forEach(({ unplaced }, k) => {
    for (let f = 0; f < unplaced.length; f++, at++) {
      setOf[at] = k;
      faceOf[at] = f;
    }
  });
  return faceMarksFrom(
    sets,
    faces,
    (f) => setOf[f]!,
    (f) => faceOf[f]!,
  );
}

/** Marks of faces and corners that sets may have. */
function joinedMarks(sets: readonly UvSet[]): FaceMarks & Pick<UvSet, 'straight'> {
  const marks = sets.some(hasFaceMarks) ? joinedFaceMarks(sets) : {};
  if (!sets.some(({ straight }) => straight)) return marks;
  const straight = new Uint8Array(sets.reduce((sum, { cornerUv }) => sum + cornerUv.length, 0));
  let at = 0;
  for (const set of sets) {
    if (set.straight) straight.set(set.straight, at);
    at += set.cornerUv.length;
  }
  return { ...marks, straight };
}

function joinedMesh(meshes: Mesh[]): Mesh {
  const kept = cache.get(meshes[0]!);
  if (kept && kept.key.length === meshes.length && kept.key.every((mesh, k) => mesh === meshes[k])) return kept.mesh;
  const sum = (of: (mesh: Mesh) => number) => meshes.reduce((total, mesh) => total + of(mesh), 0);
  const points = new Float64Array(sum((m) => m.points.length));
  const corners = new Uint32Array(sum((m) => m.corners.length));
  const faces = sum((m) => m.faceStart.length - 1);
  const faceStart = new Uint32Array(faces + 1);
  let p = 0;
  let c = 0;
  let f = 0;
  for (const m of meshes) {
    points.set(m.points, p * 3);
    for (let k = 0; k < m.corners.length; k++) corners[c + k] = m.corners[k]! + p;
    for (let k = 0; k + 1 < m.faceStart.length; k++) faceStart[f + k + 1] = m.faceStart[k + 1]! + c;
    p += m.points.length / 3;
    c += m.corners.length;
    f += m.faceStart.length - 1;
  }
  const none = () => new Int32Array(faces).fill(-1);
  const mesh: Mesh = { points, faceStart, corners, faceGroup: none(), groups: [], faceMaterial: none(), materials: [], faceSmooth: none() };
  cache.set(meshes[0]!, { key: meshes, mesh });
  return mesh;
}

/** Gives moved UV points back to the parts of a job. */
export function splitUv(job: Job, joined: Joined, uv: Float64Array): Job {
  const byId = new Map<string, UvSet>();
  joined.parts.forEach((part, k) => {
    const set = activeSet(part);
    const from = joined.uvStart[k]! * 2;
    byId.set(part.id, passRanks(set, { ...set, uv: joined.parts.length === 1 ? uv : uv.slice(from, from + set.uv.length) }));
  });
  return {
    ...job,
    parts: job.parts.map((part) =>
      byId.has(part.id) ? { ...part, uvSets: part.uvSets.map((set, k) => (k === part.activeUv ? byId.get(part.id)! : set)) } : part,
    ),
  };
}

import { BufferAttribute, BufferGeometry } from 'three';
import { MeshBVH, type SerializedBVH } from 'three-mesh-bvh';
import { JigError } from '@jig-peel/core/jigError';
import { cornerNormals } from '@jig-peel/core/mesh/cornerNormals';
import type { Mesh } from '@jig-peel/core/mesh/mesh';
import { roundedEdges } from '@jig-peel/core/mesh/roundedEdges';
import { topologyOf } from '@jig-peel/core/mesh/topology';
import { trianglesOf } from '@jig-peel/core/mesh/triangles';
import { atOwnScale, stretchFigures, triangleStretch } from '@jig-peel/core/measure/distortion';
import { smoothed, type Smoothed } from '@jig-peel/core/uv/smooth';
import type { UvSet } from '@jig-peel/core/uv/uvSet';
import { atSlots } from '../atSlots.ts';
import type { FormLook, FormView } from '../messages.ts';
import type { ReliefInput, Tasks, Tools } from './tasks.ts';

/** Beyond so many corners a form is divided less often, and beyond so many not at all: the graphics and this page’s memory would not take it. */
const mostCorners = 1_600_000;
const mostOnce = 4_000_000;
/** Degrees beyond which the smoothed form keeps a crease in its shading. */
const crease = 60;

export async function form({ set, look, meshId, relief }: Tasks['form']['input'], { mesh, check }: Tools): Promise<FormView> {
  if (look.form === 'raised') return raisedForm(mesh(), set, look, meshId, relief, check);
  return look.form === 'rounded' ? roundedForm(mesh(), set, look, meshId) : smoothForm(mesh(), set, look, meshId);
}

/** As often as was wanted, or as the size of the mesh allows. */
function levelsOf(mesh: Mesh, wanted: number): number {
  let levels = wanted;
  while (levels > 1 && mesh.corners.length * 4 ** levels > mostCorners) levels--;
  return levels;
}

/** The mesh smoothed with its layout. */
function smoothForm(mesh: Mesh, set: UvSet, { levels: wanted, borders }: FormLook, meshId: number): FormView {
  if (mesh.corners.length * 4 > mostOnce)
    throw new JigError('too-large', 'This part has too many faces to be looked at smoothed.', '', 'Deliver it smoothed, or look at a smaller part.');
  const levels = levelsOf(mesh, wanted);
  const fine = smoothed(mesh, set, { levels, borders });
  return { ...dividedForm(fine, mesh, levels, meshId), energy: { cage: energyOf(mesh, set), form: energyOf(fine.mesh, fine.set) } };
}

/** The mesh with its relief as real height. */
async function raisedForm(
  mesh: Mesh,
  set: UvSet,
  { levels: wanted }: FormLook,
  meshId: number,
  relief: ReliefInput | null,
  check: () => void,
): Promise<FormView> {
  if (!relief) throw new JigError('nothing-to-do', 'This part has no relief.', '', 'Add a layer at Images and let it go to relief, or choose another part.');
  if (mesh.corners.length * 4 > mostOnce)
    throw new JigError(
      'too-large',
      'This part has too many faces to be looked at with raised relief.',
      '',
      'The relief is seen by the moving lamp on the cage.',
    );
  const [{ raised }, { decodedImages }, { decodeByBrowser }, { imagesOfLayers }] = await Promise.all([
    import('@jig-peel/core/images/surface/raised'),
    import('@jig-peel/core/images/bakeBands'),
    import('./baking.ts'),
    import('@jig-peel/core/images/surface/layer'),
  ]);
  const wantedImages = new Set(imagesOfLayers(relief.plan.layers.map(({ layer }) => layer)));
  const { pixels } = await decodedImages(relief.images, wantedImages, decodeByBrowser);
  check();
  const levels = levelsOf(mesh, wanted);
  const made = raised(mesh, set, relief.plan, (id) => pixels.get(id) ?? null, levels);
  const { corners, count } = trianglesOf(made.mesh);
  const view = dividedForm(made, mesh, levels, meshId);
  const [sunk, normals] = [new Float32Array(count * 9), new Float32Array(count * 9)];
  for (let k = 0; k < count * 3; k++)
    for (let d = 0; d < 3; d++) {
      sunk[k * 3 + d] = made.flat[corners[k]! * 3 + d]! - view.positions[k * 3 + d]!;
      normals[k * 3 + d] = made.normals[corners[k]! * 3 + d]!;
    }
  return { ...view, flat: { sunk, normals } };
}

/** A mesh divided so often, ready to draw. */
function dividedForm(fine: Pick<Smoothed, 'mesh' | 'set' | 'faceFrom' | 'alongEdge'>, mesh: Mesh, levels: number, meshId: number): FormView {
  const { corners, face, count } = trianglesOf(fine.mesh);
  const { normals, cornerNormal } = cornerNormals(fine.mesh, { kind: 'smooth', angle: crease });
  const [positions, shading, uvAt] = [new Float32Array(count * 9), new Float32Array(count * 9), new Float32Array(count * 6)];
  for (let k = 0; k < count * 3; k++) {
    const c = corners[k]!;
    for (let d = 0; d < 3; d++) {
      positions[k * 3 + d] = fine.mesh.points[fine.mesh.corners[c]! * 3 + d]!;
      shading[k * 3 + d] = normals[cornerNormal[c]! * 3 + d]!;
    }
    for (let d = 0; d < 2; d++) uvAt[k * 2 + d] = fine.set.uv[fine.set.cornerUv[c]! * 2 + d]!;
  }
  const edges = new Float32Array(fine.alongEdge.length * 6);
  fine.alongEdge.forEach((c, k) => {
    const ends = [fine.mesh.corners[c]!, fine.mesh.corners[c - (c % 4) + ((c + 1) % 4)]!];
    ends.forEach((p, end) => {
      for (let d = 0; d < 3; d++) edges[k * 6 + end * 3 + d] = fine.mesh.points[p * 3 + d]!;
    });
  });
  return {
    meshId,
    levels,
    triangles: count,
    faces: fine.mesh.faceStart.length - 1,
    positions,
    normals: shading,
    uvAt,
    triFace: Uint32Array.from(face, (f) => fine.faceFrom[f]!),
    triCorner: corners.slice(),
    inner: null,
    shares: null,
    edges,
    points: Float32Array.from(fine.mesh.points.subarray(0, mesh.points.length)),
    flat: null,
    bvh: bvhOf(positions),
    energy: null,
  };
}

function bvhOf(positions: Float32Array): SerializedBVH {
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  return MeshBVH.serialize(new MeshBVH(geometry, { indirect: true }), { cloneBuffers: false });
}

const energyOf = (mesh: Mesh, set: UvSet) => stretchFigures(atOwnScale(mesh, set, triangleStretch(mesh, set, 1, 1))).symmetricDirichlet;

/** The mesh as it is, its edges shaded as though they were rounded. */
function roundedForm(mesh: Mesh, set: UvSet, { radius }: FormLook, meshId: number): FormView {
  const { cornerFace } = topologyOf(mesh);
  const { faceStart, corners } = mesh;
  const shares = roundedEdges(mesh, radius);
  const flat = cornerNormals(mesh);
  const round = cornerNormals(mesh, { kind: 'smooth', angle: 180 });
  const inside = trianglesOf(mesh);
  const count = corners.length * 2 + inside.count;
  const triCorner = new Uint32Array(count * 3);
  const inner = new Uint8Array(count * 3);
  const triFace = new Uint32Array(count);
  let at = 0;
  const triangle = (face: number, list: readonly [corner: number, isInner: number][]) => {
    triFace[at] = face;
    list.forEach(([c, isInner], k) => {
      triCorner[at * 3 + k] = c;
      inner[at * 3 + k] = isInner;
    });
    at++;
  };
  for (let c = 0; c < corners.length; c++) {
    const f = cornerFace[c]!;
    const next = c + 1 === faceStart[f + 1]! ? faceStart[f]! : c + 1;
    triangle(f, [
      [c, 0],
      [next, 0],
      [next, 1],
    ]);
    triangle(f, [
      [c, 0],
      [next, 1],
      [c, 1],
    ]);
  }
  for (let t = 0; t < inside.count; t++)
    triangle(
      inside.face[t]!,
      [0, 1, 2].map((k) => [inside.corners[t * 3 + k]!, 1] as [number, number]),
    );
  const places = Float32Array.from({ length: corners.length * 3 }, (_, k) => mesh.points[corners[Math.floor(k / 3)]! * 3 + (k % 3)]!);
  const uvs = Float32Array.from({ length: corners.length * 2 }, (_, k) => set.uv[set.cornerUv[k >> 1]! * 2 + (k & 1)]!);
  const normals = new Float32Array(count * 9);
  for (let k = 0; k < count * 3; k++) {
    const { normals: from, cornerNormal } = inner[k] ? flat : round;
    for (let d = 0; d < 3; d++) normals[k * 3 + d] = from[cornerNormal[triCorner[k]!]! * 3 + d]!;
  }
  const slots = { triCorner, inner, shares, faceStart, levels: 0 };
  return {
    meshId,
    levels: 0,
    triangles: count,
    faces: faceStart.length - 1,
    positions: atSlots(places, 3, slots),
    normals,
    uvAt: atSlots(uvs, 2, slots),
    triFace,
    triCorner,
    inner,
    shares,
    edges: null,
    points: null,
    flat: null,
    bvh: null,
    energy: null,
  };
}

import type { Mesh } from '../mesh/mesh.ts';
import { JigError } from '../jigError.ts';
import { boxSides, sidePlace } from './box.ts';
import { cylinderFace } from './cylindrical.ts';
import { eachFacePlace } from './eachFace.ts';
import { flatRegionPlaces } from './flatRegions.ts';
import { axesOf, imagePlace, jigSides, type Jig } from './jig.ts';
import { planarPlace } from './planar.ts';
import type { Projected, ProjectionWork } from './projected.ts';
import { sphereFace } from './spherical.ts';

/** Points of the chosen faces in the jig's own space (units, not divided by its size): 3 numbers a corner of `corners`. */
function ownPlaces(mesh: Mesh, corners: Uint32Array, jig: Jig): Float64Array {
  const [[xx, xy, xz], [yx, yy, yz], [zx, zy, zz]] = axesOf(jig);
  const [ox, oy, oz] = jig.origin;
  const out = new Float64Array(corners.length * 3);
  const { points } = mesh;
  for (let k = 0; k < corners.length; k++) {
    const p = mesh.corners[corners[k]!]! * 3;
    const px = points[p]! - ox;
    const py = points[p + 1]! - oy;
    const pz = points[p + 2]! - oz;
    out[k * 3] = px * xx + py * xy + pz * xz;
    out[k * 3 + 1] = px * yx + py * yy + pz * yz;
    out[k * 3 + 2] = px * zx + py * zy + pz * zz;
  }
  return out;
}

/** Normals of the chosen faces in the jig's space (Newell's sum, length twice the area): 3 numbers a face. */
function ownNormals(places: Float64Array, start: Uint32Array): Float64Array {
  const faces = start.length - 1;
  const out = new Float64Array(faces * 3);
  for (let f = 0; f < faces; f++) {
    const from = start[f]!;
    const to = start[f + 1]!;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let k = from; k < to; k++) {
      const a = k * 3;
      const b = (k + 1 === to ? from : k + 1) * 3;
      x += (places[a + 1]! - places[b + 1]!) * (places[a + 2]! + places[b + 2]!);
      y += (places[a + 2]! - places[b + 2]!) * (places[a]! + places[b]!);
      z += (places[a]! - places[b]!) * (places[a + 1]! + places[b + 1]!);
    }
    out[f * 3] = x;
    out[f * 3 + 1] = y;
    out[f * 3 + 2] = z;
  }
  return out;
}

/**
 * UVs that a jig gives the corners of faces. Nothing else of the mesh is looked at, but for box grouping and flat regions, where neighbours among
 * the chosen faces count. O(corners of the faces), grouping and regions O(n log n).
 * @throws JigError `nothing-to-do` without faces
 */
export function project(mesh: Mesh, given: ArrayLike<number>, jig: Jig): Projected {
  const faces = Uint32Array.from(given);
  if (faces.length === 0) throw new JigError('nothing-to-do', 'No face is chosen for the projection.', '', 'Select faces first.');
  const start = new Uint32Array(faces.length + 1);
  for (let k = 0; k < faces.length; k++) {
    if (faces[k]! + 1 >= mesh.faceStart.length) throw new JigError('bad-parameter', `There is no face ${faces[k]}.`);
    start[k + 1] = start[k]! + mesh.faceStart[faces[k]! + 1]! - mesh.faceStart[faces[k]!]!;
  }
  const corners = new Uint32Array(start[faces.length]!);
  for (let k = 0; k < faces.length; k++) for (let c = start[k]!; c < start[k + 1]!; c++) corners[c] = mesh.faceStart[faces[k]!]! + c - start[k]!;
  const places = ownPlaces(mesh, corners, jig);
  const normals = ownNormals(places, start);
  const uv = new Float64Array(corners.length * 2);
  const patch = new Int32Array(faces.length);
  const put = imagePlace(jig);
  const work: ProjectionWork = { mesh, faces, start, corners, places, normals, uv, patch, put };
  switch (jig.kind) {
    case 'planar':
    case 'view':
      planarPlace(work, jig);
      break;
    case 'cylindrical':
      for (let f = 0; f < faces.length; f++) cylinderFace(work, jig, f);
      break;
    case 'spherical':
      for (let f = 0; f < faces.length; f++) sphereFace(work, jig, f);
      break;
    case 'box':
      patch.set(boxSides(work, jig));
      for (let f = 0, puts = jigSides.map((side) => imagePlace(jig, jig.own[side])); f < faces.length; f++)
        sidePlace(work, jig, puts[patch[f]!]!, f, patch[f]!);
      break;
    case 'each-face':
      for (let f = 0; f < faces.length; f++) {
        patch[f] = f;
        eachFacePlace(work, f);
      }
      break;
    case 'flat-regions':
      flatRegionPlaces(work, jig);
      break;
  }
  return { faces, start, corners, uv, patch };
}

import { faceMiddles } from '../mesh/faceMiddles.ts';
import { bounds, faceCount, type Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import type { ElementKind } from './convert.ts';
import { Depths, projectPlaces, type ModelView, type Projected } from './depths.ts';
import { RegionMask, type Region } from './regionMask.ts';

/** Whom a region is asked of. */
export interface RegionQuestion {
  mesh: Mesh;
  set: UvSet;
  /** 1 for each hidden face. */
  hidden: Uint8Array | null;
  kind: ElementKind;
  region: Region;
  /** On the model: what stands before it, besides its own faces. */
  blockers?: readonly { mesh: Mesh; hidden: Uint8Array | null }[];
}

/** The sheet's px: x = u · scaleU + left, y = top − v · scaleV. */
export interface SheetView {
  width: number;
  height: number;
  scaleU: number;
  scaleV: number;
  left: number;
  top: number;
}

/**
 * What lies in a region of the model view: points inside; edges with their middle and both ends inside; faces with their middle (mean of
 * their corners) inside; islands with any face inside. `through` takes also what other faces of the mesh, or the blockers, hide.
 * O(points + corners + px of the region), those of the blockers too.
 * @returns element numbers, rising
 */
export function modelRegion(question: RegionQuestion, view: ModelView, through: boolean): Uint32Array {
  const { mesh, set, hidden, kind, region } = question;
  const width = Math.floor(view.width);
  const height = Math.floor(view.height);
  const mask = new RegionMask(width, height, region);
  const window = mask.window();
  if (window.right <= window.left || window.bottom <= window.top) return new Uint32Array(0);
  const points = projectPlaces(mesh.points, view);
  // one px more on each side, for the nine px around a place
  const around = {
    left: Math.max(0, window.left - 1),
    top: Math.max(0, window.top - 1),
    right: Math.min(width, window.right + 1),
    bottom: Math.min(height, window.bottom + 1),
  };
  const depths = through ? null : new Depths(mesh, view, around, hidden, points);
  if (depths) for (const blocker of question.blockers ?? []) depths.add(new Depths(blocker.mesh, view, around, blocker.hidden));
  const [x0, y0, z0, x1, y1, z1] = bounds(mesh);
  const slack = Math.hypot(x1 - x0, y1 - y0, z1 - z0) * 0.004;
  const inSight = (marks: Uint8Array, places: Projected, away: (k: number) => boolean) => {
    if (depths === null) return;
    const backs = new Uint8Array(marks.length);
    for (let k = 0; k < marks.length; k++) if (marks[k] === 1 && away(k)) backs[k] = 1;
    depths.keepShown(marks, places, backs, slack);
  };
  if (kind === 'edges') {
    const { edgeCount, edgePoints, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
    const middles = projectPlaces(edgeMiddles(mesh.points, edgePoints), view);
    const marks = marked(mask, middles);
    const ends = marked(mask, points);
    for (let e = 0; e < edgeCount; e++)
      if (!ends[edgePoints[e * 2]!] || !ends[edgePoints[e * 2 + 1]!] || (hidden !== null && allMarked(hidden, cornerFace, edgeCorners, edgeStart, e)))
        marks[e] = 0;
    inSight(marks, middles, (e) => allMarked(depths!.away, cornerFace, edgeCorners, edgeStart, e));
    return listed(marks);
  }
  if (kind === 'points') {
    const { pointStart, pointCorners, cornerFace } = topologyOf(mesh);
    const marks = marked(mask, points);
    for (let p = 0; p < marks.length; p++)
      if (pointStart[p] === pointStart[p + 1] || (hidden !== null && allMarked(hidden, cornerFace, pointCorners, pointStart, p))) marks[p] = 0;
    inSight(marks, points, (p) => allMarked(depths!.away, cornerFace, pointCorners, pointStart, p));
    return listed(marks);
  }
  const middles = projectPlaces(faceMiddles(mesh), view);
  const marks = marked(mask, middles);
  if (hidden !== null) for (let f = 0; f < marks.length; f++) if (hidden[f] === 1) marks[f] = 0;
  inSight(marks, middles, (f) => depths!.away[f] === 1);
  const faces = listed(marks);
  return kind === 'faces' ? faces : islandsOfFaces(mesh, set, faces);
}

/** 1 for each place whose px is inside the mask. */
function marked({ bytes, width, height }: RegionMask, { px, py, near }: Projected): Uint8Array {
  const marks = new Uint8Array(px.length);
  for (let k = 0; k < marks.length; k++) {
    const x = px[k]!;
    const y = py[k]!;
    if (near[k]! > 0 && x >= 0 && y >= 0 && x < width && y < height) marks[k] = bytes[Math.floor(y) * width + Math.floor(x)]!;
  }
  return marks;
}

/** Are all faces at the corners of an element marked? Corners of element k: list[start[k]] … */
function allMarked(marks: Uint8Array, cornerFace: Uint32Array, list: Uint32Array, start: Uint32Array, k: number): boolean {
  for (let i = start[k]!; i < start[k + 1]!; i++) if (marks[cornerFace[list[i]!]!] === 0) return false;
  return true;
}

function edgeMiddles(points: Float64Array, edgePoints: Uint32Array): Float64Array {
  const out = new Float64Array((edgePoints.length / 2) * 3);
  for (let e = 0; e < edgePoints.length / 2; e++) {
    const a = edgePoints[e * 2]! * 3;
    const b = edgePoints[e * 2 + 1]! * 3;
    for (let d = 0; d < 3; d++) out[e * 3 + d] = (points[a + d]! + points[b + d]!) / 2;
  }
  return out;
}

/** The numbers of what is marked. */
function listed(marks: Uint8Array): Uint32Array {
  let count = 0;
  for (let k = 0; k < marks.length; k++) count += marks[k]!;
  const out = new Uint32Array(count);
  for (let k = 0, at = 0; k < marks.length; k++) if (marks[k] === 1) out[at++] = k;
  return out;
}

let lastMask: { region: Region; mask: RegionMask } | null = null;

/** The mask of a region, kept for the next of several meshes that it is asked of. */
function maskOf(region: Region, width: number, height: number): RegionMask {
  if (lastMask?.region !== region || lastMask.mask.width !== width || lastMask.mask.height !== height)
    lastMask = { region, mask: new RegionMask(width, height, region) };
  return lastMask.mask;
}

/** The same on the sheet, where everything placed is in sight. An edge counts where one of its sides has both ends inside. O(corners). */
export const sheetRegion = (question: RegionQuestion, view: SheetView): Uint32Array => sheetRegionWithCorners(question, view).ids;

/** Also, of points and edges, the corners that are inside: of an edge the one its half edge starts at. Both rising. */
export function sheetRegionWithCorners(question: RegionQuestion, view: SheetView): { ids: Uint32Array; corners: Uint32Array | null } {
  const { mesh, set, hidden, kind, region } = question;
  const { corners, faceStart } = mesh;
  const width = Math.floor(view.width);
  const mask = maskOf(region, width, Math.floor(view.height));
  const inside = (u: number, v: number) => mask.has(u * view.scaleU + view.left, view.top - v * view.scaleV);
  const { cornerEdge, edgeCount } = topologyOf(mesh);
  const total = kind === 'points' ? mesh.points.length / 3 : kind === 'edges' ? edgeCount : faceCount(mesh);
  const found = new Uint8Array(total);
  const inCorners: number[] = [];
  for (let f = 0; f < faceCount(mesh); f++) {
    if (set.unplaced[f] || (hidden !== null && hidden[f] === 1)) continue;
    const from = faceStart[f]!;
    const to = faceStart[f + 1]!;
    let u = 0;
    let v = 0;
    let before = kind === 'edges' && inside(...cornerPlace(set, to - 1));
    for (let c = from; c < to; c++) {
      const [cu, cv] = cornerPlace(set, c);
      u += cu;
      v += cv;
      if (kind === 'points') {
        if (inside(cu, cv)) {
          found[corners[c]!] = 1;
          inCorners.push(c);
        }
      } else if (kind === 'edges') {
        const here = inside(cu, cv);
        // the edge before corner c starts at the corner before it
        if (here && before) {
          const starts = c === from ? to - 1 : c - 1;
          found[cornerEdge[starts]!] = 1;
          inCorners.push(starts);
        }
        before = here;
      }
    }
    if ((kind === 'faces' || kind === 'islands') && inside(u / (to - from), v / (to - from))) found[f] = 1;
  }
  const out = listed(found);
  if (kind === 'islands') return { ids: islandsOfFaces(mesh, set, out), corners: null };
  return { ids: out, corners: kind === 'faces' ? null : Uint32Array.from(inCorners).sort() };
}

function cornerPlace(set: UvSet, c: number): [number, number] {
  const id = set.cornerUv[c]! * 2;
  return [set.uv[id]!, set.uv[id + 1]!];
}

function islandsOfFaces(mesh: Mesh, set: UvSet, faces: Uint32Array): Uint32Array {
  const { ofFace } = islandsOf(mesh, set);
  return Uint32Array.from(new Set(Array.from(faces, (f) => ofFace[f]!))).sort();
}

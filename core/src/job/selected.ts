import { convertSelection, listed } from '../select/convert.ts';
import { nextCorner } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { activeSet, type Job, type Part, type Selection } from './job.ts';

/** What is selected of one part. */
export interface PartSelection extends Pick<Selection, 'kind' | 'ids' | 'corners'> {
  readonly part: Part;
}

/** What is selected, part by part, in the order of the job's parts; parts of which nothing is selected are left out. */
export function selectionByPart(job: Job): PartSelection[] {
  const { part, kind, ids, corners, also = [] } = job.selection;
  const byPart = new Map<string, Omit<PartSelection, 'part'>>(
    also.map((one) => [one.part, { kind, ids: one.ids, ...(one.corners ? { corners: one.corners } : {}) }]),
  );
  if (ids.length > 0) byPart.set(part, { kind, ids, ...(corners ? { corners } : {}) });
  return job.parts.filter(({ id }) => (byPart.get(id)?.ids.length ?? 0) > 0).map((one) => ({ part: one, ...byPart.get(one.id)! }));
}

/** Islands that hold what is selected and have a place on the sheet, rising. */
export function placedIslandsOf({ part, kind, ids, corners }: PartSelection): number[] {
  const set = activeSet(part);
  const islands = islandsOf(part.mesh, set);
  const facts = islandFacts(part.mesh, set);
  const found = corners
    ? [...new Set(Array.from(corners, (c) => islands.ofFace[topologyOf(part.mesh).cornerFace[c]!]!))].sort((a, b) => a - b)
    : [...convertSelection(part.mesh, islands, kind, ids, 'islands', 'touching')];
  return found.filter((i) => !facts[i]!.unplaced);
}

/**
 * UV points of what is selected, rising: of faces and islands their own; of points and edges those of the corners that are meant, or of all corners there.
 * Faces without a place have none. O(corners)
 */
export function uvPointsOf({ part, kind, ids, corners }: PartSelection): Uint32Array {
  const { mesh } = part;
  const set = activeSet(part);
  const { cornerFace, cornerEdge } = topologyOf(mesh);
  const found = new Uint8Array(set.uv.length / 2);
  const take = (c: number) => {
    if (!set.unplaced[cornerFace[c]!]) found[set.cornerUv[c]!] = 1;
  };
  const takeEdge = (c: number) => {
    take(c);
    take(nextCorner(mesh, c, cornerFace[c]!));
  };
  if (kind === 'faces' || kind === 'islands') {
    for (const f of convertSelection(mesh, islandsOf(mesh, set), kind, ids, 'faces', 'touching'))
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) take(c);
  } else if (corners) corners.forEach(kind === 'edges' ? takeEdge : take);
  else {
    const wanted = new Set(ids);
    for (let c = 0; c < mesh.corners.length; c++) {
      if (kind === 'points' && wanted.has(mesh.corners[c]!)) take(c);
      else if (kind === 'edges' && wanted.has(cornerEdge[c]!)) takeEdge(c);
    }
  }
  return listed(found);
}

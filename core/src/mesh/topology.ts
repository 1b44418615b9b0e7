import { faceCount, nextCorner, pointCount, type Mesh } from './mesh.ts';

/**
 * What hangs together in a mesh. Corner c stands for the half edge from its point to the next corner's. An edge may have any number
 * of corners: one (border), two that run against each other (the plain case), two that run the same way (winding disagrees), more
 * (non-manifold); only the plain case is crossed by islands.
 */
export interface Topology {
  readonly edgeCount: number;
  /** 2 points an edge, the smaller number first. */
  readonly edgePoints: Uint32Array;
  readonly cornerFace: Uint32Array;
  /** The edge that starts at each corner. */
  readonly cornerEdge: Uint32Array;
  /** Corners of edge e: edgeCorners[edgeStart[e]] … */
  readonly edgeStart: Uint32Array;
  readonly edgeCorners: Uint32Array;
  /** The one corner across the edge in the plain case, else −1. */
  readonly twin: Int32Array;
  /** Corners at point p: pointCorners[pointStart[p]] … */
  readonly pointStart: Uint32Array;
  readonly pointCorners: Uint32Array;
  readonly borderEdges: number;
  readonly nonManifoldEdges: number;
  readonly windingEdges: number;
}

const cache = new WeakMap<Mesh, Topology>();

/** The topology of a mesh, worked out once and kept as long as the mesh lives. O(corners). */
export function topologyOf(mesh: Mesh): Topology {
  let topology = cache.get(mesh);
  if (!topology) {
    topology = buildTopology(mesh);
    cache.set(mesh, topology);
  }
  return topology;
}

function buildTopology(mesh: Mesh): Topology {
  const { corners, faceStart } = mesh;
  const cornerTotal = corners.length;
  const points = pointCount(mesh);
  const faces = faceCount(mesh);
  const cornerFace = new Uint32Array(cornerTotal);
  const other = new Uint32Array(cornerTotal);
  for (let f = 0; f < faces; f++) {
    for (let c = faceStart[f]!; c < faceStart[f + 1]!; c++) {
      cornerFace[c] = f;
      other[c] = corners[nextCorner(mesh, c, f)]!;
    }
  }
  const pointStart = new Uint32Array(points + 1);
  for (let c = 0; c < cornerTotal; c++) pointStart[corners[c]! + 1]!++;
  for (let p = 0; p < points; p++) pointStart[p + 1]! += pointStart[p]!;
  const pointCorners = new Uint32Array(cornerTotal);
  const fill = pointStart.slice(0, points);
  for (let c = 0; c < cornerTotal; c++) pointCorners[fill[corners[c]!]!++] = c;

  // edges: half edges in buckets by their smaller point; within a bucket those with the same other end are linked
  const bucketStart = new Uint32Array(points + 1);
  for (let c = 0; c < cornerTotal; c++) bucketStart[Math.min(corners[c]!, other[c]!) + 1]!++;
  for (let p = 0; p < points; p++) bucketStart[p + 1]! += bucketStart[p]!;
  const bucket = new Uint32Array(cornerTotal);
  const fillBucket = bucketStart.slice(0, points);
  for (let c = 0; c < cornerTotal; c++) bucket[fillBucket[Math.min(corners[c]!, other[c]!)]!++] = c;

  const cornerEdge = new Uint32Array(cornerTotal);
  const edgePoints = new Uint32Array(cornerTotal * 2);
  const uses = new Uint32Array(cornerTotal + 1);
  const edgeAtPoint = new Int32Array(points).fill(-1);
  const seenFor = new Int32Array(points).fill(-1);
  let edgeCount = 0;
  for (let p = 0; p < points; p++) {
    for (let k = bucketStart[p]!; k < bucketStart[p + 1]!; k++) {
      const c = bucket[k]!;
      const q = Math.max(corners[c]!, other[c]!);
      if (seenFor[q] !== p) {
        seenFor[q] = p;
        edgeAtPoint[q] = edgeCount;
        edgePoints[edgeCount * 2] = p;
        edgePoints[edgeCount * 2 + 1] = q;
        edgeCount++;
      }
      const edge = edgeAtPoint[q]!;
      cornerEdge[c] = edge;
      uses[edge + 1]!++;
    }
  }
  const edgeStart = uses.slice(0, edgeCount + 1);
  for (let e = 0; e < edgeCount; e++) edgeStart[e + 1]! += edgeStart[e]!;
  const edgeCorners = new Uint32Array(cornerTotal);
  const fillEdge = edgeStart.slice(0, edgeCount);
  for (let c = 0; c < cornerTotal; c++) edgeCorners[fillEdge[cornerEdge[c]!]!++] = c;

  const twin = new Int32Array(cornerTotal).fill(-1);
  let borderEdges = 0;
  let nonManifoldEdges = 0;
  let windingEdges = 0;
  for (let e = 0; e < edgeCount; e++) {
    const count = edgeStart[e + 1]! - edgeStart[e]!;
    if (count === 1) borderEdges++;
    else if (count > 2) nonManifoldEdges++;
    else {
      const a = edgeCorners[edgeStart[e]!]!;
      const b = edgeCorners[edgeStart[e]! + 1]!;
      if (corners[a] === corners[b] || cornerFace[a] === cornerFace[b]) windingEdges++;
      else {
        twin[a] = b;
        twin[b] = a;
      }
    }
  }
  return {
    edgeCount,
    edgePoints: edgePoints.slice(0, edgeCount * 2),
    cornerFace,
    cornerEdge,
    edgeStart,
    edgeCorners,
    twin,
    pointStart,
    pointCorners,
    borderEdges,
    nonManifoldEdges,
    windingEdges,
  };
}

export interface ShapeFacts {
  /** Pieces of the mesh that hang together over plain edges. */
  components: number;
  /** V − E + F over the points that faces use. */
  euler: number;
  borderLoops: number;
  /** For one closed or bordered orientable piece: (2 − χ − loops) / 2; summed over pieces. */
  genus: number;
}

/** Counts of the whole mesh, edges of any kind included. O(corners). */
export function shapeFacts(mesh: Mesh): ShapeFacts {
  const topology = topologyOf(mesh);
  const faces = faceCount(mesh);
  const component = faceComponents(mesh);
  let used = 0;
  for (let p = 0; p < pointCount(mesh); p++) if (topology.pointStart[p + 1]! > topology.pointStart[p]!) used++;
  const euler = used - topology.edgeCount + faces;
  const borderLoops = borderLoopCount(mesh);
  return { components: component.count, euler, borderLoops, genus: Math.max(0, Math.round((2 * component.count - euler - borderLoops) / 2)) };
}

/** A number for each face: faces of one number hang together over plain edges. */
export function faceComponents(mesh: Mesh): { ofFace: Int32Array; count: number } {
  const { twin, cornerFace } = topologyOf(mesh);
  const faces = faceCount(mesh);
  const ofFace = new Int32Array(faces).fill(-1);
  const stack = new Uint32Array(faces);
  let count = 0;
  for (let seed = 0; seed < faces; seed++) {
    if (ofFace[seed] !== -1) continue;
    let top = 0;
    stack[top++] = seed;
    ofFace[seed] = count;
    while (top > 0) {
      const f = stack[--top]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
        const t = twin[c]!;
        if (t < 0) continue;
        const g = cornerFace[t]!;
        if (ofFace[g] === -1) {
          ofFace[g] = count;
          stack[top++] = g;
        }
      }
    }
    count++;
  }
  return { ofFace, count };
}

/** Closed chains of corners without a twin. Where pieces touch at a point, each goes round its own fan. */
function borderLoopCount(mesh: Mesh): number {
  const { twin, cornerFace } = topologyOf(mesh);
  const seen = new Uint8Array(mesh.corners.length);
  let loops = 0;
  for (let c = 0; c < mesh.corners.length; c++) {
    if (twin[c]! >= 0 || seen[c]) continue;
    loops++;
    let at = c;
    do {
      seen[at] = 1;
      // turn round the end point until a border corner comes
      at = nextCorner(mesh, at, cornerFace[at]!);
      let guard = mesh.corners.length;
      while (twin[at]! >= 0 && guard-- > 0) {
        const t = twin[at]!;
        at = nextCorner(mesh, t, cornerFace[t]!);
      }
    } while (!seen[at]);
  }
  return loops;
}

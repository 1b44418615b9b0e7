import { faceCount, pointCount, type Mesh } from './mesh.ts';
import { topologyOf } from './topology.ts';

export interface RepairOptions {
  /** Points nearer than this many units to one another become one; 0: only at exactly the same place; null: none. */
  mergeWithin: number | null;
  dropDegenerate: boolean;
  agreeWinding: boolean;
  splitNonManifold: boolean;
}

export interface Repaired {
  mesh: Mesh;
  /** The old corner of each new one, and the old face of each new one. */
  cornerFrom: Uint32Array;
  faceFrom: Uint32Array;
  report: {
    pointsMerged: number;
    facesDropped: number;
    facesTurned: number;
    edgesSplit: number;
    pointsBefore: number;
    pointsAfter: number;
    facesBefore: number;
    facesAfter: number;
  };
}

interface Working {
  points: number[];
  faces: { corners: number[]; from: number[]; face: number }[];
}

/**
 * Puts faults of a mesh right, as asked: merges points, drops faces without area, turns faces so that neighbours agree (the side with more
 * faces stays), splits edges with more than two faces so that each pair of faces goes on by itself. Points that no face uses stay.
 * Near-linear in the corners.
 */
export function repairMesh(mesh: Mesh, options: RepairOptions): Repaired {
  const working: Working = {
    points: [...mesh.points],
    faces: Array.from({ length: faceCount(mesh) }, (_, face) => {
      const from = Array.from({ length: mesh.faceStart[face + 1]! - mesh.faceStart[face]! }, (_c, k) => mesh.faceStart[face]! + k);
      return { corners: from.map((c) => mesh.corners[c]!), from, face };
    }),
  };
  const report = {
    pointsMerged: 0,
    facesDropped: 0,
    facesTurned: 0,
    edgesSplit: 0,
    pointsBefore: pointCount(mesh),
    pointsAfter: 0,
    facesBefore: faceCount(mesh),
    facesAfter: 0,
  };
  if (options.mergeWithin !== null) report.pointsMerged = mergePoints(working, options.mergeWithin);
  if (options.dropDegenerate) report.facesDropped = dropDegenerate(working);
  if (options.splitNonManifold) report.edgesSplit = splitNonManifold(working, mesh);
  if (options.agreeWinding) report.facesTurned = agreeWinding(working);
  const out = built(mesh, working);
  report.pointsAfter = pointCount(out.mesh);
  report.facesAfter = faceCount(out.mesh);
  return { ...out, report };
}

function built(mesh: Mesh, { points, faces }: Working): Omit<Repaired, 'report'> {
  const faceStart = new Uint32Array(faces.length + 1);
  faces.forEach((face, f) => (faceStart[f + 1] = faceStart[f]! + face.corners.length));
  const cornerFrom = Uint32Array.from(faces.flatMap((face) => face.from));
  const faceFrom = Uint32Array.from(faces, (face) => face.face);
  const pick = (array: Int32Array) => Int32Array.from(faceFrom, (f) => array[f]!);
  const sameCount = points.length === mesh.points.length;
  return {
    mesh: {
      points: Float64Array.from(points),
      faceStart,
      corners: Uint32Array.from(faces.flatMap((face) => face.corners)),
      faceGroup: pick(mesh.faceGroup),
      groups: mesh.groups,
      faceMaterial: pick(mesh.faceMaterial),
      materials: mesh.materials,
      faceSmooth: pick(mesh.faceSmooth),
      ...(mesh.pointColors && sameCount ? { pointColors: mesh.pointColors } : {}),
      ...(mesh.normals && mesh.cornerNormal ? { normals: mesh.normals, cornerNormal: Int32Array.from(cornerFrom, (c) => mesh.cornerNormal![c]!) } : {}),
    },
    cornerFrom,
    faceFrom,
  };
}

/** Each point goes to the first one within reach, looked up in cells. */
function mergePoints({ points, faces }: Working, within: number): number {
  const cell = within > 0 ? within * 2 : 0;
  const cells = new Map<string, number[]>();
  const to = new Int32Array(points.length / 3);
  let merged = 0;
  const used = new Uint8Array(to.length);
  for (const face of faces) for (const p of face.corners) used[p] = 1;
  for (let p = 0; p < to.length; p++) {
    to[p] = p;
    if (!used[p]) continue;
    const place = [points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!];
    const low = cell > 0 ? place.map((x) => Math.floor((x - within) / cell)) : place;
    const high = cell > 0 ? place.map((x) => Math.floor((x + within) / cell)) : place;
    search: for (let x = low[0]!; x <= high[0]!; x++) {
      for (let y = low[1]!; y <= high[1]!; y++) {
        for (let z = low[2]!; z <= high[2]!; z++) {
          for (const q of cells.get(`${x + 0},${y + 0},${z + 0}`) ?? []) {
            if (Math.hypot(points[q * 3]! - place[0]!, points[q * 3 + 1]! - place[1]!, points[q * 3 + 2]! - place[2]!) > within) continue;
            to[p] = q;
            merged++;
            break search;
          }
        }
      }
    }
    if (to[p] !== p) continue;
    const key = (cell > 0 ? place.map((x) => Math.floor(x / cell)) : place).map((x) => x + 0).join();
    const list = cells.get(key);
    if (list) list.push(p);
    else cells.set(key, [p]);
  }
  if (merged > 0) for (const face of faces) face.corners = face.corners.map((p) => to[p]!);
  return merged;
}

/** Corners that follow one another at one point become one; faces with fewer than three corners or without area go. */
function dropDegenerate(working: Working): number {
  const before = working.faces.length;
  working.faces = working.faces.filter((face) => {
    const keep = face.corners.map((p, k) => p !== face.corners[(k + face.corners.length - 1) % face.corners.length]!);
    if (keep.some((k) => !k)) {
      face.from = face.from.filter((_, k) => keep[k]);
      face.corners = face.corners.filter((_, k) => keep[k]);
    }
    return face.corners.length >= 3 && area(working.points, face.corners) > 0;
  });
  return before - working.faces.length;
}

function area(points: number[], corners: number[]): number {
  const at = (p: number, d: number) => points[p * 3 + d]! - points[corners[0]! * 3 + d]!;
  const sum = [0, 0, 0];
  let longest = 0;
  for (let k = 1; k + 1 < corners.length; k++) {
    const [a, b] = [corners[k]!, corners[k + 1]!];
    sum[0]! += at(a, 1) * at(b, 2) - at(a, 2) * at(b, 1);
    sum[1]! += at(a, 2) * at(b, 0) - at(a, 0) * at(b, 2);
    sum[2]! += at(a, 0) * at(b, 1) - at(a, 1) * at(b, 0);
    longest = Math.max(longest, at(a, 0) ** 2 + at(a, 1) ** 2 + at(a, 2) ** 2, at(b, 0) ** 2 + at(b, 1) ** 2 + at(b, 2) ** 2);
  }
  const twice = Math.hypot(...(sum as [number, number, number]));
  return twice > 1e-12 * longest ? twice / 2 : 0;
}

/** The half edges of the working faces by edge: for each pair of points the faces on it and which way each runs. */
function edgesOf(faces: Working['faces']): Map<string, { face: number; corner: number; forward: boolean }[]> {
  const edges = new Map<string, { face: number; corner: number; forward: boolean }[]>();
  faces.forEach((face, f) => {
    face.corners.forEach((p, k) => {
      const q = face.corners[(k + 1) % face.corners.length]!;
      const key = p < q ? `${p},${q}` : `${q},${p}`;
      const use = { face: f, corner: k, forward: p < q };
      const list = edges.get(key);
      if (list) list.push(use);
      else edges.set(key, [use]);
    });
  });
  return edges;
}

/** Faces at edges with more than two get points of their own there, pair by pair. */
function splitNonManifold(working: Working, mesh: Mesh): number {
  if (topologyOf(mesh).nonManifoldEdges === 0) return 0;
  const { points, faces } = working;
  const bad = [...edgesOf(faces).entries()].filter(([, uses]) => uses.length > 2);
  // round each bad point, faces that hang together over good edges stay together; every other group gets a point of its own
  const badKeys = new Set(bad.map(([key]) => key));
  const badPoints = new Set(bad.flatMap(([key]) => key.split(',').map(Number)));
  const facesAt = new Map<number, number[]>();
  faces.forEach((face, f) => face.corners.forEach((p) => badPoints.has(p) && facesAt.set(p, [...(facesAt.get(p) ?? []), f])));
  const keyOf = (p: number, q: number) => (p < q ? `${p},${q}` : `${q},${p}`);
  const moves: { face: number; from: number; to: number }[] = [];
  for (const [p, list] of facesAt) {
    const others = (f: number) => {
      const { corners } = faces[f]!;
      const k = corners.indexOf(p);
      return [corners[(k + 1) % corners.length]!, corners[(k + corners.length - 1) % corners.length]!]
        .map((q) => keyOf(p, q))
        .filter((key) => !badKeys.has(key));
    };
    const groups: { keys: Set<string>; faces: number[] }[] = [];
    for (const f of list) {
      const keys = others(f);
      const meets = groups.filter((group) => keys.some((key) => group.keys.has(key)));
      const joined = { keys: new Set([...keys, ...meets.flatMap((group) => [...group.keys])]), faces: [f, ...meets.flatMap((group) => group.faces)] };
      for (const group of meets) groups.splice(groups.indexOf(group), 1);
      groups.push(joined);
    }
    groups.sort((a, b) => b.faces.length - a.faces.length);
    for (const group of groups.slice(1)) {
      const to = points.length / 3;
      points.push(points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!);
      for (const f of group.faces) moves.push({ face: f, from: p, to });
    }
  }
  for (const { face, from, to } of moves) faces[face]!.corners = faces[face]!.corners.map((p) => (p === from ? to : p));
  return bad.length;
}

/** Turns faces so that neighbours agree; in each piece the way that fewer faces have to turn for. */
function agreeWinding(working: Working): number {
  const { faces } = working;
  const neighbours: { face: number; agrees: boolean }[][] = faces.map(() => []);
  for (const uses of edgesOf(faces).values()) {
    if (uses.length !== 2 || uses[0]!.face === uses[1]!.face) continue;
    const agrees = uses[0]!.forward !== uses[1]!.forward;
    neighbours[uses[0]!.face]!.push({ face: uses[1]!.face, agrees });
    neighbours[uses[1]!.face]!.push({ face: uses[0]!.face, agrees });
  }
  const turn = new Int8Array(faces.length).fill(-1);
  let turned = 0;
  for (let seed = 0; seed < faces.length; seed++) {
    if (turn[seed] !== -1) continue;
    turn[seed] = 0;
    const piece = [seed];
    for (let k = 0; k < piece.length; k++) {
      for (const { face, agrees } of neighbours[piece[k]!]!) {
        if (turn[face] !== -1) continue;
        turn[face] = agrees ? turn[piece[k]!]! : 1 - turn[piece[k]!]!;
        piece.push(face);
      }
    }
    const flips = piece.reduce((sum, f) => sum + turn[f]!, 0);
    const other = flips * 2 > piece.length;
    for (const f of piece) {
      if ((turn[f] === 1) === other) continue;
      faces[f]!.corners.reverse();
      faces[f]!.from.reverse();
      turned++;
    }
  }
  return turned;
}

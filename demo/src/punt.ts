import { meshFromFaces, uvSetFrom, type Mesh, type UvSet } from '@jig-peel/core';

const length = 3.6;
const beam = 1.2;
const depth = 0.46;
const stations = 36;
const strakes = 12;
const strakeHeight = 0.075;

/** Half-barrel: the cross-section is half an ellipse that narrows a little to both ends, where flat transoms close it. */
function rib(s: number, a: number): [number, number, number] {
  const narrow = 1 - 0.28 * (2 * s - 1) ** 2;
  const lift = 0.16 * (2 * s - 1) ** 4;
  const angle = Math.PI * a;
  return [-Math.cos(angle) * (beam / 2) * narrow, depth - Math.sin(angle) * depth * (1 - 0.12 * (2 * s - 1) ** 2) + lift, (s - 0.5) * length];
}

/**
 * Punt hull: 12 strakes from gunwale to gunwale, two transoms, two thwarts; metres. Its old UVs are as such things come in: strakes lie on one
 * another and upside down, one is mirrored, one is shrunk to a line, the thwarts have none, and one row of quads is wound the wrong way round.
 * That is what it is for: every fault can be found and put right.
 */
export function puntHull(): { mesh: Mesh; set: UvSet } {
  const points: number[] = [];
  const faces: number[][] = [];
  const groupOf: number[] = [];
  const groups: string[] = [];
  const uvOf: (readonly [number, number])[][] = [];
  const unplaced: number[] = [];
  const group = (name: string) => (groups.includes(name) ? groups.indexOf(name) : groups.push(name) - 1);
  const add = (face: number[], name: string, uv: (readonly [number, number])[] | null) => {
    faces.push(face);
    groupOf.push(group(name));
    uvOf.push(uv ?? face.map(() => [0, 0] as const));
    unplaced.push(uv ? 0 : 1);
  };
  for (let i = 0; i <= stations; i++) for (let k = 0; k <= strakes; k++) points.push(...rib(i / stations, k / strakes));
  const at = (i: number, k: number) => i * (strakes + 1) + k;

  for (let k = 0; k < strakes; k++) {
    for (let i = 0; i < stations; i++) {
      // all strakes share two bands of the sheet, the letters on them standing on their heads
      const low = k % 2 === 0 ? 0.55 : 0.75;
      const place = (di: number, dk: number): readonly [number, number] => {
        const along = (i + di) / stations;
        const u = k === 4 ? 0.98 - along * 0.96 : along * 0.96 + 0.02;
        const v = k === 7 ? low : low + strakeHeight * 1.6 * (1 - dk);
        return [u, v];
      };
      const face = [at(i, k), at(i, k + 1), at(i + 1, k + 1), at(i + 1, k)];
      const uv = [place(0, 0), place(0, 1), place(1, 1), place(1, 0)];
      // the wrong way round: a dozen quads near the stern
      if (k === 10 && i >= 2 && i < 14) {
        face.reverse();
        uv.reverse();
      }
      add(face, `strake ${k + 1}`, uv);
    }
  }
  for (const [i, sign, name] of [
    [0, 1, 'bow transom'],
    [stations, -1, 'stern transom'],
  ] as const) {
    const ring = Array.from({ length: strakes + 1 }, (_, k) => at(i, k));
    if (sign > 0) ring.reverse();
    add(
      ring,
      name,
      ring.map((p) => [0.5 + points[p * 3]! * 0.25, 0.95 - points[p * 3 + 1]! * 0.25] as const),
    );
  }
  // thwarts: boards from side to side, closed boxes without UVs
  for (const [n, z] of [-0.55, 0.75].entries()) {
    const base = points.length / 3;
    for (let c = 0; c < 8; c++) points.push((c & 1 ? 1 : -1) * 0.5, 0.36 + (c & 2 ? 0.035 : 0), z + (c & 4 ? 0.12 : -0.12));
    for (const face of [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ])
      add(
        face.map((c) => base + c),
        `thwart ${n + 1}`,
        null,
      );
  }
  const plain = meshFromFaces(points, faces);
  const mesh: Mesh = {
    ...plain,
    faceGroup: Int32Array.from(groupOf),
    groups,
    faceMaterial: Int32Array.from(groupOf, (g) => (groups[g]!.startsWith('thwart') ? 1 : 0)),
    materials: ['tarred planks', 'bare wood'],
  };
  const index = new Map<string, number>();
  const uv: number[] = [];
  const cornerUv: number[] = [];
  faces.forEach((face, f) =>
    face.forEach((p, c) => {
      const [u, v] = uvOf[f]![c]!;
      const key = `${p} ${u.toFixed(6)} ${v.toFixed(6)}`;
      let id = index.get(key);
      if (id === undefined) {
        id = uv.length / 2;
        index.set(key, id);
        uv.push(u, v);
      }
      cornerUv.push(id);
    }),
  );
  const set = uvSetFrom(mesh, 'UV set 1', Uint32Array.from(cornerUv), Float64Array.from(uv));
  return { mesh, set: { ...set, unplaced: Uint8Array.from(unplaced) } };
}

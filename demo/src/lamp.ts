import { lathe, meshFromFaces, torus, type Mesh } from '@jig-peel/core';

const turned = (mesh: Mesh, place: (x: number, y: number, z: number) => readonly [number, number, number]): Mesh => {
  const points = new Float64Array(mesh.points.length);
  for (let p = 0; p < points.length; p += 3) points.set(place(mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!), p);
  return { ...mesh, points };
};

/** A round plate with a hole in the middle, square in section: a ring with one tunnel. */
function flange(outer: number, inner: number, thick: number, segments: number): Mesh {
  const points: number[] = [];
  const faces: number[][] = [];
  const profile = [
    [inner, 0],
    [outer, 0],
    [outer, thick],
    [inner, thick],
  ] as const;
  for (const [r, y] of profile) {
    for (let k = 0; k < segments; k++) {
      const a = (2 * Math.PI * k) / segments;
      points.push(r * Math.sin(a), y, r * Math.cos(a));
    }
  }
  for (let ring = 0; ring < 4; ring++) {
    const next = (ring + 1) % 4;
    for (let k = 0; k < segments; k++) {
      const m = (k + 1) % segments;
      faces.push([ring * segments + k, ring * segments + m, next * segments + m, next * segments + k]);
    }
  }
  return meshFromFaces(points, faces);
}

/** A plate with a square hole right through, as hinges have: 16 points, 16 quads, one tunnel. */
function bracket(width: number, height: number, thick: number, hole: number): Mesh {
  const points: number[] = [];
  for (const z of [0, thick])
    for (const [w, h] of [
      [width / 2, height / 2],
      [hole / 2, hole / 2],
    ] as const)
      for (const [sx, sy] of [
        [-1, -1],
        [1, -1],
        [1, 1],
        [-1, 1],
      ] as const)
        points.push(sx * w, sy * h, z);
  const faces: number[][] = [];
  for (let k = 0; k < 4; k++) {
    const m = (k + 1) % 4;
    // back, front, outside, inside of the hole
    faces.push([m, k, 4 + k, 4 + m], [8 + k, 8 + m, 12 + m, 12 + k], [k, m, 8 + m, 8 + k], [4 + m, 4 + k, 12 + k, 12 + m]);
  }
  return meshFromFaces(points, faces);
}

/** Harbour lamp: an assembly of six parts, some with holes, two with handles in the sense of topology. Metres, 1.1 high. */
export function harbourLamp(): { name: string; mesh: Mesh }[] {
  return [
    { name: 'Lamp flange', mesh: flange(0.32, 0.09, 0.05, 32) },
    {
      name: 'Lamp post',
      mesh: lathe(
        [
          [0.085, 0.05],
          [0.085, 0.4],
          [0.16, 0.46],
          [0.16, 0.5],
        ],
        24,
        true,
      ),
    },
    {
      name: 'Lamp glass',
      mesh: lathe(
        [
          [0.13, 0.5],
          [0.19, 0.58],
          [0.2, 0.68],
          [0.17, 0.8],
          [0.13, 0.84],
        ],
        32,
        false,
      ),
    },
    {
      name: 'Lamp cap',
      mesh: lathe(
        [
          [0, 0.84],
          [0.22, 0.85],
          [0.2, 0.89],
          [0.08, 0.97],
          [0, 1],
        ],
        24,
        false,
      ),
    },
    { name: 'Lamp carrying ring', mesh: turned(torus(0.09, 0.016, 28, 10), (x, y, z) => [x, 1.07 - z, y]) },
    { name: 'Lamp bracket', mesh: turned(bracket(0.16, 0.24, 0.04, 0.07), (x, y, z) => [x, 0.25 + y, 0.085 + z]) },
  ];
}

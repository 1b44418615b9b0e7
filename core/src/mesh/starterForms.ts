import { meshFromFaces, type Mesh } from './mesh.ts';
import * as portable from '../numeric/portable.ts';

/** A flat rectangle in the xy plane, width × height, columns × rows quads, facing +z. */
export function plane(width = 1, height = 1, columns = 1, rows = 1): Mesh {
  return heightField(columns, rows, (u, v) => [(u - 0.5) * width, (v - 0.5) * height, 0]);
}

/** A sheet of columns × rows quads whose points come from `at(u, v)`, u and v from 0 to 1. */
export function heightField(columns: number, rows: number, at: (u: number, v: number) => [number, number, number]): Mesh {
  const points: number[] = [];
  for (let r = 0; r <= rows; r++) for (let c = 0; c <= columns; c++) points.push(...at(c / columns, r / rows));
  const faces: number[][] = [];
  for (let r = 0; r < rows; r++) {
    for (let c = 0; c < columns; c++) {
      const a = r * (columns + 1) + c;
      faces.push([a, a + 1, a + columns + 2, a + columns + 1]);
    }
  }
  return meshFromFaces(points, faces);
}

/** A box of the given sizes round the origin: 8 points, 6 quads. */
export function box(x = 1, y = 1, z = 1): Mesh {
  const points: number[] = [];
  for (let k = 0; k < 8; k++) points.push(((k & 1) - 0.5) * x, (((k >> 1) & 1) - 0.5) * y, ((k >> 2) - 0.5) * z);
  return meshFromFaces(points, [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ]);
}

/**
 * A round body about the y axis from rings of (radius, height), from below to above. A ring of radius 0 is one point. Lids are n-gons.
 * @param segments points a ring
 */
export function lathe(profile: ReadonlyArray<readonly [number, number]>, segments: number, lids = false): Mesh {
  const points: number[] = [];
  const ringStart: number[] = [];
  for (const [radius, height] of profile) {
    ringStart.push(points.length / 3);
    const count = radius === 0 ? 1 : segments;
    for (let k = 0; k < count; k++) {
      const angle = (2 * Math.PI * k) / segments;
      points.push(radius * portable.sin(angle), height, radius * portable.cos(angle));
    }
  }
  const faces: number[][] = [];
  for (let r = 0; r + 1 < profile.length; r++) {
    const low = ringStart[r]!;
    const high = ringStart[r + 1]!;
    const lowTip = profile[r]![0] === 0;
    const highTip = profile[r + 1]![0] === 0;
    for (let k = 0; k < segments; k++) {
      const n = (k + 1) % segments;
      if (lowTip) faces.push([low, high + n, high + k]);
      else if (highTip) faces.push([low + k, low + n, high]);
      else faces.push([low + k, low + n, high + n, high + k]);
    }
  }
  if (lids) {
    const last = ringStart.at(-1)!;
    faces.push(Array.from({ length: segments }, (_, k) => ringStart[0]! + segments - 1 - k));
    faces.push(Array.from({ length: segments }, (_, k) => last + k));
  }
  return meshFromFaces(points, faces);
}

/** A tube about the y axis, open or with n-gon lids. */
export function cylinder(radius = 0.5, height = 1, segments = 24, rows = 1, lids = true): Mesh {
  const profile = Array.from({ length: rows + 1 }, (_, r) => [radius, (r / rows - 0.5) * height] as const);
  return lathe(profile, segments, lids);
}

/** A cone's side with its tip above: base radius, height; `topRadius` > 0 makes a frustum. */
export function cone(radius = 0.5, height = 1, segments = 24, topRadius = 0): Mesh {
  return lathe(
    [
      [radius, 0],
      [topRadius, height],
    ],
    segments,
  );
}

/** A ball of quads with triangles at both poles. */
export function sphere(radius = 0.5, segments = 24, rows = 12): Mesh {
  const profile = Array.from({ length: rows + 1 }, (_, r) => {
    const angle = (Math.PI * r) / rows;
    return [r === 0 || r === rows ? 0 : radius * portable.sin(angle), -radius * portable.cos(angle)] as const;
  });
  return lathe(profile, segments);
}

/** A ball from a subdivided cube pushed out: all quads, eight points where three meet. */
export function cubeSphere(radius = 0.5, side = 8): Mesh {
  const points: number[] = [];
  const index = new Map<string, number>();
  const faces: number[][] = [];
  const pointAt = (x: number, y: number, z: number) => {
    const key = `${x},${y},${z}`;
    let at = index.get(key);
    if (at === undefined) {
      at = points.length / 3;
      index.set(key, at);
      const q = [x, y, z].map((k) => portable.tan((Math.PI / 4) * ((2 * k) / side - 1)));
      const length = Math.hypot(q[0]!, q[1]!, q[2]!);
      points.push(...q.map((k) => (k / length) * radius));
    }
    return at;
  };
  for (let axis = 0; axis < 3; axis++) {
    for (const end of [0, side]) {
      for (let i = 0; i < side; i++) {
        for (let j = 0; j < side; j++) {
          const at = (di: number, dj: number) => {
            const k = [0, 0, 0];
            k[axis] = end;
            k[(axis + 1) % 3] = i + di;
            k[(axis + 2) % 3] = j + dj;
            return pointAt(k[0]!, k[1]!, k[2]!);
          };
          const quad = [at(0, 0), at(1, 0), at(1, 1), at(0, 1)];
          faces.push(end === 0 ? quad.reverse() : quad);
        }
      }
    }
  }
  return meshFromFaces(points, faces);
}

/** A ring about the y axis, all quads. */
export function torus(radius = 0.5, tube = 0.2, segments = 32, sides = 16): Mesh {
  const points: number[] = [];
  for (let s = 0; s < segments; s++) {
    const a = (2 * Math.PI * s) / segments;
    for (let t = 0; t < sides; t++) {
      const b = (2 * Math.PI * t) / sides;
      const r = radius + tube * portable.cos(b);
      points.push(r * portable.sin(a), tube * portable.sin(b), r * portable.cos(a));
    }
  }
  const faces: number[][] = [];
  for (let s = 0; s < segments; s++) {
    for (let t = 0; t < sides; t++) {
      const n = ((s + 1) % segments) * sides;
      const m = (t + 1) % sides;
      faces.push([s * sides + t, n + t, n + m, s * sides + m]);
    }
  }
  return meshFromFaces(points, faces);
}

/** Part of a ball round +z: polar angle up to `angle`, built ring by ring with about equal triangles. */
export function hemisphere(radius = 1, rings = 8, angle = Math.PI / 2): Mesh {
  const points: number[] = [0, 0, radius];
  const faces: number[][] = [];
  for (let r = 1; r <= rings; r++) {
    const polar = (angle * r) / rings;
    const start = points.length / 3;
    const count = 6 * r;
    for (let k = 0; k < count; k++) {
      const turn = (2 * Math.PI * k) / count;
      points.push(radius * portable.sin(polar) * portable.cos(turn), radius * portable.sin(polar) * portable.sin(turn), radius * portable.cos(polar));
    }
    const inner = r === 1 ? 0 : start - 6 * (r - 1);
    const innerCount = r === 1 ? 1 : 6 * (r - 1);
    for (let side = 0; side < 6; side++) {
      for (let k = 0; k < r; k++) {
        const a = start + side * r + k;
        const b = start + ((side * r + k + 1) % count);
        const c = inner + ((side * (r - 1) + k) % innerCount);
        faces.push([a, b, c]);
        if (k + 1 < r) faces.push([b, inner + ((side * (r - 1) + k + 1) % innerCount), c]);
      }
    }
  }
  return meshFromFaces(points, faces);
}

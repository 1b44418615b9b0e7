import { heightField, plainMesh, seededRandom, uvSetFrom, type Mesh, type UvSet } from '@jig-peel/core';

/** The same sheet in quads, two triangles each. */
export function bumpyQuads(triangles: number): Mesh {
  const n = Math.round(Math.sqrt(triangles / 2));
  return heightField(n, n, (u, v) => [u, v, 0.12 * Math.sin(9 * u) * Math.cos(8 * v) + 0.05 * Math.sin(31 * u + 17 * v)]);
}

/** A bumpy sheet with jittered points, each quad split one way or the other: a disk of about `triangles` triangles. */
export function bumpyDisk(triangles: number): Mesh {
  const n = Math.round(Math.sqrt(triangles / 2));
  const random = seededRandom(triangles);
  const quads = heightField(n, n, (u, v) => [
    u + (random() - 0.5) * (0.5 / n),
    v + (random() - 0.5) * (0.5 / n),
    0.12 * Math.sin(9 * u) * Math.cos(8 * v) + 0.05 * Math.sin(31 * u + 17 * v),
  ]);
  const faces: number[] = [];
  for (let f = 0; f < n * n; f++) {
    const [a, b, c, d] = quads.corners.subarray(f * 4, f * 4 + 4) as unknown as [number, number, number, number];
    faces.push(...(random() < 0.5 ? [a, b, c, a, c, d] : [a, b, d, b, c, d]));
  }
  return plainMesh(
    quads.points,
    Uint32Array.from({ length: faces.length / 3 + 1 }, (_, k) => k * 3),
    Uint32Array.from(faces),
  );
}

/** A waved ring sector four times as long as wide, as quads or with each quad split one way or the other; its layout is the sector seen from above. */
export function bentStrip(triangles: number, quads: boolean): { mesh: Mesh; set: UvSet } {
  const n = Math.round(Math.sqrt(triangles / 8));
  const sheet = heightField(4 * n, n, (u, v) => [(2.6 - 0.6 * v) * Math.cos(1.9 * u), -(2.6 - 0.6 * v) * Math.sin(1.9 * u), 0.1 * Math.sin(10 * u)]);
  const split: number[] = [];
  for (let f = 0; f < 4 * n * n; f++) {
    const [a, b, c, d] = sheet.corners.subarray(f * 4, f * 4 + 4) as unknown as [number, number, number, number];
    split.push(...(f % 2 === 0 ? [a, b, c, a, c, d] : [a, b, d, b, c, d]));
  }
  const starts = Uint32Array.from({ length: split.length / 3 + 1 }, (_, k) => k * 3);
  const mesh = quads ? sheet : plainMesh(sheet.points, starts, Uint32Array.from(split));
  const uv = Float64Array.from({ length: (sheet.points.length / 3) * 2 }, (_, k) => sheet.points[(k >> 1) * 3 + (k % 2)]! * 0.1);
  return { mesh, set: uvSetFrom(mesh, 'UV set 1', mesh.corners.slice(), uv) };
}

export function objText(mesh: Mesh): Uint8Array {
  const lines: string[] = [];
  for (let p = 0; p < mesh.points.length; p += 3)
    lines.push(`v ${mesh.points[p]!.toFixed(6)} ${mesh.points[p + 1]!.toFixed(6)} ${mesh.points[p + 2]!.toFixed(6)}`);
  for (let p = 0; p < mesh.points.length; p += 3) lines.push(`vt ${mesh.points[p]!.toFixed(6)} ${mesh.points[p + 1]!.toFixed(6)}`);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++)
    lines.push(`f ${Array.from(mesh.corners.subarray(mesh.faceStart[f], mesh.faceStart[f + 1]), (c) => `${c + 1}/${c + 1}`).join(' ')}`);
  return new TextEncoder().encode(lines.join('\n'));
}

/** Parts of a material that they share, side by side in space and on one sheet, as OBJ. */
export function manyParts(count: number, triangles: number): string {
  const side = Math.ceil(Math.sqrt(count));
  const lines: string[] = [];
  let before = 0;
  for (let k = 0; k < count; k++) {
    const mesh = bumpyDisk(triangles);
    const [i, j] = [k % side, Math.floor(k / side)];
    lines.push(`o part ${k + 1}`, 'usemtl paint');
    const points = mesh.points.length / 3;
    for (let p = 0; p < points; p++) {
      const [x, y, z] = [0, 1, 2].map((d) => mesh.points[p * 3 + d]!) as [number, number, number];
      lines.push(`v ${(x + 1.2 * i).toFixed(5)} ${(y + 1.2 * j).toFixed(5)} ${z.toFixed(5)}`);
      lines.push(`vt ${((i + 0.1 + 0.8 * x) / side).toFixed(6)} ${((j + 0.1 + 0.8 * y) / side).toFixed(6)}`);
    }
    for (let c = 0; c < mesh.corners.length; c += 3)
      lines.push(`f ${[0, 1, 2].map((n) => `${mesh.corners[c + n]! + 1 + before}/${mesh.corners[c + n]! + 1 + before}`).join(' ')}`);
    before += points;
  }
  return lines.join('\n');
}

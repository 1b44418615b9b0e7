import { Canvas, cubeSphere, meshFromFaces, seededRandom, type Mesh } from '@jig-peel/core';

/** A glass ball, a little flat as blown ones are, with the button of glass that closes it on top: all quads, without poles. Units: m. */
export function netFloat(): Mesh {
  const side = 16;
  const ball = cubeSphere(0.34, side);
  const faces: number[][] = [];
  for (let f = 0; f + 1 < ball.faceStart.length; f++) faces.push(Array.from(ball.corners.slice(ball.faceStart[f], ball.faceStart[f + 1])));
  const points = Array.from(ball.points, (x, k) => (k % 3 === 1 ? x * 0.97 + 0.33 : x));
  const glass = faces.length;
  // the button: a lathed lens of 24 quads a ring, with a disc of one face on top
  const rings = [
    [0.062, 0.655],
    [0.064, 0.672],
    [0.05, 0.683],
    [0.03, 0.687],
  ] as const;
  const around = 24;
  const first = points.length / 3;
  for (const [radius, height] of rings)
    for (let k = 0; k < around; k++) {
      const a = (k / around) * 2 * Math.PI;
      points.push(Math.sin(a) * radius, height, Math.cos(a) * radius);
    }
  for (let r = 0; r + 1 < rings.length; r++)
    for (let k = 0; k < around; k++) {
      const [a, b] = [first + r * around + k, first + r * around + ((k + 1) % around)];
      faces.push([a, b, b + around, a + around]);
    }
  faces.push(Array.from({ length: around }, (_, k) => first + (rings.length - 1) * around + k));
  const mesh = meshFromFaces(points, faces);
  const faceGroup = Int32Array.from(faces, (_, f) => (f < glass ? 0 : 1));
  return { ...mesh, groups: ['glass', 'button'], faceGroup };
}

/** A knotted net, two meshes each way, tileable; see-through but for the twine. */
export function netPicture(size = 1024): Canvas {
  const canvas = new Canvas(size, size, [0, 0, 0, 0]);
  const random = seededRandom(31);
  const cell = size / 4;
  const twine = size * 0.011;
  // each length of twine a little different; the same again one picture on
  const shade = Array.from({ length: 16 }, () => 0.85 + random() * 0.3);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      // distance to the nearest of the two slanting families of twine, and to the nearest knot
      const [a, b] = [(x + y) / Math.SQRT2, (x - y) / Math.SQRT2];
      const step = cell * Math.SQRT2;
      const off = (t: number) => Math.abs(t - Math.round(t / step) * step);
      const [p, q] = [off(a), off(b)];
      const knot = Math.hypot(p, q);
      const near = Math.min(p, q);
      if (near > twine && knot > twine * 2.1) continue;
      const along = p < q ? b : a;
      // the lay of the twine: light and dark turns along it, the same at either edge of the picture
      const lay = 0.8 + 0.2 * Math.sin((along / step) * 2 * Math.PI * 12 + (near / twine) * 2);
      const round = knot < twine * 2.1 ? 1.05 - (knot / (twine * 2.1)) ** 2 * 0.4 : 1.05 - (near / twine) ** 2 * 0.55;
      const tone = lay * round * shade[((Math.round(a / step) & 3) * 4 + (Math.round(b / step) & 3)) & 15]!;
      const k = (y * size + x) * 4;
      canvas.data[k] = Math.min(255, 168 * tone);
      canvas.data[k + 1] = Math.min(255, 138 * tone);
      canvas.data[k + 2] = Math.min(255, 92 * tone);
      canvas.data[k + 3] = 255;
    }
  }
  return canvas;
}

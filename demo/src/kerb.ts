import { Canvas, type Mesh } from '@jig-peel/core';
import { FaceCollector, type Place } from './quads.ts';

/** Metres: the kerb's face, its rounded nose and its top, outwards and up, from the ground at the front to the back. */
const profile: readonly (readonly [number, number])[] = [
  [0.3, 0],
  [0.3, 0.12],
  [0.29, 0.22],
  [0.262, 0.252],
  [0.22, 0.26],
  [0.1, 0.26],
  [0, 0.26],
];

/** A length of kerb swept along a line on the ground: quads all along, open at both ends and below. @param way x, z and where it heads, radians, for 0 … 1 */
function swept(way: (s: number) => { x: number; z: number; heading: number }, steps: number): Mesh {
  const faces = new FaceCollector();
  const row = (s: number): Place[] => {
    const { x, z, heading } = way(s);
    // to the right of where it heads
    return profile.map(([out, up]) => [x + out * Math.sin(heading), up, z - out * Math.cos(heading)]);
  };
  for (let k = 0; k < steps; k++) {
    const [here, there] = [row(k / steps), row((k + 1) / steps)];
    for (let p = 0; p + 1 < profile.length; p++) faces.add([here[p]!, here[p + 1]!, there[p + 1]!, there[p]!], p < 3 ? 'face' : 'top', 'kerb stone');
  }
  return faces.mesh();
}

/** Two lengths: one that bends to the left and back to the right, one a quarter round. */
export function quayKerbs(): { name: string; mesh: Mesh }[] {
  const radius = 1.4;
  const bend = Math.PI * 0.55;
  const s = swept((t) => {
    // two arcs, the second one bending back
    const along = t < 0.5 ? t * 2 : 1;
    const back = t < 0.5 ? 0 : (t - 0.5) * 2;
    const [a, b] = [bend * along, bend * back];
    const turned = a - b;
    const middle = [radius * Math.sin(bend), radius * (1 - Math.cos(bend))] as const;
    if (t < 0.5) return { x: radius * Math.sin(a), z: radius * (1 - Math.cos(a)), heading: a };
    // the centre of the second arc lies on the other side
    const centre = [middle[0] + radius * Math.sin(bend), middle[1] - radius * Math.cos(bend)] as const;
    return { x: centre[0] - radius * Math.sin(turned), z: centre[1] + radius * Math.cos(turned), heading: turned };
  }, 56);
  const quarter = swept((t) => {
    const a = (Math.PI / 2) * t;
    return { x: 1.1 * Math.sin(a), z: 1.1 * (1 - Math.cos(a)), heading: a };
  }, 24);
  return [
    { name: 'Quay kerb, S-shaped', mesh: s },
    { name: 'Quay kerb, quarter round', mesh: quarter },
  ];
}

/** Hazard chevrons that point along u and go on at every border. */
export function chevrons(size = 512): Canvas {
  const canvas = new Canvas(size, size, [232, 178, 34, 255]);
  const across = 2;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const bent = Math.abs(((y + 0.5) / size) * 2 - 1) * 0.5;
      const at = (((((x + 0.5) / size + bent) * across) % 1) + 1) % 1;
      if (at < 0.5) canvas.data.set([38, 34, 30, 255], (y * size + x) * 4);
    }
  return canvas;
}

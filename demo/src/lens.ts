import { islandsOf, type Mesh, type UvSet } from '@jig-peel/core';
import { band, FaceCollector, type Place } from './quads.ts';

const panels = 24;
/** Angles within a panel, as shares, and which of them lie on a frame bar. */
const spots: readonly { at: number; bar: boolean }[] = [
  { at: 0, bar: true },
  { at: 0.082, bar: true },
  { at: 0.1, bar: false },
  { at: 0.36, bar: false },
  { at: 0.64, bar: false },
  { at: 0.9, bar: false },
  { at: 0.918, bar: true },
];

/** Radii of glass and frame at a height; the glass is stepped like a lens of prisms, bulging in its middle. */
function drumProfile(): { y: number; glass: number; bar: number }[] {
  const rows: { y: number; glass: number; bar: number }[] = [];
  const steps = 9;
  for (let s = 0; s < steps; s++) {
    const y = 0.34 + (s / steps) * 1.2;
    const middle = Math.abs(s - (steps - 1) / 2) / ((steps - 1) / 2);
    const deep = 0.5 + 0.015 * (1 - middle);
    const proud = s === (steps - 1) / 2 ? 0.585 : 0.555 + 0.015 * (1 - middle);
    const upper = s >= (steps - 1) / 2;
    rows.push({ y: y + 0.004, glass: upper ? proud : deep, bar: 0.6 });
    if (s === (steps - 1) / 2) rows.push({ y: y + 0.6 / steps, glass: 0.6, bar: 0.6 });
    rows.push({ y: y + 1.2 / steps - 0.004, glass: upper ? deep : proud, bar: 0.6 });
  }
  return rows;
}

function ring(radius: (bar: boolean) => number, y: number): Place[] {
  const out: Place[] = [];
  for (let p = 0; p < panels; p++) {
    for (const { at, bar } of spots) {
      const angle = (2 * Math.PI * (p + at)) / panels;
      const r = radius(bar);
      out.push([r * Math.sin(angle), y, r * Math.cos(angle)]);
    }
  }
  return out;
}

const even = (r: number, y: number) => ring(() => r, y);

/** Radius and height from the middle of the underside up to the drum. */
const base: [number, number][] = [
  [0, 0],
  [0.45, 0],
  [0.72, 0],
  [0.74, 0.02],
  [0.74, 0.12],
  [0.72, 0.14],
  [0.66, 0.15],
  [0.65, 0.24],
  [0.63, 0.26],
  [0.63, 0.32],
  [0.6, 0.33],
];

/** Radius and height from the drum up to the finial's tip. */
const cap: [number, number][] = [
  [0.6, 1.55],
  [0.66, 1.56],
  [0.67, 1.6],
  [0.64, 1.62],
];
for (let k = 1; k <= 9; k++) {
  const a = (k / 10) * (Math.PI / 2);
  cap.push([0.6 * Math.cos(a), 1.63 + 0.4 * Math.sin(a)]);
}
cap.push([0.05, 2.05], [0.05, 2.1], [0.1, 2.14], [0.115, 2.19], [0.1, 2.24], [0.05, 2.28], [0, 2.29]);

/**
 * Beacon lens: a drum of 24 prism panels between frame bars, a domed cap with a finial above, a stepped base ring below. Closed, quads but for
 * the poles. Metres; stands on the ground.
 */
export function beaconLens(): Mesh {
  const faces = new FaceCollector();
  for (let k = 0; k + 1 < base.length; k++) band(faces, even(...base[k]!), even(...base[k + 1]!), 'base', 'brass');
  const drum = drumProfile();
  let low = ring(() => 0.6, 0.33);
  for (const { y, glass, bar } of drum) {
    const high = ring((isBar) => (isBar ? bar : glass), y);
    band(faces, low, high, 'drum', (k) => (spots[k % spots.length]!.bar && (k % spots.length === 0 || k % spots.length === 6) ? 'brass' : 'glass'));
    low = high;
  }
  const top = ring(() => 0.6, 1.55);
  band(faces, low, top, 'drum', 'brass');
  for (let k = 0; k + 1 < cap.length; k++) band(faces, even(...cap[k]!), even(...cap[k + 1]!), 'cap', 'brass');
  return faces.mesh();
}

/**
 * The lens's own layout: the drum wrapped once round the sheet (so a picture with 24 columns meets itself after one turn), cap and base as
 * discs seen from above and below, under it.
 */
export function lensLayout(mesh: Mesh): UvSet {
  const uv: number[] = [];
  const cornerUv = new Uint32Array(mesh.corners.length);
  const known = new Map<string, number>();
  const drumHeight = 1.24 / (2 * Math.PI * 0.6);
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const group = mesh.groups[mesh.faceGroup[f]!]!;
    const from = mesh.faceStart[f]!;
    const to = mesh.faceStart[f + 1]!;
    const first = angleOf(mesh, mesh.corners[from]!, 0);
    for (let c = from; c < to; c++) {
      const p = mesh.corners[c]! * 3;
      const [x, y, z] = [mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!];
      let u: number;
      let v: number;
      if (group === 'drum') {
        u = angleOf(mesh, mesh.corners[c]!, 0);
        if (u - first > 0.5) u -= 1;
        if (first - u > 0.5) u += 1;
        v = 0.97 - drumHeight + ((y - 0.33) / 1.24) * drumHeight;
      } else {
        const radius = Math.hypot(x, z);
        const arc = (group === 'cap' ? capArcs : baseArcs).get(placeKey(radius, y))!;
        const angle = Math.atan2(x, z);
        u = (group === 'cap' ? 0.26 : 0.74) + arc * Math.sin(angle) * (group === 'cap' ? 1 : -1);
        v = 0.29 - arc * Math.cos(angle);
      }
      const key = `${group},${mesh.corners[c]},${u.toFixed(6)}`;
      let id = known.get(key);
      if (id === undefined) {
        id = uv.length / 2;
        known.set(key, id);
        uv.push(u, v);
      }
      cornerUv[c] = id;
    }
  }
  const set: UvSet = {
    name: 'UV set 1',
    cornerUv,
    uv: Float64Array.from(uv),
    unplaced: new Uint8Array(mesh.faceStart.length - 1),
    slits: new Uint32Array(0),
    pins: new Uint8Array(uv.length / 2),
  };
  if (islandsOf(mesh, set).count < 3) throw new Error('the lens layout has lost an island');
  return set;
}

function angleOf(mesh: Mesh, point: number, fallback: number): number {
  const x = mesh.points[point * 3]!;
  const z = mesh.points[point * 3 + 2]!;
  if (Math.hypot(x, z) < 1e-9) return fallback;
  const turn = Math.atan2(x, z) / (2 * Math.PI);
  return turn < -1e-9 ? turn + 1 : Math.max(0, turn);
}

/** Length along a profile from its pole to each of its places, scaled so that the farthest is `reach`. */
function arcTable(fromPole: readonly (readonly [number, number])[], reach: number): Map<string, number> {
  const table = new Map<string, number>();
  let sum = 0;
  const sums = fromPole.map((place, k) => (sum += k === 0 ? 0 : Math.hypot(place[0] - fromPole[k - 1]![0], place[1] - fromPole[k - 1]![1])));
  fromPole.forEach(([radius, y], k) => table.set(placeKey(radius, y), (sums[k]! / sum) * reach));
  return table;
}

const placeKey = (radius: number, y: number) => `${radius.toFixed(4)},${y.toFixed(4)}`;
const discReach = 0.24;
const capArcs = arcTable([...cap].reverse(), discReach);
const baseArcs = arcTable(base, discReach);

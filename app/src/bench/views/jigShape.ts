import { axesOf, repeatsOf, type Jig, type Vector } from '@jig-peel/core';

/** A jig's frame as it is drawn. */
export interface JigShape {
  /** Ends of lines, 6 numbers each. */
  lines: number[];
  /** The start line of a tube or ball, 6 numbers a piece. */
  start: number[];
  /** The image thrown on the jig itself: triangles, 3 numbers a corner, and their places in the image. */
  places: number[];
  uvs: number[];
}

export type HandleKind = 'move' | 'side' | 'even' | 'turn' | 'start';
export interface Handle {
  id: string;
  kind: HandleKind;
  /** What it does, for those who do not see it. */
  label: string;
  place: Vector;
  /** Axis of the jig that it is about: 0 right, 1 up, 2 out; and which way. */
  axis: 0 | 1 | 2;
  sign: 1 | -1;
}

const plus = (a: Vector, b: Vector, k = 1): Vector => [a[0] + b[0] * k, a[1] + b[1] * k, a[2] + b[2] * k];
const minus = (a: Vector, b: Vector): Vector => plus(a, b, -1);
const dot = (a: Vector, b: Vector) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const length = (a: Vector) => Math.hypot(a[0], a[1], a[2]);

/** A place in the jig's own space: x, y, z as shares of its size from the middle (−½ … ½). */
function placer(jig: Jig): (x: number, y: number, z: number) => Vector {
  const [right, up, out] = axesOf(jig);
  return (x, y, z) => plus(plus(plus(jig.origin, right, x * jig.size[0]), up, y * jig.size[1]), out, z * jig.size[2]);
}

/** The rings that turn a jig are so much larger than half its longest side. */
const ringReach = 1.22;

/** A place on the ring that turns a jig about one of its axes, so many turns round it. */
export function onRing(jig: Jig, axis: 0 | 1 | 2, turns: number): Vector {
  const axes = axesOf(jig);
  const [a, b] = [axes[(axis + 1) % 3]!, axes[(axis + 2) % 3]!];
  const radius = (Math.max(...jig.size) / 2) * ringReach;
  const angle = turns * 2 * Math.PI;
  return plus(plus(jig.origin, a, radius * Math.cos(angle)), b, radius * Math.sin(angle));
}

const around = 48;

/** Frame, start line and image of a jig. What fills each face by itself has none. */
export function jigShape(jig: Jig): JigShape {
  const at = placer(jig);
  const shape: JigShape = { lines: [], start: [], places: [], uvs: [] };
  const line = (a: Vector, b: Vector, to = shape.lines) => to.push(...a, ...b);
  const [ru, rv] = repeatsOf(jig);
  const quad = (corners: [Vector, Vector, Vector, Vector], uv: [number, number][]) => {
    for (const k of [0, 1, 2, 0, 2, 3]) {
      shape.places.push(...corners[k]!);
      shape.uvs.push(uv[k]![0] * ru + jig.offset[0], uv[k]![1] * rv + jig.offset[1]);
    }
  };
  const whole: [number, number][] = [
    [0, 0],
    [1, 0],
    [1, 1],
    [0, 1],
  ];
  if (jig.kind === 'each-face') return shape;
  if (jig.kind === 'planar' || jig.kind === 'view') {
    const corners: [Vector, Vector, Vector, Vector] = [at(-0.5, -0.5, 0), at(0.5, -0.5, 0), at(0.5, 0.5, 0), at(-0.5, 0.5, 0)];
    corners.forEach((corner, k) => line(corner, corners[(k + 1) % 4]!));
    quad(corners, whole);
    const [, , out] = axesOf(jig);
    const reach = Math.max(jig.size[0], jig.size[1]) * 0.25;
    const tip = plus(jig.origin, out, reach);
    line(jig.origin, tip);
    // up is the longer arm of the mark in the middle
    line(at(0, 0, 0), at(0, 0.12, 0));
    line(at(0, 0, 0), at(0.06, 0, 0));
    return shape;
  }
  if (jig.kind === 'cylindrical' || jig.kind === 'spherical') {
    const ball = jig.kind === 'spherical';
    const turn = (k: number): [number, number] => {
      // from the back to the right, as u runs
      const a = (k / around) * 2 * Math.PI + Math.PI + (jig.start * Math.PI) / 180;
      return [Math.sin(a) / 2, Math.cos(a) / 2];
    };
    for (let k = 0; k < around; k++) {
      const [[x, z], [p, q]] = [turn(k), turn(k + 1)];
      if (ball) {
        line(at(x, 0, z), at(p, 0, q));
        const [c, s] = [Math.cos((k / around) * 2 * Math.PI) / 2, Math.sin((k / around) * 2 * Math.PI) / 2];
        const [d, e] = [Math.cos(((k + 1) / around) * 2 * Math.PI) / 2, Math.sin(((k + 1) / around) * 2 * Math.PI) / 2];
        line(at(c, s, 0), at(d, e, 0));
        line(at(0, s, c), at(0, e, d));
        for (let row = 0; row < around / 4; row++) {
          const [low, high] = [row, row + 1].map((n) => (n / (around / 4) - 0.5) * Math.PI) as [number, number];
          const spot = (u: [number, number], b: number) => at(u[0] * Math.cos(b), Math.sin(b) / 2, u[1] * Math.cos(b));
          const [v0, v1] = [row / (around / 4), (row + 1) / (around / 4)];
          quad(
            [spot([x, z], low), spot([p, q], low), spot([p, q], high), spot([x, z], high)],
            [
              [k / around, v0],
              [(k + 1) / around, v0],
              [(k + 1) / around, v1],
              [k / around, v1],
            ],
          );
        }
      } else {
        line(at(x, -0.5, z), at(p, -0.5, q));
        line(at(x, 0.5, z), at(p, 0.5, q));
        quad(
          [at(x, -0.5, z), at(p, -0.5, q), at(p, 0.5, q), at(x, 0.5, z)],
          [
            [k / around, 0],
            [(k + 1) / around, 0],
            [(k + 1) / around, 1],
            [k / around, 1],
          ],
        );
        if (k > 0 && k % (around / 4) === 0) line(at(x, -0.5, z), at(x, 0.5, z));
      }
    }
    const [x, z] = turn(0);
    if (ball)
      for (let k = 0; k < around / 2; k++) {
        const [a, b] = [k, k + 1].map((n) => (n / (around / 2) - 0.5) * Math.PI) as [number, number];
        line(at(x * Math.cos(a), Math.sin(a) / 2, z * Math.cos(a)), at(x * Math.cos(b), Math.sin(b) / 2, z * Math.cos(b)), shape.start);
      }
    else line(at(x, -0.5, z), at(x, 0.5, z), shape.start);
    return shape;
  }
  for (const a of [-0.5, 0.5])
    for (const b of [-0.5, 0.5]) {
      line(at(-0.5, a, b), at(0.5, a, b));
      line(at(a, -0.5, b), at(a, 0.5, b));
      line(at(a, b, -0.5), at(a, b, 0.5));
    }
  const h = 0.5;
  const sides: [Vector, Vector, Vector, Vector][] = [
    [at(h, -h, h), at(h, -h, -h), at(h, h, -h), at(h, h, h)],
    [at(-h, -h, -h), at(-h, -h, h), at(-h, h, h), at(-h, h, -h)],
    [at(-h, h, h), at(h, h, h), at(h, h, -h), at(-h, h, -h)],
    [at(-h, -h, -h), at(h, -h, -h), at(h, -h, h), at(-h, -h, h)],
    [at(-h, -h, h), at(h, -h, h), at(h, h, h), at(-h, h, h)],
    [at(h, -h, -h), at(-h, -h, -h), at(-h, h, -h), at(h, h, -h)],
  ];
  for (const side of sides) quad(side, whole);
  return shape;
}

const names = { right: ['right', 'left'], up: ['top', 'bottom'], out: ['front', 'back'] } as const;

/** Where a jig can be taken hold of. */
export function handlesOf(jig: Jig): Handle[] {
  if (jig.kind === 'each-face') return [];
  const at = placer(jig);
  const flat = jig.kind === 'planar' || jig.kind === 'view';
  const round = jig.kind === 'cylindrical' || jig.kind === 'spherical';
  const list: Handle[] = [{ id: 'move', kind: 'move', label: 'Move the jig', place: jig.origin, axis: 2, sign: 1 }];
  for (const axis of [0, 1, 2] as const) {
    if (flat && axis === 2) continue;
    for (const sign of [1, -1] as const) {
      const spot: [number, number, number] = [0, 0, 0];
      spot[axis] = sign / 2;
      list.push({
        id: `side-${axis}-${sign}`,
        kind: 'side',
        label: `Size: the ${names[(['right', 'up', 'out'] as const)[axis]][sign > 0 ? 0 : 1]} side`,
        place: at(...spot),
        axis,
        sign,
      });
    }
  }
  list.push({
    id: 'even',
    kind: 'even',
    label: 'Even size',
    place: round ? at(Math.SQRT1_2 / 2, jig.kind === 'cylindrical' ? 0.5 : 0.35, Math.SQRT1_2 / 2) : at(0.5, 0.5, flat ? 0 : 0.5),
    axis: 0,
    sign: 1,
  });
  list.push({ id: 'turn-2', kind: 'turn', label: 'Turn in its plane', place: onRing(jig, 2, 0.29), axis: 2, sign: 1 });
  list.push({ id: 'turn-1', kind: 'turn', label: 'Turn about its upright', place: onRing(jig, 1, 0.21), axis: 1, sign: 1 });
  list.push({ id: 'turn-0', kind: 'turn', label: 'Tip forward or back', place: onRing(jig, 0, 0.1), axis: 0, sign: 1 });
  if (round) {
    const a = Math.PI + (jig.start * Math.PI) / 180;
    list.push({
      id: 'start',
      kind: 'start',
      label: 'Start line',
      place: at(Math.sin(a) * 0.5, jig.kind === 'cylindrical' ? -0.5 : -0.2, Math.cos(a) * 0.5),
      axis: 1,
      sign: 1,
    });
  }
  return list;
}

/** A line of sight: from the eye through a place of the view. */
export interface Ray {
  from: Vector;
  along: Vector;
}

export interface Snap {
  /** Degrees; 0: free. */
  angle: number;
  /** Units; 0: free. */
  step: number;
  /** A point of the model near the pointer to settle on. */
  point: Vector | null;
}

const snapped = (x: number, step: number) => (step > 0 ? Math.round(x / step) * step : x);

/** Where a line of sight meets the plane through a place; null where it runs along it. */
export function onPlane({ from, along }: Ray, through: Vector, normal: Vector): Vector | null {
  const d = dot(along, normal);
  if (Math.abs(d) < 1e-6 * length(along)) return null;
  return plus(from, along, dot(minus(through, from), normal) / d);
}

/** How far along an axis through a place the axis comes nearest to a line of sight. */
export function alongAxis({ from, along }: Ray, through: Vector, axis: Vector): number {
  const w = minus(through, from);
  const [a, b, c, d, e] = [dot(axis, axis), dot(axis, along), dot(along, along), dot(axis, w), dot(along, w)];
  const den = a * c - b * b;
  return Math.abs(den) < 1e-12 * a * c ? 0 : (b * e - c * d) / den;
}

/** Turned about an axis through the origin by an angle (radians; Rodrigues' formula). */
export function turnedAbout(v: Vector, axis: Vector, angle: number): Vector {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  const k = dot(axis, v) * (1 - c);
  const x: Vector = [axis[1] * v[2] - axis[2] * v[1], axis[2] * v[0] - axis[0] * v[2], axis[0] * v[1] - axis[1] * v[0]];
  return [v[0] * c + x[0] * s + axis[0] * k, v[1] * c + x[1] * s + axis[1] * k, v[2] * c + x[2] * s + axis[2] * k];
}

/** The angle from one line of sight to another about an axis through a place, where they meet the plane square to it; seen edge on, along the view. */
function angleBetween(first: Ray, now: Ray, through: Vector, axis: Vector): number {
  const facing = Math.abs(dot(first.along, axis)) / length(first.along);
  const normal = facing > 0.12 ? axis : (first.along.map((x) => -x / length(first.along)) as unknown as Vector);
  const [a, b] = [onPlane(first, through, normal), onPlane(now, through, normal)];
  if (!a || !b) return 0;
  const [p, q] = [minus(a, through), minus(b, through)];
  const cross: Vector = [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
  return Math.atan2(dot(cross, normal), dot(p, q));
}

export interface Dragged {
  jig: Jig;
  /** What has changed, as a number with its unit: “1.20 m wide”, “15°”. */
  says: { value: number; what: 'moved' | 'sized' | 'evenly' | 'turned' | 'start' };
}

/** A jig after one of its handles was dragged from one line of sight to another. Always from the jig as it was when the drag began. */
export function dragHandle(jig: Jig, handle: Handle, first: Ray, now: Ray, snap: Snap, alongOnly = false): Dragged {
  const axes = axesOf(jig);
  const axis = axes[handle.axis];
  switch (handle.kind) {
    case 'move': {
      if (snap.point) return { jig: { ...jig, origin: [...snap.point] }, says: { value: length(minus(snap.point, jig.origin)), what: 'moved' } };
      const towards = first.along.map((x) => -x / length(first.along)) as unknown as Vector;
      const [a, b] = [onPlane(first, jig.origin, towards), onPlane(now, jig.origin, towards)];
      if (!a || !b) return { jig, says: { value: 0, what: 'moved' } };
      const by = minus(b, a);
      let parts = axes.map((one) => dot(by, one));
      if (alongOnly) {
        const most = parts.reduce((best, x, k) => (Math.abs(x) > Math.abs(parts[best]!) ? k : best), 0);
        parts = parts.map((x, k) => (k === most ? x : 0));
      }
      parts = parts.map((x) => snapped(x, snap.step));
      const origin = axes.reduce<Vector>((sum, one, k) => plus(sum, one, parts[k]), jig.origin);
      return { jig: { ...jig, origin: [...origin] }, says: { value: Math.hypot(...parts), what: 'moved' } };
    }
    case 'side': {
      const before = alongAxis(first, jig.origin, axis);
      const by = (alongAxis(now, jig.origin, axis) - before) * handle.sign;
      const least = Math.max(...jig.size) * 1e-3;
      const wide = Math.max(least, snapped(jig.size[handle.axis] + by, snap.step));
      const grown = wide - jig.size[handle.axis];
      const size = jig.size.map((x, k) => (k === handle.axis ? wide : x)) as Jig['size'];
      return { jig: { ...jig, size, origin: [...plus(jig.origin, axis, (grown / 2) * handle.sign)] }, says: { value: wide, what: 'sized' } };
    }
    case 'even': {
      const towards = first.along.map((x) => -x / length(first.along)) as unknown as Vector;
      const [a, b] = [onPlane(first, jig.origin, towards), onPlane(now, jig.origin, towards)];
      const before = a ? length(minus(a, jig.origin)) : 0;
      let factor = a && b && before > 0 ? Math.max(1e-3, length(minus(b, jig.origin)) / before) : 1;
      if (snap.step > 0) factor = Math.max(snap.step, snapped(jig.size[0] * factor, snap.step)) / jig.size[0];
      const size = jig.size.map((x) => x * factor) as Jig['size'];
      return { jig: { ...jig, size }, says: { value: size[0], what: 'evenly' } };
    }
    case 'turn': {
      const degrees = snapped((angleBetween(first, now, jig.origin, axis) * 180) / Math.PI, snap.angle);
      const by = (degrees * Math.PI) / 180;
      const right = turnedAbout(axes[0], axis, by);
      const up = turnedAbout(axes[1], axis, by);
      return { jig: { ...jig, right: [...right], up: [...up] }, says: { value: degrees, what: 'turned' } };
    }
    case 'start': {
      const by = (angleBetween(first, now, jig.origin, axis) * 180) / Math.PI;
      const turned = snapped(jig.start + by, snap.angle);
      const start = ((((turned + 180) % 360) + 360) % 360) - 180;
      return { jig: { ...jig, start }, says: { value: start, what: 'start' } };
    }
  }
}

/** A round step (1, 2 or 5 times a power of ten) of about a fortieth of a length. */
export function roundStep(size: number): number {
  const rough = Math.max(1e-9, size / 40);
  const power = 10 ** Math.floor(Math.log10(rough));
  const digit = rough / power;
  return (digit < 1.5 ? 1 : digit < 3.5 ? 2 : digit < 7.5 ? 5 : 10) * power;
}

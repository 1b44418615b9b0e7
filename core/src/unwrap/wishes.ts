import * as portable from '../numeric/portable.ts';
import { isometric, stretchEnergy, type DirectionTerms, type IsometricOptions, type LengthTerms } from './isometric.ts';
import type { Prepared } from './prepared.ts';

/** How a marked edge is to come out on the sheet: level, upright, or whichever of these is nearer. */
export const StraightWay = { level: 1, upright: 2, nearest: 3 } as const;

/** What a piece is to meet on the sheet beside little stretch. */
export interface Wishes {
  /** Edges that come out level or upright: 2 vertices each, and which of these. */
  lines?: { vertices: Uint32Array; ways: Uint8Array };
  /** Edges that keep their length in space: 2 vertices each. */
  lengths?: Uint32Array;
  /**
   * Which way the picture is to run, 2 numbers a triangle in its own plane (see `FlatTriangles`; 0, 0: no wish), and along which axis of the sheet. `lean`:
   * radians by which that was turned back because the picture runs aslant by as much.
   */
  grain?: { way: Float64Array; along: 'u' | 'v'; lean: number };
}

/** Whether anything is wished. */
export const hasWishes = (wishes: Wishes): boolean => headingStep(wishes) > 0 || (wishes.lengths?.length ?? 0) > 0;

/** How many quarter turns apart the headings are in which a piece still meets its wishes: 4 a whole turn, 2 a half one, 1 a quarter; 0: no wishes. */
export function headingStep({ lines, grain }: Wishes): 0 | 1 | 2 | 4 {
  if (grain) return 4;
  if (!lines || lines.ways.length === 0) return 0;
  return lines.ways.some((way) => way !== StraightWay.nearest) ? 2 : 1;
}

/** Edges of one line go on while they turn from its first one by less than this, radians. */
const mostTurn = Math.PI / 4;
/** Price of an edge that is not straight, beside the stretch of the whole: raised step by step, so that nothing turns over on the way; chosen by trying. */
const strengths = [1e1, 1e3, 1e5];
/** Price of a picture that does not run along the grain; a mean error of 10° costs as much as the stretch of a triangle a fifth too long; chosen by us. */
const grainStrength = 5;

interface Line {
  /** Indices of its edges. */
  edges: number[];
  /** From its beginning to its end on the sheet. */
  chord: [number, number];
  way: number;
}

export interface WishOptions extends Pick<IsometricOptions, 'check' | 'tolerance' | 'timeLimit' | 'steps'> {
  /** Vertices that stay where they are, and with them the heading of the whole. */
  pinned?: ArrayLike<number>;
  /** A further energy for a map to start from, for instance one that keeps its border apart. */
  extraFor?: (uv: Float64Array) => IsometricOptions['extra'];
}

/**
 * Lays a piece once more so that marked edges are level or upright and the picture runs along the grain, with the least stretch that allows. The piece is turned
 * to its wishes first (pinned ones stay as they are); each line of edges takes the axis it is nearer to; what is left of a slope at the end, some millionths of
 * the piece, is taken away. O(solves), three where there are lines.
 * @param start 2 numbers a vertex, no triangle turned over
 */
export function layToWishes(prepared: Prepared, start: Float64Array, wishes: Wishes, options: WishOptions = {}): Float64Array {
  const { extraFor, pinned, ...rest } = options;
  const held = new Set(Array.from(pinned ?? []));
  const lines = wishes.lines ? linesOf(wishes.lines, start) : [];
  let uv = held.size > 0 ? Float64Array.from(start) : turned(start, turnTo(prepared, start, lines, wishes.grain));
  const axes = lines.map((line) => axisOf(line, wishes.lines!, uv));
  const keeping = wishes.lengths ?? new Uint32Array(0);
  for (const strength of lines.length + keeping.length > 0 ? strengths : [0]) {
    const directions = termsOf(prepared, wishes, lines, axes, strength);
    const lengths = keeping.length > 0 ? lengthTerms(prepared, keeping, strength) : undefined;
    uv = isometric(prepared, uv, { ...rest, held, near: true, directions, lengths, extra: extraFor?.(uv) }).uv;
  }
  return wishes.lines ? snapped(prepared, uv, wishes.lines, lines, axes, held) : uv;
}

/** Marked edges as lines: edges that join on and turn little; those that are to be level, or upright, go on through any turn. */
function linesOf({ vertices, ways }: NonNullable<Wishes['lines']>, uv: Float64Array): Line[] {
  const at = new Map<number, number[]>();
  for (let e = 0; e < ways.length; e++)
    for (let k = 0; k < 2; k++) {
      const v = vertices[e * 2 + k]!;
      (at.get(v) ?? at.set(v, []).get(v)!).push(e);
    }
  const seen = new Uint8Array(ways.length);
  const out: Line[] = [];
  const direction = (from: number, to: number) => portable.atan2(uv[to * 2 + 1]! - uv[from * 2 + 1]!, uv[to * 2]! - uv[from * 2]!);
  for (let first = 0; first < ways.length; first++) {
    if (seen[first]) continue;
    seen[first] = 1;
    const way = ways[first]!;
    const edges = [first];
    const ends = [vertices[first * 2]!, vertices[first * 2 + 1]!];
    for (let side = 0; side < 2; side++) {
      const heading = direction(ends[1 - side]!, ends[side]!);
      for (;;) {
        const here = ends[side]!;
        const joined = at.get(here)!.filter((e) => !seen[e] && ways[e] === way);
        const next = joined.find((e) => {
          if (way !== StraightWay.nearest) return true;
          const other = vertices[e * 2] === here ? vertices[e * 2 + 1]! : vertices[e * 2]!;
          const turn = direction(here, other) - heading;
          return Math.abs(portable.atan2(portable.sin(turn), portable.cos(turn))) < mostTurn;
        });
        if (next === undefined) break;
        seen[next] = 1;
        edges.push(next);
        ends[side] = vertices[next * 2] === here ? vertices[next * 2 + 1]! : vertices[next * 2]!;
      }
    }
    const [a, b] = ends as [number, number];
    out.push({ edges, way, chord: [uv[b * 2]! - uv[a * 2]!, uv[b * 2 + 1]! - uv[a * 2 + 1]!] });
  }
  return out;
}

/** The turn, radians counterclockwise, that brings a map nearest to its wishes: the mean of what each of them asks for, by length or area. */
function turnTo(prepared: Prepared, uv: Float64Array, lines: readonly Line[], grain: Wishes['grain']): number {
  if (grain) {
    let [x, y] = [0, 0];
    const { flat } = prepared;
    for (let t = 0; t < flat.count; t++) {
      const h = shares(prepared, t, grain.way[t * 2]!, grain.way[t * 2 + 1]!);
      for (let k = 0; k < 3; k++) {
        const v = prepared.triangles[t * 3 + k]!;
        x += flat.area[t]! * h[k]! * uv[v * 2]!;
        y += flat.area[t]! * h[k]! * uv[v * 2 + 1]!;
      }
    }
    if (Math.hypot(x, y) > 0) return (grain.along === 'u' ? 0 : Math.PI / 2) - portable.atan2(y, x);
  }
  const firm = lines.filter(({ way }) => way !== StraightWay.nearest);
  const fold = firm.length > 0 ? 2 : 4;
  let [x, y] = [0, 0];
  for (const { chord, way } of firm.length > 0 ? firm : lines) {
    const angle = portable.atan2(chord[1], chord[0]) - (way === StraightWay.upright ? Math.PI / 2 : 0);
    const length = Math.hypot(chord[0], chord[1]);
    x += length * portable.cos(fold * angle);
    y += length * portable.sin(fold * angle);
  }
  return Math.hypot(x, y) > 0 ? -portable.atan2(y, x) / fold : 0;
}

function turned(uv: Float64Array, angle: number): Float64Array {
  const [cos, sin] = [portable.cos(angle), portable.sin(angle)];
  const out = new Float64Array(uv.length);
  for (let k = 0; k < uv.length; k += 2) {
    out[k] = cos * uv[k]! - sin * uv[k + 1]!;
    out[k + 1] = sin * uv[k]! + cos * uv[k + 1]!;
  }
  return out;
}

/** Which coordinate stays the same along a line: 1 v (it is level), 0 u (upright). */
function axisOf({ edges, way }: Line, { vertices }: NonNullable<Wishes['lines']>, uv: Float64Array): 0 | 1 {
  if (way === StraightWay.level) return 1;
  if (way === StraightWay.upright) return 0;
  let [along, up] = [0, 0];
  for (const e of edges) {
    const [a, b] = [vertices[e * 2]! * 2, vertices[e * 2 + 1]! * 2];
    along += Math.abs(uv[b]! - uv[a]!);
    up += Math.abs(uv[b + 1]! - uv[a + 1]!);
  }
  return along >= up ? 1 : 0;
}

/** What each corner of a triangle adds to the image of a direction in its plane. */
function shares({ flat: { shape } }: Prepared, t: number, gx: number, gy: number): [number, number, number] {
  const [x1, x2, y2] = [shape[t * 3]!, shape[t * 3 + 1]!, shape[t * 3 + 2]!];
  const h1 = gx / x1 - (gy * x2) / (x1 * y2);
  const h2 = gy / y2;
  return [-h1 - h2, h1, h2];
}

function termsOf(prepared: Prepared, { lines: marked, grain }: Wishes, lines: readonly Line[], axes: readonly (0 | 1)[], strength: number): DirectionTerms {
  const { flat, triangles } = prepared;
  const triangle: number[] = [];
  const share: number[] = [];
  const axis: number[] = [];
  const weight: number[] = [];
  if (marked && lines.length > 0) {
    const size = sizeOf(prepared);
    const ofEdge = triangleOfEdge(prepared, marked.vertices);
    lines.forEach(({ edges }, n) => {
      for (const e of edges) {
        const t = ofEdge[e]!;
        if (t < 0) continue;
        const [a, b] = [marked.vertices[e * 2]!, marked.vertices[e * 2 + 1]!];
        const length = lengthInSpace(prepared, a, b);
        triangle.push(t);
        for (let k = 0; k < 3; k++) share.push(triangles[t * 3 + k] === a ? -1 : triangles[t * 3 + k] === b ? 1 : 0);
        axis.push(axes[n]!);
        // as much for a long edge as for the short ones that it could be parted into
        weight.push(length > 0 ? (strength * size) / length : 0);
      }
    });
  }
  if (grain)
    for (let t = 0; t < flat.count; t++) {
      const [gx, gy] = [grain.way[t * 2]!, grain.way[t * 2 + 1]!];
      if (gx === 0 && gy === 0) continue;
      triangle.push(t);
      share.push(...shares(prepared, t, gx, gy));
      axis.push(grain.along === 'u' ? 1 : 0);
      weight.push(grainStrength * flat.area[t]!);
    }
  return { triangle: Uint32Array.from(triangle), share: Float64Array.from(share), axis: Uint8Array.from(axis), weight: Float64Array.from(weight) };
}

const lengthInSpace = ({ positions: p }: Prepared, a: number, b: number) =>
  Math.hypot(p[a * 3]! - p[b * 3]!, p[a * 3 + 1]! - p[b * 3 + 1]!, p[a * 3 + 2]! - p[b * 3 + 2]!);

const sizeOf = ({ flat }: Prepared) => Math.sqrt(flat.area.reduce((sum, x) => sum + x, 0));

/** Edges that keep their length in space, at a price as that of straight lines. */
function lengthTerms(prepared: Prepared, edges: Uint32Array, strength: number): LengthTerms {
  const { triangles } = prepared;
  const ofEdge = triangleOfEdge(prepared, edges);
  const found = [...ofEdge.keys()].filter((e) => ofEdge[e]! >= 0);
  const size = sizeOf(prepared);
  const length = Float64Array.from(found, (e) => lengthInSpace(prepared, edges[e * 2]!, edges[e * 2 + 1]!));
  const first = (e: number) => {
    const own = [0, 1, 2].map((k) => triangles[ofEdge[e]! * 3 + k]!);
    return own.findIndex((v, k) => [v, own[(k + 1) % 3]!].every((end) => end === edges[e * 2] || end === edges[e * 2 + 1]));
  };
  return {
    triangle: Uint32Array.from(found, (e) => ofEdge[e]!),
    edge: Uint8Array.from(found, first),
    length,
    weight: length.map((long) => (long > 0 ? (strength * size) / long : 0)),
  };
}

/** A triangle at each edge; −1 for what is no edge of the piece. O(T) */
function triangleOfEdge({ triangles, vertices }: Prepared, edges: Uint32Array): Int32Array {
  const key = (a: number, b: number) => Math.min(a, b) * vertices + Math.max(a, b);
  const wanted = new Map<number, number>();
  for (let e = 0; e < edges.length / 2; e++) wanted.set(key(edges[e * 2]!, edges[e * 2 + 1]!), -1);
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const edge = key(triangles[t + k]!, triangles[t + ((k + 1) % 3)]!);
      if (wanted.has(edge)) wanted.set(edge, t / 3);
    }
  return Int32Array.from({ length: edges.length / 2 }, (_, e) => wanted.get(key(edges[e * 2]!, edges[e * 2 + 1]!))!);
}

/** Each line exactly level or upright, at its mean; as it was where a triangle would turn over by that. */
function snapped(
  prepared: Prepared,
  uv: Float64Array,
  { vertices }: NonNullable<Wishes['lines']>,
  lines: readonly Line[],
  axes: readonly (0 | 1)[],
  held: ReadonlySet<number>,
): Float64Array {
  const out = uv.slice();
  // lines that meet and run the same way are one
  const ofVertex = [new Map<number, number>(), new Map<number, number>()];
  const members: { axis: 0 | 1; points: Set<number> }[] = [];
  lines.forEach(({ edges }, n) => {
    const axis = axes[n]!;
    let into = members.length;
    members.push({ axis, points: new Set() });
    for (const e of edges)
      for (let k = 0; k < 2; k++) {
        const v = vertices[e * 2 + k]!;
        const known = ofVertex[axis]!.get(v);
        if (known !== undefined && known !== into) {
          for (const p of members[into]!.points) {
            members[known]!.points.add(p);
            ofVertex[axis]!.set(p, known);
          }
          members[into]!.points.clear();
          into = known;
        }
        members[into]!.points.add(v);
        ofVertex[axis]!.set(v, into);
      }
  });
  for (const { axis, points } of members) {
    if (points.size === 0) continue;
    // a line goes to its pin; two pins that are not level with one another stay, and it has a slope
    const firm = [...points].filter((v) => held.has(v));
    const from = firm.length > 0 ? firm : [...points];
    const mean = from.reduce((sum, v) => sum + uv[v * 2 + axis]!, 0) / from.length;
    if (firm.some((v) => Math.abs(uv[v * 2 + axis]! - mean) > 1e-9)) continue;
    for (const v of points) out[v * 2 + axis] = held.has(v) ? uv[v * 2 + axis]! : mean;
  }
  return Number.isFinite(stretchEnergy(prepared, out)) ? out : uv;
}

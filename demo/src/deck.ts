import { seededRandom, uvSetFrom, type Mesh, type UvSet } from '@jig-peel/core';
import { FaceCollector, type Place } from './quads.ts';

/** Metres. */
interface Plank {
  long: number;
  wide: number;
  high: number;
  /** How much further the far edge of its end reaches: sawn at a slant. */
  slant: number;
}

const kinds: Record<'long' | 'short' | 'sawn', Plank> = {
  long: { long: 1.8, wide: 0.14, high: 0.04, slant: 0 },
  short: { long: 1.2, wide: 0.14, high: 0.04, slant: 0 },
  sawn: { long: 1.5, wide: 0.14, high: 0.04, slant: 0.07 },
};

/** What the deck is made of, from one end to the other: 40 planks of three kinds. */
const order = Array.from({ length: 40 }, (_, k): keyof typeof kinds => (k >= 36 ? 'sawn' : k % 3 === 2 ? 'short' : 'long'));

/** Corners of a plank round its middle: low and high ones, each left front, right front, right back, left back. */
function cornersOf({ long, wide, high, slant }: Plank): Place[] {
  const [x, y, z] = [long / 2, high / 2, wide / 2];
  const ring = (h: number): Place[] => [[-x, h, z], [x + slant, h, z], [x, h, -z], [-x, h, -z]]; // prettier-ignore
  return [...ring(-y), ...ring(y)];
}

/** Its faces as numbers of these corners, and where each lies on the flat, metres: bottom, front, top and back one above the other, the ends beside the top. */
function flatOf({ long, wide, high, slant }: Plank): { corners: number[]; places: [number, number][] }[] {
  const end = long + slant;
  const [a, b, c, d] = [wide, wide + high, wide * 2 + high, (wide + high) * 2];
  const right = Math.hypot(slant, wide);
  const [ex, ey] = [(-slant * high) / right, (-wide * high) / right];
  return [
    { corners: [3, 2, 1, 0], places: [[0, 0], [long, 0], [end, a], [0, a]] },
    { corners: [0, 1, 5, 4], places: [[0, a], [end, a], [end, b], [0, b]] },
    { corners: [4, 5, 6, 7], places: [[0, b], [end, b], [long, c], [0, c]] },
    { corners: [7, 6, 2, 3], places: [[0, c], [long, c], [long, d], [0, d]] },
    { corners: [0, 4, 7, 3], places: [[-high, b], [0, b], [0, c], [-high, c]] },
    { corners: [5, 1, 2, 6], places: [[end, b], [end - ey, b - ex], [long - ey, c - ex], [long, c]] },
  ]; // prettier-ignore
}

/** 40 planks with a hand's width of play: each laid flat for itself, all in rows as they came, not packed. */
export function jettyDeck(): { mesh: Mesh; set: UvSet } {
  const random = seededRandom(11);
  const faces = new FaceCollector();
  const corner: [number, number][] = [];
  const size = 0.1;
  order.forEach((kind, k) => {
    const plank = kinds[kind];
    const turn = (random() - 0.5) * 0.02;
    const [x, y, z] = [(random() - 0.5) * 0.03, 0.32 + (random() - 0.5) * 0.008, (k - 19.5) * 0.155];
    const places = cornersOf(plank).map(([px, py, pz]): Place => [
      x + px * Math.cos(turn) + pz * Math.sin(turn),
      y + py,
      z - px * Math.sin(turn) + pz * Math.cos(turn),
    ]);
    // every third the other way round, as they were laid down
    const flip = k % 3 === 1 ? -1 : 1;
    const middle: [number, number] = [0.1 + 0.2 * (k % 5), 0.0625 + 0.125 * Math.floor(k / 5)];
    for (const { corners, places: flat } of flatOf(plank)) {
      faces.add(corners.map((c) => places[c]!), `${kind} planks`, k % 7 === 3 ? 'fresh wood' : 'weathered wood'); // prettier-ignore
      for (const [u, v] of flat) corner.push([middle[0] + flip * size * (u - plank.long / 2), middle[1] + flip * size * (v - 0.18)]);
    }
  });
  const mesh = faces.mesh();
  return { mesh, set: laid(mesh, corner) };
}

/** A UV set with one UV point for each place of each plank. */
function laid(mesh: Mesh, corner: readonly (readonly [number, number])[]): UvSet {
  const known = new Map<string, number>();
  const uv: number[] = [];
  const cornerUv = Uint32Array.from(corner, ([u, v], c) => {
    // faces of six a plank
    const key = `${Math.floor(c / 24)} ${mesh.corners[c]} ${u.toFixed(7)} ${v.toFixed(7)}`;
    if (!known.has(key)) {
      known.set(key, uv.length / 2);
      uv.push(u, v);
    }
    return known.get(key)!;
  });
  return uvSetFrom(mesh, 'UV set 1', cornerUv, Float64Array.from(uv));
}

/** Four posts of one form: a shaft of eight sides with a cap, the last two as their mirror images stand. */
export function railPosts(): { name: string; mesh: Mesh }[] {
  const ring = (radius: number, y: number, flip: number): Place[] =>
    Array.from({ length: 8 }, (_, k) => {
      const angle = (k / 8) * Math.PI * 2;
      // flat on the side that the rail is on, and where it goes on from there
      const [x, z] = [Math.cos(angle) * radius, Math.sin(angle) * radius];
      return [flip * Math.min(x, radius * 0.8), y, -(k === 3 ? z * 0.9 : z)];
    });
  const levels: [number, number][] = [[0.07, 0], [0.07, 0.7], [0.085, 0.74], [0.085, 0.8], [0.03, 0.86]]; // prettier-ignore
  return [0, 1, 2, 3].map((n) => {
    const faces = new FaceCollector();
    const flip = n < 2 ? 1 : -1;
    const wound = (places: Place[]) => (flip < 0 ? [...places].reverse() : places);
    const at = (place: Place): Place => [place[0] + (n < 2 ? -0.95 : 0.95), place[1] + 0.34, place[2] + (n % 2 === 0 ? -2.6 : 2.6)];
    levels.slice(1).forEach(([radius, y], k) => {
      const [low, high] = [ring(levels[k]![0], levels[k]![1], flip), ring(radius, y, flip)];
      for (let s = 0; s < 8; s++) faces.add(wound([low[s]!, low[(s + 1) % 8]!, high[(s + 1) % 8]!, high[s]!].map(at)), k < 1 ? 'shaft' : 'cap', 'fresh wood');
    });
    faces.add(wound(ring(0.03, 0.86, flip).map(at)), 'cap', 'fresh wood');
    return { name: `Rail post ${n + 1}`, mesh: faces.mesh() };
  });
}

import * as portable from '../numeric/portable.ts';
import { isInside, type Loops } from './contours.ts';
import { distances, fitOutline, FitOutline, hasInside, placedBy, sizeOf, startsBetween, turnOf, type Similarity } from './outlineFit.ts';

export interface EachFit {
  how: Similarity;
  /** Mean distance of its border from the outline, in units of what it was fitted to. */
  error: number;
  /** Number of the piece it was fitted to; −1: to all of them. */
  piece: number;
}

const stay: Similarity = [1, 0, 0, 0];
/** Islands are like a piece if their borders are within this share of the root of its area of one another, in the mean; chosen by trying. */
const mostUnlike = 0.1;
/** What is alike is told apart by how far it moves (over the whole) and turns (half a turn): less than any difference in shape that can be seen. */
const distanceCounts = 2e-3;
/** With more pairs than this, only the most alike by proportions are tried. */
const mostPairs = 3000;

/**
 * Each outline moved, turned and sized to meet one piece: the one it is on (or is nearest to), several on one if they are; or the one that is most like it, no
 * piece twice. O(pairs · points), pairs that differ in proportions left out.
 * @param own loops of each; those without an inside get null
 */
export function fitEach(own: readonly Loops[], pieces: readonly Loops[], which: 'near' | 'like', step: (share: number) => void = () => {}): (EachFit | null)[] {
  const onto = pieces.map((loops) => new FitOutline(loops));
  const mine = own.map((loops) => (hasInside(loops) ? new FitOutline(loops) : null));
  if (which === 'near')
    return mine.map((outline, k) => {
      step(k / mine.length);
      if (!outline) return null;
      const piece = pieceUnder(outline, onto);
      const target = onto[piece]!;
      const found = fitOutline(outline, target, { starts: [stay, sizedInPlace(outline, target)] });
      return { ...found, piece };
    });
  const rough = pieces.map((loops) => new FitOutline(loops, 72));
  const roughMine = own.map((loops, k) => (mine[k] ? new FitOutline(loops, 72) : null));
  const pairs = likelyPairs(roughMine, rough);
  const scored = pairs.map(([i, p], k) => {
    step((k / pairs.length) * 0.7);
    const { how, error } = fitOutline(roughMine[i]!, rough[p]!, { steps: 16 });
    return { i, p, how, score: error / Math.sqrt(rough[p]!.area) + beside(roughMine[i]!, how, rough) };
  });
  scored.sort((a, b) => a.score - b.score);
  const out: (EachFit | null)[] = own.map(() => null);
  const taken = new Set<number>();
  let done = 0;
  for (const { i, p, how, score } of scored) {
    if (score > mostUnlike || out[i] || taken.has(p)) continue;
    step(0.7 + (0.3 * done++) / own.length);
    taken.add(p);
    const found = fitOutline(mine[i]!, onto[p]!, { starts: [how] });
    out[i] = { ...found, piece: p };
  }
  return out;
}

/**
 * All outlines together moved, turned and sized by one similarity so that they meet the outlines of the pieces; pieces that belong to none of them do not count.
 * From where they are, from sizes and middles of all, and from what the largest of them are like. O(starts · points)
 * @returns the same similarity for each, with each one's own error
 */
export function fitTogether(own: readonly Loops[], pieces: readonly Loops[], step: (share: number) => void = () => {}): (EachFit | null)[] {
  const used = own.map(hasInside);
  const all = new FitOutline(
    own.flatMap((loops, k) => (used[k] ? loops : [])),
    Math.max(320, 48 * own.length),
  );
  const onto = new FitOutline(pieces.flat(), Math.max(640, 96 * pieces.length));
  const mine = own.map((loops, k) => (used[k] ? new FitOutline(loops, 96) : null));
  const starts: Similarity[] = [stay, ...startsBetween(all, onto)];
  const largest = mine.flatMap((outline, k) => (outline ? [k] : [])).sort((a, b) => mine[b]!.area - mine[a]!.area);
  const rough = pieces.map((loops) => new FitOutline(loops, 96));
  for (const [n, k] of largest.slice(0, 3).entries()) {
    const pairs = likelyPairs([mine[k]!], rough)
      .map(([, p]) => fitOutline(mine[k]!, rough[p]!, { steps: 16 }))
      .sort((a, b) => a.error / sizeOf(a.how) - b.error / sizeOf(b.how));
    starts.push(...pairs.slice(0, 6).map(({ how }) => how));
    step((0.6 * (n + 1)) / 3);
  }
  const { how } = fitOutline(all, onto, { starts, isPart: true });
  step(1);
  return mine.map((outline) => {
    if (!outline) return null;
    const off = distances(outline.samples, how, onto.index);
    return { how, error: off.reduce((sum, d) => sum + d, 0) / off.length, piece: -1 };
  });
}

/** The piece that an outline covers most of, and that covers most of it; the nearest by its middle where it is on none. */
function pieceUnder(own: FitOutline, pieces: readonly FitOutline[]): number {
  let [best, most] = [-1, 0.02];
  let [nearest, least] = [0, Infinity];
  const within = ({ samples: { places } }: FitOutline, { loops }: FitOutline) => {
    let count = 0;
    for (let k = 0; k < places.length; k += 2) if (loops.filter((loop) => isInside(loop, places[k]!, places[k + 1]!)).length % 2 === 1) count++;
    return count / (places.length / 2);
  };
  pieces.forEach((piece, p) => {
    const far = Math.hypot(piece.middle[0] - own.middle[0], piece.middle[1] - own.middle[1]);
    if (far < least) [nearest, least] = [p, far];
    const share = own.index.isApartFrom(piece.index) ? 0 : within(own, piece) + within(piece, own);
    if (share > most) [best, most] = [p, share];
  });
  return best >= 0 ? best : nearest;
}

/** On the middle of a piece, as large as it, heading kept. */
function sizedInPlace(own: FitOutline, onto: FitOutline): Similarity {
  const size = Math.sqrt(onto.area / own.area);
  return [size, 0, onto.middle[0] - size * own.middle[0], onto.middle[1] - size * own.middle[1]];
}

/** Pairs whose proportions are not far apart, by number; where there are many, the most alike of each. */
function likelyPairs(own: readonly (FitOutline | null)[], pieces: readonly FitOutline[]): [number, number][] {
  const shape = ({ loops, area, oblong }: FitOutline) => {
    let length = 0;
    for (const loop of loops)
      for (let k = 0; k < loop.length; k += 2) length += Math.hypot(loop[(k + 2) % loop.length]! - loop[k]!, loop[(k + 3) % loop.length]! - loop[k + 1]!);
    return { round: portable.log(length / Math.sqrt(area)), oblong: portable.log(oblong) };
  };
  const theirs = pieces.map(shape);
  const count = own.filter(Boolean).length * pieces.length;
  const each = count > mostPairs ? Math.max(4, Math.floor(mostPairs / Math.max(1, own.length))) : pieces.length;
  return own.flatMap((outline, i) => {
    if (!outline) return [];
    const mine = shape(outline);
    return theirs
      .map(({ round, oblong }, p) => ({ p, far: Math.abs(round - mine.round) + Math.abs(oblong - mine.oblong) }))
      .sort((a, b) => a.far - b.far)
      .filter(({ far }, n) => n < each && (far < 1 || n < 2))
      .map(({ p }): [number, number] => [i, p]);
  });
}

function beside(own: FitOutline, how: Similarity, pieces: readonly FitOutline[]): number {
  const span = Math.sqrt(pieces.reduce((sum, { area }) => sum + area, 0)) || 1;
  const [x, y] = placedBy(how, own.middle[0], own.middle[1]);
  return distanceCounts * (Math.hypot(x - own.middle[0], y - own.middle[1]) / span + Math.abs(turnOf(how)) / Math.PI);
}

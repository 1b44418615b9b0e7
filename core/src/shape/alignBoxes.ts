import { boxRound, type Box } from '../uv/box.ts';

export const alignSides = ['left', 'right', 'top', 'bottom', 'middleU', 'middleV'] as const;
export type AlignSide = (typeof alignSides)[number];

/** How far each box goes so that all end at one line. @param within what says where that line is; default: the box round all of them */
export function alignMoves(boxes: readonly Box[], side: AlignSide, within: Box = boxRound(boxes)): [number, number][] {
  const axis = side === 'left' || side === 'right' || side === 'middleU' ? 0 : 1;
  const [low, high] = [within[axis], within[axis + 2]!];
  return boxes.map((box) => {
    const [from, to] = [box[axis], box[axis + 2]!];
    const by = side === 'left' || side === 'bottom' ? low - from : side === 'right' || side === 'top' ? high - to : (low + high - from - to) / 2;
    return axis === 0 ? [by, 0] : [0, by];
  });
}

export const distributeWays = ['gapsU', 'gapsV', 'middlesU', 'middlesV'] as const;
export type DistributeWay = (typeof distributeWays)[number];

/** How far each box goes so that gaps between neighbours, or distances of middles, are even; the two outermost stay. */
export function distributeMoves(boxes: readonly Box[], way: DistributeWay): [number, number][] {
  const axis = way === 'gapsU' || way === 'middlesU' ? 0 : 1;
  const low = (k: number) => boxes[k]![axis];
  const high = (k: number) => boxes[k]![axis + 2]!;
  const middle = (k: number) => (low(k) + high(k)) / 2;
  const order = [...boxes.keys()].sort((a, b) => middle(a) - middle(b) || a - b);
  const [first, last] = [order[0]!, order.at(-1)!];
  const moves = boxes.map((): [number, number] => [0, 0]);
  if (way === 'middlesU' || way === 'middlesV') {
    const step = (middle(last) - middle(first)) / (order.length - 1);
    order.forEach((k, n) => (moves[k]![axis] = n === 0 || k === last ? 0 : middle(first) + n * step - middle(k)));
    return moves;
  }
  const inner = order.reduce((sum, k) => sum + high(k) - low(k), 0);
  const gap = (high(last) - low(first) - inner) / (order.length - 1);
  let at = low(first);
  for (const k of order) {
    moves[k]![axis] = k === first || k === last ? 0 : at - low(k);
    at += high(k) - low(k) + gap;
  }
  return moves;
}

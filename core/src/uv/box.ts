/** Left, bottom, right, top on the sheet. */
export type Box = readonly [number, number, number, number];

/** The box round places. */
export function boxOfPoints(uv: ArrayLike<number>, points: ArrayLike<number>): Box {
  let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < points.length; k++) {
    const [u, v] = [uv[points[k]! * 2]!, uv[points[k]! * 2 + 1]!];
    left = Math.min(left, u);
    right = Math.max(right, u);
    bottom = Math.min(bottom, v);
    top = Math.max(top, v);
  }
  return [left, bottom, right, top];
}

/** The box round boxes. */
export const boxRound = (boxes: readonly Box[]): Box => [
  Math.min(...boxes.map((box) => box[0])),
  Math.min(...boxes.map((box) => box[1])),
  Math.max(...boxes.map((box) => box[2])),
  Math.max(...boxes.map((box) => box[3])),
];

export const middleOf = ([left, bottom, right, top]: Box): [number, number] => [(left + right) / 2, (bottom + top) / 2];

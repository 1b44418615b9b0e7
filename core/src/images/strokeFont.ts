/**
 * Capital letters, figures and a few signs as strokes on a grid 4 wide and 6 high, y running down: our own plain drawing, so that grids and
 * guides look the same everywhere without a font file. Each sign is a list of polylines "x y x y …".
 */
const signs: Record<string, string> = {
  A: '0 6 2 0 4 6|.75 4 3.25 4',
  B: '0 0 0 6 3 6 4 5 4 4 3 3 0 3|3 3 3.7 2.3 3.7 .7 3 0 0 0',
  C: '4 1 3 0 1 0 0 1 0 5 1 6 3 6 4 5',
  D: '0 0 0 6 2.5 6 4 4.5 4 1.5 2.5 0 0 0',
  E: '4 0 0 0 0 6 4 6|0 3 3 3',
  F: '4 0 0 0 0 6|0 3 3 3',
  G: '4 1 3 0 1 0 0 1 0 5 1 6 3 6 4 5 4 3 2.5 3',
  H: '0 0 0 6|4 0 4 6|0 3 4 3',
  I: '2 0 2 6|1 0 3 0|1 6 3 6',
  J: '4 0 4 5 3 6 1 6 0 5',
  K: '0 0 0 6|4 0 0 3.4|1.3 2.4 4 6',
  L: '0 0 0 6 4 6',
  M: '0 6 0 0 2 3 4 0 4 6',
  N: '0 6 0 0 4 6 4 0',
  O: '1 0 3 0 4 1 4 5 3 6 1 6 0 5 0 1 1 0',
  P: '0 6 0 0 3 0 4 1 4 2.3 3 3.3 0 3.3',
  Q: '1 0 3 0 4 1 4 5 3 6 1 6 0 5 0 1 1 0|2.6 4.6 4.2 6.4',
  R: '0 6 0 0 3 0 4 1 4 2.3 3 3.3 0 3.3|2 3.3 4 6',
  S: '4 1 3 0 1 0 0 1 0 2 1 3 3 3 4 4 4 5 3 6 1 6 0 5',
  T: '0 0 4 0|2 0 2 6',
  U: '0 0 0 5 1 6 3 6 4 5 4 0',
  V: '0 0 2 6 4 0',
  W: '0 0 1 6 2 2.5 3 6 4 0',
  X: '0 0 4 6|4 0 0 6',
  Y: '0 0 2 3 4 0|2 3 2 6',
  Z: '0 0 4 0 0 6 4 6',
  0: '1 0 3 0 4 1 4 5 3 6 1 6 0 5 0 1 1 0|.8 5 3.2 1',
  1: '.7 1.3 2 0 2 6|.7 6 3.3 6',
  2: '0 1 1 0 3 0 4 1 4 2.2 0 6 4 6',
  3: '0 .8 1 0 3 0 4 .9 4 2 3 2.9 1.5 2.9|3 2.9 4 3.8 4 5.1 3 6 1 6 0 5.2',
  4: '3 6 3 0 0 4 4 4',
  5: '4 0 0 0 0 2.6 3 2.6 4 3.6 4 5 3 6 1 6 0 5.2',
  6: '4 .8 3 0 1 0 0 1 0 5 1 6 3 6 4 5 4 3.8 3 2.8 1 2.8 0 3.8',
  7: '0 0 4 0 1.5 6',
  8: '1 0 3 0 4 .9 4 2 3 2.9 1 2.9 0 2 0 .9 1 0|1 2.9 0 3.8 0 5.1 1 6 3 6 4 5.1 4 3.8 3 2.9',
  9: '0 5.2 1 6 3 6 4 5 4 1 3 0 1 0 0 1 0 2.2 1 3.2 3 3.2 4 2.2',
  '^': '.6 2 2 0 3.4 2|2 0 2 6',
};

const parsed = new Map<string, number[][]>();

/** Strokes of a sign, each a list of x y pairs on the 4 × 6 grid; empty for signs that are not drawn. */
export function strokesOf(sign: string): number[][] {
  const key = sign.toUpperCase();
  let strokes = parsed.get(key);
  if (!strokes) {
    strokes = (signs[key] ?? '')
      .split('|')
      .filter(Boolean)
      .map((line) => line.split(' ').map(Number));
    parsed.set(key, strokes);
  }
  return strokes;
}

/** Line segments (x1 y1 x2 y2 each) of a text centred at (x, y), letters `height` high, y down. */
export function textSegments(text: string, x: number, y: number, height: number): number[] {
  const unit = height / 6;
  const advance = 5.6 * unit;
  const left = x - (text.length * advance - 1.6 * unit) / 2;
  const out: number[] = [];
  [...text].forEach((sign, k) => {
    for (const stroke of strokesOf(sign)) {
      for (let i = 0; i + 3 < stroke.length; i += 2) {
        out.push(
          left + k * advance + stroke[i]! * unit,
          y - height / 2 + stroke[i + 1]! * unit,
          left + k * advance + stroke[i + 2]! * unit,
          y - height / 2 + stroke[i + 3]! * unit,
        );
      }
    }
  });
  return out;
}

import { seededRandom } from '../numeric/random.ts';
import * as portable from '../numeric/portable.ts';
import { innerPoint, offsetEdges, simplifiedOutline, type Loop } from './outline.ts';
import { finely, innerSheet, rootOf, type Placed, type SearchField, type SearchPiece, type WorkMeter } from './searchField.ts';
import type { Edges } from './separate.ts';
import { copyStand, NearSeparator, type NearShape, type Stand } from './separateNear.ts';

interface NearOptions {
  seed: number;
  spin: boolean;
  /** How far pieces are thrown about before, in steps of growth; 0: not. */
  shake: number;
  /** Growth below which it is not worth going on; default 2e-5. */
  least?: number;
  meter: WorkMeter;
  better(placed: Placed): void;
}

/** Edges of a piece at a scale, with half the gap around. */
function edgesAt(loops: readonly Loop[], scale: number, halfGap: number): Edges {
  return offsetEdges(
    loops.map((loop) => loop.map((v) => v * scale)),
    halfGap,
  );
}

/** Pieces and obstacles on the sheet, at any scale. */
export class NearSearch {
  readonly width: number;
  readonly height: number;
  readonly side: number;
  private readonly origin: number;
  private readonly simple: Loop[][];
  private readonly fixed: Edges[];
  /** A point inside of each piece at scale 1, and of each obstacle. */
  private readonly inner: [number, number][];
  private separator: NearSeparator;
  private isOver: () => boolean = () => false;
  stand: Stand;

  constructor(
    private readonly field: SearchField,
    private readonly pieces: readonly SearchPiece[],
    private readonly start: Placed,
    private readonly seed: number,
  ) {
    const { width, height, origin } = innerSheet(field);
    this.width = width;
    this.height = height;
    this.origin = origin;
    this.side = Math.max(width, height);
    const n = pieces.length;
    this.simple = pieces.map(({ loops }, i) =>
      // the angle that it has is taken as no turn: turns by quarters are exact then
      simplifiedOutline(loops, 1, (this.side * finely) / start.scale).map((loop) => turnedLoop(loop, start.angle[i]!)),
    );
    this.fixed = field.obstacles.map((loops) =>
      offsetEdges(
        loops.map((loop) => loop.map((v) => v - origin)),
        field.gap / 2,
      ),
    );
    this.inner = [...this.simple.map((loops) => edgesAt(loops, 1, 0)), ...this.fixed].map((edges) => innerPoint(edges) ?? [edges[0]!, edges[1]!]);
    this.separator = this.make(start.scale);
    this.stand = { x: new Float64Array(n + this.fixed.length), y: new Float64Array(n + this.fixed.length), angle: new Float64Array(n + this.fixed.length) };
    for (let i = 0; i < n; i++) {
      this.stand.x[i] = start.x[i]! - origin;
      this.stand.y[i] = start.y[i]! - origin;
    }
  }

  private make(scale: number): NearSeparator {
    const shapes = [
      ...this.simple.map((loops, i): NearShape => {
        const { turns, isFree } = this.pieces[i]!;
        return {
          edges: edgesAt(loops, scale, this.field.gap / 2),
          turns,
          isFree,
          isFixed: false,
        };
      }),
      ...this.fixed.map((edges): NearShape => ({ edges, turns: 1, isFree: false, isFixed: true })),
    ];
    return new NearSeparator(shapes, this.seed, rootOf);
  }

  /** Takes overlaps out at a scale. @returns whether none is left; then `stand` is that layout */
  settle(scale: number, step: number, spin: number, meter: WorkMeter, tried: Stand = copyStand(this.stand)): boolean {
    const edges = [...this.simple.map((loops) => edgesAt(loops, scale, this.field.gap / 2)), ...this.fixed];
    const inner = this.inner.map(([x, y], i): [number, number] => (i < this.pieces.length ? [x * scale, y * scale] : [x, y]));
    if (!this.separator.setEdges(edges, inner)) this.separator = this.make(scale);
    this.isOver = meter.watch(this.separator.kernel);
    const left = this.separator.run(tried, this.width, this.height, {
      step,
      spin,
      patience: 60,
      isOver: this.isOver,
    });
    if (left !== 0) return false;
    this.stand = tried;
    return true;
  }

  placed(scale: number): Placed {
    const n = this.pieces.length;
    return {
      scale,
      x: this.stand.x.slice(0, n).map((v) => v + this.origin),
      y: this.stand.y.slice(0, n).map((v) => v + this.origin),
      angle: this.stand.angle.slice(0, n).map((v, i) => v + this.start.angle[i]!),
    };
  }
}

function turnedLoop(loop: Loop, angle: number): Loop {
  if (angle === 0) return loop;
  const quarters = Math.round((angle * 2) / Math.PI);
  const isWhole = Math.abs((angle * 2) / Math.PI - quarters) < 1e-12;
  const cos = isWhole ? [1, 0, -1, 0][quarters & 3]! : portable.cos(angle);
  const sin = isWhole ? [0, 1, 0, -1][quarters & 3]! : portable.sin(angle);
  const out = new Float64Array(loop.length);
  for (let k = 0; k < loop.length; k += 2) {
    out[k] = loop[k]! * cos - loop[k + 1]! * sin;
    out[k + 1] = loop[k]! * sin + loop[k + 1]! * cos;
  }
  return out;
}

/** Grows the scale in small steps, pieces giving way to one another near by. @returns the best layout found, at least the one given */
export function growNear(
  field: SearchField,
  pieces: readonly SearchPiece[],
  start: Placed,
  { seed, spin, shake, least = 2e-5, meter, better }: NearOptions,
): Placed {
  if (meter.isOver) return start;
  const random = seededRandom(seed);
  const search = new NearSearch(field, pieces, start, seed);
  const { side } = search;
  let best = start;
  let scale = start.scale;
  let growth = shake > 0 ? 0.004 * shake : 0.004;
  let isShaken = shake === 0;
  while (!meter.isOver && growth > least) {
    const tried = copyStand(search.stand);
    if (!isShaken) {
      isShaken = true;
      for (let i = 0; i < pieces.length; i++) {
        tried.x[i]! += (random() - 0.5) * side * growth * 4;
        tried.y[i]! += (random() - 0.5) * side * growth * 4;
      }
    }
    const next = scale * (1 + growth);
    if (search.settle(next, Math.max(side * 2e-7, (side * growth) / 3), spin ? Math.min(0.15, growth * 40) : 0, meter, tried)) {
      scale = next;
      best = search.placed(scale);
      better(best);
      growth *= 1.25;
    } else growth *= 0.6;
  }
  return best;
}

import { boxOfLoops, testPlaces } from './outline.ts';
import { sampleKernel, type SampleKernel } from './packKernel.ts';
import { addresses } from './addresses.ts';
import { sweepUntilClear } from './separate.ts';
import type { Stand } from './separateNear.ts';

/** A piece whose overlaps are taken out by trying places. */
export interface SampledShape {
  /** Edges about the piece's own origin, 4 numbers an edge; the solid on their left. */
  edges: Float64Array;
  /** Into how many turns a whole one is parted that it may take; 0 for any angle. */
  turns: 0 | 1 | 2 | 4 | 8;
  isFixed: boolean;
}

const mostCircles = 10;

/**
 * Circles inscribed in a region, the largest first, none within another: each about the place of a grid that is furthest from the border and from the circles
 * before. O(side² · (edges + circles)).
 * @param side places of the grid along the longer side
 * @returns 3 numbers a circle: x, y, radius
 */
export function inscribedCircles(edges: Float64Array, side = 40, most = mostCircles): Float64Array {
  const [minX, minY, maxX, maxY] = boxOfLoops([edges]);
  const step = Math.max(maxX - minX, maxY - minY) / side;
  const places: number[] = [];
  const away: number[] = [];
  const distance = (px: number, py: number): number => {
    let [least, winding] = [Infinity, 0];
    for (let k = 0; k < edges.length; k += 4) {
      const [x0, y0, x1, y1] = [edges[k]!, edges[k + 1]!, edges[k + 2]!, edges[k + 3]!];
      const [ux, uy] = [x1 - x0, y1 - y0];
      const along = Math.max(0, Math.min(1, ((px - x0) * ux + (py - y0) * uy) / (ux * ux + uy * uy)));
      least = Math.min(least, (px - x0 - along * ux) ** 2 + (py - y0 - along * uy) ** 2);
      if (y0 > py !== y1 > py && (ux * (py - y0) - (px - x0) * uy) * uy > 0) winding += uy > 0 ? 1 : -1;
    }
    return winding === 0 ? -Math.sqrt(least) : Math.sqrt(least);
  };
  for (let y = minY + step / 2; y < maxY; y += step) {
    for (let x = minX + step / 2; x < maxX; x += step) {
      const own = distance(x, y);
      if (own > 0) {
        places.push(x, y);
        away.push(own);
      }
    }
  }
  const [px, py] = testPlaces(edges);
  places.push(px!, py!);
  away.push(Math.max(distance(px!, py!), step * 1e-3));
  const out: number[] = [];
  while (out.length < most * 3) {
    let at = 0;
    for (let k = 1; k < away.length; k++) if (away[k]! > away[at]!) at = k;
    if (!(away[at]! > 0) || (out.length > 0 && away[at]! < out[2]! * 0.08)) break;
    let [x, y, radius] = [places[at * 2]!, places[at * 2 + 1]!, away[at]!];
    if (out.length === 0) {
      // the largest a little more exactly
      for (let reach = step / 2; reach > step / 64; reach /= 2) {
        for (let way = 0; way < 9; way++) {
          const [tx, ty] = [x + ((way % 3) - 1) * reach, y + (Math.floor(way / 3) - 1) * reach];
          const own = distance(tx, ty);
          if (own > radius) [x, y, radius] = [tx, ty, own];
        }
      }
    }
    out.push(x, y, radius);
    for (let k = 0; k < away.length; k++) away[k] = Math.min(away[k]!, Math.sqrt((places[k * 2]! - x) ** 2 + (places[k * 2 + 1]! - y) ** 2) - radius);
  }
  return Float64Array.from(out);
}

/** Pieces that are moved before it is looked whether to stop: some 20 ms. */
const movedAtOnce = 24;
const blockBytes = 80;
const circleBytes = 48;
const recordBytes = 80;

/** Takes overlaps out of a layout by trying places, near by and all over the sheet, at any angle that a piece may have; see core/assembly/sampling.ts. */
export class SampledSeparator {
  readonly kernel: SampleKernel;
  private readonly memory: WebAssembly.Memory;
  private readonly records: number;
  private readonly count: number;

  constructor(pieces: readonly SampledShape[], seed: number) {
    const n = (this.count = pieces.length);
    const { take, end } = addresses();
    const circles = pieces.map(({ edges }) => inscribedCircles(edges, n > 250 ? 20 : 40));
    const places = pieces.map(({ edges }, i) => {
      const found = testPlaces(edges);
      return Float64Array.from([circles[i]![0]!, circles[i]![1]!, ...found.slice(2)]);
    });
    const blocks = pieces.map(({ edges }) => Math.ceil(edges.length / 16));
    const circleBlocks = circles.map((own) => Math.ceil(own.length / 12));
    this.records = take(n * recordBytes);
    const boxes = take(n * 16);
    const standing = take(Math.ceil(n / 4) * 64);
    const weights = take(n * n * 4);
    const losses = take(n * n * 4);
    const order = take(n * 4);
    const tried = take(Math.max(...blocks) * blockBytes);
    const triedCircles = take(Math.max(...circleBlocks) * circleBytes);
    const triedPlaces = take(Math.max(...places.map((own) => own.length)) * 4);
    const rooms = pieces.map((_, i) => ({
      edges: take(blocks[i]! * blockBytes),
      present: take(blocks[i]! * blockBytes),
      circles: take(circleBlocks[i]! * circleBytes),
      presentCircles: take(circleBlocks[i]! * circleBytes),
      places: take(places[i]!.length * 4),
      presentPlaces: take(places[i]!.length * 4),
      boxes: take(Math.ceil(blocks[i]! / 4) * 64),
    }));
    const { kernel, memory } = sampleKernel(end());
    this.kernel = kernel;
    this.memory = memory;
    const ints = new Int32Array(memory.buffer);
    const floats = new Float32Array(memory.buffer);
    pieces.forEach(({ edges, turns, isFixed }, i) => {
      const room = rooms[i]!;
      const record = (this.records + i * recordBytes) / 4;
      ints.set([room.edges, room.present, blocks[i]!, room.circles, room.presentCircles, circleBlocks[i]!], record);
      ints.set([room.places, room.presentPlaces, places[i]!.length / 2, turns, isFixed ? 1 : 0], record + 6);
      let [area, reach] = [0, 0];
      const last = edges.length - 4;
      for (let k = 0; k < blocks[i]! * 4; k++) {
        const from = Math.min(k * 4, last);
        const to = (room.edges + Math.floor(k / 4) * blockBytes) / 4 + (k % 4);
        for (let c = 0; c < 4; c++) floats[to + c * 4] = edges[from + (k * 4 > last ? c % 2 : c)]!;
        if (k * 4 > last) continue;
        area += edges[from]! * edges[from + 3]! - edges[from + 1]! * edges[from + 2]!;
        reach = Math.max(reach, 2 * Math.sqrt(edges[from]! ** 2 + edges[from + 1]! ** 2));
      }
      for (let k = 0; k < circleBlocks[i]! * 4; k++) {
        const to = (room.circles + Math.floor(k / 4) * circleBytes) / 4 + (k % 4);
        const isOne = k * 3 < circles[i]!.length;
        for (let c = 0; c < 3; c++) floats[to + c * 4] = isOne ? circles[i]![k * 3 + c]! : c < 2 ? circles[i]![c]! : 0;
      }
      floats.set(places[i]!, room.places / 4);
      floats[record + 14] = Math.sqrt(Math.max(Math.abs(area) / 2, 1e-12));
      floats[record + 15] = reach;
      ints[record + 16] = room.boxes;
    });
    kernel.setUp(n, this.records, boxes, standing, weights, losses, order, tried, triedCircles, triedPlaces, seed);
  }

  private load({ x, y, angle }: Stand): void {
    const floats = new Float32Array(this.memory.buffer);
    for (let i = 0; i < this.count; i++) floats.set([x[i]!, y[i]!, angle[i]!], (this.records + i * recordBytes) / 4 + 11);
  }

  private store({ x, y, angle }: Stand): void {
    const floats = new Float32Array(this.memory.buffer);
    for (let i = 0; i < this.count; i++) {
      const at = (this.records + i * recordBytes) / 4 + 11;
      x[i] = floats[at]!;
      y[i] = floats[at + 1]!;
      // eighths of a turn exactly
      const eighths = (Math.round((floats[at + 2]! * 4) / Math.PI) * Math.PI) / 4;
      angle[i] = Math.abs(floats[at + 2]! - eighths) < 1e-6 ? eighths : floats[at + 2]!;
    }
  }

  /**
   * Separates the pieces, in place.
   * @param growth by how much they are larger than they were given
   * @param patience sweeps without a gain of two percent after which it gives up
   * @returns what the overlaps that are left cost, 0 where none is; the layout is then the best one seen. Infinity where a piece is larger than the sheet
   */
  run(stand: Stand, width: number, height: number, growth: number, patience: number, isOver: () => boolean): number {
    this.load(stand);
    const loss = this.kernel.begin(width, height, growth);
    return sweepUntilClear(
      loss,
      () => this.sweep(isOver),
      () => this.store(stand),
      patience,
      isOver,
    );
  }

  /** Moves each piece that overlaps another once, and looks now and then whether it is time to stop. @returns what all overlaps cost */
  private sweep(isOver: () => boolean): number {
    const overlapping = this.kernel.listOverlapping();
    for (let k = 0; k < overlapping && (k === 0 || !isOver()); k += movedAtOnce) this.kernel.movePieces(k, Math.min(overlapping, k + movedAtOnce));
    return this.kernel.reweigh(0.3, 0.9);
  }
}

import type { Mesh } from '../mesh/mesh.ts';
import { topologyOf } from '../mesh/topology.ts';
import { convertSelection, type ElementKind } from '../select/convert.ts';
import { faceAreasOf } from '../unwrap/unwrapIslands.ts';
import { islandsOf } from '../uv/islands.ts';
import type { UvSet } from '../uv/uvSet.ts';
import * as portable from '../numeric/portable.ts';

/** Figures of a selection on the model (units) and on the sheet (px). A figure that has no meaning for the kind is null. */
export interface SelectionFigures {
  kind: ElementKind;
  count: number;
  /** Edges: sum of their lengths on the model; faces: the length of their outline. */
  length: number | null;
  /** The same on the sheet, px; both sides of a seam count, each by half. Null where nothing of it is placed. */
  lengthPx: number | null;
  /** Faces: area on the model, units². */
  area: number | null;
  areaPx: number | null;
  /** Px per unit: lengths of edges, roots of areas of faces. */
  ratio: number | null;
  /** Degrees from the sheet's u axis, 0 … 180: of edges their mean heading weighted by length, of faces the longer axis of their box. */
  heading: number | null;
  /** How much the headings differ: 0 all alike, 1 every which way. */
  headingSpread: number | null;
  /** Size on the model along x, y, z. */
  size: [number, number, number];
  /** Faces of it that have no place on the sheet. */
  unplaced: number;
}

/**
 * Length and area of what is selected on model and sheet, their ratio and the heading on the sheet. Headings are axial (an edge has no
 * front), so their mean is taken at the doubled angle (Mardia, Jupp: Directional Statistics, 1999; from memory). O(size of the selection + F).
 * @param width, height sheet in px
 */
export function selectionFigures(
  mesh: Mesh,
  set: UvSet,
  kind: ElementKind,
  ids: Iterable<number> & ArrayLike<number>,
  width: number,
  height: number,
): SelectionFigures {
  const figures: SelectionFigures = {
    kind,
    count: ids.length,
    length: null,
    lengthPx: null,
    area: null,
    areaPx: null,
    ratio: null,
    heading: null,
    headingSpread: null,
    size: sizeOf(boxOf(mesh, set, kind, ids)),
    unplaced: 0,
  };
  if (ids.length === 0 || kind === 'points') return figures;
  if (kind === 'edges') {
    const sum = lengthsOf(mesh, set, ids, width, height, () => true);
    return { ...figures, ...sum, ratio: sum.lengthPx !== null && sum.placedLength > 0 ? sum.lengthPx / sum.placedLength : null };
  }
  const faces = kind === 'faces' ? Uint32Array.from(ids) : convertSelection(mesh, islandsOf(mesh, set), kind, ids, 'faces');
  const chosen = new Uint8Array(mesh.faceStart.length - 1);
  for (const f of faces) chosen[f] = 1;
  const { cornerEdge, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  const outline = new Set<number>();
  let [area, areaPx, placedArea, unplaced] = [0, 0, 0, 0];
  for (const f of faces) {
    const [inSpace, signed] = faceAreasOf(mesh, set, f);
    const onSheet = Math.abs(signed);
    area += inSpace;
    if (set.unplaced[f]) unplaced++;
    else {
      placedArea += inSpace;
      areaPx += Math.abs(onSheet) * width * height;
    }
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const e = cornerEdge[c]!;
      let inside = 0;
      for (let k = edgeStart[e]!; k < edgeStart[e + 1]!; k++) inside += chosen[cornerFace[edgeCorners[k]!]!]!;
      if (inside === 1) outline.add(e);
    }
  }
  const rim = lengthsOf(mesh, set, [...outline], width, height, (c) => chosen[cornerFace[c]!] === 1);
  return {
    ...figures,
    length: rim.length,
    lengthPx: rim.lengthPx,
    area,
    areaPx: unplaced < faces.length ? areaPx : null,
    ratio: placedArea > 0 ? Math.sqrt(areaPx / placedArea) : null,
    ...longAxis(mesh, set, faces, width, height),
    unplaced,
  };
}

function lengthsOf(mesh: Mesh, set: UvSet, edges: ArrayLike<number>, width: number, height: number, counts: (corner: number) => boolean) {
  const { edgePoints, edgeStart, edgeCorners, cornerFace } = topologyOf(mesh);
  let [length, lengthPx, placedLength, x, y, weight] = [0, 0, 0, 0, 0, 0];
  let placedSides = 0;
  for (let k = 0; k < edges.length; k++) {
    const e = edges[k]!;
    const [a, b] = [edgePoints[e * 2]! * 3, edgePoints[e * 2 + 1]! * 3];
    const own = Math.hypot(mesh.points[b]! - mesh.points[a]!, mesh.points[b + 1]! - mesh.points[a + 1]!, mesh.points[b + 2]! - mesh.points[a + 2]!);
    length += own;
    const sides: number[] = [];
    for (let i = edgeStart[e]!; i < edgeStart[e + 1]!; i++) {
      const c = edgeCorners[i]!;
      const f = cornerFace[c]!;
      if (set.unplaced[f] || !counts(c)) continue;
      const next = c + 1 === mesh.faceStart[f + 1]! ? mesh.faceStart[f]! : c + 1;
      const [i0, i1] = [set.cornerUv[c]! * 2, set.cornerUv[next]! * 2];
      const [dx, dy] = [(set.uv[i1]! - set.uv[i0]!) * width, (set.uv[i1 + 1]! - set.uv[i0 + 1]!) * height];
      const px = Math.hypot(dx, dy);
      sides.push(px);
      if (px > 0) {
        const angle = 2 * portable.atan2(dy, dx);
        x += px * portable.cos(angle);
        y += px * portable.sin(angle);
        weight += px;
      }
    }
    if (sides.length === 0) continue;
    placedSides += sides.length;
    placedLength += own;
    lengthPx += sides.reduce((sum, px) => sum + px, 0) / sides.length;
  }
  const mean = weight > 0 ? Math.hypot(x, y) / weight : 0;
  return {
    length,
    lengthPx: placedSides > 0 ? lengthPx : null,
    placedLength,
    heading: weight > 0 && mean > 1e-6 ? axial(portable.atan2(y, x) / 2) : null,
    headingSpread: weight > 0 ? 1 - mean : null,
  };
}

/** An angle in radians as degrees of an axis, 0 … 180. */
function axial(radians: number): number {
  const degrees = (radians * 180) / Math.PI;
  const turned = ((degrees % 180) + 180) % 180;
  return turned > 180 - 1e-9 ? 0 : turned;
}

/** Heading of the longer axis of the corners on the sheet (principal axes), null for a round or unplaced piece. */
function longAxis(mesh: Mesh, set: UvSet, faces: Uint32Array, width: number, height: number): { heading: number | null; headingSpread: number | null } {
  let [n, mx, my] = [0, 0, 0];
  const each = (visit: (x: number, y: number) => void) => {
    for (const f of faces) {
      if (set.unplaced[f]) continue;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++)
        visit(set.uv[set.cornerUv[c]! * 2]! * width, set.uv[set.cornerUv[c]! * 2 + 1]! * height);
    }
  };
  each((x, y) => {
    n++;
    mx += x;
    my += y;
  });
  if (n === 0) return { heading: null, headingSpread: null };
  let [xx, xy, yy] = [0, 0, 0];
  each((x, y) => {
    xx += (x - mx / n) ** 2;
    xy += (x - mx / n) * (y - my / n);
    yy += (y - my / n) ** 2;
  });
  const apart = Math.hypot(xx - yy, 2 * xy);
  const total = xx + yy;
  if (!(apart > 1e-6 * total)) return { heading: null, headingSpread: null };
  return { heading: axial(portable.atan2(2 * xy, xx - yy) / 2), headingSpread: 1 - apart / total };
}

/** Lowest and highest x, y, z on the model; infinite for nothing. */
interface SpaceBox {
  low: number[];
  high: number[];
}

function boxOf(mesh: Mesh, set: UvSet, kind: ElementKind, ids: Iterable<number> & ArrayLike<number>): SpaceBox {
  const points = kind === 'points' ? ids : convertSelection(mesh, islandsOf(mesh, set), kind, ids, 'points');
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let k = 0; k < points.length; k++) {
    for (let d = 0; d < 3; d++) {
      const x = mesh.points[points[k]! * 3 + d]!;
      if (x < low[d]!) low[d] = x;
      if (x > high[d]!) high[d] = x;
    }
  }
  return { low, high };
}

const sizeOf = ({ low, high }: SpaceBox) => [0, 1, 2].map((d) => Math.max(0, high[d]! - low[d]!)) as [number, number, number];

/** What is selected of one of several parts. */
export interface SelectedPiece {
  readonly mesh: Mesh;
  readonly set: UvSet;
  readonly ids: Iterable<number> & ArrayLike<number>;
}

/**
 * The figures of what is selected of several parts together: sums, ratios of the sums, the mean heading of edges weighted by their length. Faces of several
 * parts have no heading in common. O(size of the selection + F of the parts)
 */
export function figuresOfPieces(pieces: readonly SelectedPiece[], kind: ElementKind, width: number, height: number): SelectionFigures {
  const each = pieces.map(({ mesh, set, ids }) => selectionFigures(mesh, set, kind, ids, width, height));
  if (each.length === 1) return each[0]!;
  const boxes = pieces.map(({ mesh, set, ids }) => boxOf(mesh, set, kind, ids));
  const figures: SelectionFigures = {
    kind,
    count: each.reduce((sum, one) => sum + one.count, 0),
    length: sumOf(each, 'length'),
    lengthPx: sumOf(each, 'lengthPx'),
    area: sumOf(each, 'area'),
    areaPx: sumOf(each, 'areaPx'),
    ratio: null,
    heading: null,
    headingSpread: null,
    size: sizeOf({
      low: axisByAxis(
        boxes.map(({ low }) => low),
        Math.min,
      ),
      high: axisByAxis(
        boxes.map(({ high }) => high),
        Math.max,
      ),
    }),
    unplaced: each.reduce((sum, one) => sum + one.unplaced, 0),
  };
  let [onSheet, onModel, x, y, weight] = [0, 0, 0, 0, 0];
  for (const { ratio, areaPx, lengthPx, heading, headingSpread } of each) {
    const px = kind === 'edges' ? lengthPx : areaPx;
    if (ratio === null || px === null || ratio === 0) continue;
    onSheet += px;
    onModel += px / (kind === 'edges' ? ratio : ratio * ratio);
    if (kind !== 'edges') continue;
    weight += px;
    if (heading === null) continue;
    const angle = (heading * Math.PI) / 90;
    x += px * (1 - headingSpread!) * portable.cos(angle);
    y += px * (1 - headingSpread!) * portable.sin(angle);
  }
  if (onModel > 0) figures.ratio = kind === 'edges' ? onSheet / onModel : Math.sqrt(onSheet / onModel);
  const mean = weight > 0 ? Math.hypot(x, y) / weight : 0;
  if (weight > 0) figures.headingSpread = 1 - mean;
  if (mean > 1e-6) figures.heading = axial(portable.atan2(y, x) / 2);
  return figures;
}

function sumOf(each: readonly SelectionFigures[], name: 'length' | 'lengthPx' | 'area' | 'areaPx'): number | null {
  const known = each.map((one) => one[name]).filter((x) => x !== null);
  return known.length > 0 ? known.reduce((sum, x) => sum + x, 0) : null;
}

/** The lowest or highest of places axis by axis. */
const axisByAxis = (places: readonly number[][], pick: typeof Math.min) => [0, 1, 2].map((d) => pick(...places.map((place) => place[d]!)));

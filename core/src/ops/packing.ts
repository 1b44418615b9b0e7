import type { Context } from '../context.ts';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { leastDistance } from '../pack/clearance.ts';
import { outlinesOf } from '../pack/outline.ts';
import { packAside } from '../pack/packAside.ts';
import { packTurns, type PackOptions, type PackReport } from '../pack/packing.ts';
import { islandDensities } from '../pack/density.ts';
import { islandsOf } from '../uv/islands.ts';
import { tilePlace } from '../uv/tiles.ts';
import type { UvSet } from '../uv/uvSet.ts';

/** The layout without some islands: they have no place there. */
export function without(mesh: Mesh, set: UvSet, islands: { readonly [i: number]: number }): UvSet {
  const { ofFace } = islandsOf(mesh, set);
  return { ...set, unplaced: set.unplaced.map((away, f) => (away || islands[ofFace[f]!] ? 1 : 0)) };
}

/** UV points of some islands. */
function pointsOf(mesh: Mesh, set: UvSet, islands: ReadonlySet<number>): Set<number> {
  const { ofFace } = islandsOf(mesh, set);
  const points = new Set<number>();
  for (let f = 0; f < ofFace.length; f++)
    if (islands.has(ofFace[f]!)) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) points.add(set.cornerUv[c]!);
  return points;
}

/** Islands sized by one factor about the sheet's corner. */
function sized(mesh: Mesh, set: UvSet, islands: readonly number[], factor: number): UvSet {
  const uv = set.uv.slice();
  for (const p of pointsOf(mesh, set, new Set(islands))) {
    uv[p * 2]! *= factor;
    uv[p * 2 + 1]! *= factor;
  }
  return { ...set, uv };
}

export interface Wanted {
  mesh: Mesh;
  set: UvSet;
  options: PackOptions & { islands: readonly number[] };
  context: Context;
}

/** Islands of one kind, which stay together. */
export type Group = readonly number[];

/**
 * Packs islands that are to stay together as blocks: each group is packed by itself at about the scale that all will have, so that the gap within it holds,
 * then the blocks are packed.
 */
export async function packBlocks({ mesh, set, options, context }: Wanted, groups: readonly Group[]): Promise<{ set: UvSet; report: PackReport }> {
  const { width, height, keepScale } = options;
  const area = pxAreas(mesh, set, width, height);
  const total = options.islands.reduce((sum, i) => sum + area[i]!, 0);
  let factor = keepScale ? 1 : Math.sqrt((0.6 * width * height) / total);
  for (let attempt = 0; attempt < 6; attempt++) {
    let laid = keepScale ? set : sized(mesh, set, options.islands, factor);
    for (const group of groups) {
      if (group.length < 2) continue;
      // a square that the group just fits into, found by halves
      const own = group.reduce((sum, i) => sum + area[i]!, 0) * factor * factor;
      let side = Math.sqrt(own / 0.85);
      // nothing else is in the way here
      const alone = Uint8Array.from(area, (_, i) => (group.includes(i) ? 0 : 1));
      for (let grown = 0; ; grown++) {
        const size = Math.ceil(side);
        const scaled = { ...laid, uv: laid.uv.map((v, k) => (v * (k % 2 === 0 ? width : height)) / size) };
        try {
          const packed = await packAside(
            mesh,
            without(mesh, scaled, alone),
            {
              ...options,
              leavesRest: false,
              width: size,
              height: size,
              borderGap: 0,
              keepScale: true,
              effort: 0,
              islands: group,
              upright: grown === 0 ? (options.upright ?? []) : [],
            },
            context,
          );
          const uv = laid.uv.slice();
          for (const p of pointsOf(mesh, set, new Set(group))) {
            uv[p * 2] = (packed.set.uv[p * 2]! * size) / width;
            uv[p * 2 + 1] = (packed.set.uv[p * 2 + 1]! * size) / height;
          }
          laid = { ...laid, uv };
          break;
        } catch (error) {
          if (!(error instanceof JigError) || error.code !== 'does-not-fit' || grown > 40) throw error;
          side *= 1.06;
        }
      }
    }
    const inBlock = new Set(groups.filter((group) => group.length > 1).flat());
    const upright = (options.upright ?? []).filter((i) => !inBlock.has(i));
    const result = await packAside(
      mesh,
      laid,
      { ...options, upright, turnOf: { ...options.turnOf, ...turnsOfBlocks(groups, options) }, together: groups },
      context,
    );
    // made smaller afterwards, the gap within a block would be broken
    if (result.report.scale >= 1 - 1e-9 || keepScale) return { ...result, report: { ...result.report, scale: result.report.scale * factor } };
    factor *= result.report.scale * 0.99;
  }
  throw new JigError('does-not-fit', 'The groups do not fit on the sheet as blocks.', '', 'Use a larger sheet, a smaller margin, or pack without groups.');
}

/** Turns that a block may take, by its first island: those that every island of it may. */
const turnsOfBlocks = (groups: readonly Group[], { turn, turnOf }: PackOptions) =>
  Object.fromEntries(groups.map((group) => [group[0]!, packTurns[Math.min(...group.map((i) => packTurns.indexOf(turnOf?.[i] ?? turn)))]!] as const));

/** Area of each island on the sheet, px². */
function pxAreas(mesh: Mesh, set: UvSet, width: number, height: number): number[] {
  return islandDensities(mesh, set, width, height).map(({ area, density }) => area * density ** 2);
}

/**
 * Islands on several tiles: groups, and islands that are in none, go to the tile that has least, the largest first, each tile is packed, and all get the scale of the
 * fullest; where the scale is kept, tiles are filled one after the other, as few as there have to be.
 *
 * @param blocks those of the groups that are kept together on their tile, too
 */
export async function packTiles(
  wanted: Wanted,
  groups: readonly Group[],
  blocks: readonly Group[],
  tiles: number,
): Promise<{ set: UvSet; report: PackReport; used: number }> {
  const { mesh, options, context } = wanted;
  const { width, height } = options;
  const area = pxAreas(mesh, wanted.set, width, height);
  const grouped = new Set(groups.flat());
  const units = [...groups, ...options.islands.filter((i) => !grouped.has(i)).map((i) => [i])]
    .map((group) => ({ group, area: group.reduce((sum, i) => sum + area[i]!, 0) }))
    .sort((a, b) => b.area - a.area);
  /** One tile packed by itself; islands of others that are still to be packed are not in the way. */
  const packTile = async (set: UvSet, tile: number, islands: readonly number[], extra: Partial<PackOptions>) => {
    const [column, row] = tilePlace(tile);
    const others = Object.fromEntries(options.islands.filter((i) => !islands.includes(i)).map((i) => [i, 1]));
    const shifted = { ...without(mesh, set, others), uv: set.uv.map((v, k) => v - (k % 2 === 0 ? column : row)) };
    const here = new Set(islands);
    const whole = blocks.filter((block) => block.every((i) => here.has(i)));
    const own = { ...options, ...extra, islands };
    const packed = whole.length > 0 ? await packBlocks({ mesh, set: shifted, options: own, context }, whole) : await packAside(mesh, shifted, own, context);
    const uv = set.uv.slice();
    const left = new Set(packed.report.left ?? []);
    for (const p of pointsOf(mesh, set, new Set(islands.filter((i) => !left.has(i))))) {
      uv[p * 2] = packed.set.uv[p * 2]! + column;
      uv[p * 2 + 1] = packed.set.uv[p * 2 + 1]! + row;
    }
    return { set: { ...set, uv }, report: packed.report };
  };
  let set = wanted.set;
  if (options.keepScale) {
    let rest = units.flatMap(({ group }) => group);
    const told: PackReport[] = [];
    for (let tile = 0; tile < tiles && rest.length > 0; tile++) {
      const done = await packTile(set, tile, rest, { leavesRest: true });
      set = done.set;
      told.push(done.report);
      rest = [...(done.report.left ?? [])];
    }
    const { left: _, ...first } = told[0]!;
    const sum = (of: (report: PackReport) => number) => told.reduce((all, one) => all + of(one), 0);
    const report = { ...first, packed: sum(({ packed }) => packed), coverage: sum(({ coverage }) => coverage) / told.length };
    return { set, report: { ...report, ...(rest.length > 0 ? { left: rest } : {}) }, used: told.length };
  }
  const filled = Array.from({ length: tiles }, () => ({ area: 0, islands: [] as number[] }));
  for (const unit of units) {
    const least = filled.reduce((a, b) => (b.area < a.area ? b : a));
    least.area += unit.area;
    least.islands.push(...unit.group);
  }
  const own = filled.map((tile, k) => ({ ...tile, k })).filter(({ islands }) => islands.length > 0);
  const reports: PackReport[] = [];
  for (const { k, islands } of own) {
    const done = await packTile(set, k, islands, {});
    set = done.set;
    reports.push(done.report);
  }
  let common = Math.min(...reports.map(({ scale }) => scale));
  for (let attempt = 0; ; attempt++) {
    try {
      // on the emptier tiles islands become as small as on the fullest: where they are, if that keeps the gaps, as it does unless they lie within one another
      const at = (t: number) => common / reports[t]!.scale;
      let next = smallerInPlace(mesh, set, new Map(own.flatMap(({ islands }, t) => islands.map((i) => [i, at(t)] as const))));
      for (const [t, { k, islands }] of own.entries())
        if (at(t) < 1 && !keepsGaps(mesh, next, islands, options)) {
          const again = sized(mesh, wanted.set, islands, common);
          next = (await packTile({ ...next, uv: taken(next.uv, again.uv, pointsOf(mesh, set, new Set(islands))) }, k, islands, { keepScale: true })).set;
        }
      const sum = (of: (report: PackReport) => number) => reports.reduce((all, report) => all + of(report), 0);
      const coverage = reports.reduce((all, report, t) => all + report.coverage * at(t) ** 2, 0) / own.length;
      const report = { ...reports[0]!, packed: sum(({ packed }) => packed), turned: sum(({ turned = 0 }) => turned), scale: common, coverage };
      return { set: next, report, used: own.length };
    } catch (error) {
      if (!(error instanceof JigError) || error.code !== 'does-not-fit' || attempt > 20) throw error;
      common *= 0.985;
    }
  }
}

/** Numbers with some UV points from elsewhere. */
function taken(uv: Float64Array, from: Float64Array, points: ReadonlySet<number>): Float64Array {
  const out = uv.slice();
  for (const p of points) out.set(from.subarray(p * 2, p * 2 + 2), p * 2);
  return out;
}

/** Whether islands of a tile keep the gap to one another, and to those that are not packed, by exact distances. */
function keepsGaps(mesh: Mesh, set: UvSet, tile: readonly number[], { width, height, gap, islands }: Wanted['options']): boolean {
  const own = new Set(tile);
  const elsewhere = new Set(islands.filter((i) => !own.has(i)));
  const slack = 1e-5;
  const skips = (i: number, j: number) => (!own.has(i) && !own.has(j)) || elsewhere.has(i) || elsewhere.has(j);
  return leastDistance(outlinesOf(mesh, set, width, height), gap + slack, skips) >= gap - slack;
}

/** Islands sized about the middles of their boxes. @param factors by island. O(corners) */
function smallerInPlace(mesh: Mesh, set: UvSet, factors: ReadonlyMap<number, number>): UvSet {
  const { ofFace, count } = islandsOf(mesh, set);
  const islandOf = new Int32Array(set.uv.length / 2).fill(-1);
  const boxes = Float64Array.from({ length: count * 4 }, (_, k) => (k % 4 < 2 ? Infinity : -Infinity));
  for (let f = 0; f < ofFace.length; f++) {
    const i = ofFace[f]!;
    if (!factors.has(i)) continue;
    for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) {
      const p = set.cornerUv[c]!;
      islandOf[p] = i;
      for (let d = 0; d < 2; d++) {
        boxes[i * 4 + d] = Math.min(boxes[i * 4 + d]!, set.uv[p * 2 + d]!);
        boxes[i * 4 + 2 + d] = Math.max(boxes[i * 4 + 2 + d]!, set.uv[p * 2 + d]!);
      }
    }
  }
  const uv = set.uv.map((x, k) => {
    const i = islandOf[k >> 1]!;
    if (i < 0) return x;
    const middle = (boxes[i * 4 + (k & 1)]! + boxes[i * 4 + 2 + (k & 1)]!) / 2;
    return middle + (x - middle) * factors.get(i)!;
  });
  return { ...set, uv };
}

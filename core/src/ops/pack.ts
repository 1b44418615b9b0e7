import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { activeSet, partOf, type Job, type Part } from '../job/job.ts';
import { joinParts, splitUv } from '../job/joinParts.ts';
import { partsOnSheet, sheetAspect, sheetOfPart } from '../job/sheets.ts';
import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { evenDensity } from '../pack/density.ts';
import { scaleU } from '../uv/scaleU.ts';
import { doubleArea, outlinesOf } from '../pack/outline.ts';
import { staysInPlace } from '../pack/staysInPlace.ts';
import { packAside } from '../pack/packAside.ts';
import { packTurns, type PackReport } from '../pack/packing.ts';
import { boxOfPolygon, polygonArea, polygonFrame } from '../pack/polygonFrame.ts';
import type { Box } from '../uv/box.ts';
import { bestFit, solidity, uprightTurn } from '../pack/upright.ts';
import { carryStacks, SheetIslands } from '../job/stacks.ts';
import { placedIslandsOf, selectionByPart } from '../job/selected.ts';
import { blockOfIslands } from '../uv/blocks.ts';
import { islandFacts, islandsOf } from '../uv/islands.ts';
import { headedIslands, lockedIslands } from '../uv/locked.ts';
import { onceEach, stacksOf } from '../uv/stacks.ts';
import { packBlocks, packTiles, without, type Group } from './packing.ts';
import { intoTray } from './placeFresh.ts';
import { defineOperation, isUnsettled, parseSize, partSchema, plural, sizeSchema } from './operation.ts';

const partsSchema = z
  .enum(['active', 'sheet', 'all'])
  .default('all')
  .describe('the active part alone, all parts on its sheet that are not hidden, or all parts of the job on one sheet');
const partsOf = (job: Job, which: 'active' | 'sheet' | 'all', part?: string) =>
  which === 'all'
    ? job.parts
    : which === 'sheet'
      ? partsOnSheet(job, part).filter((one) => !one.isHidden || one.id === partOf(job, part).id)
      : [partOf(job, part)];

const groupings = ['none', 'part', 'material', 'selected', 'blocks'] as const;

const packParams = z.object({
  size: sizeSchema.default('2048'),
  margin: z.number().min(0).max(512).optional().describe('gap and border gap in px (default 8)'),
  gap: z.number().min(0).max(512).optional().describe('px between islands'),
  borderGap: z.number().min(0).max(512).optional().describe('px to the border of the sheet'),
  turn: z.enum(packTurns).default('quarter').describe('turns that islands may take; those whose heading was set on purpose keep it'),
  upright: z.boolean().default(true).describe('lay islands upright whose heading nobody set'),
  keepHeadings: z.boolean().default(true).describe('islands whose heading was set on purpose keep it'),
  keepScale: z.boolean().default(false).describe('leave the size of every island'),
  evenDensity: z.boolean().default(false).describe('first make the texel density even'),
  parts: partsSchema,
  into: z.enum(['sheet', 'free']).default('sheet').describe('free: the selected islands alone go into the free space'),
  lock: z.array(z.number().int().min(0)).optional().describe('islands of the first part by number that stay where they are'),
  keepPinned: z.boolean().default(false).describe('islands that are pinned or done stay where they are'),
  group: z.enum(groupings).default('blocks').describe('keep together what was made a block by hand, is of one part, of one material, or selected'),
  mirror: z.boolean().default(false).describe('islands may be mirrored, too: where that packs tighter; those whose heading was set on purpose are not'),
  tiles: z.number().int().min(1).max(100).optional().describe('tiles to fill (default: those of the sheet)'),
  area: z
    .array(z.number().min(0).max(1))
    .length(4)
    .refine(([left, bottom, right, top]) => right! > left! && top! > bottom!, 'a rectangle has left before right and bottom before top')
    .optional()
    .describe('a rectangle of the sheet that the islands go into: left, bottom, right, top as UV; what does not move stays'),
  polygon: z
    .array(z.tuple([z.number().min(0).max(1), z.number().min(0).max(1)]))
    .min(3)
    .max(256)
    .optional()
    .describe('a polygon of the sheet instead: u and v of its corners in turn'),
  selectedTurn: z.enum(packTurns).optional().describe('turns that the selected islands may take, where they differ from the others'),
  wholePx: z.boolean().default(false).describe('the lower left corner of each island on whole px, so that straight borders lie on them'),
  effort: z.number().int().min(0).max(5).default(1).describe('how long to look for a tighter layout: 0 not, 5 about a minute'),
  seconds: z.number().min(0.1).max(3600).optional().describe('look for so long instead'),
  seed: z
    .number()
    .int()
    .min(1)
    .max(2 ** 31)
    .default(1)
    .describe('another seed, another layout; the same, the same'),
});

export interface Packed extends Omit<PackReport, 'mirroredIslands'> {
  /** Islands of parts that found no room and wait in the tray. */
  waiting: number;
  /** Islands that keep the heading that they were given. */
  kept: number;
  /** Islands that were mirrored, where that was asked for. */
  mirrored?: number;
}

/** What packing would do with the islands: which stay, which are turned, which are hard to pack. */
function planOf(job: Job, params: z.infer<typeof packParams>) {
  const { width, height } = parseSize(params.size);
  const parts = partsOf(job, params.parts);
  const frame = frameOf(params);
  // what is outside of the polygon stays, and is packed round, as an island does
  const all = new SheetIslands(frame ? [...parts, frame] : parts);
  const { mesh, set } = all.joined;
  // of a stack one island is packed, the others go along
  const once = onceEach(mesh, set);
  const facts = islandFacts(mesh, once);
  const placed = facts.flatMap(({ unplaced }, i) => (unplaced ? [] : [i]));
  const locked = lockedIslands(mesh, once);
  const ownIslands = islandsOf(parts[0]!.mesh, activeSet(parts[0]!)).count;
  for (const i of params.lock ?? []) {
    if (i >= ownIslands) throw new JigError('bad-parameter', `${parts[0]!.name} has no island ${i}: they are 0 to ${ownIslands - 1}.`);
    locked[all.numberOf(parts[0]!, i)] = 1;
  }
  const stays = params.keepPinned ? pinnedOrDone(all) : new Set<number>();
  const chosen = params.into === 'free' ? selectedOf(job, all) : null;
  const leaders = chosen && chosen.size > 0 ? leadersOf(all, chosen) : null;
  const free = placed.filter((i) => !locked[i] && !stays.has(i) && (!leaders || leaders.has(i)));
  const headed = headedIslands(mesh, once);
  const own = params.selectedTurn === undefined && params.group !== 'selected' ? null : leadersOf(all, selectedOf(job, all));
  const selected = own ? free.filter((i) => own.has(i)) : [];
  // turns that are asked for of single islands go before headings
  const told = params.selectedTurn === undefined ? [] : selected;
  const kept = params.keepHeadings ? free.filter((i) => headed[i] && !told.includes(i)) : [];
  const upright =
    params.upright && params.turn !== 'none' ? free.filter((i) => !kept.includes(i) && !(told.includes(i) && params.selectedTurn === 'none')) : [];
  const turnOf = Object.fromEntries([...kept.map((i) => [i, 'none' as const]), ...told.map((i) => [i, params.selectedTurn!])]);
  return { turnOf, selected, width, height, all, once, facts, placed, locked, stays, chosen, free, kept, upright };
}

/** Islands of what is selected that have a place, by number among all. */
const selectedOf = (job: Job, all: SheetIslands): Set<number> =>
  new Set(
    selectionByPart(job)
      .filter(({ part }) => all.parts.includes(part))
      .flatMap((one) => placedIslandsOf(one).map((i) => all.numberOf(one.part, i))),
  );

/** Stands for the rest of the sheet round a polygon, among the parts. */
const polygonPart = 'rest of the sheet';

/** The sheet's rest round a polygon as a part beside the others; null: all of the sheet or rectangle is free. */
function frameOf({ polygon, size }: z.infer<typeof packParams>): Part | null {
  if (!polygon) return null;
  const { width, height } = parseSize(size);
  const frame = polygonFrame(polygon, inWholePx(boxOfPolygon(polygon), width, height));
  return frame && { id: polygonPart, name: 'Polygon', mesh: frame.mesh, uvSets: [frame.set], activeUv: 0, imageId: null, origin: { kind: 'made' } };
}

/** A box of the sheet on whole px. */
const inWholePx = ([left, bottom, right, top]: Box, width: number, height: number): Box => [
  Math.floor(left * width + 1e-9) / width,
  Math.floor(bottom * height + 1e-9) / height,
  Math.ceil(right * width - 1e-9) / width,
  Math.ceil(top * height - 1e-9) / height,
];

/** Where on the sheet islands go, in whole px: a rectangle of it, the one round a polygon, or all. */
function roomOf({ size, area: rectangle, polygon }: z.infer<typeof packParams>) {
  const sheet = parseSize(size);
  const area = polygon ? inWholePx(boxOfPolygon(polygon), sheet.width, sheet.height) : rectangle;
  if (!area) return { ...sheet, left: 0, bottom: 0, isWhole: true };
  const [left, right] = [area[0]!, area[2]!].map((u) => Math.round(u * sheet.width)) as [number, number];
  const [bottom, top] = [area[1]!, area[3]!].map((v) => Math.round(v * sheet.height)) as [number, number];
  if (right - left < 4 || top - bottom < 4) throw new JigError('bad-parameter', 'The rectangle is less than 4 px wide or high.', '', 'Make it larger.');
  return { width: right - left, height: top - bottom, left, bottom, isWhole: false };
}
type Room = ReturnType<typeof roomOf>;

/** A layout with a room of the sheet as its unit square. */
const seenFromRoom = (set: UvSet, room: Room, sheet: { width: number; height: number }): UvSet =>
  room.isWhole
    ? set
    : { ...set, uv: set.uv.map((x, k) => (k % 2 === 0 ? (x * sheet.width - room.left) / room.width : (x * sheet.height - room.bottom) / room.height)) };

/** And back; what did not move stays bit for bit where it was. @param start the layout before, as seen from the room @param before the same from the sheet */
const seenFromSheet = (uv: Float64Array, start: Float64Array, before: Float64Array, room: Room, sheet: { width: number; height: number }): Float64Array =>
  room.isWhole
    ? uv
    : uv.map((x, k) =>
        x === start[k] ? before[k]! : k % 2 === 0 ? (x * room.width + room.left) / sheet.width : (x * room.height + room.bottom) / sheet.height,
      );

/** Islands with a pin, or wholly marked as done. */
function pinnedOrDone({ parts, joined: { mesh, set }, islands }: SheetIslands): Set<number> {
  const out = new Set<number>();
  const done = new Uint8Array(islands.ofFace.length);
  let face = 0;
  for (const part of parts) {
    if (part.done) done.set(part.done, face);
    face += part.mesh.faceStart.length - 1;
  }
  for (let i = 0; i < islands.count; i++) {
    const faces = islands.faces.subarray(islands.start[i], islands.start[i + 1]);
    let isPinned = false;
    for (const f of faces) for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]! && !isPinned; c++) isPinned = set.pins[set.cornerUv[c]!] === 1;
    if (isPinned || faces.every((f) => done[f] === 1)) out.add(i);
  }
  return out;
}

/** The islands that are packed for those chosen: of a stack the one that stands for it. */
function leadersOf({ joined: { mesh, set } }: SheetIslands, chosen: ReadonlySet<number>): Set<number> {
  const out = new Set(chosen);
  for (const stack of stacksOf(mesh, set)) if (stack.some((i) => chosen.has(i))) for (const i of stack) out.add(i);
  return out;
}

export const pack = defineOperation({
  name: 'pack',
  label: 'Pack',
  words: 'arrange nest layout shells',
  asked: ['size', 'gap', 'borderGap', 'turn', 'effort', 'seed', 'keepScale', 'evenDensity', 'group', 'tiles', 'into', 'parts', 'wholePx', 'mirror'],
  changes: ['uvs', 'settings'],
  commandLine: { output: 'model', hidden: ['parts', 'polygon', 'selectedTurn'] },
  summary: 'Place islands on the sheet by their outlines',
  fromSettings: ['size', 'margin', 'borderGap', 'turn', 'effort', 'upright', 'keepPinned'],
  params: packParams,
  async run(given, params, context) {
    const { width, height } = parseSize(params.size);
    const job = withSheet(given, width, height);
    const margin = params.margin ?? 8;
    const { all, once, locked, free, facts, kept, upright, placed, chosen, turnOf, selected } = planOf(job, params);
    const { mesh, set: joinedSet } = all.joined;
    const copies = unplacedIslands(mesh, once) - unplacedIslands(mesh, joinedSet);
    if (params.into === 'free' && chosen!.size === 0)
      throw new JigError('nothing-to-do', 'No island is selected.', '', 'Select the islands that are to be packed.');
    if (placed.length === 0) throw new JigError('nothing-to-do', 'The islands have no shape yet.', '', 'Unwrap first.');
    if (placed.every((i) => locked[i])) throw new JigError('nothing-to-do', 'All islands are locked.', '', 'Unlock those that are to be packed.');
    if (free.length === 0)
      throw new JigError('nothing-to-do', 'All islands are locked, pinned or done, and stay.', '', 'Unlock them, or let pinned and done ones be packed.');
    const even = evened(mesh, once, locked, params);
    // what is chosen goes in between the others at the size that it has
    const keepScale = params.keepScale || (params.into === 'free' && free.length < placed.length && !params.area && !params.polygon);
    const room = roomOf(params);
    const options = {
      width: room.width,
      height: room.height,
      // islands go to whole px afterwards, by up to half of one
      gap: (params.gap ?? margin) + (params.wholePx ? 1 : 0),
      borderGap: (params.borderGap ?? margin) + (params.wholePx ? 1 : 0),
      turn: params.turn,
      keepScale,
      leavesRest: keepScale,
      effort: params.effort,
      seed: params.seed,
      ...(params.seconds !== undefined ? { seconds: params.seconds } : {}),
      ...(params.mirror ? { mirror: free.filter((i) => !kept.includes(i)) } : {}),
      ...(Object.keys(turnOf).length > 0 ? { turnOf } : {}),
      ...(upright.length > 0 ? { upright } : {}),
      islands: free,
    };
    const tiles = room.isWhole ? tilesOf(job, all, params) : 1;
    if (params.group === 'selected' && selected.length < 2)
      throw new JigError('nothing-to-do', 'Fewer than two islands are selected: there is nothing to keep together.', '', 'Select the islands of the group.');
    const blocks = params.group === 'selected' ? [selected] : params.group === 'blocks' ? blocksOf(mesh, once, free) : [];
    const groups = params.group === 'part' || params.group === 'material' ? groupsOf(all, free, params.group) : blocks;
    const start = seenFromRoom(even, room, { width, height });
    const wanted = { mesh, set: start, options, context };
    const { set, report } =
      tiles > 1
        ? await packTiles(wanted, groups, blocks, tiles)
        : blocks.length > 0 || groups.length > 1
          ? await packBlocks(wanted, groups)
          : await packAside(mesh, start, options, context);
    // a slot that is just wide enough is lost to a raster
    const hasPlace = room.isWhole && tiles === 1 && groups.length === 0 ? staysInPlace(mesh, start, set, report.left ?? [], options) : null;
    const stays = new Set(hasPlace?.islands);
    const left = (report.left ?? []).filter((i) => !stays.has(i));
    const moved = params.wholePx ? free.filter((i) => !left.includes(i) && !stays.has(i)) : [];
    const laid = moved.length > 0 ? onWholePx(mesh, set, moved, room) : set;
    let next = splitUv(job, all.joined, seenFromSheet(laid.uv, start.uv, even.uv, room, { width, height }));
    if (left.length > 0)
      next = intoTray(
        next,
        left.map((i) => all.of(i)),
      );
    next = carryStacks(job, next);
    const settings = { ...job.settings, margin: params.gap ?? margin, borderGap: params.borderGap ?? null, turn: params.turn };
    const { mirroredIslands: _, ...found } = report;
    const told: Packed = {
      ...found,
      ...(params.polygon ? { coverage: (report.coverage * room.width * room.height) / (Math.abs(polygonArea(params.polygon)) * width * height) } : {}),
      packed: report.packed + stays.size + copies,
      ...(stays.size > 0 ? { coverage: report.coverage + hasPlace!.coverage } : {}),
      skipped: facts.filter(({ unplaced }) => unplaced).length - copies,
      waiting: left.length,
      kept: kept.length,
      ...(params.mirror ? { mirrored: mirroredBetween(mesh, even, laid, free) } : {}),
    };
    return { job: { ...next, settings }, report: told };
  },
  warns: isUnsettled,
  sentence: (params, report: Packed) =>
    `Packed ${plural(report.packed, 'island')} ${params.polygon ? 'into a polygon of' : params.area ? 'into a rectangle of' : 'on'} ${params.size.replace('x', ' × ')} px, ${Math.round(report.coverage * 100)} % ${params.area || params.polygon ? 'of it ' : ''}covered${report.mirrored ? `, ${report.mirrored} mirrored` : ''}${report.waiting > 0 ? `; ${report.waiting} found no room and wait${report.waiting === 1 ? 's' : ''} in the tray` : ''}`,
});

/** Packed islands moved, by half a px at most, so that the lower left corner of each is on whole px. O(corners) */
function onWholePx(mesh: Mesh, set: UvSet, moved: readonly number[], { width, height }: Room): UvSet {
  const uv = set.uv.slice();
  const islands = islandsOf(mesh, set);
  for (const i of moved) {
    const points = new Set<number>();
    for (const f of islands.faces.subarray(islands.start[i], islands.start[i + 1]))
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) points.add(set.cornerUv[c]!);
    let [left, bottom] = [Infinity, Infinity];
    for (const p of points) {
      left = Math.min(left, uv[p * 2]!);
      bottom = Math.min(bottom, uv[p * 2 + 1]!);
    }
    const [du, dv] = [Math.round(left * width) / width - left, Math.round(bottom * height) / height - bottom];
    for (const p of points) {
      uv[p * 2]! += du;
      uv[p * 2 + 1]! += dv;
    }
  }
  return { ...set, uv };
}

/** How many of some islands have another hand in one layout than in another: their area has another sign. */
function mirroredBetween(mesh: Mesh, before: UvSet, after: UvSet, islands: readonly number[]): number {
  const { start, faces } = islandsOf(mesh, before);
  const signOf = ({ uv, cornerUv }: UvSet, i: number) => {
    let twice = 0;
    for (const f of faces.subarray(start[i]!, start[i + 1]!)) {
      const [from, to] = [mesh.faceStart[f]!, mesh.faceStart[f + 1]!];
      for (let c = from; c < to; c++) {
        const [p, q] = [cornerUv[c]! * 2, cornerUv[c + 1 < to ? c + 1 : from]! * 2];
        twice += uv[p]! * uv[q + 1]! - uv[q]! * uv[p + 1]!;
      }
    }
    return Math.sign(twice);
  };
  return islands.filter((i) => signOf(before, i) !== signOf(after, i)).length;
}

/** Blocks made by hand, of which two islands or more are packed. */
function blocksOf(mesh: Mesh, set: UvSet, islands: readonly number[]): Group[] {
  const block = blockOfIslands(mesh, set);
  const own = new Map<number, number[]>();
  for (const i of islands) if (block[i]) (own.get(block[i]) ?? own.set(block[i], []).get(block[i])!).push(i);
  return [...own.values()].filter((group) => group.length > 1);
}

/** The islands by part, or by the material of most of their faces. */
function groupsOf(all: SheetIslands, islands: readonly number[], by: 'part' | 'material'): Group[] {
  const groups = new Map<string, number[]>();
  for (const i of islands) {
    const { part, island } = all.of(i);
    let key = part.id;
    if (by === 'material') {
      const { mesh } = part;
      const own = islandsOf(mesh, activeSet(part));
      const counts = new Map<number, number>();
      for (const f of own.faces.subarray(own.start[island], own.start[island + 1]))
        counts.set(mesh.faceMaterial[f]!, (counts.get(mesh.faceMaterial[f]!) ?? 0) + 1);
      const most = [...counts].reduce((a, b) => (b[1] > a[1] ? b : a))[0];
      key = most >= 0 ? `material ${mesh.materials[most]}` : 'none';
    }
    groups.set(key, [...(groups.get(key) ?? []), i]);
  }
  return [...groups.values()];
}

/** What packing would do, told beforehand; changes nothing. */
export const packPlan = defineOperation({
  name: 'packPlan',
  label: 'What packing would do',
  changes: [],
  summary: 'Which islands packing would move, turn or leave, and which are hard to pack',
  fromSettings: ['size', 'margin', 'borderGap', 'turn', 'effort', 'upright', 'keepPinned'],
  params: packParams,
  run(given, params) {
    const { width, height } = parseSize(params.size);
    const job = withSheet(given, width, height);
    const { all, once, locked, placed, stays, free, kept, upright } = planOf(job, params);
    const { mesh } = all.joined;
    const outlines = outlinesOf(mesh, once, width, height);
    const turned = upright.filter((i) => Math.abs(uprightTurn(outlines[i]!)) > 0.5 * (Math.PI / 180)).length;
    const area = free.reduce((sum, i) => sum + outlines[i]!.reduce((own, loop) => own + doubleArea(loop) / 2, 0), 0);
    const spidery = free
      .map((i) => ({ ...named(all, i), share: solidity(outlines[i]!), size: outlines[i]!.reduce((own, loop) => own + doubleArea(loop) / 2, 0) }))
      .filter(({ share, size }) => share < 0.4 && size > area / (4 * Math.max(1, free.length)))
      .sort((a, b) => a.share - b.share)
      .slice(0, 5);
    return {
      job: given,
      report: {
        moved: free.length,
        turned,
        kept: kept.length,
        locked: placed.filter((i) => locked[i] && all.of(i).part.id !== polygonPart).length,
        stays: placed.filter((i) => !locked[i] && stays.has(i)).length,
        spidery,
        /** The island that is so long that it alone keeps the sheet from being covered better. */
        longest:
          params.keepScale || params.into === 'free' || params.area || params.polygon
            ? null
            : longestOf(all, evened(mesh, once, locked, params), free, { kept, upright }, params, tilesOf(job, all, params)),
      },
    };
  },
  sentence: (_params, { moved }) => `${plural(moved, 'island')} to pack`,
});

const tilesOf = (job: Job, all: SheetIslands, params: z.infer<typeof packParams>) => params.tiles ?? sheetOfPart(job, all.parts[0]!)?.tiles ?? 1;

/** The layout at even density, where that is asked for. */
function evened(mesh: Mesh, once: UvSet, locked: Uint8Array, params: z.infer<typeof packParams>): UvSet {
  const { width, height } = parseSize(params.size);
  return params.evenDensity && !params.keepScale ? { ...once, uv: evenDensity(mesh, without(mesh, once, locked), width, height).set.uv } : once;
}

/** Coverage below which one long island is worth naming. */
const boundFrom = 0.6;

/** The island that fills the sheet one way before the others need it all, and the coverage that is reached then; null where none does. */
function longestOf(
  all: SheetIslands,
  set: UvSet,
  free: readonly number[],
  { kept, upright }: { kept: readonly number[]; upright: readonly number[] },
  params: z.infer<typeof packParams>,
  tiles: number,
) {
  const { width, height } = parseSize(params.size);
  const border = params.borderGap ?? params.margin ?? 8;
  const outlines = outlinesOf(all.joined.mesh, set, width, height);
  let [longest, least, area] = [-1, Infinity, 0];
  for (const i of free) {
    if (outlines[i]!.length === 0) continue;
    area += outlines[i]!.reduce((own, loop) => own + doubleArea(loop) / 2, 0);
    const turn = kept.includes(i) ? 'none' : params.turn;
    const { scale } = bestFit(outlines[i]!, width - 2 * border, height - 2 * border, turn, upright.includes(i) ? uprightTurn(outlines[i]!) : 0);
    if (scale < least) [longest, least] = [i, scale];
  }
  const coverage = (area * least ** 2) / (width * height * tiles);
  return free.length > 1 && longest >= 0 && coverage < boundFrom ? { ...named(all, longest), coverage } : null;
}

const named = (all: SheetIslands, i: number) => {
  const { part, island } = all.of(i);
  return { part: part.id, name: part.name, island };
};

const unplacedIslands = (mesh: Mesh, set: UvSet) => islandFacts(mesh, set).filter(({ unplaced }) => unplaced).length;

/** The job with another size of the sheet at work: UVs of the parts on it are rescaled so that islands keep their shape in px. */
export function withSheet(job: Job, width: number, height: number): Job {
  const { settings } = job;
  if (settings.width === width && settings.height === height) return job;
  const factor = sheetAspect(job) / (width / height);
  const on = new Set(partsOnSheet(job));
  const parts = factor === 1 ? job.parts : job.parts.map((part) => (on.has(part) ? { ...part, uvSets: part.uvSets.map((set) => scaleU(set, factor)) } : part));
  return { ...job, parts, settings: { ...settings, width, height } };
}

export const density = defineOperation({
  name: 'density',
  label: 'Even out density',
  words: 'texel density scale',
  asked: ['even', 'target', 'parts'],
  changes: ['uvs', 'settings'],
  commandLine: { output: 'model', hidden: ['part', 'parts', 'toSheet'] },
  summary: 'Even out texel density, or set it in px per unit',
  fromSettings: ['size'],
  params: z.object({
    size: sizeSchema.optional(),
    even: z.boolean().default(false).describe('one density for all islands'),
    target: z.number().positive().optional().describe('px per unit'),
    toSheet: z.boolean().default(false).describe('px per unit as the sheet states'),
    part: partSchema,
    parts: partsSchema,
  }),
  run(given, params) {
    const stated = params.toSheet ? (sheetOfPart(given, partOf(given, params.part))?.density ?? undefined) : undefined;
    if (params.toSheet && stated === undefined) throw new JigError('nothing-to-do', 'The sheet states no density.', '', 'Give it one first.');
    const target = params.target ?? stated;
    if (!params.even && target === undefined) throw new JigError('bad-parameter', 'Say --even or --target.');
    const size = params.size ? parseSize(params.size) : given.settings;
    const job = withSheet(given, size.width, size.height);
    const joined = joinParts(partsOf(job, params.parts, params.part));
    const once = onceEach(joined.mesh, joined.set);
    // what is locked keeps its size, too
    const free = without(joined.mesh, once, lockedIslands(joined.mesh, once));
    const result = evenDensity(joined.mesh, free, size.width, size.height, target);
    if (result.density === 0) throw new JigError('nothing-to-do', 'No island has a place on the sheet yet.', '', 'Unwrap first.');
    return {
      job: result.changed > 0 ? carryStacks(job, splitUv(job, joined, result.set.uv)) : job,
      report: { density: result.density, changed: result.changed },
    };
  },
  sentence: (params, report: { density: number; changed: number }) =>
    `${params.target || params.toSheet ? 'Set' : 'Evened out'} density at ${report.density.toPrecision(4)} px per unit`,
});

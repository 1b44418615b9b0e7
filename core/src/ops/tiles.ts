import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { borderGapOf } from '../job/borderGap.ts';
import { splitUv } from '../job/joinParts.ts';
import type { Job } from '../job/job.ts';
import { placedIslandsOf, selectionByPart } from '../job/selected.ts';
import { partsOnSheet, sheetFor, sheetOfPart } from '../job/sheets.ts';
import { carryStacks, SheetIslands } from '../job/stacks.ts';
import { islandFacts } from '../uv/islands.ts';
import { lockedIslands } from '../uv/locked.ts';
import { onceEach, stacksOf } from '../uv/stacks.ts';
import { tileAt, tileNumber, tilePlace } from '../uv/tiles.ts';
import { trayIslands } from '../uv/tray.ts';
import { defineOperation, plural } from './operation.ts';

/** An island of the present sheet: its UV points, and the box round them. */
interface Placed {
  island: number;
  points: Uint32Array;
  box: [number, number, number, number];
}

/** Placed islands of the present sheet that are not locked: those selected, or all. Of a stack the one that stands for it. */
function islandsMeant(job: Job, which: 'selected' | 'all'): { all: SheetIslands; islands: Placed[] } {
  const all = new SheetIslands(partsOnSheet(job).filter((part) => !part.isHidden || part.id === job.activePart));
  const { mesh } = all.joined;
  const once = onceEach(mesh, all.joined.set);
  const facts = islandFacts(mesh, once);
  const locked = lockedIslands(mesh, once);
  const chosen = new Set(
    selectionByPart(job).flatMap((one) => (all.parts.includes(one.part) ? placedIslandsOf(one).map((i) => all.numberOf(one.part, i)) : [])),
  );
  for (const stack of stacksOf(mesh, all.joined.set)) if (stack.some((i) => chosen.has(i))) for (const i of stack) chosen.add(i);
  const { islands } = all;
  const out: Placed[] = [];
  for (let i = 0; i < islands.count; i++) {
    if (facts[i]!.unplaced || locked[i] || (which === 'selected' && chosen.size > 0 && !chosen.has(i))) continue;
    const points = new Set<number>();
    for (let k = islands.start[i]!; k < islands.start[i + 1]!; k++) {
      const f = islands.faces[k]!;
      for (let c = mesh.faceStart[f]!; c < mesh.faceStart[f + 1]!; c++) points.add(once.cornerUv[c]!);
    }
    let [left, low, right, high] = [Infinity, Infinity, -Infinity, -Infinity];
    for (const p of points) {
      left = Math.min(left, once.uv[p * 2]!);
      right = Math.max(right, once.uv[p * 2]!);
      low = Math.min(low, once.uv[p * 2 + 1]!);
      high = Math.max(high, once.uv[p * 2 + 1]!);
    }
    out.push({ island: i, points: Uint32Array.from(points), box: [left, low, right, high] });
  }
  return { all, islands: out };
}

/** The job with each island's points moved. */
function moved(job: Job, all: SheetIslands, islands: readonly Placed[], place: (one: Placed, u: number, v: number) => [number, number]): Job {
  const uv = all.joined.set.uv.slice();
  for (const one of islands) for (const p of one.points) uv.set(place(one, uv[p * 2]!, uv[p * 2 + 1]!), p * 2);
  return carryStacks(job, splitUv(job, all.joined, uv));
}

const middle = ({ box: [left, low, right, high] }: Placed): [number, number] => [(left + right) / 2, (low + high) / 2];
const whichSchema = z.enum(['selected', 'all']).default('selected').describe('the selected islands (all where none is), or all of the sheet');
const tilesOf = (job: Job) => sheetFor(job).tiles;
const tileSchema = z.number().int().min(1001).max(1100);

export const fitSheet = defineOperation({
  name: 'fitSheet',
  label: 'Fit to the sheet',
  words: 'fill maximise scale layout normalise tile',
  changes: ['uvs', 'jigs'],
  offered: [
    { id: 'fit-keep', label: 'Fit to the sheet, in proportion', params: { fill: false } },
    { id: 'fit-fill', label: 'Fit to the sheet, filling it', params: { fill: true } },
  ],
  commandLine: { output: 'model', name: 'fit', hidden: ['which'] },
  summary: 'Size and move islands together so that they reach to the sheet’s border gap',
  params: z.object({
    fill: z.boolean().default(false).describe('fill it both ways, which distorts; else keep the proportions'),
    tile: tileSchema.optional().describe('the tile to fit to, by its number (default 1001)'),
    which: whichSchema,
  }),
  run(job, { fill, tile = 1001, which }) {
    const { all, islands } = islandsMeant(job, which);
    const sheet = sheetFor(job);
    const { width, height } = sheet;
    const gap = borderGapOf(sheet);
    const waits = trayIslands(all.joined.mesh, all.joined.set);
    const meant = islands.filter(({ island }) => !waits[island]);
    if (meant.length === 0) throw new JigError('nothing-to-do', 'No island has a place on the sheet.', '', 'Unwrap, or take islands out of the tray, first.');
    const left = Math.min(...meant.map(({ box }) => box[0])) * width;
    const low = Math.min(...meant.map(({ box }) => box[1])) * height;
    const wide = Math.max(...meant.map(({ box }) => box[2])) * width - left;
    const tall = Math.max(...meant.map(({ box }) => box[3])) * height - low;
    const [roomX, roomY] = [width - 2 * gap, height - 2 * gap];
    if (roomX <= 0 || roomY <= 0) throw new JigError('does-not-fit', `A border gap of ${gap} px leaves no room.`, '', 'Use a smaller one.');
    const factors: [number, number] = [wide > 0 ? roomX / wide : 1, tall > 0 ? roomY / tall : 1];
    const even = Math.min(wide > 0 ? factors[0] : Infinity, tall > 0 ? factors[1] : Infinity);
    const [sx, sy] = fill ? factors : [Number.isFinite(even) ? even : 1, Number.isFinite(even) ? even : 1];
    const [column, row] = tilePlace(tile - 1001);
    // in the middle of what is left over
    const [ox, oy] = [gap + (roomX - wide * sx) / 2, gap + (roomY - tall * sy) / 2];
    const next = moved(job, all, meant, (_, u, v) => [column + (ox + (u * width - left) * sx) / width, row + (oy + (v * height - low) * sy) / height]);
    return { job: next, report: { islands: meant.length, scale: [sx, sy] as [number, number] } };
  },
  sentence: ({ fill }, { islands }) => `Fitted ${plural(islands, 'island')} to the sheet${fill ? ', filling it' : ''}`,
});

export const bringBack = defineOperation({
  name: 'bringBack',
  label: 'Bring stray islands back by whole tiles',
  words: 'wrap repeat outside offset integer udim',
  changes: ['uvs', 'jigs'],
  commandLine: { output: 'model', name: 'bring-back', hidden: ['which'] },
  summary: 'Move islands whose middle is in no tile of the sheet by whole tiles, so that what repeats an image shows the same',
  params: z.object({ which: whichSchema }),
  run(job, { which }) {
    const { all, islands } = islandsMeant(job, which);
    const tiles = tilesOf(job);
    const waits = trayIslands(all.joined.mesh, all.joined.set);
    const stray = islands.filter((one) => !waits[one.island] && tileAt(...middle(one), tiles) < 0);
    if (stray.length === 0) throw new JigError('nothing-to-do', 'No island is away from the tiles of the sheet.');
    const next = moved(job, all, stray, (one, u, v) => {
      const [mu, mv] = middle(one);
      return [u - Math.floor(mu), v - Math.floor(mv)];
    });
    return { job: next, report: { islands: stray.length } };
  },
  sentence: (_params, { islands }) => `Brought ${plural(islands, 'island')} back by whole tiles`,
});

export const moveTile = defineOperation({
  name: 'moveTile',
  label: 'Move or swap the content of tiles',
  words: 'tile exchange udim',
  changes: ['uvs', 'jigs'],
  asked: ['from', 'to'],
  commandLine: { output: 'model', name: 'move-tile' },
  summary: 'What is in one tile goes to another, and what is there comes back',
  params: z.object({
    from: tileSchema.default(1001).describe('tile by number, 1001 the first'),
    to: tileSchema.default(1002).describe('where its content goes; what is there comes back'),
  }),
  run(job, { from, to }) {
    const tiles = tilesOf(job);
    const [a, b] = [from - 1001, to - 1001];
    if (a === b) throw new JigError('nothing-to-do', 'It is the same tile.');
    if (Math.max(a, b) >= tiles)
      throw new JigError(
        'bad-parameter',
        `The sheet “${sheetOfPart(job, partsOnSheet(job)[0]!)?.name ?? ''}” has ${plural(tiles, 'tile')}: ${tileNumber(0)}${tiles > 1 ? ` to ${tileNumber(tiles - 1)}` : ''}.`,
        '',
        'Give the sheet more tiles first.',
      );
    const { all, islands } = islandsMeant(job, 'all');
    const waits = trayIslands(all.joined.mesh, all.joined.set);
    const placed = islands.filter(({ island }) => !waits[island]).map((one) => ({ one, tile: tileAt(...middle(one), tiles) }));
    const there = placed.filter(({ tile }) => tile === a).map(({ one }) => one);
    const back = placed.filter(({ tile }) => tile === b).map(({ one }) => one);
    if (there.length === 0 && back.length === 0) throw new JigError('nothing-to-do', 'Both tiles are empty.');
    const [du, dv] = [tilePlace(b)[0] - tilePlace(a)[0], tilePlace(b)[1] - tilePlace(a)[1]];
    const goes = new Set(there);
    const next = moved(job, all, [...there, ...back], (one, u, v) => (goes.has(one) ? [u + du, v + dv] : [u - du, v - dv]));
    return { job: next, report: { there: there.length, back: back.length } };
  },
  sentence: ({ from, to }, { there, back }) =>
    `Moved ${plural(there, 'island')} from tile ${from} to ${to}${back > 0 ? `, ${plural(back, 'island')} back` : ''}`,
});

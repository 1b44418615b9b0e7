import { z } from 'zod';
import { JigError } from '../jigError.ts';
import { partOf, withPart, type Job } from '../job/job.ts';
import { mostTiles, type Sheet } from '../job/sheet.ts';
import { firstSheetId, sheetById, sheetOfPart, sheetsOf } from '../job/sheets.ts';
import { scaleU } from '../uv/scaleU.ts';
import { defineOperation, plural } from './operation.ts';

const ways = ['add', 'change', 'remove', 'assign', 'takeOff'] as const;

/** Sheets of the job: which there are, and which parts are on them. */
export const sheets = defineOperation({
  name: 'sheets',
  label: 'Sheets',
  words: 'texture set tile tiles udim image atlas',
  changes: ['settings', 'uvs', 'seams', 'jigs', 'parts'],
  summary: 'Add, change and remove sheets, and put parts on them',
  params: z.object({
    do: z.enum(ways),
    sheet: z.string().optional().describe('by id; default: that of the active part'),
    name: z.string().trim().min(1).max(80).optional(),
    tiles: z.number().int().min(1).max(mostTiles).optional().describe('how many tiles: 1001, 1002, … ten a row'),
    density: z.number().positive().nullable().optional().describe('texel density meant for it, px per unit'),
    parts: z.array(z.string()).optional().describe('parts to put on it or take off, by id; default: the active part'),
  }),
  run(job, { do: what, sheet: id, name, tiles, density, parts: ids }) {
    const list = sheetsOf(job);
    const active = sheetOfPart(job, partOf(job)) ?? list[0]!;
    const sheet = id === undefined ? active : sheetById(job, id);
    const parts = (ids ?? [job.activePart]).map((one) => partOf(job, one).id);
    if (what === 'add') {
      const { width, height, margin, borderGap } = job.settings;
      const made: Sheet = {
        id: freeId(list),
        name: freeName(list, name ?? `Sheet ${list.length + 1}`),
        width,
        height,
        margin,
        borderGap,
        tiles: tiles ?? 1,
        density: density ?? null,
      };
      // parts that were never given a sheet stay on the first
      const next = { ...job, sheets: [...list, made] };
      return { job: ids ? assigned(next, made, parts) : next, report: { sheet: made.id, name: made.name, parts: ids ? parts.length : 0 } };
    }
    if (what === 'change') {
      const changed: Sheet = {
        ...sheet,
        ...(name === undefined
          ? {}
          : {
              name: freeName(
                list.filter((one) => one.id !== sheet.id),
                name,
              ),
            }),
        ...(tiles === undefined ? {} : { tiles }),
        ...(density === undefined ? {} : { density }),
      };
      return { job: { ...job, sheets: list.map((one) => (one.id === sheet.id ? changed : one)) }, report: { sheet: sheet.id, name: changed.name, parts: 0 } };
    }
    if (what === 'remove') {
      if (list.length === 1) throw new JigError('nothing-to-do', 'A job keeps one sheet.', '', 'Add another one first.');
      const other = list.find((one) => one.id !== sheet.id)!;
      const on = job.parts.filter((part) => sheetOfPart(job, part)?.id === sheet.id).map((part) => part.id);
      return {
        job: { ...assigned(job, other, on), sheets: list.filter((one) => one.id !== sheet.id) },
        report: { sheet: sheet.id, name: sheet.name, parts: on.length },
      };
    }
    const moved = parts.filter((part) => (sheetOfPart(job, partOf(job, part))?.id ?? null) !== (what === 'assign' ? sheet.id : null));
    if (moved.length === 0) throw new JigError('nothing-to-do', what === 'assign' ? `They are on “${sheet.name}” already.` : 'They are on no sheet.');
    const next =
      what === 'assign'
        ? assigned({ ...job, sheets: list }, sheet, moved)
        : moved.reduce((so, part) => withPart(so, part, (one) => ({ ...one, sheet: null })), job);
    return { job: next, report: { sheet: sheet.id, name: sheet.name, parts: moved.length } };
  },
  sentence: ({ do: what }, { name, parts }) =>
    what === 'add'
      ? `Added the sheet “${name}”`
      : what === 'change'
        ? `Changed the sheet “${name}”`
        : what === 'remove'
          ? `Removed the sheet “${name}”`
          : what === 'assign'
            ? `Put ${plural(parts, 'part')} on “${name}”`
            : `Took ${plural(parts, 'part')} off their sheet`,
});

/** Parts on another sheet: islands keep their shape in px. */
function assigned(job: Job, sheet: Sheet, ids: readonly string[]): Job {
  return ids.reduce((so, id) => {
    const old = sheetOfPart(job, partOf(job, id));
    const factor = old ? old.width / old.height / (sheet.width / sheet.height) : 1;
    return withPart(so, id, (part) => ({ ...part, sheet: sheet.id, uvSets: factor === 1 ? part.uvSets : part.uvSets.map((set) => scaleU(set, factor)) }));
  }, job);
}

function freeId(list: readonly Sheet[]): string {
  let n = list.length + 1;
  while (list.some(({ id }) => id === `sheet-${n}`) || `sheet-${n}` === firstSheetId) n++;
  return `sheet-${n}`;
}

function freeName(list: readonly Sheet[], wanted: string): string {
  let name = wanted;
  for (let n = 2; list.some((one) => one.name === name); n++) name = `${wanted} ${n}`;
  return name;
}

import { JigError } from '../jigError.ts';
import { partOf, type Job, type Part } from './job.ts';
import type { Sheet } from './sheet.ts';

/** The sheet of a job that never had more than one. */
export const firstSheetId = 'sheet-1';

/** The sheets of a job, at least one, in their order. */
export function sheetsOf(job: Pick<Job, 'sheets' | 'settings'>): readonly Sheet[] {
  if (job.sheets && job.sheets.length > 0) return job.sheets;
  const { width, height, margin, borderGap } = job.settings;
  return [{ id: firstSheetId, name: 'Sheet 1', width, height, margin, borderGap, tiles: 1, density: null }];
}

/** The sheet that a part's islands are on; parts that were never given one are on the first. Null: on none. */
export function sheetOfPart(job: Pick<Job, 'sheets' | 'settings'>, part: Pick<Part, 'sheet'>): Sheet | null {
  if (part.sheet === null) return null;
  const sheets = sheetsOf(job);
  return sheets.find(({ id }) => id === part.sheet) ?? sheets[0]!;
}

/** The sheet of a part, or of the active one; a part on none is measured by the job's settings. */
export function sheetFor(job: Job, partId?: string): Pick<Sheet, 'width' | 'height' | 'margin' | 'borderGap' | 'tiles'> {
  return sheetOfPart(job, partOf(job, partId)) ?? { ...job.settings, tiles: 1 };
}

/** Width over height of the sheet of a part, or of the active one. */
export function sheetAspect(job: Job, partId?: string): number {
  const { width, height } = sheetFor(job, partId);
  return width / height;
}

/** The sheet with the given id. @throws JigError `not-found` */
export function sheetById(job: Job, id: string): Sheet {
  const found = sheetsOf(job).find((sheet) => sheet.id === id);
  if (!found) throw new JigError('not-found', `There is no sheet “${id}” in the job.`, '', 'Choose one that the list shows.');
  return found;
}

/** Parts on the same sheet as the given one, that one among them; it alone where it is on none. */
export function partsOnSheet(job: Job, partId?: string): Part[] {
  const own = partOf(job, partId);
  const sheet = sheetOfPart(job, own);
  return sheet === null ? [own] : job.parts.filter((part) => sheetOfPart(job, part)?.id === sheet.id);
}

/**
 * Sheets and settings as they belong together: what a step changed of the settings' size and margin goes to the sheet of the part at work, and where another
 * sheet came to be at work its size and margin go to the settings.
 */
export function settleSheets(before: Job, after: Job): Job {
  if (!after.sheets || after === before) return after;
  const sheet = sheetOfPart(after, partOf(after));
  if (!sheet) return after;
  const fromSettings = ownOf(after.settings);
  const differs = (a: Own, b: Own) => ownKeys.some((key) => a[key] !== b[key]);
  if (!differs(sheet, fromSettings)) return after;
  if (differs(before.settings, fromSettings)) return { ...after, sheets: after.sheets.map((one) => (one.id === sheet.id ? { ...one, ...fromSettings } : one)) };
  return { ...after, settings: { ...after.settings, ...ownOf(sheet) } };
}

/** What the settings have of the sheet at work. */
const ownKeys = ['width', 'height', 'margin', 'borderGap'] as const;
type Own = Pick<Sheet, (typeof ownKeys)[number]>;
const ownOf = ({ width, height, margin, borderGap }: Own): Own => ({ width, height, margin, borderGap });

/**
 * The sheets of a newly opened job: parts that share a material share a sheet, as they share its image; parts without one are on a sheet of their own.
 * One sheet where all parts hang together that way.
 */
export function sheetsByMaterial(job: Job): Job {
  const root = job.parts.map((_, k) => k);
  const find = (k: number): number => (root[k] === k ? k : (root[k] = find(root[k]!)));
  const first = new Map<string, number>();
  job.parts.forEach(({ mesh }, k) => {
    const used = new Set(mesh.faceMaterial);
    const names = mesh.materials.filter((_, m) => used.has(m));
    for (const name of names.length > 0 ? names.map((one) => `material ${one}`) : ['none']) {
      const other = first.get(name);
      if (other === undefined) first.set(name, k);
      else root[find(k)] = find(other);
    }
  });
  const groups = [...new Set(job.parts.map((_, k) => find(k)))];
  if (groups.length < 2) return job;
  const { width, height, margin, borderGap } = job.settings;
  const nameOf = (group: number, n: number) => {
    const own = job.parts.find((_, k) => find(k) === group)!.mesh;
    const used = new Set(own.faceMaterial);
    return own.materials.find((_, m) => used.has(m)) ?? `Sheet ${n + 1}`;
  };
  const sheets = groups.map((group, n): Sheet => ({
    id: `sheet-${n + 1}`,
    name: nameOf(group, n).slice(0, 80),
    width,
    height,
    margin,
    borderGap,
    tiles: 1,
    density: null,
  }));
  return { ...job, sheets, parts: job.parts.map((part, k) => ({ ...part, sheet: sheets[groups.indexOf(find(k))]!.id })) };
}

import {
  isBeyondFiles,
  JigError,
  layersOf,
  runOperation,
  sheetFor,
  sheetOfPart,
  showBaked,
  tileNumber,
  type Context,
  type Job,
  type Part,
  type ReportOf,
} from '@jig-peel/core';

const longestSide = 8192;

/** Whether a part shows more than the pictures that model files can name. */
export const isLayered = (job: Job, part: Part): boolean => layersOf(job, part).some(({ layer }) => isBeyondFiles(layer));

/**
 * The job with what the layers of parts show as pictures of theirs, one for each sheet or tile of it, at the sheet's size: what model files can say. Parts without a layout
 * keep what they have.
 * @param ids parts by id; all if empty
 */
export async function withBakedLayers(job: Job, ids: readonly string[], context: Context): Promise<{ job: Job; notes: string[] }> {
  const wanted = job.parts.filter((part) => (ids.length === 0 || ids.includes(part.id)) && isLayered(job, part));
  const groups = new Map<string, Part[]>();
  for (const part of wanted) {
    const key = sheetOfPart(job, part)?.id ?? `none ${part.id}`;
    groups.set(key, [...(groups.get(key) ?? []), part]);
  }
  let next = job;
  const notes: string[] = [];
  for (const group of groups.values()) {
    const on = new Set(group.map(({ id }) => id));
    const { width, height, tiles } = sheetFor(job, group[0]!.id);
    const scale = Math.min(1, longestSide / Math.max(width, height));
    const size = `${Math.round(width * scale)}x${Math.round(height * scale)}`;
    let first: string | null = null;
    for (let tile = 0; tile < tiles; tile++) {
      // the others neither get the picture nor are in it
      const alone: Job = { ...next, activePart: group[0]!.id, parts: next.parts.map((part) => ({ ...part, isHidden: !on.has(part.id) })) };
      try {
        const baked = await runOperation(alone, 'bake', { what: 'colour', size, tile: tileNumber(tile), add: true }, context);
        const { image, notes: told } = baked.report as ReportOf<'bake'>;
        first ??= image;
        notes.push(...told);
        next = { ...next, images: baked.job.images };
      } catch (error) {
        // a tile with nothing in it, or a part that was not laid out
        if (!(error instanceof JigError) || error.code !== 'nothing-to-do') throw error;
      }
    }
    if (first === null) notes.push(`${group.map(({ name }) => name).join(', ')}: nothing is laid out to bake to; the files have the part’s own picture.`);
    else next = showBaked(next, [...on], first, undefined);
  }
  return { job: next, notes };
}

import {
  activeSet,
  leftOut,
  readArchive,
  readBack,
  runOperation,
  sheetFor,
  sheetOfPart,
  sheetsOf,
  unplacedCount,
  withNormals,
  writeArchive,
  writeGlb,
  writeMtl,
  writeObj,
  writePly,
  type Context,
  type Job,
  type LeftOut,
  type Part,
  type ReportOf,
  type Sheet,
} from '@jig-peel/core';
import type { DeliveredFile } from './messages.ts';
import type { DeliverChoice, DeliverFormat, Delivered, DeliverPart, DeliverTask } from './delivery.ts';
import type { Aside } from './work.ts';

const plain = (name: string) => name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^-+|-+$/g, '') || 'job';

/**
 * Parts of which something would be missing where the sheet is painted or baked, or which are not laid out as a whole. Islands that repeat an image beyond
 * the sheet are meant so, unless a layout guide is asked for.
 */
export function missingFrom(job: Job, choice: DeliverChoice): LeftOut[] {
  const parts = choice.parts.length > 0 ? job.parts.filter((part) => choice.parts.includes(part.id)) : job.parts;
  const painted = choice.guidePng || choice.guideSvg;
  // an archive holds the work as it stands
  if (!painted && !choice.obj && !choice.glb && !choice.ply) return [];
  return leftOut(parts, (part) => sheetFor(job, part.id).tiles).filter(
    ({ waiting, outside, repeats }) => waiting.length > 0 || (outside.length > 0 && (painted || !repeats)),
  );
}

/** Writes what was chosen, each format by itself, reads every model back and compares it, and only then hands it over. */
export async function deliver(job: Job, choice: DeliverChoice, history: string[], aside: Aside, progress: Context['progress']): Promise<Delivered> {
  const { obj, glb, ply, guidePng, guideSvg, archive } = choice;
  const wanted = { obj, glb, ply, guide: guidePng || guideSvg, archive };
  const formats = (Object.keys(wanted) as DeliverFormat[]).filter((format) => wanted[format]);
  const shares = formats.map(() => 0);
  const parts = await Promise.all(
    formats.map((format, k) =>
      aside('deliver', { job, choice, format, history: format === 'archive' ? history : [] }, (share, text) => {
        shares[k] = share;
        progress((0.95 * shares.reduce((sum, x) => sum + x, 0)) / formats.length, text);
      }),
    ),
  );
  const files = parts.flatMap((part) => part.files);
  const notes = parts.flatMap((part) => part.notes);
  if (files.length === 1) return { files, bundle: files[0]!, notes };
  progress(0.95, 'Putting the files together');
  const bytes = await aside('zip', files);
  return { files, bundle: { name: `${plain(job.name)}-delivery.zip`, type: 'application/zip', bytes, proof: `${files.length} files` }, notes };
}

const compared = (report: Awaited<ReturnType<typeof readBack>>) =>
  `read back and compared: ${report.faces.toLocaleString('en')} faces, largest UV difference ${report.uvError === 0 ? '0' : report.uvError.toExponential(0)}`;

/** Files of one format, read back and compared. @throws JigError `cancelled`, or of the writer */
export async function writeFormat({ job, choice, format, history }: DeliverTask, context: Context): Promise<DeliverPart> {
  const parts = choice.parts.length > 0 ? job.parts.filter((part) => choice.parts.includes(part.id)) : job.parts;
  const write = { obj: writeObjFiles, glb: writeGlbFile, ply: writePlyFile, guide: drawGuide, archive: writeArchiveFile }[format];
  const written = await write({ job, parts, choice, stem: plain(job.name), history }, context);
  context.progress(1, 'Done');
  return written;
}

interface Wanted {
  job: Job;
  parts: readonly Part[];
  choice: DeliverChoice;
  /** Name of the files without their ending. */
  stem: string;
  history: string[];
}

async function writeObjFiles({ job, parts, choice, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Writing OBJ');
  const kept = job.files.find((file) => file.name.toLowerCase().endsWith('.mtl'));
  const mtl = writeMtl(parts, kept ? new TextDecoder().decode(kept.bytes) : null, job.images);
  const bytes = writeObj(withNormals(parts, choice.normals), mtl ? `${stem}.mtl` : null);
  context.throwIfCancelled();
  context.progress(0.4, 'Reading the OBJ back');
  const proof = compared(await readBack(job, parts, [{ name: `${stem}.obj`, bytes }]));
  const files: DeliveredFile[] = [{ name: `${stem}.obj`, type: 'model/obj', bytes, proof }];
  if (mtl) {
    const materials = parts.reduce((n, part) => n + part.mesh.materials.length, 0);
    files.push({ name: `${stem}.mtl`, type: 'model/mtl', bytes: mtl.bytes, proof: `${materials} materials by name` });
    for (const image of mtl.images) files.push({ name: image.name, type: image.type, bytes: image.bytes, proof: 'the image that the material file names' });
  }
  return { files, notes: mtl ? [...mtl.notes] : [] };
}

async function writeGlbFile({ job, parts, choice, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Writing GLB');
  const { bytes, notes } = await writeGlb(parts, job.files, job.images, choice.normals);
  context.throwIfCancelled();
  context.progress(0.4, 'Reading the GLB back');
  const proof = compared(await readBack(job, parts, [{ name: `${stem}.glb`, bytes }]));
  return { files: [{ name: `${stem}.glb`, type: 'model/gltf-binary', bytes, proof }], notes: [...notes] };
}

async function writePlyFile({ job, parts, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Writing PLY');
  const bytes = writePly(parts);
  context.throwIfCancelled();
  const proof = compared(await readBack(job, parts, [{ name: `${stem}.ply`, bytes }]));
  return { files: [{ name: `${stem}.ply`, type: 'application/octet-stream', bytes, proof }], notes: [] };
}

/** A picture of each sheet that holds something of the parts. */
async function drawGuide({ job, parts, choice, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Drawing the layout guide');
  const laid = parts.filter((part) => unplacedCount(activeSet(part)) < activeSet(part).unplaced.length);
  const drawn = sheetsOf(job)
    .map((sheet) => ({ sheet, on: parts.filter((part) => sheetOfPart(job, part)?.id === sheet.id) }))
    .filter(({ on }) => on.some((part) => laid.includes(part)));
  const files: DeliveredFile[] = [];
  const notes: string[] = [];
  // nothing at all is refused in the words of the operation
  for (const { sheet, on } of drawn.length > 0 ? drawn : [{ sheet: null, on: [...parts] }]) {
    context.throwIfCancelled();
    const size = drawn.length > 1 && sheet ? sizedAs(choice.guideSize, sheet) : choice.guideSize;
    const { report } = await runOperation({ ...job, parts: on }, 'guide', { size }, context);
    const { png, svg, width, height, islands, leftOut: words } = report as ReportOf<'guide'>;
    const name = drawn.length > 1 && sheet ? `${stem}-${plain(sheet.name)}` : stem;
    const proof = `${width} × ${height} px, ${islands} ${islands === 1 ? 'island' : 'islands'}`;
    if (choice.guidePng) files.push({ name: `${name}-guide.png`, type: 'image/png', bytes: png(), proof });
    if (choice.guideSvg) files.push({ name: `${name}-guide.svg`, type: 'image/svg+xml', bytes: new TextEncoder().encode(svg()), proof });
    notes.push(...words.map((line) => `Not on the layout guide, or cut off by it: ${line}`));
  }
  return { files, notes };
}

/** The longer side as asked for, the proportions of the sheet. */
function sizedAs(size: string, { width, height }: Sheet): string {
  const longer = Math.max(...size.split('x').map(Number));
  const factor = longer / Math.max(width, height);
  return `${Math.max(16, Math.round(width * factor))}x${Math.max(16, Math.round(height * factor))}`;
}

function writeArchiveFile({ job, stem, history }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Writing the job archive');
  const bytes = writeArchive(job, history);
  context.throwIfCancelled();
  context.progress(0.6, 'Reading the archive back');
  const again = readArchive(bytes);
  const proof = `read back: ${again.job.parts.length} parts, ${again.history.length} steps listed`;
  return Promise.resolve({ files: [{ name: `${stem}.jigpeel`, type: 'application/zip', bytes, proof }], notes: [] });
}

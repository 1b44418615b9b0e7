import {
  activeSet,
  contentHash,
  JigError,
  judgedSheets,
  limitWords,
  materialPictures,
  safeImageNames,
  tileImages,
  tileNumber,
  writeGltf,
  leftOut,
  readArchive,
  readBack,
  runOperation,
  partsOnSheet,
  sheetFor,
  stacksOnSheet,
  sheetOfPart,
  sheetsOf,
  unplacedCount,
  wholeParts,
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
  setOfImage,
} from '@jig-peel/core';
import { smoothed } from '@jig-peel/core/uv/smooth';
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
  const painted = choice.guidePng || choice.guideSvg || choice.guidePdf;
  // an archive holds the work as it stands
  if (!painted && !choice.obj && !choice.glb && !choice.gltf && !choice.ply) return [];
  return leftOut(parts, (part) => sheetFor(job, part.id).tiles).filter(
    ({ waiting, outside, repeats }) => waiting.length > 0 || (outside.length > 0 && (painted || !repeats)),
  );
}

/** Model files have no marks of stacks: what is meant so here is an overlap to another program. */
function stackNotes(job: Job, choice: DeliverChoice): string[] {
  if (!choice.obj && !choice.glb && !choice.gltf && !choice.ply) return [];
  const isWritten = ({ id }: Part) => choice.parts.length === 0 || choice.parts.includes(id);
  const sheets = new Map(job.parts.map((part) => [sheetOfPart(job, part), partsOnSheet(job, part.id)]));
  const stacks = [...sheets.values()].flatMap((parts) => stacksOnSheet(parts.filter(isWritten)));
  const islands = stacks.reduce((sum, stack) => sum + stack.length, 0);
  if (stacks.length === 0) return [];
  return [
    `${stacks.length === 1 ? 'A stack' : `${stacks.length} stacks`} of ${islands} islands ${stacks.length === 1 ? 'lies' : 'lie'} on one another as meant: model files cannot say so, and other programs count an overlap.`,
  ];
}

/** Formats that have pictures of parts in them. */
const pictured: ReadonlySet<DeliverFormat> = new Set(['obj', 'glb', 'gltf', 'images']);

/**
 * Writes what was chosen, each format by itself, reads every model back and compares it, and only then hands it over.
 * @param jobs the job, and the one whose pictures model files get
 */
export async function deliver(
  { job, pictured: withPictures }: { job: Job; pictured: Job },
  choice: DeliverChoice,
  history: string[],
  aside: Aside,
  progress: Context['progress'],
): Promise<Delivered> {
  const { obj, glb, gltf, ply, guidePng, guideSvg, guidePdf, images, archive } = choice;
  // the record says how the layout is judged, too
  const wanted = { obj, glb, gltf, ply, guide: guidePng || guideSvg || guidePdf, images, report: choice.report || choice.record, archive };
  const formats = (Object.keys(wanted) as DeliverFormat[]).filter((format) => wanted[format]);
  const shares = formats.map(() => 0);
  const parts = await Promise.all(
    formats.map((format, k) =>
      aside('deliver', { job: pictured.has(format) ? withPictures : job, choice, format, history: format === 'archive' ? history : [] }, (share, text) => {
        shares[k] = share;
        progress((0.95 * shares.reduce((sum, x) => sum + x, 0)) / formats.length, text);
      }),
    ),
  );
  const files = onceEach(parts.flatMap((part) => part.files));
  const notes = [...parts.flatMap((part) => part.notes), ...stackNotes(job, choice)];
  const found = parts.find(({ judged }) => judged)?.judged ?? null;
  const judged = found && { limits: found.limits, missed: found.missed };
  if (choice.record && files.length > 0) files.push(recordOf(job, choice, files, found?.report ?? null));
  if (files.length === 0) throw new JigError('nothing-to-do', 'There is nothing to write: no part has a picture.', '', 'Tick another kind of file.');
  if (files.length === 1) return { files, bundle: files[0]!, notes, judged };
  progress(0.95, 'Putting the files together');
  const bytes = await aside('zip', files);
  return { files, bundle: { name: `${plain(job.name)}-delivery.zip`, type: 'application/zip', bytes, proof: `${files.length} files` }, notes, judged };
}

/** Images that several formats write are there once. */
function onceEach(files: readonly DeliveredFile[]): DeliveredFile[] {
  const names = new Set<string>();
  return files.filter(({ name }) => !names.has(name) && names.add(name));
}

/** What was delivered: when, of which parts, each file with its size and hash, and how the layout was judged. */
function recordOf(job: Job, choice: DeliverChoice, files: readonly DeliveredFile[], report: unknown): DeliveredFile {
  const parts = choice.parts.length > 0 ? job.parts.filter((part) => choice.parts.includes(part.id)) : job.parts;
  const version = job.versions?.find(({ id }) => id === choice.version);
  const record = {
    jigPeelDelivery: 1,
    job: job.name,
    made: new Date().toISOString(),
    ...(version ? { version: version.name } : {}),
    ...(choice.smoothing > 0 ? { smoothed: choice.smoothing } : {}),
    parts: parts.map(({ name, mesh }) => ({ name, faces: mesh.faceStart.length - 1, points: mesh.points.length / 3 })),
    files: files.map(({ name, bytes, proof }) => ({ name, bytes: bytes.length, sha256: contentHash(bytes), proof })),
    check: report,
  };
  return {
    name: `${plain(job.name)}.delivery.json`,
    type: 'application/json',
    bytes: new TextEncoder().encode(`${JSON.stringify(record, null, 2)}\n`),
    proof: 'the record: files with their sizes and SHA-256, figures and verdicts',
  };
}

const compared = (report: Awaited<ReturnType<typeof readBack>>) =>
  `read back and compared: ${report.faces.toLocaleString('en')} faces, largest UV difference ${report.uvError === 0 ? '0' : report.uvError.toExponential(0)}`;

/** Files of one format, read back and compared. @throws JigError `cancelled`, or of the writer */
export async function writeFormat({ job, choice, format, history }: DeliverTask, context: Context): Promise<DeliverPart> {
  const wanted = choice.parts.length > 0 ? job.parts.filter((part) => choice.parts.includes(part.id)) : job.parts;
  // a form is smoothed as a whole, across the borders of what it was split into
  const parts = choice.smoothing > 0 && models.has(format) ? wholeParts(wanted).map((part) => smoothPart(part, choice)) : wanted;
  const write = {
    obj: writeObjFiles,
    glb: writeGlbFile,
    gltf: writeGltfFiles,
    ply: writePlyFile,
    guide: drawGuide,
    images: writeImages,
    report: writeReport,
    archive: writeArchiveFile,
  }[format];
  const written = await write({ job, parts, choice, stem: plain(job.name), history }, context);
  context.progress(1, 'Done');
  return written;
}

/** More than most programs take in. */
const mostSmoothFaces = 4_000_000;
const models: ReadonlySet<DeliverFormat> = new Set(['obj', 'glb', 'gltf', 'ply']);

/** A part divided and rounded, each of its layouts with it. */
function smoothPart(part: Part, { smoothing: levels, smoothBorders: borders }: DeliverChoice): Part {
  const faces = part.mesh.corners.length * 4 ** (levels - 1);
  if (faces > mostSmoothFaces)
    throw new JigError(
      'too-large',
      `${part.name} smoothed ${levels === 1 ? 'once' : levels === 2 ? 'twice' : 'three times'} would have ${faces.toLocaleString('en')} faces.`,
      '',
      'Smooth it less often at Deliver, or deliver it as it is.',
    );
  const forms = part.uvSets.map((set) => smoothed(part.mesh, set, { levels, borders }));
  return { ...part, mesh: forms[0]!.mesh, uvSets: forms.map(({ set }) => set) };
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
  const mtl = writeMtl(parts, kept ? new TextDecoder().decode(kept.bytes) : null, job.images, job.materialLayers);
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
  const { bytes, notes } = await writeGlb(parts, job.files, job.images, choice.normals, job.materialLayers);
  context.throwIfCancelled();
  context.progress(0.4, 'Reading the GLB back');
  const proof = compared(await readBack(job, parts, [{ name: `${stem}.glb`, bytes }]));
  return { files: [{ name: `${stem}.glb`, type: 'model/gltf-binary', bytes, proof }], notes: [...notes] };
}

async function writeGltfFiles({ job, parts, choice, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Writing glTF');
  const { files, notes } = await writeGltf(stem, parts, job.files, job.images, choice.normals, job.materialLayers);
  context.throwIfCancelled();
  context.progress(0.4, 'Reading the glTF back');
  const proof = compared(await readBack(job, parts, files));
  const typeOf = (name: string) => (name.endsWith('.gltf') ? 'model/gltf+json' : name.endsWith('.bin') ? 'application/octet-stream' : 'image/*');
  return {
    files: files.map(({ name, bytes }, k) => ({ name, type: typeOf(name), bytes, proof: k === 0 ? proof : 'what the glTF file names' })),
    notes: [...notes],
  };
}

/** The pictures of the parts, those of their tiles among them, and what was baked for them. */
function writeImages({ job, parts }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Taking the pictures');
  const own = parts.flatMap((part) => materialPictures(part, job.materialLayers));
  const shown = new Set(own.flatMap(({ imageId }) => (imageId === null ? [] : (tileImages(job.images, imageId)?.map(({ id }) => id) ?? [imageId]))));
  // what goes unseen with them is delivered, too
  for (const id of [...shown]) for (const { id: mate } of setOfImage(job.images, id)?.members ?? []) shown.add(mate);
  // a bake is called by its part, or by its sheet where it is of several
  const titles = [...parts.map(({ name }) => name), ...parts.map((part) => sheetOfPart(job, part)?.name ?? '')].filter(Boolean);
  const used = job.images.filter(({ id, name }) => shown.has(id) || titles.some((title) => name.startsWith(`${title} `)));
  const names = safeImageNames(used);
  const files = used.flatMap((image, k): DeliveredFile[] => {
    const name = names[k];
    return name ? [{ name, type: image.type, bytes: image.bytes, proof: 'as it is in the job' }] : [];
  });
  return Promise.resolve({ files, notes: files.length === 0 ? ['The parts have no pictures of their own.'] : [] });
}

/** The layout judged by the job's limits, and the report of it where it is asked for. */
async function writeReport({ job, parts, choice, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Judging the layout');
  const sheets = judgedSheets({ ...job, parts: [...parts] }, job.settings.limits, context);
  const verdicts = sheets.flatMap(({ name, verdicts: own }) => own.map((verdict) => ({ sheet: name, ...verdict })));
  const missed = verdicts
    .filter(({ passed }) => !passed)
    .map(({ sheet, key }) => (sheets.length > 1 ? `${sheet}: ${limitWords[key].label.toLowerCase()}` : limitWords[key].label.toLowerCase()));
  const { reportHtml, reportJson } = await import('@jig-peel/core/formats/checkReport');
  const input = { job: job.name, made: new Date().toISOString().slice(0, 10), sheets, limitsName: 'the job’s limits' };
  const json = reportJson(input);
  const proof = missed.length === 0 ? 'all limits are kept' : `not kept: ${missed.join(', ')}`;
  const text = (name: string, type: string, words: string): DeliveredFile => ({ name, type, bytes: new TextEncoder().encode(words), proof });
  return {
    files: choice.report ? [text(`${stem}-report.html`, 'text/html', reportHtml(input)), text(`${stem}-report.json`, 'application/json', json)] : [],
    notes: [],
    judged: { limits: verdicts.length, missed, report: (JSON.parse(json) as { sheets: unknown }).sheets },
  };
}

async function writePlyFile({ job, parts, stem }: Wanted, context: Context): Promise<DeliverPart> {
  context.progress(0.1, 'Writing PLY');
  const bytes = writePly(parts);
  context.throwIfCancelled();
  const proof = compared(await readBack(job, parts, [{ name: `${stem}.ply`, bytes }]));
  return { files: [{ name: `${stem}.ply`, type: 'application/octet-stream', bytes, proof }], notes: [] };
}

/** A picture of each tile of each sheet that holds something of the parts. */
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
    const size = drawn.length > 1 && sheet ? sizedAs(choice.guideSize, sheet) : choice.guideSize;
    const tiles = sheet?.tiles ?? 1;
    let shown = 0;
    for (let k = 0; k < tiles; k++) {
      context.throwIfCancelled();
      const { report } = await runOperation({ ...job, parts: on }, 'guide', { size, tile: tileNumber(k), ...choice.guideLook }, context);
      const { png, svg, pdf, width, height, islands, leftOut: words } = report as ReportOf<'guide'>;
      // a tile on which nothing is needs no picture
      if (tiles > 1 && islands === 0) continue;
      shown++;
      const own = drawn.length > 1 && sheet ? `${stem}-${plain(sheet.name)}` : stem;
      const name = tiles > 1 ? `${own}.${tileNumber(k)}` : own;
      const proof = `${width} × ${height} px, ${islands} ${islands === 1 ? 'island' : 'islands'}`;
      if (choice.guidePng) files.push({ name: `${name}-guide.png`, type: 'image/png', bytes: png(), proof });
      if (choice.guideSvg) files.push({ name: `${name}-guide.svg`, type: 'image/svg+xml', bytes: new TextEncoder().encode(svg()), proof });
      if (choice.guidePdf) files.push({ name: `${name}-guide.pdf`, type: 'application/pdf', bytes: await pdf(), proof });
      if (tiles === 1) notes.push(...words.map((line) => `Not on the layout guide, or cut off by it: ${line}`));
    }
    if (shown === 0) notes.push(`Nothing of ${sheet?.name ?? 'the sheet'} is on any of its tiles: no layout guide of it.`);
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

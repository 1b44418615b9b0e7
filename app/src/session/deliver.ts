import {
  leftOut,
  readArchive,
  readBack,
  runOperation,
  withNormals,
  writeArchive,
  writeGlb,
  writeMtl,
  writeObj,
  writePly,
  type Job,
  type LeftOut,
  type NormalChoice,
} from '@jig-peel/core';
import { zipSync } from 'fflate';
import type { DeliveredFile } from './messages.ts';

export interface DeliverChoice {
  obj: boolean;
  glb: boolean;
  ply: boolean;
  guidePng: boolean;
  guideSvg: boolean;
  archive: boolean;
  guideSize: string;
  /** Parts by id; all if empty. */
  parts: string[];
  /** Where the normals of OBJ and GLB come from. */
  normals: NormalChoice;
  /** Deliver though islands are not on the sheet. */
  asItIs: boolean;
}

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
  return leftOut(parts).filter(({ waiting, outside, repeats }) => waiting.length > 0 || (outside.length > 0 && (painted || !repeats)));
}

export interface Delivered {
  files: DeliveredFile[];
  /** All of them as one: a zip, or the one there is. */
  bundle: DeliveredFile;
  notes: string[];
}

/** Writes what was chosen, reads every model back and compares it, and only then hands it over. */
export async function deliver(job: Job, choice: DeliverChoice, history: string[], progress: (share: number, text: string) => void): Promise<Delivered> {
  const parts = choice.parts.length > 0 ? job.parts.filter((part) => choice.parts.includes(part.id)) : job.parts;
  const stem = plain(job.name);
  const files: DeliveredFile[] = [];
  const notes: string[] = [];
  const compared = (report: Awaited<ReturnType<typeof readBack>>) =>
    `read back and compared: ${report.faces.toLocaleString('en')} faces, largest UV difference ${report.uvError === 0 ? '0' : report.uvError.toExponential(0)}`;
  if (choice.obj) {
    progress(0.1, 'Writing OBJ');
    const kept = job.files.find((file) => file.name.toLowerCase().endsWith('.mtl'));
    const mtl = writeMtl(parts, kept ? new TextDecoder().decode(kept.bytes) : null, job.images);
    const bytes = writeObj(withNormals(parts, choice.normals), mtl ? `${stem}.mtl` : null);
    progress(0.2, 'Reading the OBJ back');
    files.push({ name: `${stem}.obj`, type: 'model/obj', bytes, proof: compared(await readBack(job, parts, [{ name: `${stem}.obj`, bytes }])) });
    if (mtl) {
      notes.push(...mtl.notes);
      files.push({
        name: `${stem}.mtl`,
        type: 'model/mtl',
        bytes: mtl.bytes,
        proof: `${parts.reduce((n, part) => n + part.mesh.materials.length, 0)} materials by name`,
      });
      for (const image of mtl.images) files.push({ name: image.name, type: image.type, bytes: image.bytes, proof: 'the image that the material file names' });
    }
  }
  if (choice.glb) {
    progress(0.4, 'Writing GLB');
    const { bytes, notes: said } = await writeGlb(parts, job.files, job.images, choice.normals);
    notes.push(...said);
    progress(0.55, 'Reading the GLB back');
    files.push({ name: `${stem}.glb`, type: 'model/gltf-binary', bytes, proof: compared(await readBack(job, parts, [{ name: `${stem}.glb`, bytes }])) });
  }
  if (choice.ply) {
    progress(0.65, 'Writing PLY');
    const bytes = writePly(parts);
    files.push({ name: `${stem}.ply`, type: 'application/octet-stream', bytes, proof: compared(await readBack(job, parts, [{ name: `${stem}.ply`, bytes }])) });
  }
  if (choice.guidePng || choice.guideSvg) {
    progress(0.75, 'Drawing the layout guide');
    const { report } = await runOperation({ ...job, parts }, 'guide', { size: choice.guideSize });
    const { png, svg, width, height, islands, leftOut } = report as {
      png: () => Uint8Array;
      svg: () => string;
      width: number;
      height: number;
      islands: number;
      leftOut: string[];
    };
    const proof = `${width} × ${height} px, ${islands} ${islands === 1 ? 'island' : 'islands'}`;
    for (const words of leftOut) notes.push(`Not on the layout guide, or cut off by it: ${words}`);
    if (choice.guidePng) files.push({ name: `${stem}-guide.png`, type: 'image/png', bytes: png(), proof });
    if (choice.guideSvg) files.push({ name: `${stem}-guide.svg`, type: 'image/svg+xml', bytes: new TextEncoder().encode(svg()), proof });
  }
  if (choice.archive) {
    progress(0.9, 'Writing the job archive');
    const bytes = writeArchive(job, history);
    const again = readArchive(bytes);
    files.push({
      name: `${stem}.jigpeel`,
      type: 'application/zip',
      bytes,
      proof: `read back: ${again.job.parts.length} parts, ${again.history.length} steps listed`,
    });
  }
  progress(1, 'Done');
  const bundle: DeliveredFile =
    files.length === 1
      ? files[0]!
      : {
          name: `${stem}-delivery.zip`,
          type: 'application/zip',
          bytes: zipSync(Object.fromEntries(files.map((file) => [file.name, file.bytes])), { level: 3 }),
          proof: `${files.length} files`,
        };
  return { files, bundle, notes };
}

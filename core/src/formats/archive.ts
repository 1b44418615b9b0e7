import { strFromU8, strToU8, zipSync } from 'fflate';
import { z } from 'zod';
import { jigSchema } from '../jigs/jig.ts';
import { imageUseSchema } from '../images/imageUseSchema.ts';
import { placementSchema } from '../images/placement.ts';
import { layerSchema } from '../images/surface/layer.ts';
import { mostVersions } from '../job/versions.ts';
import { mostLayers } from '../images/surface/names.ts';
import { formSchema, jigStates, selectionKinds, settingsSchema, type Job } from '../job/job.ts';
import { sheetSchema } from '../job/sheet.ts';
import { JigError } from '../jigError.ts';
import { soundJob } from './soundJob.ts';
import { ZipReader } from './unzip.ts';

/** The kinds of array that a job holds, by the letter under which they are written. */
const arrayKinds = new Map<string, typeof Float64Array | typeof Uint32Array | typeof Int32Array | typeof Uint8Array>([
  ['f64', Float64Array],
  ['u32', Uint32Array],
  ['i32', Int32Array],
  ['u8', Uint8Array],
]);
type ArrayKind = 'f64' | 'u32' | 'i32' | 'u8';
export type JobArray = Float64Array | Uint32Array | Int32Array | Uint8Array;

export const kindOf = (array: JobArray): ArrayKind =>
  array instanceof Float64Array ? 'f64' : array instanceof Uint32Array ? 'u32' : array instanceof Int32Array ? 'i32' : 'u8';

/** Fields whose names in files and databases are older than those in the code. */
const storedNames = new Map([['isHidden', 'away']]);
const namesOfStored = new Map([...storedNames].map(([name, stored]) => [stored, name]));

/** A value with each typed array replaced by { $: key }, the key given by `keep`. Shared arrays get one key. */
export function detachArrays(value: unknown, keep: (array: JobArray) => string): unknown {
  if (ArrayBuffer.isView(value)) return { $: keep(value as JobArray) };
  if (Array.isArray(value)) return value.map((item) => detachArrays(item, keep));
  if (value && typeof value === 'object')
    return Object.fromEntries(
      Object.entries(value)
        .filter(([, v]) => v !== undefined)
        .map(([k, v]) => [storedNames.get(k) ?? k, detachArrays(v, keep)]),
    );
  return value;
}

/** The opposite of `pack`. */
export function attachArrays(value: unknown, find: (key: string) => JobArray): unknown {
  if (Array.isArray(value)) return value.map((item) => attachArrays(item, find));
  if (value && typeof value === 'object') {
    const key = (value as { $?: unknown }).$;
    if (typeof key === 'string') return find(key);
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [namesOfStored.get(k) ?? k, attachArrays(v, find)]));
  }
  return value;
}

const version = 1;
const manifestSchema = z.object({ format: z.literal('jig-peel-job'), version: z.number().int(), job: z.unknown(), history: z.array(z.string()).default([]) });

const array = <T extends JobArray>(type: new (n: number) => T) => z.instanceof(type as never) as unknown as z.ZodType<T>;
const uvSetSchema = z.object({
  name: z.string(),
  cornerUv: array(Uint32Array),
  uv: array(Float64Array),
  unplaced: array(Uint8Array),
  slits: array(Uint32Array),
  pins: array(Uint8Array),
  stack: array(Uint32Array).optional(),
  block: array(Uint32Array).optional(),
  locked: array(Uint8Array).optional(),
  headed: array(Uint8Array).optional(),
  weight: array(Float64Array).optional(),
  care: array(Float64Array).optional(),
  straight: array(Uint8Array).optional(),
});
const meshSchema = z.object({
  points: array(Float64Array),
  faceStart: array(Uint32Array),
  corners: array(Uint32Array),
  faceGroup: array(Int32Array),
  groups: z.array(z.string()),
  faceMaterial: array(Int32Array),
  materials: z.array(z.string()),
  faceSmooth: array(Int32Array),
  pointColors: array(Float64Array).optional(),
  normals: array(Float64Array).optional(),
  cornerNormal: array(Int32Array).optional(),
});
const originSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('made') }),
  z.object({
    kind: z.literal('obj'),
    filePoints: array(Uint32Array).nullable(),
    filePointCount: z.number(),
    fileUv: array(Float64Array).nullable(),
    vtOf: array(Uint32Array).optional(),
  }),
  z.object({
    kind: z.literal('gltf'),
    file: z.string(),
    meshIndex: z.number(),
    facePrimitive: array(Uint32Array),
    cornerVertex: array(Uint32Array),
    mirrored: z.boolean().optional(),
  }),
]);
const selectionSchema = z.object({
  part: z.string(),
  kind: z.enum(selectionKinds),
  ids: array(Uint32Array),
  corners: array(Uint32Array).optional(),
  also: z.array(z.object({ part: z.string(), ids: array(Uint32Array), corners: array(Uint32Array).optional() })).optional(),
});
/** The whole job document, as it must be after reading. */
export const jobSchema = z.object({
  id: z.string(),
  name: z.string(),
  parts: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        mesh: meshSchema,
        uvSets: z.array(uvSetSchema).min(1),
        activeUv: z.number().int(),
        imageId: z.string().nullable(),
        placement: placementSchema.optional(),
        layers: z.array(layerSchema).max(mostLayers).optional(),
        form: formSchema.optional(),
        hidden: array(Uint8Array).optional(),
        done: array(Uint8Array).optional(),
        seamMarks: array(Uint8Array).optional(),
        grain: array(Float64Array).optional(),
        isHidden: z.boolean().optional(),
        sheet: z.string().nullable().optional(),
        up: z.literal('z').optional(),
        origin: originSchema,
        piece: z
          .object({
            whole: z.string(),
            name: z.string(),
            origin: originSchema,
            faceCount: z.number().int(),
            pointCount: z.number().int(),
            faces: array(Uint32Array),
            points: array(Uint32Array),
          })
          .optional(),
      }),
    )
    .min(1),
  activePart: z.string(),
  files: z.array(z.object({ name: z.string(), bytes: array(Uint8Array) })),
  images: z.array(z.object({ id: z.string(), name: z.string(), type: z.string(), bytes: array(Uint8Array), use: imageUseSchema.nullable().optional() })),
  settings: settingsSchema,
  sheets: z.array(sheetSchema).optional(),
  selection: selectionSchema,
  savedSelections: z.array(selectionSchema.extend({ name: z.string() })).optional(),
  selectedParts: z.array(z.string()).optional(),
  jigs: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        jig: jigSchema,
        state: z.enum(jigStates),
        drives: z.array(z.object({ part: z.string(), set: z.string(), faces: array(Uint32Array) })),
        belongs: z.enum(['part', 'space']),
      }),
    )
    .optional(),
  materialLayers: z.array(z.object({ material: z.string(), layers: z.array(layerSchema).max(mostLayers) })).optional(),
  versions: z
    .array(
      z.object({
        id: z.string(),
        name: z.string(),
        note: z.string(),
        made: z.number(),
        layouts: z.array(z.object({ part: z.string(), name: z.string(), faces: z.string(), uvSets: z.array(uvSetSchema).min(1), activeUv: z.number().int() })),
        figures: z.array(
          z.object({ sheet: z.string(), islands: z.number(), energy: z.number().nullable(), coverage: z.number(), overlap: z.number(), flips: z.number() }),
        ),
        picture: array(Uint8Array),
      }),
    )
    .max(mostVersions)
    .optional(),
  intake: z.array(z.string()),
});

/** Writes a job as one zip: manifest.json and one file an array. @param history sentences of what was done */
export function writeArchive(job: Job, history: readonly string[] = []): Uint8Array {
  const files: Record<string, Uint8Array> = {};
  const keys = new Map<JobArray, string>();
  const packed = detachArrays(job, (value) => {
    let key = keys.get(value);
    if (key === undefined) {
      key = `arrays/${keys.size}.${kindOf(value)}`;
      keys.set(value, key);
      files[key] = new Uint8Array(value.buffer, value.byteOffset, value.byteLength);
    }
    return key;
  });
  const manifest = { format: 'jig-peel-job', version, job: packed, history };
  return zipSync({ 'manifest.json': strToU8(JSON.stringify(manifest)), ...files }, { level: 6 });
}

/** The longest manifest that is read, bytes. */
const longestManifest = 64 * 2 ** 20;

/**
 * Reads a job archive. What shows a job (selection, hidden faces, marks) and does not fit is left out and said in its intake; a mesh or UVs that
 * are not whole are refused.
 * @throws JigError `bad-file`, `too-large` for anything that is not a sound job
 */
export function readArchive(bytes: Uint8Array): { job: Job; history: string[] } {
  const zip = new ZipReader(bytes);
  const text = zip.read(new Set(['manifest.json'])).get('manifest.json');
  if (!text) throw new JigError('bad-file', 'The file is a zip, but not a job archive.');
  if (text.length > longestManifest) throw new JigError('too-large', 'The job archive’s manifest is too long.', '', 'Use an earlier copy.');
  let manifest: z.infer<typeof manifestSchema>;
  let job: Job;
  try {
    manifest = manifestSchema.parse(JSON.parse(strFromU8(text)));
  } catch {
    throw new JigError('bad-file', 'The job archive’s manifest cannot be read.', '', 'Use an earlier copy.');
  }
  if (manifest.version > version)
    throw new JigError('bad-file', `The job archive was written by a newer version (${manifest.version}).`, '', 'Update Jig Peel to open it.');
  try {
    const wanted = new Set<string>();
    attachArrays(manifest.job, (key) => {
      wanted.add(key);
      return new Uint8Array(0);
    });
    const files = zip.read(wanted);
    const known = new Map<string, JobArray>();
    job = jobSchema.parse(
      attachArrays(manifest.job, (key) => {
        let value = known.get(key);
        if (!value) {
          const data = files.get(key);
          const type = arrayKinds.get(key.slice(key.lastIndexOf('.') + 1));
          if (!data || !type || data.byteLength % type.BYTES_PER_ELEMENT !== 0)
            throw new JigError('bad-file', `The job archive lacks “${key.slice(0, 60)}”.`, '', 'Use an earlier copy.');
          value = new type(data.buffer as ArrayBuffer);
          known.set(key, value);
        }
        return value;
      }),
    ) as Job;
  } catch (error) {
    if (error instanceof JigError) throw error;
    throw new JigError('bad-file', 'The job archive holds a job that is not whole.', '', 'Use an earlier copy.');
  }
  return { job: soundJob(job), history: manifest.history };
}

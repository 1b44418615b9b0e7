import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { z } from 'zod';
import { jigSchema } from '../jigs/jig.ts';
import { placementSchema } from '../images/placement.ts';
import { formSchema, jigStates, selectionKinds, settingsSchema, type Job } from '../job/job.ts';
import { JigError } from '../jigError.ts';

/** The kinds of array that a job holds, by the letter under which they are written. */
const arrayKinds = { f64: Float64Array, u32: Uint32Array, i32: Int32Array, u8: Uint8Array } as const;
type ArrayKind = keyof typeof arrayKinds;
export type JobArray = Float64Array | Uint32Array | Int32Array | Uint8Array;

export const kindOf = (array: JobArray): ArrayKind =>
  array instanceof Float64Array ? 'f64' : array instanceof Uint32Array ? 'u32' : array instanceof Int32Array ? 'i32' : 'u8';

/** A value with each typed array replaced by { $: key }, the key given by `keep`. Shared arrays get one key. */
export function pack(value: unknown, keep: (array: JobArray) => string): unknown {
  if (ArrayBuffer.isView(value)) return { $: keep(value as JobArray) };
  if (Array.isArray(value)) return value.map((item) => pack(item, keep));
  if (value && typeof value === 'object')
    return Object.fromEntries(
      Object.entries(value)
        .filter(([, v]) => v !== undefined)
        .map(([k, v]) => [k, pack(v, keep)]),
    );
  return value;
}

/** The opposite of `pack`. */
export function unpack(value: unknown, find: (key: string) => JobArray): unknown {
  if (Array.isArray(value)) return value.map((item) => unpack(item, find));
  if (value && typeof value === 'object') {
    const key = (value as { $?: unknown }).$;
    if (typeof key === 'string') return find(key);
    return Object.fromEntries(Object.entries(value).map(([k, v]) => [k, unpack(v, find)]));
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
  z.object({ kind: z.literal('obj'), filePoints: array(Uint32Array).nullable(), filePointCount: z.number(), fileUv: array(Float64Array).nullable() }),
  z.object({
    kind: z.literal('gltf'),
    file: z.string(),
    meshIndex: z.number(),
    facePrimitive: array(Uint32Array),
    cornerVertex: array(Uint32Array),
    mirrored: z.boolean().optional(),
  }),
]);
const selectionSchema = z.object({ part: z.string(), kind: z.enum(selectionKinds), ids: array(Uint32Array) });
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
        form: formSchema.optional(),
        hidden: array(Uint8Array).optional(),
        done: array(Uint8Array).optional(),
        away: z.boolean().optional(),
        origin: originSchema,
      }),
    )
    .min(1),
  activePart: z.string(),
  files: z.array(z.object({ name: z.string(), bytes: array(Uint8Array) })),
  images: z.array(z.object({ id: z.string(), name: z.string(), type: z.string(), bytes: array(Uint8Array) })),
  settings: settingsSchema,
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
  intake: z.array(z.string()),
});

/** Writes a job as one zip: manifest.json and one file an array. @param history sentences of what was done */
export function writeArchive(job: Job, history: readonly string[] = []): Uint8Array {
  const files: Record<string, Uint8Array> = {};
  const keys = new Map<JobArray, string>();
  const packed = pack(job, (value) => {
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

/** Reads a job archive. @throws JigError `bad-file` for anything that is not a whole, sound job */
export function readArchive(bytes: Uint8Array): { job: Job; history: string[] } {
  let files: Record<string, Uint8Array>;
  try {
    files = unzipSync(bytes, { filter: (file) => file.originalSize < 2 ** 31 });
  } catch {
    throw new JigError('bad-file', 'The job archive is damaged or cut short.', '', 'Use an earlier copy.');
  }
  const text = files['manifest.json'];
  if (!text) throw new JigError('bad-file', 'The file is a zip, but not a job archive.');
  let manifest: z.infer<typeof manifestSchema>;
  let job: Job;
  try {
    manifest = manifestSchema.parse(JSON.parse(strFromU8(text)));
  } catch {
    throw new JigError('bad-file', 'The job archive’s manifest cannot be read.', '', 'Use an earlier copy.');
  }
  if (manifest.version > version)
    throw new JigError('bad-file', `The job archive was written by a newer version (${manifest.version}).`, '', 'Update Jig Peel to open it.');
  const known = new Map<string, JobArray>();
  try {
    job = jobSchema.parse(
      unpack(manifest.job, (key) => {
        let value = known.get(key);
        if (!value) {
          const data = files[key];
          const type = arrayKinds[key.slice(key.lastIndexOf('.') + 1) as ArrayKind];
          if (!data || !type || data.byteLength % type.BYTES_PER_ELEMENT !== 0)
            throw new JigError('bad-file', `The job archive lacks “${key}”.`, '', 'Use an earlier copy.');
          value = new type(data.slice().buffer);
          known.set(key, value);
        }
        return value;
      }),
    ) as Job;
  } catch (error) {
    if (error instanceof JigError) throw error;
    throw new JigError('bad-file', 'The job archive holds a job that is not whole.', '', 'Use an earlier copy.');
  }
  for (const part of job.parts) assertPart(part);
  assertDrives(job);
  return { job, history: manifest.history };
}

function assertDrives({ jigs = [], parts }: Job) {
  for (const { name, drives } of jigs) {
    for (const drive of drives) {
      const part = parts.find(({ id }) => id === drive.part);
      if (part && drive.faces.every((f) => f + 1 < part.mesh.faceStart.length)) continue;
      throw new JigError('bad-file', 'The job archive’s jigs drive faces that are not there.', `jig “${name}”`, 'Use an earlier copy.');
    }
  }
}

function assertPart({ name, mesh, uvSets }: Job['parts'][number]) {
  const fail = (what: string) => {
    throw new JigError('bad-file', `The job archive’s ${what}.`, `part “${name}”`, 'Use an earlier copy.');
  };
  const faces = mesh.faceStart.length - 1;
  if (faces < 1 || mesh.faceStart[faces] !== mesh.corners.length || mesh.points.length % 3 !== 0) fail('faces are not whole');
  for (let f = 0; f < faces; f++) if (mesh.faceStart[f + 1]! < mesh.faceStart[f]! + 3) fail('faces are not whole');
  for (const p of mesh.corners) if (p * 3 >= mesh.points.length) fail('faces use points that are not there');
  for (const x of mesh.points) if (!Number.isFinite(x)) fail('points are not all numbers');
  for (const set of uvSets) {
    if (set.cornerUv.length !== mesh.corners.length || set.unplaced.length !== faces) fail('UVs do not fit its mesh');
    for (const i of set.cornerUv) if (i * 2 >= set.uv.length) fail('UVs do not fit its mesh');
    for (const x of set.uv) if (!Number.isFinite(x)) fail('UVs are not all numbers');
  }
}

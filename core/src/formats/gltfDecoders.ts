import type { JSONDocument } from '@gltf-transform/core';

/** Bytes of Draco's decoder; in Node its package finds them by itself. */
let dracoWasm: (() => Promise<ArrayBuffer>) | null = null;

/** Says where Draco's decoder is fetched from, where the host is no Node. Called by the host before a file is read. */
export function setDracoWasm(fetchIt: () => Promise<ArrayBuffer>): void {
  dracoWasm = fetchIt;
}

const dracoName = 'KHR_draco_mesh_compression';
const meshoptNames = ['EXT_meshopt_compression', 'KHR_meshopt_compression'];

const usedBy = (json: JSONDocument['json']): readonly string[] => [
  ...(Array.isArray(json.extensionsUsed) ? json.extensionsUsed : []),
  ...(Array.isArray(json.extensionsRequired) ? json.extensionsRequired : []),
];

/** Does a document pack its geometry, so that it may be far larger than its file? */
export const isPacked = (json: JSONDocument['json']): boolean => usedBy(json).some((name) => name === dracoName || meshoptNames.includes(name));

/** Names of extensions that are undone when a file is read: what is written is not packed. */
export const isPacking = (name: string): boolean => name === dracoName || meshoptNames.includes(name);

/** The decoders that a document needs, as gltf-transform takes them; each is loaded when it is needed first. */
export async function decodersFor(json: JSONDocument['json']): Promise<Record<string, unknown>> {
  const used = usedBy(json);
  const found: Record<string, unknown> = {};
  if (used.includes(dracoName)) found['draco3d.decoder'] = await draco();
  if (used.some((name) => meshoptNames.includes(name))) {
    const { MeshoptDecoder } = await import('meshoptimizer/decoder');
    await MeshoptDecoder.ready;
    found['meshopt.decoder'] = MeshoptDecoder;
  }
  return found;
}

let dracoDecoder: Promise<unknown> | null = null;
function draco(): Promise<unknown> {
  dracoDecoder ??= (async () => {
    const { default: make } = await import('draco3dgltf/draco_decoder_gltf_nodejs.js');
    // the module is a promise of itself once it is ready; as it is handed on it must not be waited for again
    return make(dracoWasm ? { wasmBinary: await dracoWasm() } : {});
  })();
  dracoDecoder.catch(() => (dracoDecoder = null));
  return dracoDecoder;
}

import type { JSONDocument } from '@gltf-transform/core';
import { JigError } from '../jigError.ts';
import { isPacked } from './gltfDecoders.ts';

/** What of a glTF's JSON is looked at before anything is made of it. Nothing in it can be trusted yet. */
interface Stated {
  accessors?: unknown;
  bufferViews?: unknown;
  meshes?: unknown;
  nodes?: unknown;
  images?: unknown;
  scenes?: unknown;
}

const componentBytes = new Map([
  [5120, 1],
  [5121, 1],
  [5122, 2],
  [5123, 2],
  [5125, 4],
  [5126, 4],
]);
const components = new Map([
  ['SCALAR', 1],
  ['VEC2', 2],
  ['VEC3', 3],
  ['VEC4', 4],
  ['MAT2', 4],
  ['MAT3', 9],
  ['MAT4', 16],
]);

/** Bytes that accessors may take in all, whatever the file's size, and for each of its bytes. */
const bytesAnyway = 64 * 2 ** 20;
const bytesEach = 4;
/** The same where the geometry is packed: Draco and meshopt make a twentieth of real meshes. */
const bytesEachPacked = 60;

const bad = (text: string, place = '') => new JigError('bad-file', text, place, 'Export it again.');
const listOf = (value: unknown): Record<string, unknown>[] =>
  Array.isArray(value) ? value.map((item) => (item && typeof item === 'object' ? (item as Record<string, unknown>) : {})) : [];
const whole = (value: unknown): number | null => (typeof value === 'number' && Number.isSafeInteger(value) && value >= 0 ? value : null);

/**
 * Looks whether what a glTF's JSON states can be true and can be held, before any memory is taken for it: counts against the size of the
 * file, nodes without a circle, matrices of finite numbers. O(JSON).
 * @param size bytes of the file and of the buffers beside it
 * @throws JigError `bad-file`, `too-large`
 */
export function assertGltfSane(json: unknown, size: number): void {
  if (!json || typeof json !== 'object') throw bad('The glTF file holds no model.');
  const stated = json as Stated;
  assertWords(json);
  assertNodes(listOf(stated.nodes));
  const views = listOf(stated.bufferViews);
  const accessors = listOf(stated.accessors);
  const most = bytesAnyway + (isPacked(json as JSONDocument['json']) ? bytesEachPacked : bytesEach) * size;
  let total = 0;
  const add = (bytes: number, place: string) => {
    total += bytes;
    if (!(total <= most))
      throw new JigError('too-large', 'The file states far more data than it holds.', place, 'It is damaged, or made to fill the memory. Export it again.');
  };
  accessors.forEach((accessor, k) => {
    const place = `accessor ${k}`;
    const count = whole(accessor.count);
    const each = (components.get(String(accessor.type)) ?? 0) * (componentBytes.get(accessor.componentType as number) ?? 0);
    if (count === null || each === 0) throw bad('The file states data of no known kind or number.', place);
    add(count * each, place);
    const sparse = accessor.sparse as Record<string, unknown> | undefined;
    if (sparse) {
      const changed = whole(sparse.count);
      if (changed === null || changed > count) throw bad('More values are changed than there are.', place);
      // the indices of what is changed take a byte each at least
      if (changed > size) throw bad('The file is cut short: it cannot hold what it states.', place);
      for (const part of [sparse.indices, sparse.values] as (Record<string, unknown> | undefined)[])
        if (!part || !views[whole(part.bufferView) ?? -1]) throw bad('Changed values are not in the file.', place);
    }
    if (accessor.bufferView !== undefined && !views[whole(accessor.bufferView) ?? -1]) throw bad('It uses a stretch of data that is not there.', place);
  });
  views.forEach((view, k) => {
    const extensions = (view.extensions ?? {}) as Record<string, Record<string, unknown> | undefined>;
    for (const name of ['EXT_meshopt_compression', 'KHR_meshopt_compression']) {
      const packed = extensions[name];
      if (!packed) continue;
      const [count, stride] = [whole(packed.count), whole(packed.byteStride)];
      if (count === null || stride === null || stride > 256) throw bad('What is packed in it is of no known kind or number.', `bufferView ${k}`);
      add(count * stride, `bufferView ${k}`);
    }
  });
  for (const image of listOf(stated.images)) {
    const view = views[whole(image.bufferView) ?? -1];
    if (view) add(whole(view.byteLength) ?? 0, 'images');
  }
  // one accessor may serve many primitives, and each of them becomes faces
  for (const mesh of listOf(stated.meshes)) {
    for (const primitive of listOf(mesh.primitives)) {
      const attributes = (primitive.attributes ?? {}) as Record<string, unknown>;
      const counted = accessors[whole(primitive.indices) ?? whole(attributes.POSITION) ?? -1];
      add((whole(counted?.count) ?? 0) * 4, 'meshes');
    }
  }
}

/** Names and URIs are text wherever they stand; what else stands there is taken out. */
function assertWords(json: object) {
  for (const list of Object.values(json)) {
    for (const entry of listOf(list)) {
      for (const key of ['name', 'mimeType']) if (entry[key] !== undefined && typeof entry[key] !== 'string') delete entry[key];
      if (entry.uri !== undefined && typeof entry.uri !== 'string') throw bad('A file beside it is not named by text.');
    }
  }
}

function assertNodes(nodes: Record<string, unknown>[]) {
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((node, k) => {
    for (const key of ['matrix', 'translation', 'rotation', 'scale'] as const) {
      const numbers = node[key];
      if (numbers === undefined) continue;
      const length = { matrix: 16, translation: 3, rotation: 4, scale: 3 }[key];
      if (!Array.isArray(numbers) || numbers.length !== length || !numbers.every((x) => typeof x === 'number' && Number.isFinite(x)))
        throw bad(`Its ${key} is not made of ${length} numbers.`, `node ${k}`);
    }
    for (const child of Array.isArray(node.children) ? node.children : []) {
      const c = whole(child);
      if (c === null || c >= nodes.length) throw bad('It has a child that is not there.', `node ${k}`);
      if (parent[c] !== -1) throw bad('It stands under two other nodes.', `node ${c}`);
      parent[c] = k;
    }
  });
  // each has one parent at most: going up from any node either ends or goes round
  const seen = new Int32Array(nodes.length).fill(-1);
  for (let k = 0; k < nodes.length; k++) {
    for (let at = k; at !== -1; at = parent[at]!) {
      if (seen[at] === k) throw bad('Its nodes stand under one another in a circle.', `node ${at}`);
      if (seen[at] !== -1) break;
      seen[at] = k;
    }
  }
}

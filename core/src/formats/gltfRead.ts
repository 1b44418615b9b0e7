import {
  Logger,
  WebIO,
  type Document,
  type JSONDocument,
  type Material,
  type Mesh as GltfMesh,
  type Node as GltfNode,
  type Primitive,
  type Texture,
} from '@gltf-transform/core';
import { ALL_EXTENSIONS, type Transform } from '@gltf-transform/extensions';
import type { ImageRole, ImageUse } from '../images/imageSets.ts';
import { fromTextureTransform, isAsItLies, type ImagePlacement } from '../images/placement.ts';
import { DoubleList, IntList, latin1, utf8, utf8Mark } from './bytes.ts';
import { decodedUri, isGlb } from './gltfNames.ts';
import { decodersFor, isPacking } from './gltfDecoders.ts';
import { assertGltfSane } from './gltfLimits.ts';
import { TupleNumbers } from './tupleNumbers.ts';
import { JigError } from '../jigError.ts';
import type { Mesh } from '../mesh/mesh.ts';
import type { UvSet } from '../uv/uvSet.ts';

export interface GltfPart {
  name: string;
  mesh: Mesh;
  uvSets: UvSet[];
  meshIndex: number;
  facePrimitive: Uint32Array;
  cornerVertex: Uint32Array;
  /** The node mirrors: faces are wound the other way here than in the file, so that outside stays outside. */
  mirrored: boolean;
  /** The base colour image of its first material that has one, as a number into the file's images. */
  image: number | null;
  /** How it lies, where the file says so. */
  placement?: ImagePlacement;
}

export interface GltfImage {
  name: string;
  type: string;
  bytes: Uint8Array;
  /** What the file's materials say that it is of; absent where they say no more than a colour. */
  use?: ImageUse | null;
}

export interface GltfFile {
  parts: GltfPart[];
  skipped: string[];
  /** Images inside the file. */
  images: GltfImage[];
  /** The base colour image of each material that has one, by its name, as a number into the file's images. */
  pictures: { material: string; image: number; placement: ImagePlacement }[];
}

export const gltfIo = () => new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT)).registerExtensions(ALL_EXTENSIONS);

/** Opens the document. @param resources the other files beside a .gltf, by name */
export async function openGltf(bytes: Uint8Array, resources: ReadonlyMap<string, Uint8Array> = new Map()): Promise<Document> {
  try {
    const { json, binary } = isGlb(bytes) ? chunksOf(bytes) : { json: JSON.parse(utf8(bytes, utf8Mark(bytes))) as unknown, binary: null };
    const stated = (json as { asset?: { version?: unknown } } | null)?.asset?.version;
    if (!/^2\./.test(typeof stated === 'string' ? stated : ''))
      throw new JigError(
        'bad-file',
        `The file is ${typeof stated === 'string' ? `glTF ${stated.slice(0, 8)}` : 'of no version of glTF that it states'}; only glTF 2.0 can be read.`,
        '',
        'Export it again as glTF 2.0.',
      );
    const sound = json as JSONDocument['json'];
    const held = Object.create(null) as Record<string, Uint8Array<ArrayBuffer>>;
    let size = bytes.length;
    const missing = new Set<string>();
    const hold = (uri: string) => {
      const found = uri.startsWith('data:') ? fromDataUri(uri) : resources.get(decodedUri(uri));
      if (!found) missing.add(uri);
      else if (!held[uri]) {
        held[uri] = found as Uint8Array<ArrayBuffer>;
        size += found.length;
      }
    };
    assertGltfSane(json, Infinity);
    for (const entry of [...(sound.buffers ?? []), ...(sound.images ?? [])]) if (entry.uri) hold(entry.uri);
    if (missing.size > 0)
      throw new JigError(
        'bad-file',
        `The file needs ${[...missing]
          .slice(0, 5)
          .map((name) => `“${name.slice(0, 80)}”`)
          .join(', ')} beside it.`,
        '',
        'Drop these files together with it.',
      );
    if (binary) held['@glb.bin'] = binary;
    assertGltfSane(json, size);
    const document = await gltfIo()
      .registerDependencies(await decodersFor(sound))
      .readJSON({ json: sound, resources: held });
    // unpacked now, and written so
    for (const extension of document.getRoot().listExtensionsUsed()) if (isPacking(extension.extensionName)) extension.dispose();
    return document;
  } catch (error) {
    if (error instanceof JigError) throw error;
    const packed = /(KHR_draco_mesh|EXT_meshopt|KHR_meshopt)_compression/.exec(latin1(bytes, 0, Math.min(bytes.length, 1 << 20)))?.[0];
    const reason =
      error instanceof SyntaxError
        ? 'its JSON cannot be read'
        : error instanceof RangeError
          ? 'it is cut short'
          : packed
            ? `what is packed in it (${packed}) is damaged`
            : 'it is not built as glTF 2.0 asks';
    throw new JigError(
      'bad-file',
      `The glTF file cannot be opened: ${reason}.`,
      '',
      'Export it again as glTF 2.0, without compression where that still fails.',
    );
  }
}

/** JSON and binary chunk of a GLB (glTF 2.0, 4.4). */
function chunksOf(bytes: Uint8Array): { json: unknown; binary: Uint8Array<ArrayBuffer> | null } {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const container = bytes.length >= 8 ? view.getUint32(4, true) : 2;
  if (container === 1) throw new JigError('bad-file', 'The file is glTF 1.0; only glTF 2.0 can be read.', '', 'Export it again as glTF 2.0.');
  assertWhole(bytes);
  const length = bytes.length >= 20 ? view.getUint32(12, true) : 0;
  if (length === 0 || 20 + length > bytes.length || view.getUint32(16, true) !== 0x4e4f534a) throw new RangeError();
  const json = JSON.parse(utf8(bytes, 20, 20 + length)) as unknown;
  const at = 20 + length;
  if (at + 8 > bytes.length || view.getUint32(at + 4, true) !== 0x004e4942) return { json, binary: null };
  return { json, binary: bytes.slice(at + 8, Math.min(bytes.length, at + 8 + view.getUint32(at, true))) as Uint8Array<ArrayBuffer> };
}

function assertWhole(bytes: Uint8Array) {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const stated = bytes.length >= 12 ? view.getUint32(8, true) : Infinity;
  if (stated > bytes.length)
    throw new JigError(
      'bad-file',
      `The GLB file is cut short: it has ${bytes.length} of ${Number.isFinite(stated) ? stated : 'at least 12'} bytes.`,
      '',
      'Copy or export it again.',
    );
}

function fromDataUri(uri: string): Uint8Array<ArrayBuffer> {
  const comma = uri.indexOf(',');
  const body = decodedUri(uri.slice(comma + 1));
  if (!uri.slice(0, comma).endsWith(';base64')) return new TextEncoder().encode(body);
  const text = atob(body);
  return Uint8Array.from(text, (c) => c.charCodeAt(0));
}

/**
 * Reads glTF 2.0 (Khronos): one part a mesh, where its (first) node puts it, its primitives together, points at one place merged for editing; which vertex each corner was is
 * kept, so that everything else can be written back. v is turned to run up (glTF's runs down from the top left).
 * @throws JigError
 */
export async function readGltf(bytes: Uint8Array, resources: ReadonlyMap<string, Uint8Array> = new Map()): Promise<GltfFile> {
  const document = await openGltf(bytes, resources);
  const skipped: string[] = [];
  const parts: GltfPart[] = [];
  const nodes = new Map<GltfMesh, GltfNode[]>();
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh();
    if (mesh) nodes.set(mesh, [...(nodes.get(mesh) ?? []), node]);
  }
  document
    .getRoot()
    .listMeshes()
    .forEach((mesh, meshIndex) => {
      const [first, ...others] = nodes.get(mesh) ?? [];
      const part = readMesh(mesh, meshIndex, first?.getName() ?? '', skipped);
      if (!part) return;
      // a skinned mesh is placed by its bones, not by its node (glTF 2.0, 3.7.3.3)
      parts.push(first && !first.getSkin() ? placed(part, first.getWorldMatrix()) : part);
      if (others.length > 0)
        skipped.push(`${part.name} stands in ${others.length + 1} places; it is one part here, shown at the first, and all places share its UVs`);
    });
  if (parts.length === 0) throw new JigError('no-faces', 'The file has no triangles.', '', 'Export the model as a mesh.');
  const textures = document
    .getRoot()
    .listTextures()
    .filter((texture) => (texture.getImage()?.length ?? 0) > 0)
    .filter((texture) => {
      if (texture.getMimeType() !== 'image/ktx2') return true;
      skipped.push(
        `The picture “${texture.getName() || texture.getURI() || 'without a name'}” is packed as KTX2 with Basis Universal (KHR_texture_basisu), which cannot be read here; drop it as PNG or JPEG`,
      );
      return false;
    });
  const images: GltfImage[] = textures.map((texture, k) => ({
    name: texture.getName() || texture.getURI() || `image ${k + 1}`,
    type: texture.getMimeType(),
    bytes: texture.getImage()!,
  }));
  for (const [k, use] of usesOfTextures(document.getRoot().listMaterials(), textures)) images[k]!.use = use;
  const meshes = document.getRoot().listMeshes();
  const pictures: { material: string; image: number; placement: ImagePlacement }[] = [];
  for (const material of document.getRoot().listMaterials()) {
    const texture = material.getBaseColorTexture();
    if (texture && textures.includes(texture))
      pictures.push({ material: material.getName(), image: textures.indexOf(texture), placement: placementOf(material) });
  }
  for (const part of parts) {
    const shown = meshes[part.meshIndex]!.listPrimitives()
      .map((primitive) => primitive.getMaterial())
      .find((material) => material?.getBaseColorTexture() && textures.includes(material.getBaseColorTexture()!));
    if (!shown) continue;
    part.image = textures.indexOf(shown.getBaseColorTexture()!);
    const placement = placementOf(shown);
    if (!isAsItLies(placement)) part.placement = placement;
  }
  return { parts, skipped, images, pictures };
}

/**
 * Sets that the materials of a file make of their images: by the number of the image. One that several materials use is in the set of the first.
 */
function usesOfTextures(materials: readonly Material[], textures: readonly Texture[]): Map<number, ImageUse | null> {
  const uses = new Map<number, ImageUse | null>();
  for (const [m, material] of materials.entries()) {
    const set = material.getName().trim().slice(0, 200) || `material ${m + 1}`;
    const slots: [Texture | null, ImageRole | null][] = [
      [material.getBaseColorTexture(), 'colour'],
      [material.getNormalTexture(), 'normal'],
      // one image may be both, occlusion in its red
      [
        material.getMetallicRoughnessTexture(),
        material.getMetallicRoughnessTexture() === material.getOcclusionTexture() ? 'occlusion-roughness-metalness' : 'roughness-metalness',
      ],
      [material.getOcclusionTexture(), 'occlusion'],
      [material.getEmissiveTexture(), null],
    ];
    // a colour alone is known by its name, as any image is
    if (slots.filter(([texture, role]) => texture && role).length < 2 && !slots[4]![0]) continue;
    for (const [texture, role] of slots) {
      const k = texture ? textures.indexOf(texture) : -1;
      if (k >= 0 && !uses.has(k)) uses.set(k, role ? { set, role } : null);
    }
  }
  return uses;
}

/** How a material's base colour image is placed (KHR_texture_transform, the sampler's wrapping). */
function placementOf(material: Material): ImagePlacement {
  const info = material.getBaseColorTextureInfo();
  const transform = info?.getExtension<Transform>('KHR_texture_transform');
  const outside = (wrap: number | undefined) => (wrap === 33071 ? ('edge' as const) : wrap === 33648 ? ('mirror' as const) : ('repeat' as const));
  return fromTextureTransform(
    { offset: transform?.getOffset() ?? [0, 0], rotation: transform?.getRotation() ?? 0, scale: transform?.getScale() ?? [1, 1] },
    outside(info?.getWrapS()),
    outside(info?.getWrapT()),
  );
}

/**
 * The part where its node puts it. @param m column-major 4 × 4, as glTF has it. A mirroring one turns the faces over as glTF asks
 * (3.7.4: a negative determinant winds them the other way).
 */
function placed(part: GltfPart, m: readonly number[]): GltfPart {
  if (m.every((x, k) => x === (k % 5 === 0 ? 1 : 0))) return part;
  const { mesh } = part;
  const points = new Float64Array(mesh.points.length);
  for (let p = 0; p < points.length; p += 3) {
    const [x, y, z] = [mesh.points[p]!, mesh.points[p + 1]!, mesh.points[p + 2]!];
    for (let d = 0; d < 3; d++) {
      const value = m[d]! * x + m[4 + d]! * y + m[8 + d]! * z + m[12 + d]!;
      if (!Number.isFinite(value)) throw new JigError('bad-number', 'Its place in the scene is beyond all numbers.', part.name, 'Export the model again.');
      points[p + d] = value;
    }
  }
  const determinant = m[0]! * (m[5]! * m[10]! - m[6]! * m[9]!) - m[4]! * (m[1]! * m[10]! - m[2]! * m[9]!) + m[8]! * (m[1]! * m[6]! - m[2]! * m[5]!);
  const moved = { ...part, mesh: { ...mesh, points } };
  if (!(determinant < 0)) return moved;
  const turned = <A extends Uint32Array>(corners: A): A => corners.map((_, c) => corners[c % 3 === 0 ? c : c % 3 === 1 ? c + 1 : c - 1]!) as A;
  return {
    ...moved,
    mesh: { ...moved.mesh, corners: turned(mesh.corners) },
    uvSets: part.uvSets.map((set) => ({ ...set, cornerUv: turned(set.cornerUv) })),
    cornerVertex: turned(part.cornerVertex),
    mirrored: true,
  };
}

/** What the material of a mesh's nth primitive is called where it has no name. */
export const materialName = (p: number): string => `material ${p + 1}`;

function readMesh(mesh: GltfMesh, meshIndex: number, nodeName: string, skipped: string[]): GltfPart | null {
  const name = mesh.getName() || nodeName || `Part ${meshIndex + 1}`;
  const points = new DoubleList();
  const at = new TupleNumbers(3);
  const corners = new IntList();
  const faceMaterial: number[] = [];
  const facePrimitive: number[] = [];
  const cornerVertex = new IntList();
  const materials: string[] = [];
  const primitives = mesh.listPrimitives();
  const uvNames = new Set<string>();
  for (const primitive of primitives) for (const semantic of primitive.listSemantics()) if (semantic.startsWith('TEXCOORD_')) uvNames.add(semantic);
  const cornerPrimitive = new IntList();
  primitives.forEach((primitive, p) => {
    const indices = triangleIndices(primitive);
    const position = primitive.getAttribute('POSITION');
    if (!indices || !position) {
      skipped.push(`${name}: primitive ${p + 1} holds no triangles and was passed over`);
      return;
    }
    const material = primitive.getMaterial()?.getName() || (primitive.getMaterial() ? materialName(p) : '');
    let materialAt = -1;
    if (material) {
      materialAt = materials.indexOf(material);
      if (materialAt < 0) materialAt = materials.push(material) - 1;
    }
    const count = position.getCount();
    const merged = new Int32Array(count).fill(-1);
    const value = [0, 0, 0];
    for (const v of indices) {
      if (v >= count) throw new JigError('bad-index', `A triangle uses vertex ${v}, but there are ${count}.`, name, 'Export the model again.');
      if (merged[v]! >= 0) continue;
      position.getElement(v, value);
      if (!value.every(Number.isFinite)) throw new JigError('bad-number', 'A coordinate is not a number.', `${name}, vertex ${v}`, 'Export the model again.');
      const point = at.of(value);
      if (point * 3 === points.length) for (let k = 0; k < 3; k++) points.push(value[k]!);
      merged[v] = point;
    }
    for (let k = 0; k + 2 < indices.length; k += 3) {
      faceMaterial.push(materialAt);
      facePrimitive.push(p);
      for (let c = 0; c < 3; c++) {
        corners.push(merged[indices[k + c]!]!);
        cornerVertex.push(indices[k + c]!);
        cornerPrimitive.push(p);
      }
    }
  });
  const faces = facePrimitive.length;
  if (faces === 0) return null;
  const result: Mesh = {
    points: points.take(),
    faceStart: Uint32Array.from({ length: faces + 1 }, (_, f) => f * 3),
    corners: Uint32Array.from(corners.take()),
    faceGroup: new Int32Array(faces).fill(-1),
    groups: [],
    faceMaterial: Int32Array.from(faceMaterial),
    materials,
    faceSmooth: new Int32Array(faces).fill(-1),
  };
  const vertices = Uint32Array.from(cornerVertex.take());
  const uvSets = [...uvNames].sort().map((semantic, k) => readUvSet(result, primitives, semantic, `UV set ${k + 1}`, cornerPrimitive.take(), vertices));
  return { name, mesh: result, uvSets, meshIndex, facePrimitive: Uint32Array.from(facePrimitive), cornerVertex: vertices, mirrored: false, image: null };
}

function readUvSet(mesh: Mesh, primitives: Primitive[], semantic: string, name: string, cornerPrimitive: Int32Array, cornerVertex: Uint32Array): UvSet {
  const accessors = primitives.map((primitive) => primitive.getAttribute(semantic));
  const at = new TupleNumbers(3, mesh.corners.length / 4);
  const uv = new DoubleList();
  const cornerUv = new Uint32Array(mesh.corners.length);
  const key = [0, 0, 0];
  const unplaced = new Uint8Array(mesh.faceStart.length - 1);
  const value = [0, 0];
  for (let c = 0; c < cornerUv.length; c++) {
    const accessor = accessors[cornerPrimitive[c]!];
    if (accessor) {
      accessor.getElement(cornerVertex[c]!, value);
      if (!(Number.isFinite(value[0]) && Number.isFinite(value[1]))) value.fill(0);
    } else {
      value.fill(0);
      unplaced[Math.floor(c / 3)] = 1;
    }
    key[0] = mesh.corners[c]!;
    // no vertex has UVs as far off as that
    key[1] = accessor ? value[0]! : Infinity;
    key[2] = accessor ? value[1]! : Infinity;
    const id = at.of(key);
    if (id * 2 === uv.length) {
      uv.push(value[0]!);
      uv.push(accessor ? 1 - value[1]! : 0);
    }
    cornerUv[c] = id;
  }
  return { name, cornerUv, uv: uv.take(), unplaced, slits: new Uint32Array(0), pins: new Uint8Array(uv.length / 2) };
}

/** Vertex numbers of a primitive's triangles, strips and fans taken apart; null for points and lines. */
export function triangleIndices(primitive: Primitive): Uint32Array | null {
  const mode = primitive.getMode();
  const given = primitive.getIndices()?.getArray();
  const count = given ? given.length : (primitive.getAttribute('POSITION')?.getCount() ?? 0);
  const index = (k: number) => (given ? given[k]! : k);
  if (mode === 4) return Uint32Array.from({ length: count - (count % 3) }, (_, k) => index(k));
  if (mode !== 5 && mode !== 6) return null;
  const out: number[] = [];
  for (let k = 0; k + 2 < count; k++) {
    if (mode === 6) out.push(index(0), index(k + 1), index(k + 2));
    else if (k % 2 === 0) out.push(index(k), index(k + 1), index(k + 2));
    else out.push(index(k + 1), index(k), index(k + 2));
  }
  return Uint32Array.from(out);
}

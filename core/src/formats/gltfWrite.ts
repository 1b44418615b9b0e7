import { tileImages } from '../images/tileImages.ts';
import { Document, type Accessor, type Material, type Primitive, type Texture, type TextureInfo, type TypedArray } from '@gltf-transform/core';
import { KHRTextureTransform, type Transform } from '@gltf-transform/extensions';
import { isAsItLies, outsideNote, toTextureTransform, type Outside } from '../images/placement.ts';
import { contentHash } from '../images/contentHash.ts';
import { safeImageNames } from '../images/safeName.ts';
import { activeSet, type Job, type JobImage, type KeptFile, type Part } from '../job/job.ts';
import { materialPictures, type MaterialPicture } from '../job/materialPictures.ts';
import { wholeParts } from '../job/splitPart.ts';
import { texturesOfSet, type SetTextures, type SlotImage } from './setTextures.ts';
import { TupleNumbers } from './tupleNumbers.ts';
import { cornerNormals, usualNormals, type NormalChoice } from '../mesh/cornerNormals.ts';
import { trianglesOf } from '../mesh/triangles.ts';
import { JigError } from '../jigError.ts';
import { gltfIo, materialName, openGltf } from './gltfRead.ts';

export interface GlbWritten {
  bytes: Uint8Array;
  /** What could not be kept, in words. */
  notes: string[];
}

/** The kept glTF that these parts are written into, where all of them came from one; else ''. */
export function documentOf(parts: readonly Part[]): string {
  const origins = new Set(parts.map((part) => (part.origin.kind === 'gltf' ? part.origin.file : '')));
  return origins.size === 1 ? [...origins][0]! : '';
}

/**
 * Writes parts as GLB with all their UV sets. Parts that came from one glTF are written into that document: every vertex keeps its other
 * attributes, materials, nodes, skins and morph targets; only texture coordinates change, and vertices are split where seams need
 * it. Other parts become meshes of triangles.
 * An image of a part is written with its placement (KHR_texture_transform, the sampler's wrapping).
 * @param files the job's kept files (the original glTF among them)
 * @param normalChoice where the normals of parts that came from no glTF come from
 * @param layers of materials: a file may have given one a picture of its own
 */
export async function writeGlb(
  parts: readonly Part[],
  files: readonly KeptFile[],
  images: readonly JobImage[] = [],
  normalChoice: NormalChoice = usualNormals,
  layers?: Job['materialLayers'],
): Promise<GlbWritten> {
  const { document, notes } = await documentFor(wholeParts(parts), files, images, normalChoice, layers);
  return { bytes: await written(() => gltfIo().writeBinary(document)), notes };
}

/**
 * The same as .gltf: JSON, its buffer and its images as files beside it, by their names.
 * @param stem of the names
 */
export async function writeGltf(
  stem: string,
  parts: readonly Part[],
  files: readonly KeptFile[],
  images: readonly JobImage[] = [],
  normalChoice: NormalChoice = usualNormals,
  layers?: Job['materialLayers'],
): Promise<{ files: { name: string; bytes: Uint8Array }[]; notes: string[] }> {
  const { document, notes } = await documentFor(wholeParts(parts), files, images, normalChoice, layers);
  document.getRoot().listBuffers()[0]?.setURI(`${stem}.bin`);
  const textures = document.getRoot().listTextures();
  const named = textures.map((texture) => ({ name: texture.getURI() || texture.getName(), bytes: texture.getImage()! }));
  const safe = safeImageNames(named, [`${stem}.bin`, `${stem}.gltf`]);
  textures.forEach((texture, n) => texture.setURI(safe[n] ?? `image-${n + 1}.${texture.getMimeType().split('/')[1] ?? 'bin'}`));
  const { json, resources } = await written(() => gltfIo().writeJSON(document));
  const beside = Object.entries(resources).map(([name, bytes]) => ({ name, bytes }));
  return { files: [{ name: `${stem}.gltf`, bytes: new TextEncoder().encode(`${JSON.stringify(json)}\n`) }, ...beside], notes };
}

/** @throws JigError where the kept document cannot be written */
async function written<T>(write: () => Promise<T>): Promise<T> {
  try {
    return await write();
  } catch {
    throw new JigError('bad-file', 'What was kept of the original glTF cannot be written again: it is damaged.', '', 'Deliver as OBJ instead.');
  }
}

async function documentFor(
  parts: readonly Part[],
  files: readonly KeptFile[],
  images: readonly JobImage[],
  normalChoice: NormalChoice,
  layers: Job['materialLayers'],
): Promise<{ document: Document; notes: string[] }> {
  const notes: string[] = [];
  const only = documentOf(parts);
  let document: Document;
  if (only) {
    const file = files.find((kept) => kept.name === only);
    if (!file) throw new JigError('not-found', `The original file “${only}” is no longer in the job.`, '', 'Deliver as OBJ instead.');
    const resources = new Map(files.map((kept) => [kept.name, kept.bytes]));
    document = await openGltf(file.bytes, resources);
    for (const part of parts) replaceCoordinates(document, part, notes);
    const buffer = document.getRoot().listBuffers()[0] ?? document.createBuffer();
    for (const accessor of document.getRoot().listAccessors()) accessor.setBuffer(buffer);
    for (const spare of document.getRoot().listBuffers()) if (spare !== buffer) spare.dispose();
  } else {
    document = new Document();
    document.createBuffer();
    const scene = document.createScene('Scene');
    document.getRoot().setDefaultScene(scene);
    const materials = new Map<string, ReturnType<Document['createMaterial']>>();
    for (const part of parts) addPart(document, scene, part, materials, normalChoice);
    if (parts.some((part) => trianglesOf(part.mesh).count > part.mesh.faceStart.length - 1))
      notes.push('Polygons were written as triangles, as glTF asks for.');
  }
  const told = new Set<string>();
  const sets = new Map<string, SetTextures | null>();
  for (const part of parts) {
    const pictures = materialPictures(part, layers);
    for (const { imageId } of pictures) if (imageId !== null && !sets.has(imageId)) sets.set(imageId, await texturesOfSet(images, imageId, told));
    placeImagesOf(document, part, pictures, images, sets, notes);
  }
  notes.push(...told);
  for (const texture of document.getRoot().listTextures()) {
    if (texture.getImage()) continue;
    notes.push(`An image that the file names is not in it (“${texture.getName() || texture.getURI()}”); it was left out.`);
    texture.dispose();
  }
  document.getRoot().getAsset().generator = 'Jig Peel';
  return { document, notes };
}

const wraps: Record<Outside, 10497 | 33648 | 33071> = { repeat: 10497, mirror: 33648, edge: 33071, nothing: 33071 };

/**
 * The part's pictures on its materials, placed as they are in the job. A part from a glTF keeps the images that its own materials have, unless it was given another
 * one since.
 */
function placeImagesOf(
  document: Document,
  part: Part,
  pictures: readonly MaterialPicture[],
  images: readonly JobImage[],
  sets: ReadonlyMap<string, SetTextures | null>,
  notes: string[],
) {
  const meshes = document.getRoot().listMeshes();
  const fromGltf = part.origin.kind === 'gltf';
  const mesh = part.origin.kind === 'gltf' ? meshes[part.origin.meshIndex] : meshes.find((one) => one.getName() === (part.name || 'part'));
  const told = new Set<string>();
  const ofFile = new Set(fromGltf ? idsOfTextures(document) : []);
  const shownBy = fromGltf ? part.activeUv : placedSets(part).indexOf(activeSet(part));
  const setOnce = new Set<Material>();
  const replaced = new Set<Material>();
  for (const [p, primitive] of (mesh?.listPrimitives() ?? []).entries()) {
    let material = primitive.getMaterial();
    const name = material ? material.getName() || materialName(p) : null;
    const picture = pictures.find((one) => one.material === name);
    if (!picture || (material && setOnce.has(material))) continue;
    if (material) setOnce.add(material);
    const image = images.find(({ id }) => id === picture.imageId);
    const { placement } = picture;
    if (image && !ofFile.has(image.id)) {
      if ((tileImages(images, image.id)?.length ?? 0) > 1)
        told.add(`${picture.part}: glTF has no tiles; only the image “${image.name}” is in the file, the UVs lie in the tiles as they are.`);
      // a copy for this part: another one may use the material with another image
      if (material) replaced.add(material);
      material = (material?.clone() ?? document.createMaterial(`${picture.part} image`).setRoughnessFactor(0.8).setMetallicFactor(0)) as NonNullable<
        typeof material
      >;
      material.setBaseColorTexture(textureOf(document, image));
      material.getBaseColorTextureInfo()!.setTexCoord(Math.max(0, shownBy));
      primitive.setMaterial(material);
    }
    const own = material?.getBaseColorTextureInfo();
    if (!material || !own) continue;
    const isOfFile = image !== undefined && ofFile.has(image.id);
    // of a file's own images those that lay as its colour go along with it
    const along = isOfFile ? slotInfos(material).filter((info) => info.getTexCoord() === own.getTexCoord() && transformOf(info) === transformOf(own)) : [];
    const given = setOthers(document, material, (image && sets.get(image.id)) ?? null, isOfFile);
    for (const { info } of given) info.setTexCoord(own.getTexCoord());
    if (given.length > 0 && image) told.add(`${picture.part}: with “${image.name}” went ${given.map(({ name }) => `“${name}”`).join(', ')}, of the same set.`);
    const infos = new Set([own, ...along, ...given.map(({ info }) => info)]);
    if (!placement || isAsItLies(placement)) {
      // what the file said of it may have been written to the UVs since
      if (image) for (const info of infos) info.setExtension('KHR_texture_transform', null);
      if (placement && image) for (const info of infos) info.setWrapS(wraps.repeat).setWrapT(wraps.repeat);
      continue;
    }
    const transform = toTextureTransform(placement);
    for (const info of infos) {
      info.setWrapS(wraps[placement.outsideU]).setWrapT(wraps[placement.outsideV]);
      if (!transform) continue;
      info.setExtension(
        'KHR_texture_transform',
        document.createExtension(KHRTextureTransform).createTransform().setOffset(transform.offset).setRotation(transform.rotation).setScale(transform.scale),
      );
    }
    if (!transform) told.add(`${picture.part}: the image is turned and sized unevenly, which glTF cannot say; its placement was left out.`);
    const outside = outsideNote(placement, 'glTF');
    if (outside) told.add(`${picture.part}: ${outside}.`);
  }
  for (const material of replaced) dropUnused(material);
  notes.push(...told);
}

/** The image as one of the document's, there once. */
function textureOf(document: Document, image: SlotImage): Texture {
  const known = document
    .getRoot()
    .listTextures()
    .find((one) => one.getName() === image.name && one.getImage()?.length === image.bytes.length && contentHash(one.getImage()!) === contentHash(image.bytes));
  return (
    known ??
    document
      .createTexture(image.name)
      .setMimeType(image.type)
      .setImage(image.bytes as Uint8Array<ArrayBuffer>)
  );
}

/** The other images of a set on a material, where it has none of its own that is to stay. @returns their names, and how they are taken from their UVs */
function setOthers(document: Document, material: Material, set: SetTextures | null, keepsOwn: boolean): { name: string; info: TextureInfo }[] {
  const given: { name: string; info: TextureInfo }[] = [];
  const isFree = (there: Texture | null) => !keepsOwn || !there;
  if (set?.normal && isFree(material.getNormalTexture()))
    given.push({ name: set.normal.name, info: material.setNormalTexture(textureOf(document, set.normal)).getNormalTextureInfo()! });
  if (set?.occlusion && isFree(material.getOcclusionTexture()))
    given.push({ name: set.occlusion.name, info: material.setOcclusionTexture(textureOf(document, set.occlusion)).getOcclusionTextureInfo()! });
  if (set?.roughMetal && isFree(material.getMetallicRoughnessTexture())) {
    material.setMetallicRoughnessTexture(textureOf(document, set.roughMetal)).setMetallicFactor(set.hasMetalness ? 1 : 0);
    if (set.hasRoughness) material.setRoughnessFactor(1);
    given.push({ name: set.roughMetal.name, info: material.getMetallicRoughnessTextureInfo()! });
  }
  return given;
}

/** How each image of a material is taken from its UVs. */
const slotInfos = (material: Material): TextureInfo[] =>
  [
    material.getBaseColorTextureInfo(),
    material.getNormalTextureInfo(),
    material.getOcclusionTextureInfo(),
    material.getMetallicRoughnessTextureInfo(),
    material.getEmissiveTextureInfo(),
  ].filter((info) => info !== null);

const transformOf = (info: TextureInfo): string => {
  const transform = info.getExtension<Transform>('KHR_texture_transform');
  return JSON.stringify(transform ? [transform.getOffset(), transform.getRotation(), transform.getScale()] : null);
};

/** Takes a material that nothing uses any more out of its document, with the images that were its alone. */
function dropUnused(material: Material) {
  const isUnused = (one: Material | Texture) => one.listParents().every(({ propertyType }) => propertyType === 'Root');
  if (!isUnused(material)) return;
  const textures = [
    material.getBaseColorTexture(),
    material.getNormalTexture(),
    material.getOcclusionTexture(),
    material.getMetallicRoughnessTexture(),
    material.getEmissiveTexture(),
  ];
  material.dispose();
  for (const texture of new Set(textures)) if (texture && isUnused(texture)) texture.dispose();
}

/** UV sets that a new mesh gets, in their order. */
const placedSets = (part: Part) => part.uvSets.filter((set) => !set.unplaced.every((x) => x === 1));

/** The images of a document, by the ids that they have in a job. */
const idsOfTextures = (document: Document): string[] =>
  document
    .getRoot()
    .listTextures()
    .flatMap((texture) => {
      const bytes = texture.getImage();
      return bytes ? [`image-${contentHash(bytes).slice(0, 16)}`] : [];
    });

/** One vertex for each corner that differs in its original vertex or in any UV point. */
function replaceCoordinates(document: Document, part: Part, notes: string[]) {
  const origin = part.origin;
  if (origin.kind !== 'gltf') return;
  const mesh = document.getRoot().listMeshes()[origin.meshIndex];
  if (!mesh) throw new JigError('not-found', `Part “${part.name}” is not in the original file any more.`);
  mesh.listPrimitives().forEach((primitive, p) => {
    const corners: number[] = [];
    for (let f = 0; f < origin.facePrimitive.length; f++)
      if (origin.facePrimitive[f] === p) corners.push(f * 3, f * 3 + (origin.mirrored ? 2 : 1), f * 3 + (origin.mirrored ? 1 : 2));
    if (corners.length === 0) return;
    const vertices = new TupleNumbers(1 + part.uvSets.length, corners.length / 4);
    const source: number[] = [];
    const firstCorner: number[] = [];
    const indices = new Uint32Array(corners.length);
    corners.forEach((c, k) => {
      const v = vertices.of([origin.cornerVertex[c]!, ...part.uvSets.map((set) => set.cornerUv[c]!)]);
      if (v === source.length) {
        source.push(origin.cornerVertex[c]!);
        firstCorner.push(c);
      }
      indices[k] = v;
    });
    const gather = (accessor: Accessor): Accessor => {
      const size = accessor.getElementSize();
      const from = accessor.getArray()!;
      const to = new (from.constructor as new (n: number) => TypedArray)(source.length * size);
      source.forEach((v, k) => {
        for (let d = 0; d < size; d++) to[k * size + d] = from[v * size + d]!;
      });
      return document
        .createAccessor(accessor.getName())
        .setType(accessor.getType())
        .setNormalized(accessor.getNormalized())
        .setArray(to as never);
    };
    const setOfSemantic = part.uvSets.map((_, k) => `TEXCOORD_${k}`);
    for (const semantic of primitive.listSemantics()) {
      if (semantic.startsWith('TEXCOORD_') || semantic === 'TANGENT') {
        if (semantic === 'TANGENT') notes.push(`${part.name}: tangents were left out, since they follow from the UVs; viewers work them out again.`);
        primitive.setAttribute(semantic, null);
      } else primitive.setAttribute(semantic, gather(primitive.getAttribute(semantic)!));
    }
    part.uvSets.forEach((set, k) => {
      if (set.unplaced.every((x) => x === 1)) return;
      const uv = new Float32Array(source.length * 2);
      firstCorner.forEach((c, v) => {
        uv[v * 2] = set.uv[set.cornerUv[c]! * 2]!;
        uv[v * 2 + 1] = 1 - set.uv[set.cornerUv[c]! * 2 + 1]!;
      });
      assertHeld(uv, part);
      primitive.setAttribute(setOfSemantic[k]!, document.createAccessor().setType('VEC2').setArray(uv));
    });
    for (const target of primitive.listTargets())
      for (const semantic of target.listSemantics()) target.setAttribute(semantic, gather(target.getAttribute(semantic)!));
    primitive.setMode(4);
    primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(smallest(indices, source.length)));
  });
  pruneAccessors(document);
}

/** glTF holds numbers in 32 bits. */
function assertHeld(array: Float32Array, part: Part) {
  for (const x of array)
    if (!Number.isFinite(x))
      throw new JigError('bad-number', `“${part.name}” has points or UVs beyond what glTF can hold.`, '', 'Make it smaller, or deliver it as OBJ.');
}

function smallest(indices: Uint32Array, vertices: number): Uint16Array<ArrayBuffer> | Uint32Array<ArrayBuffer> {
  return vertices < 65535 ? Uint16Array.from(indices) : Uint32Array.from(indices);
}

function pruneAccessors(document: Document) {
  for (const accessor of document.getRoot().listAccessors()) {
    if (accessor.listParents().every((parent) => parent.propertyType === 'Root')) accessor.dispose();
  }
}

function addPart(
  document: Document,
  scene: ReturnType<Document['createScene']>,
  part: Part,
  materials: Map<string, ReturnType<Document['createMaterial']>>,
  choice: NormalChoice,
) {
  const { mesh } = part;
  const triangles = trianglesOf(mesh);
  const { normals, cornerNormal } = cornerNormals(mesh, choice);
  const out = document.createMesh(part.name || 'part');
  const byMaterial = new Map<number, number[]>();
  for (let t = 0; t < triangles.count; t++) {
    const material = mesh.faceMaterial[triangles.face[t]!]!;
    const list = byMaterial.get(material);
    if (list) list.push(t);
    else byMaterial.set(material, [t]);
  }
  const placed = placedSets(part);
  for (const [material, list] of byMaterial) {
    const primitive: Primitive = document.createPrimitive();
    const vertices = new TupleNumbers(2 + placed.length, list.length);
    const key = new Array<number>(2 + placed.length).fill(0);
    const corner: number[] = [];
    const indices = new Uint32Array(list.length * 3);
    list.forEach((t, k) => {
      for (let v = 0; v < 3; v++) {
        const c = triangles.corners[t * 3 + v]!;
        key[0] = mesh.corners[c]!;
        key[1] = cornerNormal[c]!;
        for (let s = 0; s < placed.length; s++) key[2 + s] = placed[s]!.cornerUv[c]!;
        const id = vertices.of(key);
        if (id === corner.length) corner.push(c);
        indices[k * 3 + v] = id;
      }
    });
    const fill = (size: number, at: (c: number, d: number) => number) => {
      const array = new Float32Array(corner.length * size);
      corner.forEach((c, v) => {
        for (let d = 0; d < size; d++) array[v * size + d] = at(c, d);
      });
      assertHeld(array, part);
      return document
        .createAccessor()
        .setType(size === 2 ? 'VEC2' : 'VEC3')
        .setArray(array);
    };
    primitive.setAttribute(
      'POSITION',
      fill(3, (c, d) => mesh.points[mesh.corners[c]! * 3 + d]!),
    );
    primitive.setAttribute(
      'NORMAL',
      fill(3, (c, d) => normals[cornerNormal[c]! * 3 + d]!),
    );
    if (mesh.pointColors)
      primitive.setAttribute(
        'COLOR_0',
        fill(3, (c, d) => Math.max(0, Math.min(1, mesh.pointColors![mesh.corners[c]! * 3 + d]!))),
      );
    placed.forEach((set, k) => {
      primitive.setAttribute(
        `TEXCOORD_${k}`,
        fill(2, (c, d) => (d === 0 ? set.uv[set.cornerUv[c]! * 2]! : 1 - set.uv[set.cornerUv[c]! * 2 + 1]!)),
      );
    });
    primitive.setIndices(document.createAccessor().setType('SCALAR').setArray(smallest(indices, corner.length)));
    const name = material >= 0 ? mesh.materials[material]! : '';
    if (name) {
      if (!materials.has(name)) materials.set(name, document.createMaterial(name).setRoughnessFactor(0.8).setMetallicFactor(0));
      primitive.setMaterial(materials.get(name)!);
    }
    out.addPrimitive(primitive);
  }
  const buffer = document.getRoot().listBuffers()[0]!;
  for (const accessor of document.getRoot().listAccessors()) accessor.setBuffer(buffer);
  scene.addChild(document.createNode(part.name || 'part').setMesh(out));
}

import type { DeliverKinds } from './delivery.ts';

/** No file at all. */
export const nothing: DeliverKinds = {
  obj: false,
  glb: false,
  gltf: false,
  ply: false,
  guidePng: false,
  guideSvg: false,
  guidePdf: false,
  images: false,
  report: false,
  archive: false,
  record: false,
};

import type { Job, NormalChoice, SmoothBorders } from '@jig-peel/core';
import type { DeliveredFile } from './messages.ts';

/** What can be written; each is ticked by itself. */
export interface DeliverKinds {
  obj: boolean;
  glb: boolean;
  gltf: boolean;
  ply: boolean;
  guidePng: boolean;
  guideSvg: boolean;
  guidePdf: boolean;
  /** The parts' pictures, baked ones among them. */
  images: boolean;
  report: boolean;
  archive: boolean;
  /** What was delivered, with figures and hashes. */
  record: boolean;
}

/** What a layout guide shows besides the islands. */
export interface GuideLook {
  notches: boolean;
  grid: boolean;
  /** Px. */
  bleed: number;
}

export interface DeliverChoice extends DeliverKinds {
  guideSize: string;
  guideLook: GuideLook;
  /** Parts by id; all if empty. */
  parts: string[];
  /** Where the normals of OBJ, GLB and glTF come from. */
  normals: NormalChoice;
  /** How many times the models are smoothed; 0: the cage as it is. */
  smoothing: number;
  smoothBorders: SmoothBorders;
  /** What layers show goes into model files as a picture that is baked for them. */
  bake: boolean;
  /** A version whose layout is delivered; empty: the layout of now. */
  version: string;
  /** Deliver though islands are not on the sheet. */
  asItIs: boolean;
}

export interface Delivered {
  files: DeliveredFile[];
  /** All of them as one: a zip, or the one there is. */
  bundle: DeliveredFile;
  notes: string[];
  /** Limits that are not kept, by sheet; null where it was not judged. */
  judged: { limits: number; missed: string[] } | null;
}

/** What is written by itself, beside the others. */
export type DeliverFormat = 'obj' | 'glb' | 'gltf' | 'ply' | 'guide' | 'images' | 'report' | 'archive';

export interface DeliverTask {
  job: Job;
  choice: DeliverChoice;
  format: DeliverFormat;
  /** Sentences of the steps, for an archive. */
  history: string[];
}

export interface DeliverPart {
  files: DeliveredFile[];
  notes: string[];
  /** Of `report`: what was judged, for the record. */
  judged?: { limits: number; missed: string[]; report: unknown };
}

import type { Job, NormalChoice } from '@jig-peel/core';
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

export interface Delivered {
  files: DeliveredFile[];
  /** All of them as one: a zip, or the one there is. */
  bundle: DeliveredFile;
  notes: string[];
}

/** What is written by itself, beside the others. */
export type DeliverFormat = 'obj' | 'glb' | 'ply' | 'guide' | 'archive';

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
}

import { z } from 'zod';
import { JigError } from '../jigError.ts';
import type { ImageUse } from '../images/imageSets.ts';
import type { ImagePlacement } from '../images/placement.ts';
import type { Layer } from '../images/surface/layer.ts';
import { gridKinds, gridSizes } from '../images/testGrid.ts';
import { purposes } from '../measure/judge.ts';
import { defaultLimits, limitsSchema } from '../measure/limitsSchema.ts';
import { viewingSides } from '../measure/seamSight.ts';
import { formKinds } from '../mesh/formKinds.ts';
import type { FormSpec } from '../mesh/makeForm.ts';
import type { Jig } from '../jigs/jig.ts';
import type { Mesh } from '../mesh/mesh.ts';
import { turnUp } from '../mesh/upAxis.ts';
import { packTurns } from '../pack/packing.ts';
import { elementKinds, type ElementKind } from '../select/convert.ts';
import { unwrapMethods } from '../unwrap/solveIsland.ts';
import { passRanks } from '../uv/ranks.ts';
import type { UvSet } from '../uv/uvSet.ts';
import { areViews, type SavedView } from './savedViews.ts';
import type { Sheet } from './sheet.ts';
import type { Version } from './versions.ts';

/** Where a part came from: what is needed to write it back as it was. */
export type Origin =
  | { kind: 'made' }
  | {
      kind: 'obj';
      /** The part's points as numbers of the file's `v` lines, where the file held several objects. */
      filePoints: Uint32Array | null;
      filePointCount: number;
      /** The UV array as read: while it is still in use, unused `vt` lines are kept too. */
      fileUv: Float64Array | null;
      /** The file's `vt` of each UV point of that, where islands that shared one got their own (see `withOwnPoints`). */
      vtOf?: Uint32Array;
    }
  | {
      kind: 'gltf';
      /** Which of the job's files, and which of its meshes. */
      file: string;
      meshIndex: number;
      /** The file's primitive of each face and vertex of each corner. */
      facePrimitive: Uint32Array;
      cornerVertex: Uint32Array;
      /** The node mirrors: faces are wound the other way in the file. */
      mirrored?: boolean;
    };

export interface Part {
  readonly id: string;
  readonly name: string;
  readonly mesh: Mesh;
  readonly uvSets: readonly UvSet[];
  /** The set being worked on. */
  readonly activeUv: number;
  /** The image shown on the part, by id; null for the test grid. */
  readonly imageId: string | null;
  /** How that image lies in the UVs; absent: it fills the UV square. */
  readonly placement?: ImagePlacement;
  /** Layers over that image, from the bottom to the top; absent: those of its materials, if they have any. */
  readonly layers?: readonly Layer[];
  /** What a starter form was made from, while it can be made again. */
  readonly form?: FormSpec & { readonly uvs: boolean };
  /** 1 for each face that is hidden; absent if none is. */
  readonly hidden?: Uint8Array;
  /** 1 for each face that is marked as done; absent if none is. */
  readonly done?: Uint8Array;
  /** Wishes for proposed seams, a face: 1 keep whole, 2 seams may go here, 3 looked at most; absent if there is none. */
  readonly seamMarks?: Uint8Array;
  /** Which way the picture is to run: 3 numbers a face (see `Grain`); absent if no face has a wish. */
  readonly grain?: Float64Array;
  /** The whole part is hidden. */
  readonly isHidden?: boolean;
  /** The sheet its islands are on, by id; absent: the first one; null: on none. */
  readonly sheet?: string | null;
  /** z is up in the file it came from: its mesh was turned to y up, and is turned back where it is written as it came. */
  readonly up?: 'z';
  readonly origin: Origin;
  /** It was split off a part, and goes into model files together with the rest of that (see `wholeParts`). */
  readonly piece?: PartPiece;
  /** Of a part that `wholeParts` put together for a file: what it is in the job. */
  readonly pieces?: readonly Part[];
}

/** Where a piece of a part was in the whole. */
export interface PartPiece {
  /** Shared by all pieces of one part. */
  readonly whole: string;
  /** Name and origin of the whole. */
  readonly name: string;
  readonly origin: Origin;
  readonly faceCount: number;
  readonly pointCount: number;
  /** Numbers in the whole of the piece's faces and points, in their order here. */
  readonly faces: Uint32Array;
  readonly points: Uint32Array;
}

/** A file kept with the job because writing needs it again (a glTF's bytes, an MTL's text). */
export interface KeptFile {
  readonly name: string;
  readonly bytes: Uint8Array;
}

export interface JobImage {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  readonly bytes: Uint8Array;
  /** Its set and its role in it, where that was said; null: it is in none. Absent: as its name says. */
  readonly use?: ImageUse | null;
}

/** What is selected: points, edges, faces or islands of the part at work, and of other parts on its sheet. */
export interface Selection {
  readonly part: string;
  readonly kind: SelectionKind;
  /** Rising numbers of the kind; islands as numbers of the present layout. */
  readonly ids: Uint32Array;
  /**
   * Of points and edges that were taken on the sheet: the corners that are meant, rising; their places on other sides of seams are not. An edge is meant by
   * the corner its half edge starts at. Absent: all places are meant.
   */
  readonly corners?: Uint32Array;
  /** What is selected of other parts: of the same kind. */
  readonly also?: readonly AlsoSelected[];
}

/** What is selected of a part beside the one at work, in the terms of `Selection`. */
export interface AlsoSelected {
  readonly part: string;
  readonly ids: Uint32Array;
  readonly corners?: Uint32Array;
}
export const selectionKinds = elementKinds;
export type SelectionKind = ElementKind;

/** A selection kept under a name. */
export interface SavedSelection extends Selection {
  readonly name: string;
}

export const jigStates = ['live', 'off', 'written'] as const;

/** Faces of one part that a jig drives, in the UV set of the given name. */
export interface JigDrive {
  readonly part: string;
  readonly set: string;
  readonly faces: Uint32Array;
}

/** A placed, named projection of the job. */
export interface JobJig {
  readonly id: string;
  readonly name: string;
  readonly jig: Jig;
  /** Live: goes on driving; off: set aside; written: its UVs stand in the set and are the set's own. */
  readonly state: (typeof jigStates)[number];
  readonly drives: readonly JigDrive[];
  /** It moves and grows with its part, or stands in space. */
  readonly belongs: 'part' | 'space';
}

/** Sizes and counts of a starter form, with what a new one begins with. */
export const formSchema = z.object({
  kind: z.enum(formKinds).default('box'),
  width: z.number().positive().max(1e6).default(1),
  height: z.number().positive().max(1e6).default(1),
  depth: z.number().positive().max(1e6).default(1),
  tube: z.number().positive().max(1e6).default(0.3),
  segments: z.number().int().min(1).max(2048).default(24),
  rows: z.number().int().min(1).max(2048).default(8),
  lids: z.boolean().default(true),
  uvs: z.boolean().default(true).describe('with starter UVs'),
});

/** What one unit may be; `unit`: not stated. */
export const unitNames = ['unit', 'mm', 'cm', 'm', 'in', 'ft'] as const;
export const settingsSchema = z.object({
  /** Sheet size in px. */
  width: z.number().int().min(16).max(16384).default(2048),
  height: z.number().int().min(16).max(16384).default(2048),
  /** Gap between islands and to the sheet's border, px. */
  margin: z.number().min(0).max(512).default(8),
  /** Gap to the sheet's border where it differs from the margin, px. */
  borderGap: z.number().min(0).max(512).nullable().default(null),
  turn: z.enum(packTurns).default('quarter'),
  /** Rounds that packing looks for a tighter layout. */
  effort: z.number().int().min(0).max(5).default(1),
  /** Islands whose heading nobody set are laid upright when packed. */
  upright: z.boolean().default(true),
  /** Islands that are pinned or done stay where they are when others are packed. */
  keepPinned: z.boolean().default(true),
  evenDensity: z.boolean().default(true),
  /** Unwrap touched islands as seams change. */
  live: z.boolean().default(true),
  method: z.enum(unwrapMethods).default('isometric'),
  /** Islands are kept from lying over themselves (least stretch). */
  apart: z.boolean().default(true),
  /** What is done to one island of a stack is done to the others. */
  stacksFollow: z.boolean().default(true),
  /** Cuts, pins and moves are mirrored across the part's middle on this axis. */
  mirror: z.enum(['off', 'x', 'y', 'z']).default('off'),
  /** Where parts are looked at from most: seams there count as seen, and proposals keep away from there. */
  seenFrom: z.enum(viewingSides).default('standing'),
  /** What the layout is for; its limits; from how far away it is seen, units. */
  purpose: z.enum(purposes).default('paintedFlat'),
  limits: limitsSchema.default(defaultLimits),
  distance: z.number().positive().max(1e9).nullable().default(null),
  /** Own views of the model, to come back to: where the eye looks, from how far, at which angles in radians (0 and 0 are the front). */
  views: z.custom<readonly SavedView[]>(areViews).default([]),
  /** The way that pictures with a grain run on the sheet. */
  grainAlong: z.enum(['u', 'v']).default('u'),
  /** Unwrapping by least stretch meets the grain: it bends what it has to. */
  holdGrain: z.boolean().default(false),
  /** What one unit of the model is. */
  unit: z.enum(unitNames).default('unit'),
  /** Repeats of the test grid across the sheet. */
  gridRepeat: z.number().min(0.25).max(64).default(2),
  /** What the test grid shows, and its size in px: a power of two. */
  gridKind: z.enum(gridKinds).default('letters'),
  /** Stretch counts the proportions and placement of the image on the part. */
  countImage: z.boolean().default(false),
  gridSize: z.union(gridSizes.map((size) => z.literal(size))).default(1024),
});
export type JobSettings = z.infer<typeof settingsSchema>;

/** One piece of work. Never changed in place: every operation gives a new one that shares what it did not touch. */
export interface Job {
  readonly id: string;
  readonly name: string;
  readonly parts: readonly Part[];
  /** The part being worked on. */
  readonly activePart: string;
  readonly files: readonly KeptFile[];
  readonly images: readonly JobImage[];
  readonly settings: JobSettings;
  /** Absent while there is one sheet, as the settings say (see `sheetsOf`). The settings' size and margin are those of the sheet at work. */
  readonly sheets?: readonly Sheet[];
  readonly selection: Selection;
  readonly savedSelections?: readonly SavedSelection[];
  /** Parts chosen as wholes, by id, in the order chosen. */
  readonly selectedParts?: readonly string[];
  readonly jigs?: readonly JobJig[];
  /** Layers of materials, for parts that have none of their own. */
  readonly materialLayers?: readonly { readonly material: string; readonly layers: readonly Layer[] }[];
  /** Layouts kept under names. */
  readonly versions?: readonly Version[];
  /** What was read, skipped and why. */
  readonly intake: readonly string[];
}

export const emptySelection = (part: string): Selection => ({ part, kind: 'edges', ids: new Uint32Array(0) });

/** A job with the given parts, everything else as it starts. */
export function newJob(id: string, name: string, parts: readonly Part[], extra: Partial<Pick<Job, 'files' | 'images' | 'intake'>> = {}): Job {
  const first = parts[0]?.id ?? '';
  return {
    id,
    name,
    parts,
    activePart: first,
    files: [],
    images: [],
    intake: [],
    settings: settingsSchema.parse({}),
    selection: emptySelection(first),
    ...extra,
  };
}

/** The part with the given id, or the active one. @throws JigError `not-found` for an id that no part has */
export function partOf(job: Job, id?: string): Part {
  const found = job.parts.find((part) => part.id === (id ?? job.activePart));
  if (!found && id !== undefined)
    throw new JigError(
      'not-found',
      `There is no part “${id}” in the job.`,
      '',
      `Use ${job.parts
        .map((part) => `“${part.id}”`)
        .slice(0, 8)
        .join(', ')}.`,
    );
  return found ?? job.parts[0]!;
}

export const activeSet = (part: Part): UvSet => part.uvSets[part.activeUv]!;

/** The part as its file has it: turned back where z is up there. */
export const asInFile = <P extends Pick<Part, 'mesh' | 'up'>>(part: P): P => (part.up === 'z' ? { ...part, mesh: turnUp(part.mesh, true) } : part);

/** The job with one part changed. */
export function withPart(job: Job, partId: string, change: (part: Part) => Part): Job {
  return { ...job, parts: job.parts.map((part) => (part.id === partId ? change(part) : part)) };
}

/** The job with one part's active UV set replaced. */
export function withSet(job: Job, partId: string, set: UvSet): Job {
  return withPart(job, partId, (part) => {
    passRanks(activeSet(part), set);
    return { ...part, uvSets: part.uvSets.map((old, k) => (k === part.activeUv ? set : old)) };
  });
}

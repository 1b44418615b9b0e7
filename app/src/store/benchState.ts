import type { GrainView } from '../session/grainView.ts';
import type { OperationName, ProposalReport, Region } from '@jig-peel/core';
import type { StateCreator } from 'zustand';
import type {
  ContextGeometry,
  Figures,
  FormLook,
  FormView,
  JobSummary,
  LayoutView,
  Measures,
  PackingView,
  PartGeometry,
  Progress,
  SheetPart,
  UnderPointer,
  WorkerEvent,
} from '../session/messages.ts';

export type StationName = 'intake' | 'jigs' | 'seams' | 'shape' | 'pack' | 'images' | 'check' | 'deliver';
/** Maps of stretch: how much larger or smaller, how much longer one way, and the energy that counts both. */
export const stretchMaps = ['size', 'shape', 'energy'] as const;
export type StretchMap = (typeof stretchMaps)[number];

export type Overlay = 'grid' | 'picture' | 'islands' | 'stretch' | 'density' | 'grain' | 'plain';
/** What a click takes: whole parts, or elements of the part at work. */
export const kinds = ['parts', 'islands', 'faces', 'edges', 'points'] as const;
export type Kind = (typeof kinds)[number];
export type ToolName = 'select' | 'pen' | 'relax' | 'push' | 'grain' | 'field' | 'pair' | 'area' | 'move' | 'turn' | 'size';

/** Texel density face by face, as the overlay shows it. */
export interface Density {
  layout: LayoutView;
  /** Px per unit; NaN without a place. */
  faces: Float32Array;
  /** Their middle value, which the scale's middle stands for. */
  middle: number;
  /** Whose px: the sheet's, or the image's as it lands. */
  of: 'sheet' | 'image';
}

export interface Hover {
  /** Where the pointer is. */
  view: 'model' | 'sheet';
  face: number;
  edge: number;
  point: number;
  island: number;
  /** In the sheet view: the corners that the edge (its half edge there starts at it) and the point were met at. */
  edgeCorner?: number;
  pointCorner?: number;
}

export interface Notice {
  id: number;
  text: string;
  severity: 'info' | 'success' | 'error' | 'warning';
  time: number;
  /** What can be done about it. */
  action?: { label: string; act: () => void };
  /** It was a step: what takes it back, or does it again. */
  takesBack?: 'undo' | 'redo';
}

/** How the views show things; kept for the session. */
export interface Look {
  light: 'room' | 'even' | 'lamp';
  /** Where the lamp stands as seen from the eye, degrees. */
  lampSide: number;
  lampHeight: number;
  /** How the selection is marked: by itself (see `fillsSelection`), always filled, or by its outline alone. */
  marking: 'auto' | 'fill' | 'outline';
  /** The far side of the model in a corner of the model view. */
  farSide: boolean;
  /** Other parts drawn faintly. */
  context: boolean;
  /** Lines along u and v on the model. */
  uvLines: boolean;
  /** UV values beside selected points. */
  values: boolean;
  /** Whether the model is looked at as it is, smoothed, with rounded edges, or with its relief as real height; the radius in hundredths of its size. */
  form: FormLook['form'];
  smoothing: number;
  /** How many times faces are divided to be raised. */
  raising: number;
  smoothBorders: FormLook['borders'];
  rounding: number;
  /** What lies under the islands on the sheet, and how strongly (0 … 1). */
  under: 'nothing' | 'grid' | 'picture';
  underOpacity: number;
  /** The channel of the picture that is shown. */
  channel: 'all' | 'red' | 'green' | 'blue' | 'alpha';
}

/** Limits of the selection by a rule or problem, as typed in. */
export interface Limits {
  /** Degrees: smooth run, flat region, same facing. */
  angle: number;
  /** Times: stretched. */
  stretch: number;
  /** Px: too close. Null: the margin. */
  gap: number | null;
  /** Degrees: turned. */
  turned: number;
  mirrorAxis: 'x' | 'y' | 'z';
  /** Units: mirror. Null: a thousandth of the size. */
  tolerance: number | null;
}

/** The mirror of the job, which itself lives in the core worker: what it tells, and nothing else. */
export interface DocumentSlice {
  summary: JobSummary | null;
  geometry: PartGeometry | null;
  layout: LayoutView | null;
  /** A serialized spatial index of the layout's triangles. */
  sheetIndex: ArrayBuffer | null;
  measures: Measures | null;
  /** Px per unit of each face of a layout, asked for while the overlay shows it. */
  density: Density | null;
  /** Strokes of the map of shape, for the layout that they were asked for. */
  strokes: { layout: LayoutView; marks: Float32Array } | null;
  /** What is told of the form that is looked at in place of the cage. */
  formShown: Pick<FormView, 'levels' | 'faces' | 'energy'> | null;
  /** It is being worked out, and has been for a moment. */
  isForming: boolean;
  /** The grain of the part at work, asked for while it is shown. */
  grain: (GrainView & { layout: LayoutView }) | null;
  measuring: boolean;
  progress: Progress | null;
  /** What a search for a tight layout has found so far. */
  packing: PackingView | null;
  savedAt: number | null;
  /** Steps since then are not kept in this browser, and why. */
  unsaved: { since: number; sentence: string } | null;
  /** Another tab works on the job: this one looks on. */
  looksOn: boolean;
  /** Other parts on the sheet, by id; some may have left it. */
  sheetParts: ReadonlyMap<string, SheetPart>;
  /** Other parts as they are drawn, by id. */
  contexts: ReadonlyMap<string, ContextGeometry>;
  figures: Figures | null;
  /** Their marks (see the worker), of the layout they were asked for on. */
  notchMarks: { layout: LayoutView; marks: Float32Array } | null;
  receive(event: WorkerEvent): void;
  /** Shows a selection before the worker has answered. */
  showSelection(selection: JobSummary['selection']): void;
}

/** How the job is looked at, and what is in hand: of this tab alone. */
export interface ViewSlice {
  /** The app cannot go on, and what to do. */
  broken: string | null;
  /** The dialog that is open; keys of the bench rest from the press that opens it on. */
  dialog: 'find' | 'keys' | 'form' | null;
  /** The step of the first walk through the demo job; null: none is taken. */
  walk: number | null;
  /** The operation whose parameters that form asks for. */
  form: OperationName | null;
  /** An edit meets live jigs: what it says, and how to go on. */
  liveAsked: { sentence: string; go(): void } | null;
  station: StationName;
  overlay: Overlay;
  /** Which of the maps the overlay of stretch shows. */
  stretchMap: StretchMap;
  kind: Kind;
  tool: ToolName;
  /** Fault shown over both views on top of the overlay. */
  fault: 'none' | 'flipped' | 'overlapping' | 'outside' | 'close';
  /** Faces of the part at work nearer to another island than the limit says, for `fault` close; of this layout alone. */
  closeFaces: { layout: LayoutView; faces: Uint32Array } | null;
  hover: Hover | null;
  /** The island of another part under the pointer; −1: not known yet. */
  hoverOther: { part: string; island: number } | null;
  /** How what is there of the kind at hand is drawn. */
  hoverMarks: UnderPointer | null;
  /** The part under the pointer, when parts are picked. */
  hoverPart: string | null;
  look: Look;
  limits: Limits;
  table: boolean;
  /** The overlay to come back to when the test grid goes off. */
  beforeGrid: Overlay;
  /** How a drag selects, and whether it takes what lies behind. */
  shape: 'box' | 'lasso' | 'brush';
  through: boolean;
  /** Brush radius, px. */
  brush: number;
  drawn: { view: 'model' | 'sheet'; region: Region } | null;
  /** Edges that the seam pen would cut if it were lifted now. */
  penEdges: Uint32Array;
  penUncuts: boolean;
  /** Proposed seams, measured, the best first; of the layout they were worked out on. */
  proposals: { list: ProposalReport[]; layout: LayoutView | null };
  /** Notches are drawn on the sheet. */
  notches: boolean;
  /** A pin on its way: the UV point and where it is now. */
  pinMoving: { point: number; u: number; v: number } | null;
  /** What a view shows large; both side by side otherwise. */
  filled: 'none' | 'model' | 'sheet';
  /** Bumped to ask the views to bring the selection (or everything) into view. */
  frameAsked: number;
  viewAsked: { name: string; at: number } | null;
  set(patch: Partial<Settable>): void;
  setLook(patch: Partial<Look>): void;
  setLimits(patch: Partial<Limits>): void;
  frame(): void;
  goTo(station: StationName): void;
}

/** What was said to the person at the bench. */
export interface NoticesSlice {
  notices: Notice[];
  notice(text: string, severity: Notice['severity'], action?: Notice['action'], takesBack?: Notice['takesBack']): void;
}

export interface BenchState extends DocumentSlice, ViewSlice, NoticesSlice {
  /** The job is left: nothing of it is shown any more. */
  leave(): void;
}

/** What `set` may change: the rest has ways of its own. */
type Settable = Pick<
  BenchState,
  | 'station'
  | 'overlay'
  | 'stretchMap'
  | 'strokes'
  | 'formShown'
  | 'isForming'
  | 'kind'
  | 'tool'
  | 'hover'
  | 'penEdges'
  | 'penUncuts'
  | 'proposals'
  | 'notches'
  | 'notchMarks'
  | 'pinMoving'
  | 'filled'
  | 'fault'
  | 'closeFaces'
  | 'viewAsked'
  | 'shape'
  | 'through'
  | 'brush'
  | 'drawn'
  | 'hoverPart'
  | 'hoverOther'
  | 'hoverMarks'
  | 'density'
  | 'grain'
  | 'table'
  | 'beforeGrid'
  | 'broken'
  | 'liveAsked'
  | 'dialog'
  | 'walk'
  | 'form'
>;

/** A part of the bench's state with the functions that change it. */
export type Slice<T> = StateCreator<BenchState, [], [], T>;

import type {
  GrainFigures,
  Box,
  ImagePlacement,
  CheckReport,
  IslandFacts,
  Jig,
  JobJig,
  JobSettings,
  Layer,
  ModelView,
  NamedImage,
  Part,
  Region,
  Selection,
  SelectionFigures,
  SelectionKind,
  Sheet,
  SheetView,
  SmoothBorders,
  LimitReport,
  PartFigures,
  Recipe,
  StateLine,
  Version,
  UpAxis,
  ProposalReport,
} from '@jig-peel/core';

import type { JigErrorCode } from '@jig-peel/core';
import type { Owner } from './ownership.ts';

export interface Progress {
  share: number;
  text: string;
  /** Of its work on the cancel board. */
  slot?: number;
}

/** What the screen needs to know of the job, small enough to send whole after each step. */
export interface JobSummary {
  id: string;
  name: string;
  activePart: string;
  parts: {
    id: string;
    name: string;
    faces: number;
    points: number;
    unplaced: number;
    uvSets: string[];
    activeUv: number;
    /** The sheet it is on, by id. */
    sheet: string | null;
    imageId: string | null;
    placement: ImagePlacement | null;
    /** Layers of its own over that image; null: it follows those of its materials. */
    layers: readonly Layer[] | null;
    /** UV units per unit of the model along u and v, area-weighted mean; null without UVs. Only of the active part, where it has an image. */
    uvPerUnit: number | null;
    hidden: Uint8Array | null;
    /** 1 for each face that is marked as done. */
    done: Uint8Array | null;
    /** Wishes for proposed seams, a face: 1 keep whole, 2 seams may go here. */
    seamMarks: Uint8Array | null;
    /** Its grain by number, another one for each that is drawn; 0: none. */
    grain: number;
    /** The whole part is hidden. */
    isHidden: boolean;
    /** It came from a glTF, which keeps the normals it has. */
    fromGltf: boolean;
    /** The name of the part that it was split off. */
    piece: string | null;
    /** Which axis is up in its file; here it is always y. */
    up: UpAxis;
    groups: readonly string[];
    materials: readonly string[];
    /** What a starter form was made from, while making it again loses nothing. */
    form: Part['form'] | null;
  }[];
  /** Of the active part: its size along x, y, z in units, and edges that are no plain ones. */
  active: { size: [number, number, number]; nonManifoldEdges: number; windingEdges: number; borderEdges: number };
  images: (NamedImage & { type: string; width: number; height: number; bytes: number })[];
  /** Images that material files name and the job has not. */
  missingImages: { library: string; names: readonly string[] }[];
  jigs: JigRow[];
  /** Whether the active part shows anything of its own: its picture, layers, those of its materials, decals of other parts. */
  showsPicture: boolean;
  materialLayers: readonly { readonly material: string; readonly layers: readonly Layer[] }[];
  /** Layouts kept under names, the oldest first. */
  versions: readonly Omit<Version, 'layouts'>[];
  /** Parts chosen as wholes. */
  selectedParts: readonly string[];
  settings: JobSettings;
  sheets: readonly Sheet[];
  /** Stacks of the sheet at work: their islands, and the box they share (left, bottom, right, top). */
  stacks: readonly { islands: readonly { part: string; island: number }[]; box: readonly [number, number, number, number] }[];
  alsoMarks: readonly AlsoMarks[];
  selection: Selection;
  /** Names of kept selections. */
  saved: string[];
  intake: readonly string[];
  /** `view`: it changed only what is selected or shown, and is not kept over a reload unless it is the newest. */
  history: { sentence: string; operation: string; time: number; view?: boolean }[];
  historyIndex: number;
}

/** A part's mesh, ready to draw and to pick. Sent once for each mesh. */
export interface PartGeometry {
  part: string;
  meshId: number;
  triangles: number;
  faces: number;
  /** 9 numbers a triangle each. */
  positions: Float32Array;
  normals: Float32Array;
  triFace: Uint32Array;
  /** Corner numbers, 3 a triangle. */
  triCorner: Uint32Array;
  points: Float32Array;
  corners: Uint32Array;
  faceStart: Uint32Array;
  cornerEdge: Uint32Array;
  edgePoints: Uint32Array;
  /** Corners of edge e: edgeCorners[edgeStart[e]] … */
  edgeStart: Uint32Array;
  edgeCorners: Uint32Array;
  bounds: [number, number, number, number, number, number];
  /** A serialized three-mesh-bvh over `positions`. */
  bvh: unknown;
}

/** Another part, drawn as mere context: only what is needed to draw and to pick it. */
export interface ContextGeometry {
  part: string;
  /** 9 numbers a triangle each; hidden faces are left out. */
  positions: Float32Array;
  normals: Float32Array;
  bounds: [number, number, number, number, number, number];
  bvh: unknown;
}

/** Another part on the sheet of the one at work: what is needed to draw its islands there and to pick them. Of what has a place and is not hidden. */
export interface SheetPart {
  part: string;
  /** 2 numbers a corner of the mesh. */
  cornerUv: Float32Array;
  /** 3 corners a triangle, and its island. */
  triCorner: Uint32Array;
  triIsland: Uint32Array;
  /** Half edges at borders and seams: the corners at both ends, and the island. */
  border: Uint32Array;
  borderIsland: Uint32Array;
  islands: IslandView[];
  /** A serialized spatial index of the triangles. */
  index: ArrayBuffer;
}

/** What is selected of a part beside the one at work, as the views draw it. */
export interface AlsoMarks {
  part: string;
  kind: SelectionKind;
  /** On the sheet, by corners of the mesh: those of points and faces, of edges the ends of each half edge. None for islands, which are drawn by number. */
  corners: Uint32Array;
  /** On the model: 3 numbers a point, else 6 a line: edges, or the outlines of faces and islands. */
  model: Float32Array;
}

/** Where the pointer is on another part than the one at work. */
export interface BesideAt {
  part: string;
  kind: SelectionKind;
  view: RegionView;
  /** Px from the view's top left. */
  x: number;
  y: number;
  /** In the model view: the triangle there, counted among those that are shown. */
  triangle: number;
  /** On the sheet: a corner of the face there. */
  corner: number;
}

/** What of it is there, and how that is drawn. */
export interface UnderPointer {
  part: string;
  island: number;
  /** Of a point its place, else lines: 3 numbers a place; none where nothing of the kind is near. */
  model: Float32Array;
  /** Corners: of a point one, else the ends of each half edge. */
  sheet: Uint32Array;
}

/** What a hand on the sheet moves of one part, by corners of its mesh. */
export interface GripView {
  part: string;
  corners: Uint32Array;
  /** How far each goes along, 0 … 1; null: all of them whole. */
  share: Float32Array | null;
  /** Its group, of which each has a box of its own. */
  group: Uint32Array;
  boxes: Box[];
  uvPoints: number;
}

export interface IslandView extends IslandFacts {
  letter: string;
  /** It waits in the tray beside the sheet. */
  waits: boolean;
  /** A place well inside of it, for its letter: not the middle of its box. */
  u: number;
  v: number;
  /** Its box on the sheet. */
  left: number;
  bottom: number;
  width: number;
  height: number;
  /** Packing leaves it where it is. */
  locked?: boolean;
  /** The block that it is kept together with when it is packed. */
  block?: number;
}

/** A part's layout, ready to draw. Sent after each step that changes it. */
export interface LayoutView {
  part: string;
  meshId: number;
  /** 2 numbers a corner. */
  cornerUv: Float32Array;
  faceIsland: Int32Array;
  unplaced: Uint8Array;
  edgeStates: Uint8Array;
  islands: IslandView[];
  /** Of each face, as `faceMaps` says: how much larger the picture is than in its island's mean, and how much longer one way than across it; log₂. */
  faceSize: Float32Array;
  faceShape: Float32Array;
  anyUnplaced: boolean;
  allUnplaced: boolean;
  /** Pinned UV points, and a corner of each. */
  pins: { point: number; corner: number }[];
  /** Edges that are to be straight, by the two corners of a face: 2 numbers an edge. */
  straight: Uint32Array;
  /** Edges that keep their length, likewise. */
  kept: Uint32Array;
}

export interface Measures {
  part: string;
  /** Of all islands on the sheet of the part, whichever part they are of. */
  report: CheckReport;
  /** Of the part alone. */
  own: CheckReport;
  /** The state of the UVs in words. */
  state: StateLine[];
  flipped: Uint8Array;
  overlapping: Uint8Array;
  outside: Uint8Array;
  /** What limits are judged by: overlaps and islands outside that are meant count as none. */
  judged: LimitReport;
  /** Of the parts on the sheet and their pictures: off the grain where that is most, jumps at seams over all. */
  ofParts: PartFigures;
  /** Some of it repeats its image by design. */
  repeats: boolean;
  /** Faces that lie over others and are not meant to. */
  overlapFaults: number;
  /** Letters of islands off the sheet, and of those that wait in the tray. */
  outsideIslands: string[];
  waitingIslands: string[];
  /** How far pictures run off the grain of the part; null: it has none. */
  grain: GrainFigures | null;
}

/** A recipe and what each of its steps is called. */
export interface RecipeView {
  recipe: Recipe;
  labels: string[];
}

/** Where things are in a view at the moment of a drag. */
export type RegionView =
  /** `beside`: other parts that are shown there, too. */
  ({ view: 'model'; beside?: string[] } & ModelView) | ({ view: 'sheet' } & SheetView);

/** UVs as a jig would make them, ready to draw. */
export interface UvPreview {
  meshId: number;
  /** 2 numbers a corner of each triangle. */
  uvAt: Float32Array;
  /** 3 numbers a corner of the mesh: its place on the sheet. */
  flat: Float32Array;
  unplaced: Uint8Array;
  /** Other parts on the sheet that would have other UVs: 2 numbers a corner of their meshes. */
  beside?: { part: string; places: Float32Array }[];
  /** Of each face its island and stretch, where a layout is shown that has others than the present one. */
  faces?: Pick<LayoutView, 'faceIsland' | 'faceSize' | 'faceShape'>;
}

/** How the form of the part at work is looked at; what is worked on and delivered stays the cage. */
export interface FormLook {
  form: 'cage' | 'smoothed' | 'rounded' | 'raised';
  /** Smoothed and raised: how many times each face is divided. */
  levels: number;
  /** Smoothed: what becomes of island borders on the sheet. */
  borders: SmoothBorders;
  /** Rounded: units. */
  radius: number;
}

/** A form that is looked at in place of the cage. */
export interface FormView {
  meshId: number;
  /** As often as its size allowed. */
  levels: number;
  triangles: number;
  faces: number;
  /** 9 numbers a triangle each. */
  positions: Float32Array;
  normals: Float32Array;
  /** 2 numbers a corner of each triangle. */
  uvAt: Float32Array;
  /** Faces of the cage. */
  triFace: Uint32Array;
  /** Smoothed and raised: corners of the divided mesh, of which each corner of the cage has 4^levels in order. Rounded: corners of the cage. */
  triCorner: Uint32Array;
  /** Rounded: 1 for the place inside of the face, and where that is (see `roundedEdges`). */
  inner: Uint8Array | null;
  shares: Float32Array | null;
  /** Raised: from each place to where it was, and which way the surface looked there; 9 numbers a triangle each. */
  flat: { sunk: Float32Array; normals: Float32Array } | null;
  /** Smoothed and raised: the cage's edges on the form, 2^levels pieces each, 6 numbers a piece. */
  edges: Float32Array | null;
  /** Smoothed and raised: the cage's points on the form. */
  points: Float32Array | null;
  /** Smoothed and raised: a serialized three-mesh-bvh over `positions`; null where they are the cage's. */
  bvh: unknown;
  /** Stretch of islands, each at its own scale: of the cage, and of the form. */
  energy: { cage: number | null; form: number | null } | null;
}

/** A jig of the job, as the screen needs it. */
export interface JigRow {
  id: string;
  name: string;
  jig: Jig;
  state: JobJig['state'];
  belongs: JobJig['belongs'];
  /** The state in words. */
  words: string;
  drives: { part: string; set: string; faces: number }[];
}

/** A drawn region and what becomes of what lies in it. */
export interface RegionTake {
  region: Region;
  kind: SelectionKind;
  /** Also what is behind other faces. */
  through: boolean;
  mode: 'set' | 'add' | 'take';
  /** Elements that the brush passed right over, however small the brush. */
  touched: number[];
}

/** Of what is selected of the part at work. */
export interface Figures extends SelectionFigures {
  /** Of selected points: how many UV points they have that are meant. */
  uvPoints: number | null;
}

/** What the worker tells by itself. */
export type WorkerEvent =
  /** What differs from what was told before; all of it where another job was opened. */
  | { kind: 'summary'; changed: SummaryChange; whole: boolean }
  | { kind: 'geometry'; geometry: PartGeometry }
  | { kind: 'layout'; layout: LayoutView; live: boolean }
  | { kind: 'context'; geometry: ContextGeometry }
  | { kind: 'sheetPart'; view: SheetPart }
  | { kind: 'figures'; figures: Figures | null }
  | { kind: 'measures'; measures: Measures | null }
  | { kind: 'index'; part: string; data: ArrayBuffer }
  | { kind: 'progress'; progress: Progress | null }
  /** What a search for a tight layout has found so far; null when it is over. */
  | { kind: 'packing'; packing: PackingView | null }
  /** One of the ways in which seams were to be worked out, of the layout that there is. */
  | { kind: 'proposal'; report: ProposalReport }
  | { kind: 'saved'; time: number }
  /** Steps since then are not kept in this browser; it is tried again. */
  | { kind: 'unsaved'; since: number; sentence: string }
  /** The room in this browser is nearly used up, bytes. */
  | { kind: 'room'; used: number; quota: number }
  /** Who writes the job, and how that came about. */
  | { kind: 'owner'; owner: Owner; how: 'got' | 'taken' | 'stolen' | 'busy' }
  | { kind: 'trouble'; sentence: string }
  | { kind: 'note'; sentence: string };

/** The best layout that a search has found so far. */
export interface PackingView {
  /** Border lines of each island, UV, 2 numbers a point. */
  outlines: Float32Array[][];
  /** Share of the sheet. */
  coverage: number;
  trace: { seconds: number; coverage: number }[];
}

export interface DeliveredFile {
  name: string;
  type: string;
  bytes: Uint8Array;
  /** What was compared after reading it back, or what it is. */
  proof: string;
}

/** Why something was not done: what the core says, and what only a session knows. */
export type RefusalCode =
  | JigErrorCode
  /** Faces are driven by live jigs. */
  | 'live-jigs'
  /** Islands would be missing from what is delivered. */
  | 'left-out'
  | 'internal';

export interface Done<R> {
  ok: true;
  sentence: string;
  report: R;
  /** What would take back what was done; absent where the history got no step. */
  takesBack?: 'undo' | 'redo';
  /** The sentence is a warning: done, but something came of it that wants a look. */
  warns?: boolean;
  /** Milliseconds in the session: the operation itself, and getting it ready to draw. */
  timings?: { run: number; show: number };
}

export interface Refused {
  ok: false;
  sentence: string;
  code: RefusalCode;
  /** With `left-out`: what is missing in words, and the parts it is missing of. */
  leftOut?: { words: string[]; parts: string[] };
}

/** What became of what was asked for. */
export type Outcome<R = unknown> = Done<R> | Refused;

/** A report as it can be sent: functions that write files stay behind. */
export type Sent<R> = { [K in keyof R as R[K] extends (...given: never[]) => unknown ? never : K]: R[K] };

/** The steps that follow the first `kept` ones, and where among all of them one stands. */
export interface HistoryChange {
  kept: number;
  added: JobSummary['history'];
}

export type SummaryChange = Partial<Omit<JobSummary, 'history'>> & { history?: HistoryChange };

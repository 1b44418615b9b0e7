import { create } from 'zustand';
import type { ProposalReport, Region, SelectionFigures, SelectionKind } from '@jig-peel/core';
import type { ContextGeometry, JobSummary, LayoutView, Measures, PartGeometry, Progress, WorkerEvent } from '../worker/messages.ts';

export type StationName = 'intake' | 'jigs' | 'seams' | 'pack' | 'deliver';
export type Overlay = 'grid' | 'picture' | 'islands' | 'stretch' | 'density' | 'plain';
/** What a click takes: whole parts, or elements of the part at work. */
export type Kind = 'parts' | SelectionKind;
export type ToolName = 'select' | 'pen' | 'relax';

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
}

export interface Notice {
  id: number;
  text: string;
  severity: 'info' | 'success' | 'error' | 'warning';
  time: number;
  /** What can be done about it. */
  action?: { label: string; act: () => void };
}

/** How the views show things; kept for the session. */
export interface Look {
  light: 'room' | 'even' | 'lamp';
  /** Where the lamp stands as seen from the eye, degrees. */
  lampSide: number;
  lampHeight: number;
  /** Selection marked by its outline alone. */
  outlineOnly: boolean;
  /** The far side of the model in a corner of the model view. */
  farSide: boolean;
  /** Other parts drawn faintly. */
  context: boolean;
  /** UV values beside selected points. */
  values: boolean;
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

export interface BenchState {
  summary: JobSummary | null;
  geometry: PartGeometry | null;
  layout: LayoutView | null;
  /** A serialized spatial index of the layout's triangles. */
  sheetIndex: ArrayBuffer | null;
  measures: Measures | null;
  /** Px per unit of each face of a layout, asked for while the overlay shows it. */
  density: Density | null;
  measuring: boolean;
  progress: Progress | null;
  savedAt: number | null;
  station: StationName;
  overlay: Overlay;
  kind: Kind;
  tool: ToolName;
  /** Fault shown over both views on top of the overlay. */
  fault: 'none' | 'flipped' | 'overlapping' | 'outside';
  hover: Hover | null;
  /** Other parts as they are drawn, by id. */
  contexts: ReadonlyMap<string, ContextGeometry>;
  /** The part under the pointer, when parts are picked. */
  hoverPart: string | null;
  figures: SelectionFigures | null;
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
  /** Their marks (see the worker), of the layout they were asked for on. */
  notchMarks: { layout: LayoutView; marks: Float32Array } | null;
  /** A pin on its way: the UV point and where it is now. */
  pinMoving: { point: number; u: number; v: number } | null;
  /** What a view shows large; both side by side otherwise. */
  filled: 'none' | 'model' | 'sheet';
  notices: Notice[];
  /** Bumped to ask the views to bring the selection (or everything) into view. */
  frameAsked: number;
  viewAsked: { name: string; at: number } | null;
  receive(event: WorkerEvent): void;
  /** Shows a selection before the worker has answered. */
  showSelection(selection: JobSummary['selection']): void;
  notice(text: string, severity: Notice['severity'], action?: Notice['action']): void;
  set(
    patch: Partial<
      Pick<
        BenchState,
        | 'station'
        | 'overlay'
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
        | 'viewAsked'
        | 'shape'
        | 'through'
        | 'brush'
        | 'drawn'
        | 'hoverPart'
        | 'density'
        | 'table'
        | 'beforeGrid'
      >
    >,
  ): void;
  setLook(patch: Partial<Look>): void;
  setLimits(patch: Partial<Limits>): void;
  frame(): void;
  goTo(station: StationName): void;
  leave(): void;
}

/** The active part's own picture, else the test grid. */
export const pictureOf = (summary: JobSummary | null): Overlay => (summary?.parts.find((part) => part.id === summary.activePart)?.imageId ? 'picture' : 'grid');

/** The first overlay of each station. */
const firstOverlay: Record<StationName, Overlay> = { intake: 'grid', jigs: 'grid', seams: 'islands', pack: 'islands', deliver: 'grid' };

const empty = {
  summary: null,
  geometry: null,
  layout: null,
  sheetIndex: null,
  measures: null,
  density: null,
  measuring: false,
  progress: null,
  savedAt: null,
  hover: null,
  penEdges: new Uint32Array(0),
  penUncuts: false,
  proposals: { list: [], layout: null },
  pinMoving: null,
  notchMarks: null,
  fault: 'none' as const,
  drawn: null,
  contexts: new Map<string, ContextGeometry>(),
  hoverPart: null,
  figures: null,
  table: false,
};

let noticeCounter = 0;

/** What the bench shows: the mirror of the job, and how it is looked at. The job itself lives in the core worker. */
export const useBench = create<BenchState>((set) => ({
  ...empty,
  station: 'seams',
  overlay: 'grid',
  kind: 'edges',
  tool: 'select',
  shape: 'box',
  through: false,
  brush: 24,
  notches: false,
  filled: 'none',
  notices: [],
  frameAsked: 0,
  viewAsked: null,
  beforeGrid: 'plain',
  look: {
    light: 'room',
    lampSide: 50,
    lampHeight: 25,
    outlineOnly: false,
    farSide: false,
    context: true,
    values: true,
    under: 'nothing',
    underOpacity: 0.4,
    channel: 'all',
  },
  limits: { angle: 30, stretch: 1.5, gap: null, turned: 45, mirrorAxis: 'x', tolerance: null },

  receive: (event) => {
    switch (event.kind) {
      case 'summary':
        return set((s) => {
          const { summary } = event;
          const chosen = s.summary && s.summary.selection !== summary.selection && summary.selection.ids.length > 0 && s.kind !== 'parts';
          // another part comes with its own picture, where a picture is what is looked at
          const other = s.summary !== null && s.summary.activePart !== summary.activePart;
          const own = pictureOf(summary);
          const first = s.summary === null;
          const overlay = first
            ? s.layout?.allUnplaced
              ? 'plain'
              : own
            : s.overlay === 'picture' && own === 'grid'
              ? 'grid'
              : other && s.overlay === 'grid'
                ? own
                : s.overlay;
          return { summary, overlay, kind: chosen ? summary.selection.kind : s.kind };
        });
      case 'geometry':
        return set((s) => ({
          geometry: event.geometry,
          layout: null,
          sheetIndex: null,
          measures: null,
          hover: null,
          // a part picked in the view is in sight already: nothing jumps
          frameAsked: s.geometry && s.kind === 'parts' ? s.frameAsked : s.frameAsked + 1,
        }));
      case 'layout':
        return set({ layout: event.layout, sheetIndex: null, measuring: true });
      case 'index':
        return set((s) => (s.layout?.part === event.part ? { sheetIndex: event.data } : {}));
      case 'context':
        return set((s) => ({ contexts: new Map(s.contexts).set(event.geometry.part, event.geometry) }));
      case 'figures':
        return set({ figures: event.figures });
      case 'measures':
        return set({ measures: event.measures, measuring: false });
      case 'progress':
        return set({ progress: event.progress });
      case 'saved':
        return set({ savedAt: event.time });
      case 'trouble':
        return set((s) => ({
          measuring: false,
          notices: [...s.notices, { id: ++noticeCounter, text: event.sentence, severity: 'error' as const, time: Date.now() }].slice(-50),
        }));
    }
  },

  notice: (text, severity, action) => set((s) => ({ notices: [...s.notices, { id: ++noticeCounter, text, severity, time: Date.now(), action }].slice(-50) })),
  showSelection: (selection) => set((s) => (s.summary ? { summary: { ...s.summary, selection } } : {})),
  set: (patch) => set(patch),
  setLook: (patch) => set((s) => ({ look: { ...s.look, ...patch } })),
  setLimits: (patch) => set((s) => ({ limits: { ...s.limits, ...patch } })),
  frame: () => set((s) => ({ frameAsked: s.frameAsked + 1 })),
  goTo: (station) =>
    set((s) => {
      const first = s.layout?.allUnplaced && (station === 'intake' || station === 'jigs') ? 'plain' : firstOverlay[station];
      return { station, overlay: first === 'grid' ? pictureOf(s.summary) : first, tool: 'select' };
    }),
  leave: () => set({ ...empty, tool: 'select' }),
}));

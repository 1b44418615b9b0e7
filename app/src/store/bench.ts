import { create } from 'zustand';
import type { SelectionKind } from '@jig-peel/core';
import type { Region } from '../bench/views/regionMask.ts';
import type { JobSummary, LayoutView, Measures, PartGeometry, Progress, WorkerEvent } from '../worker/messages.ts';

export type StationName = 'intake' | 'seams' | 'pack' | 'deliver';
export type Overlay = 'grid' | 'islands' | 'stretch' | 'plain';
export type ToolName = 'select' | 'pen';

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
}

export interface BenchState {
  summary: JobSummary | null;
  geometry: PartGeometry | null;
  layout: LayoutView | null;
  /** A serialized spatial index of the layout's triangles. */
  sheetIndex: ArrayBuffer | null;
  measures: Measures | null;
  measuring: boolean;
  progress: Progress | null;
  savedAt: number | null;
  station: StationName;
  overlay: Overlay;
  kind: SelectionKind;
  tool: ToolName;
  /** Fault shown over both views on top of the overlay. */
  fault: 'none' | 'flipped' | 'overlapping' | 'outside';
  hover: Hover | null;
  /** How a drag selects, and whether it takes what lies behind. */
  shape: 'box' | 'lasso' | 'brush';
  through: boolean;
  /** Brush radius, px. */
  brush: number;
  drawn: { view: 'model' | 'sheet'; region: Region } | null;
  /** Edges that the seam pen would cut if it were lifted now. */
  penEdges: Uint32Array;
  penUncuts: boolean;
  /** What a view shows large; both side by side otherwise. */
  filled: 'none' | 'model' | 'sheet';
  notices: Notice[];
  /** Bumped to ask the views to bring the selection (or everything) into view. */
  frameAsked: number;
  viewAsked: { name: string; at: number } | null;
  receive(event: WorkerEvent): void;
  /** Shows a selection before the worker has answered. */
  showSelection(selection: JobSummary['selection']): void;
  notice(text: string, severity: Notice['severity']): void;
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
        | 'filled'
        | 'fault'
        | 'viewAsked'
        | 'shape'
        | 'through'
        | 'brush'
        | 'drawn'
      >
    >,
  ): void;
  frame(): void;
  goTo(station: StationName): void;
  leave(): void;
}

/** The first overlay of each station. */
const firstOverlay: Record<StationName, Overlay> = { intake: 'grid', seams: 'islands', pack: 'islands', deliver: 'grid' };

const empty = {
  summary: null,
  geometry: null,
  layout: null,
  sheetIndex: null,
  measures: null,
  measuring: false,
  progress: null,
  savedAt: null,
  hover: null,
  penEdges: new Uint32Array(0),
  penUncuts: false,
  fault: 'none' as const,
  drawn: null,
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
  filled: 'none',
  notices: [],
  frameAsked: 0,
  viewAsked: null,

  receive: (event) => {
    switch (event.kind) {
      case 'summary':
        return set((s) => ({
          summary: event.summary,
          kind: s.summary && s.summary.selection !== event.summary.selection && event.summary.selection.ids.length > 0 ? event.summary.selection.kind : s.kind,
        }));
      case 'geometry':
        return set((s) => ({ geometry: event.geometry, layout: null, sheetIndex: null, measures: null, hover: null, frameAsked: s.frameAsked + 1 }));
      case 'layout':
        return set({ layout: event.layout, sheetIndex: null, measuring: true });
      case 'index':
        return set((s) => (s.layout?.part === event.part ? { sheetIndex: event.data } : {}));
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

  notice: (text, severity) => set((s) => ({ notices: [...s.notices, { id: ++noticeCounter, text, severity, time: Date.now() }].slice(-50) })),
  showSelection: (selection) => set((s) => (s.summary ? { summary: { ...s.summary, selection } } : {})),
  set: (patch) => set(patch),
  frame: () => set((s) => ({ frameAsked: s.frameAsked + 1 })),
  goTo: (station) => set((s) => ({ station, overlay: s.layout?.allUnplaced && station === 'intake' ? 'plain' : firstOverlay[station], tool: 'select' })),
  leave: () => set({ ...empty, tool: 'select' }),
}));

import { create } from 'zustand';
import type { ProposalReport, Region, SelectionFigures } from '@jig-peel/core';
import type { Progress as WorkProgress } from '../session/messages.ts';
import type { ContextGeometry, JobSummary, LayoutView, Measures, PartGeometry, SummaryChange, WorkerEvent } from '../session/messages.ts';

export type StationName = 'intake' | 'jigs' | 'seams' | 'pack' | 'deliver';
export type Overlay = 'grid' | 'picture' | 'islands' | 'stretch' | 'density' | 'plain';
/** What a click takes: whole parts, or elements of the part at work. */
export const kinds = ['parts', 'islands', 'faces', 'edges', 'points'] as const;
export type Kind = (typeof kinds)[number];
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
  progress: WorkProgress | null;
  savedAt: number | null;
  /** Steps since then are not kept in this browser, and why. */
  unsaved: { since: number; sentence: string } | null;
  /** Another tab works on the job: this one looks on. */
  looksOn: boolean;
  /** The app cannot go on, and what to do. */
  broken: string | null;
  /** Points that were clicked on the sheet, and on which islands, while these are what is selected. */
  onIslands: { layout: LayoutView; points: Uint32Array; islands: number[] } | null;
  /** The dialog that is open; keys of the bench rest from the press that opens it on. */
  dialog: 'find' | 'keys' | null;
  /** An edit meets live jigs: what it says, and how to go on. */
  liveAsked: { sentence: string; go(): void } | null;
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
  notice(text: string, severity: Notice['severity'], action?: Notice['action'], takesBack?: Notice['takesBack']): void;
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
        | 'broken'
        | 'liveAsked'
        | 'dialog'
        | 'onIslands'
      >
    >,
  ): void;
  setLook(patch: Partial<Look>): void;
  setLimits(patch: Partial<Limits>): void;
  frame(): void;
  goTo(station: StationName): void;
  leave(): void;
}

/** Is the selection filled, or outlined alone? By itself it is filled on the bare form only, so that grid, picture and colours can be seen. */
export const fillsSelection = ({ look, overlay }: Pick<BenchState, 'look' | 'overlay'>) =>
  look.marking === 'auto' ? overlay === 'plain' : look.marking === 'fill';

/** Islands on which the selected points are meant: those clicked on the sheet; undefined for all that have them. */
export function islandsMeant({ onIslands, layout, summary }: Pick<BenchState, 'onIslands' | 'layout' | 'summary'>): number[] | undefined {
  const ids = summary?.selection.kind === 'points' ? summary.selection.ids : null;
  if (!onIslands || onIslands.layout !== layout || !ids || ids.length !== onIslands.points.length) return undefined;
  return ids.every((id, k) => id === onIslands.points[k]) ? onIslands.islands : undefined;
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
  unsaved: null,
  looksOn: false,
  liveAsked: null,
  onIslands: null,
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

/** The kind that a click takes, by job: it outlives a reload, like the selection itself. */
const kindKey = (job: string) => `jig-peel-kind/${job}`;
function keptKind({ id, selection, selectedParts }: JobSummary): Kind {
  const kept = globalThis.sessionStorage?.getItem(kindKey(id));
  if (kept !== null && kept !== undefined && (kinds as readonly string[]).includes(kept)) return kept as Kind;
  return selection.ids.length > 0 ? selection.kind : selectedParts.length > 0 ? 'parts' : 'edges';
}

/** A summary with what was told to be different. */
function changedSummary(before: JobSummary | null, { history, ...changed }: SummaryChange): JobSummary {
  const steps = before?.history ?? [];
  return { ...before, ...changed, history: history ? [...steps.slice(0, history.kept), ...history.added] : steps } as JobSummary;
}

let noticeCounter = 0;
/** The notices with one more, the newest fifty. */
const added = (notices: Notice[], text: string, severity: Notice['severity'], action?: Notice['action'], takesBack?: Notice['takesBack']): Notice[] =>
  [...notices, { id: ++noticeCounter, text, severity, time: Date.now(), action, takesBack }].slice(-50);
const inGb = (bytes: number) => (bytes / 2 ** 30).toFixed(bytes < 2 ** 30 ? 2 : 1);

/** What the bench shows: the mirror of the job, and how it is looked at. The job itself lives in the core worker. */
export const useBench = create<BenchState>((set) => ({
  ...empty,
  station: 'seams',
  overlay: 'grid',
  kind: 'edges',
  tool: 'select',
  dialog: null,
  shape: 'box',
  through: false,
  brush: 24,
  notches: false,
  filled: 'none',
  notices: [],
  broken: null,
  frameAsked: 0,
  viewAsked: null,
  beforeGrid: 'plain',
  look: {
    light: 'room',
    lampSide: 50,
    lampHeight: 25,
    marking: 'auto',
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
          const summary = changedSummary(event.whole ? null : s.summary, event.changed);
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
          // a reload goes on with the kind that was selected last
          const kept = first ? keptKind(summary) : s.kind;
          return { summary, overlay, kind: chosen ? summary.selection.kind : kept };
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
        return set({ savedAt: event.time, unsaved: null });
      case 'unsaved':
        return set({ unsaved: { since: event.since, sentence: event.sentence } });
      case 'room':
        return set((s) => ({
          notices: added(
            s.notices,
            `The room that this browser gives to jobs is nearly used up: ${inGb(event.used)} of ${inGb(event.quota)} GB. Empty the bin on the jobs page, or save old jobs as archives and delete them.`,
            'warning',
          ),
        }));
      case 'owner':
        return set((s) => ({
          looksOn: event.owner === 'others',
          notices:
            event.how === 'stolen'
              ? added(s.notices, 'Another tab has taken this job over. What was done here is kept; here it can be looked at.', 'warning')
              : event.how === 'got' && s.looksOn
                ? added(s.notices, 'The other tab has let go of this job: it can be worked on here now.', 'info')
                : s.notices,
        }));
      case 'note':
        return set((s) => ({ notices: added(s.notices, event.sentence, 'info') }));
      case 'trouble':
        return set((s) => ({ measuring: false, notices: added(s.notices, event.sentence, 'error') }));
    }
  },

  notice: (text, severity, action, takesBack) => set((s) => ({ notices: added(s.notices, text, severity, action, takesBack) })),
  showSelection: (selection) => set((s) => (s.summary ? { summary: { ...s.summary, selection } } : {})),
  set: (patch) =>
    set((s) => {
      if (patch.kind && s.summary) globalThis.sessionStorage?.setItem(kindKey(s.summary.id), patch.kind);
      return patch;
    }),
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

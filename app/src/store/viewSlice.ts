import { selectedCount } from '@jig-peel/core';
import type { JobSummary } from '../session/messages.ts';
import { kinds, type Kind, type Overlay, type Slice, type StationName, type ViewSlice } from './benchState.ts';

/** Whether the part at work shows a picture of its own or layers. */
export const hasPicture = (summary: Pick<JobSummary, 'showsPicture'> | null): boolean => summary?.showsPicture ?? false;

/** The active part's own picture, else the test grid. */
export const pictureOf = (summary: JobSummary | null): Overlay => (hasPicture(summary) ? 'picture' : 'grid');

/** The first overlay of each station. */
const firstOverlay: Record<StationName, Overlay> = {
  intake: 'grid',
  jigs: 'grid',
  seams: 'islands',
  shape: 'grid',
  pack: 'islands',
  images: 'grid',
  check: 'stretch',
  deliver: 'grid',
};

/** The kind that a click takes, by job: it outlives a reload, like the selection itself. */
const kindKey = (job: string) => `jig-peel-kind/${job}`;
export function keptKind({ id, selection, selectedParts }: JobSummary): Kind {
  const kept = globalThis.sessionStorage?.getItem(kindKey(id));
  if (kept !== null && kept !== undefined && (kinds as readonly string[]).includes(kept)) return kept as Kind;
  return selectedCount(selection) > 0 ? selection.kind : selectedParts.length > 0 ? 'parts' : 'edges';
}

/** With nothing in hand. */
export const nothingInHand = {
  liveAsked: null,
  hover: null,
  penEdges: new Uint32Array(0),
  penUncuts: false,
  proposals: { list: [], layout: null },
  pinMoving: null,
  fault: 'none' as const,
  closeFaces: null,
  drawn: null,
  hoverPart: null,
  hoverOther: null,
  hoverMarks: null,
  table: false,
};

export const viewSlice: Slice<ViewSlice> = (set) => ({
  ...nothingInHand,
  station: 'seams',
  overlay: 'grid',
  stretchMap: 'size',
  kind: 'edges',
  tool: 'select',
  dialog: null,
  walk: null,
  form: null,
  shape: 'box',
  through: false,
  brush: 24,
  notches: false,
  filled: 'none',
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
    uvLines: false,
    values: true,
    form: 'cage',
    smoothing: 2,
    raising: 4,
    smoothBorders: 'smoothed',
    rounding: 1,
    under: 'nothing',
    underOpacity: 0.4,
    channel: 'all',
  },
  limits: { angle: 30, stretch: 1.5, gap: null, turned: 45, mirrorAxis: 'x', tolerance: null },

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
      return {
        station,
        overlay: first === 'grid' ? pictureOf(s.summary) : first,
        tool: station === 'shape' ? 'move' : 'select',
        ...(station === 'shape' && s.summary && selectedCount(s.summary.selection) === 0 ? { kind: 'islands' as const } : {}),
      };
    }),
});

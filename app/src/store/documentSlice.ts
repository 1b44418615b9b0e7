import { selectedCount } from '@jig-peel/core';
import type { ContextGeometry, JobSummary, SheetPart, SummaryChange } from '../session/messages.ts';
import type { DocumentSlice, Slice } from './benchState.ts';
import { withNotice } from './noticesSlice.ts';
import { keptKind, pictureOf } from './viewSlice.ts';

/** Without a job. */
export const noDocument = {
  summary: null,
  geometry: null,
  layout: null,
  sheetIndex: null,
  measures: null,
  density: null,
  strokes: null,
  formShown: null,
  isForming: false,
  grain: null,
  measuring: false,
  progress: null,
  packing: null,
  savedAt: null,
  unsaved: null,
  looksOn: false,
  contexts: new Map<string, ContextGeometry>(),
  sheetParts: new Map<string, SheetPart>(),
  figures: null,
  notchMarks: null,
};

/** A summary with what was told to be different. */
function changedSummary(before: JobSummary | null, { history, ...changed }: SummaryChange): JobSummary {
  const steps = before?.history ?? [];
  return { ...before, ...changed, history: history ? [...steps.slice(0, history.kept), ...history.added] : steps } as JobSummary;
}

const inGb = (bytes: number) => (bytes / 2 ** 30).toFixed(bytes < 2 ** 30 ? 2 : 1);

export const documentSlice: Slice<DocumentSlice> = (set) => ({
  ...noDocument,
  receive: (event) => {
    switch (event.kind) {
      case 'summary':
        return set((s) => {
          const summary = changedSummary(event.whole ? null : s.summary, event.changed);
          const chosen = s.summary && s.summary.selection !== summary.selection && selectedCount(summary.selection) > 0 && s.kind !== 'parts';
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
          // a part picked in a view is in sight already: nothing jumps
          frameAsked: s.geometry && (s.kind === 'parts' || s.hoverOther?.part === event.geometry.part) ? s.frameAsked : s.frameAsked + 1,
        }));
      case 'layout':
        return set({ layout: event.layout, sheetIndex: null, measuring: true });
      case 'index':
        return set((s) => (s.layout?.part === event.part ? { sheetIndex: event.data } : {}));
      case 'context':
        return set((s) => ({ contexts: new Map(s.contexts).set(event.geometry.part, event.geometry) }));
      case 'sheetPart':
        return set((s) => ({ sheetParts: new Map(s.sheetParts).set(event.view.part, event.view) }));
      case 'figures':
        return set({ figures: event.figures });
      case 'measures':
        return set({ measures: event.measures, measuring: false });
      case 'packing':
        return set({ packing: event.packing });
      case 'proposal':
        return set((s) => ({ proposals: { list: [...s.proposals.list, event.report], layout: s.layout } }));
      case 'progress':
        return set({ progress: event.progress });
      case 'saved':
        return set({ savedAt: event.time, unsaved: null });
      case 'unsaved':
        return set({ unsaved: { since: event.since, sentence: event.sentence } });
      case 'room':
        return set((s) => ({
          notices: withNotice(
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
              ? withNotice(s.notices, 'Another tab has taken this job over. What was done here is kept; here it can be looked at.', 'warning')
              : event.how === 'got' && s.looksOn
                ? withNotice(s.notices, 'The other tab has let go of this job: it can be worked on here now.', 'info')
                : s.notices,
        }));
      case 'note':
        return set((s) => ({ notices: withNotice(s.notices, event.sentence, 'info') }));
      case 'trouble':
        return set((s) => ({ measuring: false, notices: withNotice(s.notices, event.sentence, 'error') }));
    }
  },

  showSelection: (selection) => set((s) => (s.summary ? { summary: { ...s.summary, selection } } : {})),
});

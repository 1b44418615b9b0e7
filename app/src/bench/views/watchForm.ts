import { LatestOnly } from '../../session/latestOnly.ts';
import type { FormLook, FormView, LayoutView } from '../../session/messages.ts';
import { useBench, type BenchState } from '../../store/bench.ts';
import { coreApi } from '../../worker/client.ts';
import { hasRelief, layersOfOthers } from '../surfaceLayers.ts';
import { FormMesh } from './layers/formMesh.ts';
import type { Stage } from './stage.ts';

/** What the form that is looked at depends on. */
interface Asked {
  look: FormLook;
  layout: LayoutView;
}

/** What a raised form depends on beside the layout. */
const reliefOf = (state: BenchState): unknown[] => {
  const { summary } = state;
  const part = summary?.parts.find(({ id }) => id === summary.activePart);
  return [part?.layers, summary?.materialLayers, summary?.jigs, summary?.images, ...layersOfOthers(state)];
};

/** How the form is to be looked at, in units of the part at work. */
export function formLook({ look, geometry }: Pick<BenchState, 'look' | 'geometry'>): FormLook {
  const [x0, y0, z0, x1, y1, z1] = geometry?.bounds ?? [0, 0, 0, 0, 0, 0];
  return {
    form: look.form,
    levels: look.form === 'raised' ? look.raising : look.smoothing,
    borders: look.smoothBorders,
    radius: (look.rounding / 100) * Math.hypot(x1 - x0, y1 - y0, z1 - z0),
  };
}

/** Shows the part at work smoothed, with rounded edges or raised by its relief, and follows its layout a moment later. @returns back to the cage */
export function watchForm(stage: Stage): () => void {
  const take = (view: FormView | null, { look, layout }: Asked) => {
    const now = useBench.getState();
    if (!view || now.layout?.meshId !== layout.meshId || now.look.form !== look.form) return;
    stage.setForm(view.meshId, (cage, scene) => new FormMesh(view, cage, scene));
    stage.paint(now);
    now.set({ formShown: { levels: view.levels, faces: view.faces, energy: view.energy } });
  };
  const forms = new LatestOnly<Asked, FormView | null>(
    async ({ look }) => {
      const { set } = useBench.getState();
      const timer = setTimeout(() => set({ isForming: true }), 250);
      try {
        return await coreApi().form(look);
      } finally {
        clearTimeout(timer);
        set({ isForming: false });
      }
    },
    take,
    (error) => {
      const { notice, setLook } = useBench.getState();
      notice(`The form cannot be shown: ${(error as Error).message}`, 'error');
      setLook({ form: 'cage' });
    },
  );
  let shown = '';
  let layoutShown: LayoutView | null = null;
  let reliefShown: unknown[] = [];
  const follow = (state: BenchState) => {
    const { layout, geometry } = state;
    if (!layout || !geometry || geometry.meshId !== layout.meshId) return;
    const look = formLook(state);
    const key = JSON.stringify(look);
    // ended by its caller
    if (look.form === 'raised' && !hasRelief(state)) {
      state.setLook({ form: 'cage' });
      state.notice('No layer of this part goes to relief: the cage is shown.', 'info');
      return;
    }
    const relief = look.form === 'raised' ? reliefOf(state) : [];
    if (look.form === 'cage' || (key === shown && layout === layoutShown && relief.every((one, k) => one === reliefShown[k]))) return;
    reliefShown = relief;
    shown = key;
    layoutShown = layout;
    forms.ask({ look, layout });
  };
  follow(useBench.getState());
  const stop = useBench.subscribe((state, before) => {
    if (state.layout !== before.layout || state.look !== before.look || state.geometry !== before.geometry || state.summary !== before.summary) follow(state);
  });
  return () => {
    stop();
    forms.drop();
    const { layout, set } = useBench.getState();
    if (layout) stage.setForm(layout.meshId, null);
    stage.paint(useBench.getState());
    set({ formShown: null });
  };
}

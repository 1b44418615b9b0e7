import { create } from 'zustand';
import type { Outcome } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { coreApi, notify, outcomeOf, run, step } from '../../worker/client.ts';
import { nextFrame } from '../views/takePicture.ts';

interface Taken {
  /** What became of the faces. */
  words: string;
  /** Both views before, and with the newer mesh. */
  before: ImageBitmap[];
  after: ImageBitmap[];
}

/** The newer mesh that is being looked at; where only points moved there is nothing to look at first. */
export const useTaken = create<{ taken: Taken | null }>(() => ({ taken: null }));

/**
 * Takes a newer mesh of the part at work from files; the faces that need work are selected, and brought into view. Where only points moved, unwrapping those whose
 * shape changed is offered; else it is looked at beside what was, at Intake.
 */
export async function takeNewer(files: readonly File[]): Promise<void> {
  const given = await Promise.all(files.map(async (file) => ({ name: file.name, bytes: new Uint8Array(await file.arrayBuffer()) })));
  const before = await nextFrame().catch(() => []);
  useBench.getState().set({ kind: 'faces' });
  const outcome = await step('newerMesh', () => coreApi().newerMesh(given) as unknown as Promise<Outcome<{ work: Uint32Array; onlyMoved: boolean }>>, true);
  if (!outcome.ok) return;
  await coreApi().idle();
  const { work, onlyMoved } = outcome.report;
  if (work.length > 0) useBench.getState().frame();
  if (onlyMoved && work.length > 0 && !useBench.getState().layout?.allUnplaced)
    useBench.getState().notice(`${work.length === 1 ? 'One face is' : `${work.length.toLocaleString('en')} faces are`} of another shape now`, 'info', {
      label: 'Unwrap the changed',
      act: () => void unwrapSelected(),
    });
  if (onlyMoved) return;
  const after = await nextFrame().catch(() => []);
  if (before.length === 0 || after.length === 0) return;
  useBench.getState().goTo('intake');
  useTaken.setState({ taken: { words: outcome.sentence, before, after } });
}

/** The islands that the selected faces are of, laid flat where they are. */
async function unwrapSelected(): Promise<void> {
  const outcome = await run('selectBy', { way: 'convert', kind: 'islands' });
  const { summary } = useBench.getState();
  if (outcome.ok && summary) await run('unwrap', { islands: [...summary.selection.ids], method: summary.settings.method }, true);
}

/** The newer mesh is left: everything is as it was before it came. */
export async function leaveNewer(): Promise<void> {
  notify(await outcomeOf(coreApi().leaveNewerMesh()), true);
}

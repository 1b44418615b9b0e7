import type { Outcome } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { coreApi, run, step } from '../../worker/client.ts';
import { nextFrame } from '../views/takePicture.ts';

/** As far as browsers have it (File System Access). */
interface FileHandle {
  name: string;
  getFile(): Promise<File>;
  requestPermission?(options: { mode: 'read' }): Promise<string>;
}
type Picker = (options: { multiple: boolean; id: string }) => Promise<FileHandle[]>;
const picker = () => (globalThis as { showOpenFilePicker?: Picker }).showOpenFilePicker;

/** Can this browser keep a way to a file, to see when it changes? */
export const keepsFiles = (): boolean => picker() !== undefined;

/** The files that a part's mesh was taken from last, and when they were changed then. */
interface Watched {
  job: string;
  part: string;
  handles: FileHandle[];
  changed: number;
}
let watched: Watched[] = [];

export interface Taken {
  onlyMoved: boolean;
  words: string;
  before: ImageBitmap[];
  after: ImageBitmap[];
}

/**
 * Takes a newer mesh of the part at work from files; the faces that need work are selected, and brought into view.
 * @returns what it was and is, to be looked at; null where nothing was done
 */
export async function takeNewer(files: readonly File[]): Promise<Taken | null> {
  const given = await Promise.all(files.map(async (file) => ({ name: file.name, bytes: new Uint8Array(await file.arrayBuffer()) })));
  const before = await nextFrame().catch(() => []);
  useBench.getState().set({ kind: 'faces' });
  const outcome = await step('newerMesh', () => coreApi().newerMesh(given) as unknown as Promise<Outcome<{ work: Uint32Array; onlyMoved: boolean }>>, true);
  if (!outcome.ok) return null;
  await coreApi().idle();
  if (outcome.report.work.length > 0) useBench.getState().frame();
  const after = await nextFrame().catch(() => []);
  return { onlyMoved: outcome.report.onlyMoved, words: outcome.sentence, before, after };
}

/** Asks for the files by a way that can be kept, and watches them from then on. Null: none was chosen. */
export async function chooseWatched(): Promise<File[] | null> {
  const handles = await picker()!({ multiple: true, id: 'jig-peel-mesh' }).catch((error: Error) => {
    if (error.name === 'AbortError') return null;
    throw error;
  });
  if (!handles || handles.length === 0) return null;
  const files = await Promise.all(handles.map((handle) => handle.getFile()));
  const { id, activePart } = useBench.getState().summary!;
  watched = [...watched.filter(({ job, part }) => job !== id || part !== activePart), { job: id, part: activePart, handles, changed: newest(files) }];
  window.addEventListener('focus', lookAgain);
  return files;
}

const newest = (files: readonly File[]) => Math.max(...files.map(({ lastModified }) => lastModified));

/** Looks whether a watched file is another one now; that it is, is said once for each change. */
async function lookAgain(): Promise<void> {
  const { summary, notice } = useBench.getState();
  if (!summary) return;
  for (const one of watched) {
    if (one.job !== summary.id) continue;
    const files = await Promise.all(one.handles.map((handle) => handle.getFile())).catch(() => null);
    if (!files || newest(files) <= one.changed) continue;
    one.changed = newest(files);
    const name = summary.parts.find(({ id }) => id === one.part)?.name;
    if (name === undefined) continue;
    notice(`“${one.handles[0]!.name}”, the mesh of ${name}, was changed`, 'info', {
      label: 'Take it in',
      act: () => void takeWatched(one),
    });
  }
}

async function takeWatched({ part, handles }: Watched): Promise<void> {
  const { notice } = useBench.getState();
  try {
    if (useBench.getState().summary?.activePart !== part) {
      if (!(await run('activatePart', { part })).ok) return;
    }
    await takeNewer(await Promise.all(handles.map((handle) => handle.getFile())));
  } catch (error) {
    notice(`The file cannot be read any more: ${(error as Error).message}`, 'error');
  }
}

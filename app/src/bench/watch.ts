import { create } from 'zustand';
import { forgetWatched, keepWatched, watchedOf, type FileHandle, type WatchedRow } from '../keep/watched.ts';
import { useBench } from '../store/bench.ts';
import { run } from '../worker/client.ts';
import { addImageFiles } from './addImages.ts';
import { takeNewer } from './stations/newerMesh.ts';

interface PickerOptions {
  multiple: boolean;
  id: string;
  types?: { description: string; accept: Record<string, string[]> }[];
}
type Picker = (options: PickerOptions) => Promise<FileHandle[]>;
const picker = () => (globalThis as { showOpenFilePicker?: Picker }).showOpenFilePicker;

/** Can this browser keep a way to a file, to see when it changes? */
export const keepsFiles = (): boolean => picker() !== undefined;

/** What is watched for the open job, for the cards that say so; `asks`: the browser wants to be asked before these are looked at. */
export const useWatched = create<{ jobId: string; rows: WatchedRow[]; asks: boolean }>(() => ({ jobId: '', rows: [], asks: false }));

const newest = (files: readonly File[]) => Math.max(...files.map(({ lastModified }) => lastModified));
const jobAtWork = () => useBench.getState().summary?.id ?? '';

/** Asks for files by a way that can be kept. Null: none was chosen. */
export async function chooseFiles(options: PickerOptions): Promise<{ handles: FileHandle[]; files: File[] } | null> {
  const handles = await picker()!(options).catch((error: Error) => {
    if (error.name === 'AbortError') return null;
    throw error;
  });
  if (!handles || handles.length === 0) return null;
  return { handles, files: await Promise.all(handles.map((handle) => handle.getFile())) };
}

/** From now on these files are looked at whenever the window comes to the front. */
export async function watch(kind: WatchedRow['kind'], of: string, handles: FileHandle[], files: readonly File[]): Promise<void> {
  const jobId = jobAtWork();
  const row: WatchedRow = { key: `${jobId}/${kind}/${of}`, jobId, kind, of, handles, changed: newest(files) };
  // told once it outlives the page
  await keepWatched(row);
  if (jobAtWork() === jobId)
    useWatched.setState(({ rows }) => ({ jobId, rows: [...rows.filter(({ key, jobId: own }) => key !== row.key && own === jobId), row] }));
}

/** The files are left alone from now on. */
export function stopWatching(keys: readonly string[]): void {
  useWatched.setState(({ rows }) => ({ rows: rows.filter(({ key }) => !keys.includes(key)) }));
  void forgetWatched([...keys]);
}

const isAllowed = async (handle: FileHandle) => ((await handle.queryPermission?.({ mode: 'read' })) ?? 'granted') === 'granted';

/** The job that was looked up last. */
let begun = '';

/** Begins for a job: what was watched before the page was left is watched on. */
export async function beginWatching(jobId: string): Promise<void> {
  window.addEventListener('focus', onFocus);
  if (begun === jobId) return;
  begun = jobId;
  const kept = await watchedOf(jobId);
  if (jobAtWork() !== jobId) return;
  // what was chosen meanwhile is the newer
  useWatched.setState((now) => {
    const chosen = now.jobId === jobId ? now.rows : [];
    return { jobId, rows: [...kept.filter(({ key }) => !chosen.some((row) => row.key === key)), ...chosen], asks: false };
  });
  await lookAgain();
}
const onFocus = () => void lookAgain();

/**
 * One look at a time. The window can come to the front while the last is under way, which may have seen a file as it was before, and the press of a button can bring it
 * there: then there is one more look, which asks if the press was to.
 */
let looking: Promise<void> | null = null;
let next: { ask: boolean } | null = null;

/**
 * Looks whether watched files are others now. An image is taken in at once, wherever it is shown; a mesh is offered, once for each change.
 * @param ask the person has pressed a button: the browser may ask whether files may be read
 */
export function lookAgain(ask = false): Promise<void> {
  next = { ask: ask || (next?.ask ?? false) };
  looking ??= looks().finally(() => (looking = null));
  return looking;
}

async function looks(): Promise<void> {
  while (next) {
    const now = next;
    next = null;
    await look(now.ask);
  }
}

async function look(ask: boolean): Promise<void> {
  const { jobId, rows } = useWatched.getState();
  if (jobId !== jobAtWork() || rows.length === 0) return;
  let asks = false;
  for (const row of rows) {
    if (ask) for (const handle of row.handles) if (!(await isAllowed(handle))) await handle.requestPermission?.({ mode: 'read' });
    if (!(await Promise.all(row.handles.map(isAllowed))).every(Boolean)) {
      asks = true;
      continue;
    }
    // a file that is being written, or was moved, is seen at the next look
    const files = await Promise.all(row.handles.map((handle) => handle.getFile())).catch(() => null);
    if (!files || newest(files) <= row.changed) continue;
    const now: WatchedRow = { ...row, changed: newest(files) };
    useWatched.setState((state) => ({ rows: state.rows.map((one) => (one.key === row.key ? now : one)) }));
    void keepWatched(now);
    await changed(now, files);
  }
  useWatched.setState({ asks });
}

/** Images that were chosen or dropped with a way to their files: they are taken in, and watched from then on. */
export async function addWatchedImages(files: readonly File[], handles: readonly (FileHandle | null | undefined)[], reveal = true): Promise<void> {
  await addImageFiles(files, reveal);
  files.forEach((file, k) => {
    const handle = handles[k];
    // one that was refused is no image of the job
    if (handle && useBench.getState().summary?.images.some(({ name }) => name === file.name)) void watch('image', file.name, [handle], [file]);
  });
}

/** Asks for images, and watches their files. */
export async function chooseImages(): Promise<void> {
  const chosen = await chooseFiles({
    multiple: true,
    id: 'jig-peel-images',
    types: [
      {
        description: 'PNG, JPEG, WebP, or a zip of them',
        accept: { 'image/png': ['.png'], 'image/jpeg': ['.jpg', '.jpeg'], 'image/webp': ['.webp'], 'application/zip': ['.zip'] },
      },
    ],
  });
  if (chosen) await addWatchedImages(chosen.files, chosen.handles);
}

async function changed(row: WatchedRow, files: File[]): Promise<void> {
  const { summary, notice } = useBench.getState();
  if (row.kind === 'image') {
    if (summary?.images.some(({ name }) => name === row.of)) await addImageFiles(files, false);
    else stopWatching([row.key]);
    return;
  }
  const name = summary?.parts.find(({ id }) => id === row.of)?.name;
  if (name === undefined) stopWatching([row.key]);
  else notice(`“${row.handles[0]!.name}”, the mesh of ${name}, was changed`, 'info', { label: 'Take it in', act: () => void takeMesh(row) });
}

async function takeMesh({ of, handles }: WatchedRow): Promise<void> {
  const { notice } = useBench.getState();
  try {
    if (useBench.getState().summary?.activePart !== of && !(await run('activatePart', { part: of })).ok) return;
    await takeNewer(await Promise.all(handles.map((handle) => handle.getFile())));
  } catch (error) {
    notice(`The file cannot be read any more: ${(error as Error).message}`, 'error');
  }
}

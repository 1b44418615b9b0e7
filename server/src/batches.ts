import { randomBytes } from 'node:crypto';
import { EventEmitter } from 'node:events';
import { appendFile, mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, extname, join } from 'node:path';
import { z } from 'zod';
import { outputsOf, type FileDone, type FileTask, type QueueListener, type QueueTask, type WorkQueue } from '@jig-peel/batch';

/** Models that are worked; files of other endings stand beside them. */
const modelEndings = ['.obj', '.glb', '.gltf', '.ply', '.stl', '.jigpeel'];
export const isModel = (name: string) => modelEndings.includes(extname(name).toLowerCase());

/** What a batch is made of, written once. */
const bodySchema = z.object({
  jigPeelBatch: z.literal(1),
  id: z.string(),
  name: z.string(),
  made: z.number(),
  recipe: z.string(),
  limits: z.string().nullable(),
  to: z.string().nullable(),
  beside: z.array(z.string()),
  files: z.array(z.object({ name: z.string(), output: z.string(), bytes: z.number() })),
});
type BatchBody = z.infer<typeof bodySchema>;

/** What happens to it, a line each at the end of a file: a server that is killed loses none. */
const lineSchema = z.union([
  z.object({
    file: z.number(),
    done: z.object({ ok: z.boolean(), words: z.string(), files: z.array(z.string()), missed: z.array(z.string()), seconds: z.number() }),
    bytes: z.number(),
  }),
  z.object({ file: z.number(), tried: z.string() }),
  z.object({ file: z.number(), again: z.literal(true) }),
  z.object({ cancelled: z.literal(true) }),
]);
type Line = z.infer<typeof lineSchema>;

export type FileState = 'waiting' | 'working' | 'done' | 'failed' | 'cancelled';

export interface BatchFile {
  name: string;
  bytes: number;
  state: FileState;
  /** In one sentence; empty while it waits. */
  words: string;
  /** Files written. */
  outputs: string[];
  /** Limits that are not kept. */
  missed: string[];
  seconds: number;
  /** Times its worker was lost. */
  lost: number;
}

export interface Batch {
  id: string;
  name: string;
  made: number;
  steps: number;
  isCancelled: boolean;
  files: BatchFile[];
  /** On the server's disk, models and results. */
  bytes: number;
}

export interface BatchLine extends Omit<Batch, 'files'> {
  counts: Record<FileState, number> & { missed: number };
}

interface Held {
  body: BatchBody;
  view: Batch;
  writing: Promise<unknown>;
}

export interface BatchLimits {
  /** Batches kept. */
  batches: number;
  /** Bytes of all of them. */
  bytes: number;
  /** Days after which a finished one is removed. */
  days: number;
}

/** A name that can do no harm in a folder or an archive. */
export function safeName(name: string): string {
  const plain = basename(name.replaceAll('\\', '/'))
    .normalize('NFC')
    // eslint-disable-next-line no-control-regex
    .replace(/[\u0000-\u001f\u007f"*/:<>?|\u202a-\u202e\u2066-\u2069]/g, '_')
    .replace(/^\.+/, '')
    .trim();
  const ending = extname(plain).slice(0, 16);
  // most file systems hold 255 bytes a name
  const stem = Buffer.from(basename(plain, extname(plain)))
    .subarray(0, 180)
    .toString()
    .replace(/\ufffd+$/, '');
  return stem + ending || 'file';
}

/** Of two files of one name the second gets a number. */
export function freshName(name: string, taken: ReadonlySet<string>): string {
  const ending = extname(name);
  const stem = basename(name, ending);
  let fresh = name;
  for (let k = 2; taken.has(fresh.toLowerCase()); k++) fresh = `${stem}-${k}${ending}`;
  return fresh;
}

/** The batches of a server: a folder each, with what was given, what came out, and a file of what happened. Events: `change` (id, number of the file or null), `removed` (id). */
export class Batches extends EventEmitter<{ change: [id: string, file: number | null]; removed: [id: string] }> implements QueueListener {
  private readonly held = new Map<string, Held>();
  readonly folder: string;
  readonly limits: BatchLimits;
  private queue: WorkQueue | null = null;

  constructor(folder: string, limits: BatchLimits) {
    super();
    this.setMaxListeners(0);
    this.folder = folder;
    this.limits = limits;
  }

  /** Reads what is kept, and hands to the queue what is not done yet. Folders that cannot be read are left as they are. */
  async begin(queue: WorkQueue & { endedMeanwhile?(tasks: readonly QueueTask[]): Promise<Map<QueueTask, Omit<FileDone, 'file'>>> }): Promise<void> {
    this.queue = queue;
    await mkdir(this.folder, { recursive: true });
    for (const id of await readdir(this.folder)) {
      if (id.startsWith('.')) {
        // an upload that was never finished
        await rm(join(this.folder, id), { recursive: true, force: true });
        continue;
      }
      const held = await this.read(id).catch(() => null);
      if (held) this.held.set(id, held);
    }
    await this.removeOld();
    const left = [...this.held.values()].flatMap(({ view }) => tasksOf(view));
    const meanwhile = (await queue.endedMeanwhile?.(left)) ?? new Map<QueueTask, Omit<FileDone, 'file'>>();
    for (const [task, done] of meanwhile) this.finished(task, done);
    await queue.add(left.filter((task) => !meanwhile.has(task)));
  }

  private async read(id: string): Promise<Held> {
    const folder = join(this.folder, id);
    const body = bodySchema.parse(JSON.parse(await readFile(join(folder, 'batch.json'), 'utf8')));
    if (body.id !== id) throw new Error('Another batch’s folder.');
    const held: Held = { body, view: viewOf(body), writing: Promise.resolve() };
    const log = join(folder, 'happened.ndjson');
    const lines = await readFile(log, 'utf8').catch(() => '');
    // a line that was torn ends here, so that the next one is whole
    if (lines !== '' && !lines.endsWith('\n')) await appendFile(log, '\n');
    for (const text of lines.split('\n')) {
      const line = lineSchema.safeParse(parsed(text));
      if (line.success) apply(held.view, line.data);
    }
    return held;
  }

  list(): BatchLine[] {
    return [...this.held.values()].map(({ view }) => lineOf(view)).sort((a, b) => b.made - a.made || (a.id < b.id ? 1 : -1));
  }

  get(id: string): Batch | null {
    return this.held.get(id)?.view ?? null;
  }

  bodyOf(id: string): BatchBody | null {
    return this.held.get(id)?.body ?? null;
  }

  get bytes(): number {
    return [...this.held.values()].reduce((sum, { view }) => sum + view.bytes, 0);
  }

  /** Why no further batch can be taken, or null. */
  isFull(): string | null {
    if (this.held.size >= this.limits.batches) return `The server keeps ${this.limits.batches} batches, and has as many. Remove one that is done.`;
    if (this.bytes >= this.limits.bytes) return 'The server’s room for batches is used up. Remove one that is done.';
    return null;
  }

  /** A folder for an upload, out of sight until it is whole. */
  async makeRoom(): Promise<{ id: string; folder: string }> {
    const id = randomBytes(6).toString('hex');
    const folder = join(this.folder, `.${id}`);
    await mkdir(join(folder, 'in'), { recursive: true });
    return { id, folder };
  }

  /** Takes a batch whose files are in its folder, and begins it. */
  async take(
    made: { id: string; folder: string },
    given: { name: string; recipe: string; steps: number; limits: string | null; to: string | null; files: { name: string; bytes: number }[] },
  ): Promise<Batch> {
    const models = given.files.filter(({ name }) => isModel(name));
    const outputs = outputsOf(
      models.map(({ name }) => name),
      '',
      given.to ?? undefined,
    );
    const body: BatchBody = {
      jigPeelBatch: 1,
      id: made.id,
      name: given.name,
      made: Date.now(),
      recipe: given.recipe,
      limits: given.limits,
      to: given.to,
      beside: given.files.filter(({ name }) => !isModel(name)).map(({ name }) => name),
      files: models.map((file, k) => ({ ...file, output: outputs[k]! })),
    };
    await writeFile(join(made.folder, 'batch.json'), JSON.stringify(body));
    await rename(made.folder, join(this.folder, made.id));
    const held: Held = { body, view: viewOf(body), writing: Promise.resolve() };
    this.held.set(made.id, held);
    this.emit('change', made.id, null);
    await this.queue?.add(tasksOf(held.view));
    return held.view;
  }

  /** What a thread needs to work a file; null where its batch is gone or ended. */
  async placeOf({ batch, file }: QueueTask): Promise<FileTask | null> {
    const held = this.held.get(batch);
    const own = held?.body.files[file];
    if (!held || !own || held.view.isCancelled) return null;
    const out = this.outFolder(batch, file);
    await mkdir(out, { recursive: true });
    return { file: join(this.folder, batch, 'in', own.name), output: join(out, own.output), recipe: held.body.recipe, limits: held.body.limits };
  }

  outFolder(id: string, file: number): string {
    return join(this.folder, id, 'out', String(file));
  }

  /** Where a result is on the disk; null for a name that is none of its results. */
  outputPath(id: string, file: number, name: string): string | null {
    return this.held.get(id)?.view.files[file]?.outputs.includes(name) ? join(this.outFolder(id, file), name) : null;
  }

  started({ batch, file }: QueueTask): void {
    const own = this.held.get(batch)?.view.files[file];
    if (!own || own.state !== 'waiting') return;
    own.state = 'working';
    this.emit('change', batch, file);
  }

  triedAgain({ batch, file }: QueueTask, why: string): void {
    const held = this.held.get(batch);
    if (!held || isEnded(held.view.files[file])) return;
    void this.add(held, { file, tried: why });
  }

  finished({ batch, file }: QueueTask, done: Omit<FileDone, 'file'>): void {
    const held = this.held.get(batch);
    // ended by hand, or told twice
    if (!held || isEnded(held.view.files[file])) return;
    const { ok, words, files, missed, seconds } = done;
    void sizes(files.map((name) => join(this.outFolder(batch, file), name))).then((bytes) => {
      if (isEnded(held.view.files[file])) return;
      void this.add(held, { file, done: { ok, words, files, missed, seconds }, bytes });
    });
  }

  /** Files that wait are not worked any more; what is done stays. */
  async cancel(id: string): Promise<void> {
    const held = this.held.get(id);
    if (!held || held.view.isCancelled || !held.view.files.some((file) => !isEnded(file))) return;
    await this.add(held, { cancelled: true });
    await this.queue?.drop(id);
  }

  /** Works a file again that failed or was not worked. */
  async again(id: string, file: number): Promise<boolean> {
    const held = this.held.get(id);
    const own = held?.view.files[file];
    if (!held || !own || (own.state !== 'failed' && own.state !== 'cancelled')) return false;
    await this.add(held, { file, again: true });
    await this.queue?.add([{ batch: id, file }], true);
    return true;
  }

  async remove(id: string): Promise<boolean> {
    const held = this.held.get(id);
    if (!held) return false;
    this.held.delete(id);
    await this.queue?.drop(id);
    await held.writing;
    await rm(join(this.folder, id), { recursive: true, force: true });
    this.emit('removed', id);
    return true;
  }

  /** Finished ones that nobody fetched for long. */
  async removeOld(now = Date.now()): Promise<void> {
    for (const { view } of [...this.held.values()]) {
      if (view.files.every(isEnded) && now - view.made > this.limits.days * 86_400_000) await this.remove(view.id);
    }
  }

  /** When all that happened is on the disk. */
  async settled(): Promise<void> {
    await Promise.all([...this.held.values()].map(({ writing }) => writing));
  }

  private add(held: Held, line: Line): Promise<unknown> {
    apply(held.view, line);
    const { id } = held.view;
    this.emit('change', id, 'file' in line ? line.file : null);
    held.writing = held.writing.then(() => appendFile(join(this.folder, id, 'happened.ndjson'), `${JSON.stringify(line)}\n`)).catch(() => {});
    return held.writing;
  }
}

const isEnded = (file: BatchFile | undefined) => !file || file.state === 'done' || file.state === 'failed' || file.state === 'cancelled';

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

const tasksOf = (view: Batch): QueueTask[] => view.files.flatMap((file, k) => (isEnded(file) ? [] : [{ batch: view.id, file: k }]));

const sizes = (paths: string[]) =>
  Promise.all(
    paths.map((path) =>
      stat(path).then(
        ({ size }) => size,
        () => 0,
      ),
    ),
  ).then((all) => all.reduce((sum, size) => sum + size, 0));

function viewOf(body: BatchBody): Batch {
  const { steps } = z.object({ steps: z.array(z.object({ isOff: z.boolean().optional() })) }).parse(JSON.parse(body.recipe));
  return {
    id: body.id,
    name: body.name,
    made: body.made,
    steps: steps.filter(({ isOff }) => !isOff).length,
    isCancelled: false,
    files: body.files.map(({ name, bytes }) => ({ name, bytes, state: 'waiting', words: '', outputs: [], missed: [], seconds: 0, lost: 0 })),
    bytes: body.files.reduce((sum, { bytes }) => sum + bytes, 0),
  };
}

function apply(view: Batch, line: Line): void {
  if ('cancelled' in line) {
    view.isCancelled = true;
    for (const file of view.files) if (!isEnded(file)) Object.assign(file, { state: 'cancelled', words: 'Not worked: the batch was stopped.' });
    return;
  }
  const file = view.files[line.file];
  if (!file) return;
  if ('tried' in line) Object.assign(file, { state: 'waiting', words: line.tried, lost: file.lost + 1 });
  else if ('again' in line) {
    view.isCancelled = false;
    Object.assign(file, { state: 'waiting', words: '', outputs: [], missed: [], seconds: 0 });
  } else {
    const { ok, words, files, missed, seconds } = line.done;
    Object.assign(file, { state: ok ? 'done' : 'failed', words, outputs: files, missed, seconds });
    view.bytes += line.bytes;
  }
}

export function lineOf({ files, ...rest }: Batch): BatchLine {
  const counts = { waiting: 0, working: 0, done: 0, failed: 0, cancelled: 0, missed: 0 };
  for (const { state, missed } of files) {
    counts[state]++;
    if (state === 'done' && missed.length > 0) counts.missed++;
  }
  return { ...rest, counts };
}

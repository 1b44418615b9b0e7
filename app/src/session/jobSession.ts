import {
  hasLayers,
  activeSet,
  asImageLands,
  edgeLoop,
  faceDensity,
  facesBy,
  JigError,
  sentenceOf,
  operations,
  keepImageSize,
  leftOutWords,
  newJob,
  openFiles,
  changesViewOnly,
  partOf,
  type ProposalReport,
  surfacePlanOf,
  trianglesOf,
  partsOnSheet,
  turnUp,
  shapeStrokes,
  penPath,
  placeJig,
  quietContext,
  runOperation,
  selectionByPart,
  sheetsByMaterial,
  unplacedCount,
  type Context,
  type GripHow,
  type HistoryEntry,
  type History,
  type InputFile,
  type Jig,
  type JigKind,
  type Job,
  type OperationName,
  type ParamsOf,
  type PlacementAxis,
  type Region,
  type Recipe,
  type ReportOf,
  type SelfJoin,
  type SolverPool,
} from '@jig-peel/core';
import { deliver, missingFrom } from './deliver.ts';
import type { DeliverChoice, Delivered } from './delivery.ts';
import { HeldJob, type Storage } from './heldJob.ts';
import { CutFollower } from './cutFollower.ts';
import { grainView, type GrainView } from './grainView.ts';
import { Measuring, type AdviceFound } from './measuring.ts';
import type {
  BesideAt,
  DeliveredFile,
  FormLook,
  FormView,
  GripView,
  Outcome,
  RecipeView,
  RegionTake,
  RegionView,
  Sent,
  UnderPointer,
  UvPreview,
  WorkerEvent,
} from './messages.ts';
import { Mirror } from './mirror.ts';
import { gripViews, notchMarks } from './partViews.ts';
import type { CancelBoard } from './pool/cancelBoard.ts';
import type { ReliefInput } from './pool/tasks.ts';
import { WorkerPool, type Seats } from './pool/workerPool.ts';
import { Newest } from './newest.ts';
import { Previews } from './previews.ts';
import { attempt, noJob, refused } from './refusal.ts';
import type { SeamLook } from '@jig-peel/core/measure/seamLooks';
import type { JumpAt, SeamRemedies } from '@jig-peel/core/ops/seamRemediesWork';
import { moveSeamIn } from './seamMoving.ts';
import type { SurfaceValue, SurfaceValues } from './surfaceValues.ts';
import { SurfaceViews, type SurfaceView } from './surfaceView.ts';
import { Turns } from './turns.ts';
import { Works } from './work.ts';

/** What a session is given of its surroundings: a browser's, or a test's. */
export interface Surroundings {
  storage: Storage;
  seats: Seats;
  /** Threads that may work side by side. */
  threads: number;
  board: CancelBoard;
}

/** From so many bytes on files are read in another thread: its start takes as long as reading less. */
const largeFile = 1_000_000;

/** The part that parameters name, if they do. */
function partNamed(params: object): string | undefined {
  const { part } = params as { part?: unknown };
  return typeof part === 'string' ? part : undefined;
}

/** Parts whose seams an operation with these parameters changes. */
function seamParts(job: Job, name: string, params: object): string[] {
  const { edges } = params as { edges?: unknown };
  const named = partNamed(params);
  const bySelection = (name === 'cut' || name === 'uncut' || name === 'moveSeam') && edges === undefined && named === undefined;
  return bySelection ? selectionByPart(job).map(({ part }) => part.id) : [partOf(job, named).id];
}

/** Operations after which what they touched is unwrapped again by itself. */
const changesSeams: ReadonlySet<string> = new Set<OperationName>(['cut', 'uncut', 'seams', 'open', 'join', 'moveSeam']);

/**
 * A person's work on a job, without a screen: steps in their order, undo, what follows a step by itself, previews, measures, keeping. What the screen is to
 * show is told; what it asks is answered, never thrown.
 */
export class JobSession {
  private readonly turns = new Turns();
  private readonly pool: WorkerPool;
  private readonly searchPool: WorkerPool;
  private readonly livePool: WorkerPool;
  private readonly measurePool: WorkerPool;
  private readonly advicePool: WorkerPool;
  private readonly formPool: WorkerPool;
  private readonly remedies: Newest;
  private readonly looks: Newest;
  private readonly works: Works;
  private readonly mirror: Mirror;
  private readonly held: HeldJob;
  private readonly follower: CutFollower;
  private readonly measuring: Measuring;
  private readonly previews: Previews;
  /** How it was before a newer mesh that is being looked at, and the job with it. */
  private newerTaken: { history: History; entries: readonly HistoryEntry[]; index: number; job: Job } | null = null;
  /** Loads under way. */
  private loads = 0;
  /** Steps that run. */
  private steps = 0;

  constructor(
    { storage, seats, threads, board }: Surroundings,
    private readonly tell: (event: WorkerEvent) => void,
  ) {
    this.pool = new WorkerPool(seats, threads, board);
    this.searchPool = new WorkerPool(seats, 2, board);
    this.livePool = new WorkerPool(seats, 1, board);
    this.measurePool = new WorkerPool(seats, 1, board);
    this.advicePool = new WorkerPool(seats, 1, board);
    // measures do not wait for a form, and what ends them does not end it
    this.formPool = new WorkerPool(seats, 1, board);
    this.mirror = new Mirror(tell, (job) => this.measuring.layoutChanged(job));
    this.works = new Works(
      (progress) => tell({ kind: 'progress', progress }),
      this.pool,
      this.mirror.meshIds,
      board,
      (packing) => tell({ kind: 'packing', packing }),
      this.searchPool,
    );
    this.held = new HeldJob(storage, this.turns, {
      tell,
      changed: () => this.show(),
      stopWork: () => {
        this.follower.stop();
        this.works.cancelAll();
      },
      stopFollowing: () => this.follower.drop(),
    });
    this.follower = new CutFollower(this.livePool, () => this.history, {
      tell,
      betweenSteps: async () => {
        while (this.steps > 0) await new Promise((next) => setTimeout(next, 2));
      },
      amended: () => {
        this.show(true);
        this.held.save();
      },
    });
    this.measuring = new Measuring(this.measurePool, this.advicePool, this.mirror.meshIds, tell, {
      history: () => this.history,
      shown: () => this.mirror.layout,
      waits: () => this.follower.isUrgent,
      getsReady: seats.keepsSpare,
    });
    this.previews = new Previews(this.mirror.meshIds);
    this.remedies = new Newest(board, 'Another seam was asked about.');
    this.looks = new Newest(board, 'The seams are looked at once more.');
  }

  /** Whether an operation, an opening or a delivery is under way. */
  get isWorking(): boolean {
    return this.works.count > 0;
  }

  /** Whether that, or a load, or what follows either is under way. */
  get isBusy(): boolean {
    return this.isWorking || this.loads > 0 || this.follower.isBusy || this.measuring.isBusy;
  }

  /** Gets the worker of the unwrapping that follows cuts ready for its first. */
  warm(): void {
    this.livePool.warm();
  }

  private get history(): History | null {
    return this.held.history;
  }

  /** @throws JigError `nothing-to-do` */
  private get job(): Job {
    if (!this.history) throw noJob();
    return this.history.present;
  }

  // ---- which job

  /** Opens files as a new job. */
  open(files: InputFile[], id: string, name?: string): Promise<Outcome<{ id: string; intake: readonly string[]; first: 'intake' | 'seams' }>> {
    return attempt(() =>
      this.works.run(async (context, aside) => {
        // so that a large file holds nobody up, and reading it can be cancelled
        const isLarge = files.reduce((sum, { bytes }) => sum + bytes.length, 0) > largeFile;
        const opened = isLarge ? await aside('open', { files, id }) : await openFiles(files, id, context, { up: 'guess' });
        const job = opened.sheets ? { ...opened, ...(name ? { name } : {}) } : sheetsByMaterial({ ...opened, ...(name ? { name } : {}) });
        await this.start(job, `Opened ${files.length === 1 ? files[0]!.name : `${files.length} files`}`);
        const bare = job.parts.every((part) => part.uvSets.every((set) => unplacedCount(set) === set.unplaced.length));
        // files that bring UVs begin where these are looked at; an archive goes on where one worked last
        const first = bare || files.some(({ name: file }) => file.toLowerCase().endsWith('.jigpeel')) ? ('seams' as const) : ('intake' as const);
        return { ok: true, sentence: `Opened ${job.name}`, report: { id: job.id, intake: job.intake, first } };
      }),
    );
  }

  /** A new job that begins with a starter form. */
  begin(id: string, kind: string): Promise<Outcome<{ id: string }>> {
    return attempt(async () => {
      const blank = newJob(id, kind[0]!.toUpperCase() + kind.slice(1), []);
      const { job, sentence } = await runOperation(blank, 'makeForm', { kind });
      await this.start(job, sentence);
      return { ok: true, sentence, report: { id } };
    });
  }

  private async start(job: Job, sentence: string): Promise<void> {
    this.works.cancelAll();
    await this.held.begin({ job, operation: 'open', params: {}, sentence, time: Date.now() });
    this.forget();
    this.show();
    await this.held.settle();
  }

  /** Brings a kept job back with its history. @param shown the screen shows it already, e.g. since it was opened */
  load(id: string, shown = false): Promise<Outcome<{ id: string; missing: number; left: number }>> {
    this.loads++;
    return attempt(async () => {
      if (this.history?.present.id === id) {
        if (!shown) {
          this.forget();
          this.show();
        }
        this.tell({ kind: 'owner', owner: this.held.isMine ? 'mine' : 'others', how: 'busy' });
        return { ok: true, sentence: 'Here it is', report: { id, missing: 0, left: this.history.entries.length } };
      }
      this.works.cancelAll();
      if (await this.held.goBack(id)) {
        this.forget();
        this.show();
        return { ok: true, sentence: `Opened ${this.job.name}`, report: { id, missing: 0, left: this.history!.entries.length } };
      }
      const kept = await this.held.load(id);
      if (!kept) throw new JigError('not-found', 'This job is not kept in this browser.', '', 'Open its job archive from the jobs page.');
      this.forget();
      this.show();
      return { ok: true, sentence: `Opened ${this.job.name}`, report: { id, missing: kept.missing, left: kept.entries.length } };
    }).finally(() => this.loads--);
  }

  /** Lets go of a kept job that is no longer looked at, once all of it is kept. */
  letGo(id: string): Promise<void> {
    return this.turns.take(async () => {
      if (this.held.jobId === id) await this.held.leave();
    });
  }

  /** An archive of a job that is kept and not at work here. */
  archiveKept(id: string): Promise<Outcome<DeliveredFile>> {
    return attempt(() =>
      this.works.run(async (_context, aside) => {
        const { archiveKept } = await import('./archiveKept.ts');
        const report = await archiveKept(id, this.held.database, aside);
        return { ok: true, sentence: `Archived as ${report.name}`, report };
      }),
    );
  }

  /** Makes this session the one that writes the job. */
  takeOver(): Promise<void> {
    return this.held.takeOver();
  }

  /** Tries at once to keep what could not be kept. */
  retrySave(): void {
    this.held.retry();
  }

  /** Waits until everything done so far is kept; false if it could not be. */
  settle(): Promise<boolean> {
    return this.held.settle();
  }

  /** Waits until nothing that was asked for, and nothing that follows from it, is under way. */
  async idle(): Promise<void> {
    await this.turns.take(() => Promise.resolve());
    while (this.follower.isBusy || this.measuring.isBusy) await new Promise((next) => setTimeout(next, 5));
    await this.held.settle();
  }

  /** Ends everything. */
  async close(): Promise<void> {
    this.works.cancelAll();
    this.follower.drop();
    this.measuring.close();
    this.mirror.close();
    for (const pool of [this.pool, this.searchPool, this.livePool, this.measurePool, this.advicePool, this.formPool]) pool.close();
    await this.held.leave();
  }

  // ---- steps

  /**
   * Runs an operation as a step.
   * @param writeLive live jigs whose faces it edits may be written for it
   * @param alone nothing is laid flat by itself after a cut: a step of a recipe, which says all that it does
   */
  run<N extends OperationName>(name: N, params: ParamsOf<N>, writeLive = false, alone = false): Promise<Outcome<Sent<ReportOf<N>>>> {
    return this.turns.take(() => attempt(() => this.works.run((context) => this.step(name, params, context, writeLive, alone))));
  }

  /** Selects what lies in a drawn region of a view, as one step; islands on the sheet whichever part they are of. */
  takeRegion(take: RegionTake, view: RegionView): Promise<Outcome> {
    return this.turns.take(() =>
      attempt(async () => {
        const start = performance.now();
        const { regionSelection } = await import('./regionSelection.ts');
        const { job } = this;
        const selection = regionSelection(job, take, view);
        const timings = { run: performance.now() - start, show: 0 };
        if (selection === null) return { ok: true, sentence: '', report: {}, timings };
        const { part: _, ...chosen } = selection;
        const outcome = await this.step('select', chosen as ParamsOf<'select'>, quietContext);
        return outcome.ok ? { ...outcome, timings: { run: timings.run, show: performance.now() - start - timings.run } } : outcome;
      }),
    );
  }

  /** Relaxes the faces in sight under a brush stroke, as one step. */
  relaxRegion(region: Region, view: RegionView, writeLive = false): Promise<Outcome> {
    return this.turns.take(() =>
      attempt(() =>
        this.works.run(async (context) => {
          const faces = (await import('./regionSelection.ts')).facesInRegion(this.job, region, view);
          if (faces.length === 0) throw new JigError('nothing-to-do', 'The brush passed over no face.', '', 'Brush over the model or an island.');
          return this.step('relax', { faces: [...faces].join(',') }, context, writeLive);
        }),
      ),
    );
  }

  /** Takes images into the job; the history names them, the pictures themselves are in the job alone. */
  addImages(images: { name: string; bytes: Uint8Array }[], reveal: boolean): Promise<Outcome<ReportOf<'addImages'>>> {
    return this.turns.take(() => attempt(async () => this.step('addImages', { images: await unzipped(images), show: reveal }, quietContext)));
  }

  undo(): Promise<Outcome> {
    return this.turns.take(() => this.move((h) => h.undo()));
  }

  redo(): Promise<Outcome> {
    return this.turns.take(() => this.move((h) => h.redo()));
  }

  /** Ends a search for a tight layout with the best that it has found so far. */
  takePacking(): void {
    this.works.takePacking();
  }

  /** @param slot of the work that is meant, where the caller knows it; nothing else is cancelled then */
  cancel(slot?: number): void {
    this.works.cancel(slot);
  }

  /**
   * One operation on the job that is open, kept as a step of its history. It waits for islands that follow a cut, unless it changes the view alone or
   * further seams of the same part, which take those islands over.
   */
  private async step<N extends OperationName>(
    name: N,
    params: ParamsOf<N>,
    context: Context,
    writeLive = false,
    alone = false,
  ): Promise<Outcome<Sent<ReportOf<N>>>> {
    const h = this.history;
    if (!h) throw noJob();
    if (!changesViewOnly(name) && !(changesSeams.has(name) && this.follower.isTakenOverBy(seamParts(h.present, name, params)))) {
      await this.follower.settled(context.throwIfCancelled);
      if (h !== this.history) throw new JigError('cancelled', 'Another job was opened meanwhile; nothing was done.');
    }
    this.steps++;
    try {
      return await this.stepNow(name, params, context, writeLive, alone);
    } finally {
      this.steps--;
    }
  }

  private async stepNow<N extends OperationName>(
    name: N,
    params: ParamsOf<N>,
    context: Context,
    writeLive: boolean,
    alone: boolean,
  ): Promise<Outcome<Sent<ReportOf<N>>>> {
    const h = this.history;
    if (!h) throw noJob();
    this.held.assertMine();
    // so that whatever ends this page ends at most one step that is not kept; one that cannot be kept holds nobody up
    await Promise.race([this.held.settle(), new Promise((late) => setTimeout(late, 250))]);
    const before = h.present;
    const start = performance.now();
    const ran = await runOperation(before, name, params as Record<string, unknown>, context);
    const { job, sentence, released, warns } = ran;
    const ended = performance.now();
    if (h !== this.history || h.present !== before) throw new JigError('cancelled', 'The job changed meanwhile; nothing was done.');
    const report = sent(ran.report as ReportOf<N>);
    if (job === before) return { ok: true, sentence, report };
    if (released.length > 0 && !writeLive) {
      const names = released.map((one) => `“${one.name}”`).join(', ');
      const many = released.length > 1;
      return refused(
        `These faces are driven by the live jig${many ? 's' : ''} ${names}. Write ${many ? 'them' : 'it'} to the UVs first, then this edit holds.`,
        'live-jigs',
      );
    }
    const laysFlat = !alone && changesSeams.has(name) && job.settings.live;
    const first = laysFlat ? await this.follower.first(before, job) : { job, changes: [], followUps: [] };
    const entry: HistoryEntry = { job: first.job, operation: name, params: recorded(name, ran.params, ran.report, job), sentence, time: Date.now() };
    if (first.followUps.length > 0) entry.followUps = first.followUps;
    if (changesViewOnly(name)) entry.view = true;
    h.push(entry);
    this.show();
    const timings = { run: ended - start, show: performance.now() - ended };
    this.held.save();
    if (laysFlat) void this.follower.follow(first.changes, before);
    return { ok: true, sentence, report, timings, takesBack: 'undo', ...(warns ? { warns } : {}) };
  }

  private move(to: (h: History) => Job): Promise<Outcome> {
    return attempt(() => {
      const { history } = this;
      if (!history) throw noJob();
      this.held.assertMine();
      const before = history.index;
      const left = history.entries[before]!.sentence;
      to(history);
      this.follower.dropUnlessOf(history.present);
      if (history.index === before) return { ok: true, sentence: '', report: {} };
      this.show();
      this.held.save();
      return history.index < before
        ? { ok: true, sentence: `Undid: ${left}`, report: {}, takesBack: 'redo' }
        : { ok: true, sentence: `Did again: ${history.entries[history.index]!.sentence}`, report: {}, takesBack: 'undo' };
    });
  }

  private show(live = false): void {
    if (!this.history) return;
    this.mirror.show(this.history, live);
    this.measuring.selectionChanged();
  }

  private forget(): void {
    this.follower.drop();
    this.pool.cancel();
    this.mirror.forget();
  }

  // ---- questions, which change nothing

  /** Edges that a stroke over the model would become. */
  pen(stroke: Float64Array): Uint32Array {
    return this.history ? Uint32Array.from(penPath(partOf(this.job).mesh, stroke)) : new Uint32Array(0);
  }

  /** What of another part than the one at work is under the pointer; null where nothing is. */
  async under(at: BesideAt): Promise<UnderPointer | null> {
    const { underPointer } = await import('./underPointer.ts');
    return this.history ? underPointer(this.job, at) : null;
  }

  loop(edge: number): Uint32Array {
    return this.history ? Uint32Array.from(edgeLoop(partOf(this.job).mesh, edge)) : new Uint32Array(0);
  }

  private readonly surfaces = new SurfaceViews();

  /** What the active part shows; null without layers. @param known key of the arrays that the one who asks has */
  surface(known: number): SurfaceView | null {
    if (!this.history) return null;
    const { job } = this;
    return this.surfaces.view(job, this.mirror.meshIds.of(partOf(job).mesh), known);
  }

  private surfaceValues: SurfaceValues | null = null;

  /** Loaded when it is first asked for. */
  private async valuesOfSurface(): Promise<SurfaceValues> {
    const { SurfaceValues: Made } = await import('./surfaceValues.ts');
    return (this.surfaceValues ??= new Made(this.formPool, this.mirror.meshIds));
  }

  /** What the active part shows at places: a triangle and the shares of its corners each. */
  surfaceAt(places: ArrayLike<number>): Promise<Outcome<SurfaceValue[]>> {
    return attempt(async () => {
      const values = await this.valuesOfSurface();
      return { ok: true, sentence: '', report: await values.at(this.job, this.surfaces.planOf(this.job), places) };
    });
  }

  /** Jumps of the active part's picture along its seams. */
  continuity(): Promise<Outcome<ReportOf<'continuity'>>> {
    return this.told('continuity', {});
  }

  /** How what is seen of the active part differs over its seams. */
  seamLooks(): Promise<Outcome<SeamLook[]>> {
    return attempt(async () => ({
      ok: true,
      sentence: '',
      report: await this.looks.ask(async (cancel) => (await this.valuesOfSurface()).seams(this.job, this.surfaces.planOf(this.job), cancel)),
    }));
  }

  /** Nobody waits for how the seams look any more. */
  leaveSeamLooks(): void {
    this.looks.leave();
  }

  /**
   * Seams of the part at work worked out in several ways, up to two at once, each told of when it is there; nothing is changed, and other steps go on
   * meanwhile. Ends without the rest when the layout or the wishes change.
   */
  propose(ways: readonly ParamsOf<'propose'>[]): Promise<Outcome<{ ways: number }>> {
    return attempt(() =>
      this.works.run(async (context, _, slot) => {
        await this.follower.settled(context.throwIfCancelled);
        const { job } = this;
        const part = partOf(job);
        const shares = ways.map(() => 0);
        let words = '';
        const isStale = () => {
          if (!this.history) return true;
          const now = this.job.activePart === job.activePart ? partOf(this.job) : null;
          if (this.job.settings.seenFrom !== job.settings.seenFrom) return true;
          return now?.id !== part.id || now.mesh !== part.mesh || activeSet(now) !== activeSet(part) || now.seamMarks !== part.seamMarks;
        };
        const found = ways.map(async (params, k) => {
          const progress = (share: number, text: string) => {
            shares[k] = share;
            // of two at once the words of the first, lest they take turns
            if (k === shares.findIndex((one) => one < 1)) words = text;
            context.progress(shares.reduce((sum, one) => sum + one, 0) / ways.length, words);
            if (isStale()) this.works.cancel(slot);
          };
          const { report } = await runOperation(job, 'propose', params, { ...context, progress });
          shares[k] = 1;
          if (isStale()) this.works.cancel(slot);
          context.throwIfCancelled();
          this.tell({ kind: 'proposal', report: report as ProposalReport });
        });
        try {
          await Promise.all(found);
        } catch (error) {
          this.works.cancel(slot);
          await Promise.allSettled(found);
          throw isStale() ? new JigError('cancelled', 'What seams go by changed meanwhile: work them out again.') : error;
        }
        return { ok: true, sentence: '', report: { ways: ways.length } };
      }),
    );
  }

  /** Slot of the newest question; 0 before any. */
  /** What each remedy for a jump of the picture at a seam of the part at work would bring; nothing is changed. */
  seamRemedies(jump: JumpAt): Promise<Outcome<SeamRemedies>> {
    return attempt(async () => ({
      ok: true,
      sentence: '',
      report: await this.remedies.ask(async (cancel, throwIfCancelled) => {
        const [{ seamRemedies }, values] = await Promise.all([import('@jig-peel/core/ops/seamRemediesWork'), this.valuesOfSurface()]);
        const between = () => new Promise<void>((next) => setTimeout(next, 0));
        const looks = (job: Job) => values.seams(job, surfacePlanOf(job, partOf(job)), cancel);
        const pool: SolverPool = {
          solve: (tasks, context) => this.advicePool.solve(tasks, context, { cancel }),
          moveSeam: moveSeamIn(this.advicePool, this.mirror.meshIds, { cancel }),
        };
        return seamRemedies(this.job, jump, looks, { ...quietContext, throwIfCancelled, pool }, between);
      }),
    }));
  }

  /** Whether the picture of the part at work is sharp enough; nothing is changed. */
  sharpness(params: ParamsOf<'sharpness'>): Promise<Outcome<ReportOf<'sharpness'>>> {
    return this.told('sharpness', params);
  }

  /** How the picture of the part at work stands on its islands; nothing is changed. */
  pictureHeading(params: ParamsOf<'pictureHeading'>): Promise<Outcome<ReportOf<'pictureHeading'>>> {
    return this.told('pictureHeading', params);
  }

  /** A small picture of what `bake` would make of it, with a sample a px; nothing is changed. */
  roughBake({ size = '2048', rays = 64, ...params }: ParamsOf<'bake'>): Promise<Outcome<Uint8Array>> {
    return attempt(async () => {
      const { roughSize, roughRays, aside } = await import('./roughBake.ts');
      const baked = params.part === undefined ? partsOnSheet(this.job) : [partOf(this.job, params.part)];
      const triangles = baked.reduce((sum, { mesh }) => sum + trianglesOf(mesh).count, 0);
      const small = {
        ...params,
        size: roughSize(String(size), triangles),
        rays: Math.min(Number(rays), roughRays),
        samples: 1,
        depth: 8,
        add: false,
        show: false,
      };
      // in another worker than the whole picture, which may be under way already
      const { report } = await runOperation(this.job, 'bake', small, { ...quietContext, pool: aside(this.livePool) });
      return { ok: true, sentence: '', report: (report as ReportOf<'bake'>).png() };
    });
  }

  /** What baking needs is loaded and compiled. */
  warmBake(): Promise<void> {
    return (this.bakeWarmed ??= import('./roughBake.ts').then(({ warmBake }) => warmBake(this.livePool)));
  }

  private bakeWarmed: Promise<void> | null = null;

  private told<N extends OperationName>(name: N, params: ParamsOf<N>): Promise<Outcome<ReportOf<N>>> {
    return attempt(async () => {
      const { report, sentence } = await runOperation(this.job, name, params, quietContext);
      return { ok: true, sentence, report: report as ReportOf<N> };
    });
  }

  /** The steps done so far as a recipe, or a recipe that a file has: with what each step is called. */
  recipe(name: string, text?: string): Promise<Outcome<RecipeView>> {
    return attempt(async () => {
      if (!this.history) throw new JigError('nothing-to-do', 'No job is open.');
      // loaded when a recipe is asked for
      const { makeRecipe, readRecipe } = await import('@jig-peel/core/ops/recipe');
      const recipe = text === undefined ? makeRecipe(this.history.entries.slice(0, this.history.index + 1), name) : readRecipe(text);
      const labels = recipe.steps.map(({ operation }) => operations.get(operation)!.label);
      return { ok: true, sentence: `${recipe.steps.length} steps`, report: { recipe, labels } };
    });
  }

  /** In which order a recipe's steps are done on some parts. */
  async recipeOrder(recipe: Recipe, parts: readonly string[]): Promise<{ step: number; part: string | null }[]> {
    return (await import('@jig-peel/core/ops/recipe')).recipeOrder(recipe, parts);
  }

  /** A newer mesh of the active part from a file: of its parts the one of the same name, or the only one. */
  async newerMesh(files: InputFile[]): Promise<Outcome<ReportOf<'newerMesh'>>> {
    const active = partOf(this.job);
    const read = await attempt(async () => {
      const { parts } = await this.pool.run('open', { files, id: 'newer' }, {});
      const found = parts.find(({ name }) => name === active.name) ?? (parts.length === 1 ? parts[0] : undefined);
      if (!found)
        throw new JigError(
          'not-found',
          `None of the ${parts.length} parts of the file is called “${active.name}”.`,
          '',
          'Rename the part at Intake to the name that it has there.',
        );
      return { ok: true, sentence: '', report: found };
    });
    if (!read.ok) return read;
    const { mesh: came, origin, up: guessed } = read.report;
    // it stands as the part does, whatever its file seems to say
    const { up } = active;
    const mesh = guessed === up ? came : turnUp(came, up === undefined);
    const { history } = this;
    const before = history && { history, entries: history.entries, index: history.index };
    const outcome = (await this.run('newerMesh', { part: active.id, mesh, origin, ...(up ? { up } : {}) })) as Outcome<ReportOf<'newerMesh'>>;
    this.newerTaken = outcome.ok && before ? { ...before, job: before.history.present } : null;
    return outcome;
  }

  /** The newer mesh that was looked at last is not taken: the job and its history are as before. Once something else was done it is a step like others. */
  leaveNewerMesh(): Promise<Outcome> {
    const taken = this.newerTaken;
    this.newerTaken = null;
    return this.turns.take(() =>
      attempt(() => {
        if (!taken || taken.history !== this.history || taken.history.present !== taken.job)
          throw new JigError('nothing-to-do', 'More was done since: undo brings the mesh of before back.');
        this.held.assertMine();
        this.follower.dropUnlessOf(taken.history.forget(taken));
        this.show();
        this.held.save();
        return { ok: true, sentence: 'The newer mesh was not taken', report: {} };
      }),
    );
  }

  /** How well an image goes on in itself; null where it cannot be read. */
  async selfJoin(id: string): Promise<SelfJoin | null> {
    const image = this.history?.present.images.find((one) => one.id === id);
    return image ? (await this.valuesOfSurface()).selfJoin(image) : null;
  }

  /** See `Measuring`; null when it was left meanwhile. */
  advise(): Promise<Outcome<AdviceFound | null>> {
    return attempt(async () => {
      const report = await this.measuring.advise(this.job);
      return { ok: true, sentence: report ? `Measured ways to project ${report.faces} faces` : '', report };
    });
  }

  leaveAdvice(): void {
    this.measuring.leaveAdvice();
  }

  /** Measured beside the work, so that nobody waits for it; a newer question takes the place of an older one. */
  joinAdvice(island: number): Promise<Outcome<ReportOf<'joinAdvice'>>> {
    return attempt(async () => {
      const { report } = await runOperation(this.job, 'joinAdvice', { island }, { ...quietContext, pool: this.advicePool });
      return { ok: true, sentence: '', report: report as ReportOf<'joinAdvice'> };
    });
  }

  /** A jig of a kind placed on the selected faces (all if none is), and these faces; the image as large as on a jig that it takes the place of. */
  fitJig(
    kind: JigKind,
    axis: PlacementAxis,
    sizeBy: 'faces' | 'part' = 'faces',
    before: Jig | null = null,
  ): Promise<Outcome<{ faces: Uint32Array; jig: Jig }>> {
    return attempt(() => {
      const { job } = this;
      const part = partOf(job);
      const faces = facesBy(job, part, 'selected');
      const fitted = placeJig(part.mesh, faces, kind, axis, sizeBy === 'part' ? facesBy(job, part, 'all') : faces);
      return { ok: true, sentence: '', report: { faces, jig: before ? keepImageSize(before, fitted) : fitted } };
    });
  }

  /** A jig of another kind on given faces, its image as large as on the one before. */
  fitFaces(faces: Uint32Array, kind: JigKind, before: Jig): Promise<Outcome<{ jig: Jig }>> {
    return attempt(() => ({ ok: true, sentence: '', report: { jig: keepImageSize(before, placeJig(partOf(this.job).mesh, faces, kind, 'auto')) } }));
  }

  /** Faces of the active part that a jig drives. */
  drivenFaces(id: string): Uint32Array | null {
    if (!this.history) return null;
    const { job } = this;
    const part = partOf(job);
    const drives = job.jigs?.find((one) => one.id === id)?.drives.filter((d) => d.part === part.id) ?? [];
    return (drives.find((d) => d.set === activeSet(part).name) ?? drives[0])?.faces ?? null;
  }

  /** UVs of the active part as jigs would make them. */
  preview(items: { jig: Jig; id?: string; faces?: Uint32Array }[]): UvPreview | null {
    if (!this.history) return null;
    this.measuring.holdAdvice(400);
    return this.previews.jigs(this.job, items);
  }

  /** What an operation would make of the UVs of the active part; null where it does nothing. */
  async previewStep<N extends OperationName>(name: N, params: ParamsOf<N>): Promise<UvPreview | null> {
    if (!this.history) return null;
    const { job } = this;
    try {
      const ran = await runOperation(job, name, params as Record<string, unknown>);
      return ran.job === job ? null : this.previews.of(ran.job, job, true);
    } catch {
      // what is amiss is said when it is really done
      return null;
    }
  }

  /** What an operation would do: its sentence and report, and the UVs it would give the active part; nothing is changed. It tells how far it is and can be cancelled. */
  tryStep<N extends OperationName>(name: N, params: ParamsOf<N>): Promise<Outcome<{ preview: UvPreview | null; report: ReportOf<N> }>> {
    return this.turns.take(() =>
      attempt(() =>
        this.works.run(async (context) => {
          const { job } = this;
          const start = performance.now();
          const { job: after, report, sentence } = await runOperation(job, name, params as Record<string, unknown>, context);
          const preview = after === job ? null : this.previews.of(after, job);
          return { ok: true as const, sentence, report: { preview, report: report as ReportOf<N> }, timings: { run: performance.now() - start, show: 0 } };
        }),
      ),
    );
  }

  /** UVs of the active part as they are given, ready to draw. */
  previewUv(corner: Float32Array): UvPreview | null {
    return this.history ? this.previews.given(this.job, corner) : null;
  }

  /** UVs of the active part as a version has them, ready to draw. */
  previewSet(index: number): UvPreview | null {
    return this.history ? this.previews.set(this.job, index) : null;
  }

  /** The active part as a version has it. */
  previewVersion(id: string): UvPreview | null {
    return this.history ? this.previews.version(this.job, id) : null;
  }

  /** What a hand on the sheet would move. */
  grip(how: GripHow): GripView[] {
    return this.history ? gripViews(this.job, how) : [];
  }

  /** What the island makes of pins drawn to places: u, v each. */
  movePins(points: number[], places: number[]): UvPreview | null {
    return this.history ? this.previews.movePins(this.job, points, places) : null;
  }

  endPins(): void {
    this.previews.endPins();
  }

  /** Px per unit of each face of the active part, of the sheet or, where stretch counts it, of the image as it lands. */
  density(): { faces: Float32Array; middle: number; of: 'sheet' | 'image' } | null {
    if (!this.history) return null;
    const { job } = this;
    const part = partOf(job);
    const landed = job.settings.countImage ? asImageLands(job, part, activeSet(part)) : null;
    const px = landed?.px ?? null;
    const faces = px
      ? faceDensity(part.mesh, landed!.set, px.width, px.height)
      : faceDensity(part.mesh, activeSet(part), job.settings.width, job.settings.height);
    const placed = faces.filter((x) => !Number.isNaN(x)).sort();
    return { faces, middle: placed[placed.length >> 1] ?? NaN, of: px ? 'image' : 'sheet' };
  }

  /** The active part as it is looked at in place of its cage; null where nothing is open. */
  async form(look: FormLook): Promise<FormView | null> {
    if (!this.history) return null;
    const part = partOf(this.job);
    const meshId = this.mirror.meshIds.of(part.mesh);
    const relief = look.form === 'raised' ? await this.reliefOf(part) : null;
    return this.formPool.run('form', { set: activeSet(part), look, meshId, relief }, { mesh: { id: meshId, mesh: part.mesh } }).catch((error: unknown) => {
      // between threads an error keeps its message alone: what to do goes with it
      throw new Error(sentenceOf(error));
    });
  }

  /** What raises the active part; null where no layer shows relief. */
  private async reliefOf(part: Job['parts'][number]): Promise<ReliefInput | null> {
    const { job } = this;
    const plan = hasLayers(job, part) ? this.surfaces.planOf(job) : null;
    if (!plan?.layers.some(({ layer }) => layer.to === 'relief')) return null;
    const { imagesOfLayers } = await import('@jig-peel/core/images/surface/layer');
    const wanted = new Set(imagesOfLayers(plan.layers.map(({ layer }) => layer)));
    return { plan, images: job.images.filter(({ id }) => wanted.has(id)) };
  }

  /** Strokes along which the picture is drawn out on the active part (`shapeStrokes`), asked for while they are shown. */
  strokes(): Float32Array {
    if (!this.history) return new Float32Array(0);
    const { job } = this;
    const part = partOf(job);
    return shapeStrokes(part.mesh, activeSet(part), job.settings.width, job.settings.height);
  }

  /** The grain of the active part, asked for while it is shown. */
  grain(): GrainView | null {
    return this.history ? grainView(this.job, partOf(this.job)) : null;
  }

  /** Marks on both sides of the active part's seams, asked for while they are shown. */
  notches(): Float32Array {
    if (!this.history) return new Float32Array(0);
    const part = partOf(this.job);
    return notchMarks(part.mesh, activeSet(part));
  }

  image(id: string): { bytes: Uint8Array; type: string } | null {
    const image = this.history?.present.images.find((i) => i.id === id);
    return image ? { bytes: image.bytes, type: image.type } : null;
  }

  deliver(choice: DeliverChoice): Promise<Outcome<Delivered>> {
    return attempt(() =>
      this.works.run(async (context, aside) => {
        await this.follower.settled(context.throwIfCancelled);
        const job = choice.version ? (await runOperation(this.job, 'useVersion', { version: choice.version })).job : this.job;
        const missing = choice.asItIs ? [] : missingFrom(job, choice);
        if (missing.length > 0) {
          const words = leftOutWords(missing);
          return { ...refused(words.join(' '), 'left-out'), leftOut: { words, parts: missing.map(({ part }) => part) } };
        }
        const { entries, index } = this.history!;
        const sentences = entries.slice(0, index + 1).map((entry) => entry.sentence);
        // loaded where layers are baked for a delivery first
        const baked = choice.bake ? await (await import('./bakedLayers.ts')).withBakedLayers(job, choice.parts, context) : { job, notes: [] };
        const report = await deliver({ job, pictured: baked.job }, choice, sentences, aside, context.progress);
        report.notes.unshift(...baked.notes);
        return { ok: true, sentence: `Delivered ${report.files.length} ${report.files.length === 1 ? 'file' : 'files'}`, report };
      }),
    );
  }
}

/** What a step is recorded with, so that it can be run again: images by their ids in the job. */
function recorded(name: string, params: Record<string, unknown>, report: unknown, job: Job): Record<string, unknown> {
  if (name !== 'addImages') return params;
  const { ids } = report as ReportOf<'addImages'>;
  return { ...params, images: ids.map((id) => ({ name: job.images.find((image) => image.id === id)!.name, id })) };
}

/** The images of zips among files in place of these. @throws JigError for a zip that is damaged or holds none */
async function unzipped(files: readonly { name: string; bytes: Uint8Array }[]): Promise<{ name: string; bytes: Uint8Array }[]> {
  if (!files.some(({ name }) => name.toLowerCase().endsWith('.zip'))) return [...files];
  // loaded with the first zip
  const { imagesOfZip, isZip } = await import('@jig-peel/core/formats/zippedImages');
  return files.flatMap((file) => (isZip(file.name) ? imagesOfZip(file) : [file]));
}

/** Functions cannot be sent; reports that have some are for the command line. */
function sent<R>(report: R): Sent<R> {
  if (!report || typeof report !== 'object') return report as Sent<R>;
  return Object.fromEntries(Object.entries(report).filter(([, value]) => typeof value !== 'function')) as Sent<R>;
}

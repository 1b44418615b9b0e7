import {
  islandsOf,
  isSearched,
  keepEdgeSight,
  knownEdgeSight,
  JigError,
  searchesOf,
  type BakeInput,
  type Band,
  type Context,
  type Mesh,
  type PackOptions,
  type PackReport,
  type ProposeOptions,
  type SeamProposal,
  type UvSet,
} from '@jig-peel/core';
import { CancelBoard } from './pool/cancelBoard.ts';
import type { PackingView, Progress } from './messages.ts';
import type { MeshIds } from './meshIds.ts';
import { packingView } from './packingView.ts';
import type { FoundLayout, TaskName, Tasks } from './pool/tasks.ts';
import type { WorkerPool } from './pool/workerPool.ts';
import { moveSeamIn } from './seamMoving.ts';

/** Does a task in the pool. @param progress default: the bar's */
export type Aside = <N extends TaskName>(name: N, input: Tasks[N]['input'], progress?: Context['progress']) => Promise<Tasks[N]['output']>;

/** Short work shows nothing: the bar comes after so many ms, and moves so often, since each change draws the page on the cores that work. */
const after = 150;
const every = 250;

/** Px of a picture from which on two workers bake it. */
const worthTwo = 512 * 512;

/**
 * Pieces of work that are under way, each with its own progress and its own cancel: one that begins or ends beside another leaves that alone. The
 * bar shows the one that was begun last of those that run.
 */
export class Works {
  private readonly list: Work[] = [];
  private shown: Work | null = null;

  constructor(
    private readonly tell: (progress: Progress | null) => void,
    private readonly pool: Pick<WorkerPool, 'solve' | 'run' | 'cancel'>,
    private readonly meshIds: MeshIds,
    readonly board = new CancelBoard(),
    private readonly packing: (view: PackingView | null) => void = () => {},
    /** For searches side by side: two, also where one worker is all that others get. */
    private readonly searchPool = pool,
  ) {}

  /** How many are under way. */
  get count(): number {
    return this.list.length;
  }

  /** @param work is given `aside`, which does a task in the pool under this work's cancel and progress, and the slot by which it is cancelled */
  async run<T>(work: (context: Context, aside: Aside, slot: number) => Promise<T>): Promise<T> {
    const mine = new Work(this.pool, this.meshIds, this.board, () => this.show(), this.packing, this.searchPool);
    this.list.push(mine);
    try {
      return await work(mine.context, mine.aside, mine.slot);
    } finally {
      mine.end();
      this.list.splice(this.list.indexOf(mine), 1);
      this.show();
    }
  }

  /**
   * Cancels one piece of work, and nothing where that has ended meanwhile.
   * @param slot default: of what the bar shows; before it shows anything, of what was begun last
   */
  cancel(slot = (this.shown ?? this.list.at(-1))?.slot): void {
    const target = this.list.find((work) => work.slot === slot);
    if (!target) return;
    this.board.cancel(target.slot);
    if (target.usesPool) this.cancelPools(target.slot);
  }

  /** Takes the best layout that a search has found so far; nothing where none is under way. */
  takePacking(): void {
    for (const work of this.list) work.takePacking();
  }

  /** Everything, when another job is opened. */
  cancelAll(): void {
    for (const work of this.list) this.board.cancel(work.slot);
    this.cancelPools();
  }

  private cancelPools(slot?: number): void {
    this.pool.cancel(slot);
    if (this.searchPool !== this.pool) this.searchPool.cancel(slot);
  }

  private show(): void {
    const due = this.list.filter((work) => work.isDue).at(-1) ?? null;
    if (due) this.tell({ ...due.progress, slot: due.slot });
    else if (this.shown) this.tell(null);
    this.shown = due;
  }
}

class Work {
  readonly slot: number;
  usesPool = false;
  isDue = false;
  progress: Progress = { share: 0, text: 'Working' };
  private told = -Infinity;
  private readonly began = performance.now();
  private readonly timer: ReturnType<typeof setTimeout>;

  constructor(
    private readonly pool: Pick<WorkerPool, 'solve' | 'run' | 'cancel'>,
    private readonly meshIds: MeshIds,
    private readonly board: CancelBoard,
    private readonly show: () => void,
    private readonly packing: (view: PackingView | null) => void,
    private readonly searchPool: Pick<WorkerPool, 'run' | 'cancel'>,
  ) {
    this.slot = board.begin(true);
    this.timer = setTimeout(() => this.due(), after);
  }

  readonly context: Context = {
    progress: (share, text) => {
      this.progress = { share, text };
      // begun longer ago than the bar waits, and so busy since that its time has not come
      if (performance.now() - this.began > after && performance.now() - this.told >= every) this.due();
    },
    throwIfCancelled: () => {
      if (this.board.isCancelled(this.slot)) throw new JigError('cancelled', 'Cancelled; nothing was changed.');
    },
    pool: {
      solve: (tasks, context) => {
        this.usesPool = true;
        return this.pool.solve(tasks, context, { cancel: this.board.flag(this.slot), of: this.slot });
      },
      pack: (mesh, set, options, context) => this.search(mesh, set, options, context),
      propose: (mesh, set, options, context) => this.propose(mesh, set, options, context),
      moveSeam: (...asked) => {
        this.usesPool = true;
        return moveSeamIn(this.pool, this.meshIds, { cancel: this.board.flag(this.slot), of: this.slot })(...asked);
      },
      bake: (input, context) => this.bake(input, context),
      finishBake: (bands, options, bleed) => {
        this.usesPool = true;
        return this.pool.run('finishBake', { bands, options, bleed }, { cancel: this.board.flag(this.slot), of: this.slot, isOnce: true });
      },
    },
  };

  readonly aside: Aside = (name, input, progress = this.context.progress) => {
    this.usesPool = true;
    return this.pool.run(name, input, { cancel: this.board.flag(this.slot), of: this.slot, progress });
  };

  private take: (() => void) | null = null;

  takePacking(): void {
    this.take?.();
  }

  /** Packs in the pool; where it is worth it in several workers, each by a seed of its own, and the best is taken. */
  private async search(mesh: Mesh, set: UvSet, options: PackOptions, context: Context): Promise<{ set: UvSet; report: PackReport }> {
    // one island has one best place: that is worked out sooner than the mesh is sent
    if (islandsOf(mesh, set).count === 1) return (await import('@jig-peel/core/pack/packBest')).packBest(mesh, set, { ...options, effort: 0 }, context);
    this.usesPool = true;
    const asked = { mesh: { id: this.meshIds.of(mesh), mesh }, cancel: this.board.flag(this.slot), of: this.slot };
    if (!isSearched(options)) return this.pool.run('pack', { set, options }, { ...asked, progress: context.progress });
    const view = packingView(mesh, set, options);
    let best: FoundLayout | null = null;
    const searches = searchesOf(options, options.islands?.length ?? islandsOf(mesh, set).count);
    const shares = searches.map(() => 0);
    const runs = searches.map((search, k) =>
      this.searchPool.run(
        'pack',
        { set, options: search },
        {
          ...asked,
          progress: (share, text, found) => {
            shares[k] = share;
            context.progress(shares.reduce((sum, one) => sum + one, 0) / shares.length, text);
            if (!found || (best && best.coverage >= found.coverage)) return;
            best = found;
            this.packing(view(found));
          },
        },
      ),
    );
    try {
      // the first of the best, so that the same seeds give the same
      const whole = Promise.all(runs).then((all) => all.reduce((a, b) => (b.report.coverage > a.report.coverage ? b : a)));
      const taken = new Promise<null>((resolve) => (this.take = () => best && resolve(null)));
      const result = await Promise.race([whole, taken]);
      if (result) return result;
      const { uv, coverage, scale } = best!;
      // what still runs is ended by its flag, and this work's flag is put down again: the step goes on
      this.searchPool.cancel(this.slot);
      for (const run of runs) run.catch(() => {});
      whole.catch(() => {});
      const packed = options.islands?.length ?? islandsOf(mesh, set).count;
      return { set: { ...set, uv }, report: { packed, skipped: 0, scale, coverage, tries: 0 } };
    } finally {
      this.take = null;
      this.packing(null);
    }
  }

  /** How much the edges of a mesh are seen, asked for once for all proposals of this work. */
  private sight: Promise<Float64Array> | null = null;

  /** Works seams out in a worker, where up to two ways are worked out at once. */
  private async propose(mesh: Mesh, set: UvSet, options: ProposeOptions, { progress }: Context): Promise<SeamProposal> {
    this.usesPool = true;
    const asked = { mesh: { id: this.meshIds.of(mesh), mesh }, cancel: this.board.flag(this.slot), of: this.slot };
    const { blockers, towards, below, ...rest } = options;
    const from = { blockers, towards, below };
    const known = options.preferHidden === false ? null : knownEdgeSight(mesh, from);
    if (!known && options.preferHidden !== false) this.sight ??= this.searchPool.run('sight', from, asked);
    const seen = known ?? (await this.sight);
    if (seen) keepEdgeSight(mesh, from, seen);
    // what is tried a second time begins at nothing again
    let most = 0;
    const rising = (share: number, text: string) => progress((most = Math.max(most, share)), text);
    return this.searchPool.run('propose', { set, options: { ...rest, towards, below }, seen }, { ...asked, progress: rising });
  }

  /** Every other band in each of two workers; a small picture in one. */
  private async bake(whole: BakeInput, context: Context): Promise<Band[]> {
    this.usesPool = true;
    const { ofWantedImages, sharedCanvas } = await import('@jig-peel/core/images/bakeBands');
    const input = { ...ofWantedImages(whole), canvas: sharedCanvas(whole.options) };
    // for a small picture a second copy of the meshes costs more than it gains
    const { width, height, what } = whole.options;
    const traces = what === 'occlusion' || what === 'thickness';
    const shares = width * height < worthTwo && !traces ? [0] : [0, 0];
    const runs = shares.map((_, at) =>
      this.searchPool.run(
        'bake',
        { ...input, share: { of: shares.length, at } },
        {
          cancel: this.board.flag(this.slot),
          of: this.slot,
          progress: (share, text) => {
            shares[at] = share;
            context.progress((shares.reduce((sum, one) => sum + one, 0) / shares.length) * 0.9, text);
          },
        },
      ),
    );
    return (await Promise.all(runs)).flat();
  }

  end(): void {
    clearTimeout(this.timer);
    this.isDue = false;
  }

  private due(): void {
    this.isDue = true;
    this.told = performance.now();
    this.show();
  }
}

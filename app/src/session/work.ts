import { islandsOf, JigError, packLayout, type Context } from '@jig-peel/core';
import { CancelBoard } from './pool/cancelBoard.ts';
import type { Progress } from './messages.ts';
import type { MeshIds } from './meshIds.ts';
import type { TaskName, Tasks } from './pool/tasks.ts';
import type { WorkerPool } from './pool/workerPool.ts';

/** Does a task in the pool. @param progress default: the bar's */
export type Aside = <N extends TaskName>(name: N, input: Tasks[N]['input'], progress?: Context['progress']) => Promise<Tasks[N]['output']>;

/** Short work shows nothing: the bar comes after so many ms, and moves so often, since each change draws the page on the cores that work. */
const after = 150;
const every = 250;

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
  ) {}

  /** How many are under way. */
  get count(): number {
    return this.list.length;
  }

  /** @param work is given `aside`, which does a task in the pool under this work's cancel and progress */
  async run<T>(work: (context: Context, aside: Aside) => Promise<T>): Promise<T> {
    const mine = new Work(this.pool, this.meshIds, this.board, () => this.show());
    this.list.push(mine);
    try {
      return await work(mine.context, mine.aside);
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
    if (target.usesPool) this.pool.cancel(target.slot);
  }

  /** Everything, when another job is opened. */
  cancelAll(): void {
    for (const work of this.list) this.board.cancel(work.slot);
    this.pool.cancel();
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
    private readonly pool: Pick<WorkerPool, 'solve' | 'run'>,
    private readonly meshIds: MeshIds,
    private readonly board: CancelBoard,
    private readonly show: () => void,
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
      pack: (mesh, set, options, context) => {
        // one island has one best place: that is worked out sooner than the mesh is sent
        if (islandsOf(mesh, set).count === 1) return Promise.resolve(packLayout(mesh, set, options, context));
        this.usesPool = true;
        const asked = { mesh: { id: this.meshIds.of(mesh), mesh }, cancel: this.board.flag(this.slot), of: this.slot, progress: context.progress };
        return this.pool.run('pack', { set, options }, asked);
      },
    },
  };

  readonly aside: Aside = (name, input, progress = this.context.progress) => {
    this.usesPool = true;
    return this.pool.run(name, input, { cancel: this.board.flag(this.slot), of: this.slot, progress });
  };

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

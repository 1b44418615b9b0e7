import {
  activeSet,
  asMeant,
  asImageLands,
  facesBy,
  grainAngles,
  grainFigures,
  grainSeenIn,
  hasSeams,
  joinedSight,
  joinParts,
  keepEdgeSight,
  knownEdgeSight,
  leftOut,
  meantFaces,
  partOf,
  partsOnSheet,
  selectionByPart,
  figuresOfPieces,
  sheetFor,
  sightOptionsOf,
  unplacedCount,
  unseenEdges,
  partFigures,
  uvPointsOf,
  type Advice,
  type History,
  type Job,
  type Part,
  type SmallPicture,
  type UvSet,
} from '@jig-peel/core';
import { LatestOnly } from './latestOnly.ts';
import type { Measures, WorkerEvent } from './messages.ts';
import type { MeshIds } from './meshIds.ts';
import { indexOfLayout } from './pool/indexing.ts';
import type { WorkerPool } from './pool/workerPool.ts';
import { wordsOf } from './words.ts';

/** Up to so many corners a layout is indexed in some ms. */
const smallCorners = 100_000;

/** Ms that measuring waits for a further change, and that figures of the selection do. */
const pause = 60;
const figuresPause = 30;
/** Ms of rest after which is worked out what is likely to be asked for next. */
const readyPause = 1500;

/** Degrees off the grain beyond which it is worth a look. */
const grainLimit = 10;

export interface AdviceFound {
  faces: number;
  list: Advice[];
  pictures: SmallPicture[];
}

/** What is worked out beside the steps: measures of the layout, its index for picking, figures of the selection, projections that would suit. */
export class Measuring {
  private readonly timers = new Map<'measures' | 'index' | 'figures' | 'ready', ReturnType<typeof setTimeout>>();
  /** What waits for its time. */
  private readonly due = new Set<'measures' | 'index' | 'figures'>();
  /** What is worked out at rest just now. */
  private gettingReady: Promise<unknown> | null = null;
  private readonly measures: LatestOnly<Job, Measures>;
  private readonly index: LatestOnly<Job, ArrayBuffer>;

  constructor(
    private readonly pool: WorkerPool,
    /** Advice takes long: it stands in nobody's way. */
    private readonly advicePool: WorkerPool,
    private readonly meshIds: MeshIds,
    private readonly tell: (event: WorkerEvent) => void,
    private readonly state: {
      history(): History | null;
      /** The layout that the screen shows. */
      shown(): UvSet | null;
      /** Something more urgent has the machine. */
      waits(): boolean;
      /** Work out, at rest, what is likely to be asked for next. */
      getsReady: boolean;
    },
  ) {
    this.measures = new LatestOnly(
      (job) => this.measure(job),
      (measures, job) => {
        if (!this.isShown(job)) return;
        this.tell({ kind: 'measures', measures });
        this.getReady(job);
      },
      (error) => this.tell({ kind: 'trouble', sentence: `The measures could not be worked out: ${wordsOf(error)}` }),
    );
    this.index = new LatestOnly(
      (job) => this.indexOf(job),
      (data, job) => {
        if (this.isShown(job)) this.tell({ kind: 'index', part: partOf(job).id, data });
      },
      (error) => this.tell({ kind: 'trouble', sentence: `Islands cannot be picked on the sheet: ${wordsOf(error)}` }),
    );
  }

  /** The layout is another one. */
  layoutChanged(job: Job): void {
    this.soon('index', 0, () => this.index.ask(job));
    this.soon('measures', pause, () => this.measures.ask(job));
  }

  /** The selection may be another one. */
  selectionChanged(): void {
    clearTimeout(this.timers.get('figures'));
    this.due.add('figures');
    this.timers.set(
      'figures',
      setTimeout(() => {
        this.due.delete('figures');
        this.tellFigures();
      }, figuresPause),
    );
  }

  /** Whether something is measured, or soon will be. */
  get isBusy(): boolean {
    return this.due.size > 0 || this.measures.isBusy || this.index.isBusy;
  }

  close(): void {
    for (const timer of this.timers.values()) clearTimeout(timer);
    this.due.clear();
    this.measures.drop();
    this.index.drop();
  }

  /** Projections for the selected faces (all if none is), measured and ranked, best first; null when it was left meanwhile. */
  async advise(job: Job): Promise<AdviceFound | null> {
    const faces = facesBy(job, partOf(job), 'selected');
    const mesh = this.meshOf(job);
    const found = await this.advicePool.run('advise', { faces }, { mesh });
    if (!found) return null;
    const list = found.slice(0, 4);
    const pictures = await this.advicePool.run('picture', { list }, { mesh });
    // from here on they are faces of the mesh
    for (const { figures } of list) figures.badly = figures.badly.map((k) => faces[k]!);
    return { faces: faces.length, list, pictures };
  }

  /** Nobody waits for the advice any more. */
  leaveAdvice(): void {
    this.advicePool.note({ kind: 'leaveAdvice' });
  }

  /** Advice gives way to a hand that moves a jig. */
  holdAdvice(ms: number): void {
    this.advicePool.note({ kind: 'hold', ms });
  }

  private isShown(job: Job): boolean {
    return this.state.shown() === activeSet(partOf(job));
  }

  private meshOf(job: Job) {
    const { mesh } = partOf(job);
    return { id: this.meshIds.of(mesh), mesh };
  }

  /** In this thread where that is quicker than a worker's start. */
  private async indexOf(job: Job): Promise<ArrayBuffer> {
    const { mesh } = partOf(job);
    const set = activeSet(partOf(job));
    if (mesh.corners.length > smallCorners) return this.pool.run('index', { set }, { mesh: this.meshOf(job) });
    return indexOfLayout(mesh, set);
  }

  private soon(name: 'measures' | 'index', ms: number, work: () => void): void {
    clearTimeout(this.timers.get(name));
    this.due.add(name);
    this.timers.set(
      name,
      setTimeout(() => {
        if (this.state.waits()) {
          this.soon(name, 30, work);
          return;
        }
        this.due.delete(name);
        work();
      }, ms),
    );
  }

  /** How much the part's edges are seen, from where the job says and with the other parts before it; kept while those stay. */
  private async sightOf(job: Job, part: Part): Promise<Float64Array> {
    const options = sightOptionsOf(job, part);
    await this.gettingReady;
    const known = knownEdgeSight(part.mesh, options);
    if (known) return known;
    const seen = await this.pool.run('sight', options, { mesh: { id: this.meshIds.of(part.mesh), mesh: part.mesh } });
    keepEdgeSight(part.mesh, options, seen);
    return seen;
  }

  /** Proposals of seams, and the measures after the first cut, ask how much each edge is seen. */
  private getReady(job: Job): void {
    if (!this.state.getsReady) return;
    clearTimeout(this.timers.get('ready'));
    this.timers.set(
      'ready',
      setTimeout(() => {
        if (!this.isShown(job) || this.isBusy || this.state.waits()) return;
        const work: Promise<unknown> = this.sightOf(job, partOf(job))
          .catch(() => {})
          .finally(() => {
            if (this.gettingReady === work) this.gettingReady = null;
          });
        this.gettingReady = work;
      }, readyPause),
    );
  }

  private async measure(job: Job): Promise<Measures> {
    const part = partOf(job);
    const set = activeSet(part);
    const { settings } = job;
    const meant = meantFaces(job, part, set);
    const { width, height, margin, tiles } = sheetFor(job, part.id);
    const { countImage } = settings;
    const seen = grainSeenIn(job, part, set);
    const sight = hasSeams(part) ? await this.sightOf(job, part) : null;
    const asked = { set, width, height, margin, tiles, meant, landed: countImage ? asImageLands(job, part, set) : null, sight };
    const { report, faults, state } = await this.pool.run('check', asked, { mesh: this.meshOf(job) });
    const sheet = await this.measureSheet(job, part);
    const all = sheet ?? { report, faults, meant };
    const overlapFaults = all.faults.overlapping.reduce((sum, x, f) => sum + (x && !all.meant?.[f] ? 1 : 0), 0);
    const away = leftOut(sheet?.parts ?? [part], () => tiles);
    const letters = (of: 'outside' | 'waiting') => away.flatMap((one) => one[of].map((letter) => (one.part === part.id ? letter : `${one.name} ${letter}`)));
    const beside = partsOnSheet(job, part.id).filter((one) => one.id !== part.id && !one.isHidden);
    const facesWithoutUv = [part, ...beside].reduce((sum, one) => sum + unplacedCount(activeSet(one)), 0);
    const judged = { ...asMeant(all.report, all.faults, all.meant), facesWithoutUv };
    return {
      part: part.id,
      report: all.report,
      judged,
      ofParts: partFigures(job, [part, ...beside]),
      own: report,
      state,
      ...(sheet ? sheet.own : faults),
      repeats: all.meant !== null,
      overlapFaults,
      outsideIslands: letters('outside'),
      waitingIslands: letters('waiting'),
      grain: part.grain ? grainFigures(part.mesh, grainAngles(part.mesh, seen.set, part.grain, seen.aspect, settings.grainAlong), grainLimit) : null,
    };
  }

  /** All parts on the sheet of one together; null where it is there alone. @returns the faults of that one beside those of all */
  private async measureSheet(job: Job, part: Part) {
    const parts = partsOnSheet(job, part.id).filter(
      (one) => one.id === part.id || (!one.isHidden && unplacedCount(activeSet(one)) < activeSet(one).unplaced.length),
    );
    if (parts.length < 2) return null;
    const { mesh, set } = joinParts(parts);
    const faceCount = (one: Part) => one.mesh.faceStart.length - 1;
    const meantOf = parts.map((one) => meantFaces(job, one, activeSet(one)));
    const meant = meantOf.some((one) => one !== null) ? joinedBytes(meantOf.map((one, k) => one ?? new Uint8Array(faceCount(parts[k]!)))) : null;
    const { width, height, margin, tiles } = sheetFor(job, part.id);
    const sights: Float64Array[] = [];
    for (const one of parts) sights.push(hasSeams(one) ? await this.sightOf(job, one) : unseenEdges(one));
    const sight = joinedSight(sights);
    const asked = { set, width, height, margin, tiles, meant, landed: null, sight };
    const { report, faults } = await this.pool.run('check', asked, { mesh: { id: this.meshIds.of(mesh), mesh } });
    const from = parts
      .slice(
        0,
        parts.findIndex((one) => one.id === part.id),
      )
      .reduce((sum, one) => sum + faceCount(one), 0);
    const ownOf = (faces: Uint8Array) => faces.slice(from, from + faceCount(part));
    const own = { flipped: ownOf(faults.flipped), overlapping: ownOf(faults.overlapping), outside: ownOf(faults.outside) };
    return { report, faults, meant, own, parts };
  }

  private tellFigures(): void {
    const job = this.state.history()?.present;
    if (!job) return;
    const { selection, settings } = job;
    const chosen = selectionByPart(job);
    const pieces = chosen.map(({ part, ids }) => ({ mesh: part.mesh, set: activeSet(part), ids }));
    const figures = pieces.length > 0 ? figuresOfPieces(pieces, selection.kind, settings.width, settings.height) : null;
    const uvPoints = selection.kind === 'points' ? chosen.reduce((sum, one) => sum + uvPointsOf(one).length, 0) : null;
    this.tell({ kind: 'figures', figures: figures && { ...figures, uvPoints } });
  }
}

function joinedBytes(lists: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(lists.reduce((sum, list) => sum + list.length, 0));
  let at = 0;
  for (const list of lists) {
    out.set(list, at);
    at += list.length;
  }
  return out;
}

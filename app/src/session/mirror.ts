import { activeSet, asImageLands, partOf, partsOnSheet, sheetFor, type Job, type Mesh, type UvSet } from '@jig-peel/core';
import type { History } from '@jig-peel/core';
import type { WorkerEvent } from './messages.ts';
import { MeshIds } from './meshIds.ts';
import { contextGeometry, LayoutViews, partGeometry, sheetPartView } from './partViews.ts';
import { SummaryTeller } from './summary.ts';

/** Corners of other parts on the sheet that are told together with a step, and of more that follow a moment later: what is told is drawn, each time all of it. */
const mostAtOnce = 100_000;
const mostLater = 60_000;
/** Ms between the geometries of two parts that are mere context, so that nothing waits for them. */
const contextPause = 20;

/** Tells the screen what it shows of a job: each time only what has changed since. */
export class Mirror {
  readonly meshIds = new MeshIds();
  private readonly teller = new SummaryTeller();
  private readonly layouts = new LayoutViews();
  private told = { mesh: -1, set: null as UvSet | null, size: '' };
  private sheetParts = new Map<string, { set: UvSet; hidden: Uint8Array | undefined }>();
  private contexts = new Map<string, { mesh: Mesh; hidden: Uint8Array | undefined }>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly tell: (event: WorkerEvent) => void,
    /** The layout of the active part is another one. */
    private readonly layoutChanged: (job: Job) => void,
  ) {}

  /** From now on everything is told again. */
  forget(): void {
    this.told = { mesh: -1, set: null, size: '' };
    this.contexts.clear();
    this.sheetParts.clear();
    this.teller.forget();
  }

  /** The layout that the screen shows. */
  get layout(): UvSet | null {
    return this.told.set;
  }

  /** @param live the layout follows a change of seams by itself */
  show(history: History, live = false): void {
    const job = history.present;
    const part = partOf(job);
    const meshId = this.meshIds.of(part.mesh);
    if (this.told.mesh !== meshId) {
      this.told = { mesh: meshId, set: null, size: '' };
      this.tell({ kind: 'geometry', geometry: partGeometry(part, meshId) });
    }
    const set = activeSet(part);
    const { width, height, countImage } = job.settings;
    const counted = countImage ? asImageLands(job, part, set) : null;
    const size = `${width}x${height}${counted ? JSON.stringify([part.imageId, part.placement]) : ''}`;
    if (this.told.set !== set || this.told.size !== size) {
      this.told = { mesh: meshId, set, size };
      this.tell({ kind: 'layout', layout: this.layouts.of(part, set, meshId, width, height, counted), live });
      this.layoutChanged(job);
    }
    this.tell({ kind: 'summary', ...this.teller.changes(history) });
    if (this.othersChanged(job)) this.layoutChanged(job);
    this.tellSheetParts(job, mostAtOnce);
    this.contextsSoon(history);
  }

  private others = '';
  private readonly setIds = new WeakMap<object, number>();
  private lastSet = 0;

  /** Whether the layouts beside the one at work, its grain or its sheet differ from what they were: what is measured does, then. */
  private othersChanged(job: Job): boolean {
    const idOf = (set: object) => {
      if (!this.setIds.has(set)) this.setIds.set(set, ++this.lastSet);
      return this.setIds.get(set)!;
    };
    const { id: active, grain, imageId, placement } = partOf(job);
    const beside = partsOnSheet(job)
      .filter((part) => part.id !== active && !part.isHidden)
      .map((part) => idOf(activeSet(part)))
      .join();
    const { tiles, margin, borderGap } = sheetFor(job);
    const now = `${beside} ${grain ? idOf(grain) : 0} ${job.settings.grainAlong} ${grain && job.settings.countImage ? JSON.stringify([imageId, placement]) : ''} ${tiles} ${margin} ${borderGap} ${job.settings.seenFrom}`;
    const changed = now !== this.others;
    this.others = now;
    return changed;
  }

  /** The islands of other parts on the sheet, until so many corners were told. @returns whether all were */
  private tellSheetParts(job: Job, corners: number): boolean {
    let left = corners;
    for (const part of partsOnSheet(job)) {
      const set = activeSet(part);
      const known = this.sheetParts.get(part.id);
      if (part.id === partOf(job).id || part.isHidden || (known?.set === set && known.hidden === part.hidden)) continue;
      if (left <= 0) return false;
      left -= part.mesh.corners.length;
      this.sheetParts.set(part.id, { set, hidden: part.hidden });
      this.tell({ kind: 'sheetPart', view: sheetPartView(part) });
    }
    return true;
  }

  /** The other parts, one at a time; those on the sheet go first. */
  private contextsSoon(history: History): void {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      const job = history.present;
      if (!this.tellSheetParts(job, mostLater)) {
        this.contextsSoon(history);
        return;
      }
      const active = partOf(job).id;
      for (const part of job.parts) {
        const known = this.contexts.get(part.id);
        if (part.id === active || part.isHidden || (known?.mesh === part.mesh && known.hidden === part.hidden)) continue;
        this.contexts.set(part.id, { mesh: part.mesh, hidden: part.hidden });
        this.tell({ kind: 'context', geometry: contextGeometry(part) });
        this.contextsSoon(history);
        return;
      }
    }, contextPause);
  }

  close(): void {
    clearTimeout(this.timer);
  }
}

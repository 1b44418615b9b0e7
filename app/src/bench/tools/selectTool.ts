import { useBench } from '../../store/bench.ts';
import type { Region } from '@jig-peel/core';
import { coreApi, notify, run } from '../../worker/client.ts';
import type { RegionTake, RegionView } from '../../session/messages.ts';
import type { PointerAt, Tool } from './tool.ts';

/** The number that a hit means in the present kind, or −1. */
function meant(at: PointerAt): number {
  const { kind } = useBench.getState();
  if (!at.hit || kind === 'parts') return -1;
  return kind === 'points' ? at.hit.point : kind === 'edges' ? at.hit.edge : kind === 'faces' ? at.hit.face : at.hit.island;
}

function present(): Set<number> {
  const { summary, kind } = useBench.getState();
  const selection = summary?.selection;
  return new Set(selection && selection.kind === kind && selection.part === summary.activePart ? selection.ids : []);
}

/** Parts chosen as wholes, with the keys held as for elements. */
function chooseParts(found: string[], at: PointerAt): void {
  const { summary } = useBench.getState();
  if (!summary) return;
  const before = summary.selectedParts;
  const kept = at.shift || at.ctrl ? before.filter((id) => !found.includes(id)) : [];
  const parts = at.ctrl ? kept : [...kept, ...found];
  if (parts.length === before.length && parts.every((id, k) => id === before[k])) return;
  void run('selectParts', { parts });
}

async function choose(ids: Set<number>): Promise<void> {
  const before = present();
  if (ids.size === before.size && [...ids].every((id) => before.has(id))) return;
  const { kind, summary } = useBench.getState();
  if (kind === 'parts') return;
  // shown at once, so that a key pressed right after the click finds it; the worker's answer follows
  if (summary) useBench.getState().showSelection({ part: summary.activePart, kind, ids: Uint32Array.from(ids).sort() });
  await run('select', { kind, ids: [...ids] });
}

/** With the keys held: add to, take from, or replace the selection. */
function combine(found: Iterable<number>, at: PointerAt): Set<number> {
  const ids = at.shift || at.ctrl ? present() : new Set<number>();
  for (const id of found) {
    if (at.ctrl) ids.delete(id);
    else ids.add(id);
  }
  return ids;
}

/** Finds what lies in a drawn region and chooses it: all in the worker, so that the screen never waits. */
async function takeRegion(take: RegionTake, view: RegionView): Promise<void> {
  const start = performance.now();
  const outcome = await coreApi().takeRegion(take, view);
  performance.measure('select region', { start, detail: outcome.ok ? outcome.timings : undefined });
  notify(outcome, false);
}

/** Points chosen one by one on the sheet are meant where they were clicked, not on the other side of a seam as well. */
function noteIsland({ view, hit }: PointerAt, chosen: Set<number>, at: PointerAt): void {
  const { kind, onIslands, layout, set } = useBench.getState();
  if (kind !== 'points' || view !== 'sheet' || !hit || !layout) {
    set({ onIslands: null });
    return;
  }
  const before = (at.shift || at.ctrl) && onIslands?.layout === layout && at.shift ? onIslands.islands : [];
  set({ onIslands: { layout, points: Uint32Array.from(chosen).sort(), islands: [...new Set([...before, hit.island])] } });
}

/** Less than this (px) is a click. */
const dragFrom = 5;

/**
 * Click chooses, Shift adds, Ctrl takes away, double click takes the loop (or the whole piece of a face); a drag draws a box, a lasso or a
 * brush stroke, and what lies in it is chosen when it ends.
 */
export class SelectTool implements Tool {
  private start: PointerAt | null = null;
  private region: Region | null = null;
  /** What the brush passed right over, however small the brush. */
  private readonly touched = new Set<number>();

  down(at: PointerAt): void {
    this.start = at;
    this.region = null;
    this.touched.clear();
    if (useBench.getState().shape === 'brush') this.extend(at);
  }

  move(at: PointerAt): void {
    const { start } = this;
    if (!start || (!this.region && Math.hypot(at.x - start.x, at.y - start.y) <= dragFrom)) return;
    this.extend(at);
  }

  private extend(at: PointerAt) {
    const start = this.start!;
    const { shape, brush } = useBench.getState();
    if (shape === 'box') this.region = { shape, points: [start.x, start.y, at.x, at.y] };
    else {
      const before = this.region && this.region.shape === shape ? this.region.points : [start.x, start.y];
      const points = [...before, at.x, at.y];
      this.region = shape === 'lasso' ? { shape, points } : { shape, points, radius: brush };
      if (shape === 'brush' && meant(at) >= 0) this.touched.add(meant(at));
    }
    useBench.getState().set({ drawn: { view: start.view, region: this.region }, hover: null });
  }

  up(at: PointerAt): void {
    const { start, region } = this;
    const moved = start !== null && Math.hypot(at.x - start.x, at.y - start.y) > dragFrom;
    this.cancel();
    if (!start) return;
    if (region && (moved || region.points.length > 6)) {
      const { kind, through } = useBench.getState();
      if (kind === 'parts') {
        if (start.view === 'model') chooseParts(at.picker.partsIn(region), at);
        return;
      }
      void takeRegion({ region, kind, through, mode: at.ctrl ? 'take' : at.shift ? 'add' : 'set', touched: [...this.touched] }, at.picker.viewOf(start.view));
      return;
    }
    if (useBench.getState().kind === 'parts') {
      const part = start.view === 'model' ? start.picker.part(start.x, start.y) : start.hit ? useBench.getState().summary!.activePart : null;
      if (part !== null) chooseParts([part], at);
      else if (!at.shift && !at.ctrl) chooseParts([], at);
      return;
    }
    const id = meant(start);
    if (id < 0) {
      if (!at.shift && !at.ctrl) void choose(new Set());
      return;
    }
    const chosen = combine([id], at);
    noteIsland(start, chosen, at);
    void choose(chosen);
  }

  double(at: PointerAt): void {
    const id = meant(at);
    if (id < 0) return;
    const { kind, layout } = useBench.getState();
    if (kind === 'edges') {
      void coreApi()
        .loop(id)
        .then((loop) => choose(combine(loop, at)));
    } else if (kind === 'faces' && layout && at.hit) {
      const { island } = at.hit;
      const faces: number[] = [];
      layout.faceIsland.forEach((i, f) => {
        if (i === island) faces.push(f);
      });
      void choose(combine(faces, at));
    }
  }

  cancel(): void {
    this.start = null;
    this.region = null;
    if (useBench.getState().drawn) useBench.getState().set({ drawn: null });
  }
}

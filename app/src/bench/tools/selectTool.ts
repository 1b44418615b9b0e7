import { useBench } from '../../store/bench.ts';
import type { Region } from '@jig-peel/core';
import { coreApi, notify, run } from '../../worker/client.ts';
import type { RegionTake, RegionView } from '../../session/messages.ts';
import { choose, combined, cornersMeant, nothingChosen } from '../chosen.ts';
import { facesOfCorners } from '../views/uvRows.ts';
import { chooseBeside } from './chooseBeside.ts';
import { idMeant, type PointerAt, type Tool } from './tool.ts';

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

/** Finds what lies in a drawn region and chooses it: all in the worker, so that the screen never waits. */
async function takeRegion(take: RegionTake, view: RegionView): Promise<void> {
  const start = performance.now();
  const outcome = await coreApi().takeRegion(take, view);
  performance.measure('select region', { start, detail: outcome.ok ? outcome.timings : undefined });
  notify(outcome, false);
}

/** The half edges of a loop on the island it was taken on; null on the model: all. */
function loopCorners(loop: Uint32Array, { view, hit }: PointerAt): number[] | null {
  const { geometry, layout } = useBench.getState();
  if (view !== 'sheet' || !hit || hit.edgeCorner === undefined || hit.edgeCorner < 0 || !geometry || !layout) return null;
  const faceOf = facesOfCorners(geometry);
  const island = layout.faceIsland[faceOf[hit.edgeCorner]!]!;
  const out: number[] = [];
  for (const e of loop)
    for (let i = geometry.edgeStart[e]!; i < geometry.edgeStart[e + 1]!; i++)
      if (layout.faceIsland[faceOf[geometry.edgeCorners[i]!]!] === island) out.push(geometry.edgeCorners[i]!);
  return out;
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
      if (shape === 'brush' && idMeant(at.hit) >= 0) this.touched.add(idMeant(at.hit));
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
    const id = idMeant(start.hit);
    const beside = start.picker.beside(start);
    if (beside) void chooseBeside({ ...at, x: start.x, y: start.y }, beside);
    else if (id >= 0) void choose(combined(new Set([id]), cornersMeant(start.hit!), at));
    else if (!at.shift && !at.ctrl) void choose(nothingChosen);
  }

  double(at: PointerAt): void {
    const id = idMeant(at.hit);
    if (id < 0) return;
    const { kind, layout } = useBench.getState();
    if (kind === 'edges') {
      void coreApi()
        .loop(id)
        .then((loop) => choose(combined(new Set(loop), loopCorners(loop, at), at)));
    } else if (kind === 'faces' && layout && at.hit) {
      const { island } = at.hit;
      const faces: number[] = [];
      layout.faceIsland.forEach((i, f) => {
        if (i === island) faces.push(f);
      });
      void choose(combined(new Set(faces), null, at));
    }
  }

  cancel(): void {
    this.start = null;
    this.region = null;
    if (useBench.getState().drawn) useBench.getState().set({ drawn: null });
  }
}

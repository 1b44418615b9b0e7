import { useBench } from '../../store/bench.ts';
import type { Region } from '@jig-peel/core';
import { coreApi, notify, run } from '../../worker/client.ts';
import type { RegionTake, RegionView } from '../../session/messages.ts';
import { choose, chooseIslandBeside, chosenNow, combined, cornersMeant, nothingChosen, seenFrom } from '../chosen.ts';
import { facesOfCorners } from '../views/uvRows.ts';
import type { PointerAt, Tool } from './tool.ts';

/** The number that a hit means in the present kind, or −1. */
function meant(at: PointerAt): number {
  const { kind } = useBench.getState();
  if (!at.hit || kind === 'parts') return -1;
  return kind === 'points' ? at.hit.point : kind === 'edges' ? at.hit.edge : kind === 'faces' ? at.hit.face : at.hit.island;
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

/** Finds what lies in a drawn region and chooses it: all in the worker, so that the screen never waits. */
async function takeRegion(take: RegionTake, view: RegionView): Promise<void> {
  const start = performance.now();
  const outcome = await coreApi().takeRegion(take, view);
  performance.measure('select region', { start, detail: outcome.ok ? outcome.timings : undefined });
  notify(outcome, false);
}

/** Islands of another part are chosen beside those of the part at work; for anything smaller that part comes to work, and what lies there is chosen. */
async function chooseOther(at: PointerAt, other: { part: string; island: number }): Promise<void> {
  const { kind, summary } = useBench.getState();
  if (kind === 'islands') return chooseIslandBeside(other, at);
  const chosen = at.shift || at.ctrl ? seenFrom(chosenNow(), summary!.activePart, other.part) : nothingChosen;
  const outcome = await run('activatePart', { part: other.part });
  if (!outcome.ok || !(await pickable(other.part))) return;
  const hit = at.picker.sheet(at.x, at.y);
  const id = hit ? meant({ ...at, hit }) : -1;
  // what was chosen before stays so
  await choose(hit && id >= 0 ? combined(new Set([id]), cornersMeant(hit), at, chosen) : chosen);
}

/** Until a part is the one at work and can be picked on the sheet; false if that does not come about. */
async function pickable(part: string): Promise<boolean> {
  let isThere = false;
  for (let k = 0; k < 200; k++) {
    const { summary, layout, sheetIndex } = useBench.getState();
    // the answer to a step can come before what it changed
    if (summary?.activePart === part) isThere = true;
    else if (isThere) return false;
    if (isThere && layout?.part === part && sheetIndex) return true;
    await new Promise((next) => setTimeout(next, 25));
  }
  return false;
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
    const other = start.view === 'sheet' && (!start.hit || start.hit.face < 0) ? start.picker.otherOnSheet(start.x, start.y) : null;
    if (other) void chooseOther({ ...at, x: start.x, y: start.y }, other);
    else if (id >= 0) void choose(combined(new Set([id]), cornersMeant(start.hit!), at));
    else if (!at.shift && !at.ctrl) void choose(nothingChosen);
  }

  double(at: PointerAt): void {
    const id = meant(at);
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

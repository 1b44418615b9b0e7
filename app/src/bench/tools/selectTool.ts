import { useBench } from '../../store/bench.ts';
import { coreApi, run } from '../../worker/client.ts';
import type { PointerAt, Tool } from './tool.ts';

/** The number that a hit means in the present kind, or −1. */
function meant(at: PointerAt): number {
  const { kind } = useBench.getState();
  if (!at.hit) return -1;
  return kind === 'edges' ? at.hit.edge : kind === 'faces' ? at.hit.face : at.hit.island;
}

function present(): Set<number> {
  const { summary, kind } = useBench.getState();
  const selection = summary?.selection;
  return new Set(selection && selection.kind === kind && selection.part === summary.activePart ? selection.ids : []);
}

async function choose(ids: Set<number>): Promise<void> {
  const before = present();
  if (ids.size === before.size && [...ids].every((id) => before.has(id))) return;
  const { kind, summary } = useBench.getState();
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

/** Click chooses, Shift adds, Ctrl takes away, double click takes the loop (or the whole piece of a face). */
export class SelectTool implements Tool {
  private start: PointerAt | null = null;

  down(at: PointerAt): void {
    this.start = at;
  }

  move(): void {}

  up(at: PointerAt): void {
    const start = this.start;
    this.start = null;
    if (!start || Math.hypot(at.x - start.x, at.y - start.y) > 5) return;
    const id = meant(start);
    if (id < 0) {
      if (!at.shift && !at.ctrl) void choose(new Set());
      return;
    }
    void choose(combine([id], at));
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
  }
}

import { axesOf } from '@jig-peel/core';
import type { JigRow } from '../../session/messages.ts';
import { useBench } from '../../store/bench.ts';
import { jigsOfPart, takeInHand, useJigs } from '../jigs.ts';
import type { Ray } from '../views/jigShape.ts';

/** How far along a line of sight it enters a jig's frame; infinite where it passes by. */
export function entersFrame({ jig }: Pick<JigRow, 'jig'>, { from, along }: Ray): number {
  const axes = axesOf(jig);
  const least = Math.max(...jig.size) * 1e-3;
  let [enters, leaves] = [-Infinity, Infinity];
  for (const [k, axis] of axes.entries()) {
    const half = Math.max(jig.size[k]!, least) / 2;
    const at = axis.reduce((sum, a, d) => sum + a * (from[d]! - jig.origin[d]!), 0);
    const speed = axis.reduce((sum, a, d) => sum + a * along[d]!, 0);
    if (Math.abs(speed) < 1e-12) {
      if (Math.abs(at) > half) return Infinity;
      continue;
    }
    const [a, b] = [(-half - at) / speed, (half - at) / speed];
    enters = Math.max(enters, Math.min(a, b));
    leaves = Math.min(leaves, Math.max(a, b));
  }
  return enters <= leaves && leaves >= 0 ? Math.max(0, enters) : Infinity;
}

/** Jigs whose frames a line of sight goes through, the nearest first; those that stand in one place in the order of the list. */
export function jigsUnder<R extends Pick<JigRow, 'jig'>>(rows: readonly R[], sight: Ray): R[] {
  const near = rows.map((row) => ({ row, depth: entersFrame(row, sight) })).filter(({ depth }) => depth < Infinity);
  const size = Math.max(...rows.map(({ jig }) => Math.max(...jig.size)), 0);
  // a thousandth of the largest frame apart is one place
  return near.sort((a, b) => (Math.abs(a.depth - b.depth) <= size * 1e-3 ? 0 : a.depth - b.depth)).map(({ row }) => row);
}

let last: { x: number; y: number } | null = null;

/** A click on jigs takes the nearest in hand; a further click in the same place the one behind it, and so on, round again. Says which it is. */
export function takeUnder(x: number, y: number, sight: Ray): void {
  const found = jigsUnder(jigsOfPart(), sight);
  const again = last !== null && Math.hypot(x - last.x, y - last.y) <= 5;
  last = { x, y };
  const { notice } = useBench.getState();
  if (found.length === 0) {
    notice('No jig stands here: click on its frame, or choose it from the list.', 'info');
    return;
  }
  const before = found.findIndex(({ id }) => id === useJigs.getState().chosen);
  const k = again && before >= 0 ? (before + 1) % found.length : 0;
  takeInHand(found[k]!.id);
  notice(
    found.length === 1 ? `${found[k]!.name} is in hand.` : `${found[k]!.name} is in hand, ${k + 1} of ${found.length} here: click again for the next.`,
    'info',
  );
}

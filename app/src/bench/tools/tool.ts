import { useBench } from '../../store/bench.ts';
import type { ViewName } from '../views/stage.ts';
import type { Hit, Picker } from '../views/pick.ts';

/** One pointer event in a view, with what lies under it. */
export interface PointerAt {
  view: ViewName;
  picker: Picker;
  x: number;
  y: number;
  hit: Hit | null;
  shift: boolean;
  ctrl: boolean;
}

/** What the left button does. A tool is a small state machine; it changes the job only through operations. */
export interface Tool {
  down(at: PointerAt): void;
  move(at: PointerAt): void;
  up(at: PointerAt): void;
  double?(at: PointerAt): void;
  /** Drops what is under way. */
  cancel(): void;
}

/** The number that a hit means in the present kind, or −1. */
export function idMeant(hit: Hit | null): number {
  const { kind } = useBench.getState();
  if (!hit || kind === 'parts') return -1;
  return kind === 'points' ? hit.point : kind === 'edges' ? hit.edge : kind === 'faces' ? hit.face : hit.island;
}

import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Box, SoftWay, UvAffine } from '@jig-peel/core';
import type { GripView } from '../../session/messages.ts';

/** What things are turned and sized round: the middle of all, of each island by itself, or a place of the sheet. */
export type Pivot = 'middle' | 'each' | readonly [number, number];

export interface Snaps {
  /** Parts of the sheet's side that lines of a grid stand at; 0: no grid. */
  grid: number;
  px: boolean;
  /** UV points of other islands. */
  points: boolean;
  /** Borders and middles of other islands. */
  islands: boolean;
  /** Borders and middle of the sheet and of its tiles. */
  sheet: boolean;
  /** The margin to other islands and to the sheet's border. */
  gap: boolean;
  /** The outline of what is opaque in the picture. */
  outline: boolean;
}

export const noSnaps: Snaps = { grid: 0, px: false, points: false, islands: false, sheet: false, gap: false, outline: false };

/** A line that something has caught at, and what it is. */
export interface Guide {
  axis: 'u' | 'v';
  at: number;
  words: string;
}

export interface Drag {
  /** Where the frame has been taken to. */
  affine: UvAffine;
  /** Numbers beside the pointer. */
  words: string[];
  guides: Guide[];
  /** Triangles that would be turned over where it was let go of. */
  flips: number;
  /** Px of the sheet view. */
  at: [number, number];
}

export interface Hands {
  /** What is selected and has a place, as a hand would move it; null while it is not known. */
  grip: { views: GripView[]; box: Box } | null;
  pivot: Pivot;
  /** Points beside go along in part. */
  soft: { on: boolean; px: number; way: SoftWay };
  snaps: Snaps;
  drag: Drag | null;
  /** What islands are aligned to: the box round all of them, the sheet, or the one that was selected first. */
  alignTo: 'islands' | 'sheet' | 'first';
  /** The island that was selected first, as long as it stays so. */
  first: { part: string; island: number } | null;
  /** Points along the outline of the part's picture, u and v each; empty while it is not wanted or not known. */
  outline: Float32Array;
  set(patch: Partial<Pick<Hands, 'grip' | 'pivot' | 'drag' | 'outline' | 'alignTo' | 'first'>>): void;
  setSoft(patch: Partial<Hands['soft']>): void;
  setSnaps(patch: Partial<Snaps>): void;
}

/** Moving, turning and sizing on the sheet: what is in hand, and how it is done. Ways of doing it are kept in this browser. */
export const useHands = create<Hands>()(
  persist(
    (set) => ({
      grip: null,
      pivot: 'middle',
      soft: { on: false, px: 128, way: 'island' },
      snaps: { ...noSnaps, islands: true, sheet: true },
      drag: null,
      alignTo: 'islands',
      first: null,
      outline: new Float32Array(0),
      set: (patch) => set(patch),
      setSoft: (patch) => set(({ soft }) => ({ soft: { ...soft, ...patch } })),
      setSnaps: (patch) => set(({ snaps }) => ({ snaps: { ...snaps, ...patch } })),
    }),
    {
      name: 'jig-peel-hands',
      partialize: ({ soft, snaps }) => ({ soft, snaps }),
      // what was kept before there was a further snap has it off
      merge: (kept, now) => {
        const { soft, snaps } = (kept ?? {}) as Partial<Pick<Hands, 'soft' | 'snaps'>>;
        return { ...now, soft: { ...now.soft, ...soft }, snaps: { ...now.snaps, ...snaps } };
      },
    },
  ),
);

/** The place that things turn and size round; of islands each by itself the middle of the frame. */
export function pivotPlace({ grip, pivot }: Pick<Hands, 'grip' | 'pivot'>): [number, number] | null {
  if (!grip) return null;
  if (typeof pivot !== 'string') return [pivot[0], pivot[1]];
  const [left, bottom, right, top] = grip.box;
  return [(left + right) / 2, (bottom + top) / 2];
}

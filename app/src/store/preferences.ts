import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Mode } from '../theme/palette.ts';

interface Preferences {
  mode: Mode;
  setMode(mode: Mode): void;
  /** Cards that were opened or folded by their titles. */
  folds: Readonly<Record<string, boolean>>;
  setFold(title: string, open: boolean): void;
}

/** What a person has set for all jobs. */
export const usePreferences = create<Preferences>()(
  persist(
    (set) => ({
      mode: 'light',
      setMode: (mode) => set({ mode }),
      folds: {},
      setFold: (title, open) => set(({ folds }) => ({ folds: { ...folds, [title]: open } })),
    }),
    { name: 'jig-peel-preferences' },
  ),
);

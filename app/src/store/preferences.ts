import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Mode } from '../theme/palette.ts';

interface Preferences {
  mode: Mode;
  setMode(mode: Mode): void;
}

/** What a person has set for all jobs. */
export const usePreferences = create<Preferences>()(persist((set) => ({ mode: 'light', setMode: (mode) => set({ mode }) }), { name: 'jig-peel-preferences' }));

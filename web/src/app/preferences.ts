import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import type { Scheme } from './theme.ts';

interface Preferences {
  /** Null follows the system. */
  scheme: Scheme | null;
  setScheme(scheme: Scheme | null): void;
  compareView: 'merged' | 'sideBySide';
  setCompareView(view: 'merged' | 'sideBySide'): void;
}

/** What a person has chosen about the interface; kept in the browser. */
export const usePreferences = create<Preferences>()(
  persist(
    (set) => ({
      scheme: null,
      setScheme: (scheme) => set({ scheme }),
      compareView: 'merged',
      setCompareView: (compareView) => set({ compareView }),
    }),
    { name: 'polychron' },
  ),
);

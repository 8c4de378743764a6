import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';

interface Looking {
  /** The account or role (`role:reader`) a controller looks as; null as themselves. */
  as: string | null;
  /** Its name, for the frame. */
  name: string;
  /** The earlier moment one looks at, an ISO 8601 instant; null: now. */
  at: string | null;
  look(as: string | null, name?: string): void;
  lookAt(at: string | null): void;
}

/** As whom one looks, and at which moment; kept while the tab is open. */
export const useLooking = create<Looking>()(
  persist(
    (set) => ({
      as: null,
      name: '',
      at: null,
      look: (as, name = '') => set({ as, name }),
      lookAt: (at) => set({ at }),
    }),
    { name: 'polychron-looking', storage: createJSONStorage(() => sessionStorage) },
  ),
);

/** Whether one only looks, as somebody else or at an earlier moment, and can do nothing. */
export const useOnlyLooks = (): boolean => useLooking(({ as, at }) => as !== null || at !== null);

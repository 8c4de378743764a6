import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';

interface SeenAs {
  /** The account or role (`role:reader`) a controller looks as; null as themselves. */
  as: string | null;
  /** Its name, for the frame. */
  name: string;
  look(as: string | null, name?: string): void;
}

/** As whom one looks; kept while the tab is open. */
export const useSeenAs = create<SeenAs>()(
  persist(
    (set) => ({
      as: null,
      name: '',
      look: (as, name = '') => set({ as, name }),
    }),
    { name: 'polychron-seen-as', storage: createJSONStorage(() => sessionStorage) },
  ),
);

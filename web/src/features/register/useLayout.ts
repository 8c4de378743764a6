import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { useLibrary } from '../../parts/useLibrary.ts';
import { laidOut, type Layout, ofLibrary, usualLayout } from './columns.ts';

interface Columns {
  layout: Layout;
  lay: (layout: Layout) => void;
  /** Whether the tree of subjects stands beside the list. */
  subjects: boolean;
  showSubjects: (subjects: boolean) => void;
}

/** How somebody laid the Register out; kept in the browser. */
export const useLayout = create<Columns>()(
  persist(
    (set) => ({
      layout: usualLayout,
      lay: (layout) => set({ layout }),
      subjects: false,
      showSubjects: (subjects) => set({ subjects }),
    }),
    {
      name: 'polychron columns',
      merge: (kept, present) => {
        const { layout, subjects } = (kept ?? {}) as Partial<Columns>;
        return { ...present, layout: laidOut(layout), subjects: subjects === true };
      },
    },
  ),
);

/** The layout as far as the library has the columns. */
export function useShownLayout(): Layout {
  const { layout } = useLayout();
  const library = useLibrary();
  return ofLibrary(layout, library?.rules.fields.map(({ name }) => name) ?? []);
}

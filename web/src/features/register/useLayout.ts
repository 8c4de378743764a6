import { create } from 'zustand';
import { persist } from 'zustand/middleware';
import { laidOut, type Layout, usualLayout } from './columns.ts';

interface Columns {
  layout: Layout;
  lay: (layout: Layout) => void;
}

/** The columns of the Register as somebody chose them; kept in the browser. */
export const useLayout = create<Columns>()(
  persist((set) => ({ layout: usualLayout, lay: (layout) => set({ layout }) }), {
    name: 'polychron columns',
    merge: (kept, present) => ({
      ...present,
      layout: laidOut((kept as Partial<Columns> | undefined)?.layout),
    }),
  }),
);

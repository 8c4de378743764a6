import { create } from 'zustand';

interface HelpState {
  open: boolean;
  /** The word of the glossary that was asked about. */
  word: string | null;
  show: (open: boolean) => void;
  ask: (word: string) => void;
}

/** Whether the help is open, and at which word. */
export const useHelp = create<HelpState>()((set) => ({
  open: false,
  word: null,
  show: (open) => set({ open, word: null }),
  ask: (word) => set({ open: true, word }),
}));

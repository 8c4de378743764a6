import { useState } from 'react';
import type { Meant } from './meantFor.ts';

/** Dropped files that wait to be asked about. */
export interface DroppedWaiting {
  meant: readonly Meant[];
  /** Told of each that has found its place. */
  onPlaced: (meant: Meant) => void;
  /** The others are left alone. */
  onLeave: () => void;
}

/** @returns the files that wait, and what puts more of them beside those */
export function useDropped(): { waiting: DroppedWaiting; add: (meant: readonly Meant[]) => void } {
  const [meant, setMeant] = useState<readonly Meant[]>([]);
  return {
    waiting: {
      meant,
      onPlaced: (placed) => setMeant((all) => all.filter((each) => each !== placed)),
      onLeave: () => setMeant([]),
    },
    add: (more) => setMeant((all) => [...all, ...more]),
  };
}

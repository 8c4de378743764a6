import { create } from 'zustand';
import { ProblemError, problemOf } from './problems.ts';

interface SessionHere {
  /** Who is signed in on this page; null before, and once they have signed out. */
  account: string | null;
  /** Whether that session has ended while the page is open. */
  ended: boolean;
  begin(account: string): void;
  end(): void;
  leave(): void;
}

/** The session of this page, and whether it goes on. */
export const useSession = create<SessionHere>()((set) => ({
  account: null,
  ended: false,
  begin: (account) => set({ account, ended: false }),
  // Whoever was not signed in is led to the sign-in instead.
  end: () => set(({ account }) => ({ ended: account !== null })),
  leave: () => set({ account: null, ended: false }),
}));

/** Waits until the session goes on, in this page. */
export const sessionGoesOn = (): Promise<void> =>
  new Promise((resolve) => {
    if (!useSession.getState().ended) {
      resolve();
      return;
    }
    const stop = useSession.subscribe(({ ended }) => {
      if (ended) return;
      stop();
      resolve();
    });
  });

/** What was refused; where the session of this page has ended it is noted, and said what to do. */
export function refusalOf(status: number, text: string): ProblemError {
  const problem = problemOf(status, text);
  if (problem.code === 'not-signed-in') useSession.getState().end();
  return new ProblemError(useSession.getState().ended ? { ...problem, detail: endedWords } : problem);
}
const endedWords =
  'Your session has ended, and nothing was done. Sign in above, and press again: what you typed and chose is still here.';

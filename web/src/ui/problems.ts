import type { Problem } from '@polychron/contract';

/** A refusal of the server, with its sentence for a person. */
export class ProblemError extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
    this.name = 'ProblemError';
  }
}

const problem = (status: number, code: string, detail: string): Problem => ({
  type: 'about:blank',
  title: '',
  status,
  code,
  detail,
});
/** Nobody answered. */
export const unreachable = (): ProblemError =>
  new ProblemError(
    problem(
      0,
      'unreachable',
      'The server cannot be reached. Check the connection and try again; nothing you typed is lost.',
    ),
  );

/** Whether the session is over. */
export const isSignedOut = (error: unknown): boolean =>
  error instanceof ProblemError && error.problem.status === 401;

/** Whether nobody answered. */
export const isUnanswered = (error: unknown): boolean =>
  error instanceof ProblemError && error.problem.status === 0;

/** Whether nobody answered, or the server says that it cannot for a moment (RFC 9110, 15.6.4). */
export const isAway = (error: unknown): boolean =>
  isUnanswered(error) || (error instanceof ProblemError && error.problem.status === 503);

/** What a server that refuses says. */
export function problemOf(status: number, text: string): Problem {
  try {
    return JSON.parse(text) as Problem;
  } catch (error) {
    if (!(error instanceof SyntaxError)) throw error;
    return problem(status, 'unexpected', `The server answered ${status}. Try again.`);
  }
}

/** The person left it. */
export const cancelled = (): ProblemError =>
  new ProblemError(problem(0, 'cancelled', 'The upload was cancelled. Nothing was changed.'));

/** What the page itself says to a person, shown as it is. */
export class PageError extends Error {}

const faults = new WeakMap<object, string>();

/**
 * The number under which a fault of ours is reported; the browser's console has its cause under the same
 * number.
 */
function faultNumber(error: unknown): string {
  const key = error instanceof Object ? error : new Error(String(error));
  const known = faults.get(key);
  if (known) return known;
  const [number = 0] = crypto.getRandomValues(new Uint32Array(1));
  const made = number.toString(36).toUpperCase();
  faults.set(key, made);
  console.error(`Fault ${made}`, error);
  return made;
}

/** What was thrown because a part of the application could not be fetched. */
const unfetched = new WeakSet();

/** Notes which parts of the application could not be fetched, so that the person is told what to do. */
export function noteUnfetched(): void {
  window.addEventListener('vite:preloadError', ({ payload }) => unfetched.add(payload));
}

/** A refusal's sentence; anything else is a fault of ours: what to do, and a number to report. */
export function sentenceOf(error: unknown): string {
  if (error instanceof ProblemError) return error.problem.detail;
  if (error instanceof PageError) return error.message;
  if (error instanceof Object && unfetched.has(error))
    return 'A part of this page could not be fetched: Polychron was brought up to date while the page was open, or the server cannot be reached. Load the page again.';
  return `The page made a mistake; nothing that was stored is lost. Load it again, and if it happens again, report fault ${faultNumber(error)}.`;
}

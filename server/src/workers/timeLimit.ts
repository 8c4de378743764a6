/** How long a thread may take to start, in milliseconds; it loads its code. */
const startLimit = 60_000;

/** The time that something done in a thread has, and the cell in which the thread tells when it began. */
export interface TimeLimit {
  signal: AbortSignal;
  /** One number: when it was begun, in milliseconds since 1970; 0 until then. */
  begun: Float64Array;
  /** It is over; nothing is ended any more. */
  clear: () => void;
}

/**
 * Ends what a thread does once it took so many milliseconds. They count from when the thread begins with it:
 * one that only starts has done nothing yet, and on a slow machine would be ended, and started again, for
 * ever.
 */
export function timeLimit(milliseconds: number): TimeLimit {
  const begun = new Float64Array(new SharedArrayBuffer(8));
  const abort = new AbortController();
  const asked = Date.now();
  let timer: NodeJS.Timeout;
  const look = (): void => {
    const [at = 0] = begun;
    const end = at === 0 ? asked + startLimit : at + milliseconds;
    const left = end - Date.now();
    if (left <= 0) abort.abort(new DOMException('It took longer than it may.', 'TimeoutError'));
    else timer = setTimeout(look, Math.min(left, milliseconds));
  };
  timer = setTimeout(look, milliseconds);
  return { signal: abort.signal, begun, clear: () => clearTimeout(timer) };
}

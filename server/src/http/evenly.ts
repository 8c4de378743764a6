import { performance } from 'node:perf_hooks';
import { setTimeout as wait } from 'node:timers/promises';
import type { RequestHandler, Response } from 'express';

/**
 * Answers that something is not there leave at whole multiples of this since the request came, in
 * milliseconds: far more than it takes to find that out, whether it is hidden or does not exist.
 */
const step = 50;

/**
 * Milliseconds from `elapsed` to the next whole multiple of `step`. @throws RangeError where step is not
 * above 0
 */
export function untilNextStep(elapsed: number, of = step): number {
  if (!(of > 0)) throw new RangeError('a step is above 0');
  return of - (elapsed % of);
}

/** Notes when a request came. */
export const noteArrival: RequestHandler = (_req, res, next) => {
  res.locals['cameAt'] = performance.now();
  next();
};

/** Waits until an answer that something is not there may leave. */
export async function waitEvenly(res: Response): Promise<void> {
  const cameAt = Number(res.locals['cameAt']);
  await wait(untilNextStep(performance.now() - cameAt));
}

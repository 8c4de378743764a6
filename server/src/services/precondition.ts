import { refuse } from '@polychron/core';
import { Refused } from '../refused.ts';

/**
 * Checks an If-Match header (RFC 9110, 13.1.1) against the present entity tag; a missing header passes.
 * @param seen what the caller may be told of the present state
 * @throws Refused `stale` naming both tags
 */
export function refuseStale(ifMatch: string | undefined, present: string, seen: Record<string, unknown>): void {
  if (ifMatch === undefined || ifMatch.trim() === '*') return;
  const given = ifMatch.split(',').map((tag) => tag.trim());
  // If-Match compares strongly: a weak tag never matches.
  if (given.includes(present)) return;
  throw new Refused(refuse('stale', 'stale', 'It has changed since you last read it. Read it again, then repeat what you did. Nothing was changed.',
    { given: ifMatch.slice(0, 200), present, ...seen }));
}

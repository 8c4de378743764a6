import { refuse } from '@polychron/core';
import { createHash } from 'node:crypto';
import { Refused } from '../refused.ts';

/**
 * Whether an If-Match header (RFC 9110, 13.1.1) is satisfied by the present entity tag; a missing one always
 * is. If-Match compares strongly: a weak tag never matches.
 */
export function matches(ifMatch: string | undefined, present: string): boolean {
  if (ifMatch === undefined || ifMatch.trim() === '*') return true;
  return ifMatch
    .split(',')
    .map((tag) => tag.trim())
    .includes(present);
}

/**
 * Refuses what was asked against another state than the present one.
 * @param seen what the caller may be told of the present state
 * @throws Refused `stale` naming both tags
 */
export function refuseStale(
  ifMatch: string | undefined,
  present: string,
  seen: Record<string, unknown>,
): void {
  if (matches(ifMatch, present)) return;
  const reason =
    'It has changed since you last read it. Read it again, then repeat what you did. Nothing was changed.';
  throw new Refused(refuse('stale', 'stale', reason, { given: ifMatch?.slice(0, 200), present, ...seen }));
}

/**
 * An entity tag of what the caller sees, never of what is hidden from them: the label of the version it tells
 * of, and a hash of the whole answer (RFC 9110, 8.8.3).
 */
export function entityTag(view: unknown, label = ''): string {
  const hash = createHash('sha256').update(JSON.stringify(view)).digest('hex').slice(0, 24);
  return `"${label}${label && '-'}${hash}"`;
}

/** The entity tag of a content. */
export const contentTag = (sha256: string): string => `"${sha256}"`;

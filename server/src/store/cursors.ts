import { refuse } from '@polychron/core';
import { Refused } from '../refused.ts';

/** Which part of a list is asked for. */
export interface Page {
  cursor?: string | undefined;
  limit: number;
}

/** What is said of a cursor that no list gave. */
export const badCursor = (): Refused =>
  new Refused(refuse('invalid', 'bad-cursor', 'The cursor is not one of this list. Start again without it.'));

/**
 * A cursor that is a whole number: the last id, or how many were passed.
 * @returns null where the list begins
 * @throws Refused `bad-cursor`
 */
export function readNumberCursor(cursor: string | undefined): number | null {
  if (cursor === undefined) return null;
  const number = Number(cursor);
  if (!/^\d{1,15}$/.test(cursor) || !Number.isSafeInteger(number)) throw badCursor();
  return number;
}

/** A cursor made of texts: the sort key of the last item, and what tells it from others with the same. */
export const writeCursor = (parts: readonly string[]): string =>
  Buffer.from(JSON.stringify(parts)).toString('base64url');

/**
 * Reads what `writeCursor` wrote.
 * @returns null where the list begins
 * @throws Refused `bad-cursor` where it is not made of `count` texts
 */
export function readCursor(cursor: string | undefined, count: number): string[] | null {
  if (cursor === undefined) return null;
  const parts = parse(cursor);
  if (!Array.isArray(parts) || parts.length !== count) throw badCursor();
  return parts.map((part) => {
    if (typeof part !== 'string') throw badCursor();
    return part;
  });
}

function parse(cursor: string): unknown {
  try {
    return JSON.parse(Buffer.from(cursor, 'base64url').toString('utf8'));
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

/** A part of a list of which one item more than wanted was fetched, to know whether there is a next part. */
export function partOf<T>(
  found: readonly T[],
  limit: number,
  cursorOf: (last: T) => string,
): { shown: T[]; next: string | null } {
  const shown = found.slice(0, limit);
  const last = shown.at(-1);
  return { shown, next: found.length > limit && last !== undefined ? cursorOf(last) : null };
}

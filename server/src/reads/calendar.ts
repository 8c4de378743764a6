import type * as contract from '@polychron/contract';
import { labelIn } from '@polychron/core';
import type { Access, Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { refuseToCome } from '../access/lookingBack.ts';
import { type Reign, reignsOf } from '../store/days.ts';
import { collectThen, libraryThen } from './asOf.ts';
import { newestSeenThen } from './seenVersions.ts';

type Item = contract.Calendar['items'][number];

/**
 * What was in force in a library when, until a moment, as the caller saw it then and may see it now.
 * @throws Refused `as-of-future`
 */
export async function readCalendar(
  asker: Asker,
  libraryId: string,
  { to, cursor, limit }: contract.CalendarQuery,
): Promise<contract.Calendar> {
  const { context } = asker;
  const now = context.clock();
  const at = to === undefined ? now : new Date(to);
  const refusal = refuseToCome(at, now);
  if (refusal) throw new Refused(refusal);
  const library = await libraryThen(asker, libraryId, at);
  return collectThen(asker, library, { sought: {}, page: { cursor, limit } }, async (accesses) => {
    const ids = accesses.map(({ document: { id } }) => id);
    const [reigns, newest] = await Promise.all([
      reignsOf(context, ids, at),
      newestSeenThen(context, accesses, 1),
    ]);
    return accesses.flatMap((access) => {
      const { id, number } = access.document;
      const title = newest.get(id)?.versions.at(-1)?.fields.title;
      return title === undefined ? [] : [{ number, item: itemOf(access, title, reigns) }];
    });
  });
}

/** A document, named as the newest version that is seen names it, with what was in force of it when. */
function itemOf({ document, past }: Access, title: string, reigns: readonly Reign[]): Item {
  const { id, number, libraryId, library } = document;
  const own = reigns.flatMap(({ documentId, versionId, from, until }) => {
    const seen = documentId === id ? past?.seen.get(versionId) : undefined;
    if (!seen) return [];
    const [since, end] = [from.toISOString(), until?.toISOString() ?? null];
    return [{ version: labelIn(document, seen), versionId, from: since, until: end }];
  });
  return { document: { id, number, title, library: { id: libraryId, ...library } }, reigns: own };
}

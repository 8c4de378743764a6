import type * as contract from '@polychron/contract';
import { labelIn } from '@polychron/core';
import type { Access, Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { refuseToCome } from '../access/lookingBack.ts';
import { type Reign, reignsOf } from '../store/days.ts';
import { collectThen, libraryThen } from './asOf.ts';

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
    const reigns = await reignsOf(
      context,
      accesses.map(({ document: { id } }) => id),
      at,
    );
    return accesses.map((access) => ({ number: access.document.number, item: itemOf(access, reigns) }));
  });
}

function itemOf({ document, past }: Access, reigns: readonly Reign[]): Item {
  const { id, number, libraryId, library, latest } = document;
  const title = (past?.seen.has(latest.id) ? latest : (document.inForce ?? latest)).fields.title;
  const own = reigns.flatMap(({ documentId, versionId, from, until }) => {
    const seen = documentId === id ? past?.seen.get(versionId) : undefined;
    if (!seen) return [];
    const [since, end] = [from.toISOString(), until?.toISOString() ?? null];
    return [{ version: labelIn(document, seen), versionId, from: since, until: end }];
  });
  return { document: { id, number, title, library: { id: libraryId, ...library } }, reigns: own };
}

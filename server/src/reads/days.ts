import type * as contract from '@polychron/contract';
import { labelIn, refuse, type Version } from '@polychron/core';
import type { Access, Asker } from '../access/caller.ts';
import { accessesAsOf, refuseToCome } from '../access/lookingBack.ts';
import { sees, wouldSee } from '../access/sees.ts';
import { Refused } from '../refused.ts';
import { badCursor, readCursor, writeCursor } from '../store/cursors.ts';
import { type Happened, happenedIn } from '../store/days.ts';
import { versionsAsOf } from '../store/past.ts';
import { namesOf, nobody } from '../store/people.ts';
import { libraryThen, type LibraryThen } from './asOf.ts';

type Item = contract.Days['items'][number];
interface Placed {
  place: { at: Date; place: string };
  item: Item;
}

/** What is looked at together. */
const chunk = 200;

/**
 * What came into force in a library, what left it and who decided between two moments, in order, as the
 * caller saw it at the second and may see it now.
 * @throws Refused `days-order`, `as-of-future`
 */
export async function readDays(
  asker: Asker,
  libraryId: string,
  { from, to, cursor, limit }: contract.DaysQuery,
): Promise<contract.Days> {
  const days = { from: new Date(from), to: new Date(to) };
  refuseDays(days, asker.context.clock());
  const library = await libraryThen(asker, libraryId, days.to);
  const [begun, place] = readCursor(cursor, 2) ?? [];
  const found: Placed[] = [];
  let after = begun === undefined ? null : { at: new Date(begun), place: place ?? '' };
  if (after && Number.isNaN(after.at.getTime())) throw badCursor();
  for (let more = true; more && found.length <= limit;) {
    const happened = await happenedIn(asker.context, libraryId, days, { after, count: chunk });
    found.push(...(await told(asker, library, happened)));
    const last = happened[chunk - 1];
    more = last !== undefined;
    if (last) after = { at: last.at, place: last.place };
  }
  const shown = found.slice(0, limit);
  const last = found.length > limit ? shown.at(-1)?.place : undefined;
  return {
    items: shown.map(({ item }) => item),
    next: last ? writeCursor([last.at.toISOString(), last.place]) : null,
  };
}

function refuseDays({ from, to }: { from: Date; to: Date }, now: Date): void {
  if (from.getTime() >= to.getTime()) {
    const reason = 'The first moment is not before the second. Name the earlier one as "from".';
    throw new Refused(refuse('invalid', 'days-order', reason));
  }
  const refusal = refuseToCome(to, now);
  if (refusal) throw new Refused(refusal);
}

/** What happened to versions that the caller sees. */
async function told(asker: Asker, library: LibraryThen, happened: readonly Happened[]): Promise<Placed[]> {
  const { context } = asker;
  const { at, viewers } = library;
  const ids = [...new Set(happened.map(({ documentId }) => documentId))];
  const [accesses, versions, people] = await Promise.all([
    accessesAsOf(asker, ids, viewers, at),
    versionsAsOf(
      context,
      happened.flatMap(({ versionId, publishedId }) => [versionId, ...(publishedId ? [publishedId] : [])]),
      at,
    ),
    namesOf(
      context,
      happened.map(({ personId }) => personId),
    ),
  ]);
  return happened.flatMap((one) => {
    const access = accesses.get(one.documentId);
    const version = access && seenOf(access, versions, one);
    if (!access || !version) return [];
    const by = one.personId === null ? null : (people.get(one.personId) ?? nobody);
    const item = itemOf(access, { one, version, about: versions.get(one.versionId) ?? version, by });
    return [{ place: { at: one.at, place: one.place }, item }];
  });
}

/** The version it happened to, or what was published of that: whichever is seen. */
function seenOf(
  access: Access,
  versions: ReadonlyMap<string, Version>,
  { versionId, publishedId }: Happened,
): Version | undefined {
  return [versionId, publishedId ?? '']
    .flatMap((id) => versions.get(id) ?? [])
    .find((version) => sees(access, version));
}

function itemOf(
  access: Access,
  of: { one: Happened; version: Version; about: Version; by: contract.Person | null },
): Item {
  const { one, version, about, by } = of;
  const { id, number, libraryId, library } = access.document;
  const asked: Version = { ...about, state: 'inApproval', standing: null };
  const words = wouldSee(access, asked) ? one.words : null;
  return {
    at: one.at.toISOString(),
    what: one.what,
    document: { id, number, title: version.fields.title, library: { id: libraryId, ...library } },
    version: labelIn(access.document, version),
    versionId: version.id,
    by,
    decision: one.decision,
    comment: one.what === 'decided' ? words : version.comment,
  };
}

import type * as contract from '@polychron/contract';
import { labelIn, type Named, refuseSeeingReaders } from '@polychron/core';
import { accessDocument } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { type Page, partOf, readCursor, writeCursor } from '../store/cursors.ts';
import type { Tx } from '../store/database.ts';
import type { LoadedDocument } from '../store/documents.ts';
import { groupNames } from '../store/groups.ts';
import { nobodyNamed, type Reader, readerOf, readersOf } from '../store/named.ts';
import { namesOf } from '../store/people.ts';

/** To whom a document is kept, as the API tells it. */
export async function readLimit(asker: Asker, documentId: string): Promise<contract.Limit> {
  const { document } = await accessDocument(asker, documentId);
  return limitView(asker.context, document);
}

/** To whom a document is kept. */
export const limitView = async (
  context: Context,
  { limit }: Pick<LoadedDocument, 'limit'>,
): Promise<contract.Limit> => ({ limit: limit && (await namedView(context, limit)) });

const namedView = async (context: Context, named: Named): Promise<contract.Distribution['named']> => ({
  people: await peopleByName(context, named.personIds),
  groups: await groupNames(context, named.groupIds),
});

/** People as the API names them, in the order of their names. */
export async function peopleByName(
  context: Context,
  ids: readonly string[],
  tx?: Tx,
): Promise<contract.Person[]> {
  const people = [...(await namesOf(context, [...ids], tx)).values()];
  return people
    .map(({ account, name }) => ({ account, name }))
    .sort((a, b) => a.name.localeCompare(b.name, 'en') || (a.account < b.account ? -1 : 1));
}

/** Who is to read what is in force of a document. @throws Refused `not-in-charge` */
export async function readDistribution(
  asker: Asker,
  documentId: string,
  page: Page,
): Promise<contract.Distribution> {
  const { context } = asker;
  const { document, actor } = await accessDocument(asker, documentId);
  const refusal = refuseSeeingReaders(document, actor);
  if (refusal) throw new Refused(refusal);
  const after = readCursor(page.cursor, 3) ?? [];
  const named = await namedView(context, document.distribution ?? nobodyNamed);
  const asked = askedOf(document);
  if (!asked) return { named, version: null, items: [], next: null, total: 0, outstanding: 0 };
  const { found, total, outstanding } = await readersOf(context, asked, { after, count: page.limit + 1 });
  const { shown, next } = partOf(found, page.limit, cursorOf);
  const version = document.inForce && labelIn(document, document.inForce);
  return { named, version, items: shown.map(readerView), next, total, outstanding };
}

const cursorOf = ({ readAt, name, id }: Reader): string => writeCursor([readAt ? '1' : '0', name, id]);

const readerView = ({ account, name, groups, since, readAt }: Reader) => ({
  person: { account, name },
  groups,
  since: since.toISOString(),
  readAt: readAt && readAt.toISOString(),
});

/** What people are asked to read of a document; null where nobody is asked anything. */
function askedOf({ id, libraryId, inForce, distribution }: LoadedDocument) {
  if (!inForce || !distribution) return null;
  return { id, libraryId, inForceId: inForce.id, since: inForce.inForceFrom ?? inForce.at };
}

/** How a document stands to its readers, for the caller. */
export async function readingView(
  context: Context,
  { document, actor, past }: Access,
): Promise<Pick<contract.Document, 'reading' | 'readers'>> {
  const asked = past ? null : askedOf(document);
  if (!asked) return { reading: null, readers: null };
  const own = await readerOf(context, asked, actor.id);
  const reading = own && { since: own.since.toISOString(), readAt: own.readAt && own.readAt.toISOString() };
  if (refuseSeeingReaders(document, actor)) return { reading, readers: null };
  const { total, outstanding } = await readersOf(context, asked, { after: [], count: 1 });
  return { reading, readers: { total, outstanding } };
}

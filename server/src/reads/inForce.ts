import type * as contract from '@polychron/contract';
import { labelIn, seesVersion } from '@polychron/core';
import { namesOnPath } from '@polychron/contract';
import { sightIn } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { sees } from '../access/sees.ts';
import type { Context } from '../context.ts';
import type { LibrarySight } from '../store/approvalLists.ts';
import { readCursor, writeCursor } from '../store/cursors.ts';
import { loadDocuments } from '../store/documents.ts';
import { lastLook } from '../store/looks.ts';
import { unreadAmong } from '../store/named.ts';
import { findRegister, type RegisterPart } from '../store/register.ts';
import { inForceKinds } from '../store/sight.ts';
import { publishedBefore } from '../store/versions.ts';
import { collectThen, isOnPath, libraryThen, type LibraryThen, withWords } from './asOf.ts';
import { sightsOf } from './sights.ts';

/** What is in force in one library. */
export async function readLibraryInForce(
  asker: Asker,
  libraryId: string,
  query: contract.InForceQuery,
): Promise<contract.InForceList> {
  const { context, asOf: at } = asker;
  if (at) {
    const library = await libraryThen(asker, libraryId, at);
    return { ...(await partThen(asker, library, query)), lookedAt: null };
  }
  const sight = await sightIn(asker, libraryId);
  const lookedAt = await lastLook(context, asker.caller.id);
  const part = await partOfLibrary(context, sight, query);
  const { next, total, about } = part;
  const items = await itemsOf(context, sight, part.ids, lookedAt);
  return { items, next, total, about, lookedAt: lookedAt && lookedAt.toISOString() };
}

/** Where a list over several libraries begins: at which of them, and behind which place in its own list. */
function beginning(
  sights: readonly LibrarySight[],
  cursor: string | undefined,
): { first: number; inner: string | undefined } {
  const [begun = '', inner = ''] = readCursor(cursor, 2) ?? [];
  const place = sights.findIndex(({ libraryId }) => libraryId === begun);
  return place < 0 ? { first: 0, inner: undefined } : { first: place, inner: inner || undefined };
}

/** What is in force for the caller over all their libraries, one library after another. */
export async function readInForce(asker: Asker, query: contract.InForceQuery): Promise<contract.InForceList> {
  if (asker.asOf) return readInForceAsOf(asker, query, asker.asOf);
  const { context, caller } = asker;
  const [sights, lookedAt] = await Promise.all([sightsOf(asker), lastLook(context, caller.id)]);
  const { first, inner } = beginning(sights, query.cursor);
  const items: contract.InForceList['items'] = [];
  let next: string | null = null;
  let [total, about] = [0, false];
  for (const [place, sight] of sights.entries()) {
    const left = query.limit - items.length;
    const isPassed = place < first || left === 0;
    const cursor = place === first ? inner : undefined;
    const part = await partOfLibrary(context, sight, {
      ...query,
      limit: isPassed ? 1 : left,
      cursor: isPassed ? undefined : cursor,
    });
    total += part.total;
    about = about || part.about;
    if (place < first) continue;
    if (left === 0) {
      if (next === null && part.ids.length > 0) next = writeCursor([sight.libraryId, '']);
      continue;
    }
    items.push(...(await itemsOf(context, sight, part.ids, lookedAt)));
    if (part.next !== null) next = writeCursor([sight.libraryId, part.next]);
  }
  return { items, next, total, about, lookedAt: lookedAt && lookedAt.toISOString() };
}

/** What was in force at a moment over all the caller's libraries, one library after another. */
async function readInForceAsOf(
  asker: Asker,
  query: contract.InForceQuery,
  at: Date,
): Promise<contract.InForceList> {
  const sights = await sightsOf(asker);
  const { first, inner } = beginning(sights, query.cursor);
  const items: contract.InForceList['items'] = [];
  let total = 0;
  for (const [place, { libraryId }] of sights.slice(first).entries()) {
    const left = query.limit - items.length;
    if (left === 0) return { items, next: writeCursor([libraryId, '']), total, about: true, lookedAt: null };
    const library = await libraryThen(asker, libraryId, at);
    const cursor = place === 0 ? inner : undefined;
    const part = await partThen(asker, library, { ...query, limit: left, cursor });
    items.push(...part.items);
    total += part.total;
    const next = part.next && writeCursor([libraryId, part.next]);
    if (next !== null) return { items, next, total, about: true, lookedAt: null };
  }
  return { items, next: null, total, about: false, lookedAt: null };
}

/** What was in force in a library at a moment. */
function partThen(asker: Asker, library: LibraryThen, query: contract.InForceQuery) {
  const { q, path } = query;
  const names = path === undefined ? [] : namesOnPath(path);
  const subject = query.subject ?? names[0];
  return collectThen(
    asker,
    library,
    { sought: { inForce: true, q, subject }, page: query },
    async (accesses) => {
      const inForce = ({ document }: Access): string[] => (document.inForce ? [document.inForce.id] : []);
      const meant = await withWords(asker, accesses, q, inForce);
      const items = await Promise.all(meant.map((access) => itemOf(asker.context, access, longRead)));
      return items.flatMap((item) =>
        item &&
        isOnPath(item.subject, names) &&
        (query.subject === undefined || item.subject.includes(query.subject))
          ? [{ number: item.document.number, item }]
          : [],
      );
    },
  );
}

/** Found as by somebody who sees nothing but what is in force: drafts weigh in nothing. */
const partOfLibrary = (
  context: Context,
  { libraryId, ...sight }: LibrarySight,
  { q, subject, path, cursor, limit }: contract.InForceQuery,
): Promise<RegisterPart> =>
  findRegister(context, libraryId, sight, {
    query: { q, subject, path, cursor, limit, sort: 'number' },
    now: context.clock(),
    within: inForceKinds,
  });

async function itemsOf(
  context: Context,
  { actor }: LibrarySight,
  ids: readonly string[],
  lookedAt: Date | null,
): Promise<contract.InForceList['items']> {
  const [documents, unread] = await Promise.all([
    loadDocuments(context, ids),
    unreadAmong(context, actor.id, ids),
  ]);
  const items = await Promise.all(
    ids.map((id) => {
      const document = documents.get(id);
      return document ? itemOf(context, { document, actor }, { lookedAt, unread }) : null;
    }),
  );
  return items.filter((item) => item !== null);
}

/** What is new to somebody: what came into force after they looked, and what they are to read. */
interface News {
  lookedAt: Date | null;
  unread: ReadonlySet<string>;
}
const longRead: News = { lookedAt: null, unread: new Set() };

async function itemOf(
  context: Context,
  access: Access,
  { lookedAt, unread }: News,
): Promise<contract.InForceList['items'][number] | null> {
  const { document, actor } = access;
  const { inForce, id, number, libraryId, library } = document;
  if (!inForce || !sees(access, inForce)) return null;
  const { title, type = null, subject = [] } = inForce.fields;
  const since = inForce.inForceFrom ?? inForce.at;
  const isNew = lookedAt !== null && since.getTime() > lookedAt.getTime();
  const before = isNew ? await publishedBefore(context, id, inForce.sequence) : null;
  return {
    document: { id, number, title, library: { id: libraryId, ...library } },
    version: labelIn(document, inForce),
    versionId: inForce.id,
    fileName: inForce.content.fileName,
    type,
    subject,
    since: since.toISOString(),
    comment: inForce.comment,
    new: isNew,
    toRead: unread.has(id),
    before:
      before && !before.thinned && seesVersion(document, actor, before) ? labelIn(document, before) : null,
  };
}

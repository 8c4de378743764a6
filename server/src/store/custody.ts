import { Op } from 'sequelize';
import type { ContentFacts, CustodyEnd } from '@polychron/core';
import { rows, type Tx } from './database.ts';
import type { CustodyPeriodRow } from './models.ts';
import type { Store } from './store.ts';
import { contentOf } from './versions.ts';

/** One step of a working copy. */
export interface KeptSave extends ContentFacts {
  position: number;
  at: Date;
}

const toSave = (row: KeptSave): KeptSave => ({ position: row.position, at: row.at, ...contentOf(row) });

/** What somebody holds of a document. */
export interface Held {
  documentId: string;
  libraryId: string;
  base: ContentFacts;
  /** The last save; null while nothing was saved. */
  workingCopy: ContentFacts | null;
}

/** The check-out one person has of a document, in one statement; null where they hold it not. */
export async function findHeld(store: Store, documentId: string, personId: string): Promise<Held | null> {
  const [row] = await rows<ContentFacts & { libraryId: string } & Record<`saved${string}`, string | null>>(
    store.db,
    `SELECT d.library_id AS libraryId, v.sha256, v.size, v.file_name AS fileName, v.media_type AS mediaType, v.words,
       s.sha256 AS savedSha256, s.size AS savedSize, s.file_name AS savedFileName, s.media_type AS savedMediaType,
       s.words AS savedWords
     FROM checkouts c JOIN documents d ON d.id = c.document_id JOIN versions v ON v.id = c.base_id
     LEFT JOIN saves s ON s.document_id = c.document_id
     WHERE c.document_id = :documentId AND c.holder_id = :personId ORDER BY s.position DESC LIMIT 1`,
    { documentId, personId },
  );
  if (!row) return null;
  const { savedSha256, savedSize, savedFileName, savedMediaType, savedWords } = row;
  return {
    documentId,
    libraryId: row.libraryId,
    base: contentOf(row),
    workingCopy:
      savedSha256 && savedFileName && savedMediaType
        ? {
            sha256: savedSha256,
            size: Number(savedSize),
            fileName: savedFileName,
            mediaType: savedMediaType,
            words: savedWords === null || savedWords === undefined ? null : Number(savedWords),
          }
        : null,
  };
}

/** The saves of a document's working copy, oldest first. */
export async function savesOf(store: Store, documentId: string, tx?: Tx): Promise<KeptSave[]> {
  const found = await store.models.Save.findAll({
    where: { documentId },
    order: ['position'],
    transaction: tx ?? null,
  });
  return found.map(toSave);
}

/** One save of a working copy; null where there is none. */
export async function findSave(
  store: Store,
  documentId: string,
  position: number,
): Promise<ContentFacts | null> {
  const save = await store.models.Save.findOne({ where: { documentId, position } });
  return save && contentOf(save);
}

/** One time a document was held. */
export type CustodyPeriod = Pick<
  CustodyPeriodRow,
  'holderId' | 'since' | 'untilAt' | 'reason' | 'baseId' | 'endedAt' | 'endedBy' | 'endReason' | 'versionId'
> & { id: number; how: CustodyEnd | null };

/** The version held when each period ended: what the holder checked in since it began, by period. */
export async function lastHeldIn(store: Store, periodIds: readonly number[]): Promise<Map<number, string>> {
  if (periodIds.length === 0) return new Map();
  const found = await rows<{ id: number; versionId: string | null }>(
    store.db,
    `SELECT c.id, (SELECT v.id FROM versions v WHERE v.document_id = c.document_id
       AND v.author_id = c.holder_id AND v.at > c.since AND v.at <= c.ended_at
       ORDER BY v.sequence DESC LIMIT 1) AS versionId
     FROM custody_periods c WHERE c.id IN (:periodIds) AND c.ended_at IS NOT NULL`,
    { periodIds },
  );
  return new Map(found.flatMap(({ id, versionId }) => (versionId === null ? [] : [[Number(id), versionId]])));
}

/** The times a document was held, newest first, from below an id; with how many there are. */
export async function custodyPeriods(
  store: Store,
  documentId: string,
  part: { before: number | null; count: number },
): Promise<{ found: CustodyPeriod[]; total: number }> {
  const { CustodyPeriod } = store.models;
  const below = part.before === null ? {} : { id: { [Op.lt]: part.before } };
  const found = await CustodyPeriod.findAll({
    where: { documentId, ...below },
    order: [['id', 'DESC']],
    limit: part.count,
  });
  return { found, total: await CustodyPeriod.count({ where: { documentId } }) };
}

/** A check-out whose end is past. */
export interface Overdue {
  documentId: string;
  libraryId: string;
  holderId: string;
  ownerId: string;
  holder: string;
  until: Date;
}

/** Every check-out whose end is past. */
export function overdueCheckouts(store: Store, now: Date): Promise<Overdue[]> {
  return rows<Overdue>(
    store.db,
    `SELECT c.document_id AS documentId, d.library_id AS libraryId, c.holder_id AS holderId,
       d.owner_id AS ownerId, p.name AS holder, c.until_at AS until
     FROM checkouts c JOIN documents d ON d.id = c.document_id JOIN people p ON p.id = c.holder_id
     WHERE c.until_at < :now`,
    { now },
  );
}

/** Documents a person holds, the soonest to end first; with how many they are. */
export async function documentsHeldBy(
  store: Store,
  personId: string,
  count: number,
): Promise<{ ids: string[]; total: number }> {
  const found = await store.models.Checkout.findAndCountAll({
    where: { holderId: personId },
    order: [['untilAt', 'ASC']],
    limit: count,
  });
  return { ids: found.rows.map(({ documentId }) => documentId), total: found.count };
}

/** A lock of a program that is over. */
export interface LockOver {
  documentId: string;
  token: string;
  holder: { id: string; account: string; name: string };
}

/** Locks of programs that are over: nobody closed the document there. */
export async function locksOver(store: Store, now: Date): Promise<LockOver[]> {
  const found = await rows<{ documentId: string; token: string; id: string; account: string; name: string }>(
    store.db,
    `SELECT c.document_id AS documentId, c.lock_token AS token, p.id, p.account, p.name
     FROM checkouts c JOIN people p ON p.id = c.holder_id
     JOIN documents d ON d.id = c.document_id JOIN libraries l ON l.id = d.library_id
     WHERE c.lock_until <= :now AND l.closed_at IS NULL`,
    { now },
  );
  return found.map(({ documentId, token, ...holder }) => ({ documentId, token, holder }));
}

/** The documents somebody holds, by library and number. */
export const numbersHeldBy = (
  store: Store,
  personId: string,
): Promise<{ libraryId: string; number: string }[]> =>
  rows(
    store.db,
    `SELECT d.library_id AS libraryId, d.number FROM checkouts c JOIN documents d ON d.id = c.document_id
     WHERE c.holder_id = :personId`,
    { personId },
  );

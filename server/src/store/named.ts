import { rolesThatMay, type Named } from '@polychron/core';
import { rows, run, type Tx } from './database.ts';
import { keepNewest } from './newest.ts';
import { keepTeamPeriod } from './periods.ts';
import { isNotVoided } from './sight.ts';
import type { Store } from './store.ts';

/** For what people and groups are named with a document: it is kept to them, or they are to read it. */
export type NamedFor = 'limit' | 'reading';

interface NamedRow {
  documentId: string;
  purpose: NamedFor;
  personId: string | null;
  groupId: string | null;
  memberId: string | null;
}

/** Of these documents, those whose version in force somebody is to read and has not confirmed. */
export async function unreadAmong(
  store: Store,
  personId: string,
  documentIds: readonly string[],
): Promise<Set<string>> {
  if (documentIds.length === 0) return new Set();
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT h.document_id AS id FROM heads h WHERE h.document_id IN (:documentIds) AND h.in_force_id IS NOT NULL
       AND EXISTS (SELECT 1 FROM document_named n WHERE n.document_id = h.document_id AND n.purpose = 'reading'
         AND (n.person_id = :personId OR n.group_id IN (SELECT group_id FROM group_people WHERE person_id = :personId)))
       AND NOT EXISTS (SELECT 1 FROM readings r WHERE r.version_id = h.in_force_id AND r.person_id = :personId)`,
    { documentIds: [...documentIds], personId },
  );
  return new Set(found.map(({ id }) => id));
}

/** Who is named with documents, by document and purpose, as `namedKey` says. */
export async function namedOf(
  store: Store,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, Named>> {
  if (documentIds.length === 0) return new Map();
  const found = await rows<NamedRow>(
    store.db,
    `SELECT n.document_id AS documentId, n.purpose, n.person_id AS personId, n.group_id AS groupId,
       COALESCE(n.person_id, g.person_id) AS memberId
     FROM document_named n LEFT JOIN group_people g ON g.group_id = n.group_id
     WHERE n.document_id IN (:documentIds) ORDER BY n.id, g.person_id`,
    { documentIds: [...documentIds] },
    tx,
  );
  const named = new Map<string, NamedRow[]>();
  for (const row of found) {
    const key = namedKey(row.documentId, row.purpose);
    named.set(key, [...(named.get(key) ?? []), row]);
  }
  return new Map([...named].map(([key, list]) => [key, toNamed(list)]));
}

/** The key of those named with a document for a purpose. */
export const namedKey = (documentId: string, purpose: NamedFor): string => `${purpose} ${documentId}`;

const toNamed = (list: readonly NamedRow[]): Named => ({
  personIds: distinct(list.map(({ personId }) => personId)),
  groupIds: distinct(list.map(({ groupId }) => groupId)),
  memberIds: distinct(list.map(({ memberId }) => memberId)),
});
const distinct = (ids: readonly (string | null)[]): string[] => [...new Set(ids.filter((id) => id !== null))];

/** Nobody named, of those that once were. */
export const nobodyNamed: Named = { personIds: [], groupIds: [], memberIds: [] };

/** Keeps who is named with a document for a purpose; who was so before stays so since then. */
export async function keepNamed(
  store: Store,
  { documentId, purpose }: { documentId: string; purpose: NamedFor },
  named: Named | null,
  { at, tx }: { at: Date; tx: Tx },
): Promise<void> {
  const { personIds, groupIds } = named ?? nobodyNamed;
  const given = { documentId, purpose, at };
  await run(
    store.db,
    `DELETE FROM document_named WHERE document_id = :documentId AND purpose = :purpose
       AND (person_id NOT IN (:personIds) OR group_id NOT IN (:groupIds))`,
    { ...given, personIds: ['', ...personIds], groupIds: ['', ...groupIds] },
    tx,
  );
  const rowsOf = [...personIds.map((id) => [id, null]), ...groupIds.map((id) => [null, id])];
  if (rowsOf.length > 0) {
    const list = rowsOf.map((pair) => [documentId, purpose, ...pair, at]);
    await run(
      store.db,
      'INSERT IGNORE INTO document_named (document_id, purpose, person_id, group_id, since) VALUES :list',
      { list },
      tx,
    );
  }
  const column = { limit: 'limited', reading: 'distributed' }[purpose];
  await run(
    store.db,
    `UPDATE documents SET ${column} = :isSet WHERE id = :documentId`,
    { documentId, isSet: named !== null },
    tx,
  );
}

/** Keeps, person by person, whom limited documents are kept to: those named, owner and co-authors. */
export async function keepCircles(store: Store, documentIds: readonly string[], tx: Tx): Promise<void> {
  if (documentIds.length === 0) return;
  const given = { documentIds: [...documentIds] };
  await run(store.db, 'DELETE FROM circles WHERE document_id IN (:documentIds)', given, tx);
  await run(
    store.db,
    `INSERT INTO circles (document_id, person_id)
     SELECT n.document_id, COALESCE(n.person_id, g.person_id) FROM document_named n
       JOIN documents d ON d.id = n.document_id AND d.limited
       LEFT JOIN group_people g ON g.group_id = n.group_id
       WHERE n.document_id IN (:documentIds) AND n.purpose = 'limit' AND COALESCE(n.person_id, g.person_id) IS NOT NULL
     UNION SELECT d.id, d.owner_id FROM documents d WHERE d.id IN (:documentIds) AND d.limited
     UNION SELECT d.id, named.id FROM documents d
       JOIN JSON_TABLE(d.co_author_ids, '$[*]' COLUMNS (id CHAR(36) CHARACTER SET ascii PATH '$')) named
       WHERE d.id IN (:documentIds) AND d.limited`,
    given,
    tx,
  );
}

/** Documents that are kept to a group, their heads locked: whoever acts on one of them waits. */
export async function lockLimitedTo(store: Store, groupId: string, tx: Tx): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT document_id AS id FROM heads WHERE document_id IN (SELECT document_id FROM document_named
       WHERE group_id = :groupId AND purpose = 'limit') ORDER BY document_id FOR UPDATE`,
    { groupId },
    tx,
  );
  return found.map(({ id }) => id);
}

/** Keeps whom documents are kept to after a group of theirs changed. */
export async function keepCirclesOfGroup(
  store: Store,
  documentIds: readonly string[],
  at: Date,
  tx: Tx,
): Promise<void> {
  await keepCircles(store, documentIds, tx);
  for (const id of documentIds) await keepTeamPeriod(store, id, at, tx);
  await keepNewest(store.db, documentIds, tx);
}

/** Keeps that somebody confirmed having read a version. */
export const insertReading = (
  store: Store,
  reading: { versionId: string; personId: string; documentId: string; at: Date },
  tx: Tx,
): Promise<void> =>
  run(
    store.db,
    `INSERT INTO readings (version_id, person_id, document_id, at)
     VALUES (:versionId, :personId, :documentId, :at)`,
    reading,
    tx,
  );

/** When people confirmed having read a version, by person; of one person where they are named. */
export async function readingsOf(
  store: Store,
  versionId: string,
  personId: string | null,
  tx?: Tx,
): Promise<Map<string, Date>> {
  const found = await rows<{ personId: string; at: Date }>(
    store.db,
    `SELECT person_id AS personId, at FROM readings
     WHERE version_id = :versionId ${personId === null ? '' : 'AND person_id = :personId'}`,
    { versionId, personId },
    tx,
  );
  return new Map(found.map((row) => [row.personId, row.at]));
}

/** Somebody who is to read what is in force of a document, and since when; or who has. */
export interface Reader {
  id: string;
  account: string;
  name: string;
  /** The groups by which they are to read it; empty where they are named themselves. */
  groups: string;
  since: Date;
  readAt: Date | null;
}

/**
 * Members who are to read the version in force of a document, by name, from behind a place: those who have
 * not confirmed it first. `since` is when they were named, or when it came into force, whichever was later.
 */
export async function readersOf(
  store: Store,
  document: { id: string; libraryId: string; inForceId: string; since: Date },
  part: { after: readonly string[]; count: number },
): Promise<{ found: Reader[]; total: number; outstanding: number }> {
  const [isRead = '', name = '', id = ''] = part.after;
  const given = { ...document, isRead: Number(isRead), name, personId: id, count: part.count };
  const found = await rows<Reader>(
    store.db,
    `SELECT * FROM (${readers}) r WHERE (isRead, name, id) > (:isRead, :name, :personId)
     ORDER BY isRead, name, id LIMIT :count`,
    given,
  );
  const [counted] = await rows<{ total: number; outstanding: number }>(
    store.db,
    `SELECT COUNT(*) AS total, COALESCE(SUM(readAt IS NULL), 0) AS outstanding FROM (${readers}) r`,
    given,
  );
  return {
    found,
    total: Number(counted?.total ?? 0),
    outstanding: Number(counted?.outstanding ?? 0),
  };
}

/** Roles that see every document, in SQL. */
const seeingRoles = rolesThatMay('seeLimited')
  .map((role) => `'${role}'`)
  .join(', ');

/** Whether a document, `:id`, is there for a person `p`, where it is kept to some (`maySee` in core). */
const isLetIn = `(NOT EXISTS (SELECT 1 FROM documents d WHERE d.id = :id AND d.limited)
    OR EXISTS (SELECT 1 FROM circles k WHERE k.document_id = :id AND k.person_id = p.id)
    OR EXISTS (SELECT 1 FROM held_roles s JOIN documents d ON d.library_id = s.library_id AND d.id = :id
      WHERE s.person_id = p.id AND s.role IN (${seeingRoles})))`;

/** Names of the people among some for whom a document is not there, being kept to others. */
export async function keptFrom(
  store: Store,
  documentId: string,
  personIds: readonly string[],
  tx: Tx,
): Promise<string[]> {
  const found = await rows<{ name: string }>(
    store.db,
    `SELECT p.name FROM people p WHERE p.id IN (:personIds) AND NOT ${isLetIn} ORDER BY p.name`,
    { id: documentId, personIds: [...personIds] },
    tx,
  );
  return found.map(({ name }) => name);
}

const readers = `SELECT p.id, p.account, p.name, GREATEST(MIN(n.since), :since) AS since, r.at AS readAt,
    r.at IS NOT NULL AS isRead,
    IF(MAX(n.person_id IS NOT NULL), '', GROUP_CONCAT(DISTINCT w.name ORDER BY w.name SEPARATOR ', ')) AS \`groups\`
  FROM document_named n LEFT JOIN group_people g ON g.group_id = n.group_id
  LEFT JOIN person_groups w ON w.id = n.group_id
  JOIN people p ON p.id = COALESCE(n.person_id, g.person_id)
  LEFT JOIN readings r ON r.version_id = :inForceId AND r.person_id = p.id
  WHERE n.document_id = :id AND n.purpose = 'reading'
    AND EXISTS (SELECT 1 FROM held_roles h WHERE h.library_id = :libraryId AND h.person_id = p.id)
    AND ${isLetIn}
  GROUP BY p.id`;

/** One member who is to read the version in force; null where they are not. */
export async function readerOf(
  store: Store,
  document: { id: string; libraryId: string; inForceId: string; since: Date },
  personId: string,
): Promise<Reader | null> {
  const [found] = await rows<Reader>(store.db, `SELECT * FROM (${readers} HAVING p.id = :personId) r`, {
    ...document,
    personId,
  });
  return found ?? null;
}

/** Members who have not confirmed the version in force yet. */
export async function outstandingReaders(
  store: Store,
  document: { id: string; libraryId: string; inForceId: string },
  tx: Tx,
): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT id FROM (${readers}) r WHERE readAt IS NULL ORDER BY name, id`,
    { ...document, since: new Date(0) },
    tx,
  );
  return found.map(({ id }) => id);
}

/** A document that somebody is to read, and has not confirmed yet. */
export interface ToRead {
  documentId: string;
  since: Date;
}

/** Documents whose version in force somebody is to read and has not confirmed, the longest waiting first. */
export async function documentsToRead(store: Store, personId: string, count: number): Promise<ToRead[]> {
  return rows<ToRead>(
    store.db,
    `SELECT h.document_id AS documentId, GREATEST(MIN(n.since), COALESCE(v.in_force_from, v.at)) AS since
     FROM (SELECT document_id, since FROM document_named WHERE person_id = :personId AND purpose = 'reading'
       UNION ALL SELECT d.document_id, d.since FROM group_people g
         JOIN document_named d ON d.group_id = g.group_id AND d.purpose = 'reading'
         WHERE g.person_id = :personId) n
     JOIN heads h ON h.document_id = n.document_id JOIN versions v ON v.id = h.in_force_id
     JOIN people p ON p.id = :personId JOIN documents d ON d.id = h.document_id
     WHERE ${isNotVoided}
     AND (NOT d.limited OR EXISTS (SELECT 1 FROM circles k WHERE k.document_id = d.id AND k.person_id = p.id)
       OR EXISTS (SELECT 1 FROM held_roles s WHERE s.library_id = d.library_id AND s.person_id = p.id
         AND s.role IN (${seeingRoles})))
     AND NOT EXISTS (SELECT 1 FROM readings r WHERE r.version_id = h.in_force_id AND r.person_id = :personId)
     GROUP BY h.document_id ORDER BY since, h.document_id LIMIT :count`,
    { personId, count },
  );
}

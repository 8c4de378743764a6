import type { ContentFacts } from '@polychron/core';
import { v7 as newId } from 'uuid';
import { rows, run, type Tx } from './database.ts';
import type { DeskFileKind } from './models.ts';
import type { Store } from './store.ts';

/** A property that a program keeps with a file, of no meaning to us (RFC 4918, 4.1): its value is XML. */
export interface DeadProperty {
  namespace: string;
  name: string;
  value: string;
  /** In what language (RFC 4918, 4.3); left out where none is said. */
  language?: string | undefined;
}

/** A file of one's own on the drive: an arrival, a copy, or one that a program keeps for a while. */
export interface OwnFile {
  id: string;
  kind: DeskFileKind | 'temporary';
  content: ContentFacts;
  changedAt: Date;
  meantFor: string | null;
}

/** Where a folder or a file of somebody's own stands on the drive; nobody else sees it. */
export interface OwnPlace {
  id: string;
  /** The names on its address. */
  names: readonly string[];
  /** Null: a folder. */
  file: OwnFile | null;
  createdAt: Date;
  properties: readonly DeadProperty[];
}

/** The most signs of an address. */
export const longestPath = 700;

const pathOf = (names: readonly string[]): string => names.join('/');

interface PlaceRow {
  id: string;
  path: string;
  createdAt: Date;
  properties: string;
  fileId: string | null;
  kind: OwnFile['kind'];
  sha256: string;
  size: number;
  fileName: string;
  mediaType: string;
  words: number | null;
  changedAt: Date;
  meantFor: string | null;
}
const columns = `o.id, o.path, o.created_at AS createdAt, o.properties, f.id AS fileId, f.kind, f.sha256, f.size,
  f.file_name AS fileName, f.media_type AS mediaType, f.words, f.changed_at AS changedAt, f.for_library_id AS meantFor`;
const joined = 'own_places o LEFT JOIN desk_files f ON f.id = o.file_id';

function toPlace(row: PlaceRow): OwnPlace {
  const { id, path, createdAt, properties, fileId, kind, changedAt, meantFor } = row;
  const { sha256, size, fileName, mediaType, words } = row;
  const content = { sha256, size: Number(size), fileName, mediaType, words };
  return {
    id,
    names: path.split('/'),
    createdAt,
    properties: JSON.parse(properties) as DeadProperty[],
    file: fileId === null ? null : { id: fileId, kind, content, changedAt, meantFor },
  };
}

/** What somebody has of their own at an address; locked inside a transaction. Null: nothing. */
export async function findOwnPlace(
  store: Store,
  personId: string,
  names: readonly string[],
  tx?: Tx,
): Promise<OwnPlace | null> {
  const [row] = await rows<PlaceRow>(
    store.db,
    `SELECT ${columns} FROM ${joined} WHERE o.person_id = :personId AND o.path = :path${tx ? ' FOR UPDATE' : ''}`,
    { personId, path: pathOf(names) },
    tx,
  );
  return row ? toPlace(row) : null;
}

/**
 * What somebody has of their own under an address, in the order of addresses.
 * @param deep all of it; else what stands right in it
 */
export async function ownPlacesUnder(
  store: Store,
  personId: string,
  names: readonly string[],
  { deep, tx }: { deep: boolean; tx?: Tx | undefined },
): Promise<OwnPlace[]> {
  const path = pathOf(names);
  const found = await rows<PlaceRow>(
    store.db,
    // What begins with `path/` stands between that and `path0`, which follows it.
    `SELECT ${columns} FROM ${joined} WHERE o.person_id = :personId AND o.path > :from AND o.path < :to
       ${deep ? '' : 'AND o.depth = :depth'} ORDER BY o.path`,
    { personId, from: `${path}/`, to: `${path}0`, depth: names.length + 1 },
    tx,
  );
  return found.map(toPlace);
}

/** Keeps a folder, or a file that is on the Desk, at an address. Its key refuses a second one there. */
export async function insertOwnPlace(
  store: Store,
  personId: string,
  place: Pick<OwnPlace, 'names' | 'createdAt' | 'properties'> & { fileId: string | null },
  tx: Tx,
): Promise<void> {
  const { names, createdAt, properties, fileId } = place;
  await run(
    store.db,
    `INSERT INTO own_places (id, person_id, path, depth, file_id, created_at, properties)
     VALUES (:id, :personId, :path, :depth, :fileId, :createdAt, :properties)`,
    {
      ...{ id: newId(), personId, path: pathOf(names), depth: names.length, fileId, createdAt },
      properties: JSON.stringify(properties),
    },
    tx,
  );
}

/** Moves one place. */
export async function moveOwnPlace(
  store: Store,
  id: string,
  names: readonly string[],
  tx: Tx,
): Promise<void> {
  const path = pathOf(names);
  await run(
    store.db,
    'UPDATE own_places SET path = :path, depth = :depth WHERE id = :id',
    { id, path, depth: names.length },
    tx,
  );
}

/** Keeps the properties that programs gave a place. */
export async function setOwnProperties(
  store: Store,
  id: string,
  properties: readonly DeadProperty[],
  tx: Tx,
): Promise<void> {
  const written = JSON.stringify(properties);
  await run(store.db, 'UPDATE own_places SET properties = :written WHERE id = :id', { id, written }, tx);
}

/** Removes a place; of a file, the file too. */
export async function deleteOwnPlace(store: Store, { id, file }: OwnPlace, tx: Tx): Promise<void> {
  if (file) await run(store.db, 'DELETE FROM desk_files WHERE id = :id', { id: file.id }, tx);
  await run(store.db, 'DELETE FROM own_places WHERE id = :id', { id }, tx);
}

/** Says what a file of one's own is, and where it is to be registered. */
export async function setOwnKind(
  store: Store,
  fileId: string,
  to: { kind: OwnFile['kind']; fileName: string; meantFor: { libraryId: string; fields: object } | null },
  tx: Tx,
): Promise<void> {
  const { kind, fileName, meantFor } = to;
  await run(
    store.db,
    `UPDATE desk_files SET kind = :kind, file_name = :fileName, for_library_id = :libraryId, for_fields = :fields
     WHERE id = :fileId`,
    {
      ...{ fileId, kind, fileName, libraryId: meantFor?.libraryId ?? null },
      fields: meantFor && JSON.stringify(meantFor.fields),
    },
    tx,
  );
}

/** Files on somebody's Desk that stand nowhere on the drive yet. */
export function filesWithoutPlace(
  store: Store,
  personId: string,
  tx?: Tx,
): Promise<{ id: string; fileName: string; createdAt: Date }[]> {
  return rows(
    store.db,
    `SELECT f.id, f.file_name AS fileName, f.created_at AS createdAt FROM desk_files f
     LEFT JOIN own_places o ON o.file_id = f.id WHERE f.person_id = :personId AND o.id IS NULL ORDER BY f.id`,
    { personId },
    tx,
  );
}

/** Removes files that programs keep for a while and have left, with their places. */
export async function deleteTemporaries(store: Store, before: Date): Promise<void> {
  await run(store.db, "DELETE FROM desk_files WHERE kind = 'temporary' AND changed_at < :before", { before });
}

/** A lock of a program on something of one's own (RFC 4918, 6). */
export interface OwnLock {
  token: string;
  names: readonly string[];
  /** Also what stands in it. */
  deep: boolean;
  shared: boolean;
  /** Who the program says it is, as it was sent: XML. */
  owner: string;
  until: Date;
}

/** The locks somebody's programs have on what is their own, that are not over. */
export async function ownLocks(store: Store, personId: string, now: Date, tx?: Tx): Promise<OwnLock[]> {
  const found = await rows<
    Omit<OwnLock, 'names' | 'deep' | 'shared'> & { path: string; deep: number; shared: number }
  >(
    store.db,
    `SELECT token, path, deep, shared, owner, until_at AS until FROM own_locks
     WHERE person_id = :personId AND until_at > :now`,
    { personId, now },
    tx,
  );
  return found.map(({ path, deep, shared, ...lock }) => ({
    ...lock,
    names: path.split('/'),
    deep: Boolean(deep),
    shared: Boolean(shared),
  }));
}

/** Keeps a lock, or how long it lasts now. */
export async function keepOwnLock(store: Store, personId: string, lock: OwnLock, tx: Tx): Promise<void> {
  const { token, names, deep, shared, owner, until } = lock;
  await run(
    store.db,
    `INSERT INTO own_locks (token, person_id, path, deep, shared, owner, until_at)
     VALUES (:token, :personId, :path, :deep, :shared, :owner, :until) ON DUPLICATE KEY UPDATE until_at = :until`,
    { token, personId, path: pathOf(names), deep, shared, owner, until },
    tx,
  );
}

/** Removes locks by their tokens. */
export async function deleteOwnLocks(store: Store, tokens: readonly string[], tx?: Tx): Promise<void> {
  if (tokens.length === 0) return;
  await run(store.db, 'DELETE FROM own_locks WHERE token IN (:tokens)', { tokens: [...tokens] }, tx);
}

/** Removes locks that are over. */
export async function deleteLocksOver(store: Store, now: Date): Promise<void> {
  await run(store.db, 'DELETE FROM own_locks WHERE until_at <= :now', { now });
}

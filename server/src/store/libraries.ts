import { type Rulebook, standings, type Viewer } from '@polychron/core';
import { rows, run, type Tx } from './database.ts';
import type { LibraryRow } from './models.ts';
import { countSeen, wantedOf } from './seenNewest.ts';
import { sightCondition } from './sight.ts';
import type { Store } from './store.ts';

/**
 * A library; locked against other changes of its rules and members inside a transaction. Null where there is
 * none.
 */
export function findLibrary(store: Store, id: string, tx?: Tx): Promise<LibraryRow | null> {
  const locked = tx ? { transaction: tx, lock: tx.LOCK.UPDATE } : {};
  return store.models.Library.findByPk(id, locked);
}

/** Every library, by name. */
export const allLibraries = (store: Store): Promise<LibraryRow[]> =>
  store.models.Library.findAll({ order: [['name', 'ASC']] });

/** Libraries by their ids, by name. */
export const librariesByIds = (store: Store, ids: readonly string[]): Promise<LibraryRow[]> =>
  store.models.Library.findAll({ where: { id: [...ids] }, order: [['name', 'ASC']] });

/** A library by its code; null where there is none. */
export const libraryOfCode = (store: Store, code: string, tx?: Tx): Promise<LibraryRow | null> =>
  store.models.Library.findOne({ where: { code }, transaction: tx ?? null });

/**
 * The code that a library has now which had another; null where none had it, or somebody has no role in it.
 */
export async function codeSince(store: Store, formerCode: string, personId: string): Promise<string | null> {
  const [found] = await rows<{ code: string }>(
    store.db,
    `SELECT l.code FROM library_codes c JOIN libraries l ON l.id = c.library_id
     WHERE c.code = :formerCode AND l.code <> :formerCode
       AND EXISTS (SELECT 1 FROM held_roles h WHERE h.library_id = l.id AND h.person_id = :personId)`,
    { formerCode, personId },
  );
  return found?.code ?? null;
}

/** The codes that libraries had before, in their order, by library. */
export async function formerCodesOf(
  store: Store,
  libraryIds: readonly string[],
): Promise<Map<string, string[]>> {
  const codes = new Map<string, string[]>();
  if (libraryIds.length === 0) return codes;
  const found = await rows<{ id: string; code: string }>(
    store.db,
    `SELECT l.id, c.code FROM library_codes c JOIN libraries l ON l.id = c.library_id AND l.code <> c.code
     WHERE l.id IN (:libraryIds) ORDER BY c.code`,
    { libraryIds },
  );
  for (const { id, code } of found) codes.set(id, [...(codes.get(id) ?? []), code]);
  return codes;
}

/**
 * Makes a code a library's own, for good; false where it is, or was, another's. Whoever else wants it waits
 * until the transaction ends.
 */
export async function takeCode(store: Store, libraryId: string, code: string, tx: Tx): Promise<boolean> {
  // Nothing of a row that is there changes; it is locked by that.
  await run(
    store.db,
    `INSERT INTO library_codes (code, library_id) VALUES (:code, :libraryId)
     ON DUPLICATE KEY UPDATE code = VALUES(code)`,
    { code, libraryId },
    tx,
  );
  const [taken] = await rows<{ libraryId: string }>(
    store.db,
    'SELECT library_id AS libraryId FROM library_codes WHERE code = :code FOR UPDATE',
    { code },
    tx,
  );
  return taken?.libraryId === libraryId;
}

/** Gives a library a code that it has taken; what people have of their own under its address moves along. */
export async function changeCode(
  store: Store,
  { id, code: from }: Pick<LibraryRow, 'id' | 'code'>,
  to: string,
  tx: Tx,
): Promise<void> {
  await store.models.Library.update({ code: to }, { where: { id }, transaction: tx });
  for (const table of ['own_places', 'own_locks'])
    await run(
      store.db,
      // What begins with `path/` stands between that and `path0`, which follows it.
      `UPDATE ${table} SET path = CONCAT(:to, SUBSTRING(path, CHAR_LENGTH(:from) + 1))
       WHERE path = :from OR (path > CONCAT(:from, '/') AND path < CONCAT(:from, '0'))`,
      { from, to },
      tx,
    );
}

/** Libraries somebody has a role in, by code. */
export const librariesOf = (
  store: Store,
  personId: string,
): Promise<Pick<LibraryRow, 'id' | 'code' | 'name' | 'createdAt'>[]> =>
  rows(
    store.db,
    `SELECT id, code, name, created_at AS createdAt FROM libraries
     WHERE id IN (SELECT library_id FROM held_roles WHERE person_id = :personId) ORDER BY code`,
    { personId },
  );

/** How libraries are named, by id. */
export async function libraryNames(
  store: Store,
  ids: readonly string[],
): Promise<Map<string, Pick<LibraryRow, 'id' | 'code' | 'name'>>> {
  const found = await store.models.Library.findAll({ where: { id: [...ids] } });
  return new Map(found.map(({ id, code, name }) => [id, { id, code, name }]));
}

/** Keeps a new library; its first revision is added by itself. */
export async function insertLibrary(
  store: Store,
  library: { id: string; code: string; name: string; purpose: string; createdAt: Date },
  tx: Tx,
): Promise<void> {
  await store.models.Library.create({ ...library, rulebookRevision: 1 }, { transaction: tx });
  await store.db.query('INSERT INTO library_usage (library_id, bytes) VALUES (:id, 0)', {
    replacements: { id: library.id },
    transaction: tx,
  });
}

/** Changes what a library is called and for, or closes or opens it. */
export async function updateLibrary(
  store: Store,
  id: string,
  changed: Pick<LibraryRow, 'name' | 'purpose' | 'closedAt'>,
  tx: Tx,
): Promise<void> {
  await store.models.Library.update(changed, { where: { id }, transaction: tx });
}

/** How many of a library's documents somebody holds or decides about. */
export async function workIn(
  store: Store,
  libraryId: string,
  tx: Tx,
): Promise<{ held: number; inApproval: number }> {
  const [found] = await rows<{ held: number; inApproval: number }>(
    store.db,
    `SELECT
       (SELECT COUNT(*) FROM checkouts c JOIN documents d ON d.id = c.document_id WHERE d.library_id = :libraryId) AS held,
       (SELECT COUNT(*) FROM approval_runs r JOIN documents d ON d.id = r.open_document_id
        WHERE d.library_id = :libraryId) AS inApproval`,
    { libraryId },
    tx,
  );
  return { held: Number(found?.held ?? 0), inApproval: Number(found?.inApproval ?? 0) };
}

/** Documents of a library that somebody sees something of; none without a role in it. */
export async function countDocuments(
  store: Store,
  libraryId: string,
  viewer: Viewer,
  rules: Rulebook,
): Promise<number> {
  return viewer.roles.size === 0 ? 0 : countSeen(store.db, wantedOf(libraryId, viewer, rules));
}

/**
 * Bytes a library keeps: of versions, of saves of working copies, and of copies set aside. What was thinned,
 * and waits on the shelf, does not count. Inside a transaction whoever adds to the library's versions waits
 * until it ends, so that two do not take the same room.
 */
export async function bytesKeptIn(store: Store, libraryId: string, tx?: Tx): Promise<number> {
  const [versions] = await rows<{ bytes: number }>(
    store.db,
    `SELECT bytes FROM library_usage WHERE library_id = :libraryId ${tx ? 'FOR UPDATE' : ''}`,
    { libraryId },
    tx,
  );
  const [beside] = await rows<{ bytes: number }>(
    store.db,
    `SELECT
       (SELECT COALESCE(SUM(s.size), 0) FROM checkouts c JOIN documents d ON d.id = c.document_id
        JOIN saves s ON s.document_id = c.document_id WHERE d.library_id = :libraryId)
       + (SELECT COALESCE(SUM(f.size), 0) FROM desk_files f JOIN documents d ON d.id = f.document_id
          WHERE d.library_id = :libraryId AND f.kind = 'setAside')
       + (SELECT COALESCE(SUM(e.size), 0) FROM desk_files f JOIN documents d ON d.id = f.document_id
          JOIN desk_saves e ON e.file_id = f.id WHERE d.library_id = :libraryId AND f.kind = 'setAside') AS bytes`,
    { libraryId },
    tx,
  );
  return Number(versions?.bytes ?? 0) + Number(beside?.bytes ?? 0);
}

/** Notes that a library's versions keep more, or less. */
export async function addBytesKept(store: Store, libraryId: string, bytes: number, tx: Tx): Promise<void> {
  if (bytes === 0) return;
  await store.db.query('UPDATE library_usage SET bytes = bytes + :bytes WHERE library_id = :libraryId', {
    replacements: { bytes, libraryId },
    transaction: tx,
  });
}

/**
 * Moments of publication in a library since a moment, for each document somebody sees something of; in
 * milliseconds. What is read grows with the publications: documents without any are only counted.
 */
export async function publicationsSince(
  store: Store,
  { libraryId, since }: { libraryId: string; since: Date },
  viewer: Viewer,
  rules: Rulebook,
): Promise<number[][]> {
  const sight = sightCondition(viewer, rules);
  const found = await rows<{ documentId: string; at: Date }>(
    store.db,
    `SELECT d.id AS documentId, p.in_force_from AS at FROM versions p JOIN documents d ON d.id = p.document_id
     LEFT JOIN checkouts c ON c.document_id = d.id
     WHERE d.library_id = :libraryId AND p.state IN ('published', 'withdrawn')
       AND (p.standing IS NULL OR p.standing IN (:standings)) AND p.in_force_from > :since
       AND EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sight})`,
    { libraryId, since, viewer: viewer.id, standings },
  );
  const moments = new Map<string, number[]>();
  for (const { documentId, at } of found) {
    moments.set(documentId, [...(moments.get(documentId) ?? []), at.getTime()]);
  }
  const documents = await countSeen(store.db, wantedOf(libraryId, viewer, rules));
  const without = Array.from({ length: Math.max(0, documents - moments.size) }, (): number[] => []);
  return [...moments.values(), ...without];
}

import { rows, run, type Tx } from './database.ts';
import type { Store } from './store.ts';

/** A stretch of a content's bytes, stored once by its hash. */
export interface Chunk {
  hash: string;
  bytes: Uint8Array;
  /** Where in the content it begins, in bytes. */
  start: number;
}

/**
 * Locks a content, and says whether its bytes are there: `arrived` where they lie ready and nothing keeps
 * them yet, `gone` where they left the recovery shelf for good or have not arrived whole.
 */
export async function lockContent(
  store: Store,
  hash: string,
  tx: Tx,
): Promise<'kept' | 'arrived' | 'gone' | 'unknown'> {
  const [row] = await rows<{ purgedAt: Date | null; arrived: number }>(
    store.db,
    'SELECT purged_at AS purgedAt, arrived FROM contents WHERE sha256 = :hash FOR UPDATE',
    { hash },
    tx,
  );
  if (!row) return 'unknown';
  if (row.purgedAt === null) return 'kept';
  return row.arrived ? 'arrived' : 'gone';
}

/**
 * Notes that a content is there. One that left for good may come again; its row stayed for the versions that
 * name it.
 */
export async function insertContent(store: Store, hash: string, size: number, tx: Tx): Promise<void> {
  await run(
    store.db,
    `INSERT INTO contents (sha256, size) VALUES (:hash, :size)
     ON DUPLICATE KEY UPDATE purged_at = NULL, arriving_at = NULL, arrived = FALSE`,
    { hash, size },
    tx,
  );
}

/** Notes that a content arrives, unless it is kept. Until something keeps it, it is there for nobody. */
export async function beginArrival(store: Store, hash: string, size: number, now: Date): Promise<void> {
  await run(
    store.db,
    `INSERT INTO contents (sha256, size, purged_at, arriving_at) VALUES (:hash, :size, :now, :now)
     ON DUPLICATE KEY UPDATE arriving_at = IF(purged_at IS NULL, NULL, :now)`,
    { hash, size, now },
  );
}

/** Notes that all chunks of a content that arrived are there. */
export async function endArrival(store: Store, hash: string): Promise<void> {
  await run(store.db, 'UPDATE contents SET arrived = TRUE WHERE sha256 = :hash AND arriving_at IS NOT NULL', {
    hash,
  });
}

/** Hashes of contents that arrived before a moment, or began to, and that nothing keeps; at most `count`. */
export async function arrivalsBefore(store: Store, before: Date, count: number): Promise<string[]> {
  const found = await rows<{ sha256: string }>(
    store.db,
    'SELECT sha256 FROM contents WHERE arriving_at < :before LIMIT :count',
    { before, count },
  );
  return found.map(({ sha256 }) => sha256);
}

/** Removes the bytes of a locked content that arrived before a moment; false where it is kept by now. */
export async function deleteArrival(store: Store, hash: string, before: Date, tx: Tx): Promise<boolean> {
  const left = await rows(
    store.db,
    'SELECT 1 AS here FROM contents WHERE sha256 = :hash AND arriving_at < :before',
    { hash, before },
    tx,
  );
  if (left.length === 0) return false;
  await deleteBytes(store, hash, tx);
  await run(
    store.db,
    'UPDATE contents SET arriving_at = NULL, arrived = FALSE WHERE sha256 = :hash',
    { hash },
    tx,
  );
  return true;
}

/** Stores chunks of a content from a position on; those that are there already are not stored again. */
export async function insertChunks(
  store: Store,
  content: { hash: string; position: number },
  chunks: readonly Chunk[],
  tx: Tx,
): Promise<void> {
  // In the order of their hashes, so that two transactions storing the same chunks rarely deadlock; where
  // they do, one tries again.
  const distinct = [...new Map(chunks.map((chunk) => [chunk.hash, chunk])).values()].sort((a, b) =>
    a.hash < b.hash ? -1 : 1,
  );
  await run(
    store.db,
    'INSERT IGNORE INTO chunks (sha256, bytes) VALUES :chunks',
    { chunks: distinct.map(({ hash, bytes }) => [hash, Buffer.from(bytes)]) },
    tx,
  );
  await run(
    store.db,
    'INSERT IGNORE INTO content_chunks (content, position, chunk, starts_at) VALUES :places',
    {
      places: chunks.map(({ hash, start }, index) => [content.hash, content.position + index, hash, start]),
    },
    tx,
  );
}

/** Chunks of a content in order, from a position on. */
export async function chunksFrom(
  store: Store,
  hash: string,
  position: number,
  count: number,
): Promise<Buffer[]> {
  const parts = await rows<{ bytes: Buffer }>(
    store.db,
    `SELECT k.bytes FROM content_chunks cc JOIN chunks k ON k.sha256 = cc.chunk
     WHERE cc.content = :hash AND cc.position >= :position AND cc.position < :end ORDER BY cc.position`,
    { hash, position, end: position + count },
  );
  return parts.map(({ bytes }) => bytes);
}

/** The last chunk of a content known to begin at or before a byte of it; its first where that is not told. */
export async function chunkAt(
  store: Store,
  hash: string,
  byte: number,
): Promise<{ position: number; start: number }> {
  const [found] = await rows<{ position: number; start: number }>(
    store.db,
    `SELECT position, starts_at AS start FROM content_chunks WHERE content = :hash AND starts_at <= :byte
     ORDER BY position DESC LIMIT 1`,
    { hash, byte },
  );
  return found ? { position: found.position, start: Number(found.start) } : { position: 0, start: 0 };
}

/** That something keeps a content: a version not past the recovery shelf, a save, or a file on a Desk. */
const inUse = `EXISTS (SELECT 1 FROM versions k WHERE k.sha256 = c.sha256 AND (k.thinned_at IS NULL OR k.thinned_until > :now))
  OR EXISTS (SELECT 1 FROM saves s WHERE s.sha256 = c.sha256)
  OR EXISTS (SELECT 1 FROM desk_files f WHERE f.sha256 = c.sha256)
  OR EXISTS (SELECT 1 FROM desk_saves ds WHERE ds.sha256 = c.sha256)`;

/** Hashes of contents that nothing keeps any more, at most `count`. */
export async function unusedContents(store: Store, now: Date, count: number): Promise<string[]> {
  const found = await rows<{ sha256: string }>(
    store.db,
    `SELECT c.sha256 FROM contents c WHERE c.purged_at IS NULL AND NOT (${inUse}) LIMIT :count`,
    { now, count },
  );
  return found.map(({ sha256 }) => sha256);
}

/** Removes the bytes of a locked content, unless something keeps it by now; false where something does. */
export async function deleteUnused(store: Store, hash: string, now: Date, tx: Tx): Promise<boolean> {
  const used = await rows(
    store.db,
    `SELECT 1 AS used FROM contents c WHERE c.sha256 = :hash AND (${inUse})`,
    { hash, now },
    tx,
  );
  if (used.length > 0) return false;
  await deleteBytes(store, hash, tx);
  await run(store.db, 'UPDATE contents SET purged_at = :now WHERE sha256 = :hash', { hash, now }, tx);
  return true;
}

async function deleteBytes(store: Store, hash: string, tx: Tx): Promise<void> {
  const parts = await rows<{ chunk: string }>(
    store.db,
    'SELECT DISTINCT chunk FROM content_chunks WHERE content = :hash',
    { hash },
    tx,
  );
  await run(store.db, 'DELETE FROM content_chunks WHERE content = :hash', { hash }, tx);
  if (parts.length > 0) {
    await run(
      store.db,
      `DELETE FROM chunks WHERE sha256 IN (:chunks)
         AND NOT EXISTS (SELECT 1 FROM content_chunks cc WHERE cc.chunk = chunks.sha256)`,
      { chunks: parts.map(({ chunk }) => chunk) },
      tx,
    );
  }
}

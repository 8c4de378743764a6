import { createHash } from 'node:crypto';
import type { Context } from '../context.ts';
import { rows, transact, type Tx } from '../store/database.ts';
import { chunksOf, type ContentSource } from './cut.ts';

/** SHA-256 in lower-case hexadecimal. */
export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Chunks looked up or written in one statement; keeps a statement under the server's packet limit. */
const batchBytes = 1 << 20;

/**
 * Keeps a content in the transaction that makes its version. Chunks and contents that are there already are not stored again.
 */
export async function storeContent(context: Context, source: ContentSource, hash: string, tx: Tx): Promise<void> {
  const [known] = await rows<{ purgedAt: Date | null }>(context.db, 'SELECT purged_at AS purgedAt FROM contents WHERE sha256 = :hash FOR UPDATE', { hash }, tx);
  if (known && known.purgedAt === null) return;
  const run = (sql: string, replacements: unknown[]) => context.db.query(sql, { replacements, transaction: tx });
  // A content that left the recovery shelf for good may come again; its row stayed for the versions that name it.
  await run('INSERT INTO contents (sha256, size) VALUES (?, ?) ON DUPLICATE KEY UPDATE purged_at = NULL', [hash, source instanceof Uint8Array ? source.length : source.facts.size]);

  let position = 0;
  for await (const batch of batches(chunksOf(source))) {
    // In the order of their hashes, so that two transactions storing the same chunks rarely deadlock; where they do, one tries again.
    const distinct = [...new Map(batch.map((chunk) => [chunk.hash, chunk])).values()].sort((a, b) => (a.hash < b.hash ? -1 : 1));
    await run(`INSERT IGNORE INTO chunks (sha256, bytes) VALUES ${distinct.map(() => '(?, ?)').join(', ')}`, distinct.flatMap((chunk) => [chunk.hash, Buffer.from(chunk.bytes)]));
    await run(`INSERT IGNORE INTO content_chunks (content, position, chunk) VALUES ${batch.map(() => '(?, ?, ?)').join(', ')}`,
      batch.flatMap((chunk, index) => [hash, position + index, chunk.hash]));
    position += batch.length;
  }
}

interface Chunk { hash: string; bytes: Uint8Array }

async function* batches(chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): AsyncGenerator<Chunk[]> {
  let batch: Chunk[] = [];
  let size = 0;
  for await (const bytes of chunks) {
    if (batch.length > 0 && size + bytes.length > batchBytes) { yield batch; batch = []; size = 0; }
    batch.push({ hash: sha256(bytes), bytes });
    size += bytes.length;
  }
  if (batch.length > 0) yield batch;
}

/** Chunks fetched at once while reading. */
const readAhead = 16;

/** Reads a content back chunk by chunk, in order. */
export async function* readChunks(context: Context, hash: string): AsyncGenerator<Buffer> {
  for (let position = 0; ; position += readAhead) {
    const parts = await rows<{ bytes: Buffer }>(context.db,
      `SELECT k.bytes FROM content_chunks cc JOIN chunks k ON k.sha256 = cc.chunk
       WHERE cc.content = :hash AND cc.position >= :position AND cc.position < :end ORDER BY cc.position`,
      { hash, position, end: position + readAhead });
    for (const part of parts) yield part.bytes;
    if (parts.length < readAhead) return;
  }
}

/** Reads a whole content into memory. */
export async function readContent(context: Context, hash: string): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of readChunks(context, hash)) parts.push(part);
  return Buffer.concat(parts);
}

/** Locks a content against its removal; false where it is gone already. */
export async function holdContent(context: Context, hash: string, tx: Tx): Promise<boolean> {
  const [row] = await rows<{ purgedAt: Date | null }>(context.db, 'SELECT purged_at AS purgedAt FROM contents WHERE sha256 = :hash FOR UPDATE', { hash }, tx);
  return row !== undefined && row.purgedAt === null;
}

/**
 * Removes contents that nothing keeps any more: no version, or only ones whose time on the recovery shelf is over, no save and no file on a
 * Desk. Each goes in a transaction of its own; the rows that
 * name it stay, with size and hash.
 * @returns how many went, at most `most`
 */
export async function purgeShelf(context: Context, now: Date, most = 500): Promise<number> {
  const inUse = `EXISTS (SELECT 1 FROM versions k WHERE k.sha256 = c.sha256 AND (k.thinned_at IS NULL OR k.thinned_until > :now))
    OR EXISTS (SELECT 1 FROM saves s WHERE s.sha256 = c.sha256)
    OR EXISTS (SELECT 1 FROM desk_files f WHERE f.sha256 = c.sha256) OR EXISTS (SELECT 1 FROM desk_saves ds WHERE ds.sha256 = c.sha256)`;
  const over = await rows<{ sha256: string }>(context.db,
    `SELECT c.sha256 FROM contents c WHERE c.purged_at IS NULL AND NOT (${inUse}) LIMIT :most`, { now, most });
  let gone = 0;
  for (const { sha256: hash } of over) {
    await transact(context.db, async (tx) => {
      if (!await holdContent(context, hash, tx)) return;
      // Asked again under the lock: somebody may have recovered it meanwhile.
      const [used] = await rows(context.db, `SELECT 1 AS used FROM contents c WHERE c.sha256 = :hash AND (${inUse})`, { hash, now }, tx);
      if (used) return;
      const parts = await rows<{ chunk: string }>(context.db, 'SELECT DISTINCT chunk FROM content_chunks WHERE content = :hash', { hash }, tx);
      const run = (sql: string, replacements: Record<string, unknown>) => context.db.query(sql, { replacements, transaction: tx });
      await run('DELETE FROM content_chunks WHERE content = :hash', { hash });
      if (parts.length > 0) await run('DELETE FROM chunks WHERE sha256 IN (:chunks) AND NOT EXISTS (SELECT 1 FROM content_chunks cc WHERE cc.chunk = chunks.sha256)', { chunks: parts.map(({ chunk }) => chunk) });
      await run('UPDATE contents SET purged_at = :now WHERE sha256 = :hash', { hash, now });
      gone += 1;
    });
  }
  return gone;
}

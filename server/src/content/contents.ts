import { createHash } from 'node:crypto';
import {
  type Chunk,
  chunksFrom,
  deleteUnused,
  insertChunks,
  insertContent,
  lockContent,
  unusedContents,
} from '../store/contents.ts';
import { transact, type Tx } from '../store/database.ts';
import type { Store } from '../store/store.ts';
import { chunksOf, type ContentSource } from './cut.ts';

/** SHA-256 in lower-case hexadecimal. */
export const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

/** Chunks looked up or written in one statement; keeps a statement under the server's packet limit. */
const batchBytes = 1 << 20;

/**
 * Keeps a content in the transaction that makes its version. Chunks and contents that are there already are
 * not stored again.
 */
export async function storeContent(store: Store, source: ContentSource, hash: string, tx: Tx): Promise<void> {
  if ((await lockContent(store, hash, tx)) === 'kept') return;
  const size = source instanceof Uint8Array ? source.length : source.facts.size;
  await insertContent(store, hash, size, tx);
  let position = 0;
  for await (const batch of batches(chunksOf(source))) {
    await insertChunks(store, { hash, position }, batch, tx);
    position += batch.length;
  }
}

async function* batches(chunks: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): AsyncGenerator<Chunk[]> {
  let batch: Chunk[] = [];
  let size = 0;
  for await (const bytes of chunks) {
    if (batch.length > 0 && size + bytes.length > batchBytes) {
      yield batch;
      batch = [];
      size = 0;
    }
    batch.push({ hash: sha256(bytes), bytes });
    size += bytes.length;
  }
  if (batch.length > 0) yield batch;
}

/** Chunks fetched at once while reading. */
const readAhead = 16;

/** Reads a content back chunk by chunk, in order. */
export async function* readChunks(store: Store, hash: string): AsyncGenerator<Buffer> {
  for (let position = 0; ; position += readAhead) {
    const parts = await chunksFrom(store, hash, position, readAhead);
    yield* parts;
    if (parts.length < readAhead) return;
  }
}

/** Reads a part of a content back, from its byte `start` to its byte `end`, that one too. */
export async function* readRange(
  store: Store,
  hash: string,
  { start, end }: { start: number; end: number },
): AsyncGenerator<Buffer> {
  let from = 0;
  for await (const chunk of readChunks(store, hash)) {
    if (from > end) return;
    const part = chunk.subarray(Math.max(0, start - from), end + 1 - from);
    if (part.length > 0 && from + chunk.length > start) yield part;
    from += chunk.length;
  }
}

/** Reads a whole content into memory. */
export async function readContent(store: Store, hash: string): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of readChunks(store, hash)) parts.push(part);
  return Buffer.concat(parts);
}

/** Locks a content against its removal; false where it is gone already. */
export async function holdContent(store: Store, hash: string, tx: Tx): Promise<boolean> {
  return (await lockContent(store, hash, tx)) === 'kept';
}

/**
 * Removes contents that nothing keeps any more: no version, or only ones whose time on the recovery shelf is
 * over, no save and no file on a Desk. Each goes in a transaction of its own; the rows that name it stay,
 * with size and hash.
 * @returns how many went, at most `count`
 */
export async function purgeShelf(store: Store, now: Date, count = 500): Promise<number> {
  let gone = 0;
  for (const hash of await unusedContents(store, now, count)) {
    await transact(store.db, async (tx) => {
      if (!(await holdContent(store, hash, tx))) return;
      // Asked again under the lock: somebody may have recovered it meanwhile.
      if (await deleteUnused(store, hash, now, tx)) gone += 1;
    });
  }
  return gone;
}

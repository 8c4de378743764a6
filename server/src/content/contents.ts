import { createHash } from 'node:crypto';
import { type ContentFacts, refuse } from '@polychron/core';
import { Refused } from '../refused.ts';
import {
  arrivalsBefore,
  beginArrival,
  type Chunk,
  chunkAt,
  chunksFrom,
  deleteArrival,
  deleteUnused,
  endArrival,
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
  const state = await lockContent(store, hash, tx);
  if (state === 'kept') return;
  const size = source instanceof Uint8Array ? source.length : source.facts.size;
  await insertContent(store, hash, size, tx);
  if (state === 'arrived') return;
  for await (const { position, chunks } of batches(chunksOf(source))) {
    await insertChunks(store, { hash, position }, chunks, tx);
  }
}

/**
 * Lays a large content down before the act that keeps it, in many short transactions, so that the act does
 * not hold its document for as long as that takes. What no act keeps goes by `forgetArrivals`.
 * @param proceed asked before each stretch of a megabyte; stops it by throwing
 */
export async function layDown(
  store: Store,
  source: ContentSource & { facts: { size: number } },
  { hash, now, proceed }: { hash: string; now: Date; proceed: () => Promise<void> },
): Promise<void> {
  await beginArrival(store, hash, source.facts.size, now);
  if (await transact(store.db, async (tx) => (await lockContent(store, hash, tx)) !== 'gone')) return;
  for await (const { position, chunks } of batches(chunksOf(source))) {
    await proceed();
    await transact(store.db, (tx) => insertChunks(store, { hash, position }, chunks, tx));
  }
  await endArrival(store, hash);
}

/** How long what arrived waits for an act that keeps it, in milliseconds. */
const arrivalsFor = 86_400_000;

/**
 * Removes what arrived and was kept by no act.
 * @returns how many went, at most `count`
 */
export async function forgetArrivals(store: Store, now: Date, count = 50): Promise<number> {
  const before = new Date(now.getTime() - arrivalsFor);
  let gone = 0;
  for (const hash of await arrivalsBefore(store, before, count)) {
    await transact(store.db, async (tx) => {
      await lockContent(store, hash, tx);
      if (await deleteArrival(store, hash, before, tx)) gone += 1;
    });
  }
  return gone;
}

/** Chunks that go into one statement, from the `position`th of the content on. */
interface Batch {
  position: number;
  chunks: Chunk[];
}

async function* batches(parts: AsyncIterable<Uint8Array> | Iterable<Uint8Array>): AsyncGenerator<Batch> {
  let position = 0;
  let chunks: Chunk[] = [];
  let size = 0;
  let start = 0;
  for await (const bytes of parts) {
    if (chunks.length > 0 && size + bytes.length > batchBytes) {
      yield { position, chunks };
      position += chunks.length;
      chunks = [];
      size = 0;
    }
    chunks.push({ hash: sha256(bytes), bytes, start });
    size += bytes.length;
    start += bytes.length;
  }
  if (chunks.length > 0) yield { position, chunks };
}

/** Chunks fetched at once while reading. */
const readAhead = 16;

/** Reads a content back chunk by chunk, in order, from its `first` on. */
export async function* readChunks(store: Store, hash: string, first = 0): AsyncGenerator<Buffer> {
  for (let position = first; ; position += readAhead) {
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
  const first = await chunkAt(store, hash, start);
  let from = first.start;
  for await (const chunk of readChunks(store, hash, first.position)) {
    if (from > end) return;
    const part = chunk.subarray(Math.max(0, start - from), end + 1 - from);
    if (part.length > 0 && from + chunk.length > start) yield part;
    from += chunk.length;
  }
}

/** A part of a content, from its byte `start` to its byte `end` at most, as one. */
export async function readPart(
  store: Store,
  { sha256: hash, size }: Pick<ContentFacts, 'sha256' | 'size'>,
  { start, end }: { start: number; end: number },
): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of readRange(store, hash, { start, end: Math.min(end, size - 1) })) parts.push(part);
  return Buffer.concat(parts);
}

/** Bytes of the largest content that is ever held in memory whole. */
export const mostWholeBytes = 256 << 20;

/** Says that a content is too large to be read whole: only `readChunks` and `readRange` give it. */
export const tooLargeToRead = (): Refused => {
  const megabytes = mostWholeBytes / (1 << 20);
  const reason = `The file has more than ${megabytes} MB, which is more than is read here. Download the file to open it.`;
  return new Refused(refuse('invalid', 'too-complex', reason, { what: 'bytes', most: mostWholeBytes }));
};

/** Reads a whole content into memory. @throws Refused `too-complex` */
export async function readContent(store: Store, hash: string): Promise<Buffer> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of readChunks(store, hash)) {
    size += part.length;
    if (size > mostWholeBytes) throw tooLargeToRead();
    parts.push(part);
  }
  return Buffer.concat(parts);
}

/** A content that is fetched when its turn comes. */
export function fetched(
  store: Store,
  { sha256: hash, size }: Pick<ContentFacts, 'sha256' | 'size'>,
): { size: number; bytes: () => Promise<Buffer> } {
  return { size, bytes: () => readContent(store, hash) };
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

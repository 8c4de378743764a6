import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { directoryStart, isRefusal, listZip } from '@polychron/core';

/** Bounds of a chunk in bytes; the usual size lies near `mask`'s 64 KiB. */
export const chunkSize = { least: 16 << 10, most: 256 << 10 } as const;
/** A cut falls where these bits of the rolling hash are zero: once in 64 KiB of ordinary data. */
const mask = 0xffff << 8;

/**
 * 256 fixed pseudo-random words (xorshift32 from a fixed seed): part of the stored form, never to be changed.
 */
const gear = (() => {
  let state = 0x9e3779b9;
  return Uint32Array.from({ length: 256 }, () => {
    state ^= state << 13;
    state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state;
  });
})();

/**
 * Where to cut a file so that two versions of it share most chunks. Zip-based files are cut where their
 * entries start, since an unchanged entry is stored as the same bytes; other stretches by content (a rolling
 * "gear" hash: Xia et al., "FastCDC", USENIX ATC 2016, section 3).
 * @returns ends of chunks, rising, the last one the file's length; empty for no bytes
 */
export function cutPoints(bytes: Uint8Array): number[] {
  const points: number[] = [];
  let start = 0;
  for (const end of [...entryStarts(bytes), bytes.length]) {
    if (end <= start) continue;
    points.push(...cutByContent(bytes, start, end));
    start = end;
  }
  return points;
}

/** Bytes in memory, or a file that has been staged. */
export type ContentSource = Uint8Array | { path: string; facts: { size: number } };

/**
 * Files up to this many bytes are cut at their entries; larger ones by content alone, as they are read, so
 * that memory stays small.
 */
const cutWhole = 32 << 20;

/** A content in chunks, in order. */
export async function* chunksOf(source: ContentSource): AsyncGenerator<Uint8Array> {
  if (!(source instanceof Uint8Array) && source.facts.size > cutWhole) {
    yield* cutStream(createReadStream(source.path, { highWaterMark: 1 << 20 }));
    return;
  }
  const bytes = source instanceof Uint8Array ? source : await readFile(source.path);
  yield* slices(bytes, cutPoints(bytes));
}

/** Cuts a stream where its content says; the same wherever its parts end. */
export async function* cutStream(parts: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let waiting = new Uint8Array(0);
  for await (const part of parts) {
    const bytes = waiting.length === 0 ? part : Buffer.concat([waiting, part]);
    let start = 0;
    // A cut is certain only where the largest chunk would end within what is here.
    while (bytes.length - start > chunkSize.most) {
      const end = nextCut(bytes, start, bytes.length);
      yield bytes.subarray(start, end);
      start = end;
    }
    waiting = bytes.slice(start);
  }
  yield* slices(waiting, cutByContent(waiting, 0, waiting.length));
}

function* slices(bytes: Uint8Array, ends: readonly number[]): Generator<Uint8Array> {
  let start = 0;
  for (const end of ends) {
    yield bytes.subarray(start, end);
    start = end;
  }
}

function entryStarts(bytes: Uint8Array): number[] {
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) return [];
  const entries = listZip(bytes);
  if (isRefusal(entries)) return [];
  // The list at the end changes with every file, so it is cut off from the last entry.
  const starts = [...entries.map((entry) => entry.offset), directoryStart(bytes) ?? 0].filter(
    (offset) => offset > 0 && offset < bytes.length,
  );
  return [...new Set(starts)].sort((a, b) => a - b);
}

function cutByContent(bytes: Uint8Array, start: number, end: number): number[] {
  const points: number[] = [];
  for (let from = start; from < end;) {
    from = nextCut(bytes, from, end);
    points.push(from);
  }
  return points;
}

/** Where the chunk that starts at `from` ends. */
function nextCut(bytes: Uint8Array, from: number, end: number): number {
  const limit = Math.min(end, from + chunkSize.most);
  let at = Math.min(limit, from + chunkSize.least);
  let hash = 0;
  while (at < limit) {
    hash = ((hash << 1) + (gear[bytes[at] as number] as number)) >>> 0;
    at += 1;
    if ((hash & mask) === 0) break;
  }
  return at;
}

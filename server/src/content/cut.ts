import { directoryStart, isRefusal, listZip } from '@polychron/core';

/** Bounds of a chunk in bytes; the usual size lies near `mask`'s 64 KiB. */
export const chunkSize = { least: 16 << 10, most: 256 << 10 } as const;
/** A cut falls where these bits of the rolling hash are zero: once in 64 KiB of ordinary data. */
const mask = 0xffff << 8;

/** 256 fixed pseudo-random words (xorshift32 from a fixed seed): part of the stored form, never to be changed. */
const gear = (() => {
  let state = 0x9e3779b9;
  return Uint32Array.from({ length: 256 }, () => {
    state ^= state << 13; state >>>= 0;
    state ^= state >>> 17;
    state ^= state << 5; state >>>= 0;
    return state;
  });
})();

/**
 * Where to cut a file so that two versions of it share most chunks. Zip-based files are cut where their entries start, since an
 * unchanged entry is stored as the same bytes; other stretches by content (a rolling "gear" hash: Xia et al., "FastCDC", USENIX ATC 2016,
 * section 3).
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

function entryStarts(bytes: Uint8Array): number[] {
  if (bytes[0] !== 0x50 || bytes[1] !== 0x4b) return [];
  const entries = listZip(bytes);
  if (isRefusal(entries)) return [];
  // The list at the end changes with every file, so it is cut off from the last entry.
  const starts = [...entries.map((entry) => entry.offset), directoryStart(bytes) ?? 0].filter((offset) => offset > 0 && offset < bytes.length);
  return [...new Set(starts)].sort((a, b) => a - b);
}

function cutByContent(bytes: Uint8Array, start: number, end: number): number[] {
  const points: number[] = [];
  let from = start;
  while (from < end) {
    const limit = Math.min(end, from + chunkSize.most);
    let at = Math.min(limit, from + chunkSize.least);
    let hash = 0;
    while (at < limit) {
      hash = ((hash << 1) + (gear[bytes[at] as number] as number)) >>> 0;
      at += 1;
      if ((hash & mask) === 0) break;
    }
    points.push(at);
    from = at;
  }
  return points;
}

import { carriesMark, type ContentFacts, largestMarked, type VersionMark } from '@polychron/core';
import type { Response } from 'express';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { contentTag } from '../access/preconditions.ts';
import { readChunks, readContent, sha256 } from '../content/contents.ts';
import type { Context } from '../context.ts';
import type { Picture } from '../reads/reading.ts';

type Sent = Pick<ContentFacts, 'sha256' | 'size' | 'fileName' | 'mediaType'>;

/**
 * A content to be sent, and what is written into it where its type can carry that; null sends its bytes as
 * they were checked in.
 */
export interface Sending {
  content: Sent;
  mark: VersionMark | null;
}

/** What is said of the bytes sent: their tag, and their digest (RFC 9530) for whoever wants to check. */
const headersOf = (content: Sent, hash: string): Record<string, string> => ({
  'Content-Type': content.mediaType,
  ETag: contentTag(hash),
  'Repr-Digest': `sha-256=:${Buffer.from(hash, 'hex').toString('base64')}:`,
  'Cache-Control': 'private, no-cache',
});

/** Sends a picture out of a file. */
export function sendPicture(res: Response, { mediaType, bytes }: Picture): void {
  const headers = { 'Content-Type': mediaType, 'Cache-Control': 'private, no-cache' };
  res.status(200).set(headers).send(Buffer.from(bytes));
}

/** Sends a content. */
export async function sendContent(
  context: Context,
  res: Response,
  { content, mark }: Sending,
): Promise<undefined> {
  const { sha256: hash, size, fileName } = content;
  res.status(200).attachment(fileName);
  if (mark && carriesMark(fileName) && size <= largestMarked) {
    const bytes = await context.readers.mark(await readContent(context, hash), mark);
    res.set(headersOf(content, sha256(bytes))).send(Buffer.from(bytes));
    return undefined;
  }
  res.set({ ...headersOf(content, hash), 'Content-Length': String(size) });
  await pipeline(Readable.from(readChunks(context, hash)), res);
  return undefined;
}

import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Response } from 'express';
import { carriesMark, type ContentFacts, largestMarked, type VersionMark } from '@polychron/core';
import { readChunks, readContent, sha256 } from '../content/contents.ts';
import type { Context } from '../context.ts';

/** Sends a content with the version it is taken from written into it, where its type can carry that; else its bytes. */
export async function sendMarked(context: Context, res: Response, content: Pick<ContentFacts, 'sha256' | 'size' | 'fileName' | 'mediaType'>, mark: VersionMark): Promise<void> {
  if (!carriesMark(content.fileName) || content.size > largestMarked) { await sendContent(context, res, content); return; }
  const bytes = await context.readers.mark(await readContent(context, content.sha256), mark);
  const hash = sha256(bytes);
  res.status(200).attachment(content.fileName).set({
    'Content-Type': content.mediaType, ETag: `"${hash}"`, 'Repr-Digest': digest(hash), 'Cache-Control': 'private, no-cache',
  }).send(Buffer.from(bytes));
}

const digest = (hash: string): string => `sha-256=:${Buffer.from(hash, 'hex').toString('base64')}:`;

/** Sends a content's bytes as they were checked in, with their digest (RFC 9530) for whoever wants to check. */
export async function sendContent(context: Context, res: Response, content: Pick<ContentFacts, 'sha256' | 'size' | 'fileName' | 'mediaType'>): Promise<void> {
  res.status(200).attachment(content.fileName).set({
    'Content-Type': content.mediaType,
    'Content-Length': String(content.size),
    ETag: `"${content.sha256}"`,
    'Repr-Digest': digest(content.sha256),
    'Cache-Control': 'private, no-cache',
  });
  await pipeline(Readable.from(readChunks(context, content.sha256)), res);
}

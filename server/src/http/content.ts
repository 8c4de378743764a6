import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Response } from 'express';
import type { ContentFacts } from '@polychron/core';
import { readChunks } from '../content/contents.ts';
import type { Context } from '../context.ts';

/** Sends a content's bytes as they were checked in, with their digest (RFC 9530) for whoever wants to check. */
export async function sendContent(context: Context, res: Response, content: Pick<ContentFacts, 'sha256' | 'size' | 'fileName' | 'mediaType'>): Promise<void> {
  res.status(200).attachment(content.fileName).set({
    'Content-Type': content.mediaType,
    'Content-Length': String(content.size),
    ETag: `"${content.sha256}"`,
    'Repr-Digest': `sha-256=:${Buffer.from(content.sha256, 'hex').toString('base64')}:`,
    'Cache-Control': 'private, no-cache',
  });
  await pipeline(Readable.from(readChunks(context, content.sha256)), res);
}

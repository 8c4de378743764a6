import { carriesMark, type ContentFacts, largestMarked, refuse, type VersionMark } from '@polychron/core';
import type { Response } from 'express';
import { Zip, ZipPassThrough } from 'fflate';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { contentTag } from '../access/preconditions.ts';
import { fetched, readChunks, sha256 } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { type Issue, makeIssued } from '../reads/issued.ts';
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

/**
 * Says of the bytes sent their tag, and their digest (RFC 9530) for whoever wants to check. Set one by one:
 * Express would add that a text is UTF-8 (RFC 9110, 8.3.2), which nobody knows of a file.
 */
function describe(res: Response, content: Sent, hash: string): void {
  res.setHeader('Content-Type', content.mediaType);
  res.setHeader('ETag', contentTag(hash));
  res.setHeader('Repr-Digest', `sha-256=:${Buffer.from(hash, 'hex').toString('base64')}:`);
  res.setHeader('Cache-Control', 'private, no-cache');
}

/** Sends a picture out of a file. */
export function sendPicture(res: Response, { mediaType, bytes }: Picture): void {
  const headers = { 'Content-Type': mediaType, 'Cache-Control': 'private, no-cache' };
  res.status(200).set(headers).send(Buffer.from(bytes));
}

/** Bytes of a .zip at most: more would need longer numbers than its plain form has (APPNOTE 4.4, Zip64). */
const largestZip = 3 * 2 ** 30;

/**
 * Sends several contents as one .zip, stored as they are, one after another.
 * @throws Refused `too-large` where they are too many bytes for one
 */
export async function sendZip(
  context: Context,
  res: Response,
  { fileName, entries }: { fileName: string; entries: (Sending & { name: string })[] },
): Promise<undefined> {
  const size = entries.reduce((sum, { content }) => sum + content.size, 0);
  if (size > largestZip) {
    const reason = 'These files are more than 3 GB together. Take fewer at once.';
    throw new Refused(refuse('invalid', 'too-large', reason, { size, limit: largestZip }));
  }
  res.status(200).attachment(fileName);
  res.set({ 'Content-Type': 'application/zip', 'Cache-Control': 'private, no-store' });
  await pipeline(Readable.from(zipped(context, entries)), res);
  return undefined;
}

async function* zipped(
  context: Context,
  entries: readonly (Sending & { name: string })[],
): AsyncGenerator<Uint8Array> {
  const ready: Uint8Array[] = [];
  const zip = new Zip((error, chunk) => {
    if (error) throw error;
    ready.push(chunk);
  });
  for (const { name, ...sending } of entries) {
    const entry = new ZipPassThrough(name);
    zip.add(entry);
    for await (const chunk of bytesOf(context, sending)) {
      entry.push(chunk);
      yield* ready.splice(0);
    }
    entry.push(new Uint8Array(), true);
    yield* ready.splice(0);
  }
  zip.end();
  yield* ready.splice(0);
}

async function* bytesOf(context: Context, { content, mark }: Sending): AsyncGenerator<Uint8Array> {
  const { sha256: hash, size, fileName } = content;
  if (mark && carriesMark(fileName) && size <= largestMarked)
    yield await context.readers.mark(fetched(context, content), mark);
  else yield* readChunks(context, hash);
}

/**
 * Sends an issued copy of a content; where there can be none, its bytes as they are, with why in a header
 * (percent-encoded UTF-8, as in RFC 8187, section 3.2).
 */
export async function sendIssued(context: Context, res: Response, issue: Issue): Promise<undefined> {
  const { content, fileName } = issue;
  const { bytes, why } = await makeIssued(context, issue);
  if (bytes === null) {
    res.set('Not-Issued', encodeURIComponent(why));
    return sendContent(context, res, { content: { ...content, fileName }, mark: null });
  }
  res.status(200).attachment(fileName);
  describe(res, content, sha256(bytes));
  res.send(Buffer.from(bytes));
  return undefined;
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
    const bytes = await context.readers.mark(fetched(context, content), mark);
    describe(res, content, sha256(bytes));
    res.send(Buffer.from(bytes));
    return undefined;
  }
  describe(res, content, hash);
  res.setHeader('Content-Length', size);
  await pipeline(Readable.from(readChunks(context, hash)), res);
  return undefined;
}

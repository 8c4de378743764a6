import type { Request, Response } from 'express';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { matches } from '../../access/preconditions.ts';
import { readRange } from '../../content/contents.ts';
import type { Context } from '../../context.ts';
import { fileTag, isAmong } from './tags.ts';

/**
 * Sends a version as it was checked in, or the part of it that is asked for (RFC 9110, 14), unless the client
 * has it already or wanted another (RFC 9110, 13).
 */
export async function sendFile(
  context: Context,
  { sha256, size, mediaType, at }: { sha256: string; size: number; mediaType: string; at: Date },
  req: Request,
  res: Response,
): Promise<void> {
  const tag = fileTag(sha256);
  res.setHeader('Content-Type', mediaType);
  res.set({ ETag: tag, 'Last-Modified': at.toUTCString(), 'Accept-Ranges': 'bytes' });
  if (!matches(req.get('if-match'), tag)) {
    res.status(412).end();
    return;
  }
  if (isKnown(req, tag, at)) {
    res.status(304).end();
    return;
  }
  const part = partOf(req, { tag, at, size });
  if (part === null) {
    res.status(416).set('Content-Range', `bytes */${size}`).end();
    return;
  }
  const { start, end } = part;
  if (end - start + 1 < size) res.status(206).set('Content-Range', `bytes ${start}-${end}/${size}`);
  res.setHeader('Content-Length', end - start + 1);
  if (req.method === 'HEAD') res.end();
  else await pipeline(Readable.from(readRange(context, sha256, part)), res);
}

/** Whether the client has it already: by its tag, else by its time (RFC 9110, 13.1.2, 13.1.3). */
function isKnown(req: Request, tag: string, at: Date): boolean {
  const tags = req.get('if-none-match');
  if (tags !== undefined) return isAmong(tags, tag);
  const since = Date.parse(req.get('if-modified-since') ?? '');
  // A moment in a header has no parts of a second.
  return Math.floor(at.getTime() / 1000) * 1000 <= since;
}

/**
 * From where to where is sent; all of it where no part is asked for, or several are, or a part of what it was
 * before (RFC 9110, 13.1.5, 14.2). Null where there is no such part.
 */
function partOf(
  req: Request,
  { tag, at, size }: { tag: string; at: Date; size: number },
): { start: number; end: number } | null {
  const whole = { start: 0, end: size - 1 };
  const condition = req.get('if-range');
  const isSame = condition === undefined || condition === tag || condition === at.toUTCString();
  const ranges = req.method === 'GET' && isSame ? req.range(size) : undefined;
  if (ranges === -1) return null;
  if (ranges === undefined || ranges === -2 || ranges.type !== 'bytes') return whole;
  const [first, second] = ranges;
  return first && !second ? first : whole;
}

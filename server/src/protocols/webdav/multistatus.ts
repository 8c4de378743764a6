import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Response } from 'express';
import type { DrivePlace } from '../../reads/drive.ts';
import { type Asked, responseOf, type Telling } from './properties.ts';

/** What is written before it is sent on, in signs. */
const partLength = 16_384;

/** Answers with the properties of places (RFC 4918, 13), as fast as they are read there and no faster. */
export async function sendPlaces(
  res: Response,
  places: AsyncIterable<DrivePlace>,
  { asked, telling }: { asked: Asked; telling: Telling },
): Promise<void> {
  res.status(207).type('application/xml');
  await pipeline(Readable.from(told(places, { asked, telling })), res);
}

async function* told(
  places: AsyncIterable<DrivePlace>,
  { asked, telling }: { asked: Asked; telling: Telling },
): AsyncGenerator<string> {
  let part = '<?xml version="1.0" encoding="utf-8"?><D:multistatus xmlns:D="DAV:">';
  for await (const place of places) {
    part += responseOf(place, asked, telling);
    if (part.length < partLength) continue;
    yield part;
    part = '';
  }
  yield `${part}</D:multistatus>`;
}

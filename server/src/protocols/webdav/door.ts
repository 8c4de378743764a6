import { refuse } from '@polychron/core';
import express, { type Request, type Response, Router } from 'express';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Asker } from '../../access/caller.ts';
import type { Context } from '../../context.ts';
import { noDocument } from '../../access/admission.ts';
import { addressOf, type DrivePlace, placeAt, placesIn } from '../../reads/drive.ts';
import { Refused } from '../../refused.ts';
import { basicSignIn } from '../basicSignIn.ts';
import { sendFile } from './sendFile.ts';
import { responseOf } from './properties.ts';
import { type Asked, readPropfind } from './xml.ts';

const onFolders = 'OPTIONS, PROPFIND';
const onFiles = `${onFolders}, GET, HEAD`;

/**
 * The libraries as a drive (RFC 4918), to be read: each person finds on it the latest version that they see
 * of each document, in folders by subject. What would change something is refused.
 */
export function webdav(context: Context): Router {
  const door = Router();
  door.use((_req, res, next) => {
    res.set({ DAV: '1, 3', 'Cache-Control': 'private, no-cache' });
    next();
  });
  door.options(/.*/, (_req, res) => {
    res.set('Allow', onFiles).status(200).end();
  });
  door.use(basicSignIn(context));
  door.use(express.text({ type: () => true, limit: '64kb' }), async (req, res) => {
    const { caller } = req;
    if (!caller) throw new Error('the door was passed without a sign-in');
    const asker = { context, caller };
    const place = await placeAt(asker, segmentsOf(req.path));
    if (req.method === 'PROPFIND') await propfind(asker, place, req, res);
    else if (place.kind === 'file' && ['GET', 'HEAD'].includes(req.method))
      await sendFile(context, place.file, req, res);
    else refuseMethod(place, res);
  });
  return door;
}

/** The names on a path. @throws Refused `document-not-found` where it is none */
function segmentsOf(path: string): string[] {
  try {
    return path
      .split('/')
      .filter((part) => part !== '')
      .map(decodeURIComponent);
  } catch (error) {
    if (error instanceof URIError) throw noDocument();
    throw error;
  }
}

function refuseMethod(place: DrivePlace, res: Response): void {
  res.set('Allow', place.kind === 'file' ? onFiles : onFolders);
  res.status(405).type('text/plain').send('This drive is for reading. Change documents in the page.\n');
}

const pathOf = (place: DrivePlace): string => {
  const path = ['/dav', ...addressOf(place).map(encodeURIComponent)].join('/');
  return place.kind === 'file' ? path : `${path}/`;
};

/** Tells the properties of a place, and of what stands in it where one asks a step deep (RFC 4918, 9.1). */
async function propfind(asker: Asker, place: DrivePlace, req: Request, res: Response): Promise<void> {
  const depth = req.get('depth') ?? 'infinity';
  if (depth !== '0' && depth !== '1') {
    if (depth.toLowerCase() !== 'infinity')
      throw new Refused(refuse('invalid', 'bad-depth', 'Depth is 0 or 1 (RFC 4918, 10.2).'));
    const error =
      '<?xml version="1.0" encoding="utf-8"?><D:error xmlns:D="DAV:"><D:propfind-finite-depth/></D:error>';
    res.status(403).type('application/xml').send(error);
    return;
  }
  const asked = readPropfind(typeof req.body === 'string' ? req.body : '');
  res.status(207).type('application/xml');
  await pipeline(Readable.from(written(asker, place, { asked, deeper: depth === '1' })), res);
}

/** What is written before it is sent on, in signs. */
const partLength = 16_384;

async function* written(
  asker: Asker,
  place: DrivePlace,
  { asked, deeper }: { asked: Asked; deeper: boolean },
): AsyncGenerator<string> {
  let part = '<?xml version="1.0" encoding="utf-8"?><D:multistatus xmlns:D="DAV:">';
  part += responseOf(pathOf(place), place, asked);
  if (deeper) {
    for await (const inside of placesIn(asker, place)) {
      part += responseOf(pathOf(inside), inside, asked);
      if (part.length < partLength) continue;
      yield part;
      part = '';
    }
  }
  yield `${part}</D:multistatus>`;
}

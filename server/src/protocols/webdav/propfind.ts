import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Asker } from '../../access/caller.ts';
import { type DrivePlace, placesIn } from '../../reads/drive.ts';
import { type Asked, readPropfind, responseOf, type Telling, tellingTo } from './properties.ts';
import { badRequest, standing, type Visit } from './visit.ts';

/** PROPFIND (RFC 4918, 9.1): the properties of a place and, a step deep, of what stands in it. */
export async function propfind(visit: Visit, body: string): Promise<void> {
  const { asker, req, res } = visit;
  const place = standing(visit);
  const depth = req.get('depth') ?? 'infinity';
  if (depth !== '0' && depth !== '1') {
    if (depth.toLowerCase() !== 'infinity')
      throw badRequest('bad-depth', 'Depth is 0 or 1 (RFC 4918, 10.2).');
    const error =
      '<?xml version="1.0" encoding="utf-8"?><D:error xmlns:D="DAV:"><D:propfind-finite-depth/></D:error>';
    res.status(403).type('application/xml').send(error);
    return;
  }
  const asked = readPropfind(body);
  const telling = await tellingTo(asker);
  res.status(207).type('application/xml');
  await pipeline(Readable.from(told(asker, place, { asked, deeper: depth === '1', telling })), res);
}

/** What is written before it is sent on, in signs. */
const partLength = 16_384;

async function* told(
  asker: Asker,
  place: DrivePlace,
  { asked, deeper, telling }: { asked: Asked; deeper: boolean; telling: Telling },
): AsyncGenerator<string> {
  let part = '<?xml version="1.0" encoding="utf-8"?><D:multistatus xmlns:D="DAV:">';
  part += responseOf(place, asked, telling);
  if (deeper) {
    for await (const inside of placesIn(asker, place)) {
      part += responseOf(inside, asked, telling);
      if (part.length < partLength) continue;
      yield part;
      part = '';
    }
  }
  yield `${part}</D:multistatus>`;
}

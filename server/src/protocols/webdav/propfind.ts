import type { Asker } from '../../access/caller.ts';
import { type DrivePlace, placesIn } from '../../reads/drive.ts';
import { sendPlaces } from './multistatus.ts';
import { readPropfind, tellingTo } from './properties.ts';
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
  await sendPlaces(res, placesFrom(asker, place, depth === '1'), { asked, telling: await tellingTo(asker) });
}

async function* placesFrom(asker: Asker, place: DrivePlace, deeper: boolean): AsyncGenerator<DrivePlace> {
  yield place;
  if (deeper) yield* placesIn(asker, place);
}

import { placesIn } from '../../reads/drive.ts';
import { sendPlaces } from './multistatus.ts';
import { propertiesIn, tellingTo } from './properties.ts';
import { forbidden, standing, type Visit } from './visit.ts';
import { davIn, isDav, notUnderstood, readXml } from './xml.ts';

/** REPORT (RFC 3253, 3.6, 3.7): the version tree of a document, as far as the caller sees it. */
export async function report(visit: Visit, body: string): Promise<void> {
  const { asker, res } = visit;
  const place = standing(visit);
  if (place.kind !== 'file') throw forbidden('not-versioned', 'Only documents have versions.');
  const root = readXml(body);
  if (!isDav(root, 'version-tree'))
    throw forbidden('report-unknown', 'There is one report: DAV:version-tree (RFC 3253, 3.7).');
  const prop = davIn(root, 'prop');
  if (!prop) throw notUnderstood('The report names no properties.');
  const asked = { kind: 'some', properties: propertiesIn(prop) } as const;
  const { library, file } = place;
  const versions = placesIn(asker, { kind: 'history', library, document: file });
  await sendPlaces(res, versions, { asked, telling: await tellingTo(asker) });
}

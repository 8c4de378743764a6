import type { Response } from 'express';
import type { Place } from '../reads/versions.ts';

/**
 * Version links (RFC 8288 with the relations of RFC 5829), only to what the caller sees; of a document the
 * latest version and the history.
 */
export function setLinks(
  res: Response,
  documentId: string,
  place: Pick<Place, 'latest'> & Partial<Place>,
): void {
  const base = `/api/v1/documents/${documentId}`;
  const to = (label: string): string => `${base}/versions/${encodeURIComponent(label)}`;
  const links: [relation: string, target: string | null][] = [
    ['version-history', `${base}/versions`],
    ['latest-version', to(place.latest)],
    ['predecessor-version', place.before ? to(place.before) : null],
    ['successor-version', place.after ? to(place.after) : null],
    ['working-copy', place.holds ? `${base}/checkout/content` : null],
  ];
  const written = links.flatMap(([relation, target]) => (target ? [`<${target}>; rel="${relation}"`] : []));
  res.set('Link', written.join(', '));
}

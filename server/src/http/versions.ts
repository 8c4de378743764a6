import { routes } from '@polychron/contract';
import { refuse } from '@polychron/core';
import { performPublish } from '../acts/publish.ts';
import { performRestore } from '../acts/restore.ts';
import { performRecover, performShelter, performThin } from '../acts/thinVersion.ts';
import { issueOf, readIssuable } from '../reads/issued.ts';
import { compareVersions, readPicture, readReading } from '../reads/reading.ts';
import { listVersions, readVersion, readVersionContent } from '../reads/versions.ts';
import { Refused } from '../refused.ts';
import { setLinks } from './links.ts';
import type { ContractRouter } from './router.ts';
import { sendContent, sendIssued, sendPicture } from './sendContent.ts';

/** A moment that was asked for; null where none was. */
export const momentOf = (instant: string | undefined): Date | null =>
  instant === undefined ? null : new Date(instant);

/** Versions: reading, comparing, restoring, publishing, thinning. */
export function versionRoutes(router: ContractRouter): void {
  router.on(routes.listVersions, ({ asker, params, query }) => listVersions(asker, params.id, query));
  router.on(routes.readVersion, async ({ asker, params, res }) => {
    const { view, place } = await readVersion(asker, params.id, params.v);
    setLinks(res, params.id, place);
    return view;
  });
  router.on(routes.versionContent, async ({ asker, params, query, res }) => {
    const { access, version, place, number } = await readVersionContent(asker, params.id, params.v);
    setLinks(res, params.id, place);
    const { context } = asker;
    const { content } = version;
    if (query.issued) return sendIssued(context, res, await issueOf(context, access, version));
    const mark = query.marked ? { number, label: place.label, versionId: version.id } : null;
    return sendContent(context, res, { content, mark });
  });
  router.on(routes.versionIssuable, ({ asker, params }) => readIssuable(asker, params.id, params.v));
  router.on(routes.versionReading, ({ asker, params, query }) =>
    readReading(asker, params.id, params.v, query),
  );
  router.on(routes.versionPicture, async ({ asker, params, res }) => {
    const of = { documentId: params.id, version: params.v };
    sendPicture(res, await readPicture(asker, of, params.part));
  });
  router.on(routes.compareVersions, async ({ asker, params, query, req }) => {
    if (!req.accepts('application/json')) {
      const reason = 'A comparison comes as application/json.';
      throw new Refused(refuse('invalid', 'form-not-available', reason));
    }
    return compareVersions(asker, params.id, query);
  });
  router.on(routes.restore, ({ asker, params, body }) => performRestore(asker, params.id, body));
  router.on(routes.publish, ({ asker, params, body }) =>
    performPublish(asker, params.id, { ...body, inForceFrom: momentOf(body.inForceFrom) }),
  );
  const named = (params: { id: string; v: string }) => ({ documentId: params.id, name: params.v });
  router.on(routes.thinVersion, ({ asker, params, body }) => performThin(asker, named(params), body.reason));
  router.on(routes.recoverVersion, ({ asker, params, body }) =>
    performRecover(asker, named(params), body.reason),
  );
  router.on(routes.shelterVersion, ({ asker, params, body }) =>
    performShelter(asker, named(params), { ...body, sheltered: true }),
  );
  router.on(routes.unshelterVersion, ({ asker, params, body }) =>
    performShelter(asker, named(params), { ...body, sheltered: false }),
  );
}

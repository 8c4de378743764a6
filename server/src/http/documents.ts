import type { Response } from 'express';
import { routes } from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { createDocument, listDocuments, listVersions, type Place, readDocument, readInForce, readVersion, readVersionContent, refuseCreating } from '../services/documents.ts';
import { callBack, decide, submit } from '../services/approval.ts';
import { recoverVersion, shelterVersion, thinVersion } from '../services/keeping.ts';
import { readVisibility } from '../services/visibility.ts';
import { changeFields, compareVersions, publish, readPicture, readReading, restore } from '../services/history.ts';
import type { Door } from './bind.ts';
import { sendContent, sendMarked } from './content.ts';

const missingFile = (): Refused => new Refused(refuse('invalid', 'file-missing', 'The form has no file. Send it as the part "file".'));

/** Documents, their versions and what is done with them. */
export function documentRoutes(door: Door, context: Context): void {
  door.on(routes.listDocuments, async ({ caller, params, query }) => listDocuments(context, caller, params.id, query));
  door.on(routes.createDocument, async ({ caller, params, form }) => {
    await refuseCreating(context, caller, params.id);
    const { body, file } = await form();
    if (!file) throw missingFile();
    return createDocument(context, caller, params.id, body, file);
  });
  door.on(routes.readDocument, async ({ caller, params, res }) => {
    const { view, tag } = await readDocument(context, caller, params.id);
    res.set('ETag', tag);
    return view;
  });
  door.on(routes.changeDocument, async ({ caller, params, body, req }) => changeFields(context, caller, params.id, body, req.get('if-match')));
  door.on(routes.documentContent, async ({ caller, params, query, res }) => {
    const { version, number, label } = await readInForce(context, caller, params.id);
    await (query.marked ? sendMarked(context, res, version.content, { number, label, versionId: version.id }) : sendContent(context, res, version.content));
  });

  door.on(routes.listVersions, async ({ caller, params, query }) => listVersions(context, caller, params.id, query));
  door.on(routes.readVersion, async ({ caller, params, res }) => {
    const { view, place } = await readVersion(context, caller, params.id, params.v);
    setLinks(res, params.id, place);
    return view;
  });
  door.on(routes.versionContent, async ({ caller, params, query, res }) => {
    const { version, place, number } = await readVersionContent(context, caller, params.id, params.v);
    setLinks(res, params.id, place);
    await (query.marked ? sendMarked(context, res, version.content, { number, label: place.label, versionId: version.id }) : sendContent(context, res, version.content));
  });
  door.on(routes.versionReading, async ({ caller, params }) => readReading(context, caller, params.id, params.v));
  door.on(routes.versionPicture, async ({ caller, params, res }) => {
    const { mediaType, bytes } = await readPicture(context, caller, params.id, params.v, params.part);
    res.status(200).set({ 'Content-Type': mediaType, 'Cache-Control': 'private, no-cache' }).send(Buffer.from(bytes));
  });
  door.on(routes.compareVersions, async ({ caller, params, query, req }) => {
    if (!req.accepts('application/json')) throw new Refused(refuse('invalid', 'form-not-available', 'A comparison comes as application/json.'));
    return compareVersions(context, caller, params.id, query);
  });

  door.on(routes.restore, async ({ caller, params, body, req }) => restore(context, caller, params.id, body, req.get('if-match')));
  door.on(routes.publish, async ({ caller, params, body, req }) => publish(context, caller, params.id, { ...body, inForceFrom: momentOf(body.inForceFrom) }, req.get('if-match')));
  door.on(routes.submit, async ({ caller, params, body, req }) => submit(context, caller, params.id, { ...body, inForceFrom: momentOf(body.inForceFrom) }, req.get('if-match')));
  door.on(routes.callBack, async ({ caller, params, body }) => callBack(context, caller, params.id, body.comment));
  door.on(routes.decide, async ({ caller, params, body }) => decide(context, caller, params.id, body));
  door.on(routes.thinVersion, async ({ caller, params, body }) => thinVersion(context, caller, params.id, params.v, body.reason));
  door.on(routes.recoverVersion, async ({ caller, params, body }) => recoverVersion(context, caller, params.id, params.v, body.reason));
  door.on(routes.shelterVersion, async ({ caller, params, body }) => shelterVersion(context, caller, params.id, params.v, body.reason, true));
  door.on(routes.unshelterVersion, async ({ caller, params, body }) => shelterVersion(context, caller, params.id, params.v, body.reason, false));
  door.on(routes.visibility, async ({ caller, params, query }) => readVisibility(context, caller, params.id, query));
}

const momentOf = (instant: string | undefined): Date | null => (instant === undefined ? null : new Date(instant));

/** Version links (RFC 8288 with the relations of RFC 5829), only to what the caller sees. */
function setLinks(res: Response, documentId: string, place: Place): void {
  const base = `/api/v1/documents/${documentId}`;
  const to = (label: string): string => `${base}/versions/${encodeURIComponent(label)}`;
  const links: [string, string | null][] = [
    ['version-history', `${base}/versions`],
    ['latest-version', to(place.latest)],
    ['predecessor-version', place.before && to(place.before)],
    ['successor-version', place.after && to(place.after)],
    ['working-copy', place.holds ? `${base}/checkout/content` : null],
  ];
  res.set('Link', links.flatMap(([rel, target]) => (target ? [`<${target}>; rel="${rel}"`] : [])).join(', '));
}

import { routes } from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import {
  checkIn, checkOut, compareSoFar, custodyHistory, discard, goBackToSave, lift, listSaves, prolong, readCustody, readSave, readWorkingCopy, refuseDirectUpload, refuseUpload,
  saveWorkingCopy, uploadVersion,
} from '../services/custody.ts';
import type { Door } from './bind.ts';
import { sendContent, sendMarked } from './content.ts';
import { bulk } from '../services/bulk.ts';

/** Check-out, working copy, check-in. */
export function custodyRoutes(door: Door, context: Context): void {
  door.on(routes.readCheckout, async ({ caller, params }) => readCustody(context, caller, params.id));
  door.on(routes.checkOut, async ({ caller, params, body, req }) => checkOut(context, caller, params.id,
    { reason: body.reason || null, until: body.until ? new Date(body.until) : null }, req.get('if-match')));
  door.on(routes.prolong, async ({ caller, params, body }) => prolong(context, caller, params.id, new Date(body.until)));
  door.on(routes.discard, async ({ caller, params, req }) => discard(context, caller, params.id, req.get('if-match')));
  door.on(routes.workingCopy, async ({ caller, params, query, res }) => {
    const { content, base, number, label } = await readWorkingCopy(context, caller, params.id);
    await (query.marked ? sendMarked(context, res, content, { number, label, versionId: base.id }) : sendContent(context, res, content));
  });
  door.on(routes.saveWorkingCopy, async ({ caller, params, query, req, file }) => {
    const { registeredName } = await refuseUpload(context, caller, params.id);
    return saveWorkingCopy(context, caller, params.id, await file(registeredName), { sitting: query.sitting, ifMatch: req.get('if-match') });
  });
  door.on(routes.listSaves, async ({ caller, params }) => {
    const items = await listSaves(context, caller, params.id);
    return { items, next: null, total: items.length };
  });
  door.on(routes.readSave, async ({ caller, params, res }) => sendContent(context, res, await readSave(context, caller, params.id, params.position)));
  door.on(routes.goBackToSave, async ({ caller, params }) => goBackToSave(context, caller, params.id, params.position));
  door.on(routes.compareSoFar, async ({ caller, params }) => compareSoFar(context, caller, params.id));
  door.on(routes.lift, async ({ caller, params, body }) => lift(context, caller, params.id, body.reason));
  door.on(routes.custodyHistory, async ({ caller, params, query }) => custodyHistory(context, caller, params.id, query));
  door.on(routes.bulk, async ({ caller, body }) => bulk(context, caller, body));
  door.on(routes.checkIn, async ({ caller, params, form, req }) => {
    await refuseUpload(context, caller, params.id);
    const { body, file } = await form();
    return checkIn(context, caller, params.id, body, file, req.get('if-match'));
  });
  door.on(routes.uploadVersion, async ({ caller, params, form, req }) => {
    await refuseDirectUpload(context, caller, params.id);
    const { body, file } = await form();
    if (!file) throw new Refused(refuse('invalid', 'file-missing', 'The form has no file. Send it as the part "file".'));
    return uploadVersion(context, caller, params.id, body, file, req.get('if-match'));
  });
}

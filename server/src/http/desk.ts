import { routes } from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { readDesk } from '../services/desk.ts';
import {
  addArrival, bringIn, mergeDeskFile, readDeskContent, readDeskFile, readDeskSave, refuseArrival, registerDeskFile, removeDeskFile, saveDeskFile, takeLooseCopy,
} from '../services/deskFiles.ts';
import { listNotices, readNotices } from '../services/notices.ts';
import type { Door } from './bind.ts';
import { sendContent } from './content.ts';
import { sendEvents } from './events.ts';

/** A person's Desk: files of their own, notices, and what happens meanwhile. */
export function deskRoutes(door: Door, context: Context): void {
  door.on(routes.desk, async ({ caller }) => readDesk(context, caller));
  door.on(routes.listNotices, async ({ caller, query }) => listNotices(context, caller, query));
  door.on(routes.readNotices, async ({ caller, body }) => readNotices(context, caller, body.upTo));
  door.on(routes.addDeskFile, async ({ caller, form }) => {
    await refuseArrival(context, caller);
    const { file } = await form();
    if (!file) throw new Refused(refuse('invalid', 'file-missing', 'The form has no file. Send it as the part "file".'));
    return addArrival(context, caller, file);
  });
  door.on(routes.takeLooseCopy, async ({ caller, params }) => takeLooseCopy(context, caller, params.id, params.v));
  door.on(routes.readDeskFile, async ({ caller, params }) => readDeskFile(context, caller, params.id));
  door.on(routes.deskFileContent, async ({ caller, params, res }) => sendContent(context, res, await readDeskContent(context, caller, params.id)));
  door.on(routes.deskSaveContent, async ({ caller, params, res }) => sendContent(context, res, await readDeskSave(context, caller, params.id, params.position)));
  door.on(routes.saveDeskFile, async ({ caller, params, req, file }) => {
    const { fileName } = await readDeskContent(context, caller, params.id);
    return saveDeskFile(context, caller, params.id, await file(fileName), req.get('if-match'));
  });
  door.on(routes.removeDeskFile, async ({ caller, params }) => removeDeskFile(context, caller, params.id));
  door.on(routes.mergeDeskFile, async ({ caller, params, query }) => mergeDeskFile(context, caller, params.id, query.document));
  door.on(routes.bringIn, async ({ caller, params, body }) => bringIn(context, caller, params.id, body));
  door.on(routes.registerDeskFile, async ({ caller, params, body }) => registerDeskFile(context, caller, params.id, body.library, body));
  door.on(routes.events, async ({ caller, res }) => sendEvents(context, caller, res));
}

import { routes } from '@polychron/contract';
import { performBulk } from '../acts/bulk.ts';
import { admitCheckIn, performCheckIn } from '../acts/checkIn.ts';
import { performCheckOut } from '../acts/checkOut.ts';
import { performGiveBack } from '../acts/giveBack.ts';
import { performLift } from '../acts/lift.ts';
import { performCloseInProgram, performKeepForLater } from '../acts/openInProgram.ts';
import { performProlong } from '../acts/prolong.ts';
import { admitSave, performGoBackToSave, performSave } from '../acts/save.ts';
import { admitUpload, performUpload } from '../acts/uploadVersion.ts';
import {
  compareSoFar,
  custodyHistory,
  listSaves,
  readCustody,
  readSave,
  readWorkingCopy,
} from '../reads/custody.ts';
import type { ContractRouter } from './router.ts';
import { sendContent } from './sendContent.ts';

/** Check-out, working copy, check-in. */
export function custodyRoutes(router: ContractRouter): void {
  router.on(routes.readCheckout, ({ asker, params }) => readCustody(asker, params.id));
  router.on(routes.checkOut, ({ asker, params, body }) =>
    performCheckOut(asker, params.id, {
      reason: body.reason || null,
      until: body.until ? new Date(body.until) : null,
      base: body.base,
    }),
  );
  router.on(routes.prolong, ({ asker, params, body }) =>
    performProlong(asker, params.id, new Date(body.until)),
  );
  router.on(routes.giveBack, ({ asker, params }) => performGiveBack(asker, params.id));
  router.on(routes.keepForLater, ({ asker, params }) => performKeepForLater(asker, params.id));
  router.on(routes.takeBackLock, ({ asker, params }) => performCloseInProgram(asker, params.id, null));
  router.on(routes.workingCopy, async ({ asker, params, query, res }) => {
    const { content, base, number, label } = await readWorkingCopy(asker, params.id);
    const mark = query.marked ? { number, label, versionId: base.id } : null;
    return sendContent(asker.context, res, { content, mark });
  });
  router.on(routes.saveWorkingCopy, async ({ asker, params, query, file }) => {
    const registeredName = await admitSave(asker, params.id);
    return performSave(asker, params.id, await file(registeredName), query.sitting);
  });
  router.on(routes.listSaves, async ({ asker, params }) => {
    const items = await listSaves(asker, params.id);
    return { items, next: null, total: items.length };
  });
  router.on(routes.readSave, async ({ asker, params, res }) => {
    const content = await readSave(asker, params.id, params.position);
    return sendContent(asker.context, res, { content, mark: null });
  });
  router.on(routes.goBackToSave, ({ asker, params }) =>
    performGoBackToSave(asker, params.id, params.position),
  );
  router.on(routes.compareSoFar, ({ asker, params }) => compareSoFar(asker, params.id));
  router.on(routes.lift, ({ asker, params, body }) => performLift(asker, params.id, body.reason));
  router.on(routes.custodyHistory, ({ asker, params, query }) => custodyHistory(asker, params.id, query));
  router.on(routes.checkIn, async ({ asker, params, form }) => {
    const held = await admitCheckIn(asker, params.id);
    const { body, file } = await form();
    return performCheckIn(asker, params.id, body, { held, file });
  });
  router.on(routes.uploadVersion, async ({ asker, params, formWithFile }) => {
    const admitted = await admitUpload(asker, params.id);
    const { body, file } = await formWithFile();
    return performUpload(asker, admitted, body, file);
  });
  router.on(routes.bulk, ({ asker, body }) => performBulk(asker, body));
}

import { routes } from '@polychron/contract';
import { performBringIn, performRegisterDeskFile } from '../acts/bringIn.ts';
import {
  admitArrival,
  performArrival,
  performLooseCopy,
  performRemoveDeskFile,
  performSaveDeskFile,
} from '../acts/deskFiles.ts';
import { performReadNotices } from '../acts/readNotices.ts';
import { performSaveFromDesk } from '../acts/save.ts';
import { sendEvents } from '../events/stream.ts';
import { readDesk, readWaiting } from '../reads/desk.ts';
import { readDeskContent, readDeskFile, readDeskSave } from '../reads/deskFiles.ts';
import { readWorkingCopy } from '../reads/custody.ts';
import { readMerge } from '../reads/merge.ts';
import { listNotices } from '../reads/notices.ts';
import { readDeskPicture } from '../reads/reading.ts';
import type { ContractRouter } from './router.ts';
import { sendContent, sendPicture, sendZip } from './sendContent.ts';

/** A person's Desk: files of their own, notices, and what happens meanwhile. */
export function deskRoutes(router: ContractRouter): void {
  router.on(routes.desk, ({ asker }) => readDesk(asker));
  router.on(routes.waiting, ({ asker }) => readWaiting(asker));
  router.on(routes.workingCopies, async ({ asker, query, res }) => {
    const entries = [];
    for (const id of new Set(query.documents)) {
      const { content, base, number, label } = await readWorkingCopy(asker, id);
      const name = content.fileName.includes(number) ? content.fileName : `${number} ${content.fileName}`;
      entries.push({ name, content, mark: { number, label, versionId: base.id } });
    }
    return sendZip(asker.context, res, { fileName: 'working-copies.zip', entries });
  });
  router.on(routes.listNotices, ({ asker, query }) => listNotices(asker, query));
  router.on(routes.readNotices, ({ asker, body }) => performReadNotices(asker, body.upTo));
  router.on(routes.addDeskFile, async ({ asker, formWithFile }) => {
    await admitArrival(asker);
    const { body, file } = await formWithFile();
    return performArrival(asker, file, body);
  });
  router.on(routes.takeLooseCopy, ({ asker, params }) => performLooseCopy(asker, params.id, params.v));
  router.on(routes.readDeskFile, ({ asker, params }) => readDeskFile(asker, params.id));
  router.on(routes.deskFileContent, async ({ asker, params, res }) => {
    const content = await readDeskContent(asker, params.id);
    return sendContent(asker.context, res, { content, mark: null });
  });
  router.on(routes.deskSaveContent, async ({ asker, params, res }) => {
    const content = await readDeskSave(asker, params.id, params.position);
    return sendContent(asker.context, res, { content, mark: null });
  });
  router.on(routes.saveDeskFile, async ({ asker, params, file }) => {
    const { fileName } = await readDeskContent(asker, params.id);
    return performSaveDeskFile(asker, params.id, await file(fileName));
  });
  router.on(routes.deskFilePicture, async ({ asker, params, res }) => {
    sendPicture(res, await readDeskPicture(asker, params.id, params.part));
  });
  router.on(routes.removeDeskFile, ({ asker, params }) => performRemoveDeskFile(asker, params.id));
  router.on(routes.mergeDeskFile, ({ asker, params, query }) => readMerge(asker, params.id, query.document));
  router.on(routes.bringIn, ({ asker, params, body }) => performBringIn(asker, params.id, body));
  router.on(routes.saveFromDesk, ({ asker, params, body }) =>
    performSaveFromDesk(asker, params.id, body.document),
  );
  router.on(routes.registerDeskFile, ({ asker, params, body }) =>
    performRegisterDeskFile(asker, params.id, body.library, body),
  );
  router.on(routes.events, ({ asker, req, res }) =>
    sendEvents(
      asker.context,
      {
        caller: asker.caller,
        signIn: req.signIn ?? '',
        isSignedIn: req.isSignedIn ?? (async () => false),
      },
      res,
    ),
  );
}

import { routes } from '@polychron/contract';
import { performConfirmRead, performDistribute, performRemind } from '../acts/distribute.ts';
import { performLimit } from '../acts/limit.ts';
import { performLook } from '../acts/look.ts';
import { performReview } from '../acts/review.ts';
import { performReinstate, performReschedule, performTakeBack, performWithdraw } from '../acts/standing.ts';
import { performUnvoid, performVoid } from '../acts/voidDocument.ts';
import { readCalendar } from '../reads/calendar.ts';
import { readDays } from '../reads/days.ts';
import { readDistribution, readLimit } from '../reads/distribution.ts';
import { readInForce, readLibraryInForce } from '../reads/inForce.ts';
import { readOutlook } from '../reads/outlook.ts';
import type { ContractRouter } from './router.ts';
import { sendInForce, sendReaders } from './sendList.ts';

/** What is in force: withdrawing, reinstating, moments to come; and documents that were a mistake. */
export function standingRoutes(router: ContractRouter): void {
  router.on(routes.inForce, ({ asker, query, req, res }) =>
    sendInForce({ req, res }, query, (page) => readInForce(asker, { ...query, ...page })),
  );
  router.on(routes.libraryInForce, ({ asker, params, query, req, res }) =>
    sendInForce({ req, res }, query, (page) => readLibraryInForce(asker, params.id, { ...query, ...page })),
  );
  router.on(routes.calendar, ({ asker, params, query }) => readCalendar(asker, params.id, query));
  router.on(routes.days, ({ asker, params, query }) => readDays(asker, params.id, query));
  router.on(routes.lookedAtInForce, ({ asker, body }) => performLook(asker, new Date(body.at)));
  router.on(routes.readLimit, ({ asker, params }) => readLimit(asker, params.id));
  router.on(routes.setLimit, ({ asker, params, body }) => performLimit(asker, params.id, body));
  router.on(routes.readDistribution, ({ asker, params, query, req, res }) =>
    sendReaders({ req, res }, query, (page) => readDistribution(asker, params.id, page)),
  );
  router.on(routes.distribute, ({ asker, params, body }) => performDistribute(asker, params.id, body));
  router.on(routes.remindReaders, ({ asker, params }) => performRemind(asker, params.id));
  router.on(routes.confirmRead, ({ asker, params }) => performConfirmRead(asker, params.id, params.v));
  router.on(routes.review, ({ asker, params, body }) => performReview(asker, params.id, body));
  router.on(routes.void, ({ asker, params, body }) => performVoid(asker, params.id, body.reason));
  router.on(routes.unvoid, ({ asker, params, body }) => performUnvoid(asker, params.id, body.reason));
  router.on(routes.withdraw, ({ asker, params, body }) =>
    performWithdraw(asker, { documentId: params.id, name: body.version }, body.reason),
  );
  router.on(routes.reinstate, ({ asker, params, body }) =>
    performReinstate(asker, { documentId: params.id, name: body.version }, body.reason),
  );
  router.on(routes.reschedule, ({ asker, params, body }) => {
    const { version: name, inForceFrom } = body;
    const of = { documentId: params.id, name };
    return performReschedule(asker, of, inForceFrom === null ? null : new Date(inForceFrom));
  });
  router.on(routes.takeBack, ({ asker, params, query }) =>
    performTakeBack(asker, { documentId: params.id, name: query.version }, query.reason),
  );
  router.on(routes.versionOutlook, ({ asker, params, query }) =>
    readOutlook(asker, params.id, params.v, query.act),
  );
}

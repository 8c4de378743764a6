import { routes } from '@polychron/contract';
import { performLook } from '../acts/look.ts';
import { performReview } from '../acts/review.ts';
import { performReinstate, performReschedule, performTakeBack, performWithdraw } from '../acts/standing.ts';
import { readCalendar } from '../reads/calendar.ts';
import { readDays } from '../reads/days.ts';
import { readInForce, readLibraryInForce } from '../reads/inForce.ts';
import { readOutlook } from '../reads/outlook.ts';
import type { ContractRouter } from './router.ts';
import { sendInForce } from './sendList.ts';

/** What is in force: withdrawing, reinstating, and moments to come. */
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
  router.on(routes.review, ({ asker, params, body }) => performReview(asker, params.id, body));
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

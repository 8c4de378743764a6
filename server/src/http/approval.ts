import { routes } from '@polychron/contract';
import { performCallBack } from '../acts/callBack.ts';
import { performDecide } from '../acts/decide.ts';
import { performReplaceApprover } from '../acts/replaceApprover.ts';
import { performSubmit } from '../acts/submit.ts';
import { listApprovals } from '../reads/approvals.ts';
import type { ContractRouter } from './router.ts';
import { momentOf } from './versions.ts';

/** Submitting, deciding, taking back; what waits for whom. */
export function approvalRoutes(router: ContractRouter): void {
  router.on(routes.submit, ({ asker, params, body }) =>
    performSubmit(asker, params.id, { ...body, inForceFrom: momentOf(body.inForceFrom) }),
  );
  router.on(routes.callBack, ({ asker, params, body }) => performCallBack(asker, params.id, body.comment));
  router.on(routes.listApprovals, ({ asker, query }) => listApprovals(asker, query));
  router.on(routes.replaceApprover, ({ asker, params, body }) =>
    performReplaceApprover(asker, params.id, body),
  );
  router.on(routes.decide, ({ asker, params, body }) => performDecide(asker, params.id, body));
}

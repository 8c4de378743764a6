import { routes } from '@polychron/contract';
import { performAnswer, performIncomingMail } from '../acts/answerByMail.ts';
import { performChooseMail } from '../acts/chooseMail.ts';
import { readMailChoice, readMessage, readMessageBytes, readOutbox } from '../reads/outbox.ts';
import type { ContractRouter } from './router.ts';
import { readSmallBody } from './upload.ts';

/** The largest answer that is taken in, in bytes. */
const largestMail = 1 << 20;

/** Mail: how one wants it, messages as they were made, and answers to them. */
export function outboxRoutes(router: ContractRouter): void {
  router.on(routes.readMailChoice, ({ asker }) => readMailChoice(asker));
  router.on(routes.chooseMail, ({ asker, body }) => performChooseMail(asker, body));
  router.on(routes.outbox, ({ asker, query }) => readOutbox(asker, query));
  router.on(routes.readMessage, async ({ asker, params, req, res }) => {
    res.vary('Accept');
    if (req.accepts(['application/json', 'message/rfc822']) !== 'message/rfc822') {
      return readMessage(asker, params.id);
    }
    const message = await readMessageBytes(asker, params.id);
    res.attachment(`${params.id}.eml`).type('message/rfc822').send(message);
    return undefined;
  });
  router.on(routes.answerMessage, ({ asker, params, body }) => performAnswer(asker, params.id, body.text));
  router.on(routes.incomingMail, async ({ asker, req }) =>
    performIncomingMail(asker.context, await readSmallBody(req, largestMail)),
  );
}

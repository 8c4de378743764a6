import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { mayConfirmTime, readClock } from '../reads/clock.ts';
import { Refused } from '../refused.ts';
import { confirmTime } from '../store/clock.ts';
import { transact } from '../store/database.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';

/**
 * Takes the server's time for right: what was held back for its leap goes on. @throws Refused `role-
 * missing`
 */
export async function performConfirmTime(asker: Asker): Promise<contract.Clock> {
  const { context, caller } = asker;
  if (!(await mayConfirmTime(asker))) {
    const reason = 'The time is confirmed by a controller or a system administrator. Ask one.';
    throw new Refused(refuse('forbidden', 'role-missing', reason, { needs: 'controllers' }));
  }
  await transact(context.db, async (tx) => {
    const at = context.clock();
    await confirmTime(context, at, tx);
    const entry = { ...ofSite, at, personId: caller.id, act: 'confirmTime', facts: {} };
    await appendLedger(context, entry, tx);
  });
  context.wake();
  return readClock(asker);
}

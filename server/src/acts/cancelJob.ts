import { refuse } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { readJob } from '../reads/jobs.ts';
import { Refused } from '../refused.ts';

/** Cancels a rehearsal of the caller's own. A thinning cannot be cancelled: it carries out rules in force. */
export async function cancelJob(asker: Asker, id: string): Promise<void> {
  const rehearsal = asker.context.rehearsals.find(id, asker.caller.id);
  if (rehearsal) {
    rehearsal.cancel();
    await rehearsal.over;
    return;
  }
  await readJob(asker, id);
  const reason =
    'A thinning carries out rules that are in force. Change the rules back to keep what it has not reached; what it thinned can be recovered from the shelf.';
  throw new Refused(refuse('conflict', 'not-cancellable', reason));
}

import { refuse } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { readJob } from '../reads/jobs.ts';
import { Refused } from '../refused.ts';

const goesOn = {
  thinning:
    'A thinning carries out rules that are in force. Change the rules back to keep what it has not reached; what it thinned can be recovered from the shelf.',
  handOver:
    'A closed account answers for nothing: what it had is handed over to the end. Owner and approvers of each document can be changed after that.',
};

/** Cancels a rehearsal of the caller's own; other long work carries out what was decided, and goes on. */
export async function cancelJob(asker: Asker, id: string): Promise<void> {
  const rehearsal = asker.context.rehearsals.find(id, asker.caller.id);
  if (rehearsal) {
    rehearsal.cancel();
    await rehearsal.over;
    return;
  }
  const { kind } = await readJob(asker, id);
  throw new Refused(refuse('conflict', 'not-cancellable', goesOn[kind === 'handOver' ? kind : 'thinning']));
}

import type * as contract from '@polychron/contract';
import { may, refuse } from '@polychron/core';
import { accessLibrary } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { findJob } from '../store/jobs.ts';
import type { JobRow } from '../store/models.ts';
import { rehearsalJob } from './consequences.ts';

const noJob = (): Refused => new Refused(refuse('notFound', 'job-not-found', 'Unknown or expired job.'));

/**
 * Long work by its id: a rehearsal of the caller's own, a thinning of a library they work in, or, for system
 * administrators, a handing over.
 * @throws Refused `job-not-found`
 */
export async function readJob(asker: Asker, id: string): Promise<contract.Job> {
  const { context, caller } = asker;
  const rehearsal = context.rehearsals.find(id, caller.id);
  if (rehearsal) return rehearsalJob(rehearsal);
  const job = await findJob(context, id);
  if (!job || !(await mayKnow(asker, job))) throw noJob();
  const { kind, state, done, total, libraryId, problem } = job;
  return {
    id,
    kind,
    state,
    done,
    total,
    library: libraryId,
    thinned: kind === 'thinning' ? { versions: job.thinnedVersions, bytes: Number(job.thinnedBytes) } : null,
    result: null,
    problem: problem === null ? null : { code: 'unexpected', detail: problem },
  };
}

async function mayKnow(asker: Asker, { libraryId }: JobRow): Promise<boolean> {
  if (libraryId === null) return asker.caller.systemAdministrator;
  try {
    const { actor } = await accessLibrary(asker, libraryId);
    return may(actor.roles, 'checkIn');
  } catch (error) {
    if (error instanceof Refused) return false;
    throw error;
  }
}

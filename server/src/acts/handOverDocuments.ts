import { handOver, type HandOver, isRefusal, type Role } from '@polychron/core';
import type { Context } from '../context.ts';
import { documentsCharged } from '../store/charges.ts';
import { transact } from '../store/database.ts';
import { type LoadedDocument, lockDocument } from '../store/documents.ts';
import { claimJob, type HandOverJob, updateJob } from '../store/jobs.ts';
import { rolesOf } from '../store/members.ts';
import { findPeople } from '../store/people.ts';
import { Following, publish } from './perform.ts';

/** Documents between two signs of life. */
const stride = 20;

/** Somebody by id and name. */
interface Named {
  id: string;
  name: string;
}
/** Whose charges go to whom, and who hands them over. */
export interface Handing {
  from: Named;
  to: Named;
  by: string;
}

/** What core is asked about a document that is handed over. */
export const handOverOf = (
  document: LoadedDocument,
  { from, to, by }: Handing,
  roles: ReadonlySet<Role>,
): HandOver => ({
  from: { id: from.id, name: from.name },
  to: { id: to.id, name: to.name, roles },
  ownApproverIds: document.ownApproverIds,
  asideBases: document.setAside.flatMap(({ personId, base }) => (personId === from.id ? [base] : [])),
  by,
});

/** Hands over document by document, each in a transaction of its own, and keeps how far it is. */
export async function runHandOver(context: Context, job: HandOverJob): Promise<void> {
  const people = await findPeople(context, { ids: [job.fromId, job.toId, job.byId], accounts: [] });
  const named = (id: string): Named => ({ id, name: people.find((each) => each.id === id)?.name ?? '' });
  const handing = { from: named(job.fromId), to: named(job.toId), by: named(job.byId).name };
  const documents = await documentsCharged(context, job.fromId);
  for (const [done, { id, libraryId }] of documents.entries()) {
    if (done % stride === 0)
      await updateJob(context, job.id, { done, total: documents.length, aliveAt: context.clock() });
    await handOverOne(context, { id, libraryId, handing, byId: job.byId });
  }
  const done = documents.length;
  await updateJob(context, job.id, { state: 'done', done, total: done, endedAt: context.clock() });
}

/** Runs a handing over that was just queued, where no other has taken it up. */
export async function runHandOverNow(context: Context, id: string): Promise<void> {
  const now = context.clock();
  const job = await claimJob(context, now, now, id);
  if (job) await runHandOver(context, job as HandOverJob);
}

async function handOverOne(
  context: Context,
  { id, libraryId, handing, byId }: { id: string; libraryId: string; handing: Handing; byId: string },
): Promise<void> {
  const following = await transact(context.db, async (tx) => {
    const now = context.clock();
    const document = await lockDocument(context, id, tx);
    if (!document) return null;
    const roles = (await rolesOf(context, [libraryId], [handing.to.id], tx)).get(
      `${libraryId} ${handing.to.id}`,
    );
    const outcome = handOver(document, handOverOf(document, handing, roles ?? new Set()), now);
    // Somebody else has dealt with it since it was looked at.
    if (isRefusal(outcome)) return null;
    const kept = new Following(context, document, now, tx);
    await kept.keep(outcome, byId);
    return kept;
  });
  if (following) publish(context, following.document, following.told);
}

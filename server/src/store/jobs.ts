import { Op } from 'sequelize';
import { v7 as newId } from 'uuid';
import type { Tx } from './database.ts';
import type { JobRow } from './models.ts';
import type { Store } from './store.ts';

/** Queues a thinning of a library, by the rules that are in force when it reaches each document. */
export async function queueThinning(
  store: Store,
  library: { id: string; revision: number },
  at: Date,
  tx?: Tx,
): Promise<void> {
  await store.models.Job.create(
    {
      id: newId(),
      libraryId: library.id,
      kind: 'thinning',
      revision: library.revision,
      state: 'queued',
      createdAt: at,
    },
    { transaction: tx ?? null },
  );
}

/** A job by id; null where there is none. */
export const findJob = (store: Store, id: string): Promise<JobRow | null> => store.models.Job.findByPk(id);

/** The jobs that revisions of a library's Rulebook called for, by revision. */
export async function jobsOfRevisions(
  store: Store,
  libraryId: string,
  revisions: readonly number[],
): Promise<Map<number, string>> {
  const found = await store.models.Job.findAll({ where: { libraryId, revision: [...revisions] } });
  return new Map(found.map(({ revision, id }) => [revision, id]));
}

/** Whether work on a library is queued or under way. */
export async function hasOpenJob(store: Store, libraryId: string): Promise<boolean> {
  return (await store.models.Job.count({ where: { libraryId, state: ['queued', 'running'] } })) > 0;
}

/**
 * Takes the oldest job that is queued, or was cut short.
 * @param silentSince a run that has said nothing since this moment was cut short
 * @returns null where there is none, or another server took it
 */
export async function claimJob(store: Store, now: Date, silentSince: Date): Promise<JobRow | null> {
  const { Job } = store.models;
  const job = await Job.findOne({
    where: { [Op.or]: [{ state: 'queued' }, { state: 'running', aliveAt: { [Op.lt]: silentSince } }] },
    order: ['createdAt'],
  });
  if (!job) return null;
  // Of two servers that find it, one changes the row.
  const [taken] = await Job.update(
    { state: 'running', aliveAt: now },
    { where: { id: job.id, state: job.state, aliveAt: job.aliveAt } },
  );
  return taken === 1 ? job : null;
}

/** Keeps how far a job is, or how it ended. */
export async function updateJob(
  store: Store,
  id: string,
  changed: Partial<
    Pick<
      JobRow,
      'state' | 'done' | 'total' | 'thinnedVersions' | 'thinnedBytes' | 'problem' | 'aliveAt' | 'endedAt'
    >
  >,
): Promise<void> {
  await store.models.Job.update(changed, { where: { id } });
}

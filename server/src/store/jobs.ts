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

/** A handing over of what somebody answers for. */
export type HandOverJob = Pick<JobRow, 'id'> & { fromId: string; toId: string; byId: string };
/** A thinning of a library. */
export type ThinningJob = Pick<JobRow, 'id'> & { libraryId: string; revision: number };

/** Queues a handing over; returns the job's id. */
export async function queueHandOver(
  store: Store,
  people: { fromId: string; toId: string; byId: string },
  at: Date,
  tx: Tx,
): Promise<string> {
  const id = newId();
  const job = { id, kind: 'handOver' as const, ...people, state: 'queued' as const, createdAt: at };
  await store.models.Job.create(job, { transaction: tx });
  return id;
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
  return new Map(found.flatMap(({ revision, id }) => (revision === null ? [] : [[revision, id]])));
}

/** Whether work on a library is queued or under way. */
export async function hasOpenJob(store: Store, libraryId: string): Promise<boolean> {
  return (await store.models.Job.count({ where: { libraryId, state: ['queued', 'running'] } })) > 0;
}

/**
 * Takes the oldest job that is queued, or was cut short.
 * @param silentSince a run that has said nothing since this moment was cut short
 * @param id only this one, where it is given
 * @returns null where there is none, or another server took it
 */
export async function claimJob(
  store: Store,
  now: Date,
  silentSince: Date,
  id?: string,
): Promise<JobRow | null> {
  const { Job } = store.models;
  const free = { [Op.or]: [{ state: 'queued' }, { state: 'running', aliveAt: { [Op.lt]: silentSince } }] };
  const where = id === undefined ? free : { ...free, id };
  const job = await Job.findOne({ where, order: ['createdAt'] });
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

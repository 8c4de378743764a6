import type { ApprovalRun, RunOutcome } from '@polychron/core';
import { columnsOf, rows, type Tx } from './database.ts';
import type { ApprovalPostRow, ApprovalRunRow } from './models.ts';
import type { PersonName } from './people.ts';
import { kindsInState } from './sight.ts';
import type { Store } from './store.ts';

/** Documents somebody submitted and nobody has decided about, the one that waits longest first. */
export async function documentsSubmittedBy(store: Store, personId: string, count: number): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT document_id AS id FROM approval_runs WHERE submitter_id = :personId AND open_document_id IS NOT NULL
     ORDER BY submitted_at LIMIT :count`,
    { personId, count },
  );
  return found.map(({ id }) => id);
}

/** Documents whose latest version was rejected and is a person's, as author or owner; the newest first. */
export async function documentsSentBack(store: Store, personId: string, count: number): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT n.document_id AS id FROM newest_versions n JOIN versions v ON v.id = n.version_id
     JOIN documents d ON d.id = n.document_id
     WHERE n.person_id = :personId AND n.kind = ${kindsInState('rejected') & 0xff} AND n.later = 0
       AND (v.author_id = :personId OR d.owner_id = :personId)
     ORDER BY v.at DESC LIMIT :count`,
    { personId, count },
  );
  return found.map(({ id }) => id);
}

/** A rejection: who, when, with what words. */
export interface Rejection {
  by: PersonName;
  at: Date;
  comment: string;
}

/** The last rejection of each of these versions. */
export async function lastRejections(
  store: Store,
  versionIds: readonly string[],
): Promise<Map<string, Rejection>> {
  if (versionIds.length === 0) return new Map();
  const posts = await rows<PersonName & { versionId: string; at: Date; comment: string }>(
    store.db,
    `SELECT r.version_id AS versionId, w.account, w.name, p.decided_at AS at, p.comment
     FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id JOIN people w ON w.id = p.person_id
     WHERE r.version_id IN (:versionIds) AND p.decision = 'reject' ORDER BY p.decided_at`,
    { versionIds },
  );
  return new Map(
    posts.map(({ versionId, account, name, at, comment }) => [
      versionId,
      { by: { account, name }, at, comment },
    ]),
  );
}

/** A run with its posts in order. */
interface WithPosts<R> {
  run: R;
  posts: ApprovalPostRow[];
}

const runColumns = columnsOf('r', [
  ...['id', 'documentId', 'versionId', 'openDocumentId', 'mode', 'submitterId', 'submittedAt', 'comment'],
  ...['inForceFrom', 'endedAt', 'outcome'],
]);
const postColumns = columnsOf('p', [
  'runId',
  'position',
  'personId',
  'decision',
  'decidedAt',
  'comment',
  'inPlace',
]);

/** Runs with their posts in order. */
export async function withPosts<R extends ApprovalRunRow>(
  store: Store,
  runs: readonly R[],
  tx?: Tx,
): Promise<WithPosts<R>[]> {
  if (runs.length === 0) return [];
  const posts = await rows<ApprovalPostRow>(
    store.db,
    `SELECT ${postColumns} FROM approval_posts p WHERE p.run_id IN (:runIds) ORDER BY p.position`,
    { runIds: runs.map(({ id }) => id) },
    tx,
  );
  return runs.map((run) => ({ run, posts: posts.filter(({ runId }) => runId === run.id) }));
}

/** The open runs of documents, with their posts in order. */
export async function openRuns(
  store: Store,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<WithPosts<ApprovalRunRow>[]> {
  const runs = await rows<ApprovalRunRow>(
    store.db,
    `SELECT ${runColumns} FROM approval_runs r WHERE r.open_document_id IN (:documentIds)`,
    { documentIds },
    tx,
  );
  return withPosts(store, runs, tx);
}

/** A run that ended. */
export type EndedRun = WithPosts<ApprovalRunRow & { endedAt: Date; outcome: RunOutcome }>;

/**
 * The run that ended last about each of these versions, by a moment where one is given, with its posts in
 * order.
 */
export async function endedRuns(
  store: Store,
  versionIds: readonly string[],
  { by, tx }: { by?: Date | undefined; tx?: Tx | undefined } = {},
): Promise<Map<string, EndedRun>> {
  if (versionIds.length === 0) return new Map();
  const found = await rows<EndedRun['run']>(
    store.db,
    `SELECT ${runColumns} FROM approval_runs r
     WHERE r.version_id IN (:versionIds) AND r.ended_at <= COALESCE(:by, r.ended_at) ORDER BY r.ended_at`,
    { versionIds: [...new Set(versionIds)], by: by ?? null },
    tx,
  );
  const last = new Map(found.map((run) => [run.versionId, run]));
  const told = await withPosts(store, [...last.values()], tx);
  return new Map(told.map((one) => [one.run.versionId, one]));
}

/** A stored run as core sees it. */
export function toRun(
  { run, posts }: { run: ApprovalRunRow; posts: readonly ApprovalPostRow[] },
  nameOf: (id: string) => string,
): ApprovalRun {
  const { versionId, mode, submitterId, submittedAt, comment, inForceFrom } = run;
  return {
    versionId,
    mode,
    submitterId,
    submitterName: nameOf(submitterId),
    submittedAt,
    comment,
    inForceFrom,
    posts: posts.map((post) => ({
      personId: post.personId,
      name: nameOf(post.personId),
      decision: post.decision,
      at: post.decidedAt,
      comment: post.comment,
      inPlace: Boolean(post.inPlace),
    })),
  };
}

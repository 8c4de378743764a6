import type { ApprovalRun, RunOutcome } from '@polychron/core';
import { Op } from 'sequelize';
import { rows, type Tx } from './database.ts';
import type { ApprovalPostRow, ApprovalRunRow } from './models.ts';
import type { PersonName } from './people.ts';
import { kindsInState } from './sight.ts';
import type { Store } from './store.ts';

/** Documents in approval that a person has not decided about, the longest waiting first. */
export async function documentsToDecide(store: Store, personId: string, count: number): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT r.document_id AS id FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id
     WHERE p.person_id = :personId AND r.open_document_id IS NOT NULL
       AND (p.decision IS NULL OR p.decision = 'later') ORDER BY r.submitted_at LIMIT :count`,
    { personId, count },
  );
  return found.map(({ id }) => id);
}

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

/** The open runs of documents, with their posts in order. */
export async function openRuns(
  store: Store,
  documentIds: readonly string[],
  tx?: Tx,
): Promise<{ run: ApprovalRunRow; posts: ApprovalPostRow[] }[]> {
  const { ApprovalRun: Run, ApprovalPost } = store.models;
  const transaction = tx ?? null;
  const runs = await Run.findAll({ where: { openDocumentId: [...documentIds] }, transaction, raw: true });
  if (runs.length === 0) return [];
  const posts = await ApprovalPost.findAll({
    where: { runId: runs.map((run) => run.id) },
    order: ['position'],
    transaction,
    raw: true,
  });
  return runs.map((run) => ({ run, posts: posts.filter(({ runId }) => runId === run.id) }));
}

/** A run that ended. */
export interface EndedRun {
  run: ApprovalRunRow & { endedAt: Date; outcome: RunOutcome };
  posts: ApprovalPostRow[];
}

/** The run that ended last about each of these versions, with its posts in order. */
export async function endedRuns(
  store: Store,
  versionIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, EndedRun>> {
  const { ApprovalRun: Run, ApprovalPost } = store.models;
  const transaction = tx ?? null;
  const found = await Run.findAll({
    where: { versionId: [...new Set(versionIds)], endedAt: { [Op.ne]: null } },
    order: ['endedAt'],
    transaction,
    raw: true,
  });
  const last = new Map(found.map((run) => [run.versionId, run as EndedRun['run']]));
  if (last.size === 0) return new Map();
  const runId = [...last.values()].map(({ id }) => id);
  const posts = await ApprovalPost.findAll({ where: { runId }, order: ['position'], transaction, raw: true });
  return new Map(
    [...last].map(([versionId, run]) => [
      versionId,
      { run, posts: posts.filter((post) => post.runId === run.id) },
    ]),
  );
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
    })),
  };
}

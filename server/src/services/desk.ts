import type * as contract from '@polychron/contract';
import { explainVersion, formatLabel, waitingFor } from '@polychron/core';
import type { Context } from '../context.ts';
import { rows } from '../store/database.ts';
import { namesOf } from '../store/documents.ts';
import type { Access, Caller } from './access.ts';
import { fileViews } from './deskFiles.ts';
import { documentNames, type NamedDocument } from './named.ts';
import { listNotices } from './notices.ts';
import { documentViews } from './views.ts';

/** Things of one kind shown on a Desk at once. */
const mostOnDesk = 200;

/** One person's page. */
export async function readDesk(context: Context, caller: Caller): Promise<contract.Desk> {
  const { models } = context;
  const held = await models.Checkout.findAndCountAll({ where: { holderId: caller.id }, order: [['untilAt', 'ASC']], limit: mostOnDesk });
  const waiting = await rows<{ documentId: string }>(context.db,
    `SELECT r.document_id AS documentId FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id
     WHERE p.person_id = :id AND r.open_document_id IS NOT NULL AND (p.decision IS NULL OR p.decision = 'later') ORDER BY r.submitted_at LIMIT :most`, { id: caller.id, most: mostOnDesk });
  const back = await rows<{ documentId: string }>(context.db,
    `SELECT h.document_id AS documentId FROM heads h JOIN versions v ON v.id = h.latest_id JOIN documents d ON d.id = h.document_id
     WHERE v.state = 'rejected' AND (v.author_id = :id OR d.owner_id = :id) ORDER BY v.at DESC LIMIT :most`, { id: caller.id, most: mostOnDesk });
  const files = await models.DeskFile.findAndCountAll({ where: { personId: caller.id }, order: [['changedAt', 'DESC'], ['id', 'DESC']], limit: mostOnDesk });
  const named = await documentNames(context, caller, [...held.rows, ...waiting, ...back].map(({ documentId }) => documentId));
  const heldAccesses = held.rows.flatMap(({ documentId }) => { const one = named.get(documentId); return one ? [one.access] : []; });
  const notices = await listNotices(context, caller, { limit: 50 });
  const decisions = waiting.flatMap(({ documentId }) => decisionOf(named.get(documentId), caller));
  const cameBack = await rejections(context, back.flatMap(({ documentId }) => named.get(documentId) ?? []), caller);
  return {
    held: await viewsOf(context, heldAccesses), decisions: await withNames(context, decisions), cameBack, files: await fileViews(context, caller, files.rows),
    notices: notices.items, unread: notices.unread,
    totals: { held: held.count, decisions: decisions.length, cameBack: cameBack.length, files: files.count, notices: notices.total },
  };
}

/** Documents of several libraries, in the order given. */
async function viewsOf(context: Context, accesses: readonly Access[]): Promise<contract.Document[]> {
  const views = new Map<string, contract.Document>();
  for (const libraryId of new Set(accesses.map(({ document }) => document.libraryId))) {
    for (const view of await documentViews(context, accesses.filter(({ document }) => document.libraryId === libraryId))) views.set(view.id, view);
  }
  return accesses.flatMap(({ document }) => views.get(document.id) ?? []);
}

interface Waiting { document: contract.Notice['document']; label: string; submitterId: string; at: string; comment: string }

/** A decision that waits for the caller now: not one that another is asked about first. */
function decisionOf(named: NamedDocument | undefined, caller: Caller): Waiting[] {
  const run = named?.access.document.approval;
  if (!named || !run || !explainVersion(named.access.document, named.access.actor, named.access.document.latest).sees) return [];
  if (!waitingFor(run).some(({ personId }) => personId === caller.id)) return [];
  return [{ document: named.name, label: formatLabel(named.access.document.latest, named.access.document.presentEra), submitterId: run.submitterId, at: run.submittedAt.toISOString(), comment: run.comment }];
}

async function withNames(context: Context, waiting: readonly Waiting[]): Promise<contract.Desk['decisions']> {
  const people = await namesOf(context, waiting.map(({ submitterId }) => submitterId));
  return waiting.map(({ submitterId, ...rest }) => ({ ...rest, submittedBy: people.get(submitterId) ?? { account: '', name: '' } }));
}

async function rejections(context: Context, named: readonly NamedDocument[], caller: Caller): Promise<contract.Desk['cameBack']> {
  const seen = named.filter(({ access }) => explainVersion(access.document, access.actor, access.document.latest).sees && access.document.custody?.holderId !== caller.id);
  if (seen.length === 0) return [];
  const posts = await rows<{ versionId: string; account: string; name: string; at: Date; comment: string }>(context.db,
    `SELECT r.version_id AS versionId, w.account, w.name, p.decided_at AS at, p.comment FROM approval_posts p JOIN approval_runs r ON r.id = p.run_id JOIN people w ON w.id = p.person_id
     WHERE r.version_id IN (:ids) AND p.decision = 'reject' ORDER BY p.decided_at`, { ids: seen.map(({ access }) => access.document.latest.id) });
  const last = new Map(posts.map((post) => [post.versionId, post]));
  return seen.flatMap(({ access: { document }, name }) => {
    const post = last.get(document.latest.id);
    return post ? [{ document: name, label: formatLabel(document.latest, document.presentEra), by: { account: post.account, name: post.name }, at: post.at.toISOString(), comment: post.comment }] : [];
  });
}

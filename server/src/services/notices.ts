import { Op } from 'sequelize';
import type * as contract from '@polychron/contract';
import { explainVersion, formatLabel } from '@polychron/core';
import type { Context } from '../context.ts';
import { rows, type Tx } from '../store/database.ts';
import { loadDocuments, type LoadedDocument } from '../store/documents.ts';
import type { NoticeKind, NoticeRow } from '../store/models.ts';
import { rolesIn, type Caller } from './access.ts';
import { documentNames, type NamedDocument } from './named.ts';

interface Telling { kind: NoticeKind; about: string; documentId: string; at: Date; facts: Record<string, string | null> }

/** Tells people something once: who was told it before is not told again. */
export async function tellPeople(context: Context, personIds: readonly string[], telling: Telling, tx?: Tx): Promise<void> {
  await context.models.Notice.bulkCreate([...new Set(personIds)].map((personId) => ({ personId, ...telling })), { ignoreDuplicates: true, transaction: tx ?? null });
}

/** Tells holder, owner and controllers of every check-out whose end is past. Answers how many check-outs were told of. */
export async function tellOfOverdue(context: Context): Promise<number> {
  const now = context.clock();
  const overdue = await rows<{ id: string; libraryId: string; holderId: string; ownerId: string; holder: string; since: Date; until: Date }>(context.db,
    `SELECT c.document_id AS id, d.library_id AS libraryId, c.holder_id AS holderId, d.owner_id AS ownerId, p.name AS holder, c.since, c.until_at AS until
     FROM checkouts c JOIN documents d ON d.id = c.document_id JOIN people p ON p.id = c.holder_id
     WHERE c.until_at < :now`, { now });
  let told = 0;
  for (const { id, libraryId, holderId, ownerId, holder, until } of overdue) {
    const about = `overdue:${id}:${until.getTime()}`;
    if (await context.models.Notice.count({ where: { about } }) > 0) continue;
    const document = (await loadDocuments(context, [id])).get(id);
    if (!document?.custody) continue;
    // The end of a check-out is told to those who see its base.
    const members = await rolesIn(context, libraryId, null);
    const controllers = [...members].filter(([, roles]) => roles.has('controller')).map(([personId]) => personId);
    const personIds = [holderId, ownerId, ...controllers].filter((personId) =>
      explainVersion(document, { id: personId, name: '', roles: members.get(personId) ?? new Set() }, document.custody?.base ?? document.latest).sees);
    await tellPeople(context, personIds, { kind: 'overdue', about, documentId: id, at: now, facts: { holder, holderId, until: until.toISOString() } });
    context.happenings.tell({ kind: 'notices', personIds });
    told += 1;
  }
  return told;
}

/** Notices of one person, newest first. Those about documents they do not see any more are neither told nor counted. */
export async function listNotices(context: Context, caller: Caller, page: { cursor?: string | undefined; limit: number }): Promise<contract.NoticeList> {
  const before = page.cursor !== undefined && /^\d+$/.test(page.cursor) ? { id: { [Op.lt]: page.cursor } } : {};
  const { Notice } = context.models;
  const about = await rows<{ id: string }>(context.db, 'SELECT DISTINCT document_id AS id FROM notices WHERE person_id = :id', { id: caller.id });
  const documents = await documentNames(context, caller, about.map(({ id }) => id));
  const own = { personId: caller.id, documentId: [...documents.keys()] };
  const found = await Notice.findAll({ where: { ...own, ...before }, order: [['id', 'DESC']], limit: page.limit + 1 });
  const shown = found.slice(0, page.limit);
  return {
    items: shown.map((notice) => noticeView(notice, documents.get(notice.documentId) as NamedDocument, caller)),
    next: found.length > page.limit ? String(shown.at(-1)?.id) : null,
    total: await Notice.count({ where: own }), unread: await Notice.count({ where: { ...own, readAt: null } }),
  };
}

function noticeView(notice: NoticeRow, { name }: NamedDocument, caller: Caller): contract.Notice {
  const { kind, facts, at } = notice;
  const mine = facts['holderId'] === caller.id;
  const text = {
    overdue: mine ? `Your check-out of ${name.number} is overdue.` : `${facts['holder']} holds ${name.number} past its end.`,
    lifted: `${facts['by']} lifted your check-out of ${name.number}: “${facts['reason']}”.${facts['setAside'] ? ' Your working copy is set aside on your Desk.' : ''}`,
    rejected: `${facts['by']} rejected ${name.number} ${facts['label'] ?? ''}: “${facts['comment']}”.`,
  }[kind];
  return { id: String(notice.id), kind, at: at.toISOString(), document: name, text, read: notice.readAt !== null };
}

/** Marks notices as read, up to one. */
export async function readNotices(context: Context, caller: Caller, upTo: string): Promise<void> {
  await context.models.Notice.update({ readAt: context.clock() }, { where: { personId: caller.id, readAt: null, id: { [Op.lte]: upTo } } });
}

/** Tells owner and author of a version that it came back from approval; answers their ids. */
export async function tellOfRejection(context: Context, document: LoadedDocument, by: { name: string; comment: string }, at: Date, tx: Tx): Promise<string[]> {
  const version = document.latest;
  const personIds = [document.ownerId, version.authorId];
  await tellPeople(context, personIds, {
    kind: 'rejected', about: `rejected:${version.id}:${at.getTime()}`, documentId: document.id, at,
    facts: { by: by.name, comment: by.comment.trim(), label: formatLabel(version, document.presentEra) },
  }, tx);
  return personIds;
}

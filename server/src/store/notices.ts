import { Op } from 'sequelize';
import { rows, type Tx } from './database.ts';
import type { NoticeKind, NoticeRow } from './models.ts';
import type { Store } from './store.ts';

/** What people are told about a document; `about` names the occasion, told to each once. */
export interface NewNotice {
  kind: NoticeKind;
  about: string;
  documentId: string;
  at: Date;
  facts: Record<string, string | null>;
}

/** Tells people something once: who was told it before is not told again. */
export async function insertNotices(
  store: Store,
  personIds: readonly string[],
  notice: NewNotice,
  tx?: Tx,
): Promise<void> {
  await store.models.Notice.bulkCreate(
    [...new Set(personIds)].map((personId) => ({ personId, ...notice })),
    { ignoreDuplicates: true, transaction: tx ?? null },
  );
}

/** Whether anybody was told of an occasion. */
export async function wasTold(store: Store, about: string): Promise<boolean> {
  return (await store.models.Notice.count({ where: { about } })) > 0;
}

/** Documents a person was told of. */
export async function documentsToldOf(store: Store, personId: string): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    'SELECT DISTINCT document_id AS id FROM notices WHERE person_id = :personId',
    { personId },
  );
  return found.map(({ id }) => id);
}

/**
 * A person's notices about some documents, newest first, from below an id; with how many there are, and how
 * many are unread.
 */
export async function findNotices(
  store: Store,
  of: { personId: string; documentIds: readonly string[] },
  part: { before: number | null; count: number },
): Promise<{ found: NoticeRow[]; total: number; unread: number }> {
  const { Notice } = store.models;
  const own = { personId: of.personId, documentId: [...of.documentIds] };
  const below = part.before === null ? {} : { id: { [Op.lt]: part.before } };
  const found = await Notice.findAll({
    where: { ...own, ...below },
    order: [['id', 'DESC']],
    limit: part.count,
  });
  const total = await Notice.count({ where: own });
  const unread = await Notice.count({ where: { ...own, readAt: null } });
  return { found, total, unread };
}

/** Marks what people were told of the same kind about the document as read: it is asked anew. */
export async function markAskedAnew(
  store: Store,
  personIds: readonly string[],
  { kind, documentId, about, at }: NewNotice,
  tx: Tx,
): Promise<void> {
  const asked = { personId: [...personIds], readAt: null };
  const before = { about: { [Op.startsWith]: `${kind}:${documentId}:`, [Op.ne]: about } };
  await store.models.Notice.update({ readAt: at }, { where: { ...asked, ...before }, transaction: tx });
}

/** Marks everybody's notices from before a moment as read. */
export async function markReadBefore(store: Store, before: Date, at: Date): Promise<void> {
  await store.models.Notice.update({ readAt: at }, { where: { readAt: null, at: { [Op.lt]: before } } });
}

/** Marks a person's notices as read, up to one. */
export async function markRead(store: Store, personId: string, upTo: string, at: Date): Promise<void> {
  await store.models.Notice.update(
    { readAt: at },
    { where: { personId, readAt: null, id: { [Op.lte]: upTo } } },
  );
}

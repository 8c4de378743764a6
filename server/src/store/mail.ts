import { Op } from 'sequelize';
import { rows, run, type Tx } from './database.ts';
import type { NoticeRow } from './models.ts';
import type { PersonName } from './people.ts';
import type { Store } from './store.ts';

/** How notices come to somebody by mail. */
export type MailChoice = 'atOnce' | 'daily' | 'none';

/** Somebody with their choice of mail. */
export interface MailPerson extends PersonName {
  id: string;
  mail: MailChoice;
  mailAddress: string | null;
  closed: boolean;
}

/** Somebody's choice of mail; null where there is nobody of that id. */
export async function mailPerson(store: Store, id: string): Promise<MailPerson | null> {
  const [found] = await rows<Omit<MailPerson, 'closed'> & { closed: number }>(
    store.db,
    `SELECT id, account, name, mail, mail_address AS mailAddress, closed_at IS NOT NULL AS closed
     FROM people WHERE id = :id`,
    { id },
  );
  return found ? { ...found, closed: Boolean(found.closed) } : null;
}

/** Keeps how somebody wants mail. */
export const keepMailChoice = (
  store: Store,
  id: string,
  { mail, mailAddress }: Pick<MailPerson, 'mail' | 'mailAddress'>,
): Promise<void> =>
  run(store.db, 'UPDATE people SET mail = :mail, mail_address = :mailAddress WHERE id = :id', {
    id,
    mail,
    mailAddress,
  });

/** People who have notices that are to be mailed by now; `digest` is when the last daily message was due. */
export async function peopleToMail(
  store: Store,
  { now, digest }: { now: Date; digest: Date },
  count: number,
): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT DISTINCT n.person_id AS id FROM notices n JOIN people p ON p.id = n.person_id
     WHERE NOT n.mailed AND n.at <= IF(p.mail = 'daily', :digest, :now) LIMIT :count`,
    { now, digest, count },
  );
  return found.map(({ id }) => id);
}

/** When people were told what was not mailed yet, in order. */
export async function momentsToMail(store: Store): Promise<Date[]> {
  const found = await rows<{ at: Date }>(
    store.db,
    'SELECT DISTINCT at FROM notices WHERE NOT mailed ORDER BY at',
    {},
  );
  return found.map(({ at }) => at);
}

/** Notices of somebody that were not mailed yet, of a time until a moment, the oldest first. */
export const noticesToMail = (
  store: Store,
  personId: string,
  until: Date,
  count: number,
): Promise<Pick<NoticeRow, 'id' | 'kind' | 'documentId' | 'at' | 'facts'>[]> =>
  store.models.Notice.findAll({
    where: { personId, mailed: false, at: { [Op.lte]: until } },
    order: ['id'],
    limit: count,
  });

/**
 * Notes that notices are mailed, or are not to be; false where another was quicker with one of them, and
 * nothing is to be done.
 */
export async function markMailed(store: Store, ids: readonly number[], tx: Tx): Promise<boolean> {
  const given = { ids: [...ids] };
  const found = await rows(
    store.db,
    'SELECT id FROM notices WHERE id IN (:ids) AND NOT mailed FOR UPDATE',
    given,
    tx,
  );
  if (found.length !== ids.length) return false;
  await run(store.db, 'UPDATE notices SET mailed = TRUE WHERE id IN (:ids)', given, tx);
  return true;
}

/** What a message is. */
export type MessageKind = 'notice' | 'digest' | 'answer';

/** A message as it is to be kept. */
export interface NewMessage {
  id: string;
  personId: string;
  at: Date;
  kind: MessageKind;
  address: string;
  subject: string;
  /** As it is sent (RFC 5322). */
  message: Buffer;
  /** Whether it is to leave by SMTP, too. */
  leaves: boolean;
  /** The documents it speaks of, by the newest version its reader sees. */
  about: readonly About[];
  /** The secret by which a decision is given by answering it. */
  secret: NewSecret | null;
}

/** A document that a message speaks of, named by a version. */
export interface About {
  documentId: string;
  versionId: string;
}

/** A secret for one person, one version and one run, as it is kept. */
export interface NewSecret {
  hash: string;
  documentId: string;
  versionId: string;
  runId: string;
}

/** Keeps a message. */
export async function insertMessage(store: Store, message: NewMessage, tx: Tx): Promise<void> {
  const { about, secret, ...row } = message;
  await run(
    store.db,
    `INSERT INTO outbox (id, person_id, at, kind, address, subject, message, leaves, next_try)
     VALUES (:id, :personId, :at, :kind, :address, :subject, :message, :leaves, IF(:leaves, :at, NULL))`,
    { ...row },
    tx,
  );
  const list = about.map(({ documentId, versionId }) => [message.id, documentId, versionId]);
  if (list.length > 0) {
    await run(
      store.db,
      'INSERT IGNORE INTO outbox_documents (message_id, document_id, version_id) VALUES :list',
      { list },
      tx,
    );
  }
  if (!secret) return;
  await run(
    store.db,
    `INSERT INTO answer_secrets (hash, message_id, person_id, document_id, version_id, run_id)
     VALUES (:hash, :messageId, :personId, :documentId, :versionId, :runId)`,
    { ...secret, messageId: message.id, personId: message.personId },
    tx,
  );
}

/** The run that is open about a document; null where none is. */
export async function openRunOf(
  store: Store,
  documentId: string,
  tx?: Tx,
): Promise<{ id: string; versionId: string } | null> {
  const [found] = await rows<{ id: string; versionId: string }>(
    store.db,
    'SELECT id, version_id AS versionId FROM approval_runs WHERE open_document_id = :documentId',
    { documentId },
    tx,
  );
  return found ?? null;
}

/** What a secret is for, and when it was used. */
export interface KeptSecret {
  hash: string;
  messageId: string;
  personId: string;
  documentId: string;
  versionId: string;
  runId: string;
  usedAt: Date | null;
}

/** The secret of a hash, or of a message; locked inside a transaction. Null where there is none. */
export async function findSecret(
  store: Store,
  by: { hash: string } | { messageId: string },
  tx?: Tx,
): Promise<KeptSecret | null> {
  const column = 'hash' in by ? 'hash' : 'message_id';
  const [found] = await rows<KeptSecret>(
    store.db,
    `SELECT hash, message_id AS messageId, person_id AS personId, document_id AS documentId,
       version_id AS versionId, run_id AS runId, used_at AS usedAt
     FROM answer_secrets WHERE ${column} = :value ${tx ? 'FOR UPDATE' : ''}`,
    { value: 'hash' in by ? by.hash : by.messageId },
    tx,
  );
  return found ?? null;
}

/** Notes that a secret was used, and by which words. */
export const markSecretUsed = (
  store: Store,
  hash: string,
  { at, text }: { at: Date; text: string },
  tx: Tx,
): Promise<void> =>
  run(
    store.db,
    'UPDATE answer_secrets SET used_at = :at, answer = :text WHERE hash = :hash',
    { hash, at, text },
    tx,
  );

/** Keeps what came of an answer. */
export const keepOutcome = (store: Store, hash: string, said: string): Promise<void> =>
  run(store.db, 'UPDATE answer_secrets SET said = :said WHERE hash = :hash', { hash, said });

/** A message as it is listed. */
export interface KeptMessage {
  id: string;
  at: Date;
  kind: MessageKind;
  personId: string;
  account: string;
  name: string;
  address: string;
  subject: string;
  sentAt: Date | null;
  problem: string | null;
  hasSecret: number;
  usedAt: Date | null;
  /** What was answered, and what came of it. */
  answer: string | null;
  said: string | null;
  /** Whether the run it was about goes on. */
  isOpen: number;
}

const listed = `SELECT o.id, o.at, o.kind, o.person_id AS personId, p.account, p.name, o.address, o.subject,
    o.sent_at AS sentAt, o.problem, s.hash IS NOT NULL AS hasSecret, s.used_at AS usedAt,
    s.answer, s.said, r.open_document_id IS NOT NULL AS isOpen
  FROM outbox o JOIN people p ON p.id = o.person_id LEFT JOIN answer_secrets s ON s.message_id = o.id
  LEFT JOIN approval_runs r ON r.id = s.run_id`;

/** Messages to one person, or to everybody, newest first, from behind a place. */
export const findMessages = (
  store: Store,
  personId: string | null,
  { after, count }: { after: readonly [Date, string] | null; count: number },
): Promise<KeptMessage[]> =>
  rows<KeptMessage>(
    store.db,
    `${listed} WHERE ${personId === null ? 'TRUE' : 'o.person_id = :personId'}
       ${after ? 'AND (o.at < :at OR (o.at = :at AND o.id < :id))' : ''}
     ORDER BY o.at DESC, o.id DESC LIMIT :count`,
    { personId, at: after?.[0] ?? null, id: after?.[1] ?? '', count },
  );

/** How many messages there are to one person, or to everybody. */
export async function countMessages(store: Store, personId: string | null): Promise<number> {
  const [counted] = await rows<{ total: number }>(
    store.db,
    `SELECT COUNT(*) AS total FROM outbox ${personId === null ? '' : 'WHERE person_id = :personId'}`,
    { personId },
  );
  return Number(counted?.total ?? 0);
}

/** What messages speak of, by message. */
export async function aboutOf(store: Store, ids: readonly string[]): Promise<Map<string, About[]>> {
  if (ids.length === 0) return new Map();
  const found = await rows<About & { messageId: string }>(
    store.db,
    `SELECT message_id AS messageId, document_id AS documentId, version_id AS versionId
     FROM outbox_documents WHERE message_id IN (:ids)`,
    { ids: [...ids] },
  );
  const about = new Map<string, About[]>();
  for (const { messageId, ...one } of found) about.set(messageId, [...(about.get(messageId) ?? []), one]);
  return about;
}

/** One message of a person; null where they have no such. */
export async function findMessage(store: Store, personId: string, id: string): Promise<KeptMessage | null> {
  const [found] = await rows<KeptMessage>(
    store.db,
    `${listed} WHERE o.id = :id AND o.person_id = :personId`,
    { id, personId },
  );
  return found ?? null;
}

/** A message as it is sent. */
export async function messageBytes(store: Store, id: string): Promise<Buffer> {
  const [kept] = await rows<{ message: Buffer }>(store.db, 'SELECT message FROM outbox WHERE id = :id', {
    id,
  });
  return kept?.message ?? Buffer.alloc(0);
}

/** A message that is to leave. */
export interface Leaving {
  id: string;
  address: string;
  message: Buffer;
  tries: number;
}

/** Messages that are to leave by now, the oldest first. */
export const messagesLeaving = (store: Store, now: Date, count: number): Promise<Leaving[]> =>
  rows<Leaving>(
    store.db,
    `SELECT id, address, message, tries FROM outbox WHERE leaves AND next_try <= :now
     ORDER BY next_try, id LIMIT :count`,
    { now, count },
  );

/** Notes that a message has left. */
export const markSent = (store: Store, id: string, at: Date): Promise<void> =>
  run(
    store.db,
    'UPDATE outbox SET sent_at = :at, next_try = NULL, problem = NULL, tries = tries + 1 WHERE id = :id',
    { id, at },
  );

/** Notes what kept a message from leaving, and when it is tried again; null: never. */
export const markUnsent = (
  store: Store,
  id: string,
  { problem, nextTry }: { problem: string; nextTry: Date | null },
): Promise<void> =>
  run(
    store.db,
    'UPDATE outbox SET problem = :problem, next_try = :nextTry, tries = tries + 1 WHERE id = :id',
    { id, problem, nextTry },
  );

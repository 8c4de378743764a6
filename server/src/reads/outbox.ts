import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import PostalMime from 'postal-mime';
import type { Asker } from '../access/caller.ts';
import { requireAdministrator } from '../access/admission.ts';
import { sees } from '../access/sees.ts';
import { Refused } from '../refused.ts';
import { addressOf } from '../standins/mail.ts';
import { badCursor, readCursor, writeCursor } from '../store/cursors.ts';
import {
  type About,
  aboutOf,
  countMessages,
  findMessage,
  findMessages,
  type KeptMessage,
  mailPerson,
  messageBytes,
} from '../store/mail.ts';
import { findVersions } from '../store/versions.ts';
import { documentNames, type NamedDocument } from './documentNames.ts';
import { requirePerson } from './people.ts';

/** How notices come to the caller by mail. */
export async function readMailChoice({ context, caller }: Asker): Promise<contract.MailChoice> {
  const person = await mailPerson(context, caller.id);
  if (!person) throw new Error('the caller has no row');
  return { mail: person.mail, address: person.mailAddress, sentTo: addressOf(person, context.mail) };
}

/**
 * Messages, newest first: one's own, as far as one sees what they are about; a system administrator is told
 * of everybody's where they went and whether they left, not what they say.
 * @throws Refused `not-administrator` for somebody else's, `person-not-found`
 */
export async function readOutbox(asker: Asker, query: contract.OutboxQuery): Promise<contract.OutboxList> {
  const { context } = asker;
  const personId = await personAsked(asker, query.to);
  const items: contract.OutboxList['items'] = [];
  let after = placeOf(query.cursor);
  // What is not for the caller any more is passed by; read on until the part is full.
  for (;;) {
    const found = await findMessages(context, personId, { after, count: readAtOnce });
    const views = await viewsOf(asker, found);
    for (const message of found) {
      const view = views.get(message.id);
      if (view && items.length === query.limit) return listOf(asker, items, { personId, next: after });
      if (view) items.push(view);
      after = [message.at, message.id];
    }
    if (found.length < readAtOnce) return listOf(asker, items, { personId, next: null });
  }
}

/** Messages that are read at once. */
const readAtOnce = 100;

async function listOf(
  { context }: Asker,
  items: contract.OutboxList['items'],
  { personId, next }: { personId: string | null; next: readonly [Date, string] | null },
): Promise<contract.OutboxList> {
  return {
    items,
    next: next && writeCursor([next[0].toISOString(), next[1]]),
    total: await countMessages(context, personId),
    leaves: context.mail.transport !== null,
  };
}

function placeOf(cursor: string | undefined): readonly [Date, string] | null {
  const [at, id] = readCursor(cursor, 2) ?? [];
  return at === undefined || id === undefined ? null : [momentOf(at), id];
}

const momentOf = (text: string): Date => {
  const at = new Date(text);
  if (Number.isNaN(at.getTime())) throw badCursor();
  return at;
};

/** Whose messages are asked for; null: everybody's. */
async function personAsked({ context, caller }: Asker, to: string | undefined): Promise<string | null> {
  if (to === undefined) return caller.systemAdministrator ? null : caller.id;
  if (to === caller.account) return caller.id;
  requireAdministrator(caller, 'Messages to others are listed');
  return (await requirePerson(context, to)).id;
}

/**
 * Messages as the caller is told of them, by id: their own as far as they see what names the documents they
 * are about; of those to others, where they went.
 */
async function viewsOf(
  asker: Asker,
  messages: readonly KeptMessage[],
): Promise<Map<string, contract.OutboxList['items'][number]>> {
  const { context, caller } = asker;
  const own = messages.filter(({ personId }) => personId === caller.id);
  const about = await aboutOf(
    context,
    own.map(({ id }) => id),
  );
  const named = [...about.values()].flat();
  const [documents, versions] = await Promise.all([
    documentNames(
      asker,
      named.map(({ documentId }) => documentId),
    ),
    findVersions(
      context,
      named.map(({ versionId }) => versionId),
    ),
  ]);
  const isSeen = ({ documentId, versionId }: About): boolean => {
    const [document, version] = [documents.get(documentId), versions.get(versionId)];
    return document !== undefined && version !== undefined && sees(document.access, version);
  };
  return new Map(
    messages.flatMap((message) => {
      const isOwn = message.personId === caller.id;
      const of = about.get(message.id) ?? [];
      // What somebody decided by answering stays theirs to read, whatever that took out of their sight.
      if (isOwn && message.usedAt === null && !of.every(isSeen)) return [];
      const [one] = of.length === 1 ? of : [];
      const view = itemView(message, { isOwn, document: documents.get(one?.documentId ?? '') });
      return [[message.id, view] as const];
    }),
  );
}

function itemView(
  message: KeptMessage,
  { isOwn, document }: { isOwn: boolean; document: NamedDocument | undefined },
): contract.OutboxList['items'][number] {
  const { id, at, kind, account, name, address, subject, sentAt, problem } = message;
  return {
    id,
    at: at.toISOString(),
    kind,
    to: { account, name },
    address,
    subject: isOwn ? subject : null,
    document: document?.name ?? null,
    sentAt: sentAt && sentAt.toISOString(),
    problem,
    answer: isOwn ? answerOf(message) : null,
    answered: isOwn ? answeredOf(message) : null,
  };
}

const answeredOf = ({ usedAt, answer, said }: KeptMessage): contract.OutboxMessage['answered'] =>
  usedAt && { at: usedAt.toISOString(), text: answer ?? '', said: said ?? '' };

function answerOf({ hasSecret, usedAt, isOpen }: KeptMessage): 'open' | 'used' | 'over' | null {
  if (!hasSecret) return null;
  if (usedAt) return 'used';
  return isOpen ? 'open' : 'over';
}

/**
 * One of the caller's own messages, as it is listed.
 * @throws Refused `message-not-found`, also where they do not see any more what it is about
 */
async function ownMessage(asker: Asker, id: string): Promise<contract.OutboxList['items'][number]> {
  const kept = await findMessage(asker.context, asker.caller.id, id);
  const view = kept && (await viewsOf(asker, [kept])).get(kept.id);
  if (view) return view;
  throw new Refused(refuse('notFound', 'message-not-found', 'There is no such message to you.'));
}

/** One of the caller's messages as it was made. @throws Refused `message-not-found` */
export async function readMessageBytes(asker: Asker, id: string): Promise<Buffer> {
  const { id: found } = await ownMessage(asker, id);
  return messageBytes(asker.context, found);
}

/** One of the caller's messages as it reads. @throws Refused `message-not-found` */
export async function readMessage(asker: Asker, id: string): Promise<contract.OutboxMessage> {
  const view = await ownMessage(asker, id);
  const mail = await PostalMime.parse(await messageBytes(asker.context, view.id));
  return {
    ...view,
    from: mail.from?.address ?? '',
    replyTo: mail.replyTo?.[0]?.address ?? null,
    text: mail.text ?? '',
  };
}

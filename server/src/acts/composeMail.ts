import type * as contract from '@polychron/contract';
import { dateWords, labelIn, waitingFor } from '@polychron/core';
import { v7 as newId } from 'uuid';
import type { Context } from '../context.ts';
import { documentNames, type NamedDocument } from '../reads/documentNames.ts';
import { noticeText } from '../reads/notices.ts';
import { compareVersions } from '../reads/reading.ts';
import { Refused } from '../refused.ts';
import { addressOf, answerAddress, composeMessage, newSecret } from '../standins/mail.ts';
import { transact } from '../store/database.ts';
import {
  type About,
  insertMessage,
  type MailPerson,
  mailPerson,
  markMailed,
  momentsToMail,
  type NewMessage,
  type NewSecret,
  noticesToMail,
  openRunOf,
  peopleToMail,
} from '../store/mail.ts';

/** People whose mail is made in one turn, and notices of one of them. */
const peopleAtOnce = 100;
const noticesAtOnce = 100;

/** The hour, in UTC, from which a day's notices go together. */
export const digestHour = 5;

/** When daily messages were due last. */
export function lastDigest(now: Date): Date {
  const today = new Date(now);
  today.setUTCHours(digestHour, 0, 0, 0);
  return today.getTime() <= now.getTime() ? today : new Date(today.getTime() - 86_400_000);
}

/**
 * Makes messages of the notices that are to be mailed by now, as each person chose; what somebody may not see
 * any more is not mailed. Returns how many notices are done with.
 */
export async function composeMail(context: Context): Promise<number> {
  const now = context.clock();
  const people = await peopleToMail(context, { now, digest: lastDigest(now) }, peopleAtOnce);
  let done = 0;
  for (const id of people) done += await composeFor(context, id, now);
  return done;
}

/** Makes messages of what was told long ago, each at its time: for a history that was lived at once. */
export async function composePastMail(context: Context): Promise<void> {
  for (const at of await momentsToMail(context)) {
    const then = { ...context, clock: () => at };
    while ((await composeMail(then)) > 0);
  }
}

type Notice = Awaited<ReturnType<typeof noticesToMail>>[number];
type Told = { notice: Notice; document: NamedDocument };

async function composeFor(context: Context, personId: string, now: Date): Promise<number> {
  const person = await mailPerson(context, personId);
  if (!person) return 0;
  const until = person.mail === 'daily' ? lastDigest(now) : now;
  const notices = await noticesToMail(context, personId, until, noticesAtOnce);
  // For whoever's account is closed no document is there, and so no message.
  const messages = person.mail === 'none' ? [] : await messagesOf(context, person, notices, now);
  const ids = notices.map(({ id }) => id);
  const isDone = await transact(context.db, async (tx) => {
    if (ids.length === 0 || !(await markMailed(context, ids, tx))) return false;
    for (const message of messages) await insertMessage(context, message, tx);
    return true;
  });
  if (!isDone) return 0;
  if (messages.length > 0) context.events.publish({ kind: 'notices', personIds: [personId] });
  return ids.length;
}

async function messagesOf(
  context: Context,
  person: MailPerson,
  notices: readonly Notice[],
  now: Date,
): Promise<NewMessage[]> {
  const caller = { ...person, systemAdministrator: false };
  const documents = await documentNames(
    { context, caller },
    notices.map(({ documentId }) => documentId),
  );
  const told = notices.flatMap((notice): Told[] => {
    const document = documents.get(notice.documentId);
    return document ? [{ notice, document }] : [];
  });
  const [first] = told;
  if (!first) return [];
  if (person.mail === 'daily') return [await digestOf(context, person, told, now)];
  return Promise.all(told.map((one) => messageOf(context, person, one, now)));
}

const greeting = ({ name }: MailPerson): string => `${name},`;
const farewell = (why: string, publicUrl: string): string =>
  ['-- ', 'Polychron', `${why} Change this: ${publicUrl}/account`].join('\n');

/** A document as a message names it, and the place where one acts on it. */
const named = ({ name: { number, title, library } }: NamedDocument): string =>
  `${number} ${title} (${library.name})`;
function placeOf({ notice: { kind }, document: { name } }: Told, publicUrl: string): string {
  const address = `${publicUrl}/${name.library.code}/documents/${name.id}`;
  return kind === 'toRead' || kind === 'toReadStill' ? `${address}/read` : address;
}

const aboutOf = ({ document: { name, newest } }: Told): About => ({
  documentId: name.id,
  versionId: newest.id,
});

const textOf = ({ notice, document }: Told, to: MailPerson, now: Date): string =>
  noticeText(notice, document.name.number, { to, now });

async function messageOf(context: Context, person: MailPerson, told: Told, now: Date): Promise<NewMessage> {
  const { domain, publicUrl } = context.mail;
  const { notice, document } = told;
  const answer = await answerTo(context, person, told);
  const said = textOf(told, person, now);
  const text = [
    greeting(person),
    said,
    ...(answer ? await submitted(context, person, document) : []),
    `${named(document)}\n${placeOf(told, publicUrl)}`,
    ...(answer ? [howToAnswer] : []),
    farewell('You get each notice at once.', publicUrl),
  ].join('\n\n');
  return made(context, person, {
    kind: 'notice',
    subject: subjectOf(said),
    text,
    at: now,
    about: [aboutOf(told)],
    thread: notice.documentId,
    answer: answer && { secret: answer.kept, address: answerAddress(answer.secret, { domain }) },
  });
}

/** What whoever submitted a version said of it, and what changed in short. */
async function submitted(
  context: Context,
  person: MailPerson,
  { access: { document } }: NamedDocument,
): Promise<string[]> {
  const { approval, inForce, latest, id } = document;
  const words = approval?.comment ? [`${approval.submitterName}: “${approval.comment}”`] : [];
  if (!inForce) return [...words, 'Nothing of it is in force yet.'];
  const [from, to] = [labelIn(document, inForce), labelIn(document, latest)];
  const caller = { ...person, systemAdministrator: false };
  try {
    const { changes } = await compareVersions({ context, caller }, id, { from, to });
    return [...words, changesInShort(changes, from)];
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    return [
      ...words,
      `What changed against ${from}, which is in force, cannot be told here: ${error.refusal.reason}`,
    ];
  }
}

/** Changes that are told one by one, and the most signs of each. */
const toldChanges = 3;
const longestTold = 120;

/** Changes as a message tells them: how many, and the first of them. */
export function changesInShort(
  changes: readonly Pick<
    contract.Comparison['changes'][number],
    'kind' | 'what' | 'place' | 'before' | 'after'
  >[],
  from: string,
): string {
  const against = `Against ${from}, which is in force`;
  if (changes.length === 0) return `${against}: no difference in what is read.`;
  const short = (text: string): string =>
    `“${text.length > longestTold ? `${text.slice(0, longestTold - 1)}…` : text}”`;
  const lines = changes.slice(0, toldChanges).map(({ kind, what, place, before, after }) => {
    const words = [before, after].filter(Boolean).map(short).join(' → ');
    return `- ${kind}${place && `, ${place}`}: ${words || what}`;
  });
  const more = changes.length - lines.length;
  const count = `${changes.length} ${changes.length === 1 ? 'change' : 'changes'}`;
  return [`${against}: ${count}`, ...lines, ...(more > 0 ? [`- and ${more} more`] : [])].join('\n');
}

const howToAnswer =
  'You can decide by answering this message: begin with “approve”, “reject” or “later”, and a colon or a new line behind the word; the rest is your comment. The address it goes to is yours alone, for this version, and good for one decision.';

async function digestOf(
  context: Context,
  person: MailPerson,
  told: readonly Told[],
  now: Date,
): Promise<NewMessage> {
  const { publicUrl } = context.mail;
  const parts = told.map(
    (one) => `${textOf(one, person, now)}\n${named(one.document)}\n${placeOf(one, publicUrl)}`,
  );
  const count = told.length === 1 ? 'One notice' : `${told.length} notices`;
  const text = [
    greeting(person),
    `${count} since your last daily message:`,
    ...parts,
    farewell('You get your notices together, once a day.', publicUrl),
  ].join('\n\n');
  return made(context, person, {
    kind: 'digest',
    subject: `${count} of ${dateWords(now)}`,
    text,
    at: now,
    about: told.map(aboutOf),
    thread: null,
    answer: null,
  });
}

/** Tells somebody what came of an answer that reached the server as mail. */
export async function messageOfAnswer(
  context: Context,
  person: MailPerson,
  { said, about, inReplyTo }: { said: string; about: About | null; inReplyTo: string | null },
): Promise<NewMessage> {
  const { publicUrl } = context.mail;
  const text = [greeting(person), said, farewell('You answered a message.', publicUrl)].join('\n\n');
  return made(context, person, {
    kind: 'answer',
    subject: subjectOf(said),
    text,
    at: context.clock(),
    about: about ? [about] : [],
    thread: about?.documentId ?? null,
    answer: null,
    inReplyTo,
  });
}

interface Making {
  kind: NewMessage['kind'];
  subject: string;
  text: string;
  at: Date;
  about: About[];
  thread: string | null;
  answer: { secret: NewSecret; address: string } | null;
  inReplyTo?: string | null;
}

async function made(context: Context, person: MailPerson, making: Making): Promise<NewMessage> {
  const { kind, subject, text, at, about, thread, answer, inReplyTo } = making;
  const id = newId();
  const address = addressOf(person, context.mail);
  const message = await composeMessage(
    {
      id,
      to: { name: person.name, address },
      at,
      subject,
      text,
      thread,
      replyTo: answer?.address ?? null,
      inReplyTo: inReplyTo ?? null,
    },
    context.mail,
  );
  const leaves = context.mail.transport !== null;
  const secret = answer?.secret ?? null;
  return { id, personId: person.id, at, kind, address, subject, message, leaves, about, secret };
}

/** The longest subject, in signs: a line of a list. */
const longestSubject = 140;

/** The first sentence of a text, as far as a subject goes. */
function subjectOf(text: string): string {
  // Behind a single letter the point is that of an initial.
  const [first = text] = /^.*?(?:[\p{L}”)]{2}|\d)[.!?](?=\s|$)/su.exec(text) ?? [];
  const line = first.replace(/\s+/g, ' ').replace(/\.$/, '');
  return line.length > longestSubject ? `${line.slice(0, longestSubject - 1)}…` : line;
}

/** A secret for a decision that waits for the person; null where none does. */
async function answerTo(
  context: Context,
  person: MailPerson,
  { notice, document: { access } }: Told,
): Promise<{ secret: string; kept: NewSecret } | null> {
  const { approval, latest, id: documentId } = access.document;
  // A notice of an earlier run, mailed late, asks for nothing any more.
  const isOfNow = notice.facts['label'] === labelIn(access.document, latest);
  const asks = isOfNow && (notice.kind === 'toDecide' || notice.kind === 'putInPlace');
  if (!asks || !approval || !waitingFor(approval).some(({ personId }) => personId === person.id)) return null;
  const run = await openRunOf(context, documentId);
  if (!run || run.versionId !== approval.versionId) return null;
  const { secret, hash } = newSecret();
  return { secret, kept: { hash, documentId, versionId: run.versionId, runId: run.id } };
}

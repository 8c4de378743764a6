import type * as contract from '@polychron/contract';
import {
  decide,
  isAutomatic,
  isRefusal,
  labelIn,
  momentWords,
  readAnswer,
  refuse,
  waitingFor,
} from '@polychron/core';
import PostalMime from 'postal-mime';
import { findVersion } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { readMessageBytes } from '../reads/outbox.ts';
import { Refused } from '../refused.ts';
import { secretIn } from '../standins/mail.ts';
import { transact } from '../store/database.ts';
import type { LoadedDocument } from '../store/documents.ts';
import {
  findSecret,
  insertMessage,
  type KeptSecret,
  mailPerson,
  openRunOf,
  keepOutcome,
  markSecretUsed,
} from '../store/mail.ts';
import { messageOfAnswer } from './composeMail.ts';
import { perform } from './perform.ts';

/**
 * Decides by an answer to one of one's messages, as the reply box sends it.
 * @throws Refused `message-not-found`, `answer-unknown`, `answer-used`, `answer-late`, `answer-unclear`, or
 * what the decision is refused with
 */
export async function performAnswer(
  asker: Asker,
  messageId: string,
  text: string,
): Promise<contract.Answered> {
  const { context } = asker;
  const secret = await findSecret(context, { messageId });
  if (secret?.usedAt && secret.personId === asker.caller.id) throw used(secret.usedAt);
  await readMessageBytes(asker, messageId);
  if (!secret) throw noDecision();
  return { said: await takeAnswer(context, secret, text) };
}

const noDecision = (): Refused => {
  const reason =
    'Nothing can be decided by answering this. Look into the message that asks for your decision.';
  return new Refused(refuse('notFound', 'answer-unknown', reason));
};

/**
 * Takes in an answer that came as mail (RFC 5322): the address it went to says whose decision about which
 * version it is. What came of it is told its writer by mail, too.
 * @throws Refused as `performAnswer`
 */
export async function performIncomingMail(context: Context, raw: Buffer): Promise<contract.Answered> {
  // The head alone says whose it is; the rest of a stranger's is not read.
  const head = await PostalMime.parse(headOf(raw));
  const addresses = [...(head.to ?? []), ...(head.cc ?? [])].flatMap((one) =>
    'group' in one && one.group ? one.group : [one],
  );
  const told = [...addresses.map(({ address }) => address ?? ''), head.deliveredTo ?? ''];
  const hash = told.map(secretIn).find((found) => found !== null);
  const secret = hash ? await findSecret(context, { hash }) : null;
  if (!secret) throw noDecision();
  // Nobody is told: two programs would answer each other for ever (RFC 3834, 2).
  if (isAutomatic(head.headers)) throw automatic();
  const inReplyTo = head.messageId ?? null;
  try {
    const said = await takeAnswer(context, secret, (await PostalMime.parse(raw)).text ?? '');
    await tellWriter(context, secret, { said, isDone: true, inReplyTo });
    return { said };
  } catch (error) {
    if (error instanceof Refused) {
      const said = `Your answer changed nothing. ${error.refusal.reason}`;
      await tellWriter(context, secret, { said, isDone: false, inReplyTo });
    }
    throw error;
  }
}

/** The most of a message that its head may take, in bytes. */
const longestHead = 32 << 10;

/** The head of a message (RFC 5322, 2.1), up to the first empty line. */
function headOf(raw: Buffer): Buffer {
  const beginning = raw.subarray(0, longestHead);
  const end = /\r?\n\r?\n/.exec(beginning.toString('latin1'));
  return end ? beginning.subarray(0, end.index + end[0].length) : beginning;
}

const automatic = (): Refused => {
  const reason = 'A program wrote this answer, not a person. It decides nothing.';
  return new Refused(refuse('invalid', 'answer-automatic', reason));
};

async function tellWriter(
  context: Context,
  { personId, documentId, versionId }: KeptSecret,
  { said, isDone, inReplyTo }: { said: string; isDone: boolean; inReplyTo: string | null },
): Promise<void> {
  const person = await mailPerson(context, personId);
  if (!person || person.closed) return;
  const message = await messageOfAnswer(context, person, {
    said,
    // What changed nothing names no document: it is theirs to read whatever they see of that by now.
    about: isDone ? { documentId, versionId } : null,
    inReplyTo,
  });
  await transact(context.db, (tx) => insertMessage(context, message, tx));
  context.events.publish({ kind: 'notices', personIds: [personId] });
}

/** Characters of an answer that are kept beside the comment that was read from it. */
const longestKept = 20_000;

/** Does what an answer says, as the person it was asked of; answers, and keeps, what came of it. */
async function takeAnswer(context: Context, secret: KeptSecret, text: string): Promise<string> {
  const said = await decideBy(context, secret, text);
  await keepOutcome(context, secret.hash, said);
  return said;
}

async function decideBy(context: Context, secret: KeptSecret, text: string): Promise<string> {
  const answer = readAnswer(text);
  if (isRefusal(answer)) throw new Refused(answer);
  const person = await mailPerson(context, secret.personId);
  if (!person || person.closed) throw late();
  const caller = { ...person, systemAdministrator: false };
  // Before the document is looked for: what was decided may have taken it out of the writer's sight.
  if (secret.usedAt) throw used(secret.usedAt);
  const { decision } = answer;
  let label = '';
  let before: string | null = null;
  const { access } = await perform({ context, caller }, secret.documentId, async (on, now, tx) => {
    const kept = await findSecret(context, { hash: secret.hash }, tx);
    if (kept?.usedAt) throw used(kept.usedAt);
    const run = await openRunOf(context, secret.documentId, tx);
    if (run?.id !== secret.runId || run.versionId !== secret.versionId) throw late();
    const version = await findVersion({ context }, on, secret.versionId, tx);
    label = labelIn(on.document, version);
    before = on.document.inForce?.id ?? null;
    const outcome = decide(on.document, on.actor, { version, ...answer }, now);
    // Who is not ready yet answers once more.
    if (!isRefusal(outcome) && decision !== 'later') {
      await markSecretUsed(context, secret.hash, { at: now, text: text.slice(0, longestKept) }, tx);
    }
    return outcome;
  });
  const { document } = access;
  const named = `${document.number} ${label}`;
  if (decision === 'later') return `You put off ${named}; it still waits for you.`;
  if (decision === 'reject') return `You rejected ${named}.`;
  return `You approved ${named}. ${cameOf(document, before)}`.trim();
}

/** What an approval came to: who is asked next, or how the version stands then. */
function cameOf(document: LoadedDocument, before: string | null): string {
  const { approval, inForce, scheduled, latest } = document;
  const asked = approval ? waitingFor(approval).map(({ name }) => name) : [];
  if (asked.length > 0) return `${asked.join(', ')} decides next.`;
  if (latest.state === 'approved') return 'It can be published.';
  if (inForce && inForce.id !== before) return `${labelIn(document, inForce)} is in force.`;
  const next = scheduled.at(-1);
  return next?.inForceFrom
    ? `${labelIn(document, next)} comes into force at ${momentWords(next.inForceFrom)}.`
    : '';
}

const used = (at: Date): Refused => {
  const reason = `This was decided by an answer already, on ${momentWords(at)}. An address to answer to is good for one decision.`;
  return new Refused(refuse('conflict', 'answer-used', reason, { at: at.toISOString() }));
};
const late = (): Refused => {
  const reason =
    'The answer comes too late: what it is about is decided, was taken back, or is not asked of you any more.';
  return new Refused(refuse('conflict', 'answer-late', reason));
};

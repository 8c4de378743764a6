import type * as contract from '@polychron/contract';
import {
  type Charge,
  charges,
  dateWords,
  isUnnumbered,
  momentWords,
  numberWords,
  reviewState,
} from '@polychron/core';
import type { Asker, Caller } from '../access/caller.ts';
import { type Page, partOf, readNumberCursor } from '../store/cursors.ts';
import type { NoticeKind, NoticeRow } from '../store/models.ts';
import { documentsToldOf, findNotices } from '../store/notices.ts';
import { documentNames } from './documentNames.ts';

/**
 * Notices of one person, newest first. Those about documents they do not see any more are neither told nor
 * counted.
 */
export async function listNotices(asker: Asker, page: Page): Promise<contract.NoticeList> {
  const { context, caller } = asker;
  const documents = await documentNames(asker, await documentsToldOf(context, caller.id));
  const of = { personId: caller.id, documentIds: [...documents.keys()] };
  const part = { before: readNumberCursor(page.cursor), count: page.limit + 1 };
  const { found, total, unread } = await findNotices(context, of, part);
  const { shown, next } = partOf(found, page.limit, ({ id }) => String(id));
  const items = shown.flatMap((notice) => {
    const name = documents.get(notice.documentId)?.name;
    return name ? [noticeView(notice, name, { to: caller, now: context.clock() })] : [];
  });
  return { items, next, total, unread };
}

const chargeWords: Record<Charge, string> = {
  owns: 'own it now',
  coAuthors: 'are a co-author',
  approves: 'are named as approver',
  decides: 'are asked to decide',
  holds: 'hold it, with what was saved',
  setAside: 'have a copy set aside on your Desk',
};
const decidedWords: Record<string, string> = { approve: 'approved', reject: 'rejected' };
const isCharge = (name: string): name is Charge => (charges as readonly string[]).includes(name);

/** What an approval came to: in force, in force later, or left to be published. */
function cameOf(published: string | null | undefined, inForceFrom: string | null | undefined): string {
  if (!published) return 'It can be published.';
  if (!inForceFrom) return `${published} is in force.`;
  return `${published} comes into force at ${momentWords(inForceFrom)}.`;
}

type Facts = NoticeRow['facts'];
const texts: Record<
  NoticeKind,
  (number: string, facts: Facts, caller: Pick<Caller, 'id'>, now: Date) => string
> = {
  overdue: (number, facts, caller) =>
    facts['holderId'] === caller.id
      ? `Your check-out of ${number} is overdue.`
      : `${facts['holder']}'s check-out of ${number} is overdue.`,
  lifted: (number, { by, reason, setAside }) => {
    const aside = setAside ? ' Your working copy is set aside on your Desk.' : '';
    return `${by} lifted your check-out of ${number}: “${reason}”.${aside}`;
  },
  rejected: (number, { by, label, comment }) => `${by} rejected ${number} ${label ?? ''}: “${comment}”.`,
  approved: (number, { by, label, comment, published, inForceFrom }) => {
    const words = comment ? `: “${comment}”` : '';
    return `${by} approved ${number} ${label ?? ''}${words}. ${cameOf(published, inForceFrom)}`;
  },
  withdrawn: (number, { by, label, reason, inForce }) =>
    `${by} withdrew ${number} ${label ?? ''}: “${reason}”. ${inForce ? `${inForce} is` : 'Nothing is'} in force.`,
  reinstated: (number, { by, label, reason, withdrawn }) =>
    `${by} put ${number} ${label ?? ''} back in force: “${reason}”.${withdrawn ? ` Withdrawn: ${withdrawn}.` : ''}`,
  reviewed: (number, { by, label, outcome, comment, nextBy }) => {
    const words = comment ? `: “${comment}”` : '';
    if (outcome === 'opened') return `${by} reviewed ${number} ${label ?? ''}: it is to be changed${words}.`;
    return `${by} reviewed ${number} ${label ?? ''}: confirmed${words}. ${nextBy ? `Next by ${dateWords(nextBy)}.` : ''}`.trim();
  },
  reviewDue: (number, { by }, _, now) =>
    reviewState(by ?? null, now) === 'passed'
      ? `${number} was due for review on ${dateWords(by ?? '')}.`
      : `${number} is to be reviewed by ${dateWords(by ?? '')}.`,
  handedOver: (number, { by, from, what }) => {
    const now = (what ?? '').split(' ').flatMap((charge) => (isCharge(charge) ? [chargeWords[charge]] : []));
    return `${by} handed over to you what ${from} answered for in ${number}: you ${now.join(', ')}.`;
  },
  replaced: (number, { by, to, label, reason }) =>
    `${by} put ${to} in your place for ${number} ${label ?? ''}: “${reason}”. It no longer waits for you.`,
  putInPlace: (number, { by, from, label, reason, asked }) => {
    const when =
      asked === 'now'
        ? 'It waits for your decision now.'
        : 'You are asked once those before you have approved.';
    return `${by} put you in the place of ${from} for ${number} ${label ?? ''}: “${reason}”. ${when}`;
  },
  decidedForYou: (number, { by, label, decision, comment }) =>
    `${by} ${decidedWords[decision ?? ''] ?? 'decided about'} ${number} ${label ?? ''} in the place of those asked: “${comment}”. It no longer waits for you.`,
  published: (number, { label, comment }) =>
    `${number} ${label ?? ''} is in force${comment ? `: “${comment}”` : ''}.`,
  toRead: (number, { label, comment }) =>
    `${number} ${label ?? ''} is in force and for you to read${comment ? `: “${comment}”` : ''}. Confirm that you have.`,
  toReadStill: (number, { by, label }) =>
    `${by} reminds you to read ${number} ${label ?? ''} and to confirm it.`,
  toFinish: (number, { saves, minor, major }) => {
    const times = saves === '1' ? 'once' : `${saves} times`;
    const becomes = minor ? `${minor} or ${major}` : major;
    const dropped = saves === '1' ? '1 save' : `${saves} saves`;
    return `${number} was saved ${times} and closed in its program. Decide on your Desk: check in as ${becomes}, go on later, or give back and drop ${dropped}.`;
  },
  toDecide: (number, { by, label }) =>
    `${number} ${label ?? ''}, submitted by ${by}, waits for your decision.`,
};

/** What a notice says to whom it was sent. */
export function noticeText(
  { kind, facts }: Pick<NoticeRow, 'kind' | 'facts'>,
  number: string,
  { to, now }: { to: Pick<Caller, 'id'>; now: Date },
): string {
  return texts[kind](number, spoken(facts), to, now)
    .replace(/ {2,}/g, ' ')
    .replace(/ (?=[.:])/g, '');
}

/** A version without a number is named by its document alone, or is the current one. */
const spoken = (facts: Facts): Facts =>
  Object.fromEntries(
    Object.entries(facts).map(([name, value]) => {
      if (!value || !isUnnumbered(value)) return [name, value];
      return [name, name === 'label' ? '' : numberWords(value)];
    }),
  );

function noticeView(
  { id, kind, at, facts, readAt }: NoticeRow,
  document: contract.Notice['document'],
  about: { to: Caller; now: Date },
): contract.Notice {
  const text = noticeText({ kind, facts }, document.number, about);
  return { id: String(id), kind, at: at.toISOString(), document, text, read: readAt !== null };
}

import type * as contract from '@polychron/contract';
import { namesOnPath } from '@polychron/contract';
import { refuse, reviewState, type Rulebook } from '@polychron/core';
import { accessLibrary } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { accessesAsOf, lookingBackIn, type LookingBackIn } from '../access/lookingBack.ts';
import { Refused } from '../refused.ts';
import { type Page, readCursor, writeCursor } from '../store/cursors.ts';
import { rulesAsOf } from '../store/past.ts';
import { documentsThen, documentsWithWords, type SoughtThen } from '../store/pastRegister.ts';
import { loadRules } from '../store/rules.ts';
import { documentViews } from './documentView.ts';

/** A library looked at as it was. */
export interface LibraryThen {
  libraryId: string;
  viewers: LookingBackIn;
  /** The rules then, and now. */
  rules: { then: Rulebook; now: Rulebook };
  at: Date;
}

/** A library as it was at a moment, for the caller. @throws Refused `library-not-found` */
export async function libraryThen(asker: Asker, libraryId: string, at: Date): Promise<LibraryThen> {
  await accessLibrary(asker, libraryId);
  const { context } = asker;
  const [viewers, past, now] = await Promise.all([
    lookingBackIn(asker, libraryId, at),
    rulesAsOf(context, [libraryId], at),
    loadRules(context, libraryId),
  ]);
  return { libraryId, at, viewers, rules: { then: past.get(libraryId) ?? now, now } };
}

/** A part of a list of documents as they were, by number. */
interface PartThen<T> {
  items: T[];
  next: string | null;
  /** How many there are up to here: at least, where there are more. */
  total: number;
  about: boolean;
}

/** Most documents that are looked at together. */
const mostAtOnce = 400;

/** The Register of a library as it was, for the caller. @throws Refused `as-of-order` */
export async function readRegisterAsOf(
  asker: Asker,
  libraryId: string,
  { query, at }: { query: contract.DocumentQuery; at: Date },
): Promise<contract.DocumentList> {
  if (query.sort !== 'number') {
    const reason = 'As of an earlier moment documents are told by number. Leave the order out.';
    throw new Refused(refuse('invalid', 'as-of-order', reason));
  }
  const library = await libraryThen(asker, libraryId, at);
  const { q, state, owner, heldBy, overdue, voided } = query;
  const names = query.path === undefined ? [] : namesOnPath(query.path);
  const subject = query.subject ?? names[0];
  const held = overdue === true || (heldBy !== undefined && heldBy !== 'nobody');
  return collectThen(
    asker,
    library,
    { sought: { q, subject, state, owner, held, voided }, page: query },
    async (accesses) => {
      const meant = await withWords(asker, accesses, q, ({ past }) => [...(past?.seen.keys() ?? [])]);
      const views = await documentViews(asker.context, meant);
      return views
        .filter((view) => isMeant(view, query, { names, me: asker.caller.account, at }))
        .map((item) => ({ number: item.number, item }));
    },
  );
}

/** Those of which some version has the words. */
export async function withWords(
  { context }: Asker,
  accesses: readonly Access[],
  q: string | undefined,
  versionsOf: (access: Access) => string[],
): Promise<readonly Access[]> {
  if (q === undefined || q === '') return accesses;
  const having = await documentsWithWords(context, accesses.flatMap(versionsOf), q);
  return accesses.filter(({ document: { id } }) => having.has(id));
}

/** Whether the subjects begin with these names. */
export const isOnPath = (subject: readonly string[] = [], names: readonly string[]): boolean =>
  names.every((name, place) => subject[place] === name);

const isDue = (review: 'due' | 'passed', state: ReturnType<typeof reviewState>): boolean =>
  review === 'due' ? state !== 'none' : state === review;

/** Whether a document as it was passes the filters that words and subjects leave. */
function isMeant(
  { latest, owner, custody, fields, reviewBy }: contract.Document,
  { state, heldBy, owner: asked, subject, overdue, review }: contract.DocumentQuery,
  { names, me, at }: { names: readonly string[]; me: string; at: Date },
): boolean {
  const holder = custody?.holder.account ?? 'nobody';
  const held = heldBy === 'me' ? me : heldBy;
  return (
    (state === undefined || latest.state === state) &&
    (asked === undefined || owner.account === asked) &&
    (held === undefined || (held === 'anyone' ? custody !== null : holder === held)) &&
    (!overdue || custody?.overdue === true) &&
    (review === undefined || isDue(review, reviewState(reviewBy, at))) &&
    (subject === undefined || (fields.subject ?? []).includes(subject)) &&
    isOnPath(fields.subject, names)
  );
}

/** Collects a part of the documents of a library as they were, by number, until it is full. */
export async function collectThen<T>(
  asker: Asker,
  { libraryId, viewers, rules, at }: LibraryThen,
  { sought, page }: { sought: Omit<SoughtThen, 'at' | 'then' | 'now'>; page: Page },
  tell: (accesses: readonly Access[]) => Promise<{ number: string; item: T }[]>,
): Promise<PartThen<T>> {
  const { limit } = page;
  const [begun = '', told = '0'] = readCursor(page.cursor, 2) ?? [];
  const found: { number: string; item: T }[] = [];
  const then = { viewer: viewers.then, rules: rules.then };
  const whole = { ...sought, at, then, now: { viewer: viewers.now, rules: rules.now } };
  // Mostly all that may be meant are; where they are not, more are looked at.
  let count = limit + 1;
  for (let after: string | undefined = begun; after !== undefined && found.length <= limit;) {
    const documents = await documentsThen(asker.context, libraryId, whole, { after, count });
    const ids = documents.map(({ id }) => id);
    const accesses = await accessesAsOf(asker, ids, viewers, at);
    found.push(...(await tell(ids.flatMap((id) => accesses.get(id) ?? []))));
    after = documents[count - 1]?.number;
    count = Math.min(2 * count, mostAtOnce);
  }
  const shown = found.slice(0, limit);
  const last = found.length > limit ? shown.at(-1) : undefined;
  const total = (Number(told) || 0) + shown.length;
  return {
    items: shown.map(({ item }) => item),
    next: last ? writeCursor([last.number, String(total)]) : null,
    total: last ? total + 1 : total,
    about: last !== undefined,
  };
}

import { type Charge, handOver, may, refuse } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { accepted, Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { lockDocument } from '../store/documents.ts';
import { rolesOf } from '../store/members.ts';
import { findPerson } from '../store/people.ts';
import type { Store } from '../store/store.ts';
import { heldRoles, type Stranded, strandedWork } from '../store/stranded.ts';
import { handOverOf } from './handOverDocuments.ts';
import { Following, publish } from './perform.ts';

/** Documents that are handed over in one act; more are handed over part by part, or by closing an account. */
const mostHanded = 200;

/** What of the work of people who lose roles by a change nobody could go on with; one more than is handed. */
export async function strandedBy(
  store: Store,
  libraryIds: readonly string[],
  tx: Tx,
  change: () => Promise<void>,
): Promise<Stranded[]> {
  const before = await heldRoles(store, libraryIds, tx);
  await change();
  const after = await heldRoles(store, libraryIds, tx);
  const lost = [...before].filter((held) => !after.has(held));
  const personIds = [...new Set(lost.map((held) => held.split(' ')[1] ?? ''))];
  return strandedWork(store, { libraryIds, personIds, count: mostHanded + 1 }, tx);
}

/** A change of members or groups: of whose libraries, how it is made, and who takes over what it leaves. */
interface Change {
  libraryIds: readonly string[];
  make: () => Promise<void>;
  handOverTo: string | undefined;
}

/**
 * Makes a change of members or groups that leaves no work to nobody: a decision that is waited for, a
 * check-out, a document that somebody answers for go to whoever is named. Returns what tells of it, once it
 * is kept.
 * @throws Refused `work-left` where nobody is named, `successor-unfit`, `account-unknown`
 */
export async function keepingWork(
  asker: Asker,
  { libraryIds, make, handOverTo }: Change,
  tx: Tx,
): Promise<() => void> {
  const { context } = asker;
  const left = await strandedBy(context, libraryIds, tx, make);
  if (left.length === 0) return () => undefined;
  if (handOverTo === undefined || left.length > mostHanded)
    throw workLeft(left, await seenBy(asker, left, tx));
  const to = await findPerson(context, handOverTo);
  if (!to || to.closedAt !== null) {
    const reason = `There is no open account ${handOverTo} to hand over to.`;
    throw new Refused(refuse('invalid', 'account-unknown', reason, { account: handOverTo }));
  }
  const roles = await rolesOf(context, libraryIds, [to.id], tx);
  const told: Following[] = [];
  for (const [one, only] of byDocument(left)) {
    const document = await lockDocument(context, one.documentId, tx);
    if (!document) throw new Error(`${one.number} has gone`);
    const handing = { from: { id: one.personId, name: one.name }, to, by: asker.caller.name };
    const given = handOverOf(document, handing, roles.get(`${one.libraryId} ${to.id}`) ?? new Set());
    const now = context.clock();
    const following = new Following(context, document, now, tx);
    await following.keep(accepted(handOver(document, { ...given, only }, now)), asker.caller.id);
    told.push(following);
  }
  return () => {
    for (const following of told) publish(context, following.document, following.told);
  };
}

/** What of each document is somebody's, with one of it. */
function byDocument(left: readonly Stranded[]): Iterable<[Stranded, Charge[]]> {
  const found = new Map<string, [Stranded, Charge[]]>();
  for (const one of left) {
    const key = `${one.documentId} ${one.personId}`;
    const [first, works] = found.get(key) ?? [one, []];
    found.set(key, [first, [...works, one.work]]);
  }
  return found.values();
}

/** Libraries of which the caller may be told every document: whoever only makes accounts sees none. */
async function seenBy(
  { context, caller }: Asker,
  left: readonly Stranded[],
  tx: Tx,
): Promise<ReadonlySet<string>> {
  const ids = [...new Set(left.map(({ libraryId }) => libraryId))];
  const roles = await rolesOf(context, ids, [caller.id], tx);
  return new Set(ids.filter((id) => may(roles.get(`${id} ${caller.id}`) ?? new Set(), 'seeLimited')));
}

function workLeft(left: readonly Stranded[], seen: ReadonlySet<string>): Refused {
  const [first] = left as [Stranded];
  const { work, name, number, libraryId } = first;
  const documents = left.filter((one) => one.work === work && one.name === name).length;
  const counted = documents === 1 ? 'a document' : `${documents} documents`;
  const named = documents === 1 ? number : `${number} and ${documents - 1} more`;
  const which = seen.has(libraryId) ? named : counted;
  const facts = { person: name, documents, takesOver: left.length <= mostHanded };
  return new Refused(refuse('conflict', 'work-left', `${name} ${sentences[work](which)}`, facts));
}

const sentences: Record<Stranded['work'], (which: string) => string> = {
  decides: (which) =>
    `is asked to decide about ${which} and could not any more. Name who takes over, or keep the role.`,
  holds: (which) => `holds ${which} and could not check in any more. Name who takes over, or keep the role.`,
  owns: (which) => `answers for ${which} and would be no member. Name who takes over, or keep a role.`,
};

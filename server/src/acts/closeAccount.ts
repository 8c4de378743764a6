import type * as contract from '@polychron/contract';
import { type Charge, charges, chargesOf, handOver, isRefusal, refuse, type Role } from '@polychron/core';
import { requireAdministrator } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { personViewOf, requirePerson } from '../reads/people.ts';
import { Refused } from '../refused.ts';
import { documentsCharged } from '../store/charges.ts';
import { transact } from '../store/database.ts';
import { loadDocuments, lockDocument, type LoadedDocument } from '../store/documents.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import { libraryNames } from '../store/libraries.ts';
import { librariesManagedBy, libraryWithoutManager, rolesOf } from '../store/members.ts';
import type { PersonRow } from '../store/models.ts';
import { findPerson, setClosed } from '../store/people.ts';
import { deleteSignIns, signInsOf } from '../store/sessions.ts';
import { Following, publish } from './perform.ts';
import { refuseUnmanaged } from './setMembers.ts';

/** Documents looked at together while it is worked out what there is to hand over. */
const stride = 100;

/** An account to be closed, and who takes over what its holder answers for. */
interface Closing {
  person: PersonRow;
  successor: PersonRow | null;
}

/**
 * Closes an account, opens it again, or says what closing it would do. Who closes it ends its sessions and
 * tokens and hands over what its holder answers for; nothing is done where the successor could not take
 * all of it. What is not handed over because the server was stopped amid it is, when the account is closed
 * once more.
 * @throws Refused `not-administrator`, `person-not-found`, `own-account`, `account-unknown`, `hand-over-
 * wanted`, `successor-unfit`, `last-controller`
 */
export async function performChangePerson(
  asker: Asker,
  name: string,
  wanted: contract.PersonChange,
): Promise<contract.ChangedPerson> {
  const { context, caller } = asker;
  requireAdministrator(caller, 'Accounts are closed and opened');
  const person = await requirePerson(context, name);
  if (!wanted.closed) {
    if (!wanted.rehearse) await open(asker, person);
    return answer(context, person.id, nothingEnds);
  }
  if (person.id === caller.id) {
    const reason = 'You cannot close your own account. Ask another system administrator.';
    throw new Refused(refuse('conflict', 'own-account', reason));
  }
  const closing = { person, successor: await successorOf(context, person, wanted.handOverTo) };
  const ends = await whatEnds(asker, closing);
  if (wanted.rehearse) return answer(context, person.id, ends);
  refuseUnready(closing, ends);
  if (person.closedAt === null) await close(asker, closing);
  await handOverAll(asker, closing);
  return answer(context, person.id, ends);
}

type Ends = Omit<contract.ChangedPerson, 'person'>;
const nothingEnds: Ends = { handOver: [], sessions: 0, tokens: 0, unmanaged: null };

const answer = async (context: Context, id: string, ends: Ends): Promise<contract.ChangedPerson> => ({
  person: await personViewOf(context, id),
  ...ends,
});

async function successorOf(
  context: Context,
  person: PersonRow,
  account: string | undefined,
): Promise<PersonRow | null> {
  if (account === undefined) return null;
  const found = await findPerson(context, account);
  if (found && found.closedAt === null && found.id !== person.id) return found;
  const reason = `There is no other open account ${account} to hand over to.`;
  throw new Refused(refuse('invalid', 'account-unknown', reason, { account }));
}

/** What closing the account ends, by library. */
async function whatEnds({ context, caller }: Asker, closing: Closing): Promise<Ends> {
  const { person, successor } = closing;
  const charged = await documentsCharged(context, person.id);
  const libraryIds = [...new Set(charged.map(({ libraryId }) => libraryId))];
  const roles = successor ? await rolesOf(context, libraryIds, [successor.id]) : new Map<string, Set<Role>>();
  const names = await libraryNames(context, libraryIds);
  const sums = new Map(libraryIds.map((id) => [id, new Sum()]));
  for (let from = 0; from < charged.length; from += stride) {
    const ids = charged.slice(from, from + stride).map(({ id }) => id);
    for (const document of (await loadDocuments(context, ids)).values()) {
      const held = roles.get(`${document.libraryId} ${successor?.id}`) ?? new Set();
      sums
        .get(document.libraryId)
        ?.add(document, command(document, closing, held, caller.name), context.clock());
    }
  }
  const managed = await librariesManagedBy(context, person.id);
  return {
    handOver: libraryIds.flatMap((id) => {
      const sum = sums.get(id);
      const library = names.get(id);
      return sum && library ? [{ library, ...sum.counts, refusals: successor ? sum.refusals : [] }] : [];
    }),
    ...(await signInsOf(context, person.id, context.clock())),
    unmanaged: (await libraryWithoutManager(context, managed, { without: person.id })) ?? null,
  };
}

/** What of a library's documents is to be handed over, and what of it the successor could not take. */
class Sum {
  readonly counts = Object.fromEntries(charges.map((charge) => [charge, 0])) as Record<Charge, number>;
  private readonly refused = new Map<string, number>();

  add(document: LoadedDocument, given: ReturnType<typeof command>, now: Date): void {
    for (const charge of chargesOf(document, given)) this.counts[charge] += 1;
    const outcome = handOver(document, given, now);
    if (isRefusal(outcome)) this.refused.set(outcome.reason, (this.refused.get(outcome.reason) ?? 0) + 1);
  }

  get refusals(): { detail: string; documents: number }[] {
    return [...this.refused].map(([detail, documents]) => ({ detail, documents }));
  }
}

function command(document: LoadedDocument, closing: Closing, roles: ReadonlySet<Role>, by: string) {
  const { person, successor } = closing;
  return {
    from: { id: person.id, name: person.name },
    to: { id: successor?.id ?? '', name: successor?.name ?? '', roles },
    ownApproverIds: document.ownApproverIds,
    asideBases: document.setAside.flatMap(({ personId, base }) => (personId === person.id ? [base] : [])),
    by,
  };
}

function refuseUnready({ person, successor }: Closing, { handOver: parts, unmanaged }: Ends): void {
  if (unmanaged !== null) {
    const reason = `${unmanaged} would have no controller without ${person.name}. Name another first.`;
    throw new Refused(refuse('conflict', 'last-controller', reason, { library: unmanaged }));
  }
  if (parts.length > 0 && !successor) {
    const libraries = parts.map(({ library }) => library.name);
    const reason = `${person.name} answers for documents in ${libraries.join(', ')}. Say who takes over (handOverTo).`;
    throw new Refused(refuse('conflict', 'hand-over-wanted', reason, { libraries }));
  }
  const unfit = parts.find(({ refusals }) => refusals.length > 0);
  if (!unfit) return;
  const reason = `In ${unfit.library.name}: ${unfit.refusals.map(({ detail }) => detail).join(' ')} Nothing was changed.`;
  throw new Refused(refuse('conflict', 'successor-unfit', reason, { library: unfit.library.name }));
}

async function close({ context, caller }: Asker, { person, successor }: Closing): Promise<void> {
  await transact(context.db, async (tx) => {
    const managed = await librariesManagedBy(context, person.id, tx);
    const at = context.clock();
    await setClosed(context, person.id, at, tx);
    await deleteSignIns(context, person.id, tx);
    await refuseUnmanaged(context, managed, tx);
    const facts = { account: person.account, handOverTo: successor?.account ?? null };
    await appendLedger(context, { ...ofSite, at, personId: caller.id, act: 'closeAccount', facts }, tx);
  });
  context.events.publish({ kind: 'signIns', personId: person.id });
}

async function open({ context, caller }: Asker, person: PersonRow): Promise<void> {
  await transact(context.db, async (tx) => {
    await setClosed(context, person.id, null, tx);
    const facts = { account: person.account };
    const entry = { ...ofSite, at: context.clock(), personId: caller.id, act: 'openAccount', facts };
    await appendLedger(context, entry, tx);
  });
}

/** Hands over document by document, each in a transaction of its own. */
async function handOverAll(asker: Asker, closing: Closing): Promise<void> {
  const { context, caller } = asker;
  const { person, successor } = closing;
  if (!successor) return;
  for (const { id, libraryId } of await documentsCharged(context, person.id)) {
    const following = await transact(context.db, async (tx) => {
      const now = context.clock();
      const document = await lockDocument(context, id, tx);
      if (!document) return null;
      const held = (await rolesOf(context, [libraryId], [successor.id], tx)).get(
        `${libraryId} ${successor.id}`,
      );
      const outcome = handOver(document, command(document, closing, held ?? new Set(), caller.name), now);
      // Somebody else has dealt with it since it was looked at.
      if (isRefusal(outcome)) return null;
      const kept = new Following(context, document, now, tx);
      await kept.keep(outcome, caller.id);
      return kept;
    });
    if (following) publish(context, following.document, following.told);
  }
}

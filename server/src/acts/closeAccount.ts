import type * as contract from '@polychron/contract';
import {
  type Charge,
  charges,
  chargesOf,
  handOver,
  type HandOver,
  isRefusal,
  refuse,
  type Role,
} from '@polychron/core';
import { requireAdministrator } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import type { Context } from '../context.ts';
import { personViewOf, requirePerson } from '../reads/people.ts';
import { Refused } from '../refused.ts';
import { documentsCharged } from '../store/charges.ts';
import { transact } from '../store/database.ts';
import { loadDocuments, type LoadedDocument } from '../store/documents.ts';
import { queueHandOver } from '../store/jobs.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import { libraryNames } from '../store/libraries.ts';
import { librariesManagedBy, libraryWithoutManager, rolesOf } from '../store/members.ts';
import type { PersonRow } from '../store/models.ts';
import { findPerson, setClosed } from '../store/people.ts';
import { deleteSignIns, signInsOf } from '../store/sessions.ts';
import { handOverOf, runHandOverNow } from './handOverDocuments.ts';
import { refuseUnmanaged } from './setMembers.ts';

/** Documents looked at together while it is worked out what there is to hand over. */
const stride = 100;
/** So many documents are handed over before it is answered; more go on after it, as a job. */
const atOnce = 40;
/** Takes over while nobody is named. */
const nobodyYet = { id: '', name: '' };

/** An account to be closed, and who takes over what its holder answers for. */
interface Closing {
  person: PersonRow;
  successor: PersonRow | null;
}

/**
 * Closes an account, opens it again, or says what closing it would do. Who closes it ends its sessions and
 * tokens and hands over what its holder answers for; nothing is done where the successor could not take
 * all of it. Where there is much to hand over it goes on after the answer.
 * @throws Refused `not-administrator`, `person-not-found`, `own-account`, `account-unknown`, `hand-over-
 * wanted`, `successor-unfit`, `last-controller`, `handing-over`
 */
export async function performChangePerson(
  asker: Asker,
  name: string,
  wanted: contract.PersonChange,
): Promise<contract.ChangedPerson> {
  const { context, caller } = asker;
  requireAdministrator(caller, 'Accounts are closed and opened');
  const person = await requirePerson(context, name);
  if (!wanted.rehearse) await refuseUnderWay(context, person);
  if (!wanted.closed) {
    if (!wanted.rehearse) await open(asker, person);
    return answer(context, person.id, nothingEnds);
  }
  if (person.id === caller.id) {
    const reason = 'You cannot close your own account. Ask another system administrator.';
    throw new Refused(refuse('conflict', 'own-account', reason));
  }
  const closing = { person, successor: await successorOf(context, person, wanted.handOverTo) };
  const { ends, documents } = await whatEnds(asker, closing);
  if (wanted.rehearse) return answer(context, person.id, ends);
  refuseUnready(closing, ends);
  const job = await close(asker, closing);
  if (job !== null) await (documents <= atOnce ? runHandOverNow(context, job) : context.wake());
  return answer(context, person.id, ends);
}

type Ends = Omit<contract.ChangedPerson, 'person'>;
const nothingEnds: Ends = { handOver: [], sessions: 0, tokens: 0, unmanaged: null };

const answer = async (context: Context, id: string, ends: Ends): Promise<contract.ChangedPerson> => ({
  person: await personViewOf(context, id),
  ...ends,
});

/** Refuses a change of an account whose documents are being handed over. @throws Refused `handing-over` */
async function refuseUnderWay(context: Context, { id, name }: PersonRow): Promise<void> {
  const { handingOver } = await personViewOf(context, id);
  if (handingOver === null) return;
  const reason = `What ${name} answers for is being handed over. Wait until that is done.`;
  throw new Refused(refuse('conflict', 'handing-over', reason, { job: handingOver }));
}

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
async function whatEnds(
  { context, caller }: Asker,
  closing: Closing,
): Promise<{ ends: Ends; documents: number }> {
  const { person, successor } = closing;
  const charged = await documentsCharged(context, person.id);
  const libraryIds = [...new Set(charged.map(({ libraryId }) => libraryId))];
  const roles = successor ? await rolesOf(context, libraryIds, [successor.id]) : new Map<string, Set<Role>>();
  const names = await libraryNames(context, libraryIds);
  const sums = new Map(libraryIds.map((id) => [id, new Sum()]));
  const handing = { from: person, to: successor ?? nobodyYet, by: caller.name };
  for (let from = 0; from < charged.length; from += stride) {
    const ids = charged.slice(from, from + stride).map(({ id }) => id);
    for (const document of (await loadDocuments(context, ids)).values()) {
      const held = roles.get(`${document.libraryId} ${successor?.id}`) ?? new Set();
      const given = handOverOf(document, handing, held);
      sums.get(document.libraryId)?.add(document, given, context.clock());
    }
  }
  const managed = await librariesManagedBy(context, person.id);
  const ends = {
    handOver: libraryIds.flatMap((id) => {
      const sum = sums.get(id);
      const library = names.get(id);
      return sum && library ? [{ library, ...sum.counts, refusals: successor ? sum.refusals : [] }] : [];
    }),
    ...(await signInsOf(context, person.id, context.clock())),
    unmanaged: (await libraryWithoutManager(context, managed, { without: person.id })) ?? null,
  };
  return { ends, documents: charged.length };
}

/** What of a library's documents is to be handed over, and what of it the successor could not take. */
class Sum {
  readonly counts = Object.fromEntries(charges.map((charge) => [charge, 0])) as Record<Charge, number>;
  private readonly refused = new Map<string, number>();

  add(document: LoadedDocument, given: HandOver, now: Date): void {
    for (const charge of chargesOf(document, given)) this.counts[charge] += 1;
    const outcome = handOver(document, given, now);
    if (isRefusal(outcome)) this.refused.set(outcome.reason, (this.refused.get(outcome.reason) ?? 0) + 1);
  }

  get refusals(): { detail: string; documents: number }[] {
    return [...this.refused].map(([detail, documents]) => ({ detail, documents }));
  }
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

/**
 * Closes the account where it is open, and queues what is to be handed over: the job, or null without a
 * successor.
 */
async function close({ context, caller }: Asker, { person, successor }: Closing): Promise<string | null> {
  const job = await transact(context.db, async (tx) => {
    const managed = await librariesManagedBy(context, person.id, tx);
    const at = context.clock();
    if (person.closedAt === null) {
      await setClosed(context, person.id, { closed: true, at }, tx);
      await deleteSignIns(context, person.id, tx);
      await refuseUnmanaged(context, managed, tx);
      const facts = { account: person.account, handOverTo: successor?.account ?? null };
      await appendLedger(context, { ...ofSite, at, personId: caller.id, act: 'closeAccount', facts }, tx);
    }
    if (!successor) return null;
    const people = { fromId: person.id, toId: successor.id, byId: caller.id };
    return queueHandOver(context, people, at, tx);
  });
  context.events.publish({ kind: 'signIns', personId: person.id });
  return job;
}

async function open({ context, caller }: Asker, person: PersonRow): Promise<void> {
  await transact(context.db, async (tx) => {
    const at = context.clock();
    await setClosed(context, person.id, { closed: false, at }, tx);
    const facts = { account: person.account };
    const entry = { ...ofSite, at, personId: caller.id, act: 'openAccount', facts };
    await appendLedger(context, entry, tx);
  });
}

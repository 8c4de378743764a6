import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import { v7 as newId } from 'uuid';
import { requireAdministrator } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { noPassword } from '../access/passwords.ts';
import type { Claims } from '../access/provider.ts';
import { openSession, type OpenedSession } from '../access/sessions.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { isDuplicate, transact, type Tx } from '../store/database.ts';
import {
  groupsOfPerson,
  idsByName,
  keepGroup,
  librariesOfGroup,
  lockGroup,
  peopleOfGroup,
} from '../store/groups.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import { libraryWithoutManager } from '../store/members.ts';
import { findPerson, insertPerson } from '../store/people.ts';
import { insertIdentity, keepProviderMapping, personOfIdentity, providerMapping } from '../store/provider.ts';
import { strandedBy } from './keepWork.ts';

/**
 * Signs in whoever a provider of identities vouches for: the account of the identity, else one that the
 * mapping lets them have; the mapped groups follow the claims.
 * @throws Refused `claims-unfit`, `account-unmapped`, `account-taken`, `account-closed`
 */
export async function signInByProvider(context: Context, told: Claims): Promise<OpenedSession> {
  requireFit(told);
  const personId = await again(() =>
    transact(context.db, async (tx) => {
      const mapping = await providerMapping(context, tx);
      const found =
        (await personOfIdentity(context, told, tx)) ?? (await firstSignIn(context, told, mapping, tx));
      await followGroups(context, { personId: found, told, mapping }, tx);
      return found;
    }),
  );
  return openSession(context, personId, { by: told.issuer });
}

/** Does it again where another made the same account, identity or group just then: it is there now. */
async function again<T>(work: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries += 1) {
    try {
      return await work();
    } catch (error) {
      if (!isDuplicate(error) || tries === 5) throw error;
    }
  }
}

/** A subject is of at most 255 ASCII signs (OpenID Connect Core 1.0, 2). @throws Refused `claims-unfit` */
function requireFit({ subject, issuer }: Claims): void {
  if (/^[\x20-\x7e]{1,255}$/.test(subject) && /^[\x20-\x7e]{1,300}$/.test(issuer)) return;
  const reason = 'The claim sub names nobody who can be told apart here. Ask a system administrator.';
  throw new Refused(refuse('forbidden', 'claims-unfit', reason, { claim: 'sub' }));
}

/** The account of somebody who comes for the first time. */
async function firstSignIn(
  context: Context,
  { issuer, subject, claims }: Claims,
  mapping: contract.ProviderMapping,
  tx: Tx,
): Promise<string> {
  const account = accountIn(claims, mapping);
  const present = await findPerson(context, account, tx);
  const at = context.clock();
  if (present && !mapping.linkAccounts) {
    const reason = `There is an account ${account} already, and it is not yours yet. Ask a system administrator.`;
    throw new Refused(refuse('forbidden', 'account-taken', reason, { account }));
  }
  if (!present && !mapping.makeAccounts) {
    const reason = `There is no account ${account} here. Ask a system administrator.`;
    throw new Refused(refuse('forbidden', 'account-unmapped', reason, { account }));
  }
  const made = { account, name: nameIn(claims) ?? account, passwordHash: noPassword, createdAt: at };
  const personId = present?.id ?? (await insertPerson(context, { ...made, systemAdministrator: false }, tx));
  await insertIdentity(context, { issuer, subject, personId, at }, tx);
  const facts = { account, issuer, subject };
  const act = present ? 'linkPerson' : 'addPerson';
  await appendLedger(context, { ...ofSite, at, personId, act, facts }, tx);
  return personId;
}

/** The account the claims name. @throws Refused `claims-unfit` */
function accountIn(claims: Record<string, unknown>, { accountClaim }: contract.ProviderMapping): string {
  const told = claims[accountClaim];
  const account = typeof told === 'string' ? told.trim().toLowerCase() : '';
  // Only what the provider says it has verified: what anybody may claim would be anybody's account.
  const unverified =
    accountClaim === 'email' && ![true, 'true'].includes(claims['email_verified'] as boolean);
  if (/^[a-z0-9][a-z0-9._@-]{0,59}$/.test(account) && !unverified) return account;
  const reason = `The claim ${accountClaim} names no account that can be had here. Ask a system administrator.`;
  throw new Refused(refuse('forbidden', 'claims-unfit', reason, { claim: accountClaim }));
}

function nameIn(claims: Record<string, unknown>): string | null {
  const { name } = claims;
  const told = typeof name === 'string' ? name.replace(/[\p{Cc}\p{Cf}]/gu, '').trim() : '';
  return told === '' ? null : told.slice(0, 300);
}

/** Somebody whose groups follow what was told of them. */
interface Following {
  personId: string;
  told: Claims;
  mapping: contract.ProviderMapping;
}

/**
 * Puts somebody into the mapped groups the claims name, making those there are not, and takes them out of the
 * other mapped ones. Without the claim nothing changes. A group that keeps a library its last controller, or
 * by which they have work that nobody could go on with, keeps them.
 */
async function followGroups(context: Context, { personId, told, mapping }: Following, tx: Tx): Promise<void> {
  const claim = told.claims[mapping.groupsClaim];
  if (claim === undefined || mapping.groups.length === 0) return;
  const values = new Set(Array.isArray(claim) ? claim.map(String) : [String(claim)]);
  const wanted = new Set(mapping.groups.flatMap(({ value, group }) => (values.has(value) ? [group] : [])));
  const mapped = [...new Set(mapping.groups.map(({ group }) => group))];
  const ids = await idsByName(context, 'groups', mapped, tx);
  // Of those who sign in at once each finds what the one before has kept.
  for (const id of [...ids.values()].sort()) await lockGroup(context, id, tx);
  const present = new Set(await groupsOfPerson(context, personId, tx));
  for (const name of mapped) {
    const id = ids.get(name) ?? null;
    const isIn = id !== null && present.has(id);
    if (wanted.has(name) === isIn) continue;
    await moveInGroup(context, { id, name, personId, into: wanted.has(name) }, tx);
  }
}

async function moveInGroup(
  context: Context,
  { id, name, personId, into }: { id: string | null; name: string; personId: string; into: boolean },
  tx: Tx,
): Promise<void> {
  const at = context.clock();
  const before = id === null ? [] : await peopleOfGroup(context, id, tx);
  const others = before.filter((one) => one !== personId);
  const group = { id: id ?? newId(), name, isNew: id === null };
  const libraries = await librariesOfGroup(context, group.id, tx);
  const left = await strandedBy(context, libraries, tx, () =>
    keepGroup(context, { ...group, personIds: into ? [...others, personId] : others }, at, tx),
  );
  // Nobody is there who could be asked what becomes of it: they stay until a hand has handed it over.
  if (!into && (left.length > 0 || (await libraryWithoutManager(context, libraries, { tx })))) {
    await keepGroup(context, { ...group, personIds: before }, at, tx);
    return;
  }
  const facts = { group: name, by: 'provider', [into ? 'joined' : 'left']: personId };
  const act = id === null ? 'addGroup' : 'changeGroup';
  await appendLedger(context, { ...ofSite, at, personId, act, facts }, tx);
}

/** How the provider's claims are taken, for system administrators. @throws Refused `not-administrator` */
export async function readProviderMapping({ context, caller }: Asker): Promise<contract.ProviderMapping> {
  requireAdministrator(caller, mapping);
  return providerMapping(context);
}
const mapping = "How a provider's claims are taken is said";

/** Says how the provider's claims are taken. @throws Refused `not-administrator` */
export async function performMapProvider(
  { context, caller }: Asker,
  wanted: contract.ProviderMapping,
): Promise<contract.ProviderMapping> {
  requireAdministrator(caller, mapping);
  await transact(context.db, async (tx) => {
    await keepProviderMapping(context, wanted, tx);
    const entry = {
      ...ofSite,
      at: context.clock(),
      personId: caller.id,
      act: 'mapProvider',
      facts: { ...wanted },
    };
    await appendLedger(context, entry, tx);
  });
  return wanted;
}

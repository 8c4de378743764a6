import { createHash, randomBytes } from 'node:crypto';
import { v7 as newId } from 'uuid';
import { refuse } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { transact } from '../store/database.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import type { TokenScope } from '../store/models.ts';
import { findPerson, lockPerson, personById, setPasswordHash } from '../store/people.ts';
import {
  countTokens,
  deleteOldestSessions,
  deleteOtherSessions,
  deleteSession,
  deleteSessionById,
  deleteTokens,
  findSession,
  insertSession,
  insertToken,
  type KeptToken,
  sessionsOf,
  type SignedIn,
  tokensOf,
  useSession,
  useToken,
} from '../store/sessions.ts';
import type { Asker, Caller } from './caller.ts';
import { hashPassword, verifyPassword } from './passwords.ts';

/** A working week and a day: long enough not to interrupt, short enough for a lost machine. */
const sessionHours = 24 * 6;
const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

const toCaller = ({ id, account, name, systemAdministrator }: SignedIn): Caller => ({
  id,
  account,
  name,
  systemAdministrator: Boolean(systemAdministrator),
});

/** @throws Refused `passwords-off` where a provider of identities alone signs people in */
function requirePasswords({ signIn: { passwords, provider } }: Context): void {
  if (passwords) return;
  const reason = `Nobody signs in with a password here. Sign in with ${provider?.place.name ?? 'the provider'}.`;
  throw new Refused(refuse('forbidden', 'passwords-off', reason));
}

/** Checked against when the account is unknown, so that an answer takes as long as for a known one. */
let decoy: Promise<string> | null = null;

/**
 * Opens a session by password.
 * @throws Refused `passwords-off`, `sign-in-failed`, alike for an unknown account and a wrong password;
 * `account-closed` to who knows the password
 */
export async function signIn(context: Context, account: string, password: string): Promise<OpenedSession> {
  requirePasswords(context);
  const person = await findPerson(context, account.trim().toLowerCase());
  decoy ??= hashPassword(randomBytes(12).toString('hex'));
  const right = await verifyPassword(password, person?.passwordHash ?? (await decoy));
  if (!person || !right) {
    const reason = 'Account and password do not match. Check both and try again.';
    throw new Refused(refuse('forbidden', 'sign-in-failed', reason));
  }
  return openSession(context, person.id, {});
}

/** How many sessions somebody has: with more the oldest end. How many tokens: more are refused. */
const mostSessions = 100;
const mostTokens = 200;

/** A session just opened. */
export interface OpenedSession {
  secret: string;
  caller: Caller;
  expires: Date;
}

/**
 * Opens a session of somebody who has proved who they are. Only the secret's hash is kept.
 * @param facts what the Ledger tells of how they did
 * @throws Refused `account-closed`
 */
export async function openSession(
  context: Context,
  personId: string,
  facts: Record<string, unknown>,
): Promise<OpenedSession> {
  const person = await personById(context, personId);
  if (person?.closedAt !== null) {
    const reason = 'This account is closed. Ask a system administrator to open it again.';
    throw new Refused(refuse('forbidden', 'account-closed', reason));
  }
  const now = context.clock();
  const expires = new Date(now.getTime() + sessionHours * 3_600_000);
  const secret = randomBytes(32).toString('base64url');
  await transact(context.db, async (tx) => {
    const session = {
      id: newId(),
      tokenHash: hashOf(secret),
      personId: person.id,
      createdAt: now,
      expiresAt: expires,
    };
    await insertSession(context, session, tx);
    await deleteOldestSessions(context, person.id, mostSessions, tx);
    const entry = { ...ofSite, at: now, personId: person.id, act: 'signIn', facts };
    await appendLedger(context, entry, tx);
  });
  return { secret, caller: toCaller(person), expires };
}

/** Who a session's secret belongs to; null when it is unknown or has ended. */
export async function readSession(
  context: Context,
  secret: string,
): Promise<{ caller: Caller; expires: Date } | null> {
  const session = await useSession(context, hashOf(secret), context.clock());
  return session && { caller: toCaller(session.person), expires: session.expiresAt };
}

/** Ends a session. */
export async function signOut(context: Context, secret: string): Promise<void> {
  const hash = hashOf(secret);
  const session = await findSession(context, hash);
  if (!session) return;
  await deleteSession(context, hash);
  context.events.publish({ kind: 'signIns', personId: session.personId });
}

/** A session, as it is listed. */
interface ListedSession {
  id: string;
  createdAt: Date;
  expiresAt: Date;
  here: boolean;
}

/** Somebody's sessions that go on, newest first; `secret` is that of the one asked from. */
export async function listSessions(
  context: Context,
  personId: string,
  secret: string | undefined,
): Promise<ListedSession[]> {
  const present = secret && hashOf(secret);
  const found = await sessionsOf(context, personId, context.clock());
  return found.map(({ id, createdAt, expiresAt, tokenHash }) => ({
    id,
    createdAt,
    expiresAt,
    here: tokenHash === present,
  }));
}

/**
 * Ends one of somebody's sessions, with the event streams it holds open. @throws Refused `session-not-
 * found`
 */
export async function endSession(context: Context, personId: string, id: string): Promise<void> {
  if (!(await deleteSessionById(context, personId, id))) {
    throw new Refused(refuse('notFound', 'session-not-found', 'There is no such session.'));
  }
  context.events.publish({ kind: 'signIns', personId });
}

/** Ends all of somebody's sessions, but the one with this secret. */
export async function endSessions(
  context: Context,
  personId: string,
  secret: string | undefined,
): Promise<void> {
  await deleteOtherSessions(context, personId, secret ? hashOf(secret) : null);
  context.events.publish({ kind: 'signIns', personId });
}

/**
 * Changes one's own password; whoever is signed in elsewhere is not any more. Tokens stay.
 * @param secret of the session that goes on
 * @throws Refused `passwords-off`, `wrong-password` where the present one is not that
 */
export async function changePassword(
  { context, caller }: Asker,
  { present, next }: { present: string; next: string },
  secret: string | undefined,
): Promise<void> {
  requirePasswords(context);
  const wrong = (): Refused => {
    const reason = 'That is not your present password. Nothing was changed.';
    return new Refused(refuse('invalid', 'wrong-password', reason));
  };
  const person = await personById(context, caller.id);
  if (!person || !(await verifyPassword(present, person.passwordHash))) throw wrong();
  const hash = await hashPassword(next);
  await transact(context.db, async (tx) => {
    await lockPerson(context, caller.id, tx);
    // What was tried took a while; another change may have come before.
    const now = await personById(context, caller.id, tx);
    if (now?.passwordHash !== person.passwordHash) throw wrong();
    await setPasswordHash(context, caller.id, hash, tx);
    await deleteOtherSessions(context, caller.id, secret ? hashOf(secret) : null, tx);
    const entry = { ...ofSite, at: context.clock(), personId: caller.id, act: 'changePassword', facts: {} };
    await appendLedger(context, entry, tx);
  });
  context.events.publish({ kind: 'signIns', personId: caller.id });
}

/**
 * Makes a personal token for scripts; its secret is told this once. One made by a token ends with it at the
 * latest.
 * @throws Refused `moment-past`, `token-outlives`, `too-many-tokens`
 */
export async function makeToken(
  { context, caller }: Asker,
  { name, scope = 'work', until = null }: { name: string; scope?: TokenScope; until?: Date | null },
): Promise<{ token: KeptToken; secret: string }> {
  const now = context.clock();
  if (until && until.getTime() <= now.getTime()) {
    const reason = `A token cannot end at ${until.toISOString()}, which is past. Name a later moment, or none.`;
    throw new Refused(refuse('invalid', 'moment-past', reason, { until: until.toISOString() }));
  }
  const last = caller.until ?? null;
  if (last && (until === null || until.getTime() > last.getTime())) {
    const reason = `The token you use ends at ${last.toISOString()}; one made by it ends then or before.`;
    throw new Refused(refuse('forbidden', 'token-outlives', reason, { until: last.toISOString() }));
  }
  const secret = `poly_${randomBytes(32).toString('base64url')}`;
  const token = { id: newId(), name, scope, untilAt: until, createdAt: now };
  await transact(context.db, async (tx) => {
    await lockPerson(context, caller.id, tx);
    if ((await countTokens(context, caller.id, tx)) >= mostTokens) {
      const reason = `You have ${mostTokens} tokens. Revoke some that are not used any more.`;
      throw new Refused(refuse('conflict', 'too-many-tokens', reason, { mostTokens }));
    }
    await insertToken(context, { ...token, tokenHash: hashOf(secret), personId: caller.id }, tx);
  });
  return { token: { ...token, lastUsedAt: null }, secret };
}

/** Somebody's tokens, newest first. */
export const listTokens = (context: Context, personId: string): Promise<KeptToken[]> =>
  tokensOf(context, personId);

/** Revokes one of somebody's tokens. @throws Refused `token-not-found` */
export async function revokeToken(context: Context, personId: string, id: string): Promise<void> {
  if (!(await deleteTokens(context, personId, id))) {
    throw new Refused(refuse('notFound', 'token-not-found', 'There is no such token.'));
  }
  context.events.publish({ kind: 'signIns', personId });
}

/** Revokes all of somebody's tokens. */
export async function revokeTokens(context: Context, personId: string): Promise<void> {
  await deleteTokens(context, personId, null);
  context.events.publish({ kind: 'signIns', personId });
}

/** Methods that ask for no change (RFC 9110, 9.2.1; RFC 4918, 9.1; RFC 3253, 3.6). */
export const isSafe = (method: string): boolean =>
  ['GET', 'HEAD', 'OPTIONS', 'PROPFIND', 'REPORT'].includes(method);

/** @throws Refused `token-reads-only` where a token that only reads is to change something */
export function requireScope(scope: TokenScope, method: string): void {
  if (scope !== 'read' || isSafe(method)) return;
  const reason = 'This token only reads. Make one that works, or sign in.';
  throw new Refused(refuse('forbidden', 'token-reads-only', reason));
}

/** Who a personal token belongs to, and what it may; null when it is unknown, over, or its account closed. */
export async function readToken(
  context: Context,
  secret: string,
): Promise<{ caller: Caller; scope: TokenScope } | null> {
  const used = await useToken(context, hashOf(secret), context.clock());
  if (!used) return null;
  const { person, token } = used;
  return { caller: { ...toCaller(person), until: token.untilAt }, scope: token.scope };
}

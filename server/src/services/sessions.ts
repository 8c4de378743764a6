import { createHash, randomBytes } from 'node:crypto';
import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { isDuplicate, rows, transact } from '../store/database.ts';
import { appendLedger } from '../store/applyDecision.ts';
import type { PersonRow } from '../store/models.ts';
import type { Caller } from './access.ts';
import { hashPassword, noPassword, verifyPassword } from './password.ts';

/** A working week and a day: long enough not to interrupt, short enough for a lost machine. */
const sessionHours = 24 * 6;

const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');
const toCaller = (person: PersonRow): Caller => ({ id: person.id, account: person.account, name: person.name, siteAdministrator: Boolean(person.siteAdministrator) });

/** Checked against when the account is unknown, so that an answer takes as long as for a known one. */
let decoy: Promise<string> | null = null;

/**
 * Opens a session. Only the secret's hash is kept.
 * @throws Refused `sign-in-failed`, alike for an unknown account and a wrong password
 */
export async function signIn(context: Context, account: string, password: string): Promise<{ secret: string; caller: Caller; expires: Date }> {
  const person = await context.models.Person.findOne({ where: { account: account.trim().toLowerCase() } });
  decoy ??= hashPassword(randomBytes(12).toString('hex'));
  const right = await verifyPassword(password, person?.passwordHash ?? await decoy);
  if (!person || !right) throw new Refused(refuse('forbidden', 'sign-in-failed', 'Account and password do not match. Check both and try again.'));
  const now = context.clock();
  const expires = new Date(now.getTime() + sessionHours * 3_600_000);
  const secret = randomBytes(32).toString('base64url');
  await transact(context.db, async (tx) => {
    await context.models.Session.create({ tokenHash: hashOf(secret), personId: person.id, createdAt: now, expiresAt: expires }, { transaction: tx });
    await appendLedger(context, { at: now, personId: person.id, libraryId: null, documentId: null, act: 'signIn', facts: {} }, tx);
  });
  return { secret, caller: toCaller(person), expires };
}

/** Who a session's secret belongs to; null when it is unknown or has ended. */
export async function readSession(context: Context, secret: string): Promise<{ caller: Caller; expires: Date } | null> {
  const session = await context.models.Session.findByPk(hashOf(secret));
  if (!session || session.expiresAt.getTime() <= context.clock().getTime()) return null;
  const person = await context.models.Person.findByPk(session.personId);
  return person && { caller: toCaller(person), expires: session.expiresAt };
}

/** Ends a session. */
export async function signOut(context: Context, secret: string): Promise<void> {
  await context.models.Session.destroy({ where: { tokenHash: hashOf(secret) } });
}

/** Makes a personal token for scripts; its secret is told this once. */
export async function makeToken(context: Context, caller: Caller, name: string): Promise<{ id: string; name: string; createdAt: Date; secret: string }> {
  const secret = `poly_${randomBytes(32).toString('base64url')}`;
  const token = { id: newId(), name, createdAt: context.clock() };
  await context.models.Token.create({ ...token, tokenHash: hashOf(secret), personId: caller.id, lastUsedAt: null });
  return { ...token, secret };
}

/** One's own tokens, newest first. */
export async function listTokens(context: Context, caller: Caller): Promise<{ id: string; name: string; createdAt: Date; lastUsedAt: Date | null }[]> {
  return context.models.Token.findAll({ where: { personId: caller.id }, order: [['createdAt', 'DESC']] });
}

/** Revokes one of one's own tokens. */
export async function revokeToken(context: Context, caller: Caller, id: string): Promise<void> {
  const gone = await context.models.Token.destroy({ where: { id, personId: caller.id } });
  if (gone === 0) throw new Refused(refuse('notFound', 'token-not-found', 'You have no such token.'));
}

/** Who a personal token belongs to; null when it is unknown. */
export async function readToken(context: Context, secret: string): Promise<Caller | null> {
  const token = await context.models.Token.findOne({ where: { tokenHash: hashOf(secret) } });
  const person = token && await context.models.Person.findByPk(token.personId);
  if (!token || !person) return null;
  await token.update({ lastUsedAt: context.clock() });
  return toCaller(person);
}

/** Adds a person; without a password they cannot sign in yet. */
export async function addPerson(context: Context, person: { account: string; name: string; siteAdministrator?: boolean }): Promise<string> {
  const id = newId();
  await context.models.Person.create({
    id, account: person.account, name: person.name, passwordHash: noPassword, siteAdministrator: person.siteAdministrator ?? false, createdAt: context.clock(),
  });
  return id;
}

/** Sets a person's password. */
export async function setPassword(context: Context, personId: string, password: string): Promise<void> {
  await context.models.Person.update({ passwordHash: await hashPassword(password) }, { where: { id: personId } });
}

/** Whether anybody can sign in yet. */
export async function anyoneSignsIn(context: Context): Promise<boolean> {
  const [row] = await rows(context.db, 'SELECT 1 AS found FROM people WHERE password_hash <> :none LIMIT 1', { none: noPassword });
  return row !== undefined;
}

/** Makes an account that can sign in at once. */
export async function registerPerson(context: Context, caller: Caller, wanted: { account: string; name: string; password: string; siteAdministrator: boolean }): Promise<contract.PersonView> {
  if (!caller.siteAdministrator) throw new Refused(refuse('forbidden', 'not-administrator', 'Accounts are made by a site administrator. Ask one.'));
  const { account, name, siteAdministrator } = wanted;
  const passwordHash = await hashPassword(wanted.password);
  try {
    await transact(context.db, async (tx) => {
      const at = context.clock();
      await context.models.Person.create({ id: newId(), account, name, passwordHash, siteAdministrator, createdAt: at }, { transaction: tx });
      await appendLedger(context, { at, personId: caller.id, libraryId: null, documentId: null, act: 'addPerson', facts: { account, name, siteAdministrator } }, tx);
    });
  } catch (error) {
    if (isDuplicate(error)) throw new Refused(refuse('conflict', 'account-taken', `There is an account ${account} already. Choose another.`, { account }));
    throw error;
  }
  return { account, name, siteAdministrator, groups: [] };
}

import { Op } from 'sequelize';
import type { SessionRow, TokenRow } from './models.ts';
import type { Store } from './store.ts';
import type { Tx } from './database.ts';

type KeptSession = Pick<SessionRow, 'id' | 'tokenHash' | 'personId' | 'createdAt' | 'expiresAt'>;
/** A personal token, as it is listed. */
export type KeptToken = Pick<TokenRow, 'id' | 'name' | 'createdAt' | 'lastUsedAt' | 'scope' | 'untilAt'>;

const goesOn = (now: Date) => ({ expiresAt: { [Op.gt]: now } });

/** Keeps a session under the hash of its secret. */
export async function insertSession(store: Store, session: KeptSession, tx: Tx): Promise<void> {
  await store.models.Session.create(session, { transaction: tx });
}

/** A session by the hash of its secret; null where there is none. */
export const findSession = (store: Store, tokenHash: string): Promise<KeptSession | null> =>
  store.models.Session.findByPk(tokenHash);

/** Ends a session. */
export async function deleteSession(store: Store, tokenHash: string): Promise<void> {
  await store.models.Session.destroy({ where: { tokenHash } });
}

/** A person's sessions that go on, newest first. */
export const sessionsOf = (store: Store, personId: string, now: Date): Promise<KeptSession[]> =>
  store.models.Session.findAll({ where: { personId, ...goesOn(now) }, order: [['createdAt', 'DESC']] });

/** Ends a session of a person by its id; false where they have no such. */
export async function deleteSessionById(store: Store, personId: string, id: string): Promise<boolean> {
  return (await store.models.Session.destroy({ where: { id, personId } })) > 0;
}

/** Ends every session of a person but one, by the hash of its secret. */
export async function deleteOtherSessions(
  store: Store,
  personId: string,
  present: string | null,
  tx: Tx | null = null,
): Promise<void> {
  const others = present === null ? {} : { tokenHash: { [Op.ne]: present } };
  await store.models.Session.destroy({ where: { personId, ...others }, transaction: tx });
}

/** Removes sessions that are over. Returns how many. */
export const deleteSessionsOver = (store: Store, now: Date): Promise<number> =>
  store.models.Session.destroy({ where: { expiresAt: { [Op.lte]: now } } });

/** How many sessions and tokens of a person hold now. */
export async function signInsOf(
  store: Store,
  personId: string,
  now: Date,
): Promise<{ sessions: number; tokens: number }> {
  const untilAt = { [Op.or]: [null, { [Op.gt]: now }] };
  return {
    sessions: await store.models.Session.count({ where: { personId, ...goesOn(now) } }),
    tokens: await store.models.Token.count({ where: { personId, untilAt } }),
  };
}

/** Ends every session of a person and revokes every token. */
export async function deleteSignIns(store: Store, personId: string, tx: Tx): Promise<void> {
  const theirs = { where: { personId }, transaction: tx };
  await store.models.Session.destroy(theirs);
  await store.models.Token.destroy(theirs);
}

/** Keeps a personal token under the hash of its secret. */
export async function insertToken(
  store: Store,
  token: Pick<TokenRow, 'id' | 'name' | 'createdAt' | 'tokenHash' | 'personId' | 'scope' | 'untilAt'>,
): Promise<void> {
  await store.models.Token.create({ ...token, lastUsedAt: null });
}

/** A person's tokens, newest first. */
export const tokensOf = (store: Store, personId: string): Promise<KeptToken[]> =>
  store.models.Token.findAll({ where: { personId }, order: [['createdAt', 'DESC']] });

/** Removes a token of a person; all of them where none is named. False where they have no such. */
export async function deleteTokens(store: Store, personId: string, id: string | null): Promise<boolean> {
  const named = id === null ? {} : { id };
  return (await store.models.Token.destroy({ where: { personId, ...named } })) > 0;
}

/** How exactly the last use of a token is noted, in milliseconds: a script asks many times a second. */
const usePrecision = 60_000;

/**
 * Whose token this is, by the hash of its secret, and what it may; notes that it was used. Null where there
 * is none that holds.
 */
export async function useToken(
  store: Store,
  tokenHash: string,
  at: Date,
): Promise<Pick<TokenRow, 'personId' | 'scope' | 'untilAt'> | null> {
  const token = await store.models.Token.findOne({ where: { tokenHash } });
  if (!token || (token.untilAt !== null && token.untilAt.getTime() <= at.getTime())) return null;
  const noted = token.lastUsedAt?.getTime() ?? 0;
  if (Math.abs(at.getTime() - noted) >= usePrecision) await token.update({ lastUsedAt: at });
  return token;
}

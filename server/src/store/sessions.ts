import { Op } from 'sequelize';
import { rows, type Tx } from './database.ts';
import type { PersonRow, SessionRow, TokenRow } from './models.ts';
import type { Store } from './store.ts';

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

/** Ends a person's oldest sessions where there are more than so many. */
export async function deleteOldestSessions(
  store: Store,
  personId: string,
  most: number,
  tx: Tx,
): Promise<void> {
  const old = await store.models.Session.findAll({
    where: { personId },
    order: [
      ['createdAt', 'DESC'],
      ['id', 'DESC'],
    ],
    offset: most,
    limit: 1000,
    transaction: tx,
  });
  if (old.length === 0) return;
  await store.models.Session.destroy({ where: { id: old.map(({ id }) => id) }, transaction: tx });
}

/** How many tokens a person has. */
export const countTokens = (store: Store, personId: string, tx: Tx): Promise<number> =>
  store.models.Token.count({ where: { personId }, transaction: tx });

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
  tx: Tx,
): Promise<void> {
  await store.models.Token.create({ ...token, lastUsedAt: null }, { transaction: tx });
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

/** Who somebody is, of what a sign-in tells. */
export type SignedIn = Pick<PersonRow, 'id' | 'account' | 'name' | 'systemAdministrator'>;
const signedIn = 'p.id, p.account, p.name, p.system_administrator AS systemAdministrator';

/**
 * Whose session this is, by the hash of its secret; null where there is none that goes on, or its account is
 * closed.
 */
export async function useSession(
  store: Store,
  tokenHash: string,
  now: Date,
): Promise<{ person: SignedIn; expiresAt: Date } | null> {
  const [found] = await rows<SignedIn & { expiresAt: Date }>(
    store.db,
    `SELECT ${signedIn}, s.expires_at AS expiresAt FROM sessions s JOIN people p ON p.id = s.person_id
     WHERE s.token_hash = :tokenHash AND s.expires_at > :now AND p.closed_at IS NULL`,
    { tokenHash, now },
  );
  return found ? { person: found, expiresAt: found.expiresAt } : null;
}

/**
 * Whose token this is, by the hash of its secret, and what it may; notes that it was used. Null where there
 * is none that holds, or its account is closed.
 */
export async function useToken(
  store: Store,
  tokenHash: string,
  at: Date,
): Promise<{ person: SignedIn; token: Pick<TokenRow, 'scope' | 'untilAt'> } | null> {
  const [found] = await rows<SignedIn & Pick<TokenRow, 'scope' | 'untilAt' | 'lastUsedAt'>>(
    store.db,
    `SELECT ${signedIn}, t.scope, t.until_at AS untilAt, t.last_used_at AS lastUsedAt
     FROM tokens t JOIN people p ON p.id = t.person_id
     WHERE t.token_hash = :tokenHash AND (t.until_at IS NULL OR t.until_at > :at) AND p.closed_at IS NULL`,
    { tokenHash, at },
  );
  if (!found) return null;
  if (Math.abs(at.getTime() - (found.lastUsedAt?.getTime() ?? 0)) >= usePrecision) {
    await store.models.Token.update({ lastUsedAt: at }, { where: { tokenHash } });
  }
  return { person: found, token: found };
}

import { Op } from 'sequelize';
import { v7 as newId } from 'uuid';
import { likePattern, rows, type Tx } from './database.ts';
import type { PersonRow } from './models.ts';
import { keepRolePeriods } from './periods.ts';
import type { Store } from './store.ts';

/** Account and name of somebody. */
export interface PersonName {
  account: string;
  name: string;
}

/** Stands for somebody whose row is gone. */
export const nobody: PersonName = { account: '', name: '' };

/** Account and name of people by their ids. */
export async function namesOf(
  store: Store,
  ids: readonly (string | null)[],
  tx?: Tx,
): Promise<Map<string, PersonName>> {
  const wanted = [...new Set(ids)].filter((id) => id !== null);
  if (wanted.length === 0) return new Map();
  const found = await rows<PersonName & { id: string }>(
    store.db,
    'SELECT id, account, name FROM people WHERE id IN (:wanted)',
    { wanted },
    tx,
  );
  return new Map(found.map(({ id, account, name }) => [id, { account, name }]));
}

/** A person by account; null where there is none. */
export function findPerson(store: Store, account: string, tx?: Tx): Promise<PersonRow | null> {
  return store.models.Person.findOne({ where: { account }, transaction: tx ?? null });
}

/** A person by id; null where there is none. */
export const personById = (store: Store, id: string, tx?: Tx): Promise<PersonRow | null> =>
  store.models.Person.findByPk(id, { transaction: tx ?? null });

/** People with one of the ids or accounts. */
export function findPeople(
  store: Store,
  wanted: { ids: readonly string[]; accounts: readonly string[] },
  tx?: Tx,
): Promise<PersonRow[]> {
  if (wanted.ids.length + wanted.accounts.length === 0) return Promise.resolve([]);
  return store.models.Person.findAll({
    where: { [Op.or]: [{ id: [...wanted.ids] }, { account: [...wanted.accounts] }] },
    transaction: tx ?? null,
  });
}

/** Of these accounts the first there is none of; undefined where all are there. */
export async function unknownAccount(
  store: Store,
  accounts: readonly string[],
  tx?: Tx,
): Promise<string | undefined> {
  const known = new Set((await findPeople(store, { ids: [], accounts }, tx)).map(({ account }) => account));
  return accounts.find((account) => !known.has(account));
}

/** Somebody to be kept; the hash is that of their password. */
export interface NewPerson {
  account: string;
  name: string;
  passwordHash: string;
  systemAdministrator: boolean;
  createdAt: Date;
}

/** Keeps a person; returns their id. */
export async function insertPerson(store: Store, person: NewPerson, tx?: Tx): Promise<string> {
  const id = newId();
  await store.models.Person.create({ id, ...person }, { transaction: tx ?? null });
  return id;
}

/** Lets what is to be done one at a time for a person wait for what is done now. */
export async function lockPerson(store: Store, id: string, tx: Tx): Promise<void> {
  await rows(store.db, 'SELECT id FROM people WHERE id = :id FOR UPDATE', { id }, tx);
}

/** Sets the hash of a person's password. */
export async function setPasswordHash(
  store: Store,
  id: string,
  passwordHash: string,
  tx?: Tx,
): Promise<void> {
  await store.models.Person.update({ passwordHash }, { where: { id }, transaction: tx ?? null });
}

/** Closes or opens an account at a moment; its roles rest while it is closed. */
export async function setClosed(
  store: Store,
  id: string,
  { closed, at }: { closed: boolean; at: Date },
  tx: Tx,
): Promise<void> {
  const closedAt = closed ? at : null;
  await store.models.Person.update({ closedAt }, { where: { id }, transaction: tx });
  await keepRolePeriods(store, { personId: id }, at, tx);
}

/** Makes somebody a system administrator. */
export async function setAdministrator(store: Store, id: string, tx: Tx): Promise<void> {
  await store.models.Person.update({ systemAdministrator: true }, { where: { id }, transaction: tx });
}

/** An account with the groups it is in. */
export interface ListedPerson extends PersonName {
  id: string;
  closed: boolean;
  systemAdministrator: boolean;
  groups: string[];
  /** The job that hands over what they answer for, while it is under way. */
  handingOver: string | null;
}

/** Which accounts are listed. */
export interface PeopleFilter {
  /** In account or name. */
  text?: string;
  /** Only open ones. */
  open?: boolean;
  id?: string;
}

/** Accounts by account, from behind one on; with how many there are in all. */
export async function listPeople(
  store: Store,
  filter: PeopleFilter,
  { after, count }: { after: string; count: number },
): Promise<{ found: ListedPerson[]; total: number }> {
  const values = { like: likePattern(filter.text ?? ''), id: filter.id ?? '' };
  const where = [
    `(p.account LIKE :like ESCAPE '|' OR p.name LIKE :like ESCAPE '|')`,
    ...(filter.open ? ['p.closed_at IS NULL'] : []),
    ...(filter.id === undefined ? [] : ['p.id = :id']),
  ].join(' AND ');
  const found = await rows<
    PersonName & {
      id: string;
      closed: number;
      administrator: number;
      groups: string | null;
      handingOver: string | null;
    }
  >(
    store.db,
    `SELECT p.id, p.account, p.name, p.system_administrator AS administrator, p.closed_at IS NOT NULL AS closed,
       (SELECT GROUP_CONCAT(g.name ORDER BY g.name SEPARATOR '\n') FROM group_people gp
        JOIN person_groups g ON g.id = gp.group_id WHERE gp.person_id = p.id) AS \`groups\`,
       (SELECT MIN(j.id) FROM jobs j WHERE j.from_id = p.id AND j.state IN ('queued', 'running')) AS handingOver
     FROM people p WHERE ${where} AND p.account > :after ORDER BY p.account LIMIT :count`,
    { ...values, after, count },
  );
  const [sum] = await rows<{ total: number }>(
    store.db,
    `SELECT COUNT(*) AS total FROM people p WHERE ${where}`,
    values,
  );
  const toPerson = (row: (typeof found)[number]): ListedPerson => ({
    id: row.id,
    account: row.account,
    name: row.name,
    closed: Boolean(row.closed),
    systemAdministrator: Boolean(row.administrator),
    groups: row.groups?.split('\n') ?? [],
    handingOver: row.handingOver,
  });
  return { found: found.map(toPerson), total: Number(sum?.total ?? 0) };
}

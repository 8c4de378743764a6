import { likePattern, rows, type Tx } from './database.ts';
import type { PersonName } from './people.ts';
import { keepCirclesOfGroup, lockLimitedTo } from './named.ts';
import { keepRolePeriods } from './periods.ts';
import type { Store } from './store.ts';

/** A group with its people and the names of the libraries it has roles in. */
export interface ListedGroup {
  id: string;
  name: string;
  people: PersonName[];
  libraries: string[];
}

/** Which groups are listed. */
export interface GroupFilter {
  /** In its name, that of somebody in it, or that of a library it has roles in. */
  text?: string;
  id?: string;
}

/** Groups by name, from behind one on; with how many there are in all. */
export async function listGroups(
  store: Store,
  filter: GroupFilter,
  { after, count }: { after: string; count: number },
): Promise<{ found: ListedGroup[]; total: number }> {
  const values = { like: likePattern(filter.text ?? ''), id: filter.id ?? '' };
  const people = 'FROM group_people gp JOIN people p ON p.id = gp.person_id WHERE gp.group_id';
  const libraries = 'FROM group_members gm JOIN libraries l ON l.id = gm.library_id WHERE gm.group_id';
  const where = [
    filter.text
      ? `(g.name LIKE :like ESCAPE '|'
         OR EXISTS (SELECT 1 ${people} = g.id AND (p.name LIKE :like ESCAPE '|' OR p.account LIKE :like ESCAPE '|'))
         OR EXISTS (SELECT 1 ${libraries} = g.id AND l.name LIKE :like ESCAPE '|'))`
      : 'TRUE',
    ...(filter.id === undefined ? [] : ['g.id = :id']),
  ].join(' AND ');
  const groups = await rows<{ id: string; name: string }>(
    store.db,
    `SELECT g.id, g.name FROM person_groups g WHERE ${where} AND g.name > :after ORDER BY g.name LIMIT :count`,
    { ...values, after, count },
  );
  const [sum] = await rows<{ total: number }>(
    store.db,
    `SELECT COUNT(*) AS total FROM person_groups g WHERE ${where}`,
    values,
  );
  const total = Number(sum?.total ?? 0);
  if (groups.length === 0) return { found: [], total };
  const ids = { ids: groups.map(({ id }) => id) };
  const inThem = await rows<PersonName & { groupId: string }>(
    store.db,
    `SELECT gp.group_id AS groupId, p.account, p.name ${people} IN (:ids) ORDER BY p.account`,
    ids,
  );
  const theirs = await rows<{ groupId: string; name: string }>(
    store.db,
    `SELECT DISTINCT gm.group_id AS groupId, l.name ${libraries} IN (:ids) ORDER BY l.name`,
    ids,
  );
  const found = groups.map(({ id, name }) => ({
    id,
    name,
    people: inThem
      .filter(({ groupId }) => groupId === id)
      .map((person) => ({ account: person.account, name: person.name })),
    libraries: theirs.filter(({ groupId }) => groupId === id).map((library) => library.name),
  }));
  return { found, total };
}

/** Names of groups, in their order. */
export async function groupNames(store: Store, ids: readonly string[]): Promise<string[]> {
  if (ids.length === 0) return [];
  const found = await store.models.Group.findAll({ where: { id: [...ids] }, order: ['name'] });
  return found.map(({ name }) => name);
}

/** The name of a group, locked; null where there is none. */
export async function lockGroup(store: Store, id: string, tx: Tx): Promise<string | null> {
  const group = await store.models.Group.findByPk(id, { transaction: tx, lock: tx.LOCK.UPDATE });
  return group?.name ?? null;
}

/** Whether another group has the name. */
export async function isGroupNameTaken(
  store: Store,
  group: { id: string; name: string },
  tx: Tx,
): Promise<boolean> {
  const found = await rows(
    store.db,
    'SELECT id FROM person_groups WHERE name = :name AND id <> :id',
    group,
    tx,
  );
  return found.length > 0;
}

/** A group as it is to be kept. */
export interface KeptGroup {
  id: string;
  name: string;
  personIds: readonly string[];
  isNew: boolean;
}

/** Makes a group or changes it, with its people, from a moment on. */
export async function keepGroup(store: Store, group: KeptGroup, at: Date, tx: Tx): Promise<void> {
  const { Group, GroupPerson } = store.models;
  const { id, name, personIds, isNew } = group;
  const limited = await lockLimitedTo(store, id, tx);
  if (isNew) await Group.create({ id, name, createdAt: at }, { transaction: tx });
  else await Group.update({ name }, { where: { id }, transaction: tx });
  await GroupPerson.destroy({ where: { groupId: id }, transaction: tx });
  await GroupPerson.bulkCreate(
    [...new Set(personIds)].map((personId) => ({ groupId: id, personId })),
    { transaction: tx },
  );
  await keepRolePeriods(store, { libraryIds: await librariesOfGroup(store, id, tx) }, at, tx);
  await keepCirclesOfGroup(store, limited, at, tx);
}

/** Ids of the groups that have a role in a library. */
export async function groupsOfLibrary(store: Store, libraryId: string, tx: Tx): Promise<Set<string>> {
  const found = await store.models.GroupMember.findAll({ where: { libraryId }, transaction: tx });
  return new Set(found.map(({ groupId }) => groupId));
}

/** Ids of the people in a group. */
export async function peopleOfGroup(store: Store, id: string, tx: Tx): Promise<string[]> {
  const found = await store.models.GroupPerson.findAll({ where: { groupId: id }, transaction: tx });
  return found.map(({ personId }) => personId);
}

/** Ids of the groups a person is in. */
export async function groupsOfPerson(store: Store, personId: string, tx: Tx): Promise<string[]> {
  const found = await store.models.GroupPerson.findAll({ where: { personId }, transaction: tx });
  return found.map(({ groupId }) => groupId);
}

/** Removes a group with the roles it held until now. */
export async function deleteGroup(store: Store, id: string, at: Date, tx: Tx): Promise<void> {
  const libraryIds = await librariesOfGroup(store, id, tx);
  const limited = await lockLimitedTo(store, id, tx);
  await store.models.Group.destroy({ where: { id }, transaction: tx });
  await keepRolePeriods(store, { libraryIds }, at, tx);
  await keepCirclesOfGroup(store, limited, at, tx);
}

/**
 * Libraries a group has roles in, locked until the transaction ends: who else takes a manager from one of
 * them waits.
 */
export async function librariesOfGroup(store: Store, groupId: string, tx: Tx): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT id FROM libraries WHERE id IN (SELECT library_id FROM group_members WHERE group_id = :groupId)
     ORDER BY id FOR UPDATE`,
    { groupId },
    tx,
  );
  return found.map(({ id }) => id);
}

/**
 * Ids by account or by group's name, whatever their case; none of them is emptied or removed before the
 * transaction ends.
 */
export async function idsByName(
  store: Store,
  kind: 'people' | 'groups',
  names: readonly string[],
  tx: Tx,
): Promise<Map<string, string>> {
  if (names.length === 0) return new Map();
  const from = { people: ['account', 'people'], groups: ['name', 'person_groups'] }[kind];
  const [column, table] = from as [string, string];
  const found = await rows<{ id: string; name: string }>(
    store.db,
    `SELECT id, ${column} AS name FROM ${table} WHERE ${column} IN (:names) LOCK IN SHARE MODE`,
    { names },
    tx,
  );
  const byName = new Map(found.map(({ id, name }) => [name.toLowerCase(), id]));
  return new Map(
    names.flatMap((name) => {
      const id = byName.get(name.toLowerCase());
      return id === undefined ? [] : [[name, id] as const];
    }),
  );
}

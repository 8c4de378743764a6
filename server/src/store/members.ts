import { type Act, type Role, roles as allRoles, rolesThatMay } from '@polychron/core';
import { likePattern, rows, type Tx } from './database.ts';
import { keepRolePeriods } from './periods.ts';
import type { Store } from './store.ts';

/** A library by its id or by a document in it. */
export type InLibrary = string | { ofDocument: string };

/**
 * Roles people hold in a library, their own and their groups', by person; of one person where `personId` is
 * given.
 */
export async function rolesIn(
  store: Store,
  library: InLibrary,
  personId: string | null,
  tx?: Tx,
): Promise<Map<string, Set<Role>>> {
  const byId = typeof library === 'string';
  const held = await rows<{ id: string; role: Role }>(
    store.db,
    `SELECT person_id AS id, role FROM held_roles
     WHERE library_id = ${byId ? ':id' : '(SELECT library_id FROM documents WHERE id = :id)'}
       ${personId === null ? '' : 'AND person_id = :personId'}`,
    { id: byId ? library : library.ofDocument, personId },
    tx,
  );
  const found = new Map<string, Set<Role>>();
  for (const { id, role } of held) found.set(id, (found.get(id) ?? new Set()).add(role));
  return found;
}

/** Roles of people in several libraries, by `${libraryId} ${personId}`. */
export async function rolesOf(
  store: Store,
  libraryIds: readonly string[],
  personIds: readonly string[],
  tx?: Tx,
): Promise<Map<string, Set<Role>>> {
  const found = new Map<string, Set<Role>>();
  if (personIds.length === 0 || libraryIds.length === 0) return found;
  const held = await rows<{ libraryId: string; personId: string; role: Role }>(
    store.db,
    `SELECT library_id AS libraryId, person_id AS personId, role FROM held_roles
     WHERE library_id IN (:libraryIds) AND person_id IN (:personIds)`,
    { libraryIds, personIds },
    tx,
  );
  for (const { libraryId, personId, role } of held) {
    const key = `${libraryId} ${personId}`;
    found.set(key, (found.get(key) ?? new Set()).add(role));
  }
  return found;
}

/** The libraries somebody is a member of, with their roles in each. */
export async function librariesOf(store: Store, personId: string): Promise<Map<string, Set<Role>>> {
  const held = await rows<{ libraryId: string; role: Role }>(
    store.db,
    'SELECT library_id AS libraryId, role FROM held_roles WHERE person_id = :personId',
    { personId },
  );
  const found = new Map<string, Set<Role>>();
  for (const { libraryId, role } of held) found.set(libraryId, (found.get(libraryId) ?? new Set()).add(role));
  return found;
}

/** Whether a person may do an act in any library. */
export async function mayAnywhere(store: Store, personId: string, act: Act): Promise<boolean> {
  const found = await rows(
    store.db,
    'SELECT 1 AS held FROM held_roles WHERE person_id = :personId AND role IN (:roles) LIMIT 1',
    { personId, roles: rolesThatMay(act) },
  );
  return found.length > 0;
}

/** A person or a group with their roles in a library. */
export interface ListedMember {
  account?: string;
  group?: string;
  name: string;
  roles: Role[];
  /** Where the account is closed and the roles rest. */
  closed?: boolean;
  /** People in the group. */
  people?: number;
}

const inOrder = (held: string): Role[] => allRoles.filter((role) => held.split(',').includes(role));

/** Members with their roles: people by account, then groups by name. */
export async function membersOf(store: Store, libraryId: string, tx?: Tx): Promise<ListedMember[]> {
  const people = await rows<{ account: string; name: string; roles: string; closed: number }>(
    store.db,
    `SELECT p.account, p.name, p.closed_at IS NOT NULL AS closed, GROUP_CONCAT(m.role) AS roles FROM members m JOIN people p ON p.id = m.person_id
     WHERE m.library_id = :libraryId GROUP BY p.id ORDER BY p.account`,
    { libraryId },
    tx,
  );
  const groups = await rows<{ name: string; roles: string; people: number }>(
    store.db,
    `SELECT g.name, GROUP_CONCAT(m.role) AS roles,
       (SELECT COUNT(*) FROM group_people gp WHERE gp.group_id = g.id) AS people
     FROM group_members m JOIN person_groups g ON g.id = m.group_id
     WHERE m.library_id = :libraryId GROUP BY g.id ORDER BY g.name`,
    { libraryId },
    tx,
  );
  return [
    ...people.map(({ account, name, roles, closed }) => ({
      account,
      name,
      roles: inOrder(roles),
      ...(closed ? { closed: true } : {}),
    })),
    ...groups.map(({ name, roles, people: count }) => ({
      group: name,
      name,
      roles: inOrder(roles),
      people: Number(count),
    })),
  ];
}

/** People with a role in a library, their own or a group's, by name; at most `count` after a place. */
export async function peopleIn(
  store: Store,
  libraryId: string,
  wanted: { text: string; role: Role | null },
  page: { after: readonly string[]; count: number },
): Promise<{ found: { account: string; name: string; roles: Role[] }[]; total: number }> {
  const among = `FROM held_roles h JOIN people p ON p.id = h.person_id
     WHERE h.library_id = :libraryId AND (p.account LIKE :like ESCAPE '|' OR p.name LIKE :like ESCAPE '|')
       AND (:role IS NULL OR EXISTS (SELECT 1 FROM held_roles r
         WHERE r.library_id = :libraryId AND r.person_id = p.id AND r.role = :role))`;
  const [name = '', account = ''] = page.after;
  const given = { libraryId, like: likePattern(wanted.text), role: wanted.role, name, account };
  const found = await rows<{ account: string; name: string; roles: string }>(
    store.db,
    `SELECT p.account, p.name, GROUP_CONCAT(h.role) AS roles ${among}
       AND (p.name, p.account) > (:name, :account)
     GROUP BY p.id ORDER BY p.name, p.account LIMIT ${page.count}`,
    given,
  );
  const [counted] = await rows<{ total: number }>(
    store.db,
    `SELECT COUNT(DISTINCT p.id) AS total ${among}`,
    given,
  );
  return {
    found: found.map((person) => ({ ...person, roles: inOrder(person.roles) })),
    total: Number(counted?.total ?? 0),
  };
}

/** Replaces a library's members from a moment on: roles by person's and by group's id. */
export async function replaceMembers(
  store: Store,
  libraryId: string,
  held: { people: ReadonlyMap<string, ReadonlySet<Role>>; groups: ReadonlyMap<string, ReadonlySet<Role>> },
  { at, tx }: { at: Date; tx: Tx },
): Promise<void> {
  const { Member, GroupMember } = store.models;
  const pairs = (from: ReadonlyMap<string, ReadonlySet<Role>>): { id: string; role: Role }[] =>
    [...from].flatMap(([id, roles]) => [...roles].map((role) => ({ id, role })));
  await Member.destroy({ where: { libraryId }, transaction: tx });
  await GroupMember.destroy({ where: { libraryId }, transaction: tx });
  await Member.bulkCreate(
    pairs(held.people).map(({ id, role }) => ({ libraryId, personId: id, role })),
    { transaction: tx },
  );
  await GroupMember.bulkCreate(
    pairs(held.groups).map(({ id, role }) => ({ libraryId, groupId: id, role })),
    { transaction: tx },
  );
  await keepRolePeriods(store, { libraryIds: [libraryId] }, at, tx);
}

/** Libraries a person may manage; inside a transaction locked, so that two do not leave one at once. */
export async function librariesManagedBy(store: Store, personId: string, tx?: Tx): Promise<string[]> {
  const found = await rows<{ id: string }>(
    store.db,
    `SELECT id FROM libraries WHERE id IN
       (SELECT library_id FROM held_roles WHERE person_id = :personId AND role IN (:roles))
     ORDER BY id ${tx ? 'FOR UPDATE' : ''}`,
    { personId, roles: rolesThatMay('manageMembers') },
    tx,
  );
  return found.map(({ id }) => id);
}

/**
 * The name of the first of these libraries that nobody may manage any more; undefined where each has
 * somebody, other than `without` where that is given.
 */
export async function libraryWithoutManager(
  store: Store,
  libraryIds: readonly string[],
  { without = '', tx }: { without?: string; tx?: Tx },
): Promise<string | undefined> {
  if (libraryIds.length === 0) return undefined;
  const [lost] = await rows<{ name: string }>(
    store.db,
    `SELECT l.name FROM libraries l WHERE l.id IN (:libraryIds)
     AND NOT EXISTS (SELECT 1 FROM held_roles h WHERE h.library_id = l.id AND h.role IN (:roles)
       AND h.person_id <> :without)`,
    { libraryIds, without, roles: rolesThatMay('manageMembers') },
    tx,
  );
  return lost?.name;
}

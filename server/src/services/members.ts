import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import { may, refuse, type Role, roles as allRoles } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { appendLedger } from '../store/applyDecision.ts';
import { rows, transact, type Tx } from '../store/database.ts';
import { accessLibrary, type Caller } from './access.ts';
import { refuseStale } from './precondition.ts';
import { entityTag } from './views.ts';

/** Members with their roles: people by account, then groups by name. */
export async function listMembers(context: Context, caller: Caller, libraryId: string): Promise<{ members: contract.MemberView[]; tag: string }> {
  await accessLibrary(context, caller, libraryId, { administrators: true });
  const members = await readMembers(context, libraryId);
  return { members, tag: entityTag(members) };
}

async function readMembers(context: Context, libraryId: string, tx?: Tx): Promise<contract.MemberView[]> {
  const people = await rows<{ account: string; name: string; roles: string }>(context.db,
    `SELECT p.account, p.name, GROUP_CONCAT(m.role) AS roles FROM members m JOIN people p ON p.id = m.person_id
     WHERE m.library_id = :libraryId GROUP BY p.id ORDER BY p.account`, { libraryId }, tx);
  const groups = await rows<{ name: string; roles: string; people: number }>(context.db,
    `SELECT g.name, GROUP_CONCAT(m.role) AS roles, (SELECT COUNT(*) FROM group_people gp WHERE gp.group_id = g.id) AS people
     FROM group_members m JOIN person_groups g ON g.id = m.group_id WHERE m.library_id = :libraryId GROUP BY g.id ORDER BY g.name`, { libraryId }, tx);
  const inOrder = (held: string): Role[] => allRoles.filter((role) => held.split(',').includes(role));
  return [
    ...people.map((row) => ({ account: row.account, name: row.name, roles: inOrder(row.roles) })),
    ...groups.map((row) => ({ group: row.name, name: row.name, roles: inOrder(row.roles), people: Number(row.people) })),
  ];
}

/** Replaces a library's members, people and groups. At least one person is a controller, by themselves or through a group. */
export async function setMembers(context: Context, caller: Caller, libraryId: string, wanted: readonly contract.Member[], ifMatch: string | undefined): Promise<contract.MemberView[]> {
  return transact(context.db, async (tx) => {
    const { actor } = await accessLibrary(context, caller, libraryId, { administrators: true, tx });
    if (!caller.siteAdministrator && !may(actor.roles, 'manageMembers')) {
      throw new Refused(refuse('forbidden', 'role-missing', 'Members are chosen by controllers of the library and site administrators.', { needs: 'controllers' }));
    }
    const before = await readMembers(context, libraryId, tx);
    refuseStale(ifMatch, entityTag(before), { now: `${before.length} members` });
    const people = await idsOf(context, 'people', 'account', wanted.flatMap((member) => ('account' in member ? [member.account] : [])), tx);
    const groups = await idsOf(context, 'person_groups', 'name', wanted.flatMap((member) => ('group' in member ? [member.group] : [])), tx);
    const [own, byGroup] = [new Map<string, Set<Role>>(), new Map<string, Set<Role>>()];
    for (const member of wanted) {
      const [into, id] = 'account' in member ? [own, people.get(member.account)] : [byGroup, groups.get(member.group)];
      into.set(id as string, new Set([...into.get(id as string) ?? [], ...member.roles]));
    }
    const pairs = <K extends string>(key: K, from: Map<string, Set<Role>>) => [...from].flatMap(([id, roles]) => [...roles].map((role) => ({ libraryId, role, [key]: id } as Record<K, string> & { libraryId: string; role: Role })));
    await context.models.Member.destroy({ where: { libraryId }, transaction: tx });
    await context.models.GroupMember.destroy({ where: { libraryId }, transaction: tx });
    await context.models.Member.bulkCreate(pairs('personId', own), { transaction: tx });
    await context.models.GroupMember.bulkCreate(pairs('groupId', byGroup), { transaction: tx });
    await refuseWithoutController(context, [libraryId], tx);
    await appendLedger(context, {
      at: context.clock(), personId: caller.id, libraryId, documentId: null, act: 'setMembers',
      facts: { members: wanted.map((member) => `${'account' in member ? member.account : `group ${member.group}`}: ${[...new Set(member.roles)].sort().join(' ')}`).sort() },
    }, tx);
    return readMembers(context, libraryId, tx);
  });
}

/** Ids by account or name. @throws Refused `account-unknown` or `group-unknown`, naming the first there is none of */
async function idsOf(context: Context, table: 'people' | 'person_groups', column: 'account' | 'name', names: readonly string[], tx: Tx): Promise<Map<string, string>> {
  if (names.length === 0) return new Map();
  const found = await rows<{ id: string; name: string }>(context.db, `SELECT id, ${column} AS name FROM ${table} WHERE ${column} IN (:names)`, { names }, tx);
  // The database takes names for the same whatever their case.
  const byName = new Map(found.map(({ id, name }) => [name.toLowerCase(), id]));
  const unknown = names.find((name) => !byName.has(name.toLowerCase()));
  if (unknown !== undefined) {
    throw new Refused(column === 'account'
      ? refuse('invalid', 'account-unknown', `There is no account ${unknown}.`, { account: unknown })
      : refuse('invalid', 'group-unknown', `There is no group ${unknown}.`, { group: unknown }));
  }
  return new Map(names.map((name) => [name, byName.get(name.toLowerCase()) as string]));
}

/** Refuses what leaves a library that has members without any controller. */
async function refuseWithoutController(context: Context, libraryIds: readonly string[], tx: Tx): Promise<void> {
  if (libraryIds.length === 0) return;
  const [lost] = await rows<{ name: string }>(context.db,
    `SELECT l.name FROM libraries l WHERE l.id IN (:libraryIds) AND NOT EXISTS (SELECT 1 FROM held_roles h WHERE h.library_id = l.id AND h.role = 'controller')`, { libraryIds }, tx);
  if (lost) throw new Refused(refuse('invalid', 'last-controller', `${lost.name} would have no controller. A library needs at least one; keep one, or name another first.`, { library: lost.name }));
}

async function refuseOutsiders(context: Context, caller: Caller): Promise<void> {
  if (caller.siteAdministrator) return;
  const [held] = await rows(context.db, `SELECT 1 AS held FROM held_roles WHERE person_id = :id AND role = 'controller' LIMIT 1`, { id: caller.id });
  if (!held) throw new Refused(refuse('forbidden', 'role-missing', 'Accounts and groups are listed for site administrators and controllers.', { needs: 'controllers' }));
}

function refuseNonAdministrator(caller: Caller): void {
  if (!caller.siteAdministrator) throw new Refused(refuse('forbidden', 'not-administrator', 'People and groups are managed by a site administrator. Ask one.'));
}

/** Accounts, by account. The cursor is the last account of the page before. */
export async function listPeople(context: Context, caller: Caller, query: { q?: string | undefined; cursor?: string | undefined; limit: number }): Promise<{ items: contract.PersonView[]; next: string | null; total: number }> {
  await refuseOutsiders(context, caller);
  const like = `%${(query.q ?? '').replace(/[|%_]/g, '|$&')}%`;
  const where = `(p.account LIKE :like ESCAPE '|' OR p.name LIKE :like ESCAPE '|')`;
  const found = await rows<{ account: string; name: string; administrator: number; groups: string | null }>(context.db,
    `SELECT p.account, p.name, p.site_administrator AS administrator, (SELECT GROUP_CONCAT(g.name ORDER BY g.name SEPARATOR '\n') FROM group_people gp JOIN person_groups g ON g.id = gp.group_id WHERE gp.person_id = p.id) AS \`groups\`
     FROM people p WHERE ${where} AND p.account > :after ORDER BY p.account LIMIT :limit`, { like, after: query.cursor ?? '', limit: query.limit + 1 });
  const [count] = await rows<{ total: number }>(context.db, `SELECT COUNT(*) AS total FROM people p WHERE ${where}`, { like });
  const page = found.slice(0, query.limit);
  return {
    items: page.map((row) => ({ account: row.account, name: row.name, siteAdministrator: Boolean(row.administrator), groups: row.groups?.split('\n') ?? [] })),
    next: found.length > query.limit ? page.at(-1)?.account ?? null : null, total: Number(count?.total ?? 0),
  };
}

/** Groups with their people and the libraries they have roles in. */
export async function listGroups(context: Context, caller: Caller): Promise<contract.Group[]> {
  await refuseOutsiders(context, caller);
  return readGroups(context);
}

async function readGroups(context: Context, id?: string): Promise<contract.Group[]> {
  const groups = await context.models.Group.findAll({ ...(id ? { where: { id } } : {}), order: ['name'] });
  const people = await rows<{ groupId: string; account: string; name: string }>(context.db,
    'SELECT gp.group_id AS groupId, p.account, p.name FROM group_people gp JOIN people p ON p.id = gp.person_id ORDER BY p.account', {});
  const libraries = await rows<{ groupId: string; name: string }>(context.db,
    'SELECT DISTINCT gm.group_id AS groupId, l.name FROM group_members gm JOIN libraries l ON l.id = gm.library_id ORDER BY l.name', {});
  return groups.map((group) => ({
    id: group.id, name: group.name,
    people: people.filter(({ groupId }) => groupId === group.id).map(({ account, name }) => ({ account, name })),
    libraries: libraries.filter(({ groupId }) => groupId === group.id).map(({ name }) => name),
  }));
}

/** Makes a group, or changes the one present: its name and who is in it. */
export async function saveGroup(context: Context, caller: Caller, present: string | null, body: { name: string; people: string[] }): Promise<contract.Group> {
  refuseNonAdministrator(caller);
  const id = present ?? newId();
  await transact(context.db, async (tx) => {
    const group = present === null ? null : await findGroup(context, id, tx);
    const [taken] = await rows<{ id: string }>(context.db, 'SELECT id FROM person_groups WHERE name = :name AND id <> :id', { name: body.name, id }, tx);
    if (taken) throw new Refused(refuse('conflict', 'name-taken', `There is a group ${body.name} already. Choose another name.`, { name: body.name }));
    const people = await idsOf(context, 'people', 'account', body.people, tx);
    if (group) await group.update({ name: body.name }, { transaction: tx });
    else await context.models.Group.create({ id, name: body.name, createdAt: context.clock() }, { transaction: tx });
    await context.models.GroupPerson.destroy({ where: { groupId: id }, transaction: tx });
    await context.models.GroupPerson.bulkCreate([...new Set(people.values())].map((personId) => ({ groupId: id, personId })), { transaction: tx });
    await refuseWithoutController(context, await librariesOf(context, id, tx), tx);
    await appendLedger(context, { at: context.clock(), personId: caller.id, libraryId: null, documentId: null, act: group ? 'changeGroup' : 'addGroup', facts: { group: body.name, people: [...body.people].sort() } }, tx);
  });
  return (await readGroups(context, id))[0] as contract.Group;
}

/** Removes a group with the roles it held. */
export async function removeGroup(context: Context, caller: Caller, id: string): Promise<void> {
  refuseNonAdministrator(caller);
  await transact(context.db, async (tx) => {
    const group = await findGroup(context, id, tx);
    const libraries = await librariesOf(context, id, tx);
    await group.destroy({ transaction: tx });
    await refuseWithoutController(context, libraries, tx);
    await appendLedger(context, { at: context.clock(), personId: caller.id, libraryId: null, documentId: null, act: 'removeGroup', facts: { group: group.name } }, tx);
  });
}

async function findGroup(context: Context, id: string, tx: Tx) {
  const group = await context.models.Group.findByPk(id, { transaction: tx, lock: tx.LOCK.UPDATE });
  if (!group) throw new Refused(refuse('notFound', 'group-not-found', 'There is no such group.'));
  return group;
}

async function librariesOf(context: Context, groupId: string, tx: Tx): Promise<string[]> {
  return (await rows<{ id: string }>(context.db, 'SELECT DISTINCT library_id AS id FROM group_members WHERE group_id = :groupId', { groupId }, tx)).map(({ id }) => id);
}

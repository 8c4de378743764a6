import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import { completeRulebook, may, refuse, refuseUnsupported, type Role, roles as allRoles, type RulebookChoices } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { appendLedger } from '../store/applyDecision.ts';
import { isDuplicate, rows, transact, type Tx } from '../store/database.ts';
import { loadRules } from '../store/documents.ts';
import type { LibraryRow } from '../store/models.ts';
import { parseJson } from '../store/models.ts';
import { sightCondition } from '../store/sightSql.ts';
import { accessLibrary, actorIn, type Caller } from './access.ts';
import { refuseStale } from './precondition.ts';
import { entityTag } from './views.ts';

/** Makes a library with its first Rulebook; whoever makes it becomes no member by that. */
export async function createLibrary(context: Context, caller: Caller, wanted: { name: string; code: string; purpose: string; rulebook: RulebookChoices }): Promise<contract.Library> {
  if (!caller.siteAdministrator) {
    throw new Refused(refuse('forbidden', 'not-administrator', 'New libraries are made by a site administrator. Ask one.'));
  }
  const rulebook = completeRulebook(wanted.rulebook);
  const unsupported = refuseUnsupported(rulebook);
  if (unsupported) throw new Refused(unsupported);
  const id = newId();
  const at = context.clock();
  try {
    await transact(context.db, async (transaction) => {
      await context.models.Library.create({ id, code: wanted.code, name: wanted.name, purpose: wanted.purpose, rulebookRevision: 1, createdAt: at }, { transaction });
      await context.models.RulebookRevision.create({ libraryId: id, revision: 1, rulebook, personId: caller.id, at, reason: 'New library' }, { transaction });
      await appendLedger(context, { at, personId: caller.id, libraryId: id, documentId: null, act: 'createLibrary', facts: { code: wanted.code, name: wanted.name } }, transaction);
    });
  } catch (error) {
    if (isDuplicate(error)) throw new Refused(refuse('conflict', 'code-taken', `There is a library with the code ${wanted.code} already. Choose another.`, { code: wanted.code }));
    throw error;
  }
  return (await readLibrary(context, caller, id)).view;
}

/** Libraries the caller is a member of; all of them for a site administrator. */
export async function listLibraries(context: Context, caller: Caller): Promise<contract.Library[]> {
  const libraries = await context.models.Library.findAll({ order: [['name', 'ASC']] });
  const views: contract.Library[] = [];
  for (const library of libraries) {
    const view = await libraryView(context, caller, library);
    if (view.roles.length > 0 || caller.siteAdministrator) views.push(view);
  }
  return views;
}

/** One library with its entity tag. */
export async function readLibrary(context: Context, caller: Caller, id: string): Promise<{ view: contract.Library; tag: string }> {
  const { library } = await accessLibrary(context, caller, id, { administrators: true });
  const view = await libraryView(context, caller, library);
  return { view, tag: libraryTag(library) };
}

const libraryTag = (library: LibraryRow): string => entityTag([library.name, library.purpose]);

async function libraryView(context: Context, caller: Caller, library: LibraryRow): Promise<contract.Library> {
  const actor = await actorIn(context, caller, library.id);
  const sight = sightCondition(actor, await loadRules(context, library.id));
  const [count] = await rows<{ total: number }>(context.db,
    `SELECT COUNT(*) AS total FROM documents d LEFT JOIN checkouts c ON c.document_id = d.id
     WHERE d.library_id = :id AND EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sight})`, { id: library.id, viewer: caller.id });
  return {
    id: library.id, name: library.name, code: library.code, purpose: library.purpose,
    roles: allRoles.filter((role) => actor.roles.has(role)), documents: Number(count?.total ?? 0),
  };
}

/** Changes a library's name or purpose. */
export async function changeLibrary(context: Context, caller: Caller, id: string, patch: { name?: string | undefined; purpose?: string | undefined }, ifMatch: string | undefined): Promise<contract.Library> {
  await transact(context.db, async (tx) => {
    const { library, actor } = await accessLibrary(context, caller, id, { tx });
    if (!may(actor.roles, 'changeLibrary')) throw new Refused(refuse('forbidden', 'role-missing', 'A library is changed by its controllers.', { needs: 'controllers' }));
    refuseStale(ifMatch, libraryTag(library), { now: library.name });
    await library.update({ ...(patch.name === undefined ? {} : { name: patch.name }), ...(patch.purpose === undefined ? {} : { purpose: patch.purpose }) }, { transaction: tx });
    await appendLedger(context, { at: context.clock(), personId: caller.id, libraryId: id, documentId: null, act: 'changeLibrary', facts: { ...patch } }, tx);
  });
  return (await readLibrary(context, caller, id)).view;
}

/** Members with their roles, by account. */
export async function listMembers(context: Context, caller: Caller, libraryId: string): Promise<{ members: contract.MemberView[]; tag: string }> {
  await accessLibrary(context, caller, libraryId, { administrators: true });
  const members = await readMembers(context, libraryId);
  return { members, tag: entityTag(members) };
}

async function readMembers(context: Context, libraryId: string, tx?: Tx): Promise<contract.MemberView[]> {
  const found = await rows<{ account: string; name: string; roles: string }>(context.db,
    `SELECT p.account, p.name, GROUP_CONCAT(m.role) AS roles FROM members m JOIN people p ON p.id = m.person_id
     WHERE m.library_id = :libraryId GROUP BY p.id ORDER BY p.account`, { libraryId }, tx);
  return found.map((row) => ({ account: row.account, name: row.name, roles: allRoles.filter((role) => row.roles.split(',').includes(role)) }));
}

/** Replaces a library's members. At least one of them is a controller. */
export async function setMembers(context: Context, caller: Caller, libraryId: string, wanted: readonly { account: string; roles: Role[] }[], ifMatch: string | undefined): Promise<contract.MemberView[]> {
  return transact(context.db, async (tx) => {
    const { actor } = await accessLibrary(context, caller, libraryId, { administrators: true, tx });
    if (!caller.siteAdministrator && !may(actor.roles, 'manageMembers')) {
      throw new Refused(refuse('forbidden', 'role-missing', 'Members are chosen by controllers of the library and site administrators.', { needs: 'controllers' }));
    }
    const before = await readMembers(context, libraryId, tx);
    refuseStale(ifMatch, entityTag(before), { now: `${before.length} members` });
    if (!wanted.some(({ roles }) => roles.includes('controller'))) {
      throw new Refused(refuse('invalid', 'last-controller', 'A library needs at least one controller. Keep one, or name another first.'));
    }
    const people = new Map((await context.models.Person.findAll({ where: { account: wanted.map(({ account }) => account) }, transaction: tx })).map((row) => [row.account, row.id]));
    const unknown = wanted.find(({ account }) => !people.has(account));
    if (unknown) throw new Refused(refuse('invalid', 'account-unknown', `There is no account ${unknown.account}.`, { account: unknown.account }));
    const given = new Set(wanted.flatMap(({ account, roles }) => roles.map((role) => `${people.get(account)} ${role}`)));
    await context.models.Member.destroy({ where: { libraryId }, transaction: tx });
    await context.models.Member.bulkCreate([...given].map((pair) => {
      const [personId, role] = pair.split(' ') as [string, Role];
      return { libraryId, personId, role };
    }), { transaction: tx });
    await appendLedger(context, {
      at: context.clock(), personId: caller.id, libraryId, documentId: null, act: 'setMembers',
      facts: { members: wanted.map(({ account, roles }) => `${account}: ${[...new Set(roles)].sort().join(' ')}`).sort() },
    }, tx);
    return readMembers(context, libraryId, tx);
  });
}

/** The rules in force, with who set them and why. */
export async function readRulebook(context: Context, caller: Caller, libraryId: string): Promise<contract.RulebookView> {
  const { library } = await accessLibrary(context, caller, libraryId, { administrators: true });
  const revision = await context.models.RulebookRevision.findOne({ where: { libraryId, revision: library.rulebookRevision } });
  const person = revision && await context.models.Person.findByPk(revision.personId);
  if (!revision) throw new Error(`library ${libraryId} has no rulebook`);
  return { revision: revision.revision, at: revision.at.toISOString(), by: person?.name ?? '', reason: revision.reason, rulebook: parseJson(revision.rulebook) };
}

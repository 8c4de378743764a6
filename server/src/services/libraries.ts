import { v7 as newId } from 'uuid';
import type * as contract from '@polychron/contract';
import { admitRulebook, type AskedRulebook, may, refuse, roles as allRoles } from '@polychron/core';
import type { Context } from '../context.ts';
import { accepted, Refused } from '../refused.ts';
import { appendLedger } from '../store/applyDecision.ts';
import { isDuplicate, rows, transact } from '../store/database.ts';
import { bytesKeptIn, loadRules } from '../store/documents.ts';
import type { LibraryRow } from '../store/models.ts';
import { sightCondition } from '../store/sightSql.ts';
import { accessLibrary, actorIn, type Caller } from './access.ts';
import { refuseUnknownApprovers } from './rulebooks.ts';
import { refuseStale } from './precondition.ts';
import { entityTag } from './views.ts';

/** Makes a library with its first Rulebook; whoever makes it becomes no member by that. */
export async function createLibrary(context: Context, caller: Caller, wanted: { name: string; code: string; purpose: string; rulebook: AskedRulebook }): Promise<contract.Library> {
  if (!caller.siteAdministrator) {
    throw new Refused(refuse('forbidden', 'not-administrator', 'New libraries are made by a site administrator. Ask one.'));
  }
  const rulebook = accepted(admitRulebook(wanted.rulebook));
  const id = newId();
  const at = context.clock();
  try {
    await transact(context.db, async (transaction) => {
      await refuseUnknownApprovers(context, rulebook, transaction);
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
    // Seen as somebody else, the list is of the libraries where the caller may look so, and the other is a member.
    const view = await libraryView(context, caller, library).catch((error: unknown) => {
      if (caller.as !== undefined && error instanceof Refused) return null;
      throw error;
    });
    if (view && (view.roles.length > 0 || (caller.siteAdministrator && caller.as === undefined))) views.push(view);
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
  const rules = await loadRules(context, library.id);
  const [count] = await rows<{ total: number }>(context.db,
    `SELECT COUNT(*) AS total FROM documents d LEFT JOIN checkouts c ON c.document_id = d.id
     WHERE d.library_id = :id AND EXISTS (SELECT 1 FROM versions v WHERE v.document_id = d.id AND ${sightCondition(actor, rules)})`, { id: library.id, viewer: actor.id });
  const { numbering, custody, saves, checkInComment, allowanceBytes, approval } = rules;
  return {
    id: library.id, name: library.name, code: library.code, purpose: library.purpose,
    roles: allRoles.filter((role) => actor.roles.has(role)), documents: Number(count?.total ?? 0),
    rules: { numbering, custody, saves, checkInComment, allowanceBytes, approval: approval.on },
    // The sum tells of hidden versions too; it is for those who have to keep within it.
    bytesKept: allowanceBytes !== null && may(actor.roles, 'checkIn') ? await bytesKeptIn(context, library.id) : null,
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

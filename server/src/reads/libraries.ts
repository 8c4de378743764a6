import type * as contract from '@polychron/contract';
import { may, patternFor, type Role, roles as allRoles, type Rulebook } from '@polychron/core';
import { actorIn } from '../access/actor.ts';
import { lookingBackIn } from '../access/lookingBack.ts';
import { accessLibrary, noLibrary, requireRole, sightIn } from '../access/admission.ts';
import type { Asker, LibraryActor } from '../access/caller.ts';
import { entityTag } from '../access/preconditions.ts';
import { Refused } from '../refused.ts';
import { bytesHeldAgainst, proposeNumber } from '../store/documents.ts';
import { allLibraries, countDocuments, formerCodesOf, librariesByIds } from '../store/libraries.ts';
import { librariesOf } from '../store/members.ts';
import type { LibraryRow } from '../store/models.ts';
import { rulesAsOf } from '../store/past.ts';
import { loadRules, statesOf } from '../store/rules.ts';
import { libraryActs } from './mayDo.ts';

/** The entity tag of what can be changed of a library. */
export const libraryTag = ({ name, code, purpose, closedAt }: LibraryRow): string =>
  entityTag([name, code, purpose, closedAt]);

/**
 * Libraries the caller is a member of, and was at the moment they look at; all of them for a system
 * administrator.
 */
export async function listLibraries(asker: Asker): Promise<contract.Library[]> {
  const { context, caller, asOf } = asker;
  const all = caller.systemAdministrator && caller.as === undefined;
  const roles = await librariesOf(context, caller.id);
  const libraries = await (all ? allLibraries(context) : librariesByIds(context, [...roles.keys()]));
  const views: (contract.Library | null)[] = [];
  if (asOf || caller.as !== undefined)
    for (const library of libraries) views.push(await viewOrNone(asker, library));
  else views.push(...(await presentViews(asker, libraries, roles)));
  return views.filter((view) => view !== null).filter((view) => all || view.roles.length > 0);
}

/** Libraries as they are, with the roles the caller has in each. */
async function presentViews(
  asker: Asker,
  libraries: readonly LibraryRow[],
  roles: ReadonlyMap<string, ReadonlySet<Role>>,
): Promise<contract.Library[]> {
  const { context, caller } = asker;
  const ids = libraries.map(({ id }) => id);
  const [states, former] = await Promise.all([statesOf(context, ids), formerCodesOf(context, ids)]);
  const views: contract.Library[] = [];
  for (const library of libraries) {
    const { id } = library;
    const actor = { id: caller.id, name: caller.name, roles: roles.get(id) ?? new Set<Role>() };
    const rules = states.get(id)?.rules;
    const formerCodes = former.get(id) ?? [];
    if (rules) views.push(await libraryView(asker, library, { actor, rules, formerCodes }));
  }
  return views;
}

/**
 * Seen as somebody else, the list is of the libraries where the caller may look so, and the other is a
 * member.
 */
async function viewOrNone(asker: Asker, library: LibraryRow): Promise<contract.Library | null> {
  try {
    return await viewOf(asker, library);
  } catch (error) {
    if (asker.caller.as !== undefined && error instanceof Refused) return null;
    throw error;
  }
}

/** A library as the caller sees it, now or as it was; null where they were no member then, or it was not. */
async function viewOf(asker: Asker, library: LibraryRow): Promise<contract.Library | null> {
  const { context, caller, asOf: at } = asker;
  const formerCodes = (await formerCodesOf(context, [library.id])).get(library.id) ?? [];
  if (!at) {
    const { id } = library;
    const [actor, rules] = await Promise.all([actorIn(context, caller, id), loadRules(context, id)]);
    return libraryView(asker, library, { actor, rules, formerCodes });
  }
  const viewers = await lookingBackIn(asker, library.id, at);
  const isMember = viewers.then.roles.size > 0 && viewers.now.roles.size > 0;
  const rules = (await rulesAsOf(context, [library.id], at)).get(library.id);
  if (!isMember || !rules || library.createdAt.getTime() > at.getTime()) return null;
  const closedAt = library.closedAt && library.closedAt.getTime() <= at.getTime() ? library.closedAt : null;
  return libraryView(
    asker,
    { id: library.id, name: library.name, code: library.code, purpose: library.purpose, closedAt },
    { actor: viewers.then, rules, formerCodes },
  );
}

/** One library with its entity tag. @throws Refused `library-not-found` */
export async function readLibrary(
  asker: Asker,
  id: string,
): Promise<{ view: contract.Library; tag: string }> {
  const { library } = await accessLibrary(asker, id, { administrators: true });
  const view = await viewOf(asker, library);
  if (!view) throw noLibrary();
  return { view, tag: libraryTag(library) };
}

/** The number a new document of a type would get now; for those who register documents. */
export async function readNextNumber(
  asker: Asker,
  id: string,
  type: string | undefined,
): Promise<contract.NextNumber> {
  const { actor, rules, state } = await sightIn(asker, id);
  requireRole(actor, 'create', 'Registering a document');
  const pattern = patternFor(rules.numberPatterns, state.library.code, type);
  return { number: await proposeNumber(asker.context, id, pattern) };
}

async function libraryView(
  { context, caller, asOf }: Asker,
  library: Pick<LibraryRow, 'id' | 'name' | 'code' | 'purpose' | 'closedAt'>,
  { actor, rules, formerCodes }: { actor: LibraryActor; rules: Rulebook; formerCodes: string[] },
): Promise<contract.Library> {
  const { id, name, code, purpose } = library;
  const { numbering, numberPatterns, fields, custody, saves, checkInComment, allowanceBytes } = rules;
  // The sum tells of hidden versions too; it is for those who have to keep within it.
  const tellsBytes = may(actor.roles, 'checkIn');
  return {
    id,
    name,
    code,
    formerCodes,
    purpose,
    closed: library.closedAt?.toISOString() ?? null,
    roles: allRoles.filter((role) => actor.roles.has(role)),
    acts: libraryActs(actor, caller, library),
    documents: asOf ? null : await countDocuments(context, id, actor, rules),
    rules: {
      ...{ numbering, numberPatterns, fields, custody, saves, checkInComment, allowanceBytes },
      approval: rules.approval.on,
    },
    bytesKept: tellsBytes && !asOf ? await bytesHeldAgainst(context, id, rules) : null,
  };
}

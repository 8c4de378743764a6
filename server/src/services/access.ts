import { type Actor, explainVersion, may, parseLabel, refuse, type Role, roles, rolesFor, type Version } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { rows, type Tx } from '../store/database.ts';
import { type LoadedDocument, loadDocuments, lockDocument, toVersion } from '../store/documents.ts';
import type { LibraryRow } from '../store/models.ts';
import { newestVisible } from '../store/visibleVersions.ts';

/** Who is signed in. */
export interface Caller {
  id: string; account: string; name: string; siteAdministrator: boolean;
  /** Set while a controller only looks, as another person (an account) or role (`role:reader`). */
  as?: string | undefined;
}

/** Somebody in a library. `lookingAs` is set while a controller sees it as somebody else, and can then only look. */
export type LibraryActor = Actor & { lookingAs?: string };

/** Somebody looking at or acting on one document. */
export interface Access { document: LoadedDocument; actor: LibraryActor }

export const noDocument = (): Refused => new Refused(refuse('notFound', 'document-not-found', 'There is no such document, or nothing of it that you may see.'));
const noLibrary = (): Refused => new Refused(refuse('notFound', 'library-not-found', 'There is no such library, or you are not a member of it.'));

/** Roles people hold in a library, their own and their groups', by person; of one person where `personId` is given. */
export async function rolesIn(context: Context, libraryId: string, personId: string | null, tx?: Tx): Promise<Map<string, Set<Role>>> {
  const held = await rows<{ personId: string; role: Role }>(context.db,
    `SELECT person_id AS personId, role FROM held_roles WHERE library_id = :libraryId ${personId === null ? '' : 'AND person_id = :personId'}`, { libraryId, personId }, tx);
  const roles = new Map<string, Set<Role>>();
  for (const { personId: id, role } of held) roles.set(id, (roles.get(id) ?? new Set()).add(role));
  return roles;
}

/**
 * The caller with the roles they hold in a library; for a controller who looks as somebody else, that person or role.
 * @throws Refused `role-missing` where the caller is no controller, `account-unknown` where there is no such member or role
 */
export async function actorIn(context: Context, caller: Caller, libraryId: string, tx?: Tx): Promise<LibraryActor> {
  const held = (await rolesIn(context, libraryId, caller.id, tx)).get(caller.id) ?? new Set<Role>();
  if (caller.as === undefined || held.size === 0) return { id: caller.id, name: caller.name, roles: held };
  if (!may(held, 'seeAs')) throw new Refused(refuse('forbidden', 'role-missing', 'Seeing a library as somebody else is for its controllers.', { needs: rolesFor('seeAs') }));
  const role = roles.find((one) => caller.as === `role:${one}`);
  if (role) return { id: `role ${role}`, name: `a ${role}`, roles: new Set([role]), lookingAs: caller.as };
  const person = await context.models.Person.findOne({ where: { account: caller.as }, transaction: tx ?? null });
  const theirs = person && (await rolesIn(context, libraryId, person.id, tx)).get(person.id);
  if (!person || !theirs) throw new Refused(refuse('invalid', 'account-unknown', `${caller.as.slice(0, 60)} is no member of this library. Name an account, or a role as role:reader.`, { as: caller.as.slice(0, 60) }));
  return { id: person.id, name: person.name, roles: theirs, lookingAs: caller.as };
}

/**
 * A library the caller may look at.
 * @param administrators whether a site administrator may too, without being a member
 * @throws Refused `library-not-found`
 */
export async function accessLibrary(context: Context, caller: Caller, libraryId: string, options: { administrators?: boolean; tx?: Tx } = {}): Promise<{ library: LibraryRow; actor: LibraryActor }> {
  const library = await context.models.Library.findByPk(libraryId, { transaction: options.tx ?? null, ...(options.tx ? { lock: options.tx.LOCK.UPDATE } : {}) });
  if (!library) throw noLibrary();
  const actor = await actorIn(context, caller, libraryId, options.tx);
  if (actor.roles.size === 0 && !(options.administrators && caller.siteAdministrator)) throw noLibrary();
  return { library, actor };
}

/**
 * A document the caller sees something of; inside a transaction its head is locked.
 * @throws Refused `document-not-found`, also where there is one and the caller sees no version of it
 */
export async function accessDocument(context: Context, caller: Caller, documentId: string, tx?: Tx): Promise<Access> {
  const document = tx ? await lockDocument(context, documentId, tx) : (await loadDocuments(context, [documentId])).get(documentId);
  if (!document) throw noDocument();
  const actor = await actorIn(context, caller, document.libraryId, tx);
  if (!await seesAny(context, { document, actor }, tx)) throw noDocument();
  return { document, actor };
}

async function seesAny(context: Context, { document, actor }: Access, tx?: Tx): Promise<boolean> {
  if (explainVersion(document, actor, document.latest).sees) return true;
  if (document.inForce && explainVersion(document, actor, document.inForce).sees) return true;
  return (await newestVisible(context, actor, document.rules, [document.id], 1, tx)).size > 0;
}

/**
 * A version by label (`8.1`, `2~3.0`) or id.
 * @throws Refused `version-not-found`, alike for one that does not exist and one the caller may not see
 */
export async function findVersion(context: Context, { document, actor }: Access, name: string, tx?: Tx): Promise<Version> {
  const label = parseLabel(name);
  const where = label
    ? { documentId: document.id, era: label.era ?? document.presentEra, major: label.major, minor: label.minor ?? 0 }
    : { documentId: document.id, id: name };
  const row = await context.models.Version.findOne({ where, transaction: tx ?? null });
  const version = row ? toVersion(row) : null;
  if (version && explainVersion(document, actor, version).sees) return version;
  throw new Refused(refuse('notFound', 'version-not-found', `${document.number} has no version ${name.slice(0, 64)} that you may see.`, { version: name.slice(0, 64) }));
}

/** A version's content can be asked for only while it is kept. @throws Refused `content-thinned` */
export function refuseThinned(version: Version, label: string): Version {
  if (!version.thinned) return version;
  const { at, until, why } = version.thinned;
  throw new Refused(refuse('conflict', 'content-thinned',
    `The content of ${label.slice(0, 64)} was thinned. ${why} Its record stays; until ${until.toISOString()} a controller can recover the content.`,
    { at: at.toISOString(), until: until.toISOString(), why }));
}

/** The id of a member of a library by account. @throws Refused `account-unknown` */
export async function memberId(context: Context, libraryId: string, account: string, tx: Tx): Promise<string> {
  const person = await context.models.Person.findOne({ where: { account }, transaction: tx });
  const held = person && (await rolesIn(context, libraryId, person.id, tx)).get(person.id);
  if (!person || !held) throw new Refused(refuse('invalid', 'account-unknown', `${account} is no member of this library.`, { account }));
  return person.id;
}

import { type Actor, explainVersion, parseLabel, refuse, type Role, type Version } from '@polychron/core';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { type LoadedDocument, loadDocuments, lockDocument, toVersion } from '../store/documents.ts';
import type { LibraryRow } from '../store/models.ts';
import { newestVisible } from '../store/visibleVersions.ts';

/** Who is signed in. */
export interface Caller { id: string; account: string; name: string; siteAdministrator: boolean }

/** Somebody looking at or acting on one document. */
export interface Access { document: LoadedDocument; actor: Actor }

export const noDocument = (): Refused => new Refused(refuse('notFound', 'document-not-found', 'There is no such document, or nothing of it that you may see.'));
const noLibrary = (): Refused => new Refused(refuse('notFound', 'library-not-found', 'There is no such library, or you are not a member of it.'));

/** The caller with the roles they hold in a library. */
export async function actorIn(context: Context, caller: Caller, libraryId: string, tx?: Tx): Promise<Actor> {
  const held = await context.models.Member.findAll({ where: { libraryId, personId: caller.id }, transaction: tx ?? null });
  return { id: caller.id, name: caller.name, roles: new Set<Role>(held.map((row) => row.role)) };
}

/**
 * A library the caller may look at.
 * @param administrators whether a site administrator may too, without being a member
 * @throws Refused `library-not-found`
 */
export async function accessLibrary(context: Context, caller: Caller, libraryId: string, options: { administrators?: boolean; tx?: Tx } = {}): Promise<{ library: LibraryRow; actor: Actor }> {
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

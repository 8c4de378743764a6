import {
  type Act,
  dateWords,
  labelIn,
  type ParsedLabel,
  seesVersion,
  parseLabel,
  refuse,
  refuseByRole,
  refuseVoided,
  type Refusal,
  type Version,
} from '@polychron/core';
import { Refused } from '../refused.ts';
import { findHeld, type Held } from '../store/custody.ts';
import type { Tx } from '../store/database.ts';
import { loadDocument, type LoadedDocument, lockDocument } from '../store/documents.ts';
import { findLibrary } from '../store/libraries.ts';
import type { LibraryRow } from '../store/models.ts';
import { findLibraryState, type LibraryState } from '../store/rules.ts';
import { seenNamed, versionsAsOf } from '../store/past.ts';
import { findVersionNamed, findVersions, newestVisible, type Sight } from '../store/versions.ts';
import { actorIn } from './actor.ts';
import type { Access, Admitted, Asker, Caller, LibraryActor } from './caller.ts';
import { accessAsOf } from './lookingBack.ts';
import { sees } from './sees.ts';

/** What is said of a document that is not there for the caller. */
export const noDocument = (): Refused =>
  new Refused(
    refuse('notFound', 'document-not-found', 'There is no such document, or nothing of it that you may see.'),
  );
/** What is said of a library that is not there for the caller. */
export const noLibrary = (): Refused =>
  new Refused(
    refuse('notFound', 'library-not-found', 'There is no such library, or you are not a member of it.'),
  );

/**
 * Refuses an act the actor's roles do not allow, `doing` opening the sentence. @throws Refused `role-missing`
 */
export function requireRole(actor: LibraryActor, act: Act, doing: string): void {
  const refusal = refuseByRole(actor, act, doing);
  if (refusal) throw new Refused(refusal);
}

/** What is said of acts in a closed library; null where it is open. */
export function refusalOfClosed(closed: { name: string; at: Date } | null): Refusal | null {
  if (!closed) return null;
  const since = closed.at.toISOString();
  const reason = `${closed.name} is closed since ${dateWords(since)}: its documents can be read, nothing in it changes. Its controllers can open it again.`;
  return refuse('conflict', 'library-closed', reason, { since });
}

/** What is said of acts on a document that stands, in an open library, alone; null where it does. */
export const refusalOfShut = (document: LoadedDocument): Refusal | null =>
  refusalOfClosed(document.closed) ?? refuseVoided(document);

/** @throws Refused `library-closed` */
export function requireOpen({ name, closedAt }: Pick<LibraryRow, 'name' | 'closedAt'>): void {
  const refusal = refusalOfClosed(closedAt && { name, at: closedAt });
  if (refusal) throw new Refused(refusal);
}

/** Refuses whoever is no system administrator. @throws Refused `not-administrator` */
export function requireAdministrator(caller: Caller, doing: string): void {
  if (caller.systemAdministrator) return;
  const reason = `${doing} by a system administrator. Ask one.`;
  throw new Refused(refuse('forbidden', 'not-administrator', reason));
}

/**
 * A library the caller may look at; locked against other changes inside a transaction.
 * @param options.administrators whether a system administrator may too, without being a member
 * @throws Refused `library-not-found`
 */
export async function accessLibrary(
  { context, caller }: Asker,
  libraryId: string,
  options: { administrators?: boolean; tx?: Tx } = {},
): Promise<{ library: LibraryRow; actor: LibraryActor }> {
  const [library, actor] = await Promise.all([
    findLibrary(context, libraryId, options.tx),
    actorIn(context, caller, libraryId, options.tx),
  ]);
  if (!library) throw noLibrary();
  const administers = options.administrators && caller.systemAdministrator;
  if (actor.roles.size === 0 && !administers) throw noLibrary();
  return { library, actor };
}

/** How somebody sees a library's documents, and how the library stands. */
export interface SightIn extends Sight {
  libraryId: string;
  state: LibraryState;
}

/** How the caller sees a library's documents. @throws Refused `library-not-found` */
export async function sightIn(asker: Asker, libraryId: string): Promise<SightIn> {
  const { context, caller } = asker;
  const [actor, state] = await Promise.all([
    actorIn(context, caller, libraryId),
    findLibraryState(context, libraryId),
  ]);
  if (!state || actor.roles.size === 0) throw noLibrary();
  return { actor, rules: state.rules, libraryId, state };
}

/**
 * A document the caller sees something of, now or at the moment they look at; inside a transaction its head
 * is locked.
 * @throws Refused `document-not-found`, also where there is one and the caller sees no version of it
 */
export async function accessDocument(asker: Asker, documentId: string, tx?: Tx): Promise<Access> {
  const { context, asOf } = asker;
  if (asOf) {
    const past = await accessAsOf(asker, documentId, asOf);
    if (past) return past;
    throw noDocument();
  }
  const access = tx ? await lockFor(asker, documentId, tx) : await loadFor(asker, documentId);
  if (!access || !(await seesAny(context, access, tx))) throw noDocument();
  return access;
}

async function lockFor({ context, caller }: Asker, documentId: string, tx: Tx): Promise<Access | null> {
  const document = await lockDocument(context, documentId, tx);
  return document && { document, actor: await actorIn(context, caller, document.libraryId, tx) };
}

/** The document and what the caller is in its library, asked at once. */
async function loadFor({ context, caller }: Asker, documentId: string): Promise<Access | null> {
  const [document, actor] = await Promise.all([
    loadDocument(context, documentId),
    actorIn(context, caller, { ofDocument: documentId }),
  ]);
  return document && { document, actor };
}

/**
 * A document for an act, once core lets the caller through.
 * @param refuses what core says of the caller's rights, by nothing but state, roles and sight
 * @throws Refused `document-not-found`, or what core refuses with
 */
export async function admit(
  asker: Asker,
  documentId: string,
  refuses: (access: Access) => Refusal | null,
): Promise<Admitted> {
  const access = await accessDocument(asker, documentId);
  const refusal = refusalOfShut(access.document) ?? refuses(access);
  if (refusal) throw new Refused(refusal);
  return access as Admitted;
}

async function seesAny(context: Asker['context'], { document, actor }: Access, tx?: Tx): Promise<boolean> {
  const { id, latest, inForce, rules } = document;
  if (seesVersion(document, actor, latest)) return true;
  if (inForce && seesVersion(document, actor, inForce)) return true;
  return (await newestVisible(context, { actor, rules }, { documentIds: [id], count: 1 }, tx)).size > 0;
}

/**
 * What the caller holds of a document, without loading the document: asked before an upload is read.
 * @returns null where they hold it not, or are no member any more
 */
export async function heldByCaller({ context, caller }: Asker, documentId: string): Promise<Held | null> {
  const held = await findHeld(context, documentId, caller.id);
  if (!held) return null;
  const { roles } = await actorIn(context, caller, held.libraryId);
  return roles.size > 0 ? held : null;
}

/**
 * A version by label (`8.1`, `2~3.0`) or id.
 * @throws Refused `version-not-found`, alike for one that does not exist and one the caller may not see
 */
export async function findVersion(
  { context }: Pick<Asker, 'context'>,
  access: Access,
  name: string,
  tx?: Tx,
): Promise<Version> {
  const { document, past } = access;
  const asked = parseLabel(name) ?? { id: name };
  const version = past
    ? await versionSeenThen(context, access, asked)
    : await findVersionNamed(context, document, asked, tx);
  if (version && sees(access, version)) return version;
  const named = name.slice(0, 64);
  const reason = `${document.number} has no version ${named} that you may see.`;
  throw new Refused(refuse('notFound', 'version-not-found', reason, { version: named }));
}

/** A version as it stood at the moment looked at. */
async function versionSeenThen(
  context: Asker['context'],
  { document, past }: Access,
  name: ParsedLabel | { id: string },
): Promise<Version | null> {
  const seen = past && seenNamed({ document, seen: past.seen }, name);
  return (seen && (await versionsAsOf(context, [seen.id], past.at)).get(seen.id)) ?? null;
}

/**
 * A version whose content is wanted: who looks back gets it as long as it is kept now.
 * @throws Refused `version-not-found` as `findVersion`, `content-thinned`
 */
export async function findContent(asker: Asker, access: Access, name: string): Promise<Version> {
  const version = await findVersion(asker, access, name);
  const kept = access.past ? (await findVersions(asker.context, [version.id])).get(version.id) : version;
  return requireContent({ ...version, thinned: kept?.thinned ?? null }, labelIn(access.document, version));
}

/** A version's content can be asked for only while it is kept. @throws Refused `content-thinned` */
export function requireContent(version: Version, label: string): Version {
  if (!version.thinned) return version;
  const { at, until, why } = version.thinned;
  const reason = `The content of ${label.slice(0, 64)} was thinned. ${why} Its record stays; until ${dateWords(until)} a controller can recover the content.`;
  const facts = { at: at.toISOString(), until: until.toISOString(), why };
  throw new Refused(refuse('conflict', 'content-thinned', reason, facts));
}

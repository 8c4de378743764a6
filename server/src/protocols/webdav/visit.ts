import { liveLock, refuse } from '@polychron/core';
import type { Request, Response } from 'express';
import { noDocument } from '../../access/admission.ts';
import type { Asker } from '../../access/caller.ts';
import { matches } from '../../access/preconditions.ts';
import { requireUploader } from '../../acts/deskFiles.ts';
import { locksOn } from '../../acts/ownPlaces.ts';
import { type DrivePlace, findPlace } from '../../reads/drive.ts';
import { Refused } from '../../refused.ts';
import { codeSince } from '../../store/libraries.ts';
import { type ConditionList, holds, readIf, type ResourceState, tokensIn } from './ifHeader.ts';
import { segmentOf } from './segment.ts';
import { fileTag, isAmong } from './tags.ts';

/** One request at the door: who asks, for what, and which locks their program says it has. */
export interface Visit {
  asker: Asker;
  /** The names on the address. */
  names: string[];
  /** Null where nothing stands there that the caller may see. */
  place: DrivePlace | null;
  tokens: ReadonlySet<string>;
  req: Request;
  res: Response;
}

/** A request that is not understood. */
export const badRequest = (code: string, reason: string): Refused =>
  new Refused(refuse('invalid', code, reason));

/** The names on a path. @throws Refused `document-not-found` where it is none */
export function namesOn(path: string): string[] {
  try {
    return path
      .split('/')
      .filter((part) => part !== '')
      .map(decodeURIComponent);
  } catch (error) {
    if (error instanceof URIError) throw noDocument();
    throw error;
  }
}

/** What was asked for has another address since, for good. */
export class Moved extends Error {
  readonly to: string;
  constructor(to: string) {
    super(`it is at ${to} now`);
    this.to = to;
  }
}

/** The names on an address since its library has another code; null where it still has that one. */
async function namesSince(asker: Asker, [code, ...rest]: readonly string[]): Promise<string[] | null> {
  const now = code === undefined ? null : await codeSince(asker.context, code, asker.caller.id);
  return now === null ? null : [now, ...rest];
}

/** Looks at a request, once its conditions hold. @throws Refused `precondition-failed`, `malformed-if` */
export async function visit(asker: Asker, req: Request, res: Response): Promise<Visit> {
  if (req.originalUrl.includes('#'))
    throw badRequest('malformed-request', 'An address of the drive has no part behind a #.');
  const names = namesOn(req.path);
  const moved = await namesSince(asker, names);
  const slash = req.path.endsWith('/') ? '/' : '';
  if (moved) throw new Moved(`${req.baseUrl}/${moved.map(segmentOf).join('/')}${slash}`);
  const place = await findPlace(asker, names);
  const header = req.get('if');
  const lists = header === undefined ? [] : readIf(header);
  const one = { asker, names, place, tokens: tokensIn(lists), req, res };
  if (lists.length > 0 && !(await anyHolds(one, lists)))
    throw failed('None of the conditions of the If header holds.');
  requireTags(one);
  return one;
}

/** What stands at the address. @throws Refused `document-not-found` */
export function standing({ place }: Visit): DrivePlace {
  if (!place) throw noDocument();
  return place;
}

const failed = (reason: string): Refused => new Refused(refuse('stale', 'precondition-failed', reason));

async function anyHolds(one: Visit, lists: readonly ConditionList[]): Promise<boolean> {
  for (const list of lists) if (holds(list, await stateFor(one, list))) return true;
  return false;
}

async function stateFor(
  { asker, names, place, req }: Visit,
  { resource }: ConditionList,
): Promise<ResourceState> {
  if (resource === null) return stateOf(asker, names, place);
  const other = await namesAt(asker, resource, req);
  return other ? stateOf(asker, other, await findPlace(asker, other)) : { tokens: new Set(), tag: null };
}

/** The tokens that lock a place, as far as they are the caller's, and its entity tag. */
async function stateOf(
  asker: Asker,
  names: readonly string[],
  place: DrivePlace | null,
): Promise<ResourceState> {
  if (place?.kind === 'file') {
    const { custody } = place.file;
    const lock = custody?.holderId === asker.caller.id ? liveLock(custody, asker.context.clock()) : null;
    return { tokens: new Set(lock ? [lock.token] : []), tag: tagOf(place) };
  }
  const locks = await locksOn(asker, names);
  return { tokens: new Set(locks.map(({ token }) => token)), tag: tagOf(place) };
}

/** The entity tag of what stands at a place; null for folders and nothing. */
function tagOf(place: DrivePlace | null): string | null {
  if (place?.kind === 'file') return fileTag(place.file.sha256);
  if (place?.kind === 'version') return fileTag(place.version.content.sha256);
  const file = place?.kind === 'own' ? place.own.file : null;
  return file && fileTag(file.content.sha256);
}

/** What changes something does so only to what the program knows (RFC 9110, 13.1). */
function requireTags({ place, req }: Visit): void {
  if (['GET', 'HEAD', 'PROPFIND'].includes(req.method)) return;
  const tag = tagOf(place);
  const [wanted, unwanted] = [req.get('if-match'), req.get('if-none-match')];
  if (wanted !== undefined && !(tag !== null && matches(wanted, tag)))
    throw failed('It is not there, or has changed since it was read.');
  if (unwanted !== undefined && place && (unwanted.trim() === '*' || (tag && isAmong(unwanted, tag))))
    throw failed('It is there already.');
}

/**
 * The names on an address that a header says in whole, or by its path, as they are now; null where it is not
 * on the drive.
 */
export async function namesAt(asker: Asker, address: string, req: Request): Promise<string[] | null> {
  const at = URL.canParse(address, `${req.protocol}://${req.host}`)
    ? new URL(address, `${req.protocol}://${req.host}`)
    : null;
  if (!at || at.host !== new URL(`${req.protocol}://${req.host}`).host) return null;
  if (!at.pathname.startsWith('/dav/')) return null;
  const names = namesOn(at.pathname.slice('/dav'.length));
  return (await namesSince(asker, names)) ?? names;
}

/** Asks for the folder of something new. @throws Refused `no-folder`, `role-missing`, `not-a-place` */
export async function requireFolder({ asker }: Visit, names: readonly string[]): Promise<void> {
  const above = names.slice(0, -1);
  const folder = await findPlace(asker, above);
  if (!folder || folder.kind === 'file' || (folder.kind === 'own' && folder.own.file))
    throw new Refused(refuse('conflict', 'no-folder', 'There is no such folder for it to stand in.'));
  if (folder.kind === 'site') throw forbidden('not-a-place', 'Only libraries and the Desk stand here.');
  if (folder.kind === 'desk' || folder.kind === 'own') await requireUploader(asker);
  else if (folder.kind !== 'folder') throw notHere('Putting something among versions');
  else if (!folder.mayCreate)
    throw forbidden('role-missing', 'Registering a document is for authors and controllers of a library.');
}

/** What is refused whoever asks. */
export const forbidden = (code: string, reason: string): Refused =>
  new Refused(refuse('forbidden', code, reason));

/** What is done to documents in the page, and why not here. */
export const notHere = (doing: string): Refused =>
  forbidden('not-by-drive', `${doing} is not done on the drive. Do it in the page, which says what follows.`);

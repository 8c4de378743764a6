import { isTemporaryName, refuse } from '@polychron/core';
import {
  type CopySource,
  performCopyToOwn,
  performMakeFolder,
  performMoveOwn,
  performRemoveOwn,
} from '../../acts/ownPlaces.ts';
import { readChunks } from '../../content/contents.ts';
import { type DrivePlace, findPlace } from '../../reads/drive.ts';
import { Refused } from '../../refused.ts';
import { Readable } from 'node:stream';
import { putDocument, putOwn } from './put.ts';
import { badRequest, forbidden, namesAt, notHere, requireFolder, standing, type Visit } from './visit.ts';
import { fileTag } from './tags.ts';

/** MKCOL (RFC 4918, 9.3): a folder of one's own. */
export async function makeFolder(visit: Visit): Promise<void> {
  const { asker, place, names, req, res } = visit;
  if (Number(req.get('content-length') ?? 0) > 0 || req.get('transfer-encoding') !== undefined)
    throw new Refused(
      refuse('invalid', 'body-not-wanted', 'A folder is made without a body (RFC 4918, 9.3).'),
    );
  if (place) {
    res.status(405).end();
    return;
  }
  await requireFolder(visit, names);
  await performMakeFolder(asker, visit);
  res.status(201).end();
}

/** DELETE (RFC 4918, 9.6): of one's own; documents do not go by it. */
export async function remove(visit: Visit): Promise<void> {
  const { asker, res } = visit;
  const place = standing(visit);
  if (place.kind !== 'own') throw notHere('Removing what others have');
  await performRemoveOwn(asker, visit);
  res.status(204).end();
}

interface Target {
  names: string[];
  place: DrivePlace | null;
}

/** Where something is to be copied or moved (RFC 4918, 9.8, 9.9, 10.3, 10.6). */
async function targetOf(visit: Visit): Promise<Target> {
  const { asker, names: from, req } = visit;
  const header = req.get('destination');
  if (header === undefined) throw badRequest('malformed-request', 'The Destination header is missing.');
  const names = await namesAt(asker, header, req);
  if (!names) throw badRequest('other-server', 'The destination is not on this drive.');
  const isIn = (inner: readonly string[], outer: readonly string[]): boolean =>
    outer.every((name, index) => inner[index] === name);
  if (isIn(names, from) || (isIn(from, names) && names.length > 0))
    throw forbidden('same-place', 'It cannot be put into itself, nor in the place of what it stands in.');
  const place = await findPlace(asker, names);
  if (place && (req.get('overwrite') ?? 'T').toUpperCase() === 'F')
    throw new Refused(refuse('stale', 'precondition-failed', 'Something stands there already.'));
  if (!place) await requireFolder(visit, names);
  return { names, place };
}

/** COPY (RFC 4918, 9.8): to a place of one's own; onto a document it is a save. */
export async function copy(visit: Visit): Promise<void> {
  const { asker, tokens, req, res } = visit;
  const source = sourceOf(standing(visit));
  const target = await targetOf(visit);
  const depth = (req.get('depth') ?? 'infinity').toLowerCase();
  if (depth !== '0' && depth !== 'infinity')
    throw badRequest('bad-depth', 'Depth of a copy is 0 or infinity (RFC 4918, 9.8.3).');
  if (target.place?.kind === 'file') {
    await saveOnto(visit, source, target.place);
    res.status(204).end();
    return;
  }
  requireOwn(target.place);
  const act = { names: target.names, tokens };
  const isNew =
    (await putWritten(visit, source, target)) ??
    (await performCopyToOwn(asker, source, act, depth === 'infinity'));
  res.status(isNew ? 201 : 204).end();
}

/** MOVE (RFC 4918, 9.9): of one's own; onto a document a save, as editors do that write beside it first. */
export async function move(visit: Visit): Promise<void> {
  const { asker, tokens, res } = visit;
  const place = standing(visit);
  const target = await targetOf(visit);
  if (place.kind === 'file') {
    // Editors put the file aside as a backup before they write it anew: it stays, and they have their copy.
    if (!isTemporaryName(target.names.at(-1) ?? '')) throw notHere('Moving or renaming a document');
    requireOwn(target.place);
    const act = { names: target.names, tokens };
    const isNew = await performCopyToOwn(asker, sourceOf(place), act, false);
    res.status(isNew ? 201 : 204).end();
    return;
  }
  if (place.kind !== 'own') throw notHere('Moving what others have');
  if (target.place?.kind === 'file') {
    await saveOnto(visit, sourceOf(place), target.place);
    await performRemoveOwn(asker, visit);
    res.status(204).end();
    return;
  }
  requireOwn(target.place);
  const written = await putWritten(visit, place, target);
  if (written !== null) await performRemoveOwn(asker, visit);
  const isNew = written ?? (await performMoveOwn(asker, place.own, { names: target.names, tokens }));
  res.status(isNew ? 201 : 204).end();
}

/**
 * What a program wrote under a name of its own is a file once it gets its name: it is read through then. Null
 * where that is not so.
 */
async function putWritten(
  visit: Visit,
  source: CopySource,
  { names, place }: Target,
): Promise<boolean | null> {
  const file = source.kind === 'own' ? source.own.file : null;
  const isFolder = place?.kind === 'own' && !place.own.file;
  if (file?.kind !== 'temporary' || isTemporaryName(names.at(-1) ?? '') || isFolder) return null;
  const { context } = visit.asker;
  const stream = Readable.from(readChunks(context, file.content.sha256));
  return (await putOwn(visit, { names, tokens: visit.tokens }, stream)).isNew;
}

function sourceOf(place: DrivePlace): CopySource {
  if (place.kind === 'own') return place;
  if (place.kind === 'version') return { kind: 'document', ...place.version };
  if (place.kind !== 'file') throw notHere('Copying a folder of a library');
  const { documentId, versionId, sha256, size, words, fileName, mediaType } = place.file;
  return { kind: 'document', documentId, versionId, content: { sha256, size, words, fileName, mediaType } };
}

function requireOwn(place: DrivePlace | null): void {
  if (place && place.kind !== 'own') throw notHere('Putting something in the place of a folder of a library');
}

async function saveOnto(
  visit: Visit,
  source: CopySource,
  target: Extract<DrivePlace, { kind: 'file' }>,
): Promise<void> {
  const content = source.kind === 'document' ? source.content : source.own.file?.content;
  if (!content) throw notHere('Putting a folder in the place of a document');
  const { context } = visit.asker;
  await putDocument(visit, target, Readable.from(readChunks(context, content.sha256)));
  visit.res.set('ETag', fileTag(content.sha256));
}

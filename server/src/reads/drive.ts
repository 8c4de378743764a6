import {
  driveFileName,
  drivePath,
  fromSegment,
  may,
  segmentSlash,
  subjectSegments,
  toSegment,
  versionsSegment,
} from '@polychron/core';
import { extname } from 'node:path';
import { noLibrary, sightIn } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { findFilesNumbered, findFilesOn, hasFilesUnder, type SeenFile } from '../store/files.ts';
import { numbersHeldBy } from '../store/custody.ts';
import { transact } from '../store/database.ts';
import { deskUse } from '../store/deskFiles.ts';
import { librariesOf, libraryOfCode } from '../store/libraries.ts';
import {
  filesWithoutPlace,
  findOwnPlace,
  insertOwnPlace,
  type OwnPlace,
  ownPlacesUnder,
} from '../store/ownPlaces.ts';
import { type DriveLibrary, type HistoryPlace, historyAt, inHistory } from './driveVersions.ts';
import { findSubjects } from '../store/register.ts';
import type { Sight } from '../store/versions.ts';

/**
 * What stands somewhere on the drive: all libraries; the caller's Desk; a folder of a library (its names are
 * subjects; none: the library itself); a document, also on the Desk of who holds it; something of the
 * caller's own, which nobody else sees; or the versions of documents.
 */
export type DrivePlace =
  | { kind: 'site' }
  | { kind: 'desk' }
  | { kind: 'folder'; library: DriveLibrary; names: readonly string[]; mayCreate: boolean }
  | { kind: 'file'; library: DriveLibrary; file: SeenFile; onDesk?: true }
  | { kind: 'own'; own: OwnPlace }
  | HistoryPlace;
/** A document on the drive. */
export type DriveFile = Extract<DrivePlace, { kind: 'file' }>;

/** What the Desk is called on the drive; no library has small letters in its code. */
export const deskName = 'Desk';

/** The segments of a place's address. */
export function addressOf(place: DrivePlace): string[] {
  if (place.kind === 'site') return [];
  if (place.kind === 'desk') return [deskName];
  if (place.kind === 'own') return [...place.own.names];
  if (place.kind === 'file') {
    const { library, file, onDesk } = place;
    return onDesk ? [deskName, driveFileName(file)] : drivePath({ code: library.code, ...file });
  }
  const { library } = place;
  if (place.kind === 'folder') return [library.code, ...subjectSegments(place.names)];
  if (place.kind === 'histories') return [library.code, versionsSegment];
  const history = historyOf(library, place.document.number);
  return place.kind === 'history' ? history : [...history, place.version.name];
}

const historyOf = ({ code }: DriveLibrary, number: string): string[] => [
  code,
  versionsSegment,
  toSegment(number),
];

/** Where the version stands that is a document's file now, among its versions. */
export const addressOfVersion = ({
  library,
  file: { number, label, title, fileName },
}: DriveFile): string[] => [...historyOf(library, number), driveFileName({ number: label, title, fileName })];

/**
 * What stands at an address, as far as the caller sees it; null where nothing does.
 * @throws Refused `library-not-found`
 */
export async function findPlace(asker: Asker, segments: readonly string[]): Promise<DrivePlace | null> {
  const [first] = segments;
  if (first === undefined) return { kind: 'site' };
  if (first === deskName) return segments.length === 1 ? { kind: 'desk' } : onDesk(asker, segments);
  return (await inLibrary(asker, segments)) ?? ownAt(asker, segments);
}

async function ownAt({ context, caller }: Asker, segments: readonly string[]): Promise<DrivePlace | null> {
  const own = await findOwnPlace(context, caller.id, segments);
  return own && { kind: 'own', own };
}

async function onDesk(asker: Asker, segments: readonly string[]): Promise<DrivePlace | null> {
  const [, name, ...deeper] = segments;
  if (deeper.length === 0)
    for (const place of await heldOnDesk(asker)) if (driveFileName(place.file) === name) return place;
  await placeDeskFiles(asker);
  return ownAt(asker, segments);
}

/** What the caller holds, as files of their Desk. */
async function heldOnDesk(asker: Asker): Promise<DriveFile[]> {
  const { context, caller } = asker;
  const held = await numbersHeldBy(context, caller.id);
  const places: DriveFile[] = [];
  for (const library of await librariesOf(context, caller.id)) {
    const numbers = held.flatMap(({ libraryId, number }) => (libraryId === library.id ? [number] : []));
    if (numbers.length === 0) continue;
    const files = await findFilesNumbered(context, library.id, await sightIn(asker, library.id), numbers);
    places.push(...files.map((file): DriveFile => ({ kind: 'file', library, file, onDesk: true })));
  }
  return places;
}

/** Gives files that came to the Desk by the page their place in its folder. */
async function placeDeskFiles({ context, caller }: Asker): Promise<void> {
  if ((await filesWithoutPlace(context, caller.id)).length === 0) return;
  await transact(context.db, async (tx) => {
    // One at a time: each file gets one place.
    await deskUse(context, caller.id, tx);
    const names = (await ownPlacesUnder(context, caller.id, [deskName], { deep: false, tx })).map((own) =>
      String(own.names.at(-1)),
    );
    for (const { id, fileName, createdAt } of await filesWithoutPlace(context, caller.id, tx)) {
      const name = freeName(toSegment(fileName), names);
      names.push(name);
      const place = { names: [deskName, name], createdAt, properties: [], fileId: id };
      await insertOwnPlace(context, caller.id, place, tx);
    }
  });
}

/** A name that none of these is, with a number behind it where needed. */
function freeName(name: string, taken: readonly string[]): string {
  const ending = extname(name);
  const beginning = name.slice(0, name.length - ending.length);
  let free = name;
  for (let count = 2; taken.includes(free); count += 1) free = `${beginning} (${count})${ending}`;
  return free;
}

/** What stands at an address of a library, for everybody who sees it. */
async function inLibrary(asker: Asker, [code = '', ...rest]: readonly string[]): Promise<DrivePlace | null> {
  const { context } = asker;
  const library = await libraryOfCode(context, code);
  if (!library) throw noLibrary();
  const sight = await sightIn(asker, library.id);
  const mayCreate = may(sight.actor.roles, 'create') && library.closedAt === null;
  const last = rest.at(-1);
  if (last === undefined) return { kind: 'folder', library, names: [], mayCreate };
  if (rest[0] === versionsSegment) return historyAt(asker, library, rest.slice(1));
  const [number = ''] = last.split(' ');
  for (const file of await findFilesNumbered(context, library.id, sight, [fromSegment(number)])) {
    const place: DrivePlace = { kind: 'file', library, file };
    if (addressOf(place).join('/') === [code, ...rest].join('/')) return place;
  }
  const isFolder = (names: readonly string[]): Promise<boolean> =>
    hasFilesUnder(context, library.id, sight, names);
  let names: string[] = [];
  for (const given of rest) {
    // A first subject that is called like the histories has a line behind it.
    const segment = names.length === 0 ? given.replace(/^(versions_*)_$/, '$1') : given;
    const asItIs = [...names, segment];
    const hasSlash = segment.includes(segmentSlash) && !(await isFolder(asItIs));
    names = hasSlash ? [...names, fromSegment(segment)] : asItIs;
  }
  return (await isFolder(names)) ? { kind: 'folder', library, names, mayCreate } : null;
}

/** Rows that are read at once. */
const atOnce = 500;

/** What stands in a place, part by part: folders first, what is the caller's own last. */
export async function* placesIn(asker: Asker, place: DrivePlace): AsyncGenerator<DrivePlace> {
  const { context, caller } = asker;
  if (place.kind === 'file' || (place.kind === 'own' && place.own.file)) return;
  if (place.kind === 'histories' || place.kind === 'history' || place.kind === 'version') {
    yield* inHistory(asker, place);
    return;
  }
  if (place.kind === 'site') {
    yield { kind: 'desk' };
    for (const library of await librariesOf(context, caller.id))
      yield { kind: 'folder', library, names: [], mayCreate: false };
    return;
  }
  if (place.kind === 'desk') await placeDeskFiles(asker);
  const owns = await ownPlacesUnder(context, caller.id, addressOf(place), { deep: false });
  const own = new Map(owns.map((one) => [String(one.names.at(-1)), one]));
  for await (const one of forAll(asker, place)) {
    // What stands there for everybody goes before what is one's own.
    own.delete(String(addressOf(one).at(-1)));
    yield one;
  }
  for (const one of own.values()) yield { kind: 'own', own: one };
}

async function* forAll(asker: Asker, place: DrivePlace): AsyncGenerator<DrivePlace> {
  if (place.kind === 'desk') yield* await heldOnDesk(asker);
  if (place.kind === 'folder') yield* inFolder(asker, place);
}

async function* inFolder(
  asker: Asker,
  { library, names, mayCreate }: Extract<DrivePlace, { kind: 'folder' }>,
): AsyncGenerator<DrivePlace> {
  if (names.length === 0) yield { kind: 'histories', library };
  const sight = await sightIn(asker, library.id);
  for await (const name of foldersOn(asker, library.id, { sight, names }))
    yield { kind: 'folder', library, names: [...names, name], mayCreate };
  for (let after = ''; ;) {
    const files = await findFilesOn(asker.context, library.id, sight, { names, after, count: atOnce });
    for (const file of files) yield { kind: 'file', library, file };
    const last = files.at(-1);
    if (!last || files.length < atOnce) return;
    after = last.documentId;
  }
}

async function* foldersOn(
  { context }: Asker,
  libraryId: string,
  { sight, names }: { sight: Sight; names: readonly string[] },
): AsyncGenerator<string> {
  for (let after = ''; ;) {
    const found = await findSubjects(context, libraryId, sight, { names: [...names], after, limit: atOnce });
    yield* found;
    const last = found.at(-1);
    if (last === undefined || found.length < atOnce) return;
    after = last;
  }
}

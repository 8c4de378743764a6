import { extname } from 'node:path';
import { noDocument, noLibrary, sightIn } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { findFilesNumbered, findFilesOn, hasFilesUnder, type SeenFile } from '../store/files.ts';
import { librariesOf, libraryOfCode } from '../store/libraries.ts';
import { findSubjects } from '../store/register.ts';
import type { Sight } from '../store/versions.ts';

/** A library on the drive, with how the caller sees it. */
interface DriveLibrary {
  id: string;
  code: string;
  name: string;
  createdAt: Date;
}

/**
 * What stands somewhere on the drive: all libraries, a folder of one (its names are subjects; none: the
 * library itself), or the latest version that the caller sees of a document.
 */
export type DrivePlace =
  | { kind: 'site' }
  | { kind: 'folder'; library: DriveLibrary; names: readonly string[] }
  | { kind: 'file'; library: DriveLibrary; file: SeenFile };

/** A segment of an address may hold no slash; what looks like one stands for it. */
const slash = '\uff0f';
const toSegment = (name: string): string => name.replaceAll('/', slash);
const fromSegment = (segment: string): string => segment.replaceAll(slash, '/');

/** Signs that some file systems have no names with. */
const unfit = /[\\:*?"<>|]|\p{Cc}/gu;
/** Bytes of a name at most: file systems take 255. */
const longestName = 240;

/** What a document is called on the drive: its number, by which it is found, title, and kind of file. */
export function fileNameOf({ number, title, fileName }: SeenFile): string {
  const extension = extname(fileName).slice(0, 20);
  const signs = Array.from(toSegment(title).replace(unfit, '-').trim());
  const named = (): string => `${toSegment(number)} ${signs.join('').trimEnd()}${extension}`;
  while (signs.length > 0 && Buffer.byteLength(named()) > longestName) signs.pop();
  return named();
}

/** The segments of a place's address. */
export function addressOf(place: DrivePlace): string[] {
  if (place.kind === 'site') return [];
  const names = place.kind === 'file' ? place.file.subjects : place.names;
  const folder = [place.library.code, ...names.map(toSegment)];
  return place.kind === 'file' ? [...folder, fileNameOf(place.file)] : folder;
}

/**
 * What stands at an address, as far as the caller sees it.
 * @throws Refused `library-not-found`, `document-not-found`
 */
export async function placeAt(asker: Asker, segments: readonly string[]): Promise<DrivePlace> {
  const { context } = asker;
  const [code, ...rest] = segments;
  if (code === undefined) return { kind: 'site' };
  const library = await libraryOfCode(context, code);
  if (!library) throw noLibrary();
  const sight = await sightIn(asker, library.id);
  const last = rest.at(-1);
  if (last === undefined) return { kind: 'folder', library, names: [] };
  const [number = ''] = last.split(' ');
  for (const file of await findFilesNumbered(context, library.id, sight, [fromSegment(number)])) {
    const place: DrivePlace = { kind: 'file', library, file };
    if (addressOf(place).join('/') === segments.join('/')) return place;
  }
  const isFolder = (names: readonly string[]): Promise<boolean> =>
    hasFilesUnder(context, library.id, sight, names);
  let names: string[] = [];
  for (const segment of rest) {
    const asItIs = [...names, segment];
    const hasSlash = segment.includes(slash) && !(await isFolder(asItIs));
    names = hasSlash ? [...names, fromSegment(segment)] : asItIs;
  }
  if (await isFolder(names)) return { kind: 'folder', library, names };
  throw noDocument();
}

/** Rows that are read at once. */
const atOnce = 500;

/** What stands in a place, part by part: folders first. */
export async function* placesIn(asker: Asker, place: DrivePlace): AsyncGenerator<DrivePlace> {
  if (place.kind === 'file') return;
  if (place.kind === 'site') {
    for (const library of await librariesOf(asker.context, asker.caller.id))
      yield { kind: 'folder', library, names: [] };
    return;
  }
  const { library, names } = place;
  const sight = await sightIn(asker, library.id);
  for await (const name of foldersOn(asker, library.id, { sight, names }))
    yield { kind: 'folder', library, names: [...names, name] };
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

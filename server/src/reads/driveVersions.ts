import { driveFileName, fromSegment, labelIn, type Version } from '@polychron/core';
import { accessDocument, findVersion, sightIn } from '../access/admission.ts';
import type { Access, Asker } from '../access/caller.ts';
import { Refused } from '../refused.ts';
import { findAllFiles, findFilesNumbered, type SeenFile } from '../store/files.ts';
import { namesOf, nobody } from '../store/people.ts';
import { seenPage } from './seenVersions.ts';

/** A library on the drive, with how the caller sees it. */
export interface DriveLibrary {
  id: string;
  code: string;
  name: string;
  createdAt: Date;
}

/** A version as a file, to be read only. */
export interface DriveVersion {
  documentId: string;
  versionId: string;
  label: string;
  title: string;
  /** What it is called on the drive. */
  name: string;
  content: Version['content'];
  at: Date;
  author: string;
  comment: string;
}

/** The histories of a library, the versions of one document, or one of them. */
export type HistoryPlace =
  | { kind: 'histories'; library: DriveLibrary }
  | { kind: 'history'; library: DriveLibrary; document: SeenFile }
  | { kind: 'version'; library: DriveLibrary; document: SeenFile; version: DriveVersion };

function toDriveVersion(
  { document }: Access,
  { id, content, fields, ...version }: Version,
  people: ReadonlyMap<string, { name: string }>,
): DriveVersion {
  const label = labelIn(document, version);
  const { title } = fields;
  const name = driveFileName({ number: label, title, fileName: content.fileName });
  const { at, comment, authorId } = version;
  const author = (people.get(authorId) ?? nobody).name;
  return { documentId: document.id, versionId: id, label, title, name, content, at, author, comment };
}

/** What stands under the histories of a library, as far as the caller sees it; null where nothing does. */
export async function historyAt(
  asker: Asker,
  library: DriveLibrary,
  [number, name, ...deeper]: readonly string[],
): Promise<HistoryPlace | null> {
  if (number === undefined) return { kind: 'histories', library };
  const sight = await sightIn(asker, library.id);
  const [document] = await findFilesNumbered(asker.context, library.id, sight, [fromSegment(number)]);
  if (!document || deeper.length > 0) return null;
  if (name === undefined) return { kind: 'history', library, document };
  const version = await versionNamed(asker, document, name);
  return version && { kind: 'version', library, document, version };
}

async function versionNamed(asker: Asker, document: SeenFile, name: string): Promise<DriveVersion | null> {
  const access = await accessDocument(asker, document.documentId);
  const [label = ''] = name.split(' ');
  try {
    const found = await findVersion(asker, access, label);
    const people = await namesOf(asker.context, [found.authorId]);
    const version = toDriveVersion(access, found, people);
    return !found.thinned && version.name === name ? version : null;
  } catch (error) {
    if (error instanceof Refused && error.refusal.code === 'version-not-found') return null;
    throw error;
  }
}

/** Rows that are read at once. */
const atOnce = 200;

/** What stands in the histories of a library, or in one: versions that the caller sees and that are kept. */
export async function* inHistory(asker: Asker, place: HistoryPlace): AsyncGenerator<HistoryPlace> {
  const { context } = asker;
  const { library } = place;
  if (place.kind === 'histories') {
    const sight = await sightIn(asker, library.id);
    for (let after = ''; ;) {
      const documents = await findAllFiles(context, library.id, sight, { after, count: atOnce });
      for (const document of documents) yield { kind: 'history', library, document };
      const last = documents.at(-1);
      if (!last || documents.length < atOnce) return;
      after = last.documentId;
    }
  }
  if (place.kind !== 'history') return;
  const { document } = place;
  const access = await accessDocument(asker, document.documentId);
  for (let before: number | null = null; ;) {
    const { versions } = await seenPage(context, access, { before, count: atOnce });
    const people = await namesOf(
      context,
      versions.map(({ authorId }) => authorId),
    );
    for (const version of versions)
      if (!version.thinned)
        yield { kind: 'version', library, document, version: toDriveVersion(access, version, people) };
    const last = versions.at(-1);
    if (!last || versions.length < atOnce) return;
    before = last.sequence;
  }
}

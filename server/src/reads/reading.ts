import type * as contract from '@polychron/contract';
import {
  type ContentFacts,
  directoryStart,
  isRefusal,
  listZip,
  partOfReading,
  readerOf,
  refuse,
  type Version,
} from '@polychron/core';
import { accessDocument, findContent } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { readContent, readPart } from '../content/contents.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { namesOf, nobody } from '../store/people.ts';
import { readDeskContent } from './deskFiles.ts';
import { fieldsInWords, peopleIn } from './fieldsView.ts';
import { type Page, readNumberCursor } from '../store/cursors.ts';
import type { ComparedContent, PackedPart } from '../workers/readers.ts';

async function versionWithContent(asker: Asker, documentId: string, name: string): Promise<Version> {
  return findContent(asker, await accessDocument(asker, documentId), name);
}

/** A version read into blocks, or a part of it. */
export async function readReading(
  asker: Asker,
  documentId: string,
  name: string,
  part: Page,
): Promise<contract.Reading> {
  const { context } = asker;
  const { content } = await versionWithContent(asker, documentId, name);
  const bytes = (): Promise<Buffer> => readContent(context, content.sha256);
  const from = readNumberCursor(part.cursor) ?? 0;
  const reading = await context.readers.read(content, bytes);
  const { next, ...shown } = partOfReading(reading, from, part.limit);
  return { ...shown, next: next === null ? null : String(next) } as contract.Reading;
}

/** Why a content that was just taken in is not read in the page. */
export function whyNotRead(context: Context, content: ContentFacts): Promise<string | null> {
  return context.readers.whyNotRead(content, () => readContent(context, content.sha256));
}

/** Pictures shown in the page; others, such as drawings that can carry scripts, are not. */
const pictureTypes: Record<string, string> = {
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  gif: 'image/gif',
  webp: 'image/webp',
};

/** A picture that can be shown. */
export interface Picture {
  mediaType: string;
  bytes: Uint8Array;
}

/** A picture inside a version's file, by its part's name. */
export async function readPicture(
  asker: Asker,
  of: { documentId: string; version: string },
  part: string,
): Promise<Picture> {
  const { content } = await versionWithContent(asker, of.documentId, of.version);
  return pictureIn(asker.context, content, part);
}

/** A picture inside a file of the caller's own. @throws Refused `file-not-found`, `picture-not-found` */
export async function readDeskPicture(asker: Asker, id: string, part: string): Promise<Picture> {
  return pictureIn(asker.context, await readDeskContent(asker, id), part);
}

async function pictureIn(
  context: Context,
  content: Pick<ContentFacts, 'sha256' | 'size' | 'mediaType'>,
  part: string,
): Promise<Picture> {
  const mediaType = pictureTypes[/\.([a-z]+)$/i.exec(part)?.[1]?.toLowerCase() ?? ''];
  const packed =
    mediaType && readerOf(content.mediaType) === 'docx' ? await partIn(context, content, part) : null;
  const fits = packed && Math.max(packed.entry.size, packed.entry.compressedSize) <= largestPicture;
  const bytes = fits ? await context.readers.picture(packed) : null;
  if (bytes && mediaType) return { mediaType, bytes };
  const reason = 'The file has no such picture, or none that can be shown.';
  throw new Refused(refuse('notFound', 'picture-not-found', reason));
}

/** A picture with more bytes is not shown. */
const largestPicture = 32 << 20;
/** The most bytes from the end of a .zip that its end record may begin at (PKWARE APPNOTE 6.3.x, 4.3.16). */
const longestEnd = 22 + 0xffff;
/** The most bytes of an entry's own header (4.3.7). */
const longestHeader = 30 + 2 * 0xffff;
/** No list of a document's parts has more bytes. */
const longestList = 8 << 20;

/**
 * A part of a package, found by its list of parts: what a picture costs does not grow with its file. Null
 * where there is none of that name.
 */
async function partIn(
  context: Context,
  content: Pick<ContentFacts, 'sha256' | 'size'>,
  name: string,
): Promise<PackedPart | null> {
  const from = (start: number, end = content.size): Promise<Buffer> =>
    readPart(context, content, { start: Math.max(0, start), end });
  const start = directoryStart(await from(content.size - longestEnd));
  if (start === null || content.size - start > longestList) return null;
  const entries = listZip(await from(start), { offset: start });
  const entry = isRefusal(entries) ? undefined : entries.find((one) => one.name === name);
  if (!entry) return null;
  const { offset, compressedSize } = entry;
  return { entry, bytes: () => from(offset, offset + longestHeader + compressedSize) };
}

/** One side of a comparison: a content with the fields it goes with. */
export async function sideOf(
  context: Context,
  { content, fields }: Pick<Version, 'content' | 'fields'>,
): Promise<ComparedContent> {
  const people = await namesOf(context, peopleIn(fields.own));
  const told = fieldsInWords(fields, (id) => people.get(id) ?? nobody);
  return { content, fields: told, bytes: () => readContent(context, content.sha256) };
}

/** What changed between two versions the caller sees. */
export async function compareVersions(
  asker: Asker,
  documentId: string,
  names: { from: string; to: string },
): Promise<contract.Comparison> {
  const { context } = asker;
  const access = await accessDocument(asker, documentId);
  const side = async (name: string): Promise<ComparedContent> =>
    sideOf(context, await findContent(asker, access, name));
  const [older, newer] = [await side(names.from), await side(names.to)];
  return { ...names, ...(await context.readers.compare(older, newer)) } as contract.Comparison;
}

import {
  carriesMark,
  type ContentFacts,
  formatLabel,
  type Incoming,
  largestMarked,
  type Taken,
  type Version,
  type VersionMark,
} from '@polychron/core';
import type { Admitted } from '../access/caller.ts';
import { fetched } from '../content/contents.ts';
import type { Context } from '../context.ts';
import type { Held } from '../store/custody.ts';
import { findVersionAnywhere, publishedVersions, versionsAfter } from '../store/versions.ts';
import type { Look } from '../workers/readerWorker.ts';
import type { Fetched } from '../workers/readers.ts';

/** A file given to an act, before it is a version. */
export interface GivenFile {
  facts: ContentFacts;
  bytes: () => Promise<Uint8Array>;
}

/** What a file says of itself, held against a content: of which two it was found. */
export interface Marks {
  taken: Taken | null;
  sameButForMark: boolean;
  given: string;
  base: string;
}

const asFetched = ({ facts: { size }, bytes }: GivenFile): Fetched => ({ size, bytes });

const canCarry = (facts: ContentFacts): boolean => carriesMark(facts.fileName) && facts.size <= largestMarked;

/**
 * What a file says of itself, held against the version it is to replace, of a document the caller is
 * admitted to or holds: the version it was taken from, and whether it differs from the base in that mark
 * only. Reads files, so it is asked before the act's transaction; `holding` drops what does not hold any
 * more.
 */
export async function marksOf(context: Context, admitted: Admitted | Held, given: GivenFile): Promise<Marks> {
  const { documentId, base } = 'document' in admitted ? latestOf(admitted) : admitted;
  const { facts } = given;
  const none = { taken: null, sameButForMark: false, given: facts.sha256, base: base.sha256 };
  if (facts.sha256 === base.sha256) return none;
  // What is a published version byte for byte was taken from that, whatever it says.
  const [equal] = await publishedVersions(context, documentId, { sha256: facts.sha256, limit: 1 });
  if (equal) return { ...none, taken: takenFrom(null, equal) };
  if (!canCarry(facts)) return none;
  const { mark, substance } = await context.readers.look(facts.sha256, asFetched(given));
  const named = mark && (await findVersionAnywhere(context, mark.versionId));
  const own = named && named.documentId === documentId ? named.version : null;
  const ofBase = await lookAtBase(context, facts, base);
  const isInherited = own !== null && ofBase?.mark?.versionId === own.id;
  const from = isInherited ? await nearestSince(context, documentId, given, own) : own;
  const marked = mark && from ? takenFrom(mark.number, from) : mark && { ...mark, sha256: null };
  return {
    ...none,
    // Whoever uploads says what it is based on.
    taken: marked ?? ('document' in admitted ? null : await guessed(context, documentId, given, base)),
    sameButForMark: substance !== null && ofBase?.substance === substance,
  };
}

/**
 * An earlier publication that a file without a mark reads more like than what it is to follow: an edit of an
 * older copy; null where it reads most like its base.
 */
async function guessed(
  context: Context,
  documentId: string,
  given: GivenFile,
  base: ContentFacts,
): Promise<Taken | null> {
  const published = await publishedVersions(context, documentId, { limit: mostRead });
  const earlier = published.filter(
    ({ content }) => content.sha256 !== base.sha256 && canCarry(content) && content.size <= largestGuessed,
  );
  if (earlier.length === 0 || given.facts.size > largestGuessed || base.size > largestGuessed) return null;
  const contents = [base, ...earlier.map(({ content }) => content)].map((one) => fetched(context, one));
  const place = await context.readers.nearest(asFetched(given), contents, true);
  const nearest = earlier[place - 1];
  return nearest ? { ...takenFrom(null, nearest), isGuess: true } : null;
}

/** Larger files are not read to guess which version they were taken from, in bytes. */
const largestGuessed = 4 << 20;

/** How many versions are read to tell which one a file was taken from, beside the one it names. */
const mostRead = 8;

/**
 * A version is kept as it was checked in, so it carries the mark of the one it was made from, and so does a
 * plain download of it: of versions with one mark, the file is of the one it reads most like.
 */
async function nearestSince(
  context: Context,
  documentId: string,
  given: GivenFile,
  named: Version,
): Promise<Version> {
  const since = await versionsAfter(context, documentId, named.sequence, mostRead);
  const readable = [...since, named].filter(
    ({ thinned, content }) => !thinned && content.size <= largestMarked,
  );
  const contents = readable.map(({ content }) => fetched(context, content));
  return readable[await context.readers.nearest(asFetched(given), contents)] ?? named;
}

const takenFrom = (number: string | null, version: Version): Taken => ({
  number,
  label: formatLabel(version, version.era),
  versionId: version.id,
  sha256: version.content.sha256,
});

const latestOf = ({ document: { id, latest } }: Admitted): Pick<Held, 'documentId' | 'base'> => ({
  documentId: id,
  base: latest.content,
});

/** What the base says of itself; null where it need not be known. */
async function lookAtBase(context: Context, given: ContentFacts, base: ContentFacts): Promise<Look | null> {
  if (base.size > largestMarked || given.sha256 === base.sha256) return null;
  return context.readers.look(base.sha256, fetched(context, base));
}

/** What was found of a file, as far as it is still about this file and this base. */
export function holding(
  marks: Marks | null,
  given: ContentFacts,
  base: ContentFacts,
): Pick<Incoming, 'taken' | 'sameButForMark'> {
  if (marks?.given !== given.sha256) return {};
  return { taken: marks.taken, sameButForMark: marks.sameButForMark && marks.base === base.sha256 };
}

/** The mark in a file; null for one without. */
export async function markIn(context: Context, given: GivenFile): Promise<VersionMark | null> {
  const { facts } = given;
  return canCarry(facts) ? (await context.readers.look(facts.sha256, asFetched(given))).mark : null;
}

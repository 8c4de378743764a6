import { type Fields, formatLabel, type ProgramLock, type VersionNumber } from '@polychron/core';
import { rows } from './database.ts';
import { parseJson } from './models.ts';
import { latestSeen, type Wanted, wantedOf } from './seenNewest.ts';
import { beginsWithPath, pathGiven } from './register.ts';
import type { Store } from './store.ts';
import type { Sight } from './versions.ts';

/**
 * A document as somebody has it before them: what they saved of it while they hold it, else the latest
 * version that they see.
 */
export interface SeenFile {
  documentId: string;
  versionId: string;
  label: string;
  number: string;
  title: string;
  subjects: string[];
  sha256: string;
  words: number | null;
  size: number;
  fileName: string;
  mediaType: string;
  at: Date;
  /** Who holds it, from which version on, and the lock of a program that has it open there. */
  custody: {
    holderId: string;
    holder: string;
    since: Date;
    baseId: string;
    lock: ProgramLock | null;
  } | null;
}

interface Row extends Omit<SeenFile, 'title' | 'subjects' | 'custody' | 'label'>, VersionNumber {
  presentEra: number;
  fields: unknown;
  holderId: string | null;
  baseId: string;
  holder: string;
  since: Date;
  lockToken: string | null;
  lockOwner: string | null;
  lockUntil: Date | null;
}
const columns = `n.document_id AS documentId, l.id AS versionId, n.number, l.fields, l.file_name AS fileName,
  l.era, l.major, l.minor, l.numbering, h.present_era AS presentEra, c.base_id AS baseId,
  IF(w.position IS NULL, l.sha256, w.sha256) AS sha256, IF(w.position IS NULL, l.size, w.size) AS size,
  IF(w.position IS NULL, l.words, w.words) AS words,
  IF(w.position IS NULL, l.media_type, w.media_type) AS mediaType, IF(w.position IS NULL, l.at, w.at) AS at,
  c.holder_id AS holderId, p.name AS holder, c.since, c.lock_token AS lockToken, c.lock_owner AS lockOwner,
  c.lock_until AS lockUntil`;
/** Who holds them, and what the viewer saved last of what they hold. */
const held = `JOIN heads h ON h.document_id = n.document_id
  LEFT JOIN checkouts c ON c.document_id = n.document_id LEFT JOIN people p ON p.id = c.holder_id
  LEFT JOIN saves w ON c.holder_id = :viewer AND w.document_id = n.document_id
    AND w.position = (SELECT MAX(x.position) FROM saves x WHERE x.document_id = n.document_id)`;
/** Latest versions `l`, with their rows `n`, of documents that ever had a subject. */
const filed = `document_subjects s JOIN newest_versions n ON n.document_id = s.document_id
  JOIN versions l ON l.id = n.version_id`;
/** Whether they begin with names, over `filed`; none: whether they have no subject. */
const isUnder = (names: readonly string[]): string =>
  `s.library_id = :libraryId AND s.place = ${Math.max(0, names.length - 1)} AND s.subject = :last
   AND ${beginsWithPath(names)}`;
const underGiven = (names: readonly string[]): Record<string, string> => ({
  last: names.at(-1) ?? '',
  ...pathGiven(names),
});
/** A version whose content was let go is no file. */
const isThere = (wanted: Wanted): string => `${latestSeen(wanted)} AND l.thinned_at IS NULL`;

function toFile({ fields, presentEra, ...stored }: Row): SeenFile {
  const { holderId, holder, since, baseId, lockToken, lockOwner, lockUntil, ...numbered } = stored;
  const { era, major, minor, numbering, ...row } = numbered;
  const { title, subject } = parseJson<Fields>(fields);
  const lock = lockToken && lockUntil ? { token: lockToken, owner: lockOwner ?? '', until: lockUntil } : null;
  const custody = holderId === null ? null : { holderId, holder, since, baseId, lock };
  const label = formatLabel({ era, major, minor, numbering }, presentEra);
  return { ...row, label, size: Number(row.size), title, subjects: subject ?? [], custody };
}

/**
 * Documents whose subjects are just these, as somebody sees them, by id; from behind one of them. What it
 * costs grows with the documents that ever had them, not with the library.
 * @param asked.names none: documents without a subject
 */
export async function findFilesOn(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  { names, after, count }: { names: readonly string[]; after: string; count: number },
): Promise<SeenFile[]> {
  const wanted = wantedOf(libraryId, actor, rules);
  const found = await rows<Row>(
    store.db,
    `SELECT STRAIGHT_JOIN ${columns} FROM ${filed} ${held} WHERE ${isUnder(names)} AND s.document_id > :after
       AND ${isThere(wanted)} AND COALESCE(JSON_LENGTH(l.fields, '$.subject'), 0) = ${names.length}
     ORDER BY s.document_id LIMIT :count`,
    { libraryId, viewer: actor.id, after, count, ...underGiven(names) },
  );
  return found.map(toFile);
}

/** Documents of a library, as somebody sees them, by id; from behind one of them. */
export async function findAllFiles(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  { after, count }: { after: string; count: number },
): Promise<SeenFile[]> {
  const found = await rows<Row>(
    store.db,
    `SELECT STRAIGHT_JOIN ${columns} FROM newest_versions n FORCE INDEX (PRIMARY) JOIN versions l ON l.id = n.version_id
     ${held} WHERE n.document_id > :after AND n.library_id = :libraryId
       AND ${isThere(wantedOf(libraryId, actor, rules))} ORDER BY n.document_id LIMIT :count`,
    { libraryId, viewer: actor.id, after, count },
  );
  return found.map(toFile);
}

/** Documents of some numbers, as somebody sees them. */
export async function findFilesNumbered(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  numbers: readonly string[],
): Promise<SeenFile[]> {
  if (numbers.length === 0) return [];
  const found = await rows<Row>(
    store.db,
    `SELECT ${columns} FROM documents d JOIN newest_versions n ON n.document_id = d.id JOIN versions l ON l.id = n.version_id
     ${held} WHERE d.library_id = :libraryId AND d.number IN (:numbers) AND ${isThere(wantedOf(libraryId, actor, rules))}`,
    { libraryId, viewer: actor.id, numbers: [...numbers] },
  );
  return found.map(toFile);
}

/** Whether somebody sees a document whose subjects begin with these. */
export async function hasFilesUnder(
  store: Store,
  libraryId: string,
  { actor, rules }: Sight,
  names: readonly string[],
): Promise<boolean> {
  const wanted = wantedOf(libraryId, actor, rules);
  const found = await rows(
    store.db,
    `SELECT 1 AS found FROM ${filed} WHERE ${isUnder(names)} AND ${latestSeen(wanted)} LIMIT 1`,
    { libraryId, viewer: actor.id, ...underGiven(names) },
  );
  return found.length > 0;
}

import { findableWords, type Version } from '@polychron/core';
import { type Database, run, type Tx } from './database.ts';

/** A version with the document it belongs to, as far as it is found by it. */
export type Found = Pick<Version, 'fields' | 'comment'> & {
  libraryId: string;
  documentId: string;
  number: string;
};

/**
 * The words of a version as `versions.found_by` keeps them: each behind a space, so that beginnings are
 * found.
 */
export const foundBy = ({ number, fields, comment }: Pick<Found, 'number' | 'fields' | 'comment'>): string =>
  findableWords(number, fields, comment)
    .map((word) => ` ${word}`)
    .join('');

/**
 * Keeps the words and subjects of versions where documents are found by them. They stay: what a version had,
 * it had.
 */
export async function keepFound(db: Database, versions: readonly Found[], tx?: Tx): Promise<void> {
  const words = distinct(versions, ({ number, fields, comment }) => findableWords(number, fields, comment));
  if (words.length > 0) {
    const sql = 'INSERT IGNORE INTO document_words (library_id, word, document_id) VALUES :words';
    await run(db, sql, { words }, tx);
  }
  const subjects = distinct(versions, ({ fields }) => fields.subject ?? []);
  if (subjects.length > 0) {
    const sql = 'INSERT IGNORE INTO document_subjects (library_id, subject, document_id) VALUES :subjects';
    await run(db, sql, { subjects }, tx);
  }
}

/** What versions are found by, once a document, as rows; in the order of the key. */
function distinct(versions: readonly Found[], of: (version: Found) => readonly string[]): string[][] {
  const rows = new Map<string, string[]>();
  for (const version of versions) {
    const { libraryId, documentId } = version;
    for (const value of of(version))
      rows.set(`${libraryId} ${value} ${documentId}`, [libraryId, value, documentId]);
  }
  return [...rows].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, row]) => row);
}

import { findableWords, type Version } from '@polychron/core';
import { type Database, run, type Tx } from './database.ts';

/** What documents are found by, of one version. */
export interface Found {
  libraryId: string;
  documentId: string;
  words: readonly string[];
  subjects: readonly string[];
}

/** What a version's document is found by. */
export const foundOf = (
  { fields, comment }: Pick<Version, 'fields' | 'comment'>,
  document: { libraryId: string; documentId: string; number: string },
): Found => ({
  libraryId: document.libraryId,
  documentId: document.documentId,
  words: findableWords(document.number, fields, comment),
  // One without a subject is found by none.
  subjects: fields.subject?.length ? fields.subject : [''],
});

/** Words as `versions.found_by` keeps them: each behind a space, so that beginnings are found. */
export const foundBy = ({ words }: Found): string => words.map((word) => ` ${word}`).join('');

/**
 * Keeps the words and subjects of versions where documents are found by them. They stay: what a version had,
 * it had.
 */
export async function keepFound(db: Database, found: readonly Found[], tx?: Tx): Promise<void> {
  const words = distinct(found, (one) => one.words.map((word) => [word]));
  if (words.length > 0) {
    const sql = 'INSERT IGNORE INTO document_words (library_id, word, document_id) VALUES :words';
    await run(db, sql, { words }, tx);
  }
  const subjects = distinct(found, (one) => one.subjects.map((subject, place) => [place, subject]));
  if (subjects.length > 0) {
    const sql =
      'INSERT IGNORE INTO document_subjects (library_id, place, subject, document_id) VALUES :subjects';
    await run(db, sql, { subjects }, tx);
  }
}

/** What versions are found by, once a document, as rows; in the order of the key. */
function distinct(found: readonly Found[], of: (one: Found) => (string | number)[][]): (string | number)[][] {
  const rows = new Map<string, (string | number)[]>();
  for (const one of found) {
    const { libraryId, documentId } = one;
    for (const values of of(one)) {
      const row = [libraryId, ...values, documentId];
      rows.set(row.join(' '), row);
    }
  }
  return [...rows].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, row]) => row);
}

import type { Fields } from '@polychron/core';
import { type Database, rows, run } from './database.ts';
import { foundBy, foundOf, keepFound } from './foundBy.ts';
import { parseJson } from './models.ts';
import { keepNewest } from './newest.ts';

/** Documents, and versions, that are read at once. */
const documentsAtOnce = 500;
const versionsAtOnce = 2000;

/**
 * Makes anew what lists are read from: newest versions, their counts, words and subjects. For a database that
 * nobody works on: after it was filled by other means than acts, or by a release that kept less.
 */
export async function rebuildHeads(db: Database): Promise<void> {
  const made = ['newest_versions', 'newest_counts', 'kind_counts', 'document_words', 'document_subjects'];
  for (const table of made) await run(db, `DELETE FROM ${table}`, {});
  await run(
    db,
    `INSERT INTO kind_counts (document_id, kind, count)
     SELECT document_id, kind, COUNT(*) FROM versions GROUP BY document_id, kind`,
    {},
  );
  for (let after = ''; ;) {
    const ids = await rows<{ id: string }>(
      db,
      'SELECT document_id AS id FROM heads WHERE document_id > :after ORDER BY document_id LIMIT :count',
      { after, count: documentsAtOnce },
    );
    const last = ids.at(-1);
    if (!last) break;
    await keepNewest(
      db,
      ids.map(({ id }) => id),
    );
    after = last.id;
  }
  await rebuildFound(db);
}

async function rebuildFound(db: Database): Promise<void> {
  for (let after = ''; ;) {
    const stored = await rows<Stored>(
      db,
      `SELECT v.id, v.document_id AS documentId, d.library_id AS libraryId, d.number, v.fields, v.comment
       FROM versions v JOIN documents d ON d.id = v.document_id WHERE v.id > :after ORDER BY v.id LIMIT :count`,
      { after, count: versionsAtOnce },
    );
    const last = stored.at(-1);
    if (!last) break;
    const found = stored.map((one) => ({
      ...foundOf({ fields: parseJson<Fields>(one.fields), comment: one.comment }, one),
      id: one.id,
    }));
    await run(
      db,
      `UPDATE versions v JOIN JSON_TABLE(:found, '$[*]' COLUMNS (
         id CHAR(36) CHARACTER SET ascii PATH '$.id', words TEXT CHARACTER SET utf8mb4 PATH '$.words')) f ON f.id = v.id
       SET v.found_by = f.words`,
      { found: JSON.stringify(found.map((one) => ({ id: one.id, words: foundBy(one) }))) },
    );
    await keepFound(db, found);
    after = last.id;
  }
}

interface Stored {
  id: string;
  documentId: string;
  libraryId: string;
  number: string;
  fields: unknown;
  comment: string;
}

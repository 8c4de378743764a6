import type { Fields } from '@polychron/core';
import { type Database, rows, run } from './database.ts';
import { foundBy, foundOf, keepFound } from './foundBy.ts';
import { parseJson } from './models.ts';
import type { Tell } from './migrations/migration.ts';
import { keepNewest } from './newest.ts';

/** Documents, and versions, that are read at once. */
const documentsAtOnce = 500;
const versionsAtOnce = 2000;

/**
 * Makes anew what lists are read from: newest versions, their counts, words and subjects. For a database that
 * nobody works on: after it was filled by other means than acts, or by a release that kept less.
 * @param tell told how many documents and versions are done, of how many
 */
export async function rebuildHeads(db: Database, tell: Tell = () => undefined): Promise<void> {
  const [{ count }] = (await rows(
    db,
    'SELECT (SELECT COUNT(*) FROM heads) + (SELECT COUNT(*) FROM versions) AS count',
    {},
  )) as [{ count: number | bigint }];
  let done = 0;
  const come = (further: number): void => tell((done += further), Number(count));
  come(0);
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
    come(ids.length);
  }
  await rebuildFound(db, come);
}

async function rebuildFound(db: Database, come: (further: number) => void): Promise<void> {
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
    come(stored.length);
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

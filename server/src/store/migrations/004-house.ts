import { readStoredRulebook } from '@polychron/core';
import { rows, run, type Database } from '../database.ts';
import { parseJson } from '../models.ts';

/** Rulebooks in the form they have now; what a document keeps beside its head; words that changed. */
export const house = {
  name: '004-house',
  statements: [
    `ALTER TABLE people CHANGE site_administrator system_administrator BOOLEAN NOT NULL DEFAULT FALSE`,
    `UPDATE custody_periods SET how = 'givenBack' WHERE how = 'discarded'`,
    `ALTER TABLE heads ADD COLUMN bytes_kept BIGINT NOT NULL DEFAULT 0, ADD KEY by_bytes (library_id, bytes_kept)`,
    `UPDATE heads h JOIN (
       SELECT document_id, SUM(size) AS bytes FROM versions WHERE thinned_at IS NULL GROUP BY document_id
     ) kept ON kept.document_id = h.document_id SET h.bytes_kept = kept.bytes`,
  ],
  /** Every revision is rewritten by the same code that reads it, so that queries find one form only. */
  async then(db: Database): Promise<void> {
    const revisions = await rows<{ libraryId: string; revision: number; rulebook: unknown }>(
      db,
      'SELECT library_id AS libraryId, revision, rulebook FROM rulebook_revisions',
      {},
    );
    for (const { libraryId, revision, rulebook } of revisions) {
      const present = JSON.stringify(readStoredRulebook(parseJson(rulebook)));
      await run(
        db,
        'UPDATE rulebook_revisions SET rulebook = :present WHERE library_id = :libraryId AND revision = :revision',
        { present, libraryId, revision },
      );
    }
  },
};

import { type Database, run } from '../database.ts';

/**
 * Every code that a library has or had is its own for good, so that addresses with one of before lead on. A
 * place of somebody's own may get a longer address by that.
 */
export const libraryCodes = {
  name: '027-library-codes',
  statements: [
    `CREATE TABLE library_codes (code VARCHAR(10) NOT NULL PRIMARY KEY,
      library_id CHAR(36) CHARACTER SET ascii NOT NULL, KEY library_codes_library (library_id),
      FOREIGN KEY (library_id) REFERENCES libraries (id))`,
    `ALTER TABLE own_places MODIFY path VARCHAR(720) COLLATE utf8mb4_nopad_bin NOT NULL`,
    `ALTER TABLE own_locks MODIFY path VARCHAR(720) COLLATE utf8mb4_nopad_bin NOT NULL`,
  ],
  async then(db: Database): Promise<void> {
    await run(db, 'INSERT INTO library_codes (code, library_id) SELECT code, id FROM libraries', {});
  },
};

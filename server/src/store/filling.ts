import { type Database, isNoSuchTable, rows, run } from './database.ts';

/** Whether somebody began to fill the database for its first use, and has not come to the end. */
export async function isFilling({ db }: { db: Database }): Promise<boolean> {
  try {
    return (await rows(db, `SELECT 1 FROM settings WHERE name = 'filling'`, {})).length > 0;
  } catch (error) {
    if (isNoSuchTable(error)) return false;
    throw error;
  }
}

/** Notes that the database is being filled for its first use, or that this is done. */
export const noteFilling = ({ db }: { db: Database }, begins: boolean): Promise<void> =>
  run(
    db,
    begins
      ? `REPLACE INTO settings (name, value) VALUES ('filling', 'true')`
      : `DELETE FROM settings WHERE name = 'filling'`,
    {},
  );

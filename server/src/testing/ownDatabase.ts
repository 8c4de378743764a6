import { randomBytes } from 'node:crypto';
import { connect, type Database, rows } from '../store/database.ts';

/** A database that a test has for itself, empty, and removes when it is done. */
export interface OwnDatabase extends AsyncDisposable {
  db: Database;
  url: string;
  /** Asks the database's server as one who may do everything. */
  ask: (sql: string) => Promise<object[]>;
}

export async function ownDatabase(): Promise<OwnDatabase> {
  const given = process.env['POLYCHRON_DATABASE_URL'];
  if (!given) throw new Error('POLYCHRON_DATABASE_URL is not set; run the tests with "npm test".');
  const admin = connect(given);
  const name = `test_${randomBytes(6).toString('hex')}`;
  const ask = (sql: string): Promise<object[]> => rows(admin, sql, {});
  await ask(`CREATE DATABASE ${name} CHARACTER SET utf8mb4`);
  const own = new URL(given);
  own.pathname = `/${name}`;
  const db = connect(own.href);
  return {
    db,
    url: own.href,
    ask,
    async [Symbol.asyncDispose]() {
      await db.close();
      await ask(`DROP DATABASE ${name}`);
      await admin.close();
    },
  };
}

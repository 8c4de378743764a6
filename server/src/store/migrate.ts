import { Umzug, SequelizeStorage } from 'umzug';
import type { Database } from './database.ts';
import { first } from './migrations/001-first.ts';
import { rules } from './migrations/002-rules.ts';
import { custody } from './migrations/003-custody.ts';

const migrations = [first, rules, custody];

/** Brings the database's tables up to date; answers the names of the migrations it ran. */
export async function migrate(db: Database): Promise<string[]> {
  const ran = await migrator(db).up();
  return ran.map(({ name }) => name);
}

/** Whether the database is reachable and every migration has run. */
export async function isMigrated(db: Database): Promise<boolean> {
  return (await migrator(db).pending()).length === 0;
}

/** Empties every table. Only for a database that nobody has been able to use yet. */
export async function emptyTables(db: Database): Promise<void> {
  await db.transaction(async (transaction) => {
    await db.query('SET FOREIGN_KEY_CHECKS = 0', { transaction });
    for (const { statements } of migrations) {
      for (const table of statements.flatMap((statement) => /^CREATE TABLE (\w+)/.exec(statement)?.[1] ?? [])) {
        await db.query(`DELETE FROM ${table}`, { transaction });
      }
    }
    await db.query('SET FOREIGN_KEY_CHECKS = 1', { transaction });
  });
}

function migrator(db: Database): Umzug {
  return new Umzug({
    migrations: migrations.map(({ name, statements }) => ({
      name,
      up: async () => {
        for (const statement of statements) {
          await db.query(`${statement}${/^CREATE TABLE/.test(statement) ? ' ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci' : ''}`);
        }
      },
    })),
    storage: new SequelizeStorage({ sequelize: db, tableName: 'migrations' }),
    logger: undefined,
  });
}

import { Umzug, SequelizeStorage } from 'umzug';
import type { Database } from './database.ts';
import { first } from './migrations/001-first.ts';
import { rules } from './migrations/002-rules.ts';
import { custody } from './migrations/003-custody.ts';
import { house } from './migrations/004-house.ts';
import { clock } from './migrations/006-clock.ts';
import { sessions } from './migrations/007-sessions.ts';
import { closing } from './migrations/008-closing.ts';
import { provider } from './migrations/009-provider.ts';
import { usage } from './migrations/010-usage.ts';
import { accounts } from './migrations/005-accounts.ts';
import { handingOver } from './migrations/011-handing-over.ts';
import { newest } from './migrations/012-newest.ts';
import { closedLibraries } from './migrations/013-closed-libraries.ts';
import { deciding } from './migrations/014-deciding.ts';
import { standing } from './migrations/015-standing.ts';
import { past } from './migrations/016-past.ts';
import { ownFields } from './migrations/018-own-fields.ts';
import { named } from './migrations/019-named.ts';
import { mail } from './migrations/020-mail.ts';
import { noSubject } from './migrations/021-no-subject.ts';
import { programs } from './migrations/022-programs.ts';
import { arrivals } from './migrations/023-arrivals.ts';
import { numberLengths } from './migrations/024-number-lengths.ts';
import { reviews } from './migrations/017-reviews.ts';

/** One change of the stored form: statements in order, then what statements alone cannot do. */
interface Migration {
  name: string;
  statements: readonly string[];
  then?: (db: Database) => Promise<void>;
}

const migrations: readonly Migration[] = [
  first,
  rules,
  custody,
  house,
  accounts,
  clock,
  sessions,
  closing,
  provider,
  usage,
  handingOver,
  newest,
  closedLibraries,
  deciding,
  standing,
  past,
  reviews,
  ownFields,
  named,
  mail,
  noSubject,
  programs,
  arrivals,
  numberLengths,
];

/** How every table is kept. */
const tableForm = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';

/** Brings the database's tables up to date; returns the names of the migrations it ran. */
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
      for (const table of statements.flatMap(
        (statement) => /^CREATE TABLE (\w+)/.exec(statement)?.[1] ?? [],
      )) {
        await db.query(`DELETE FROM ${table}`, { transaction });
      }
    }
    await db.query('SET FOREIGN_KEY_CHECKS = 1', { transaction });
  });
}

function migrator(db: Database): Umzug {
  return new Umzug({
    migrations: migrations.map(({ name, statements, then }) => ({
      name,
      up: async () => {
        for (const statement of statements) {
          await db.query(/^CREATE TABLE/.test(statement) ? `${statement} ${tableForm}` : statement);
        }
        await then?.(db);
      },
    })),
    storage: new SequelizeStorage({ sequelize: db, tableName: 'migrations' }),
    logger: undefined,
  });
}

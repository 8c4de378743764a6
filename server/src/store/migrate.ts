import { type Database, rows } from './database.ts';
import { type Hear, runMigrations, runnersTables, standingOf } from './migrationRun.ts';
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
import { invoker } from './migrations/025-invoker.ts';
import { freeCodes } from './migrations/026-reserved-codes.ts';
import { libraryCodes } from './migrations/027-library-codes.ts';
import { voided } from './migrations/028-voided.ts';
import { answers } from './migrations/029-answers.ts';
import { fileNames } from './migrations/030-file-names.ts';
import type { Migration } from './migrations/migration.ts';

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
  invoker,
  freeCodes,
  libraryCodes,
  voided,
  answers,
  fileNames,
];

/** Tables and views that the migrations make, and the runner's own. */
const kept = (): { tables: string[]; views: string[] } => {
  const made = (what: string): string[] =>
    migrations.flatMap(({ statements }) =>
      statements.flatMap((one) => new RegExp(`^CREATE (?:OR REPLACE )?${what} (\\w+)`).exec(one)?.[1] ?? []),
    );
  return {
    tables: [...made('TABLE'), ...runnersTables],
    views: [...new Set(made('(?:SQL SECURITY INVOKER )?VIEW'))],
  };
};

/** Brings the database's tables up to date; returns the names of the migrations that it ended. */
export const migrate = (db: Database, hear?: Hear): Promise<string[]> => runMigrations(db, migrations, hear);

/**
 * Whether the database answers what requests ask of it, in the form that they ask it: every migration has
 * run, and none that is not known here.
 */
export async function isReady(db: Database): Promise<boolean> {
  const { pending, unknown } = await standingOf(db, migrations);
  if (pending.length > 0 || unknown.length > 0) return false;
  // Of the view, whose rights are not those of the tables.
  await rows(db, 'SELECT person_id FROM held_roles LIMIT 1', {});
  return true;
}

/** Tables whose rows nobody made. */
const ofNobody = new Set([...runnersTables, 'settings', 'site_clock']);

/** Whether the database has ever held anything of ours; asked before any table is made, too. */
export async function hasHeldAnything(db: Database): Promise<boolean> {
  const there = await tablesOf(db);
  for (const table of kept().tables) {
    if (ofNobody.has(table) || !there.has(table)) continue;
    const [row] = await rows(db, `SELECT 1 FROM ${table} LIMIT 1`, {});
    if (row) return true;
  }
  return false;
}

/** What is lost when everything is removed. */
export interface Held {
  documents: number;
  versions: number;
  people: number;
}

/** Counts what the database holds. */
export async function whatIsHeld(db: Database): Promise<Held> {
  const held = { documents: 0, versions: 0, people: 0 };
  for (const table of Object.keys(held) as (keyof Held)[]) {
    const [found] = await rows<{ count: number }>(db, `SELECT COUNT(*) AS count FROM ${table}`, {});
    held[table] = Number(found?.count ?? 0);
  }
  return held;
}

/** How many connections there are to this database beside the one that asks. */
export async function othersConnected(db: Database): Promise<number> {
  const [found] = await rows<{ count: number }>(
    db,
    `SELECT COUNT(*) AS count FROM information_schema.PROCESSLIST
     WHERE DB = DATABASE() AND ID <> CONNECTION_ID()`,
    {},
  );
  return Number(found?.count ?? 0);
}

/** Removes every table of ours with all that is in it; only where somebody named the database for that. */
export async function removeEverything(db: Database): Promise<void> {
  const { tables, views } = kept();
  await db.transaction(async (transaction) => {
    await db.query('SET FOREIGN_KEY_CHECKS = 0', { transaction });
    try {
      for (const view of views) await db.query(`DROP VIEW IF EXISTS ${view}`, { transaction });
      // What says that something is there goes last: cut short, it is begun again.
      for (const table of tables.reverse()) await db.query(`DROP TABLE IF EXISTS ${table}`, { transaction });
    } finally {
      await db.query('SET FOREIGN_KEY_CHECKS = 1', { transaction });
    }
  });
}

const tablesOf = async (db: Database): Promise<Set<string>> =>
  new Set(
    (
      await rows<{ name: string }>(
        db,
        'SELECT TABLE_NAME AS name FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()',
        {},
      )
    ).map(({ name }) => name),
  );

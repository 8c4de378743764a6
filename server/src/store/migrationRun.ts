import type mariadb from 'mariadb';
import { NotStarted } from '../notStarted.ts';
import { type Database, errorNumber, isNoSuchTable, rows } from './database.ts';
import type { Migration } from './migrations/migration.ts';

/** What is told while migrations run. */
export interface Progress {
  /** Of which migration, null while another program brings the database up to date. */
  migration: string | null;
  /** Which of its steps, from 1, of how many. */
  step: number;
  steps: number;
  /** Whether it begins now, or is done and will be noted as done next. */
  state: 'begins' | 'done';
  /** How far the step itself has come, where it counts. */
  within?: { done: number; of: number };
}

export type Hear = (progress: Progress) => void;

/** Tables that the runner keeps its own notes in. */
export const runnersTables = ['migration_steps', 'migrations'];

/** How every table is kept. */
const tableForm = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_unicode_ci';

/** How long one wait for another program's migration lasts before it is told again, in seconds. */
const oneWait = 2;

/** Which migrations a database has not had, and which it has had that are not known here. */
export async function standingOf(
  db: Database,
  migrations: readonly Migration[],
): Promise<{ pending: Migration[]; unknown: string[]; ended: Set<string> }> {
  const noted = await rows<{ name: string }>(db, 'SELECT name FROM migrations ORDER BY name', {}).catch(
    (error: unknown) => {
      if (isNoSuchTable(error)) return [];
      throw error;
    },
  );
  const ended = new Set(noted.map(({ name }) => name));
  const known = new Set(migrations.map(({ name }) => name));
  return {
    pending: migrations.filter(({ name }) => !ended.has(name)),
    unknown: [...ended].filter((name) => !known.has(name)),
    ended,
  };
}

/**
 * Runs the migrations that a database has not had, in order, while no other program does. Each statement is a
 * step of its own and noted, so that a program that was killed is followed by one that goes on where it was.
 * @throws NotStarted where the database has had migrations that are not known here
 */
export async function runMigrations(
  db: Database,
  migrations: readonly Migration[],
  hear: Hear = () => undefined,
): Promise<string[]> {
  // One connection for all of it: it holds the lock, and whatever ends it ends the migration too.
  const connection = (await db.connectionManager.getConnection({ type: 'write' })) as mariadb.Connection;
  try {
    await waitForLock(connection, hear);
    await connection.query(
      `CREATE TABLE IF NOT EXISTS migrations (name VARCHAR(255) PRIMARY KEY) ${tableForm}`,
    );
    await connection.query(
      `CREATE TABLE IF NOT EXISTS migration_steps (name VARCHAR(255) NOT NULL, step INT NOT NULL,
         done BOOLEAN NOT NULL, PRIMARY KEY (name, step)) ${tableForm}`,
    );
    const { pending, unknown, ended } = await standingOf(db, migrations);
    if (unknown.length > 0) {
      throw new NotStarted(
        `The database was brought up to ${unknown.join(', ')} by a newer Polychron than this one, which would lose what that one keeps. Start the newer one, or restore a copy of the database from before.`,
      );
    }
    const runner = new Runner(db, connection, hear);
    // Releases that noted no steps may have been killed in the first one that is missing.
    const [noted] = await connection.query<object[]>('SELECT 1 FROM migration_steps LIMIT 1');
    let inDoubt = !noted && ended.size > 0;
    for (const migration of pending) {
      await runner.run(migration, inDoubt);
      inDoubt = false;
    }
    return pending.map(({ name }) => name);
  } finally {
    await connection.query(`DO RELEASE_LOCK(${lock})`).catch(ignoreLost);
    db.connectionManager.releaseConnection(connection);
  }
}

const lock = `CONCAT('polychron-migrate:', SHA1(DATABASE()))`;

/** A lock goes with its connection. */
function ignoreLost(error: unknown): void {
  if ((error as { fatal?: boolean }).fatal !== true) throw error;
}

async function waitForLock(connection: mariadb.Connection, hear: Hear): Promise<void> {
  for (;;) {
    const [answer] = await connection.query<{ got: number | bigint | null }[]>(
      `SELECT GET_LOCK(${lock}, ${oneWait}) AS got`,
    );
    if (Number(answer?.got) === 1) return;
    hear({ migration: null, step: 0, steps: 0, state: 'begins' });
  }
}

/** MariaDB's answers that say that a definition is there already, or gone already. */
const alreadySo = new Set([1050, 1054, 1060, 1061, 1068, 1091, 1826]);

class Runner {
  constructor(
    private readonly db: Database,
    private readonly connection: mariadb.Connection,
    private readonly hear: Hear,
  ) {}

  /** @param inDoubt whether its steps may have been done before, without a note */
  async run({ name, statements, then }: Migration, inDoubt: boolean): Promise<void> {
    const steps = [...statements, ...(then ? [then] : [])];
    for (const [index, step] of steps.entries()) {
      const begun = await this.noteOf(name, index);
      if (begun?.done) continue;
      const told = { migration: name, step: index + 1, steps: steps.length };
      this.hear({ ...told, state: 'begins' });
      if (typeof step === 'string' && isAboutRows(step)) {
        await this.together([step, this.doneOf(name, index)], () => this.hear({ ...told, state: 'done' }));
        continue;
      }
      await this.connection.query('INSERT IGNORE INTO migration_steps VALUES (?, ?, FALSE)', [name, index]);
      if (typeof step === 'string') await this.define(step, Boolean(begun) || inDoubt);
      else await step(this.db, (done, of) => this.hear({ ...told, state: 'begins', within: { done, of } }));
      this.hear({ ...told, state: 'done' });
      await this.connection.query(this.doneOf(name, index));
    }
    await this.connection.query('INSERT IGNORE INTO migrations VALUES (?)', [name]);
  }

  private async noteOf(name: string, step: number): Promise<{ done: boolean } | undefined> {
    const [note] = await this.connection.query<{ done: number }[]>(
      'SELECT done FROM migration_steps WHERE name = ? AND step = ?',
      [name, step],
    );
    return note && { done: Boolean(note.done) };
  }

  private doneOf(name: string, step: number): string {
    return `REPLACE INTO migration_steps VALUES (${this.connection.escape(name)}, ${step}, TRUE)`;
  }

  /** Rows are changed with the note in one transaction: once, wherever it is killed. */
  private async together(statements: readonly string[], beforeKeeping: () => void): Promise<void> {
    await this.connection.beginTransaction();
    try {
      for (const statement of statements) await this.connection.query(statement);
      beforeKeeping();
      await this.connection.commit();
    } catch (error) {
      await this.connection.rollback().catch(ignoreLost);
      throw error;
    }
  }

  /** A definition is whole or not at all (MariaDB's atomic DDL), but its note comes after it. */
  private async define(statement: string, maybeThere: boolean): Promise<void> {
    try {
      await this.connection.query(/^CREATE TABLE/.test(statement) ? `${statement} ${tableForm}` : statement);
    } catch (error) {
      if (!maybeThere || !alreadySo.has(errorNumber(error) ?? 0)) throw error;
    }
  }
}

const isAboutRows = (statement: string): boolean => /^\s*(INSERT|UPDATE|DELETE|REPLACE)\b/.test(statement);

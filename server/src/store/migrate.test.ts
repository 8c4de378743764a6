import { ownDatabase } from '../testing/ownDatabase.ts';
import { connect, type Database, openConnection, rows, run } from './database.ts';
import { hasHeldAnything, isReady, migrate, removeEverything } from './migrate.ts';
import type { Progress } from './migrationRun.ts';
import { rebuildHeads } from './rebuildHeads.ts';

/** Everything that is defined in a database, in words. */
async function definitions(db: Database): Promise<unknown[]> {
  const columns = await rows(
    db,
    `SELECT TABLE_NAME, COLUMN_NAME, ORDINAL_POSITION, COLUMN_TYPE, IS_NULLABLE, COLUMN_DEFAULT, COLLATION_NAME, EXTRA,
       GENERATION_EXPRESSION FROM information_schema.COLUMNS WHERE TABLE_SCHEMA = DATABASE() ORDER BY 1, 2`,
    {},
  );
  const keys = await rows(
    db,
    `SELECT TABLE_NAME, INDEX_NAME, SEQ_IN_INDEX, COLUMN_NAME, NON_UNIQUE FROM information_schema.STATISTICS
     WHERE TABLE_SCHEMA = DATABASE() ORDER BY 1, 2, 3`,
    {},
  );
  const foreign = await rows(
    db,
    `SELECT TABLE_NAME, REFERENCED_TABLE_NAME, DELETE_RULE FROM information_schema.REFERENTIAL_CONSTRAINTS
     WHERE CONSTRAINT_SCHEMA = DATABASE() ORDER BY 1, 2`,
    {},
  );
  return [columns, keys, foreign];
}

/** Runs migrations until they are asked to stop for good: a program that is killed at that place. */
async function killedAt(db: Database, place: (progress: Progress) => boolean): Promise<boolean> {
  const killed = new Error('killed here');
  try {
    await migrate(db, (progress) => {
      if (place(progress)) throw killed;
    });
    return false;
  } catch (error) {
    if (error !== killed) throw error;
    return true;
  }
}

/** Where there is time they are killed at every place, else at every third. */
const isDeep = process.env['POLYCHRON_KILL_ROUNDS'] !== undefined;

test('migrations that are killed before and after every step of theirs go on, to what they come to at once', async () => {
  await using straight = await ownDatabase();
  await using killed = await ownDatabase();
  const steps = new Set<string>();
  const ended = await migrate(straight.db, ({ migration, step }) => steps.add(`${migration} ${step}`));
  const seen = new Set<string>();
  let kills = 0;
  // Each time it comes one place further: a step begins, or is done and not yet noted.
  while (
    await killedAt(killed.db, ({ migration, step, state, within }) => {
      const place = `${migration} ${step} ${state}`;
      if (within || seen.has(place)) return false;
      seen.add(place);
      return isDeep || seen.size % 3 === 0;
    })
  )
    kills += 1;
  expect(seen.size).toBe(2 * steps.size);
  expect(kills).toBe(isDeep ? seen.size : Math.floor(seen.size / 3));
  expect(ended.length).toBeGreaterThanOrEqual(25);
  expect(steps.size).toBeGreaterThan(90);
  expect(await definitions(killed.db)).toEqual(await definitions(straight.db));
  expect(await isReady(killed.db)).toBe(true);
  expect(await migrate(killed.db)).toEqual([]);
});

test('rows that a migration changes are changed once, wherever it was killed', async () => {
  await using own = await ownDatabase();
  const until = (name: string) => (progress: Progress) => progress.migration === name;
  await killedAt(own.db, until('010-usage'));
  await run(
    own.db,
    `INSERT INTO libraries (id, code, name, purpose, rulebook_revision, created_at)
     VALUES ('l', 'L', 'L', '', 1, NOW())`,
    {},
  );
  let kills = 0;
  await killedAt(own.db, ({ migration, step, state }) => {
    kills += 1;
    return migration === '010-usage' && step === 2 && state === 'done';
  });
  expect(kills).toBeGreaterThan(1);
  expect(await rows(own.db, 'SELECT * FROM library_usage', {})).toEqual([]);
  await migrate(own.db);
  expect(await rows(own.db, 'SELECT library_id AS id FROM library_usage', {})).toEqual([{ id: 'l' }]);
});

test('a release that noted no steps was killed in a migration: it goes on too', async () => {
  await using own = await ownDatabase();
  await killedAt(own.db, ({ migration }) => migration === '014-deciding');
  await run(own.db, 'DROP TABLE migration_steps', {});
  await run(own.db, 'ALTER TABLE notices MODIFY COLUMN kind VARCHAR(24) NOT NULL', {});
  await run(
    own.db,
    `ALTER TABLE approval_posts ADD COLUMN in_place BOOLEAN NOT NULL DEFAULT FALSE,
     ADD KEY by_decision (person_id, decision, run_id)`,
    {},
  );
  await migrate(own.db);
  expect(await isReady(own.db)).toBe(true);
});

test('a table of somebody else that has the name of one of ours is not taken for it', async () => {
  await using own = await ownDatabase();
  await run(own.db, 'CREATE TABLE documents (theirs INT)', {});
  await expect(migrate(own.db)).rejects.toThrow(/documents.*already exists/);
});

test('two that begin at once on an empty database both come up, each migration run once', async () => {
  await using own = await ownDatabase();
  const other = connect(own.url);
  const waiting: Progress[] = [];
  const [one, two] = await Promise.all([
    migrate(own.db, (progress) => waiting.push(progress)),
    migrate(other, (progress) => waiting.push(progress)),
  ]);
  await other.close();
  expect([one.length, two.length].sort((a, b) => a - b)[0]).toBe(0);
  const begun = waiting.filter(
    ({ migration, state, within }) => migration !== null && state === 'begins' && !within,
  );
  expect(new Set(begun.map(({ migration, step }) => `${migration} ${step}`)).size).toBe(begun.length);
});

test('what waits for another says so', async () => {
  await using own = await ownDatabase();
  const other = await openConnection(own.url);
  const lock = "CONCAT('polychron-migrate:', SHA1(DATABASE()))";
  await other.query(`SELECT GET_LOCK(${lock}, 0)`);
  let waits = false;
  await migrate(own.db, ({ migration }) => {
    if (migration !== null || waits) return;
    waits = true;
    void other.query(`DO RELEASE_LOCK(${lock})`);
  });
  await other.end();
  expect(waits).toBe(true);
  expect(await isReady(own.db)).toBe(true);
});

test('a database that a newer program brought further is refused, in a sentence, and not touched', async () => {
  await using own = await ownDatabase();
  await migrate(own.db);
  await run(own.db, `INSERT INTO migrations (name) VALUES ('999-later')`, {});
  await expect(migrate(own.db)).rejects.toThrow(/brought up to 999-later by a newer Polychron/);
  expect(await isReady(own.db)).toBe(false);
});

test('how far long work has come is told', async () => {
  await using own = await ownDatabase();
  await killedAt(own.db, ({ migration }) => migration === '019-named');
  const told: [number, number][] = [];
  await migrate(own.db, ({ within }) => {
    if (within) told.push([within.done, within.of]);
  });
  expect(told.length).toBeGreaterThan(0);
  await rebuildHeads(own.db);
});

test('a strict mode of grouping, and other quotes, that the database server is set to stop nothing', async () => {
  await using own = await ownDatabase();
  const [found] = (await own.ask('SELECT @@GLOBAL.sql_mode AS mode')) as { mode: string }[];
  try {
    await own.ask(`SET GLOBAL sql_mode = 'ONLY_FULL_GROUP_BY,ANSI_QUOTES,NO_BACKSLASH_ESCAPES'`);
    await migrate(own.db);
    expect(await isReady(own.db)).toBe(true);
    // The threads' connections too.
    const alone = await openConnection(own.url);
    const asked = 'SELECT @@sql_mode AS mode, @@time_zone AS zone, @@collation_connection AS collation';
    const [said] = await alone.query<{ mode: string; zone: string; collation: string }[]>(asked);
    await alone.end();
    expect(said).toEqual({
      mode: 'STRICT_TRANS_TABLES,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION',
      zone: '+00:00',
      collation: 'utf8mb4_unicode_ci',
    });
    expect(await rows(own.db, asked, {})).toEqual([said]);
  } finally {
    await own.ask(`SET GLOBAL sql_mode = '${found?.mode}'`);
  }
});

test('a dump restored where the account that made the view is unknown is read once it is brought up to date', async () => {
  await using own = await ownDatabase();
  await killedAt(own.db, ({ migration }) => migration === '025-invoker');
  await run(
    own.db,
    `ALTER DEFINER = 'gone'@'localhost' SQL SECURITY DEFINER VIEW held_roles AS SELECT * FROM members`,
    {},
  );
  await expect(rows(own.db, 'SELECT * FROM held_roles', {})).rejects.toThrow(/gone/);
  await migrate(own.db);
  expect(await isReady(own.db)).toBe(true);
  const [view] = (await rows(
    own.db,
    'SELECT SECURITY_TYPE AS type FROM information_schema.VIEWS WHERE TABLE_SCHEMA = DATABASE()',
    {},
  )) as { type: string }[];
  expect(view?.type).toBe('INVOKER');
});

test('libraries whose code is an address of the application get one that is free', async () => {
  await using own = await ownDatabase();
  await killedAt(own.db, ({ migration }) => migration === '026-reserved-codes');
  for (const code of ['DESK', 'DESK1', 'APPROVALS', 'OP'])
    await run(
      own.db,
      `INSERT INTO libraries (id, code, name, purpose, rulebook_revision, created_at)
       VALUES (:code, :code, :code, '', 1, NOW())`,
      { code },
    );
  await migrate(own.db);
  expect(await rows(own.db, 'SELECT id, code FROM libraries ORDER BY id', {})).toEqual([
    { id: 'APPROVALS', code: 'APPROVALS1' },
    { id: 'DESK', code: 'DESK2' },
    { id: 'DESK1', code: 'DESK1' },
    { id: 'OP', code: 'OP' },
  ]);
});

test('a database is not ready where what requests ask of it is refused', async () => {
  await using own = await ownDatabase();
  await migrate(own.db);
  expect(await isReady(own.db)).toBe(true);
  await run(own.db, 'DROP VIEW held_roles', {});
  await expect(isReady(own.db)).rejects.toThrow(/held_roles/);
});

test('only what somebody made counts as held; removed, the database is as new', async () => {
  await using own = await ownDatabase();
  expect(await hasHeldAnything(own.db)).toBe(false);
  await migrate(own.db);
  expect(await hasHeldAnything(own.db)).toBe(false);
  await run(
    own.db,
    `INSERT INTO people (id, account, name, password_hash, created_at) VALUES ('p', 'p', 'P', '', NOW())`,
    {},
  );
  expect(await hasHeldAnything(own.db)).toBe(true);
  await removeEverything(own.db);
  expect(await hasHeldAnything(own.db)).toBe(false);
  const [left] = await rows<{ count: number }>(
    own.db,
    'SELECT COUNT(*) AS count FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()',
    {},
  );
  expect(Number(left?.count)).toBe(0);
  expect((await migrate(own.db)).length).toBeGreaterThan(0);
});

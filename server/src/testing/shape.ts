import { randomBytes } from 'node:crypto';
import { connect, type Database, rows } from '../store/database.ts';
import { migrate } from '../store/migrate.ts';

/** A database that was brought up to date and is never used, and what makes tables like its own. */
interface Shape {
  name: string;
  statements: readonly string[];
  /** Tables that have rows from the beginning on. */
  filled: readonly string[];
}
let shape: Promise<Shape> | null = null;

async function makeShape(url: string, admin: Database): Promise<Shape> {
  const name = `test_shape_${randomBytes(6).toString('hex')}`;
  await admin.query(`CREATE DATABASE ${name} CHARACTER SET utf8mb4`);
  const own = new URL(url);
  own.pathname = `/${name}`;
  const db = connect(own.href);
  await migrate(db);
  const tables = await rows<{ name: string; type: string }>(
    db,
    `SELECT TABLE_NAME AS name, TABLE_TYPE AS type FROM information_schema.TABLES WHERE TABLE_SCHEMA = DATABASE()
     ORDER BY TABLE_TYPE`,
    {},
  );
  const statements: string[] = [];
  const filled: string[] = [];
  for (const table of tables) {
    const isView = table.type === 'VIEW';
    const [made] = await rows<Record<string, string>>(
      db,
      `SHOW CREATE ${isView ? 'VIEW' : 'TABLE'} ${table.name}`,
      {},
    );
    const statement = made?.[isView ? 'Create View' : 'Create Table'] ?? '';
    statements.push(statement.replaceAll(`\`${name}\`.`, ''));
    if (!isView && (await rows(db, `SELECT 1 FROM ${table.name} LIMIT 1`, {})).length > 0)
      filled.push(table.name);
  }
  await db.close();
  return { name, statements, filled };
}

/**
 * Makes the tables of an empty database as the migrations make them, in a fraction of their time: they run
 * once in each process, in a database beside it.
 */
export async function takeShape(
  db: Database,
  { url, admin }: { url: string; admin: Database },
): Promise<void> {
  shape ??= makeShape(url, admin);
  const { name, statements, filled } = await shape;
  // Within one transaction they come over one connection, which is what the setting is for.
  await db.transaction(async (transaction) => {
    const ask = (query: string) => db.query({ query, values: [] }, { transaction, raw: true });
    await ask('SET SESSION foreign_key_checks = 0');
    for (const statement of statements) await ask(statement);
    for (const table of filled) await ask(`INSERT INTO ${table} SELECT * FROM ${name}.${table}`);
    await ask('SET SESSION foreign_key_checks = 1');
  });
}

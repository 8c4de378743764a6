import { MarkedLibrary } from '../testing/markedLibrary.ts';
import { testServer } from '../testing/started.ts';
import { rows, run } from './database.ts';
import { past } from './migrations/016-past.ts';

const server = testServer();

/** How every version stood at every moment at which one began to stand otherwise. */
async function told(): Promise<string[]> {
  const { db } = server.context;
  const moments = await rows<{ at: Date }>(
    db,
    'SELECT DISTINCT at FROM versions UNION SELECT submitted_at FROM approval_runs UNION SELECT ended_at FROM approval_runs ORDER BY at',
    {},
  );
  const all = await Promise.all(
    moments
      .filter(({ at }) => at !== null)
      .map(({ at }) =>
        rows<{ line: string }>(
          db,
          `SELECT CONCAT_WS(' ', :at, v.document_id, v.sequence, p.state, p.standing) AS line
           FROM version_periods p JOIN versions v ON v.id = p.version_id
           WHERE p.from_at <= :at AND (p.until_at IS NULL OR p.until_at > :at) ORDER BY v.document_id, v.sequence`,
          { at },
        ),
      ),
  );
  return all.flat().map(({ line }) => line);
}

test('a past from before it was kept is told as it was, from what is known of versions and their runs', async () => {
  await MarkedLibrary.make(server, { sight: { draft: [], inApproval: [], rejected: [] } });
  const kept = await told();
  expect(new Set(kept.map((line) => line.split(' ').slice(4).join(' '))).size).toBeGreaterThan(4);
  const { db } = server.context;
  await run(db, 'DELETE FROM version_periods', {});
  for (const statement of past.statements) {
    if (/^\s*(INSERT INTO|UPDATE) version_periods/.test(statement)) await run(db, statement, {});
  }
  expect(await told()).toEqual(kept);
});

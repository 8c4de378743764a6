import type { Options } from 'sequelize';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

/** The SQL statements that something is done by. */
async function statementsOf(doing: () => Promise<unknown>): Promise<string[]> {
  const statements: string[] = [];
  // Sequelize logs by its options, which its types do not show.
  const { options } = server.context.db as unknown as { options: Options };
  options.logging = (sql) => statements.push(sql.replace(/^Executing \([^)]*\): /, ''));
  await doing();
  options.logging = false;
  return statements;
}
/** How often a document's state is read: the statement that joins it with its head. */
const loads = (statements: readonly string[]): number =>
  statements.filter((sql) => sql.includes('FROM documents d JOIN heads h') && sql.includes('latest_id'))
    .length;
const locks = (statements: readonly string[]): number =>
  statements.filter((sql) => /FROM heads .* FOR UPDATE/.test(sql)).length;

const checkIn = async (documentId: string, level: 'minor' | 'major'): Promise<string[]> => {
  const agent = await server.as('author');
  await agent.post(`/api/v1/documents/${documentId}/checkout`).send({}).expect(201);
  return statementsOf(() =>
    agent
      .post(`/api/v1/documents/${documentId}/checkin`)
      .field({ comment: 'Changed', level })
      .attach('file', docxOf(`Words ${server.now.getTime()}`), 'op.docx')
      .expect(201),
  );
};

test('a check-in loads its document once, and asks no more of a long history than of a short one', async () => {
  const library = await server.library({ allowanceBytes: 100_000_000, keep: { published: 50 } });
  const { id } = await server.document(library);
  const short = await checkIn(id, 'minor');
  expect([loads(short), locks(short)]).toEqual([1, 1]);
  expect(short.length).toBeLessThanOrEqual(46);
  for (let made = 0; made < 12; made += 1) {
    server.pass(1);
    await checkIn(id, made % 4 === 3 ? 'major' : 'minor');
  }
  server.pass(1);
  const long = await checkIn(id, 'minor');
  expect([loads(long), locks(long)]).toEqual([1, 1]);
  expect(long.length).toBeLessThanOrEqual(short.length + 4);
  // What a library keeps is a sum of its heads, never of its versions.
  expect(long.filter((sql) => /SUM\(/.test(sql) && /FROM versions/.test(sql))).toEqual([]);
});

test('libraries are listed by what one is a member of, whatever else there is', async () => {
  await server.library();
  const [admin, author] = [await server.as('admin'), await server.as('author')];
  const listing = (agent = author): Promise<string[]> =>
    statementsOf(() => agent.get('/api/v1/libraries').expect(200));
  // The first use of a token is noted.
  for (const agent of [author, admin]) await listing(agent);
  const [few, all] = [(await listing()).length, (await listing(admin)).length];
  for (const code of ['NOTA', 'NOTB', 'NOTC'])
    await admin.post('/api/v1/libraries').send({ name: code, code }).expect(201);
  expect(await listing()).toHaveLength(few);
  // Nothing is counted where one has no role.
  expect(await listing(admin)).toHaveLength(all);
  await server.library();
  expect((await listing()).length).toBeLessThanOrEqual(few + 3);
});

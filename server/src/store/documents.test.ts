import { testServer } from '../testing/started.ts';
import { loadDocument } from './documents.ts';

const server = testServer();

test('a state is whole though its parts are read at once, and somebody acts between them', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'first', { level: 'major' });
  const pool = server.context.db.connectionManager;
  const acquire = pool.getConnection.bind(pool);
  let acts = 0;
  pool.getConnection = async (options) => {
    const connection = (await acquire(options)) as { query: (...asked: unknown[]) => Promise<unknown> };
    const { query } = connection;
    connection.query = async (...asked) => {
      connection.query = query;
      // The document and its head are read only once another version is there, which the others do not know.
      if (acts === 0 && String(asked[0]).includes('FROM documents d JOIN heads h')) {
        acts += 1;
        await server.change(id, 'second', 'major');
      }
      return query.apply(connection, asked);
    };
    return connection;
  };
  try {
    const state = await loadDocument(server.context, id);
    expect(acts).toBe(1);
    expect([state?.latest.sequence, state?.inForce?.sequence]).toEqual([2, 2]);
  } finally {
    pool.getConnection = acquire;
  }
});

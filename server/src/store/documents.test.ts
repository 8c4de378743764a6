import { testServer } from '../testing/started.ts';
import { loadDocument } from './documents.ts';

const server = testServer();

test('a state is whole though its parts are read at once, and somebody acts between them', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'first', { level: 'major' });
  const { db } = server.context;
  const query = db.query.bind(db) as (...asked: unknown[]) => Promise<unknown>;
  let acts = 0;
  const between = async (...asked: unknown[]): Promise<unknown> => {
    // The document and its head are read only once another version is there, which the others do not know.
    if (acts === 0 && String(asked[0]).includes('FROM documents d JOIN heads h')) {
      acts += 1;
      await server.change(id, 'second', 'major');
    }
    return query(...asked);
  };
  db.query = between as typeof db.query;
  try {
    const state = await loadDocument(server.context, id);
    expect(acts).toBe(1);
    expect([state?.latest.sequence, state?.inForce?.sequence]).toEqual([2, 2]);
  } finally {
    db.query = query as typeof db.query;
  }
});

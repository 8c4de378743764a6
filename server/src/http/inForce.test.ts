import type * as contract from '@polychron/contract';
import { testServer } from '../testing/started.ts';

const server = testServer();

const listed = async (account: string, address = '/in-force', query = ''): Promise<contract.InForceList> =>
  (await (await server.as(account)).get(`/api/v1${address}?${query}`).expect(200))
    .body as contract.InForceList;
const numbers = ({ items }: contract.InForceList): string[] => items.map(({ document }) => document.number);
async function register(
  library: string,
  title: string,
  subject: string[],
  level: 'minor' | 'major' = 'major',
): Promise<contract.Document> {
  const made = await server.document(library, title, { level, title });
  const author = await server.as('author');
  if (subject.length > 0) {
    const body = { fields: { subject }, comment: 'Sorted', level };
    await author.patch(`/api/v1/documents/${made.id}`).send(body).expect(200);
  }
  server.pass(1);
  return made;
}

test('what is in force over all libraries, for whoever asks, and nothing of drafts', async () => {
  const [one, two] = [await server.library(), await server.library({ readersSeePast: true })];
  const lamps = await register(one, 'Lamps of the valley', ['rooms', 'light']);
  const draft = await register(one, 'Never yet', [], 'minor');
  const ropes = await register(two, 'Ropes of the crest', ['ropes']);
  await server.change(lamps.id, 'hushhush', 'minor');
  const author = await server.as('author');
  await author
    .patch(`/api/v1/documents/${lamps.id}`)
    .send({ fields: { title: 'Lanterns to come' }, comment: 'Hushed words', level: 'minor' })
    .expect(200);
  for (const account of ['reader', 'author', 'controller']) {
    const all = await listed(account);
    expect(numbers(all)).toEqual(expect.arrayContaining([lamps.number, ropes.number]));
    expect(numbers(all)).not.toContain(draft.number);
    expect(all.total).toBe(all.items.length);
    for (const words of ['Lanterns', 'Hushed']) {
      expect((await listed(account, '/in-force', `q=${words}`)).items).toEqual([]);
    }
    const [found] = (await listed(account, '/in-force', 'q=valley')).items;
    expect(found).toMatchObject({
      document: { number: lamps.number, title: 'Lamps of the valley', library: { id: one } },
      subject: ['rooms', 'light'],
      new: false,
      before: null,
    });
    const { inForce } = (await (await server.as(account)).get(`/api/v1/documents/${lamps.id}`))
      .body as contract.Document;
    expect([found?.version, found?.since, found?.comment]).toEqual([
      inForce?.label,
      inForce?.inForceFrom,
      inForce?.comment,
    ]);
  }
  expect(numbers(await listed('reader', `/libraries/${one}/in-force`))).toEqual([lamps.number]);
  expect(numbers(await listed('reader', `/libraries/${one}/in-force`, 'path=rooms/light'))).toEqual([
    lamps.number,
  ]);
  expect(numbers(await listed('reader', `/libraries/${one}/in-force`, 'path=light'))).toEqual([]);
  const stranger = await server.as('stranger');
  await stranger.get(`/api/v1/libraries/${one}/in-force`).expect(404);
  expect((await listed('stranger')).items).toEqual([]);
});

test('parts of the list go on from library to library', async () => {
  const whole = await listed('reader', '/in-force', 'limit=200');
  const parts: contract.InForceList[] = [await listed('reader', '/in-force', 'limit=1')];
  for (let next = parts[0]?.next; next; next = parts.at(-1)?.next) {
    parts.push(await listed('reader', '/in-force', `limit=1&cursor=${encodeURIComponent(next)}`));
  }
  expect(parts.flatMap(numbers)).toEqual(numbers(whole));
  expect(new Set(parts.map(({ total }) => total))).toEqual(new Set([whole.total]));
  const names = whole.items.map(({ document }) => document.library.name);
  expect(names).toEqual([...names].sort((a, b) => a.localeCompare(b, 'en')));
});

test('what came into force since one last looked is new, with what it was before for whoever may compare', async () => {
  const library = await server.library();
  const made = await register(library, 'Snow rakes', []);
  const other = await register(library, 'Ice picks', []);
  for (const account of ['reader', 'author']) {
    expect((await listed(account)).lookedAt).toBeNull();
    const agent = await server.as(account);
    const at = server.now.toISOString();
    await agent.post('/api/v1/in-force/looked').send({ at }).expect(204);
    // A look in the past, or one to come, moves nothing on.
    await agent.post('/api/v1/in-force/looked').send({ at: '2020-01-01T00:00:00Z' }).expect(204);
    await agent.post('/api/v1/in-force/looked').send({ at: '2090-01-01T00:00:00Z' }).expect(204);
    expect((await listed(account)).lookedAt).toBe(at);
  }
  server.pass(1);
  await server.change(made.id, 'rakes with two ends', 'major');
  const itemsOf = async (account: string) =>
    (await listed(account, `/libraries/${library}/in-force`)).items.map(
      ({ document, new: fresh, before }) => [document.id, fresh, before],
    );
  expect(await itemsOf('reader')).toEqual([
    [made.id, true, null],
    [other.id, false, null],
  ]);
  expect(await itemsOf('author')).toEqual([
    [made.id, true, '1.0'],
    [other.id, false, null],
  ]);
  await (
    await server.as('reader')
  )
    .post('/api/v1/in-force/looked')
    .send({ at: server.now.toISOString() })
    .expect(204);
  expect((await itemsOf('reader')).map(([, fresh]) => fresh)).toEqual([false, false]);
});

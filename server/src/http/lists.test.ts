import type * as contract from '@polychron/contract';
import { type Route, routes } from '@polychron/contract';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

test('a cursor that is none of the list is refused on every list there is', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a');
  const agent = await server.as('controller');
  const lists = Object.entries(routes as Record<string, Route>).filter(
    ([, { method, query }]) =>
      method === 'get' && query && 'cursor' in (query as unknown as { shape: object }).shape,
  );
  expect(lists.length).toBeGreaterThanOrEqual(8);
  for (const [name, { path }] of lists) {
    const address = path.replace('{id}', path.startsWith('/libraries') ? library : id);
    const days = path.endsWith('/days') ? { from: '2026-01-01T00:00:00Z', to: '2026-02-01T00:00:00Z' } : {};
    const answer = await agent.get(`/api/v1${address}`).query({ ...days, cursor: 'nonsense' });
    // Versions are listed after one of them, named by its id: another is not found.
    const code = /\/(versions|visibility|reading)$/.test(path) ? 'version-not-found' : 'bad-cursor';
    expect([name, (answer.body as { code: string }).code]).toEqual([name, code]);
  }
});

test('the level may be left out where there is no minor one, and nowhere else', async () => {
  const whole = await server.document(await server.library({ numbering: 'whole' }), 'a', { level: 'major' });
  const stepped = await server.document(await server.library(), 'a');
  const agent = await server.as('author');
  const checkIn = async (id: string) => {
    await agent.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
    return agent
      .post(`/api/v1/documents/${id}/checkin`)
      .field('comment', 'Changed')
      .attach('file', docxOf('b'), 'op.docx');
  };
  expect((await checkIn(whole.id)).body).toMatchObject({ label: '2' });
  const refused = await checkIn(stepped.id);
  expect(refused.body).toMatchObject({ code: 'level-missing' });
});

test('with saves as drafts and the allowance used up the holder still lists, downloads and autosaves; a draft is refused', async () => {
  const library = await server.library({ saves: 'drafts' });
  const { id } = await server.document(library, 'a');
  const agent = await server.as('author');
  const address = `/api/v1/documents/${id}/checkout`;
  await agent.post(address).send({}).expect(201);
  const save = (words: string, query = '') =>
    agent
      .put(`${address}/content${query}`)
      .set('Content-Type', 'application/octet-stream')
      .send(docxOf(words));
  await save('typed', '?sitting=first').expect(200);
  await server.rules(library, { allowanceBytes: 10 });
  const { items } = (await agent.get(`${address}/saves`).expect(200)).body as {
    items: { position: number }[];
  };
  expect(items).toHaveLength(1);
  await agent.get(`${address}/saves/${items[0]?.position}/content`).expect(200);
  await save('typed on', '?sitting=first').expect(200);
  expect((await save('a draft').expect(409)).body).toMatchObject({ code: 'library-full' });
});

test('a long text is read part by part', async () => {
  const library = await server.library();
  const lines = Array.from({ length: 5_000 }, (_, index) => `line ${index}`);
  const author = await server.as('author');
  const made = await author
    .post(`/api/v1/libraries/${library}/documents`)
    .field({ fields: '{"title":"Log"}', comment: 'First', level: 'minor' })
    .attach('file', Buffer.from(lines.join('\n')), 'log.txt')
    .expect(201);
  const address = `/api/v1/documents/${(made.body as contract.Document).id}/versions/0.1/reading`;
  const found: string[] = [];
  let parts = 0;
  for (let cursor: string | null = '0'; cursor !== null;) {
    const part: contract.Reading = (await author.get(address).query({ cursor }).expect(200)).body;
    expect(part.total).toBe(5_000);
    found.push(
      ...part.blocks.map((block) => ('runs' in block ? block.runs.map(({ text }) => text).join('') : '')),
    );
    cursor = part.next;
    parts += 1;
  }
  expect([parts, found]).toEqual([3, lines]);
  expect((await author.get(address).query({ limit: 10 }).expect(200)).body).toMatchObject({ next: '10' });
  expect((await author.get(address).query({ cursor: '-1' })).body).toMatchObject({
    status: 400,
    code: 'bad-cursor',
  });
  expect((await author.get(address).query({ limit: 10_001 })).body).toMatchObject({ code: 'invalid-input' });
  expect((await author.get('/api/v1/turns').expect(200)).body).toEqual({
    working: 0,
    waiting: 0,
    ahead: null,
  });
});

test('of many members a hundred are told with what they see, and one is found by name or account', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  const people = Array.from({ length: 110 }, (_, index) => `crowd${String(index).padStart(3, '0')}`);
  for (const account of people) await server.caller(account);
  const [admin, controller] = [await server.as('admin'), await server.as('controller')];
  await admin.post('/api/v1/groups').send({ name: 'Crowd', people }).expect(201);
  const members = (await controller.get(`/api/v1/libraries/${library}/members`))
    .body as contract.MemberView[];
  const present = members.map(({ account, roles }) => ({ account, roles }));
  await controller
    .put(`/api/v1/libraries/${library}/members`)
    .send([...present, { group: 'Crowd', roles: ['reader'] }])
    .expect(200);
  const asked = async (member: string): Promise<contract.Visibility> =>
    (await controller.get(`/api/v1/documents/${id}/visibility`).query({ member }).expect(200))
      .body as contract.Visibility;
  const all = await asked('');
  expect([all.members.length, all.membersTotal]).toEqual([100, present.length + people.length]);
  const one = await asked(' CROWD109 ');
  expect(one.members).toMatchObject([{ account: 'crowd109', roles: ['reader'], sees: [{ sees: true }] }]);
  expect(one.membersTotal).toBe(1);
  expect(await asked('nobody of that name')).toMatchObject({ members: [], membersTotal: 0 });
});

import type * as contract from '@polychron/contract';
import { rows } from '../store/database.ts';
import { TestServer } from '../testing/server.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
});
afterAll(() => server.stop());

const text = (size: number, sign = 'a'): Buffer => Buffer.from(`${sign.repeat(size - 1)}\n`);
type Answer = contract.Problem & contract.Document & contract.Version;
const create = async (library: string, size: number, sign = 'a') =>
  (
    await (
      await server.as('author')
    )
      .post(`/api/v1/libraries/${library}/documents`)
      .field({ fields: JSON.stringify({ title: 'Span table' }), comment: 'First', level: 'minor' })
      .attach('file', text(size, sign), 'span.txt')
  ).body as Answer;
const checkOut = async (id: string): Promise<void> => {
  await (await server.as('author')).post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
};
const checkIn = async (id: string, size?: number) => {
  const form = (await server.as('author'))
    .post(`/api/v1/documents/${id}/checkin`)
    .field({ comment: 'Next', level: 'minor' });
  return (await (size === undefined ? form : form.attach('file', text(size, 'b'), 'span.txt')))
    .body as Answer;
};
const save = async (id: string, size: number, query = '') =>
  (
    await (
      await server.as('author')
    )
      .put(`/api/v1/documents/${id}/checkout/content${query}`)
      .set('Content-Type', 'application/octet-stream')
      .set('Content-Disposition', 'attachment; filename="span.txt"')
      .send(text(size, 'c'))
  ).body as Answer;
const kept = async (library: string): Promise<number | null> => {
  const { body } = await (await server.as('author')).get(`/api/v1/libraries/${library}`).expect(200);
  return (body as contract.Library).bytesKept;
};

test('ten check-ins at once do not go over what a library is allowed, nor do ten new documents', async () => {
  const library = await server.library();
  const made = [];
  for (let each = 0; each < 10; each += 1) made.push((await create(library, 100, String(each))).id);
  for (const id of made) await checkOut(id);
  await server.rules(library, { allowanceBytes: 5_000 });
  const answers = await Promise.all(made.map((id) => checkIn(id, 1_000)));
  expect(answers.filter(({ label }) => label === '0.2')).toHaveLength(4);
  expect(answers.filter(({ code }) => code === 'library-full')).toHaveLength(6);
  expect(await kept(library)).toBe(5_000);
  await server.rules(library, { allowanceBytes: 7_500 });
  const more = await Promise.all(
    Array.from({ length: 10 }, (_, each) => create(library, 1_000, String(each))),
  );
  expect(more.filter(({ code }) => code === 'library-full')).toHaveLength(8);
  expect(await kept(library)).toBe(7_000);
  const [sums] = await rows<{ heads: number; used: number }>(
    server.context.db,
    `SELECT (SELECT SUM(bytes_kept) FROM heads WHERE library_id = :library) AS heads,
       (SELECT bytes FROM library_usage WHERE library_id = :library) AS used`,
    { library },
  );
  expect(Number(sums?.used)).toBe(Number(sums?.heads));
});

test('saves and copies set aside count; a check-in takes the room of its own saves, giving back frees it', async () => {
  const library = await server.library({ allowanceBytes: 5_000 });
  const { id } = await create(library, 1_000);
  await checkOut(id);
  await save(id, 1_500);
  await save(id, 1_600, '?sitting=one');
  await save(id, 1_500, '?sitting=one');
  expect(await kept(library)).toBe(4_000);
  expect(await create(library, 1_001)).toMatchObject({ code: 'library-full', bytesKept: 4_000 });
  expect(await checkIn(id)).toMatchObject({ label: '0.2', size: 1_500 });
  expect(await kept(library)).toBe(2_500);
  await checkOut(id);
  await save(id, 2_000);
  const author = await server.as('author');
  expect(await kept(library)).toBe(4_500);
  await author.delete(`/api/v1/documents/${id}/checkout`).expect(204);
  expect(await kept(library)).toBe(2_500);
  const controller = await server.as('controller');
  await checkOut(id);
  await save(id, 2_000);
  await controller.post(`/api/v1/documents/${id}/checkout/lift`).send({ reason: 'On leave' }).expect(200);
  expect(await kept(library)).toBe(4_500);
  const desk = (await author.get('/api/v1/desk').expect(200)).body as contract.Desk;
  for (const file of desk.files) await author.delete(`/api/v1/desk/files/${file.id}`).expect(204);
  expect(await kept(library)).toBe(2_500);
});

test('a Desk has an allowance of its own, which uploads at once do not go over, and saves of what one holds count', async () => {
  const library = await server.library();
  const author2 = await server.as('author2');
  server.context.deskBytes = 5_000;
  const arrive = async (sign: string, size = 1_000) =>
    (await author2.post('/api/v1/desk/files').attach('file', text(size, sign), 'span.txt'))
      .body as contract.DeskFile & contract.Problem;
  const answers = await Promise.all(Array.from({ length: 10 }, (_, each) => arrive(String(each))));
  expect(answers.filter(({ code }) => code === 'desk-full')).toHaveLength(5);
  const desk = (await author2.get('/api/v1/desk').expect(200)).body as contract.Desk;
  expect(desk).toMatchObject({ bytes: 5_000, allowanceBytes: 5_000 });
  const [first, second] = answers.filter(({ id }) => id);
  const rewrite = (size: number) =>
    author2
      .put(`/api/v1/desk/files/${first?.id}/content`)
      .set('Content-Disposition', 'attachment; filename="span.txt"')
      .set('Content-Type', 'application/octet-stream')
      .send(text(size, 'x'));
  expect((await rewrite(1_001)).body).toMatchObject({ status: 409, code: 'desk-full' });
  expect((await rewrite(900)).status).toBe(200);
  await author2.delete(`/api/v1/desk/files/${second?.id}`).expect(204);

  const { id } = await create(library, 100);
  await checkOut(id);
  expect(await save(id, 3_000)).not.toHaveProperty('code');
  expect(await save(id, 2_001)).toMatchObject({ status: 409, code: 'desk-full' });
  expect(await save(id, 3_500, '?sitting=one')).toMatchObject({ code: 'desk-full' });
  expect(await save(id, 2_000, '?sitting=one')).not.toHaveProperty('code');
  expect(await save(id, 1_900, '?sitting=one')).not.toHaveProperty('code');
  expect(await checkIn(id)).toMatchObject({ label: '0.2' });
  expect((await (await server.as('author')).get('/api/v1/desk')).body).toMatchObject({ bytes: 0 });
});

import type * as contract from '@polychron/contract';
import { docxOf } from '../testing/files.ts';
import { TestDrive } from '../testing/drive.ts';
import { MarkedLibrary } from '../testing/markedLibrary.ts';
import { testServer } from '../testing/started.ts';

/**
 * A server with one connection to its database: an act that asked for a second one while it holds the first
 * would wait for itself. With many connections the same stops as many acts at once, each waiting for the
 * others.
 */
const server = testServer({ connections: 1 });
const drive = new TestDrive(server);
beforeAll(() => drive.start());
afterAll(() => drive.stop());

test('acts ask by the connection of their transaction alone', async () => {
  // Documents in every state; held, saved, distributed, limited, decided, mailed.
  await MarkedLibrary.make(server, { readersSeePast: true });
  const { id } = await server.document(await server.library(), 'a', { level: 'major' });
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  await author
    .put(`/api/v1/documents/${id}/checkout/content`)
    .set('Content-Disposition', 'attachment; filename="a.docx"')
    .set('Content-Type', 'application/octet-stream')
    .send(docxOf('b'))
    .expect(200);
  const lift = (await server.as('controller')).post(`/api/v1/documents/${id}/checkout/lift`);
  await lift.send({ reason: 'On leave' }).expect(200);
  const { files } = (await author.get('/api/v1/desk')).body as contract.Desk;
  const [copy] = files.filter(({ kind }) => kind === 'setAside');
  await author.delete(`/api/v1/desk/files/${copy?.id}`).expect(204);
});

test('so do programs on the drive', async () => {
  const code = await drive.codeOf(await server.library());
  const ask = async (method: string, path: string, headers = {}, body = '') =>
    (await drive.ask('author', `/dav/${path}`, { method, headers, body })).status;
  const to = (path: string) => ({ Destination: `/dav/${path}` });
  expect(await ask('PUT', `${code}/tower.txt`, {}, 'one')).toBe(201);
  expect(await ask('PUT', `${code}/tower.txt`, {}, 'two')).toBe(204);
  expect(await ask('MKCOL', 'Desk/towers')).toBe(201);
  expect(await ask('COPY', `${code}/tower.txt`, to('Desk/towers/tower.txt'))).toBe(201);
  expect(await ask('MOVE', 'Desk/towers', to(`${code}/towers`))).toBe(201);
  expect(await ask('DELETE', `${code}/towers`)).toBe(204);
});

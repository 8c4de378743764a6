import { readdirSync } from 'node:fs';
import request from 'supertest';
import type { Document } from '@polychron/contract';
import { lastReserve, reserve } from '../content/room.ts';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
/** Longer than a look at the disk is good for. */
const looked = (): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, 600);
  });

test('with little room no new content is taken in, everything else goes on, and it is taken in again with room', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'first', { level: 'major' });
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  const create = () =>
    author
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', '{"title":"T"}')
      .field('level', 'minor')
      .attach('file', docxOf('new'), 'new.docx');
  const save = () =>
    author
      .put(`/api/v1/documents/${id}/checkout/content`)
      .set('Content-Type', 'application/octet-stream')
      .send(docxOf('saved'));
  server.free = reserve - 1;
  await looked();
  for (const answer of [await create(), await save()]) {
    expect(answer.body).toMatchObject({ status: 507, code: 'disk-full', free: reserve - 1 });
  }
  expect(readdirSync(server.context.stagingFolder)).toEqual([]);
  await author.get(`/api/v1/documents/${id}/content`).expect(200);
  await author.get(`/api/v1/documents/${id}/versions/1.0/reading`).expect(200);
  expect((await author.get(`/api/v1/documents/${id}/checkout`)).body).toMatchObject({ saves: 0 });
  await author.delete(`/api/v1/documents/${id}/checkout`).expect(204);
  server.free = lastReserve - 1;
  await looked();
  for (const asked of [
    author.post(`/api/v1/documents/${id}/checkout`).send({}),
    author.post('/api/v1/tokens').send({ name: 'x' }),
    author.patch(`/api/v1/documents/${id}`).send({ fields: { title: 'Other' }, comment: '' }),
  ]) {
    expect((await asked).body).toMatchObject({ status: 507, code: 'disk-full' });
  }
  await author.get(`/api/v1/documents/${id}/content`).expect(200);
  const wrong = { account: 'author', password: 'x' };
  await request(server.listener).post('/api/v1/session').send(wrong).expect(401);
  server.free = 0;
  await looked();
  await request(server.listener).post('/api/v1/session').send(wrong).expect(507);
  await author.get(`/api/v1/documents/${id}/content`).expect(200);
  server.free = reserve;
  await looked();
  expect((await create()).body as Document).toMatchObject({ title: 'T' });
});

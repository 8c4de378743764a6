import type * as contract from '@polychron/contract';
import { holdContent, purgeShelf } from '../content/contents.ts';
import { sweep } from '../jobs/sweeps.ts';
import { rows, transact } from '../store/database.ts';
import { binary, docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
const post = async (
  account: string,
  id: string,
  version: string,
  act: string,
  reason = 'Holds a wrong drawing',
) => (await server.as(account)).post(`/api/v1/documents/${id}/versions/${version}/${act}`).send({ reason });
const shelf = async (library: string, account = 'controller', query = '') =>
  (await (await server.as(account)).get(`/api/v1/libraries/${library}/shelf${query}`)).body as contract.Shelf;

test('thinned by hand, on the shelf with its clock, recovered and sheltered; every step says why', async () => {
  const library = await server.library({ graceDays: 10 });
  const { id } = await server.document(library, 'a');
  for (const words of ['b', 'c']) await server.change(id, words);
  expect((await post('author2', id, '0.1', 'thin')).body).toMatchObject({
    status: 403,
    code: 'not-own-draft',
  });
  expect((await post('author', id, '0.3', 'thin')).body).toMatchObject({ status: 409, code: 'in-use' });
  expect((await post('author', id, '0.1', 'thin', '')).body).toMatchObject({
    status: 422,
    code: 'reason-missing',
  });
  const until = new Date(server.now.getTime() + 10 * 86_400_000).toISOString();
  expect((await post('author', id, '0.1', 'thin')).body).toMatchObject({
    label: '0.1',
    thinned: { until, why: 'By hand: Holds a wrong drawing' },
    acts: { recover: { allowed: false } },
  });
  expect(await shelf(library)).toMatchObject({
    total: 1,
    mayRecover: true,
    items: [{ document: { number: expect.any(String) }, label: '0.1', thinned: { until } }],
  });
  expect(await shelf(library, 'author')).toMatchObject({ total: 1, mayRecover: false });
  expect(await shelf(library, 'reader')).toMatchObject({ total: 0, bytes: 0, items: [] });
  expect((await post('author', id, '0.1', 'recover')).body).toMatchObject({
    status: 403,
    code: 'role-missing',
  });
  expect((await post('controller', id, '0.1', 'recover')).body).toMatchObject({
    label: '0.1',
    thinned: null,
    sheltered: true,
  });
  expect(
    (
      await (
        await server.as('author')
      )
        .get(`/api/v1/documents/${id}/versions/0.1/content`)
        .buffer()
        .parse(binary)
        .expect(200)
    ).body,
  ).toEqual(docxOf('a'));
  expect((await post('author', id, '0.1', 'thin')).body).toMatchObject({ status: 409, code: 'in-use' });
  expect((await post('controller', id, '0.1', 'unshelter')).body).toMatchObject({ sheltered: false });
  expect((await post('author', id, '0.2', 'shelter')).body).toMatchObject({ status: 403 });
  expect((await post('controller', id, '0.2', 'shelter')).body).toMatchObject({ sheltered: true });
});

test('when its days on the shelf are over the content is gone, its row stays; the same content can come again', async () => {
  const library = await server.library({ graceDays: 1, keep: { published: 0 } });
  const { id } = await server.document(library, 'going away', { level: 'major' });
  await server.change(id, 'next', 'major');
  const twin = await server.document(library, 'shared words', { level: 'major' });
  const other = await server.document(library, 'shared words', { level: 'major' });
  await server.change(twin.id, 'other words', 'major');
  server.pass(25);
  expect((await post('controller', id, '1.0', 'recover')).body).toMatchObject({
    status: 409,
    code: 'off-the-shelf',
  });
  expect((await shelf(library)).total).toBe(0);
  expect(await purgeShelf(server.context, server.now)).toBe(1);
  expect(await purgeShelf(server.context, server.now)).toBe(0);
  const controller = await server.as('controller');
  expect((await controller.get(`/api/v1/documents/${id}/versions/1.0`)).body).toMatchObject({
    label: '1.0',
    comment: 'First',
    size: docxOf('going away').length,
    thinned: {},
  });
  // What another version still keeps is not removed with the one that went.
  expect(
    (await controller.get(`/api/v1/documents/${other.id}/content`).buffer().parse(binary).expect(200)).body,
  ).toEqual(docxOf('shared words'));
  await server.change(id, 'going away', 'major');
  expect(
    (await controller.get(`/api/v1/documents/${id}/content`).buffer().parse(binary).expect(200)).body,
  ).toEqual(docxOf('going away'));
});

test('grace 0: gone with the next sweep', async () => {
  const library = await server.library({ graceDays: 0, numbering: 'none' });
  const { id } = await server.document(library, 'replaced at once', { level: 'major' });
  await server.change(id, 'new', 'major');
  expect((await shelf(library)).total).toBe(0);
  expect((await post('controller', id, 'u1', 'recover')).body).toMatchObject({
    status: 409,
    code: 'off-the-shelf',
  });
  await sweep(server.context);
  const left = await rows(
    server.context.db,
    'SELECT c.sha256 FROM contents c JOIN versions v ON v.sha256 = c.sha256 WHERE v.document_id = :id AND c.purged_at IS NULL',
    { id },
  );
  expect(left).toHaveLength(1);
});

test('recovering and clearing the shelf at once: the content is there, or the recovery was refused', async () => {
  for (let round = 0; round < 5; round += 1) {
    const library = await server.library({ graceDays: 1, keep: { published: 0 } });
    const { id } = await server.document(library, `race ${round}`, { level: 'major' });
    await server.change(id, `next ${round}`, 'major');
    const later = new Date(server.now.getTime() + 25 * 3_600_000);
    const [answer] = await Promise.all([
      post('controller', id, '1.0', 'recover'),
      purgeShelf(server.context, later),
    ]);
    const content = await (
      await server.as('controller')
    )
      .get(`/api/v1/documents/${id}/versions/1.0/content`)
      .buffer()
      .parse(binary);
    if (answer.status === 200) expect(content.body).toEqual(docxOf(`race ${round}`));
    else expect([answer.status, content.status]).toEqual([409, 409]);
  }
});

test('content that is recovered while the shelf is being cleared stays', async () => {
  const library = await server.library({ graceDays: 1, keep: { published: 0 } });
  const { id, latest } = await server.document(library, 'recovered in time', { level: 'major' });
  await server.change(id, 'next one', 'major');
  const later = new Date(server.now.getTime() + 25 * 3_600_000);
  let purging: Promise<number> | null = null;
  // The recovery has the content and has not ended yet when the clearing comes to it.
  await transact(server.context.db, async (tx) => {
    expect(await holdContent(server.context, latest.sha256, tx)).toBe(true);
    await server.context.models.Version.update(
      { thinnedAt: null, thinnedUntil: null },
      { where: { id: latest.id }, transaction: tx },
    );
    purging = purgeShelf(server.context, later);
    await new Promise((resolve) => {
      setTimeout(resolve, 200);
    });
  });
  await purging;
  const content = await (
    await server.as('controller')
  )
    .get(`/api/v1/documents/${id}/versions/1.0/content`)
    .buffer()
    .parse(binary)
    .expect(200);
  expect(content.body).toEqual(docxOf('recovered in time'));
});

test('the shelf comes in pages, the soonest to go first', async () => {
  const library = await server.library({ keep: { published: 0 } });
  const { id } = await server.document(library, 'a', { level: 'major' });
  for (const words of ['b', 'c', 'd']) await server.change(id, words, 'major');
  const first = await shelf(library, 'controller', '?limit=2');
  expect([first.total, first.items.map(({ label }) => label), first.next]).toEqual([3, ['1.0', '2.0'], '2']);
  expect(
    (await shelf(library, 'controller', `?limit=2&cursor=${first.next}`)).items.map(({ label }) => label),
  ).toEqual(['3.0']);
});

test('what the rules thinned under one revision is told apart, to be undone; what hands thinned is not of it', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  for (const words of ['b', 'c', 'd']) await server.change(id, words, 'major');
  await server.change(id, 'e');
  await server.change(id, 'f');
  const controller = await server.as('controller');
  await controller.post(`/api/v1/documents/${id}/versions/4.1/thin`).send({ reason: 'A slip' }).expect(200);
  server.pass(1);
  await server.rules(library, { keep: { published: 1 } });
  await sweep(server.context);
  const { revision } = (await controller.get(`/api/v1/libraries/${library}/rulebook`)).body as {
    revision: number;
  };
  const labels = async (query: string): Promise<string[]> =>
    (await shelf(library, 'controller', query)).items.map(({ label }) => label).sort();
  expect(await labels(`?revision=${revision}`)).toEqual(['1.0', '2.0']);
  expect(await labels(`?revision=${revision - 1}`)).toEqual([]);
  expect(await labels('')).toEqual(['1.0', '2.0', '4.1']);
  // Of a later revision none of it is.
  server.pass(1);
  await server.rules(library, { keep: { published: 10 } });
  expect(await labels(`?revision=${revision + 1}`)).toEqual([]);
  expect((await shelf(library, 'controller', `?revision=${revision}`)).total).toBe(2);
});

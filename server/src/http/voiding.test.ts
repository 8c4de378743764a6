import type * as contract from '@polychron/contract';
import { bringDueIntoForce } from '../jobs/sweeps.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
const reason = 'Registered twice';
const asked = async (account: string, path: string) => (await server.as(account)).get(`/api/v1${path}`);
const post = async (account: string, path: string, body: object = { reason }) =>
  (await server.as(account)).post(`/api/v1/documents/${path}`).send(body);

/** Every list that might tell a document, in words. */
async function listsOf(account: string, library: string): Promise<string> {
  const paths = [
    `/libraries/${library}/documents?limit=200`,
    `/libraries/${library}/documents?q=twin`,
    `/libraries/${library}/subjects`,
    `/libraries/${library}/in-force`,
    '/in-force',
    '/libraries',
    '/desk',
    '/notices',
    `/libraries/${library}/templates`,
    `/libraries/${library}/shelf`,
    `/libraries/${library}/days?from=2026-01-01T00:00:00Z&to=2027-01-01T00:00:00Z`,
  ];
  const answers = await Promise.all(paths.map((path) => asked(account, path)));
  return answers.map(({ text }) => text).join('\n');
}

/** A published document that stands in every list there is. */
async function everywhere(library: string): Promise<contract.Document> {
  const { id } = await server.document(library, 'first', { level: 'major', title: 'Twin' });
  await server.change(id, 'twin second');
  await server.change(id, 'twin third', 'major');
  await (
    await server.as('controller')
  )
    .put(`/api/v1/documents/${id}/template`)
    .send({ type: 'Twin' })
    .expect(200);
  await post('author', `${id}/versions/1.1/thin`).then(({ status }) => expect(status).toBeLessThan(300));
  const people = { people: ['reader'], groups: [] };
  await post('author', `${id}/distribution`, people).then(({ status }) => expect(status).toBeLessThan(300));
  const fields = { subject: ['Twins'], reviewBy: '2026-03-10' };
  await (
    await server.as('author')
  )
    .patch(`/api/v1/documents/${id}`)
    .send({ fields, comment: 'c' })
    .expect(200);
  return (await asked('controller', `/documents/${id}`)).body as contract.Document;
}

test('a voided document is in no list, for nobody; auditors and controllers find it where they ask for it', async () => {
  const library = await server.library();
  const { id, number } = await everywhere(library);
  expect(await listsOf('author', library)).toContain(id);
  expect((await post('author', `${id}/void`)).body).toMatchObject({ code: 'voiding-over' });
  expect((await post('controller', `${id}/void`, { reason: ' ' })).body).toMatchObject({
    code: 'reason-missing',
  });
  const { status, body } = await post('controller', `${id}/void`);
  expect(status).toBe(200);
  expect(body).toMatchObject({ number, voided: { by: { account: 'controller' }, reason } });
  for (const account of ['reader', 'auditor', 'author', 'approver', 'controller']) {
    expect([account, (await listsOf(account, library)).includes(id)]).toEqual([account, false]);
    const sees = account === 'auditor' || account === 'controller';
    expect((await asked(account, `/documents/${id}`)).status).toBe(sees ? 200 : 404);
    const void_ = (await asked(account, `/libraries/${library}/documents?voided=true`))
      .body as contract.DocumentList;
    expect([account, void_.total, void_.items.map((one) => one.number)]).toEqual(
      sees ? [account, 1, [number]] : [account, 0, []],
    );
  }
  // Its versions are there as before, nothing can be done with them, and the number stays its own.
  const versions = (await asked('auditor', `/documents/${id}/versions`)).body as contract.VersionList;
  expect(versions.items.map(({ label }) => label)).toContain('1.0');
  await (await server.as('controller')).get(`/api/v1/documents/${id}/versions/2.0/content`).expect(200);
  const refused = (await post('controller', `${id}/withdraw`)).body as contract.Problem;
  expect(refused).toMatchObject({ code: 'voided', detail: expect.stringContaining(reason) as string });
  const next = (await asked('controller', `/libraries/${library}/next-number`)).body as { number: string };
  expect(next.number).not.toBe(number);
  const now = ((await asked('controller', `/libraries/${library}`)).body as contract.Library).documents;
  expect(now).toBe(0);
});

test('what was in force before is still told as of then, to those who may see void documents', async () => {
  const library = await server.library();
  const { id } = await everywhere(library);
  const then = server.now.toISOString();
  server.pass(1);
  await post('controller', `${id}/void`);
  const isThere = async (account: string, at: string, voided = ''): Promise<boolean> =>
    (await asked(account, `/libraries/${library}/documents?asOf=${at}${voided}`)).text.includes(id);
  const now = server.now.toISOString();
  expect(await isThere('controller', then)).toBe(true);
  expect(await isThere('controller', now)).toBe(false);
  expect(await isThere('controller', now, '&voided=true')).toBe(true);
  expect(await isThere('controller', then, '&voided=true')).toBe(false);
  expect(await isThere('author', then)).toBe(false);
  server.pass(1);
  await post('controller', `${id}/unvoid`);
  expect(await isThere('controller', now)).toBe(false);
  expect(await isThere('author', then)).toBe(true);
});

test('lifting it brings everything back, what was to come into force meanwhile as well', async () => {
  const library = await server.library();
  const { id } = await everywhere(library);
  await server.change(id, 'twin fourth');
  const inForceFrom = new Date(server.now.getTime() + 60_000).toISOString();
  await post('author', `${id}/publish`, { comment: '', inForceFrom });
  const before = (await asked('author', `/documents/${id}`)).body as contract.Document;
  await post('controller', `${id}/void`);
  server.pass(5);
  await bringDueIntoForce(server.context);
  expect((await asked('controller', `/documents/${id}`)).body).toMatchObject({
    inForce: { label: before.inForce?.label },
  });
  expect((await post('auditor', `${id}/unvoid`)).body).toMatchObject({ code: 'role-missing' });
  expect((await post('controller', `${id}/unvoid`)).status).toBe(200);
  expect((await post('controller', `${id}/unvoid`)).body).toMatchObject({ code: 'not-voided' });
  await bringDueIntoForce(server.context);
  const after = (await asked('author', `/documents/${id}`)).body as contract.Document;
  expect(after).toMatchObject({ voided: null, inForce: { label: before.latest.label } });
  expect(await listsOf('author', library)).toContain(id);
});

test('whoever registered it takes it back within the hour; not what others touched, hold or decide about', async () => {
  const library = await server.library();
  const make = async () => (await server.document(library, 'mine')).id;
  const mayVoid = async (account: string, id: string) =>
    ((await asked(account, `/documents/${id}`)).body as contract.Document).acts.void.allowed;
  const id = await make();
  expect([await mayVoid('author', id), await mayVoid('author2', id)]).toEqual([true, false]);
  expect((await post('author2', `${id}/void`)).body).toMatchObject({ code: 'role-missing' });
  expect((await post('author', `${id}/void`)).status).toBe(200);
  expect((await asked('author', `/documents/${id}`)).status).toBe(404);

  const touched = await make();
  await post('author2', `${touched}/checkout`, {});
  expect((await post('controller', `${touched}/void`)).body).toMatchObject({ code: 'held' });
  await (await server.as('author2')).delete(`/api/v1/documents/${touched}/checkout`);
  expect(await mayVoid('author', touched)).toBe(false);
  expect((await post('author', `${touched}/void`)).body).toMatchObject({
    code: 'voiding-over',
    detail: expect.stringContaining('Somebody else') as string,
  });

  const late = await make();
  server.pass(1.1);
  expect(await mayVoid('author', late)).toBe(false);
  expect((await post('author', `${late}/void`)).body).toMatchObject({ code: 'voiding-over' });
  expect((await post('controller', `${late}/void`)).status).toBe(200);
});

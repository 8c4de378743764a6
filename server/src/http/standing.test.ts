import type * as contract from '@polychron/contract';
import { bringDueIntoForce } from '../jobs/sweeps.ts';
import { rows } from '../store/database.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const reason = 'The wind limits are wrong';
const post = async (account: string, id: string, path: string, body: object = {}) =>
  (await server.as(account)).post(`/api/v1/documents/${id}/${path}`).send(body);
const read = async (id: string, account = 'reader'): Promise<contract.Document> =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}`)).body as contract.Document;
const inForce = async (id: string, account = 'reader'): Promise<string | null> =>
  (await read(id, account)).inForce?.label ?? null;
const outlook = async (id: string, version: string, act: string, account = 'controller') =>
  (await server.as(account)).get(`/api/v1/documents/${id}/versions/${version}/outlook?act=${act}`);
async function states(id: string): Promise<string[]> {
  const answer = await (await server.as('controller')).get(`/api/v1/documents/${id}/versions`).expect(200);
  return (answer.body as contract.VersionList).items.map(
    ({ label, standing, state }) => `${label} ${standing ?? state}`,
  );
}
/** Who of the members is given a version in force. */
async function readersOf(id: string): Promise<number> {
  const accounts = ['reader', 'auditor', 'author', 'author2', 'approver', 'approver2', 'controller'];
  const all = await Promise.all(accounts.map((account) => inForce(id, account)));
  return all.filter((label) => label !== null && label !== undefined).length;
}
async function three(): Promise<string> {
  const library = await server.library({ numbering: 'whole' });
  const { id } = await server.document(library, 'first', { level: 'major' });
  await server.change(id, 'second', 'major');
  server.pass(2);
  await server.change(id, 'third', 'major');
  server.pass(2);
  return id;
}
/** When versions were in force, oldest first. */
const periods = (id: string) =>
  rows<{ major: number; from: Date; until: Date | null }>(
    server.context.db,
    `SELECT v.major, p.from_at AS \`from\`, p.until_at AS until FROM version_periods p JOIN versions v ON v.id = p.version_id
     WHERE p.document_id = :id AND p.standing = 'inForce' ORDER BY p.id`,
    { id },
  );

test('withdrawn: readers get the version before it, as was said; it keeps why, and for whom it is', async () => {
  const id = await three();
  expect((await post('author', id, 'withdraw', { reason })).body).toMatchObject({ code: 'role-missing' });
  expect((await post('controller', id, 'withdraw', { reason: ' ' })).body).toMatchObject({
    code: 'reason-missing',
  });
  const promised = (await outlook(id, '3', 'withdraw')).body as contract.Outlook;
  expect(promised).toEqual({ inForce: '2', readers: 7, withdrawn: ['3'], thinned: null });
  expect((await outlook(id, '3', 'withdraw', 'author')).body).toMatchObject({ code: 'role-missing' });
  expect((await outlook(id, '3', 'withdraw', 'reader')).body).toMatchObject({ code: 'role-missing' });
  const answer = (await post('controller', id, 'withdraw', { reason })).body as contract.Version;
  expect(answer).toMatchObject({
    label: '3',
    state: 'withdrawn',
    standing: null,
    withdrawn: { why: `Withdrawn by C. controller: “${reason}”.` },
  });
  const told = (await (await server.as('author')).get('/api/v1/notices?limit=200'))
    .body as contract.NoticeList;
  expect(told.items.find(({ document }) => document.id === id)?.text).toBe(
    `C. controller withdrew ${(await read(id)).number} 3: “${reason}”. 2 is in force.`,
  );
  expect(await inForce(id)).toBe(promised.inForce);
  expect(await readersOf(id)).toBe(promised.readers);
  expect(await states(id)).toEqual(['3 withdrawn', '2 inForce', '1 superseded']);
  const reader = await server.as('reader');
  await reader.get(`/api/v1/documents/${id}/versions/3`).expect(404);
  await (await server.as('auditor')).get(`/api/v1/documents/${id}/versions/3`).expect(200);
  expect((await post('controller', id, 'withdraw', { version: '3', reason })).body).toMatchObject({
    code: 'withdrawn-already',
  });
  await post('controller', id, 'withdraw', { reason });
  const last = (await outlook(id, '1', 'withdraw')).body as contract.Outlook;
  expect(last).toEqual({ inForce: null, readers: 0, withdrawn: ['1'], thinned: null });
  await post('controller', id, 'withdraw', { reason });
  expect(await readersOf(id)).toBe(0);
});

test('what was thinned does not come back, and the outlook says so', async () => {
  const id = await three();
  const controller = await server.as('controller');
  await controller.post(`/api/v1/documents/${id}/versions/2/thin`).send({ reason }).expect(200);
  expect((await outlook(id, '3', 'withdraw')).body).toEqual({
    inForce: null,
    readers: 0,
    withdrawn: ['3'],
    thinned: '2',
  });
  await post('controller', id, 'withdraw', { reason });
  expect(await inForce(id, 'controller')).toBeNull();
  expect((await outlook(id, '2', 'reinstate')).body).toMatchObject({ code: 'content-thinned' });
});

test('11: whole 1, 2, 3: reinstate 2: 2 in force, 3 withdrawn; next check-in 4; when each was in force is kept', async () => {
  const id = await three();
  expect((await post('author', id, 'reinstate', { version: '2', reason })).body).toMatchObject({
    code: 'role-missing',
  });
  expect((await post('controller', id, 'reinstate', { version: '3', reason })).body).toMatchObject({
    code: 'in-force-already',
  });
  expect((await outlook(id, '2', 'reinstate')).body).toEqual({
    inForce: '2',
    readers: 7,
    withdrawn: ['3'],
    thinned: null,
  });
  const again = server.now;
  const { body } = await post('controller', id, 'reinstate', { version: '2', reason });
  expect(body).toMatchObject({ label: '2', standing: 'inForce', inForceFrom: again.toISOString() });
  expect(await states(id)).toEqual(['3 withdrawn', '2 inForce', '1 superseded']);
  expect(await inForce(id)).toBe('2');
  server.pass(1);
  await server.change(id, 'fourth', 'major');
  expect(await states(id)).toEqual(['4 inForce', '3 withdrawn', '2 superseded', '1 superseded']);
  const kept = await periods(id);
  expect(kept.map(({ major }) => major)).toEqual([1, 2, 3, 2, 4]);
  for (const [place, { until }] of kept.entries()) {
    expect(until).toEqual(kept[place + 1]?.from ?? null);
  }
});

test('refused while somebody else holds the document, and in approval', async () => {
  const id = await three();
  await post('author', id, 'checkout');
  expect((await post('controller', id, 'reinstate', { version: '2', reason })).body).toMatchObject({
    code: 'held',
  });
  // What is in force is withdrawn all the same.
  await post('controller', id, 'withdraw', { reason });
  expect(await inForce(id)).toBe('2');
});

test('a version whose moment has come is in force before any act, also where no sweep was by', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'first', { level: 'major' });
  await server.change(id, 'second', 'minor');
  const inForceFrom = new Date(server.now.getTime() + 86_400_000).toISOString();
  expect((await post('author', id, 'publish', { inForceFrom })).status).toBe(201);
  server.pass(25);
  // What is withdrawn is what is in force now; without that it would be 1.0, and 2.0 come after it.
  expect((await post('controller', id, 'withdraw', { reason })).body).toMatchObject({ label: '2.0' });
  expect(await states(id)).toEqual(['2.0 withdrawn', '1.1 draft', '1.0 inForce']);
  const { body } = await (await server.as('auditor')).get(`/api/v1/documents/${id}/versions/2.0`);
  expect(body).toMatchObject({ inForceFrom });
});

test('a scheduled version is shown, changed, made now, or taken back before its moment', async () => {
  const library = await server.library();
  const make = async (): Promise<string> => {
    const { id } = await server.document(library, 'first', { level: 'major' });
    await server.change(id, 'second', 'minor');
    const inForceFrom = new Date(server.now.getTime() + 86_400_000).toISOString();
    expect((await post('author', id, 'publish', { inForceFrom })).body).toMatchObject({
      label: '2.0',
      standing: 'scheduled',
    });
    return id;
  };
  const patch = async (account: string, id: string, body: object) =>
    (await server.as(account)).patch(`/api/v1/documents/${id}/schedule`).send(body);
  const id = await make();
  const later = new Date(server.now.getTime() + 3 * 86_400_000).toISOString();
  expect((await patch('reader', id, { inForceFrom: later })).body).toMatchObject({ code: 'role-missing' });
  expect((await patch('author', id, { inForceFrom: later })).body).toMatchObject({
    label: '2.0',
    inForceFrom: later,
  });
  expect((await patch('author', id, { inForceFrom: '2020-01-01T00:00:00Z' })).body).toMatchObject({
    code: 'moment-past',
  });
  server.pass(48);
  await bringDueIntoForce(server.context);
  expect(await inForce(id)).toBe('1.0');
  expect((await patch('author', id, { inForceFrom: null })).body).toMatchObject({ standing: 'inForce' });
  expect(await inForce(id)).toBe('2.0');
  expect((await patch('author', id, { inForceFrom: null })).body).toMatchObject({ code: 'not-scheduled' });
  const other = await make();
  expect((await outlook(other, '2.0', 'takeBack', 'author')).body).toEqual({
    inForce: '1.0',
    readers: 7,
    withdrawn: ['2.0'],
    thinned: null,
  });
  const back = await (
    await server.as('author')
  )
    .delete(`/api/v1/documents/${other}/schedule?reason=Roster%20moved`)
    .expect(200);
  expect(back.body).toMatchObject({
    label: '2.0',
    state: 'withdrawn',
    withdrawn: { why: 'Taken back by A. author before it came into force: “Roster moved”.' },
  });
  server.pass(72);
  await bringDueIntoForce(server.context);
  expect(await inForce(other)).toBe('1.0');
});

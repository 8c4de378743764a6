import request from 'supertest';
import type * as contract from '@polychron/contract';
import { performSetMembers } from '../acts/setMembers.ts';
import { runJobs } from '../jobs/sweeps.ts';
import { Listening } from '../testing/events.ts';
import { docxOf } from '../testing/files.ts';
import { type Agent, TestServer } from '../testing/server.ts';

let server: TestServer;
let admin: Agent;
beforeEach(async () => {
  server = await TestServer.start();
  admin = await server.as('admin');
});
afterEach(() => server.stop());

const change = async (account: string, body: object) =>
  (await admin.patch(`/api/v1/people/${account}`).send(body)).body as contract.ChangedPerson &
    contract.Problem;
const serial = {
  approval: { on: true, mode: 'serial' as const, approvers: ['approver', 'approver2'] },
};
const documentOf = async (id: string, account = 'controller') =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}`).expect(200)).body as contract.Document;

test('what somebody answers for is shown, and handed over when their account is closed; nothing is lost', async () => {
  const library = await server.library(serial);
  const held = await server.document(library, 'held text');
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${held.id}/checkout`).send({ reason: 'New span' }).expect(201);
  const save = (words: string) =>
    author
      .put(`/api/v1/documents/${held.id}/checkout/content`)
      .set('Content-Type', 'application/octet-stream')
      .set('Content-Disposition', 'attachment; filename="op.docx"')
      .send(docxOf(words));
  await save('saved once').expect(200);
  await save('saved twice').expect(200);
  const aside = await server.document(library, 'aside text', { account: 'author2' });
  await author.post(`/api/v1/documents/${aside.id}/checkout`).send({}).expect(201);
  await author
    .put(`/api/v1/documents/${aside.id}/checkout/content`)
    .set('Content-Disposition', 'attachment; filename="op.docx"')
    .send(docxOf('was set aside'))
    .expect(200);
  await (
    await server.as('controller')
  )
    .post(`/api/v1/documents/${aside.id}/checkout/lift`)
    .send({ reason: 'On leave' })
    .expect(200);
  const rehearsed = await change('author', { closed: true, handOverTo: 'author2', rehearse: true });
  expect(rehearsed.handOver).toMatchObject([
    { library: { id: library }, owns: 1, holds: 1, setAside: 1, decides: 0, coAuthors: 0, refusals: [] },
  ]);
  expect(rehearsed).toMatchObject({
    person: { account: 'author', closed: false },
    tokens: 1,
    unmanaged: null,
  });
  await author.get('/api/v1/session').expect(200);

  const done = await change('author', { closed: true, handOverTo: 'author2' });
  expect({ ...done, person: null }).toEqual({ ...rehearsed, person: null });
  expect(done.person.closed).toBe(true);
  await author.get('/api/v1/session').expect(401);
  const now = await documentOf(held.id, 'author2');
  expect(now).toMatchObject({
    owner: { account: 'author2' },
    custody: { holder: { account: 'author2' }, mine: true, saves: 2, reason: 'New span', base: '0.1' },
  });
  const author2 = await server.as('author2');
  const copy = await author2
    .get(`/api/v1/documents/${held.id}/checkout/content`)
    .responseType('blob')
    .expect(200);
  expect(docxOf('saved twice').equals(copy.body as Buffer)).toBe(true);
  const history = (await author2.get(`/api/v1/documents/${held.id}/custody`).expect(200))
    .body as contract.CustodyHistory;
  expect(history.items).toMatchObject([
    { holder: { account: 'author2' }, how: null },
    { holder: { account: 'author' }, how: 'handedOver', endedBy: { account: 'admin' } },
  ]);
  const desk = (await author2.get('/api/v1/desk').expect(200)).body as contract.Desk;
  expect(JSON.stringify(desk)).toContain('On leave');
  const notices = (await author2.get('/api/v1/notices').expect(200)).body as contract.NoticeList;
  expect(notices.items.map(({ kind, text }) => [kind, text])).toEqual(
    expect.arrayContaining([
      ['handedOver', expect.stringContaining('you own it now, hold it, with what was saved')],
    ]),
  );
  await author2
    .post(`/api/v1/documents/${held.id}/checkin`)
    .field({ comment: 'Done for them', level: 'minor' })
    .expect(201);
  const again = await change('author', { closed: true, handOverTo: 'author2', rehearse: true });
  expect(again).toMatchObject({ handOver: [], tokens: 0, sessions: 0 });
});

test('much to hand over goes on after the answer, tells how far it is, and is taken up where it was cut short', async () => {
  const library = await server.library();
  const ids: string[] = [];
  for (let at = 0; at < 42; at += 1) ids.push((await server.document(library, `text ${at}`)).id);
  const byOther = (await server.document(library, 'of another', { account: 'author2' })).id;
  const controller = await server.as('controller');
  const name = (body: object) =>
    controller.patch(`/api/v1/documents/${byOther}`).send({ fields: body, comment: 'Named' }).expect(200);
  await name({ coAuthors: ['author', 'controller'], approvers: ['author'] });
  await name({ approvers: ['controller', 'author'] });
  const rehearsed = await change('author', { closed: true, handOverTo: 'controller', rehearse: true });
  expect(rehearsed.handOver).toMatchObject([{ owns: 42, coAuthors: 1, approves: 1 }]);

  const { person } = await change('author', { closed: true, handOverTo: 'controller' });
  expect(person).toMatchObject({ closed: true, handingOver: expect.any(String) });
  const job = async (account = 'admin') =>
    (await (await server.as(account)).get(`/api/v1/jobs/${person.handingOver}`)).body as contract.Job;
  expect(await job()).toMatchObject({ kind: 'handOver', state: 'queued', library: null, thinned: null });
  expect(await job('controller')).toMatchObject({ status: 404, code: 'job-not-found' });
  const stopped = await (await server.as('admin')).delete(`/api/v1/jobs/${person.handingOver}`);
  expect(stopped.body).toMatchObject({
    code: 'not-cancellable',
    detail: expect.stringMatching(/^A closed account answers for nothing: /),
  });
  for (const closed of [true, false]) {
    const refused = await change('author', { closed, ...(closed ? { handOverTo: 'author2' } : {}) });
    expect(refused).toMatchObject({ status: 409, code: 'handing-over' });
  }
  // A server that took it up and was killed: what says nothing for a minute goes on elsewhere.
  const { context } = server;
  await context.models.Job.update(
    { state: 'running', aliveAt: server.now },
    { where: { id: person.handingOver ?? '' } },
  );
  await runJobs(context);
  expect(await job()).toMatchObject({ state: 'running', done: 0 });
  server.pass(1);
  await runJobs(context);
  expect(await job()).toMatchObject({ state: 'done', done: 43, total: 43 });
  const owners = new Set<string | undefined>();
  for (const id of ids) owners.add((await documentOf(id)).owner.account);
  expect([...owners]).toEqual(['controller']);
  const after = await documentOf(byOther);
  expect([after.coAuthors, after.approvers].map((each) => each.map(({ account }) => account))).toEqual([
    ['controller'],
    ['controller'],
  ]);
  expect(await change('author', { closed: false })).toMatchObject({
    person: { closed: false, handingOver: null },
  });
});

test('a decision waiting goes to the successor, in its place, and they are told', async () => {
  const library = await server.library(serial);
  const { id } = await server.document(library);
  await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/submit`)
    .send({ version: '0.1' })
    .expect(200);
  expect(await change('approver', { closed: true })).toMatchObject({ status: 409, code: 'hand-over-wanted' });
  expect(await change('approver', { closed: true, handOverTo: 'reader' })).toMatchObject({
    status: 409,
    code: 'successor-unfit',
  });
  expect(await change('approver', { closed: true, handOverTo: 'approver2', rehearse: true })).toMatchObject({
    handOver: [{ decides: 1, refusals: [{ documents: 1 }] }],
  });
  const decide = async (account: string) =>
    (await server.as(account))
      .post(`/api/v1/documents/${id}/decision`)
      .send({ version: '0.1', decision: 'approve', comment: '' });
  await (await server.as('approver')).get('/api/v1/session').expect(200);
  expect((await change('approver', { closed: true, handOverTo: 'controller' })).person.closed).toBe(true);
  const told = await (await server.as('controller')).get('/api/v1/notices').expect(200);
  expect(JSON.stringify(told.body)).toContain('are asked to decide');
  expect((await decide('approver2')).status).toBe(409);
  expect((await decide('controller')).status).toBe(200);
  expect((await decide('approver2')).status).toBe(200);
  expect((await documentOf(id)).inForce).toMatchObject({ label: '1.0' });
});

test('who is closed holds no role: not asked, not counted, not named; opened again they are what they were', async () => {
  const library = await server.library({ approval: { on: true, mode: 'together', approvers: ['approver'] } });
  await server.password('approver');
  const { id } = await server.document(library);
  expect((await change('approver', { closed: true })).person.closed).toBe(true);
  const submit = async () =>
    (await server.as('author')).post(`/api/v1/documents/${id}/submit`).send({ version: '0.1' });
  expect((await submit()).body).toMatchObject({ code: 'no-approver' });
  const seen = await (await server.as('controller')).get(`/api/v1/documents/${id}/visibility`).expect(200);
  expect(JSON.stringify(seen.body)).not.toContain('"account":"approver"');
  const named = await (
    await server.as('author')
  )
    .patch(`/api/v1/documents/${id}`)
    .send({ fields: { approvers: ['approver'] }, comment: '' });
  expect(named.body).toMatchObject({ code: 'account-unknown' });
  const members = await admin.get(`/api/v1/libraries/${library}/members`).expect(200);
  expect(members.body).toContainEqual({
    account: 'approver',
    name: 'A. approver',
    roles: ['approver'],
    closed: true,
  });
  const signIn = (password: string) =>
    request(server.listener).post('/api/v1/session').send({ account: 'approver', password });
  expect((await signIn('correct horse')).body).toMatchObject({ status: 403, code: 'account-closed' });
  expect((await signIn('wrong')).body).toMatchObject({ status: 401, code: 'sign-in-failed' });
  const listed = await admin.get('/api/v1/people?open=1').expect(200);
  expect(JSON.stringify(listed.body)).not.toContain('"account":"approver"');
  expect((await change('approver', { closed: false })).person.closed).toBe(false);
  await signIn('correct horse').expect(200);
  expect((await submit()).status).toBe(200);
});

test("a library's last controller is not closed, nor one's own account, nor by anybody but an administrator", async () => {
  const library = await server.library();
  expect(await change('controller', { closed: true })).toMatchObject({
    status: 409,
    code: 'last-controller',
  });
  expect(await change('controller', { closed: true, rehearse: true })).toMatchObject({
    unmanaged: expect.stringContaining('Library'),
  });
  await (await server.as('controller')).get('/api/v1/session').expect(200);
  expect(await change('admin', { closed: true })).toMatchObject({ status: 409, code: 'own-account' });
  expect(await change('nobody', { closed: true })).toMatchObject({ status: 404, code: 'person-not-found' });
  expect(await change('author', { closed: true, handOverTo: 'nobody' })).toMatchObject({
    code: 'account-unknown',
  });
  for (const account of ['controller', 'author', 'reader']) {
    const refused = await (await server.as(account)).patch('/api/v1/people/author').send({ closed: true });
    expect(refused.body).toMatchObject({ status: 403, code: 'not-administrator' });
  }
  const asker = await server.asker('admin');
  const members = ['controller', 'author'].map((account) => ({ account, roles: ['controller' as const] }));
  await performSetMembers(asker, library, members);
  const both = await Promise.all([
    change('controller', { closed: true }),
    change('author', { closed: true }),
  ]);
  expect(both.filter(({ code }) => code === 'last-controller')).toHaveLength(1);
});

test('pages that are open hear of a hand-over, and streams of the closed account end', async () => {
  const library = await server.library();
  await server.document(library);
  const listening = await Listening.start(server, ['author', 'author2']);
  await change('author', { closed: true, handOverTo: 'author2' });
  await listening.until(() => listening.count('author2') === 1 && listening.ended('author'));
  await listening.stop();
});

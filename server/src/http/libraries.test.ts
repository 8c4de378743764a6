import * as contract from '@polychron/contract';
import { openApi, refusalCodes } from '@polychron/contract';
import { defaultRulebook } from '@polychron/core';
import request from 'supertest';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
beforeAll(async () => {
  for (const account of ['controller', 'author', 'reader']) await server.caller(account);
});
const make = async (body: object, account = 'admin') =>
  (await server.as(account)).post('/api/v1/libraries').send(body);

test('a system administrator makes a library with the default rules, and names its members', async () => {
  const made = (await make({ name: 'Rescue plans', code: 'RP', purpose: 'Rescue' })).body as contract.Library;
  const admin = await server.as('admin');
  const members = [
    { account: 'controller', roles: ['controller'] },
    { account: 'author', roles: ['author', 'reader', 'author'] },
  ];
  expect((await admin.put(`/api/v1/libraries/${made.id}/members`).send(members).expect(200)).body).toEqual([
    { account: 'author', name: 'A. author', roles: ['reader', 'author'] },
    { account: 'controller', name: 'C. controller', roles: ['controller'] },
  ]);
  const rules = (await (await server.as('author')).get(`/api/v1/libraries/${made.id}/rulebook`).expect(200))
    .body as contract.RulebookView;
  expect(rules).toMatchObject({ revision: 1, rulebook: defaultRulebook });
  expect((await (await server.as('author')).get('/api/v1/libraries')).body).toMatchObject({
    total: 1,
    items: [{ code: 'RP', roles: ['reader', 'author'] }],
  });
  expect((await (await server.as('reader')).get('/api/v1/libraries')).body).toMatchObject({ total: 0 });
});

test('nobody else makes one, and a code is taken once', async () => {
  expect((await make({ name: 'X', code: 'X' }, 'controller')).body).toMatchObject({
    status: 403,
    code: 'not-administrator',
  });
  await make({ name: 'Drawings', code: 'DR' });
  expect((await make({ name: 'Drawings again', code: 'DR' })).body).toMatchObject({
    status: 409,
    code: 'code-taken',
  });
});

test.each<[object, string]>([
  [{ code: 'AB' }, 'invalid-input'],
  [{ name: 'a', code: 'ab' }, 'invalid-input'],
  [{ name: 'a', code: 'AB', rulebook: { custodyDays: -1 } }, 'limit-negative'],
  [{ name: 'a', code: 'AB', rulebook: { custodyDays: 1.5 } }, 'limit-fractional'],
  [{ name: 'a', code: 'AB', rulebook: { sight: { draft: 'everyone' } } }, 'sight-role-unknown'],
  [{ name: 'a', code: 'AB', rulebook: { keep: { spareYoungerThan: '90 days' } } }, 'duration-invalid'],
  [{ name: 'a', code: 'AB', rulebook: { unknown: 1 } }, 'invalid-input'],
  [{ name: 'a', code: 'AB', rulebook: { keep: { published: 1e15 } } }, 'limit-too-large'],
  [{ name: 'a', code: 'AB', rulebook: { fields: ['x'] } }, 'field-unfit'],
  [{ name: 'a', code: 'AB', rulebook: { approval: { approvers: ['ghost'] } } }, 'account-unknown'],
])('%j is refused', async (body, code) => {
  expect((await make(body)).body).toMatchObject({ status: 422, code });
});

test('members: no unknown account, always a controller, and two at once do not overwrite each other', async () => {
  const id = await server.library();
  const controller = await server.as('controller');
  const address = `/api/v1/libraries/${id}/members`;
  const read = await controller.get(address).expect(200);
  const tag = String(read.headers['etag']);
  const members = read.body as contract.MemberView[];
  const put = (body: object, ifMatch = tag) => controller.put(address).set('If-Match', ifMatch).send(body);
  const plain = members.map(({ account, roles }) => ({ account, roles }));
  expect((await put([...plain, { account: 'ghost', roles: ['reader'] }])).body).toMatchObject({
    status: 422,
    code: 'account-unknown',
  });
  expect((await put(plain.filter(({ account }) => account !== 'controller'))).body).toMatchObject({
    status: 422,
    code: 'last-controller',
  });
  // Named twice, somebody has the roles of both.
  const twice = (await put([...plain, { account: 'reader', roles: ['auditor'] }]).expect(200))
    .body as contract.MemberView[];
  expect(twice.find(({ account }) => account === 'reader')?.roles).toEqual(['reader', 'auditor']);
  const now = String((await controller.get(address)).headers['etag']);
  await put(
    plain.filter(({ account }) => account !== 'reader'),
    now,
  ).expect(200);
  expect((await put(plain)).body).toMatchObject({ status: 412, code: 'stale' });
  await (await server.as('reader')).get(address).expect(404);
  await (await server.as('author')).put(address).send(plain).expect(403);
});

test("people of a library: their own and their groups' roles, by name, in parts, for its members", async () => {
  const id = await server.library();
  const admin = await server.as('admin');
  const listed = async (query: string, account = 'author') =>
    (await (await server.as(account)).get(`/api/v1/libraries/${id}/people${query}`).expect(200))
      .body as contract.LibraryPeople;
  const accounts = ({ items }: contract.LibraryPeople): string[] => items.map(({ account }) => account);
  const all = await listed('');
  expect(all.items).toContainEqual({ account: 'author', name: 'A. author', roles: ['author'] });
  expect(all.total).toBe(all.items.length);
  await server.caller('outsider');
  await admin
    .post('/api/v1/groups')
    .send({ name: 'Night shift', people: ['outsider', 'reader'] })
    .expect(201);
  const tag = String((await admin.get(`/api/v1/libraries/${id}/members`)).headers['etag']);
  const members = (await admin.get(`/api/v1/libraries/${id}/members`)).body as contract.MemberView[];
  await admin
    .put(`/api/v1/libraries/${id}/members`)
    .set('If-Match', tag)
    .send([
      ...members.map(({ account, roles }) => ({ account, roles })),
      { group: 'Night shift', roles: ['approver'] },
    ])
    .expect(200);
  expect((await listed('')).total).toBe(all.total + 1);
  expect((await listed('?q=READ')).items).toEqual([
    { account: 'reader', name: 'R. reader', roles: ['reader', 'approver'] },
  ]);
  expect(accounts(await listed('?role=approver&q=outsider'))).toEqual(['outsider']);
  expect((await listed('?q=%25')).total).toBe(0);
  const first = await listed('?limit=1');
  const rest = await listed(`?limit=200&cursor=${encodeURIComponent(first.next ?? '')}`);
  expect([...accounts(first), ...accounts(rest)]).toEqual(accounts(await listed('')));
  await server.caller('stranger');
  await (await server.as('stranger')).get(`/api/v1/libraries/${id}/people`).expect(404);
});

test('a controller changes name and purpose; a stale If-Match is refused', async () => {
  const id = await server.library();
  const controller = await server.as('controller');
  const tag = String((await controller.get(`/api/v1/libraries/${id}`)).headers['etag']);
  expect(
    (
      await controller
        .patch(`/api/v1/libraries/${id}`)
        .set('If-Match', tag)
        .send({ name: 'Renamed' })
        .expect(200)
    ).body,
  ).toMatchObject({ name: 'Renamed' });
  expect(
    (await controller.patch(`/api/v1/libraries/${id}`).set('If-Match', tag).send({ name: 'Again' })).body,
  ).toMatchObject({ status: 412 });
  await (await server.as('author')).patch(`/api/v1/libraries/${id}`).send({ name: 'x' }).expect(403);
});

test('a closed library is read and nothing in it changes, until it is opened again', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'a', { level: 'major' });
  const [controller, author, admin] = [
    await server.as('controller'),
    await server.as('author'),
    await server.as('admin'),
  ];
  const close = (closed: boolean, as = controller) =>
    as.patch(`/api/v1/libraries/${library}`).send({ closed });
  expect((await close(true, author)).status).toBe(403);
  // Nobody's work is put out of their reach.
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  expect((await close(true)).body).toMatchObject({
    status: 409,
    code: 'library-in-use',
    held: 1,
    detail: expect.stringMatching(/ 1 document is held\. Have that given back/) as string,
  });
  await author.delete(`/api/v1/documents/${id}/checkout`).expect(204);
  const closed = contract.Library.parse((await close(true, admin).expect(200)).body);
  expect(closed).toMatchObject({ closed: server.now.toISOString() });

  for (const [refused, answer] of Object.entries({
    checkOut: await author.post(`/api/v1/documents/${id}/checkout`).send({}),
    create: await author
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', JSON.stringify({ title: 'b' }))
      .attach('file', docxOf('b'), 'b.docx'),
    changeFields: await author
      .patch(`/api/v1/documents/${id}`)
      .send({ fields: { title: 'b' }, comment: 'c' }),
    changeRules: await controller
      .put(`/api/v1/libraries/${library}/rulebook`)
      .send({ custodyDays: 3, reason: 'why' }),
  })) {
    expect({ refused, body: answer.body }).toMatchObject({ refused, body: { code: 'library-closed' } });
    expect(answer.status).toBe(409);
  }
  const seen = contract.Document.parse((await author.get(`/api/v1/documents/${id}`).expect(200)).body);
  expect(seen.latest.label).toBe('1.0');
  expect(Object.values(seen.acts).filter(({ allowed }) => allowed)).toEqual([]);
  expect(seen.acts.checkOut.why).toMatch(/is closed since \d+ \w{3} 2026:/);
  const list = contract.LibraryList.parse((await controller.get('/api/v1/libraries')).body);
  expect(list.items.find((one) => one.id === library)?.acts).toMatchObject({
    create: { allowed: false },
    changeRules: { allowed: false },
    changeLibrary: { allowed: true },
    manageMembers: { allowed: true },
  });

  await close(false).expect(200);
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
});

test('whole numbers: 1, 2, 3, in force at once, no minor level', async () => {
  const id = await server.library({ numbering: 'whole' });
  const document = await server.document(id, 'a', { level: 'major' });
  expect(document.latest).toMatchObject({ label: '1', standing: 'inForce' });
  expect((await server.change(document.id, 'b', 'major')).label).toBe('2');
  expect(await server.labels(document.id, 'reader')).toEqual(['2']);
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${document.id}/checkout`).send({}).expect(201);
  expect(
    (
      await author
        .post(`/api/v1/documents/${document.id}/checkin`)
        .field('comment', 'x')
        .field('level', 'minor')
    ).body,
  ).toMatchObject({ status: 422, code: 'no-minor-level' });
});

test('the interface describes itself: OpenAPI 3.1 with every route, readable docs, and a health answer', async () => {
  const api = (await request(server.listener).get('/api/v1/openapi.json').expect(200)).body as {
    openapi: string;
    paths: Record<string, object>;
  };
  expect(api).toEqual(JSON.parse(JSON.stringify(openApi())));
  expect(api.openapi).toBe('3.1.0');
  expect(Object.keys(api.paths)).toContain('/documents/{id}/checkin');
  // Each refusal's `type` leads to its line (RFC 9457, 3.1.1); what the page is drawn with comes from here.
  const page = (await request(server.listener).get('/api/docs').expect(200)).text;
  for (const code of Object.keys(refusalCodes)) expect(page).toContain(`<tr id="${code}">`);
  for (const [, own] of page.matchAll(/(?:src|href)="(\/[^"]+)"/g)) {
    await request(server.listener)
      .get(own ?? '')
      .expect(200);
  }
  expect(page).not.toMatch(/(src|href)="https?:/);
  expect((await request(server.listener).get('/healthz').expect(200)).body).toEqual({ ready: true });
});

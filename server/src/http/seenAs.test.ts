import type * as contract from '@polychron/contract';
import { type Role, sightRoles, type SightRole } from '@polychron/core';
import { testServer } from '../testing/started.ts';

const server = testServer();
const get = async (account: string, path: string) => (await server.as(account)).get(`/api/v1${path}`);
const post = async (account: string, id: string, path: string, body: object = {}) =>
  (await server.as(account)).post(`/api/v1/documents/${id}/${path}`).send(body);

/**
 * The table of docs/rules.md, Who sees what: for every role × set of roles × state, what every door of the
 * API shows. The version besides what is in force is made by author2, who belongs to its team.
 */
const accounts = ['reader', 'auditor', 'author', 'author2', 'approver', 'controller'];
const isDeep = process.env['POLYCHRON_TEST_RUNS'] !== undefined;
/** Every role is named once and left out once; in more ways where there is time. */
const more: SightRole[][] = [['author', 'approver'], ['approver'], ['reader', 'auditor']];
const sets: SightRole[][] = [[...sightRoles], ['reader', 'approver'], [], ...(isDeep ? more : [])];
const sees = (named: readonly SightRole[], account: string): boolean =>
  (named as readonly string[]).includes(account) || account === 'author2' || account === 'controller';
const states = ['draft', 'inApproval', 'rejected', 'approved'] as const;

describe.each(sets.map((named) => ({ named })))('sight $named', ({ named }) => {
  let library: string;
  const ids = new Map<string, string>();
  beforeAll(async () => {
    library = await server.library({
      sight: { draft: named, inApproval: named, rejected: named },
      approval: { on: true, approvers: ['controller'], publishing: 'byOwner' },
    });
    for (const state of states) {
      const { id } = await server.document(library, 'public words', {
        title: `Known ${state}`,
        account: 'author2',
      });
      ids.set(state, id);
      await post('author2', id, 'submit');
      await post('controller', id, 'decision', { version: '0.1', decision: 'approve' });
      await post('author2', id, 'publish');
      await server.change(id, 'hushdraft words', 'minor', 'author2');
      await (
        await server.as('author2')
      )
        .patch(`/api/v1/documents/${id}`)
        .send({ fields: { title: `hushdraft ${state}` }, comment: 'hushdraft' })
        .expect(200);
      if (state !== 'draft') await post('author2', id, 'submit', { comment: 'hushdraft please' });
      if (state === 'rejected')
        await post('controller', id, 'decision', {
          version: '1.2',
          decision: 'reject',
          comment: 'hushdraft no',
        });
      if (state === 'approved')
        await post('controller', id, 'decision', { version: '1.2', decision: 'approve' });
    }
  });

  // What is approved follows what is in approval, and what is rejected is in the same set: a pair, where
  // the first two sets have had them all.
  const asked = sets.indexOf(named) < 2 || isDeep ? states : (['draft', 'approved'] as const);
  describe.each(asked.map((state) => [state]))('%s', (state) => {
    test.each(accounts.map((account) => [account]))('%s', async (account) => {
      const id = ids.get(state) as string;
      const sight = sees(named, account);
      const text = async (path: string): Promise<string> => (await get(account, path)).text;
      const hidden = /hushdraft|1\.[12]/;
      const shown = (body: string): void => {
        if (sight) expect(body).toMatch(hidden);
        else expect(body).not.toMatch(hidden);
      };
      const status = sight ? 200 : 404;

      const document = await get(account, `/documents/${id}`);
      shown(document.text);
      shown(JSON.stringify((document.body as contract.Document).strand));
      // A version besides what is in force, and the drafts 0.1, 1.1 of the same sight.
      const list = (await get(account, `/libraries/${library}/documents?limit=200`))
        .body as contract.DocumentList;
      const listed = list.items.find((item) => item.id === id);
      expect(list.total).toBe(states.length);
      shown(JSON.stringify(listed));
      const versions = (await get(account, `/documents/${id}/versions`)).body as contract.VersionList;
      expect(versions.items.some(({ label }) => label === '1.2')).toBe(sight);
      expect([versions.total, listed?.versions]).toEqual([versions.items.length, versions.items.length]);
      // What is not there is answered at even times: asked at once, the waiting is one.
      const doors = [
        ...['', '/reading', '/content'].map((path) => `/versions/1.2${path}`),
        '/compare?from=1.0&to=1.2',
        '/compare?from=1.2&to=1.0',
      ];
      const answers = await Promise.all(doors.map((door) => get(account, `/documents/${id}${door}`)));
      expect(answers.map((answer) => answer.status)).toEqual(doors.map(() => status));
      const found = (await get(account, `/libraries/${library}/documents?q=hushdraft`))
        .body as contract.DocumentList;
      expect(found.total).toBe(sight ? states.length : 0);
      const byState = (await get(account, `/libraries/${library}/documents?state=${state}`))
        .body as contract.DocumentList;
      expect(byState.total).toBe(sight ? 1 : 0);
      const links = (await get(account, `/documents/${id}/versions/1.0`)).headers['link'] as string;
      if (sight) expect(links).toContain('/versions/1.2>; rel="latest-version"');
      else expect(links).not.toMatch(/1\.[12]/);
      expect((await get(account, `/documents/${id}`)).headers['etag']).toMatch(sight ? /^"1\.2-/ : /^"1\.0-/);
      shown(await text(`/libraries/${library}/documents?sort=changed`));
    });
  });
});

describe('seen as', () => {
  let library: string;
  let id: string;
  beforeAll(async () => {
    library = await server.library();
    id = (await server.document(library, 'a', { level: 'major' })).id;
    await server.change(id, 'b');
    await server.document(library, 'only a draft');
  });
  test('a controller sees documents, versions, content, compare and counts as a person or role would, and can only look', async () => {
    for (const as of ['reader', 'role:reader']) {
      const document = (await get('controller', `/documents/${id}?as=${as}`)).body as contract.Document;
      expect([document.latest.label, document.versions, document.toCome, document.seenBy]).toEqual([
        '1.0',
        1,
        null,
        null,
      ]);
      expect(Object.values(document.acts).every(({ allowed }) => !allowed)).toBe(true);
      expect(document.acts.checkOut.why).toContain('can only look');
      expect((await get('controller', `/documents/${id}/versions/1.1?as=${as}`)).status).toBe(404);
      expect((await get('controller', `/documents/${id}/versions/1.1/content?as=${as}`)).status).toBe(404);
      expect((await get('controller', `/documents/${id}/compare?from=1.0&to=1.1&as=${as}`)).status).toBe(404);
      expect((await get('controller', `/libraries/${library}/documents?as=${as}`)).body).toMatchObject({
        total: 1,
      });
      expect((await get('controller', `/libraries/${library}?as=${as}`)).body).toMatchObject({
        documents: 1,
        roles: ['reader'],
      });
      expect((await get('controller', `/libraries?as=${as}`)).body).toMatchObject({
        items: expect.arrayContaining([expect.objectContaining({ id: library, documents: 1 })]),
      });
    }
    expect((await get('controller', `/documents/${id}/versions/1.0?as=author`)).body).toMatchObject({
      why: '1.0 is in force; every member sees it.',
    });
    expect((await get('controller', `/documents/${id}/versions/1.1?as=author`)).body).toMatchObject({
      label: '1.1',
    });
    expect(
      (await get('controller', `/libraries/${library}/documents?as=author&heldBy=me`)).body,
    ).toMatchObject({ total: 0 });
  });
  test('is for controllers, of members and roles there are, and for looking', async () => {
    expect((await get('author', `/documents/${id}?as=reader`)).body).toMatchObject({
      status: 403,
      code: 'role-missing',
    });
    expect((await get('stranger', `/documents/${id}?as=reader`)).status).toBe(404);
    expect((await get('controller', `/documents/${id}?as=stranger`)).body).toMatchObject({
      status: 422,
      code: 'account-unknown',
    });
    expect((await get('controller', `/documents/${id}?as=role:king`)).body).toMatchObject({
      status: 422,
      code: 'account-unknown',
    });
    expect(
      (await (await server.as('controller')).post(`/api/v1/documents/${id}/checkout?as=author`).send({}))
        .body,
    ).toMatchObject({ status: 422, code: 'invalid-input' });
  });
});

describe('visibility', () => {
  test('members by versions, each with its reason; for controllers', async () => {
    const library = await server.library({ sight: { draft: [] } });
    const { id } = await server.document(library, 'a', { level: 'major' });
    await server.change(id, 'b');
    const all = (await get('controller', `/documents/${id}/visibility`)).body as contract.Visibility;
    expect([all.total, all.versions.map(({ label }) => label), all.next]).toEqual([2, ['1.1', '1.0'], null]);
    const of = (account: string) =>
      all.members.find((member) => member.account === account)?.sees.map((cell) => cell.sees);
    const expected: [string, boolean[]][] = [
      ['reader', [false, true]],
      ['author', [true, true]],
      ['author2', [false, true]],
      ['approver', [false, true]],
      ['controller', [true, true]],
      ['auditor', [false, true]],
    ];
    for (const [account, cells] of expected) expect([account, of(account)]).toEqual([account, cells]);
    expect(all.members.find(({ account }) => account === 'author')?.sees[0]?.why).toBe(
      "1.1 is a draft; drafts here are seen by the document's team and controllers, and A. author belongs to the document's team.",
    );
    const one = (await get('controller', `/documents/${id}/visibility?version=1.0`))
      .body as contract.Visibility;
    expect([
      one.versions.map(({ label }) => label),
      one.members.every(({ sees: cells }) => cells[0]?.sees),
    ]).toEqual([['1.0'], true]);
    const page = (await get('controller', `/documents/${id}/visibility?limit=1`)).body as contract.Visibility;
    expect(
      (await get('controller', `/documents/${id}/visibility?limit=1&cursor=${page.next}`)).body,
    ).toMatchObject({ versions: [{ label: '1.0' }], next: null });
    expect((await get('author', `/documents/${id}/visibility`)).body).toMatchObject({
      status: 403,
      code: 'role-missing',
    });
  });
});

const role = (account: string): Role => account as Role;
test('groups: rights are the union; the last controller stays, whichever way they came to it', async () => {
  const admin = await server.as('admin');
  const library = await server.library();
  const { id } = await server.document(library, 'a');
  await server.caller('newcomer');
  const members = `/libraries/${library}/members`;
  const present = (await get('admin', members)).body as contract.MemberView[];
  const plain = present.flatMap(({ account, roles }) => (account ? [{ account, roles }] : []));
  expect(
    (await admin.post('/api/v1/groups').send({ name: 'Shift leaders', people: ['ghost'] })).body,
  ).toMatchObject({ status: 422, code: 'account-unknown' });
  const group = (
    await admin
      .post('/api/v1/groups')
      .send({ name: 'Shift leaders', people: ['newcomer'] })
      .expect(201)
  ).body as contract.Group;
  expect((await admin.post('/api/v1/groups').send({ name: 'shift leaders' })).body).toMatchObject({
    status: 409,
    code: 'name-taken',
  });
  await admin
    .put(`/api/v1${members}`)
    .send([...plain, { group: 'Shift leaders', roles: ['reader', 'author'] }])
    .expect(200);
  expect((await get('newcomer', `/documents/${id}`)).body).toMatchObject({ latest: { label: '0.1' } });
  expect((await get('newcomer', `/libraries/${library}`)).body).toMatchObject({
    roles: [role('reader'), role('author')],
  });
  await admin.put(`/api/v1/groups/${group.id}`).send({ name: 'Shift leaders', people: [] }).expect(200);
  await (await server.as('newcomer')).get(`/api/v1/documents/${id}`).expect(404);

  const without = plain.filter(({ account }) => account !== 'controller');
  expect(
    (
      await admin
        .put(`/api/v1${members}`)
        .send([...without, { group: 'Shift leaders', roles: ['controller'] }])
    ).body,
  ).toMatchObject({ status: 422, code: 'last-controller' });
  await admin
    .put(`/api/v1/groups/${group.id}`)
    .send({ name: 'Shift leaders', people: ['newcomer'] })
    .expect(200);
  await admin
    .put(`/api/v1${members}`)
    .send([...without, { group: 'Shift leaders', roles: ['controller'] }])
    .expect(200);
  expect(
    (await admin.put(`/api/v1/groups/${group.id}`).send({ name: 'Shift leaders', people: [] })).body,
  ).toMatchObject({ status: 422, code: 'last-controller' });
  expect((await admin.delete(`/api/v1/groups/${group.id}`)).body).toMatchObject({
    status: 422,
    code: 'last-controller',
  });
  expect(
    (await admin.put(`/api/v1${members}`).send([...plain, { group: 'Nobody', roles: ['reader'] }])).body,
  ).toMatchObject({ status: 422, code: 'group-unknown' });
  await admin.put(`/api/v1${members}`).send(plain).expect(200);
  await admin.delete(`/api/v1/groups/${group.id}`).expect(204);
  await admin.delete(`/api/v1/groups/${group.id}`).expect(404);
});

test('people: made by a system administrator, who can then sign in; listed in pages for administrators and controllers', async () => {
  const admin = await server.as('admin');
  const wanted = { account: 'Ferro', name: 'B. Ferro', password: 'long enough' };
  expect((await admin.post('/api/v1/people').send({ ...wanted, password: 'short' })).body).toMatchObject({
    status: 422,
  });
  expect((await admin.post('/api/v1/people').send(wanted).expect(201)).body).toEqual({
    id: expect.any(String),
    closed: false,
    handingOver: null,
    account: 'ferro',
    name: 'B. Ferro',
    systemAdministrator: false,
    groups: [],
  });
  expect((await admin.post('/api/v1/people').send(wanted)).body).toMatchObject({
    status: 409,
    code: 'account-taken',
  });
  await (
    await server.as('reader')
  )
    .post('/api/v1/session')
    .send({ account: 'ferro', password: 'long enough' })
    .expect(200);
  for (const account of ['author', 'reader']) {
    expect((await get(account, '/people')).status).toBe(403);
    expect((await (await server.as(account)).post('/api/v1/people').send(wanted)).status).toBe(403);
    expect((await (await server.as(account)).post('/api/v1/groups').send({ name: 'x' })).status).toBe(403);
  }
  expect((await get('controller', '/people?q=ferro')).body).toMatchObject({
    total: 1,
    items: [{ account: 'ferro' }],
    next: null,
  });
  const first = (await get('controller', '/people?limit=2')).body as {
    items: contract.PersonView[];
    next: string;
  };
  const rest = (await get('controller', `/people?limit=200&cursor=${encodeURIComponent(first.next)}`))
    .body as {
    items: contract.PersonView[];
  };
  const all = (await get('controller', '/people?limit=200')).body as { items: contract.PersonView[] };
  expect([...first.items, ...rest.items]).toEqual(all.items);
  const bad = await get('controller', '/people?limit=2&cursor=approver');
  expect([bad.status, bad.body.code]).toEqual([400, 'bad-cursor']);
});

test('groups are listed in pages for administrators and controllers, and found by group, person or library', async () => {
  const admin = await server.as('admin');
  const library = await server.library();
  const { name: libraryName } = (await get('admin', `/libraries/${library}`)).body as contract.Library;
  for (const [name, people] of Object.entries({
    'Pier crew': ['author', 'author2'],
    'anchor crew': [],
    'Zone 100% _': ['approver'],
  }))
    await admin.post('/api/v1/groups').send({ name, people }).expect(201);
  const { body } = await get('admin', `/libraries/${library}/members`);
  const plain = (body as contract.MemberView[]).map(({ account, roles }) => ({ account, roles }));
  await admin
    .put(`/api/v1/libraries/${library}/members`)
    .send([...plain, { group: 'anchor crew', roles: ['reader'] }])
    .expect(200);
  type Groups = typeof contract.GroupList._zod.output;
  const groups = async (query: string): Promise<Groups> =>
    (await get('controller', `/groups?${query}`)).body as Groups;

  const all = await groups('');
  expect(all).toMatchObject({ next: null, total: all.items.length });
  const first = await groups('limit=1');
  expect(first).toMatchObject({ items: all.items.slice(0, 1), total: all.total });
  const rest = await groups(`cursor=${encodeURIComponent(first.next ?? '')}`);
  expect([...first.items, ...rest.items]).toEqual(all.items);
  expect(all.items.find(({ name }) => name === 'Pier crew')).toMatchObject({
    people: [{ account: 'author' }, { account: 'author2' }],
    libraries: [],
  });
  const found = async (q: string): Promise<string[]> =>
    (await groups(`q=${encodeURIComponent(q)}`)).items.map(({ name }) => name);
  expect(await found('PIER')).toEqual(['Pier crew']);
  expect(await found('author2')).toEqual(['Pier crew']);
  expect(await found(libraryName)).toEqual(['anchor crew']);
  // What stands for anything in SQL stands for itself.
  expect(await found('100% _')).toEqual(['Zone 100% _']);
  expect(await groups('q=_100')).toMatchObject({ items: [], next: null, total: 0 });
  const bad = await get('controller', '/groups?cursor=anchor');
  expect([bad.status, bad.body.code]).toEqual([400, 'bad-cursor']);
  expect((await get('reader', '/groups')).body).toMatchObject({ status: 403, code: 'role-missing' });
});

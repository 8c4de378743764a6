import type * as contract from '@polychron/contract';
import ExcelJS from 'exceljs';
import Papa from 'papaparse';
import type { Response } from 'supertest';
import { workbook } from './sendList.ts';
import { bringDueIntoForce } from '../jobs/sweeps.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const members = ['reader', 'auditor', 'author', 'author2', 'approver', 'approver2', 'controller'];
const get = async (account: string, path: string): Promise<Response> =>
  (await server.as(account)).get(`/api/v1${path}`);
const limit = async (
  id: string,
  to: { people: string[]; groups: string[] } | null,
  more: { account?: string; reason?: string; rehearse?: boolean } = {},
): Promise<Response> => {
  const { account = 'controller', reason = 'Names of casualties', ...rest } = more;
  return (await server.as(account))
    .put(`/api/v1/documents/${id}/limits`)
    .send({ limit: to, reason, ...rest });
};
const distribute = async (
  id: string,
  people: string[],
  groups: string[] = [],
  account = 'author',
): Promise<Response> =>
  (await server.as(account)).post(`/api/v1/documents/${id}/distribution`).send({ people, groups });
const confirm = async (account: string, id: string, version: string): Promise<Response> =>
  (await server.as(account)).post(`/api/v1/documents/${id}/versions/${version}/read`).send({});
/** A group with the role of a reader in the library whose id its name ends with. */
const group = async (name: string, people: string[], id?: string): Promise<string> => {
  const admin = await server.as('admin');
  const answer = id
    ? await admin.put(`/api/v1/groups/${id}`).send({ name, people })
    : await admin.post('/api/v1/groups').send({ name, people });
  expect([answer.status, answer.text]).toEqual([id ? 200 : 201, answer.text]);
  if (!id) {
    const held = [
      ...members.map((account) => ({ account, roles: [account.replace(/\d/, '')] })),
      { group: name, roles: ['reader'] },
    ];
    const library = name.split(' ').at(-1);
    await admin.put(`/api/v1/libraries/${library}/members`).send(held).expect(200);
  }
  return (answer.body as contract.Group).id;
};
const desk = async (account: string): Promise<contract.Desk> =>
  (await get(account, '/desk')).body as contract.Desk;
const code = ({ body }: Response): string => (body as contract.Problem).code;
const accounts = (people: readonly contract.Person[]): string[] =>
  people.map(({ account }) => account).sort();

describe('a document kept to named people and groups', () => {
  /** Who is told of the document, by every route that lists documents, and by its own address. */
  async function toldTo(library: string, { id, number }: contract.Document): Promise<string[]> {
    const told: string[] = [];
    for (const account of members) {
      const [own, ...lists] = await Promise.all([
        get(account, `/documents/${id}`),
        get(account, `/libraries/${library}/documents`),
        get(account, `/libraries/${library}/documents?q=casualty`),
        get(account, `/libraries/${library}/documents?owner=author`),
        get(account, `/libraries/${library}/in-force`),
        get(account, '/in-force?q=casualty'),
        get(account, `/libraries/${library}/calendar`),
      ]);
      const names = new Set(lists.map(({ text }) => text.includes(`"${number}"`)));
      expect([account, own?.status === 200, [...names]]).toEqual([
        account,
        own?.status === 200,
        [own?.status === 200],
      ]);
      if (own?.status === 200) told.push(account);
    }
    return told.sort();
  }

  test('is there for them, its owner, its co-authors and controllers; for nobody else it does not exist', async () => {
    const library = await server.library();
    const document = await server.document(library, 'text', { level: 'major', title: 'Casualty list' });
    const other = await server.document(library, 'text', { level: 'major', title: 'Casualty form' });
    expect(await toldTo(library, document)).toEqual([...members].sort());
    const rescue = await group(`Rescue ${library}`, ['approver']);
    const to = { people: ['reader'], groups: [`Rescue ${library}`] };
    const rehearsed = await limit(document.id, to, { rehearse: true });
    expect(rehearsed.status).toBe(200);
    expect(await toldTo(library, document)).toEqual([...members].sort());
    const done = await limit(document.id, to);
    expect(done.body).toEqual(rehearsed.body);
    expect(accounts((done.body as contract.LimitOutcome).losing)).toEqual([
      'approver2',
      'auditor',
      'author2',
    ]);
    expect(await toldTo(library, document)).toEqual(['approver', 'author', 'controller', 'reader']);
    expect(await toldTo(library, other)).toEqual([...members].sort());

    // A group's people come and go with it, at once.
    await group(`Rescue ${library}`, ['auditor'], rescue);
    expect(await toldTo(library, document)).toEqual(['auditor', 'author', 'controller', 'reader']);
    const coAuthors = { fields: { coAuthors: ['author2'] } };
    await (await server.as('author')).patch(`/api/v1/documents/${document.id}`).send(coAuthors).expect(200);
    expect(await toldTo(library, document)).toEqual(['auditor', 'author', 'author2', 'controller', 'reader']);
    await (await server.as('admin')).delete(`/api/v1/groups/${rescue}`).expect(204);
    expect(await toldTo(library, document)).toEqual(['author', 'author2', 'controller', 'reader']);

    const opened = await limit(document.id, null, { reason: 'For everybody' });
    expect(accounts((opened.body as contract.LimitOutcome).gaining)).toEqual([
      'approver',
      'approver2',
      'auditor',
    ]);
    expect(await toldTo(library, document)).toEqual([...members].sort());
  });

  test('counts nowhere for whom it is not there: totals, folders, numbers of documents, templates', async () => {
    const library = await server.library();
    await server.document(library, 'text', { level: 'major', title: 'Wind table' });
    const { id } = await server.document(library, 'text', { level: 'major', title: 'Casualty list' });
    const fields = { fields: { subject: ['Casualties', 'Names'] } };
    await (await server.as('author')).patch(`/api/v1/documents/${id}`).send(fields).expect(200);
    await (
      await server.as('author')
    )
      .post(`/api/v1/documents/${id}/publish`)
      .send({ comment: 'x' })
      .expect(201);
    await (
      await server.as('controller')
    )
      .put(`/api/v1/documents/${id}/template`)
      .send({ type: 'List' })
      .expect(200);
    expect((await limit(id, { people: ['reader'], groups: [] })).status).toBe(200);
    const seen = async (account: string) => ({
      total: ((await get(account, `/libraries/${library}/documents?limit=1`)).body as contract.DocumentList)
        .total,
      documents: ((await get(account, `/libraries/${library}`)).body as contract.Library).documents,
      folders: ((await get(account, `/libraries/${library}/subjects`)).body as { items: unknown[] }).items
        .length,
      inForce: ((await get(account, `/libraries/${library}/in-force?limit=1`)).body as contract.InForceList)
        .total,
      templates: ((await get(account, `/libraries/${library}/templates`)).body as contract.TemplateList)
        .total,
    });
    const whole = { total: 2, documents: 2, folders: 1, inForce: 2, templates: 1 };
    const rest = { total: 1, documents: 1, folders: 0, inForce: 1, templates: 0 };
    for (const account of ['reader', 'author', 'controller'])
      expect([account, await seen(account)]).toEqual([account, whole]);
    for (const account of ['author2', 'auditor', 'approver'])
      expect([account, await seen(account)]).toEqual([account, rest]);
    // A controller looks as somebody of the role, who is not named.
    const as = await get('controller', `/libraries/${library}/documents?as=role:reader`);
    expect((as.body as contract.DocumentList).total).toBe(1);
  });

  test('is hidden for its past too: who may not see it now was never there; who could not then does not see then', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'text', { level: 'major', title: 'Casualty list' });
    const before = server.now.toISOString();
    server.pass(1);
    await limit(id, { people: ['approver'], groups: [] });
    const during = server.now.toISOString();
    server.pass(1);
    const at = async (account: string, asOf: string): Promise<[number, number]> => {
      const { status } = await get(account, `/documents/${id}?asOf=${asOf}`);
      const list = await get(account, `/libraries/${library}/documents?asOf=${asOf}`);
      const { items, total } = list.body as contract.DocumentList;
      expect(total).toBe(items.length);
      return [status, items.length];
    };
    expect([await at('reader', before), await at('approver', before)]).toEqual([
      [404, 0],
      [200, 1],
    ]);
    await limit(id, { people: ['reader'], groups: [] });
    server.pass(1);
    expect([await at('reader', before), await at('reader', during)]).toEqual([
      [200, 1],
      [404, 0],
    ]);
    expect([await at('approver', during), await at('controller', during)]).toEqual([
      [404, 0],
      [200, 1],
    ]);
  });

  test('is kept to them by controllers, with a reason; who has work on it is not left out', async () => {
    const library = await server.library({ approval: { on: true, approvers: ['approver'] } });
    const { id } = await server.document(library, 'text');
    const to = { people: ['reader'], groups: [] };
    expect(code(await limit(id, to, { account: 'author' }))).toBe('role-missing');
    expect(code(await limit(id, to, { reason: ' ' }))).toBe('reason-missing');
    expect(code(await limit(id, { people: ['stranger'], groups: [] }))).toBe('account-unknown');
    expect(code(await limit(id, { people: [], groups: ['Nobody'] }))).toBe('group-unknown');
    const elsewhere = await group(`Elsewhere ${await server.library()}`, ['reader']);
    const { name } = await server.context.models.Group.findByPk(elsewhere, { rejectOnEmpty: true });
    expect(code(await limit(id, { people: [], groups: [name] }))).toBe('group-unknown');
    expect(code(await limit(id, null))).toBe('nothing-changed');
    await (
      await server.as('author')
    )
      .post(`/api/v1/documents/${id}/submit`)
      .send({ comment: '' })
      .expect(200);
    expect((await limit(id, to)).body).toMatchObject({ code: 'left-out', person: 'A. approver' });
    expect(code(await limit(id, to, { rehearse: true }))).toBe('left-out');
    expect((await limit(id, { people: ['approver'], groups: [] })).status).toBe(200);
    expect((await get('author', `/documents/${id}/limits`)).body).toEqual({
      limit: { people: [{ account: 'approver', name: 'A. approver' }], groups: [] },
    });
  });
});

describe('a document distributed to people and groups', () => {
  const list = async (id: string, account = 'author'): Promise<contract.Distribution> =>
    (await get(account, `/documents/${id}/distribution`)).body as contract.Distribution;
  const notices = async (account: string): Promise<string[]> =>
    (await desk(account)).notices.map(({ kind, text }) => `${kind}: ${text}`);

  test('asks them at each version in force, and shows who confirmed it and who has not', async () => {
    const library = await server.library();
    const drivers = await group(`Drivers ${library}`, ['author2', 'approver']);
    const { id, number } = await server.document(library, 'text', { level: 'major' });
    expect((await distribute(id, ['reader'], [`Drivers ${library}`])).status).toBe(200);
    expect(await notices('reader')).toEqual([
      `toRead: ${number} 1.0 is in force and for you to read: “First”. Confirm that you have.`,
    ]);
    expect((await desk('approver')).toRead).toMatchObject([{ document: { id }, version: '1.0' }]);

    server.pass(2);
    const read = await confirm('reader', id, '1.0');
    expect(read.body).toEqual({ version: '1.0', at: server.now.toISOString() });
    expect(code(await confirm('reader', id, '1.0'))).toBe('read-already');
    expect(code(await confirm('auditor', id, '1.0'))).toBe('not-distributed-to-you');
    const first = await list(id);
    expect(first).toMatchObject({ version: '1.0', total: 3, outstanding: 2 });
    expect(first.items.map(({ person, groups, readAt }) => [person.account, groups, readAt])).toEqual([
      ['approver', `Drivers ${library}`, null],
      ['author2', `Drivers ${library}`, null],
      ['reader', '', server.now.toISOString()],
    ]);
    expect(await list(id, 'auditor')).toEqual(first);
    expect((await get('reader', `/documents/${id}/distribution`)).status).toBe(403);
    const view = async (account: string): Promise<contract.Document> =>
      (await get(account, `/documents/${id}`)).body as contract.Document;
    expect(await view('reader')).toMatchObject({
      reading: { readAt: server.now.toISOString() },
      readers: null,
    });
    expect(await view('author')).toMatchObject({ reading: null, readers: { total: 3, outstanding: 2 } });

    // The next one asks everybody again, and whoever joined meanwhile.
    await group(`Drivers ${library}`, ['author2', 'approver', 'approver2'], drivers);
    await server.change(id, 'second', 'major');
    expect(await list(id)).toMatchObject({ version: '2.0', total: 4, outstanding: 4 });
    expect((await notices('reader'))[0]).toContain(`${number} 2.0`);
    expect((await desk('approver2')).toRead).toMatchObject([{ version: '2.0' }]);
    expect(code(await confirm('reader', id, '1.0'))).toBe('version-not-found');
    expect(code(await confirm('author2', id, '1.0'))).toBe('not-in-force');
    // Back in force, the first is known to who has read it.
    const back = { version: '1.0', reason: 'The second is wrong' };
    await (await server.as('controller')).post(`/api/v1/documents/${id}/reinstate`).send(back).expect(200);
    expect(await list(id)).toMatchObject({ version: '1.0', total: 4, outstanding: 3 });
    expect((await desk('reader')).toRead).toEqual([]);
  });

  test('one that comes into force later asks then', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'text', { level: 'major' });
    await distribute(id, ['approver2']);
    await confirm('approver2', id, '1.0');
    await server.change(id, 'second');
    const inForceFrom = new Date(server.now.getTime() + 24 * 3_600_000).toISOString();
    const later = { comment: 'x', inForceFrom };
    await (await server.as('author')).post(`/api/v1/documents/${id}/publish`).send(later).expect(201);
    expect((await desk('approver2')).toRead.filter(({ document }) => document.id === id)).toEqual([]);
    server.pass(25);
    await bringDueIntoForce(server.context);
    expect((await desk('approver2')).toRead.filter(({ document }) => document.id === id)).toMatchObject([
      { version: '2.0', since: inForceFrom },
    ]);
    expect((await notices('approver2'))[0]).toMatch(/^toRead: .* 2\.0/);
  });

  test('reminds those who have not confirmed, and says how many', async () => {
    const library = await server.library();
    const { id, number } = await server.document(library, 'text', { level: 'major' });
    const remind = async (account = 'author'): Promise<Response> =>
      (await server.as(account)).post(`/api/v1/documents/${id}/distribution/reminder`).send({});
    expect(code(await remind())).toBe('nobody-outstanding');
    await distribute(id, ['auditor', 'approver']);
    await confirm('approver', id, '1.0');
    expect(code(await remind('reader'))).toBe('not-in-charge');
    expect((await remind()).body).toEqual({ reminded: 1 });
    expect((await notices('auditor'))[0]).toBe(
      `toReadStill: A. author reminds you to read ${number} 1.0 and to confirm it.`,
    );
    server.pass(24);
    expect((await remind('controller')).body).toEqual({ reminded: 1 });
    expect((await notices('auditor')).filter((text) => text.startsWith('toReadStill'))).toHaveLength(2);
    expect((await notices('approver')).filter((text) => text.includes(number))).toHaveLength(1);
  });

  test('who is no member any more is asked nothing, nor who may not see it', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'text', { level: 'major' });
    await distribute(id, ['reader', 'author2']);
    const admin = await server.as('admin');
    const roles = (account: string) => ({ account, roles: [account.replace(/\d/, '')] });
    const left = members.filter((account) => account !== 'reader').map(roles);
    await admin.put(`/api/v1/libraries/${library}/members`).send(left).expect(200);
    expect(await list(id)).toMatchObject({ total: 1, items: [{ person: { account: 'author2' } }] });
    expect((await desk('reader')).toRead.filter(({ document }) => document.id === id)).toEqual([]);
    await limit(id, { people: ['auditor'], groups: [] });
    expect((await desk('author2')).toRead.filter(({ document }) => document.id === id)).toEqual([]);
    expect((await confirm('author2', id, '1.0')).status).toBe(404);
  });

  test('the list comes page by page, and whole as .csv and as a workbook that another library reads', async () => {
    const library = await server.library();
    const { id } = await server.document(library, 'text', { level: 'major' });
    await distribute(id, ['reader', 'auditor', 'author2']);
    server.pass(1);
    await confirm('author2', id, '1.0');
    const names: string[] = [];
    for (let cursor = ''; ;) {
      const { items, next } = (await get('author', `/documents/${id}/distribution?limit=2${cursor}`))
        .body as contract.Distribution;
      names.push(...items.map(({ person }) => person.account));
      if (next === null) break;
      cursor = `&cursor=${next}`;
    }
    expect(names).toEqual(['auditor', 'reader', 'author2']);
    const as = async (form: string): Promise<Response> =>
      (await server.as('author'))
        .get(`/api/v1/documents/${id}/distribution`)
        .set('Accept', form)
        .responseType('blob')
        .expect(200);
    const csv = Papa.parse<string[]>((await as('text/csv')).body.toString('utf8').trim());
    expect(csv.data.map((line) => [line[1], line[4]])).toEqual([
      ['Account', 'Confirmed'],
      ['auditor', 'not yet'],
      ['reader', 'not yet'],
      ['author2', server.now.toISOString()],
    ]);
    const book = new ExcelJS.Workbook();
    await book.xlsx.load((await as(workbook)).body as ExcelJS.Buffer);
    const sheet = book.getWorksheet('Distribution');
    expect(sheet?.getRow(4).getCell(2).value).toBe('author2');
    expect(sheet?.getRow(4).getCell(5).value).toEqual(server.now);
    const text = await (
      await server.as('author')
    )
      .get(`/api/v1/documents/${id}/distribution`)
      .set('Accept', 'image/png');
    expect(code(text)).toBe('form-not-available');
  });

  test('asks nobody any more for whom it is not there since it is kept to others, and nobody new', async () => {
    const library = await server.library();
    await group(`Crew ${library}`, ['author2', 'approver', 'controller']);
    const { id, number } = await server.document(library, 'text', { level: 'major' });
    await distribute(id, ['reader'], [`Crew ${library}`]);
    expect(await list(id)).toMatchObject({ total: 4, outstanding: 4 });
    const toRead = async (): Promise<boolean> =>
      (await desk('reader')).toRead.some(({ document }) => document.id === id);
    expect(await toRead()).toBe(true);
    expect((await limit(id, { people: ['author2'], groups: [] })).status).toBe(200);
    // Controllers see what is kept to others.
    const { items, total, outstanding } = await list(id);
    expect([items.map(({ person }) => person.account).sort(), total, outstanding]).toEqual([
      ['author2', 'controller'],
      2,
      2,
    ]);
    expect(await toRead()).toBe(false);
    const controller = await server.as('controller');
    const answer = await controller.post(`/api/v1/documents/${id}/distribution/reminder`).send({});
    expect(answer.body).toEqual({ reminded: 2 });
    // Naming somebody it is kept from is refused, with what to do; a group is asked as far as it sees it.
    const refused = await distribute(id, ['reader', 'auditor'], [`Crew ${library}`]);
    expect(refused.body).toMatchObject({
      status: 409,
      code: 'kept-from',
      detail: `${number} is kept to named people, and A. auditor and 1 more would not see it. Keep it to them too first, or leave them out.`,
    });
    expect((await distribute(id, ['controller'], [`Crew ${library}`])).status).toBe(200);
    expect((await limit(id, { people: ['author2', 'reader'], groups: [] })).status).toBe(200);
    expect((await distribute(id, ['reader'], [`Crew ${library}`])).status).toBe(200);
    expect(await list(id)).toMatchObject({ total: 3 });
  });
});

test('confirmed five times at once a reading is kept once', async () => {
  const library = await server.library();
  const { id } = await server.document(library, 'text', { level: 'major' });
  await distribute(id, ['reader']);
  const answers = await Promise.all(Array.from({ length: 5 }, () => confirm('reader', id, '1.0')));
  expect(answers.filter(({ status }) => status === 200)).toHaveLength(1);
  expect(answers.filter((answer) => code(answer) === 'read-already')).toHaveLength(4);
});

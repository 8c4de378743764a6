import type * as contract from '@polychron/contract';
import type { OwnField, RulebookChoices } from '@polychron/core';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const field = (name: string, more: Partial<OwnField> = {}): OwnField => ({
  name,
  kind: 'text',
  choices: [],
  requiredFor: [],
  administrative: false,
  ...more,
});
const rulebook: RulebookChoices = {
  fields: [
    field('Tower', { kind: 'number', requiredFor: ['Drawing'] }),
    field('Drawn by', { kind: 'person' }),
    field('Part', { kind: 'choice', choices: [{ name: 'Ropes', within: ['Haul rope'] }] }),
    field('Shelf', { administrative: true }),
    field('Kept by', { kind: 'person', administrative: true }),
  ],
  numberPatterns: [
    { type: 'Drawing', pattern: 'DRW_####' },
    { type: null, pattern: 'GEN-##/A' },
  ],
};
const register = async (library: string, fields: object, account = 'author') =>
  (await server.as(account))
    .post(`/api/v1/libraries/${library}/documents`)
    .field('fields', JSON.stringify(fields))
    .field('comment', 'First')
    .field('level', 'major')
    .attach('file', docxOf('words'), 'op.docx');
const patch = async (id: string, fields: object, account = 'author') =>
  (await server.as(account)).patch(`/api/v1/documents/${id}`).send({ fields, comment: '', level: 'major' });
const read = async (id: string, query = '', account = 'reader'): Promise<contract.Document> =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}${query}`)).body as contract.Document;
const given = {
  title: 'Tower 4',
  type: 'Drawing',
  Tower: 4,
  'Drawn by': 'author2',
  Part: ['Ropes', 'Haul rope'],
  Shelf: 'B2',
};

test('fields of the library’s own are given, told, found, compared and changed', async () => {
  const library = await server.library(rulebook);
  const made = await register(library, given);
  expect(made.status).toBe(201);
  const { id, number } = made.body as contract.Document;
  expect(number).toBe('DRW_0001');
  const drawn = { 'Drawn by': { account: 'author2', name: 'A. author2' } };
  const first = await read(id);
  expect(first.fields).toEqual({ ...given, ...drawn });
  // What is administrative is the document's, and no version's.
  const { Shelf: _, ...versioned } = given;
  expect(first.latest.fields).toEqual({ ...versioned, ...drawn });

  const found = async (q: string): Promise<number> => {
    const asked = `/api/v1/libraries/${library}/documents?q=${encodeURIComponent(q)}`;
    return ((await (await server.as('reader')).get(asked)).body as contract.DocumentList).total;
  };
  expect(await found('haul rope')).toBe(1);

  const before = server.now;
  server.pass(1);
  const changed = await patch(id, { Tower: 5, 'Drawn by': 'author', 'Kept by': 'controller', Shelf: null });
  expect(changed.body).toMatchObject({ label: '2.0', comment: 'Changed Tower, Drawn by' });
  const now = await read(id);
  expect(now.fields).toMatchObject({ Tower: 5, 'Kept by': { account: 'controller' } });
  expect(now.fields).not.toHaveProperty('Shelf');
  // As of before it says what it said.
  const then = await read(id, `?asOf=${before.toISOString()}`, 'author');
  expect(then.fields).toEqual({ ...given, ...drawn });

  server.pass(1);
  const moved = await patch(id, { Shelf: 'C1' });
  expect([moved.status, (moved.body as contract.Version).label]).toEqual([200, '2.0']);
  expect(await read(id)).toMatchObject({ versions: 1, fields: { Shelf: 'C1', Tower: 5 } });

  const compared = await (await server.as('author')).get(`/api/v1/documents/${id}/compare?from=1.0&to=2.0`);
  const told = (compared.body as contract.Comparison).changes.slice(0, 2);
  expect(told).toMatchObject([
    { where: 'field', what: 'Tower', before: '4', after: '5' },
    { where: 'field', what: 'Drawn by', before: 'author2', after: 'author' },
  ]);
  // A person is taken as they are told, too.
  const drawnBy = (await read(id)).fields['Drawn by'];
  expect((await patch(id, { 'Drawn by': drawnBy })).body).toMatchObject({ code: 'nothing-changed' });
  // An earlier version's fields come back with it.
  const restored = await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/restore`)
    .send({ from: '1.0', level: 'major', comment: '', fields: true });
  expect((restored.body as contract.Version).fields).toMatchObject({ Tower: 4, ...drawn });
});

test('what does not fit is refused, nothing is kept, and the number of who is refused stays free', async () => {
  const library = await server.library(rulebook);
  const { Tower: _, ...without } = given;
  const refused: [object, string][] = [
    [without, 'fields-missing'],
    [{ ...given, Colour: 'red' }, 'field-unknown'],
    [{ ...given, Tower: '4' }, 'field-value-unfit'],
    [{ ...given, Part: ['Ropes', 'Track rope'] }, 'field-value-unfit'],
    [{ ...given, 'Drawn by': 'nobody' }, 'account-unknown'],
    [{ ...given, Tower: { person: 'x' } }, 'invalid-input'],
  ];
  for (const [fields, code] of refused) {
    const answer = await register(library, fields);
    expect([answer.status, (answer.body as { code: string }).code]).toEqual([422, code]);
  }
  const list = await (await server.as('controller')).get(`/api/v1/libraries/${library}/documents`);
  expect((list.body as contract.DocumentList).total).toBe(0);
  const { id } = (await register(library, given)).body as contract.Document;
  const emptied = await patch(id, { Tower: null });
  expect(emptied.body).toMatchObject({ code: 'fields-missing', missing: ['Tower'] });
  // Who may change nothing is told nothing of members or fields.
  expect((await patch(id, { 'Drawn by': 'nobody' }, 'reader')).body).toMatchObject({ code: 'role-missing' });
});

test('the next number follows the pattern of the type, above the highest of its form', async () => {
  const library = await server.library(rulebook);
  const next = async (type: string, account = 'author') =>
    (await server.as(account)).get(`/api/v1/libraries/${library}/next-number?type=${type}`);
  expect((await next('Drawing')).body).toEqual({ number: 'DRW_0001' });
  await register(library, { ...given, number: 'DRW_0099' });
  // Not of the form: a sign more, or another one where the pattern has its own.
  await register(library, { ...given, number: 'DRW_0200-B' });
  await register(library, { ...given, number: 'DRW-0300' });
  expect((await next('drawing')).body).toEqual({ number: 'DRW_0100' });
  expect((await register(library, given)).body).toMatchObject({ number: 'DRW_0100' });
  expect((await register(library, { title: 'x', type: 'Notice' })).body).toMatchObject({
    number: 'GEN-01/A',
  });
  expect((await next('')).body).toEqual({ number: 'GEN-02/A' });
  expect((await next('Drawing', 'reader')).status).toBe(403);
  // A longer one is not the higher one: zeros may stand before it.
  for (const number of ['DRW_9999', 'DRW_0000012', 'drw_10007', 'DRW_99a99', 'DRW_1-999'])
    expect((await register(library, { ...given, number })).status).toBe(201);
  expect((await next('Drawing')).body).toEqual({ number: 'DRW_10008' });
  const plain = await server.library();
  const { body } = await register(plain, { title: 'x' });
  expect((body as contract.Document).number).toMatch(/^L[0-9A-F]+-001$/);
});

test('a file without what is required is an arrival that says what is missing, and is registered when it is there', async () => {
  const library = await server.library(rulebook);
  const author = await server.as('author');
  const arrive = async (account: string) =>
    (await server.as(account))
      .post('/api/v1/desk/files')
      .field('library', library)
      .field('fields', JSON.stringify({ title: 'Tower 7', type: 'Drawing', Shelf: 'B2' }))
      .attach('file', docxOf('tower seven'), 'tower.docx');
  // Who registers nothing there can mean nothing for it.
  expect((await arrive('reader')).status).toBe(403);
  const arrived = await arrive('author');
  expect(arrived.status).toBe(201);
  const file = arrived.body as contract.DeskFile;
  expect(file.meantFor).toEqual({
    library: expect.objectContaining({ id: library }) as unknown,
    fields: { title: 'Tower 7', type: 'Drawing', Shelf: 'B2' },
    missing: ['Tower'],
  });
  const { files } = (await author.get('/api/v1/desk')).body as contract.Desk;
  expect(files.find(({ id }) => id === file.id)?.meantFor?.missing).toEqual(['Tower']);
  const complete = async (fields: object) =>
    author
      .post(`/api/v1/desk/files/${file.id}/register`)
      .send({ library, fields: { ...file.meantFor?.fields, ...fields }, level: 'major' });
  expect((await complete({})).body).toMatchObject({ code: 'fields-missing' });
  const made = await complete({ Tower: 7 });
  expect(made.body).toMatchObject({ number: 'DRW_0001', fields: { Tower: 7, Shelf: 'B2' } });
  expect((await author.get(`/api/v1/desk/files/${file.id}`)).status).toBe(404);
});

test('a rule for fields leaves what is filled in, and what became administrative makes no version', async () => {
  const library = await server.library(rulebook);
  const { id } = (await register(library, given)).body as contract.Document;
  const tower = field('Tower', { kind: 'text', administrative: true, requiredFor: 'all' });
  const asked = await (
    await server.as('controller')
  )
    .post(`/api/v1/libraries/${library}/rulebook/consequences`)
    .send({ fields: [tower] });
  expect((asked.body as contract.Consequences).notes.map(({ code }) => code)).toEqual([
    'fields-go',
    'fields-required',
    'fields-change-kind',
  ]);
  await server.rules(library, { fields: [tower] });
  expect((await read(id)).fields).toMatchObject({ Tower: 4, Part: ['Ropes', 'Haul rope'], Shelf: 'B2' });
  const changed = await patch(id, { Tower: 'four' });
  expect((changed.body as contract.Version).label).toBe('1.0');
  expect((await read(id)).fields).toMatchObject({ Tower: 'four' });
  expect((await patch(id, { Part: ['Ropes'] })).body).toMatchObject({ code: 'field-unknown' });
});

test('a document is begun with the template of its type: what is in force of it, as it stands then', async () => {
  const library = await server.library();
  const author = await server.as('author');
  const controller = await server.as('controller');
  const template = await server.document(library, 'Plan for …', { level: 'major', title: 'Empty plan' });
  const put = async (account: string, type: string | null) =>
    (await server.as(account)).put(`/api/v1/documents/${template.id}/template`).send({ type });
  expect((await put('author', 'Plan')).body).toMatchObject({ code: 'role-missing' });
  const before = server.now;
  server.pass(1);
  expect((await put('controller', 'Plan')).body).toMatchObject({ templateFor: 'Plan', versions: 1 });
  expect((await put('controller', 'Plan')).body).toMatchObject({ code: 'nothing-changed' });
  // As of before it was none.
  expect(await read(template.id, `?asOf=${before.toISOString()}`)).toMatchObject({ templateFor: null });
  await server.change(template.id, 'A draft of the next form');

  const list = async (account: string) =>
    (await (await server.as(account)).get(`/api/v1/libraries/${library}/templates`)).body as object;
  expect(await list('reader')).toEqual({
    items: [
      {
        type: 'Plan',
        document: { id: template.id, number: template.number, title: 'Empty plan' },
        version: '1.0',
        fileName: 'op.docx',
      },
    ],
    next: null,
    total: 1,
  });
  const begin = async (fields: object, more: object = {}) =>
    author
      .post(`/api/v1/libraries/${library}/documents`)
      .field({ fields: JSON.stringify(fields), level: 'minor', template: template.id, ...more });
  const made = await begin({ title: 'Plan: the crest', type: 'Plan' });
  expect(made.status).toBe(201);
  const { latest, number } = made.body as contract.Document;
  expect(latest).toMatchObject({
    label: '0.1',
    origin: { kind: 'template', from: null },
    fileName: 'Plan- the crest.docx',
    sha256: template.latest.sha256,
  });
  expect(number).not.toBe(template.number);
  const twice = await author
    .post(`/api/v1/libraries/${library}/documents`)
    .field({ fields: '{"title":"x"}', level: 'minor', template: template.id })
    .attach('file', docxOf('x'), 'x.docx');
  expect((twice.body as { code: string }).code).toBe('malformed-upload');
  // Of another library, or none any more: not found, as what does not exist.
  const other = await server.library();
  const elsewhere = await author
    .post(`/api/v1/libraries/${other}/documents`)
    .field({ fields: '{"title":"x"}', level: 'minor', template: template.id });
  expect((elsewhere.body as { code: string }).code).toBe('template-not-found');
  await controller
    .post(`/api/v1/documents/${template.id}/withdraw`)
    .send({ reason: 'An old form' })
    .expect(200);
  expect((await begin({ title: 'Late' })).status).toBe(404);
  expect(await list('author')).toMatchObject({ items: [], total: 0 });
  expect((await put('controller', null)).body).toMatchObject({ templateFor: null });
});

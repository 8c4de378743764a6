import type * as contract from '@polychron/contract';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';
import { requireModest, requireWellFormed } from './wellFormed.ts';

const server = testServer();
const half = '\ud800';

test('half of a surrogate pair is refused wherever text comes in, and a whole one is kept', async () => {
  const library = await server.library({ custody: 'optional' });
  const document = await server.document(library, 'text');
  const [author, controller, admin] = [
    await server.as('author'),
    await server.as('controller'),
    await server.as('admin'),
  ];
  const form = (title: string) =>
    author
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', JSON.stringify({ title }))
      .field('comment', 'c')
      .field('level', 'minor')
      .attach('file', docxOf('x'), 'op.docx');
  const answers = [
    await form(`a${half}b`),
    await author.patch(`/api/v1/documents/${document.id}`).send({ fields: { title: half }, comment: 'c' }),
    await author.patch(`/api/v1/documents/${document.id}`).send({ fields: { [half]: 'x' }, comment: 'c' }),
    await author.post(`/api/v1/documents/${document.id}/checkout`).send({ reason: `${half}x` }),
    await controller.patch(`/api/v1/libraries/${library}`).send({ name: half }),
    await admin.post('/api/v1/groups').send({ name: `G${half}`, people: [] }),
    await admin.post('/api/v1/groups').send({ name: 'G', people: ['\udfff'] }),
  ];
  for (const { status, body } of answers) {
    expect([status, (body as contract.Problem).code]).toEqual([422, 'invalid-input']);
    expect((body as contract.Problem).detail).toContain('half of a surrogate pair');
  }
  const whole = await form('A 🚡 line');
  expect([whole.status, (whole.body as contract.Document).latest.fields.title]).toEqual([201, 'A 🚡 line']);
});

test('what is nested deeper than anything is refused, however deep, without a word of it being looked up', async () => {
  const deep = `${'{"a":'.repeat(200_000)}1${'}'.repeat(200_000)}`;
  const answer = await (
    await server.as('admin')
  )
    .post('/api/v1/groups')
    .set('Content-Type', 'application/json')
    .send(`{"name":"G","people":[],"more":${deep}}`);
  expect([answer.status, (answer.body as contract.Problem).code]).toEqual([422, 'invalid-input']);
  expect((answer.body as contract.Problem).detail).toContain('nested more than 32 deep');
  expect(() => requireWellFormed([[[['fine']]]])).not.toThrow();
});

test('brackets in texts are no depth, quotes in them no end', () => {
  const fine = { text: '[{'.repeat(100), quoted: '"[\\"{'.repeat(100), list: Array(100).fill([]) };
  expect(() => requireModest(Buffer.from(JSON.stringify(fine)))).not.toThrow();
  expect(() => requireModest(Buffer.from(`"\\\\"${'['.repeat(33)}`))).toThrow();
  expect(() => requireModest(Buffer.from(`${'['.repeat(32)}${']'.repeat(32)}`))).not.toThrow();
  expect(() => requireModest(Buffer.from(`${'['.repeat(33)}${']'.repeat(33)}`))).toThrow();
  expect(() => requireModest(Buffer.from(`[${'1,'.repeat(40_000)}1]`))).not.toThrow();
  expect(() => requireModest(Buffer.from(`["${','.repeat(100_000)}"]`))).not.toThrow();
  expect(() => requireModest(Buffer.from(`[${'1,'.repeat(40_001)}1]`))).toThrow();
});

test('of what is wrong a little is told, however much there is', async () => {
  const admin = await server.as('admin');
  const wide = { name: 'G', people: Array(4000).fill(1), ['x'.repeat(5000)]: 1 };
  const { status, text } = await admin.post('/api/v1/groups').send(wide);
  expect(status).toBe(422);
  expect((JSON.parse(text) as { issues: object[] }).issues).toHaveLength(20);
  expect(text.length).toBeLessThan(20_000);
  const wider = await admin.post('/api/v1/groups').send({ name: 'G', people: Array(50_000).fill('a') });
  expect((wider.body as contract.Problem).detail).toBe('The request holds more than 40000 values.');
});

test('a form is bounded as a body is: in all its fields together, and in the JSON of one', async () => {
  const library = await server.library();
  const author = await server.as('author');
  const form = () =>
    author.post(`/api/v1/libraries/${library}/documents`).attach('file', docxOf('x'), 'op.docx');
  const long = await form()
    .field('fields', '{}')
    .field('comment', 'x'.repeat(1 << 20))
    .field('more', 'x'.repeat(1 << 20));
  expect(long.body).toMatchObject({ status: 422, code: 'malformed-upload' });
  const wide = JSON.stringify({ title: 'x', subject: Array(50_000).fill('a') });
  expect((await form().field('fields', wide).field('comment', 'c')).body).toMatchObject({
    code: 'invalid-input',
    detail: 'The request holds more than 40000 values.',
  });
  const commas = await form().field('fields', '{"title":"x"}').field('comment', ','.repeat(60_000));
  expect((commas.body as contract.Problem).detail).not.toContain('values');
});

import type * as contract from '@polychron/contract';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';
import { requireShallow, requireWellFormed } from './wellFormed.ts';

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
  expect(() => requireShallow(Buffer.from(JSON.stringify(fine)))).not.toThrow();
  expect(() => requireShallow(Buffer.from(`"\\\\"${'['.repeat(33)}`))).toThrow();
  expect(() => requireShallow(Buffer.from(`${'['.repeat(32)}${']'.repeat(32)}`))).not.toThrow();
  expect(() => requireShallow(Buffer.from(`${'['.repeat(33)}${']'.repeat(33)}`))).toThrow();
});

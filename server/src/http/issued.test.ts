import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createHash } from 'node:crypto';
import type * as contract from '@polychron/contract';
import { strFromU8, unzipSync } from 'fflate';
import { binary, docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();

const property = (name: string): string =>
  `</w:t></w:r><w:fldSimple w:instr='DOCPROPERTY "${name}"'><w:r><w:t>?</w:t></w:r></w:fldSimple><w:r><w:t>`;
const names = ['version', 'status', 'approvers', 'title', 'number', 'owner'].map(
  (name) => `Document ${name}`,
);
const package_ = {
  '_rels/.rels':
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="word/document.xml"/></Relationships>',
};
const form = (words: string): Buffer =>
  docxOf([words, ...[...names, 'Issue date', 'Review date', 'Tower'].map(property)].join('\n'), package_);

const register = async (library: string, level: 'minor' | 'major'): Promise<contract.Document> => {
  const answer = await (
    await server.as('author')
  )
    .post(`/api/v1/libraries/${library}/documents`)
    .field('fields', JSON.stringify({ title: 'Opening & closing', reviewBy: '2027-03-02', Tower: 4 }))
    .field('comment', 'First')
    .field('level', level)
    .attach('file', form('first'), 'opening.docx');
  expect(answer.status).toBe(201);
  return answer.body as contract.Document;
};
const content = async (id: string, address: string, account = 'author') =>
  (await server.as(account)).get(`/api/v1/documents/${id}/${address}`).buffer().parse(binary);
/** The paragraphs that an issued copy says. */
const issued = async (id: string, address: string, account = 'author'): Promise<string[]> => {
  const answer = await content(id, address, account);
  expect(answer.status).toBe(200);
  const xml = strFromU8(unzipSync(answer.body as Buffer)['word/document.xml'] ?? new Uint8Array());
  const paragraphs = xml.split('</w:p>').map((one) => one.replace(/<[^>]*>/g, '').replace(/&amp;/g, '&'));
  return paragraphs.slice(1, 10);
};
const submit = async (id: string): Promise<void> => {
  await (await server.as('author')).post(`/api/v1/documents/${id}/submit`).send({ comment: 'x' }).expect(200);
};
const approve = async (id: string, version: string): Promise<void> => {
  const body = { version, decision: 'approve', comment: '' };
  await (await server.as('approver')).post(`/api/v1/documents/${id}/decision`).send(body).expect(200);
};
const change = async (id: string, words: string): Promise<void> => {
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  await author
    .post(`/api/v1/documents/${id}/checkin`)
    .field('comment', words)
    .field('level', 'minor')
    .attach('file', form(words), 'opening.docx')
    .expect(201);
};
const field = { name: 'Tower', kind: 'number' as const, choices: [], requiredFor: [], administrative: false };
const title = 'Opening & closing';

test('an issued copy says after each transition what is true then; what was checked in stays as it is (example 6)', async () => {
  const library = await server.library({
    approval: { on: true, approvers: ['approver'] },
    fields: [field],
  });
  const { id, number } = await register(library, 'minor');
  const common = [title, number, 'A. author'];
  const last = ['2027-03-02', '4'];
  expect(await issued(id, 'versions/0.1/content?issued=1')).toEqual([
    ...['0.1', 'Draft', 'A. approver', ...common, '–', ...last],
  ]);
  await change(id, 'second');
  await submit(id);
  expect((await issued(id, 'versions/0.2/content?issued=1')).slice(0, 2)).toEqual([
    ...['0.2', 'Draft, in approval'],
  ]);
  server.pass(24);
  await approve(id, '0.2');
  const first = server.now;
  const day = first.toISOString().slice(0, 10);
  expect(await issued(id, 'content?issued=1', 'reader')).toEqual([
    ...['1.0', 'In force', 'A. approver', ...common, day, ...last],
  ]);
  await change(id, 'third');
  // A draft says that it is one, and has no date of issue.
  expect(await issued(id, 'versions/1.1/content?issued=1')).toEqual([
    ...['1.1', 'Draft', 'A. approver', ...common, '–', ...last],
  ]);
  expect((await content(id, 'versions/1.1/content?issued=1', 'reader')).status).toBe(404);
  await submit(id);
  server.pass(24);
  await approve(id, '1.1');
  expect((await issued(id, 'versions/1.0/content?issued=1', 'auditor')).slice(0, 2)).toEqual([
    ...['1.0', 'Superseded; 2.0 is in force'],
  ]);
  expect((await issued(id, 'content?issued=1', 'reader')).slice(0, 2)).toEqual(['2.0', 'In force']);
  // As of the day before it says what it said.
  const then = `versions/1.0/content?issued=1&asOf=${first.toISOString()}`;
  expect((await issued(id, then, 'auditor')).slice(0, 2)).toEqual(['1.0', 'In force']);

  const answer = await content(id, 'versions/1.0/content');
  const { sha256 } = (await (await server.as('author')).get(`/api/v1/documents/${id}/versions/1.0`))
    .body as contract.Version;
  const hash = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');
  expect(hash(answer.body as Buffer)).toBe(sha256);
  expect(hash(form('second'))).toBe(sha256);
});

test('a version that another overtook before its moment never was in force: its copy has no date of issue', async () => {
  const library = await server.library({ fields: [field] });
  const { id } = await register(library, 'major');
  await change(id, 'second');
  const inForceFrom = new Date(server.now.getTime() + 10 * 86_400_000);
  const author = await server.as('author');
  await author
    .post(`/api/v1/documents/${id}/publish`)
    .send({ inForceFrom: inForceFrom.toISOString() })
    .expect(201);
  const dateOf = async (label: string): Promise<unknown> =>
    (await issued(id, `versions/${label}/content?issued=1`))[6];
  expect(await dateOf('2.0')).toBe(inForceFrom.toISOString().slice(0, 10));
  await change(id, 'third');
  server.pass(24);
  await author.post(`/api/v1/documents/${id}/publish`).send({}).expect(201);
  expect(await dateOf('3.0')).toBe(server.now.toISOString().slice(0, 10));
  server.pass(24 * 20);
  expect(await dateOf('2.0')).toBe('–');
  expect(await dateOf('3.0')).not.toBe('–');
});

test('with byOwner it is approved and no issue until the owner publishes; withdrawn it says so', async () => {
  const library = await server.library({
    approval: { on: true, approvers: ['approver'], publishing: 'byOwner' },
    fields: [field],
  });
  const { id } = await register(library, 'minor');
  await submit(id);
  await approve(id, '0.1');
  const approved = await issued(id, 'versions/0.1/content?issued=1');
  expect(approved.slice(0, 3)).toEqual(['0.1', 'Draft, approved and not yet published', 'A. approver']);
  expect(approved[6]).toBe('–');
  await (await server.as('author')).post(`/api/v1/documents/${id}/publish`).send({}).expect(201);
  expect((await issued(id, 'content?issued=1', 'reader')).slice(0, 3)).toEqual([
    ...['1.0', 'In force', 'A. approver'],
  ]);
  await (
    await server.as('controller')
  )
    .post(`/api/v1/documents/${id}/withdraw`)
    .send({ reason: 'Wrong' })
    .expect(200);
  expect((await issued(id, 'versions/1.0/content?issued=1', 'auditor'))[1]).toBe('Withdrawn');
});

test('a library calls what is written in by names of its own; files are named by number and version', async () => {
  const library = await server.library({ controlNames: { version: 'Tower', number: 'Nr' }, fields: [field] });
  const { id, number } = await register(library, 'major');
  const said = await issued(id, 'content?issued=1');
  expect(said.slice(0, 5)).toEqual(['?', 'In force', '–', title, '?']);
  expect(said.at(-1)).toBe('1.0');
  const { headers } = await content(id, 'content?issued=1');
  expect(headers['content-disposition']).toContain(`${number} 1.0 opening.docx`);
  expect((await content(id, 'content?issued=1&marked=1')).status).toBe(422);
  const twice = await (
    await server.as('controller')
  )
    .put(`/api/v1/libraries/${library}/rulebook`)
    .send({ controlNames: { owner: 'issue_date' }, reason: 'x' });
  expect((twice.body as { code: string }).code).toBe('control-name-twice');
});

test('what nothing can be written into is given out as it is, with why; so is a locked PDF', async () => {
  const library = await server.library();
  const author = await server.as('author');
  const made = async (name: string, bytes: Buffer): Promise<string> => {
    const answer = await author
      .post(`/api/v1/libraries/${library}/documents`)
      .field('fields', JSON.stringify({ title: name }))
      .field('level', 'major')
      .attach('file', bytes, name)
      .expect(201);
    return (answer.body as contract.Document).id;
  };
  const text = await content(await made('limits.md', Buffer.from('# Limits')), 'content?issued=1', 'reader');
  expect((text.body as Buffer).toString()).toBe('# Limits');
  const why = (answer: { headers: Record<string, string> }): string =>
    decodeURIComponent(answer.headers['not-issued'] ?? '');
  expect(why(text)).toBe(
    'Nothing can be written into a file of this type; here is the file as it was checked in.',
  );
  const bytes = readFileSync(
    join(import.meta.dirname, '../../../core/src/testing/issue/pdf-owner-password.pdf'),
  );
  const locked = await made('plan.pdf', bytes);
  const plain = await content(locked, 'content?issued=1', 'reader');
  expect(Buffer.compare(plain.body as Buffer, bytes)).toBe(0);
  expect(why(plain)).toMatch(/^No issued copy can be made of the file: it is locked against changes\./);
  // Whoever publishes it is told before.
  const asked = await author.get(`/api/v1/documents/${locked}/versions/1.0/issuable`).expect(200);
  expect((asked.body as contract.Issuable).why).toBe(why(plain));
});

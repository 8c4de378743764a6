import type * as contract from '@polychron/contract';
import { binary, docxOf, pngOf } from '../testing/files.ts';
import type { Agent } from '../testing/server.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
let author: Agent;
let library: string;
beforeAll(async () => {
  author = await server.as('author');
  library = await server.library({ custody: 'optional' });
});

/** A document, what became of it since the author took a private copy, and that copy as it was changed. */
async function copied(name: string, { base, present, mine }: Record<'base' | 'present' | 'mine', Buffer>) {
  const made = await author
    .post(`/api/v1/libraries/${library}/documents`)
    .field({ fields: JSON.stringify({ title: name }), comment: 'First', level: 'minor' })
    .attach('file', base, name)
    .expect(201);
  const { id } = made.body as contract.Document;
  const copy = await author.post(`/api/v1/documents/${id}/versions/0.1/loose-copy`).expect(201);
  const { id: file } = copy.body as contract.DeskFile;
  await author
    .put(`/api/v1/desk/files/${file}/content`)
    .set('Content-Disposition', `attachment; filename="${name}"`)
    .send(mine)
    .expect(200);
  await author
    .post(`/api/v1/documents/${id}/versions`)
    .field({ basedOn: '0.1', comment: 'Meanwhile', level: 'minor' })
    .attach('file', present, name)
    .expect(201);
  return { id, file };
}
const mergeOf = async (file: string): Promise<contract.Merge> =>
  (await author.get(`/api/v1/desk/files/${file}/merge`).expect(200)).body as contract.Merge;
const bring = (file: string, choices: object) =>
  author
    .post(`/api/v1/desk/files/${file}/bring-in`)
    .send({ level: 'minor', comment: 'Both', choices, latest: '0.2' });
const labelOf = async (id: string): Promise<string> =>
  ((await author.get(`/api/v1/documents/${id}`).expect(200)).body as contract.Document).latest.label;

test('a merge that would not hold together is refused with what is wrong; file and document stay', async () => {
  const named = 'Three</w:t></w:r><w:r><w:footnoteReference w:id="7"/></w:r><w:r><w:t>';
  const { id, file } = await copied('op.docx', {
    base: docxOf('One\nTwo\nThree'),
    present: docxOf('One now\nTwo\nThree'),
    mine: docxOf(`One\nTwo\n${named}`),
  });
  expect((await mergeOf(file)).regions.map(({ kind }) => kind)).toEqual(['present', 'same', 'mine']);
  const refused = await bring(file, {});
  expect(refused.body).toMatchObject({ status: 422, code: 'merge-broken' });
  expect((refused.body as contract.Problem).detail).toContain('footnotes: 7 is named and not there');
  expect(await labelOf(id)).toBe('0.2');
  await author.get(`/api/v1/desk/files/${file}/content`).expect(200);
  // What was mine is left out, and the rest goes in.
  expect((await bring(file, { 2: 'base' })).body).toMatchObject({ label: '0.3' });
});

test('files of different programs are laid over each other by what they say, and that is told', async () => {
  const spaced = '</w:t></w:r></w:p><w:p><w:pPr><w:spacing w:after="120"/></w:pPr><w:r><w:t>';
  const dressed = (lines: string): Buffer => docxOf(lines.replaceAll('\n', spaced));
  const { file } = await copied('by.docx', {
    base: docxOf('One\nTwo\nThree\nFour'),
    present: docxOf('One now\nTwo\nThree\nFour'),
    mine: dressed('One\nTwo\nThree\nFour mine'),
  });
  const merge = await mergeOf(file);
  expect([merge.sameWriter, merge.conflicts]).toEqual([false, 0]);
  expect(merge.regions.filter(({ kind }) => kind === 'mine').map(({ mine }) => mine)).toContainEqual([
    'Four mine',
  ]);
  expect((await bring(file, {})).status).toBe(201);
});

test('a sign that the encoding of the latest version lacks is named; nothing is lost', async () => {
  const latin = (text: string): Buffer => Buffer.from(text, 'latin1');
  const { id, file } = await copied('stuetzen.txt', {
    base: latin('Stütze\nÖffnen\nPrüfen\n'),
    present: latin('Stütze 6\nÖffnen\nPrüfen\n'),
    mine: Buffer.from('Stütze\nÖffnen\nPrüfen → melden\n', 'utf8'),
  });
  expect((await bring(file, {})).body).toMatchObject({ status: 422, code: 'not-in-encoding', signs: ['→'] });
  expect(await labelOf(id)).toBe('0.2');
  await author
    .put(`/api/v1/desk/files/${file}/content`)
    .set('Content-Disposition', 'attachment; filename="stuetzen.txt"')
    .send(Buffer.from('Stütze\nÖffnen\nPrüfen, melden\n', 'utf8'))
    .expect(200);
  expect((await bring(file, {})).body).toMatchObject({ label: '0.3' });
  const merged = await author.get(`/api/v1/documents/${id}/versions/0.3/content`).responseType('blob');
  expect((merged.body as Buffer).equals(latin('Stütze 6\nÖffnen\nPrüfen, melden\n'))).toBe(true);
  expect(merged.headers['content-type']).toBe('text/plain');
});

test("pictures of a file on one's Desk are one's own", async () => {
  const picture = docxOf('One', { 'word/media/a.png': pngOf(4, 3) });
  const { file } = await copied('pic.docx', { base: docxOf('One'), present: docxOf('Two'), mine: picture });
  const path = (part: string): string => `/api/v1/desk/files/${file}/pictures/${encodeURIComponent(part)}`;
  await author.get(path('word/media/a.png')).expect('Content-Type', 'image/png').expect(200);
  await author.get(path('word/document.xml')).expect(404);
  await (await server.as('controller')).get(path('word/media/a.png')).expect(404);
});

test("a file of one's own becomes the working copy of a document one holds, and of no other", async () => {
  const { id, file } = await copied('held.txt', {
    base: Buffer.from('One\n'),
    present: Buffer.from('One now\n'),
    mine: Buffer.from('One of mine\n'),
  });
  const save = (agent: Agent, to = id) =>
    agent.post(`/api/v1/desk/files/${file}/save`).send({ document: to });
  expect((await save(author)).body).toMatchObject({ status: 409, code: 'not-checked-out' });
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  expect((await save(await server.as('author2'))).body).toMatchObject({ status: 404 });
  const saved = (await save(author).expect(200)).body as contract.Custody;
  expect(saved).toMatchObject({ base: '0.2', saves: 1, workingCopy: { fileName: 'held.txt', size: 12 } });
  await author.get(`/api/v1/desk/files/${file}`).expect(404);
  const copy = await author.get(`/api/v1/documents/${id}/checkout/content`).buffer().parse(binary);
  expect((copy.body as Buffer).toString()).toBe('One of mine\n');
  expect(await labelOf(id)).toBe('0.2');
});

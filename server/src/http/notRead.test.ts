import type * as contract from '@polychron/contract';
import { docxOf } from '../testing/files.ts';
import type { Agent } from '../testing/server.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
let author: Agent;
let library: string;
beforeAll(async () => {
  author = await server.as('author');
  library = await server.library({ custody: 'optional' });
});

/** A text of so many lines; more than are read in the page. */
const text = (lines: number): Buffer => Buffer.from('a line\n'.repeat(lines));
const tooMany = 60_001;
const why = expect.stringContaining('more than 60,000 paragraphs');

const made = async (file: Buffer, name: string): Promise<contract.MadeDocument> =>
  (
    await author
      .post(`/api/v1/libraries/${library}/documents`)
      .field({ fields: JSON.stringify({ title: name }), comment: 'First', level: 'minor' })
      .attach('file', file, name)
      .expect(201)
  ).body as contract.MadeDocument;

/** What the page then says of the latest version. */
const readIn = async (id: string, label: string) =>
  (await author.get(`/api/v1/documents/${id}/versions/${label}/reading`)).body as Partial<contract.Problem>;

describe('whoever gives a file is told that it is not read in the page, in the words that the page has for it', () => {
  test('registering a document', async () => {
    const large = await made(text(tooMany), 'large.txt');
    expect(large.notRead).toEqual(why);
    expect(await readIn(large.id, '0.1')).toMatchObject({ code: 'too-complex', detail: large.notRead });
    expect((await made(text(59_000), 'long.txt')).notRead).toBeNull();
    expect((await made(docxOf('Short'), 'short.docx')).notRead).toBeNull();
    // XML that is no document is taken in as it is.
    const xml = await made(Buffer.from('<?xml version="1.0"?><points><p x="1"/></points>'), 'points.xml');
    expect(xml.notRead).toContain('XML that holds no document');
    expect(await readIn(xml.id, '0.1')).toMatchObject({ detail: xml.notRead });
    // None of its type are read, which the page says by itself.
    expect((await made(Buffer.from('%PDF-1.4'), 'drawing.pdf')).notRead).toBeNull();
  });

  test('a version without a check-out', async () => {
    const { id } = await made(text(3), 'grown.md');
    const answer = await author
      .post(`/api/v1/documents/${id}/versions`)
      .field({ basedOn: '0.1', comment: 'Grown', level: 'minor' })
      .attach('file', Buffer.from('a\n\n'.repeat(tooMany)), 'grown.md')
      .expect(201);
    const { notRead, label } = answer.body as contract.MadeVersion;
    expect(notRead).toEqual(why);
    expect(await readIn(id, label)).toMatchObject({ detail: notRead });
  });

  test('a check-in, with its file or of what was saved before, of many at once too', async () => {
    const { id } = await made(text(3), 'list.csv');
    const checkOut = () => author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
    const save = (lines: number) =>
      author
        .put(`/api/v1/documents/${id}/checkout/content`)
        .set('Content-Disposition', 'attachment; filename="list.csv"')
        .send(text(lines))
        .expect(200);
    await checkOut();
    await save(tooMany);
    const checkIn = () =>
      author.post(`/api/v1/documents/${id}/checkin`).field({ comment: 'All of it', level: 'minor' });
    expect((await checkIn().expect(201)).body).toMatchObject({ label: '0.2', notRead: why });
    await checkOut();
    await save(tooMany + 1);
    const command = { act: 'checkIn', documents: [id], comment: 'Again' };
    const bulk = await author.post('/api/v1/bulk').send(command).expect(200);
    const [outcome] = (bulk.body as contract.BulkOutcomes).outcomes;
    expect(outcome).toMatchObject({ ok: true, label: '0.3', text: why });
  });

  test('a file that is brought in', async () => {
    const { id } = await made(text(3), 'notes.txt');
    const copy = await author.post(`/api/v1/documents/${id}/versions/0.1/loose-copy`).expect(201);
    const { id: file } = copy.body as contract.DeskFile;
    await author
      .put(`/api/v1/desk/files/${file}/content`)
      .set('Content-Disposition', 'attachment; filename="notes.txt"')
      .send(text(tooMany))
      .expect(200);
    const brought = await author
      .post(`/api/v1/desk/files/${file}/bring-in`)
      .send({ level: 'minor', comment: 'All', choices: {}, latest: '0.1' })
      .expect(201);
    expect(brought.body).toMatchObject({ label: '0.2', notRead: why });
  });
});

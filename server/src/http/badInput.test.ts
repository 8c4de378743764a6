import { randomBytes } from 'node:crypto';
import { request as httpRequest } from 'node:http';
import type { AddressInfo } from 'node:net';
import { readdirSync } from 'node:fs';
import type * as contract from '@polychron/contract';
import { routes, type Route } from '@polychron/contract';
import fc from 'fast-check';
import request, { type Response } from 'supertest';
import { zipSync } from 'fflate';
import { binary, docxOf, pngOf } from '../testing/files.ts';
import { TestServer } from '../testing/server.ts';

let server: TestServer;
let library: string;
let held: contract.Document;
beforeAll(async () => {
  server = await TestServer.start();
  library = await server.library();
  held = await server.document(library, 'sound');
  await (await server.as('author')).post(`/api/v1/documents/${held.id}/checkout`).send({}).expect(201);
});
/**
 * Whatever was sent: no error of ours was logged, nothing stays in the staging folder, the document is as it
 * was.
 */
afterEach(async () => {
  expect(server.logged).toEqual([]);
  expect(readdirSync(server.context.stagingFolder)).toEqual([]);
  expect(await server.labels(held.id)).toEqual(['0.1']);
});
afterAll(async () => {
  await server.stop();
});

const create = async (bytes: Buffer, name: string, fields: object = { title: 'T' }): Promise<Response> =>
  (await server.as('author'))
    .post(`/api/v1/libraries/${library}/documents`)
    .field('fields', JSON.stringify(fields))
    .attach('file', bytes, name);
const checkIn = async (bytes: Buffer, name = 'op.docx', comment = 'c'): Promise<Response> =>
  (await server.as('author'))
    .post(`/api/v1/documents/${held.id}/checkin`)
    .field('comment', comment)
    .field('level', 'minor')
    .attach('file', bytes, name);

const sound = docxOf('sound '.repeat(300));
const files: [string, Buffer, number, string][] = [
  ['text named .docx', Buffer.from('This is not a package.'), 422, 'not-a-docx'],
  ['an empty file', Buffer.alloc(0), 422, 'empty-file'],
  ['a truncated zip', sound.subarray(0, sound.length - 40), 422, 'unreadable-file'],
  [
    'a zip bomb',
    Buffer.from(
      zipSync(
        { '[Content_Types].xml': Buffer.from('<Types/>'), 'word/document.xml': new Uint8Array(33 << 20) },
        { level: 1 },
      ),
    ),
    422,
    'unfolds-too-large',
  ],
  [
    'XML with an external entity',
    docxOf('x', { 'word/footnotes.xml': '<!DOCTYPE a [<!ENTITY e SYSTEM "file:///etc/passwd">]><a>&e;</a>' }),
    422,
    'unsafe-xml',
  ],
  ['a zip of something else', Buffer.from(zipSync({ 'a.txt': new Uint8Array(3) })), 422, 'not-a-docx'],
];
describe.each(files)('%s', (_, bytes, status, code) => {
  test('is refused as a new document, with nothing registered', async () => {
    const before = (await (await server.as('author')).get(`/api/v1/libraries/${library}/documents`))
      .body as contract.DocumentList;
    const answer = await create(bytes, 'x.docx');
    expect(answer.headers['content-type']).toMatch(/^application\/problem\+json/);
    expect(answer.body).toMatchObject({ status, code, detail: expect.stringMatching(/\.$/) as string });
    expect(
      (await (await server.as('author')).get(`/api/v1/libraries/${library}/documents`)).body,
    ).toMatchObject({ total: before.total });
  });
  test('is refused at check-in and as a working copy', async () => {
    expect((await checkIn(bytes)).body).toMatchObject({ status, code });
    const saved = await (
      await server.as('author')
    )
      .put(`/api/v1/documents/${held.id}/checkout/content`)
      .attach('file', bytes, 'op.docx');
    expect(saved.body).toMatchObject({ status, code });
    expect(
      (await (await server.as('author')).get(`/api/v1/documents/${held.id}/checkout`)).body,
    ).toMatchObject({ saves: 0 });
  });
});

test.each([
  ['../../../etc/passwd.docx', 'passwd.docx'],
  ['C:\\plans\\rescue.docx', 'rescue.docx'],
  ['a\u0007b\u001b[31m.docx', 'ab[31m.docx'],
  [`${'n'.repeat(300)}.docx`, `${'n'.repeat(115)}.docx`],
  ['seil 🚡 雪.docx', 'seil 🚡 雪.docx'],
])('the file name %j is taken as %j', async (given, kept) => {
  const answer = await create(sound, given);
  expect(answer.status).toBe(201);
  const document = answer.body as contract.Document;
  expect(document.fileName).toBe(kept);
  const download = await (
    await server.as('author')
  )
    .get(`/api/v1/documents/${document.id}/versions/0.1/content`)
    .expect(200);
  expect(download.headers['content-disposition']).toMatch(/^attachment; filename/);
});

test('a comment of 100,000 characters is refused, naming the limit; one of 4,000 with emoji is kept', async () => {
  expect((await checkIn(docxOf('other'), 'op.docx', 'x'.repeat(100_000))).body).toMatchObject({
    status: 422,
    code: 'comment-too-long',
    length: 100_000,
    longest: 4000,
  });
  const own = await server.document(library, 'a');
  const author = await server.as('author');
  await author.post(`/api/v1/documents/${own.id}/checkout`).send({});
  const comment = `${'🚡'.repeat(1999)}"'`;
  const answer = await author
    .post(`/api/v1/documents/${own.id}/checkin`)
    .field('comment', comment)
    .field('level', 'minor')
    .attach('file', docxOf('b'), 'op.docx')
    .expect(201);
  expect(answer.body).toMatchObject({ comment });
});

test.each([
  '99.9',
  '0.0',
  '1~0.9',
  '7~1.0',
  'nonsense',
  '0.1.1',
  '..%2f..',
  '%00',
  '9'.repeat(60),
  '00000000-0000-4000-8000-000000000000',
])('version %s does not exist', async (label) => {
  const answer = await (await server.as('author')).get(`/api/v1/documents/${held.id}/versions/${label}`);
  expect([answer.status, (answer.body as contract.Problem).code]).toEqual([404, 'version-not-found']);
});

test.each<[string, object, string]>([
  ['no title', {}, 'invalid-input'],
  ['an empty title', { title: '  ' }, 'invalid-input'],
  ['a title of 301 characters', { title: 'x'.repeat(301) }, 'invalid-input'],
  ['a control character', { title: 'a\u0000b' }, 'invalid-input'],
  ['an unknown field', { title: 'a', colour: 'red' }, 'field-unknown'],
  ['a field that holds too much', { title: 'a', colour: { red: 1 } }, 'invalid-input'],
  ['a date that is none', { title: 'a', reviewBy: '2026-02-31' }, 'invalid-input'],
  ['an owner who is no member', { title: 'a', owner: 'nobody' }, 'account-unknown'],
  ['a number with a slash in front', { title: 'a', number: '/x' }, 'invalid-input'],
])('fields with %s are refused', async (_, fields, code) => {
  expect((await create(sound, 'a.docx', fields)).body).toMatchObject({ status: 422, code });
});

test('a form without a file, with two, with a wrong part, or no form at all', async () => {
  const author = await server.as('author');
  const address = `/api/v1/libraries/${library}/documents`;
  const title = JSON.stringify({ title: 'x' });
  expect((await author.post(address).field('fields', title)).body).toMatchObject({
    status: 422,
    code: 'file-missing',
  });
  expect(
    (await author.post(address).field('fields', title).attach('other', sound, 'a.docx')).body,
  ).toMatchObject({ status: 422, code: 'malformed-upload' });
  const twice = author.post(address).field('fields', title).field('fields', title);
  expect((await twice.attach('file', sound, 'a.docx')).body).toMatchObject({
    status: 422,
    code: 'malformed-upload',
    detail: expect.stringContaining('the field fields comes twice') as string,
  });
  const long = author
    .post(address)
    .field('fields', title)
    .field('comment', 'x'.repeat((2 << 20) + 1));
  expect((await long.attach('file', sound, 'a.docx')).body).toMatchObject({
    status: 422,
    code: 'malformed-upload',
    detail: expect.stringContaining('the field comment is too long') as string,
  });
  expect(
    (
      await author
        .post(address)
        .field('fields', title)
        .attach('file', sound, 'a.docx')
        .attach('file', sound, 'b.docx')
    ).body,
  ).toMatchObject({ status: 422, code: 'malformed-upload' });
  expect((await author.post(address).send({ fields: { title: 'x' } })).body).toMatchObject({
    status: 422,
    code: 'malformed-upload',
  });
  expect(
    (await author.post(address).set('Content-Type', 'multipart/form-data').send('x')).body,
  ).toMatchObject({ status: 422, code: 'malformed-upload' });
  expect(
    (
      await author
        .post(address)
        .set('Content-Type', 'multipart/form-data; boundary=b')
        .send('--b\r\nnonsense')
    ).body,
  ).toMatchObject({ status: 422, code: 'malformed-upload' });
  expect(
    (await author.post(address).field('fields', '{').attach('file', sound, 'a.docx')).body,
  ).toMatchObject({ status: 422, code: 'invalid-input' });
});

test('JSON that is none, of the wrong shape, or too large', async () => {
  const author = await server.as('author');
  const address = `/api/v1/documents/${held.id}/restore`;
  expect(
    (await author.post(address).set('Content-Type', 'application/json').send('{"from":')).body,
  ).toMatchObject({ status: 400, code: 'malformed-json' });
  for (const body of [
    {},
    { from: 1 },
    { from: '0.1', level: 'huge' },
    [],
    { from: '0.1', level: 'minor', extra: 1 },
  ]) {
    expect((await author.post(address).send(body)).body).toMatchObject({
      status: 422,
      code: 'invalid-input',
    });
  }
  expect(
    (await author.post(address).send({ from: '0.1', level: 'minor', comment: 'x'.repeat(3_000_000) })).body,
  ).toMatchObject({ status: 413, code: 'body-too-large' });
});

test('addresses that are none', async () => {
  const author = await server.as('author');
  for (const path of [
    '/documents/not-an-id',
    '/documents/00000000-0000-4000-8000-000000000000',
    '/nothing',
    '/libraries/1',
  ]) {
    const answer = await author.get(`/api/v1${path}`);
    expect([answer.status, answer.headers['content-type']]).toEqual([
      404,
      'application/problem+json; charset=utf-8',
    ]);
  }
  expect((await author.get('/api/v1/documents/%E0%A4%A')).status).toBe(400);
  expect((await author.delete('/api/v1/libraries')).status).toBe(404);
});

test('an upload that breaks off changes nothing', async () => {
  const listening = server.app.listen(0, '127.0.0.1');
  try {
    await new Promise((resolve) => {
      listening.once('listening', resolve);
    });
    const { port } = listening.address() as AddressInfo;
    const author = await server.as('author');
    const { secret } = await import('../access/sessions.ts').then(async ({ makeToken }) =>
      makeToken(await server.asker('author'), { name: 'raw' }),
    );
    const sending = httpRequest({
      port,
      host: '127.0.0.1',
      method: 'POST',
      path: `/api/v1/documents/${held.id}/checkin`,
      headers: {
        Authorization: `Bearer ${secret}`,
        'Content-Type': 'multipart/form-data; boundary=b',
        'Content-Length': 5_000_000,
      },
    });
    sending.on('error', () => undefined);
    sending.write(
      '--b\r\nContent-Disposition: form-data; name="comment"\r\n\r\nx\r\n--b\r\nContent-Disposition: form-data; name="file"; filename="a.docx"\r\n\r\n',
    );
    sending.write(Buffer.alloc(1_000_000, 80));
    await new Promise((resolve) => {
      setTimeout(resolve, 300);
    });
    sending.destroy();
    for (let tries = 0; tries < 50 && readdirSync(server.context.stagingFolder).length > 0; tries += 1)
      await new Promise((resolve) => {
        setTimeout(resolve, 50);
      });
    expect(readdirSync(server.context.stagingFolder)).toEqual([]);
    expect((await author.get(`/api/v1/documents/${held.id}/checkout`)).body).toMatchObject({ saves: 0 });
  } finally {
    listening.close();
  }
});

test('random bytes under any name give an answer that is no 500', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.uint8Array({ maxLength: 400 }),
      fc.string({ unit: 'binary', maxLength: 40 }),
      fc.constantFrom('.docx', '.txt', '.md', ''),
      fc.boolean(),
      async (bytes, name, ending, zipStart) => {
        const content = Buffer.from(zipStart ? [0x50, 0x4b, 0x03, 0x04, ...bytes] : bytes);
        const answer = await create(content, `${name.replace(/["\r\n\0]/g, '')}${ending}`);
        expect([201, 422]).toContain(answer.status);
      },
    ),
    { numRuns: 12 },
  );
});

test('a .docx with any byte changed is taken or refused, never a 500, and never holds up the server', async () => {
  await fc.assert(
    fc.asyncProperty(fc.nat(), fc.integer({ min: 1, max: 255 }), async (place, change) => {
      const bytes = Buffer.from(sound);
      const at = place % bytes.length;
      bytes[at] = (bytes[at] as number) ^ change;
      expect([201, 422]).toContain((await create(bytes, 'changed.docx')).status);
    }),
    { numRuns: 20 },
  );
});

test('every route but the open ones asks for a sign-in', async () => {
  for (const route of Object.values(routes) as Route[]) {
    if (route.open) continue;
    const path = route.path.replace('{id}', held.id).replace('{v}', '0.1').replace('{part}', 'x');
    const asked = request(server.listener);
    const answer = await asked[route.method](`/api/v1${path}`).send(route.sends === 'json' ? {} : undefined);
    expect([route.path, answer.status, (answer.body as contract.Problem).code]).toEqual([
      route.path,
      401,
      'not-signed-in',
    ]);
  }
});

test('a parameter given twice is refused, and a look as somebody is by their exact account', async () => {
  const controller = await server.as('controller');
  for (const query of ['as=reader&as=controller', 'as=role:reader&as=', 'limit=1&limit=2', 'q=a&q=b']) {
    const answer = await controller.get(`/api/v1/libraries/${library}/documents?${query}`);
    expect([query, answer.status, (answer.body as contract.Problem).code]).toEqual([
      query,
      422,
      'parameter-repeated',
    ]);
  }
  for (const as of ['reader%00', 'r%C3%A9ader', 'reader%E2%80%8B', 'role:reader%00']) {
    const answer = await controller.get(`/api/v1/libraries/${library}/documents?as=${as}`);
    expect([as, (answer.body as contract.Problem).code]).toEqual([as, 'account-unknown']);
  }
});

test.each([
  ['a version name that is not ASCII', () => `/documents/${held.id}/versions/%C3%BC1`, 404],
  ['a version name of control signs', () => `/documents/${held.id}/versions/%00`, 404],
  ['a comparison with such a name', () => `/documents/${held.id}/compare?from=%E2%82%AC&to=0.1`, 404],
  ['a shelf cursor below nought', () => `/libraries/${library}/shelf?cursor=-1`, 400],
  ['a cursor beyond what is counted', () => `/libraries/${library}/shelf?cursor=999999999999999`, 200],
])('%s is answered', async (_, address, status) => {
  expect((await (await server.as('controller')).get(`/api/v1${address()}`)).status).toBe(status);
});

test.each([
  '9999-12-31T23:59:59-14:00',
  '+010000-01-01T00:00:00Z',
  '0001-01-01T00:00:00Z',
  '9999-12-31T23:59:59.9Z',
])('the moment %s is refused', async (until) => {
  const author = await server.as('author');
  const address = `/api/v1/documents/${held.id}/checkout`;
  expect((await author.patch(address).send({ until })).body).toMatchObject({
    status: 422,
    code: 'invalid-input',
  });
});

test.each([
  ['a direction override', 'safe\u202egpj.exe'],
  ['an isolate', '\u2066a\u2069'],
  ['nothing that can be seen', '\u200b\u2060'],
  ['fillers', '\u3164\u2800'],
])('a title with %s is refused', async (_, title) => {
  expect((await create(sound, 'x.docx', { title })).body).toMatchObject({
    status: 422,
    code: 'invalid-input',
  });
});

test('a package that holds a part twice is refused: programs differ in which of them they show', async () => {
  const twice = duplicateEntry(docxOf('first'), docxOf('second'));
  expect((await create(twice, 'x.docx')).body).toMatchObject({
    status: 422,
    code: 'unreadable-file',
    detail: expect.stringMatching(/holds .* twice/) as string,
  });
});

/** The first archive with the entries of the second after its own, all in one directory (APPNOTE 4.3.6). */
function duplicateEntry(one: Buffer, two: Buffer): Buffer {
  const split = (bytes: Buffer) => {
    const end = bytes.length - 22;
    const start = bytes.readUInt32LE(end + 16);
    return {
      files: bytes.subarray(0, start),
      directory: bytes.subarray(start, end),
      end: bytes.subarray(end),
    };
  };
  const [a, b] = [split(one), split(two)];
  const moved = Buffer.from(b.directory);
  for (let at = 0; at < moved.length; at += 46 + moved.readUInt16LE(at + 28) + moved.readUInt16LE(at + 30)) {
    moved.writeUInt32LE(moved.readUInt32LE(at + 42) + a.files.length, at + 42);
  }
  const end = Buffer.from(a.end);
  const count = a.end.readUInt16LE(8) + b.end.readUInt16LE(8);
  end.writeUInt16LE(count, 8);
  end.writeUInt16LE(count, 10);
  end.writeUInt32LE(a.directory.length + moved.length, 12);
  end.writeUInt32LE(a.files.length + b.files.length, 16);
  return Buffer.concat([a.files, b.files, a.directory, moved, end]);
}

test('a text of millions of lines is kept, and refused for reading with what is too much', async () => {
  const made = (await create(Buffer.alloc(3_000_000, '\n'), 'lines.txt')).body as contract.Document;
  const address = `/api/v1/documents/${made.id}/versions/0.1`;
  const author = await server.as('author');
  for (const path of [`${address}/reading`, `/api/v1/documents/${made.id}/compare?from=0.1&to=0.1`]) {
    expect((await author.get(path)).body).toMatchObject({
      status: 422,
      code: 'too-complex',
      what: 'paragraphs',
    });
  }
  expect((await author.get(`${address}/content`).buffer().expect(200)).text).toHaveLength(3_000_000);
});

test('a picture is one part of the package, fetched and unfolded by itself', async () => {
  const picture = pngOf(4, 3);
  const gif = Buffer.from('GIF89a\xff\xff\xff\xff\x00\x00\x00', 'latin1');
  const inside = {
    'word/media/image1.png': picture,
    'word/media/bomb.png': pngOf(30_000, 30_000),
    'word/media/bomb.gif': gif,
    'word/media/text.png': 'not a picture',
    'word/media/drawing.png': '<svg xmlns="http://www.w3.org/2000/svg" width="4" height="3"/>',
  };
  const file = docxOf('text', { 'word/embeddings/large.bin': randomBytes(3_000_000), ...inside });
  const made = (await create(file, 'picture.docx')).body as contract.Document;
  const author = await server.as('author');
  const ask = (part: string) =>
    author
      .get(`/api/v1/documents/${made.id}/versions/0.1/pictures/${encodeURIComponent(part)}`)
      .buffer()
      .parse(binary);
  const answer = await ask('word/media/image1.png').expect(200);
  expect(answer.headers['content-type']).toBe('image/png');
  expect(picture.equals(answer.body as Buffer)).toBe(true);
  // What would take gigabytes in the page, what is no picture, what is no part, what is none of a picture.
  const [, ...refused] = Object.keys(inside);
  for (const part of [...refused, 'word/document.xml', 'word/media/image2.png', '../x.png'])
    await ask(part).expect(404);
});

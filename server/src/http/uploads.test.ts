import fc from 'fast-check';
import { randomBytes } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { once } from 'node:events';
import { connect, createServer, type AddressInfo, type Server as NetServer, type Socket } from 'node:net';
import type { Server } from 'node:http';
import request from 'supertest';
import { Upload, type DetailedError } from 'tus-js-client';
import type * as contract from '@polychron/contract';
import { makeToken } from '../access/sessions.ts';
import { mostUploadBytes } from '../content/staging.ts';
import { TestServer } from '../testing/server.ts';
import { listen } from './listen.ts';

let server: TestServer;
let listener: Server;
let library: string;
beforeAll(async () => {
  server = await TestServer.start();
  library = await server.library();
  listener = listen(server.app, 0, () => undefined);
  await once(listener, 'listening');
});
afterAll(async () => {
  listener.closeAllConnections();
  listener.close();
  await server.stop();
});

/** A line to the server that is cut, once, after so many bytes. */
async function cutLine(after: number): Promise<{ line: NetServer; cuts: () => number }> {
  let cuts = 0;
  const { port } = listener.address() as AddressInfo;
  const line = createServer((near: Socket) => {
    const far = connect(port, '127.0.0.1');
    let sent = 0;
    near.on('data', (part: Buffer) => {
      sent += part.length;
      far.write(part);
      if (cuts > 0 || sent < after) return;
      cuts += 1;
      near.destroy();
      far.destroy();
    });
    far.pipe(near);
    near.on('error', () => far.destroy()).on('close', () => far.destroy());
    far.on('error', () => near.destroy());
  }).listen(0, '127.0.0.1');
  await once(line, 'listening');
  return { line, cuts: () => cuts };
}
const portOf = (at: Server | NetServer): number => (at.address() as AddressInfo).port;
const secretOf = async (account: string): Promise<string> =>
  (await makeToken(await server.asker(account), { name: 'uploads' })).secret;

/** Sends bytes by the protocol's own client; returns the upload's id. */
async function send(
  bytes: Buffer,
  { account = 'author', port = portOf(listener), name = 'plan.bin' } = {},
): Promise<string> {
  const secret = await secretOf(account);
  const upload = await new Promise<Upload>((resolve, reject) => {
    const made = new Upload(bytes, {
      endpoint: `http://127.0.0.1:${port}/api/v1/uploads`,
      headers: { Authorization: `Bearer ${secret}` },
      metadata: { filename: name },
      retryDelays: [0, 100, 200],
      onError: reject,
      onSuccess: () => resolve(made),
    });
    made.start();
  });
  return upload.url?.split('/').at(-1) ?? '';
}
const register = async (fields: Record<string, string>, account = 'author') =>
  (
    await (
      await server.as(account)
    )
      .post(`/api/v1/libraries/${library}/documents`)
      .field({ fields: '{"title":"Tower drawing"}', comment: 'First', level: 'minor', ...fields })
  ).body as contract.Document & contract.Problem;

test('an upload whose line is cut goes on where it was, and becomes a document; the file is there byte for byte', async () => {
  const bytes = randomBytes(3_000_000);
  const { line, cuts } = await cutLine(1_000_000);
  const upload = await send(bytes, { port: portOf(line), name: 'tower.bin' });
  line.close();
  expect(cuts()).toBe(1);
  const refused = await register({ upload, fields: '{"title":""}' });
  expect(refused).toMatchObject({ code: 'invalid-input' });
  const made = await register({ upload });
  expect(made.latest).toMatchObject({ fileName: 'tower.bin', size: bytes.length });
  const kept = await (
    await server.as('author')
  )
    .get(`/api/v1/documents/${made.id}/versions/0.1/content`)
    .responseType('blob')
    .expect(200);
  expect(bytes.equals(kept.body as Buffer)).toBe(true);
  expect(await register({ upload })).toMatchObject({ status: 404, code: 'upload-not-found' });
  expect(readdirSync(server.context.uploads.store.directory)).toEqual([]);
});

test('an upload is a check-in, a save and an arrival as well', async () => {
  const author = await server.as('author');
  const { id } = await register({ upload: await send(Buffer.from('first')) });
  await author.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  const saved = await author
    .put(`/api/v1/documents/${id}/checkout/content`)
    .field({ upload: await send(Buffer.from('saved')) })
    .expect(200);
  expect(saved.body).toMatchObject({ saves: 1 });
  const checkedIn = await author
    .post(`/api/v1/documents/${id}/checkin`)
    .field({ upload: await send(Buffer.from('second')), comment: 'Next', level: 'minor' })
    .expect(201);
  expect(checkedIn.body).toMatchObject({ label: '0.2', size: 6 });
  const upload = await send(Buffer.from('arrived'), { name: 'arrived.txt' });
  expect((await author.post('/api/v1/desk/files').field({ upload }).expect(201)).body).toMatchObject({
    fileName: 'arrived.txt',
  });
});

test("nobody begins, sees or uses what they may not: another's, an unfinished one, too large, too many, by nobody", async () => {
  const author = await server.as('author');
  const begin = (size: number, agent = author) =>
    agent.post('/api/v1/uploads').set('Tus-Resumable', '1.0.0').set('Upload-Length', String(size));
  const own = await begin(10).expect(201);
  const path = String(own.headers['location']);
  const id = path.split('/').at(-1) ?? '';
  expect(await register({ upload: id })).toMatchObject({
    status: 409,
    code: 'upload-unfinished',
    offset: 0,
    size: 10,
  });
  const author2 = await server.as('author2');
  for (const asked of [author2.head(path), author2.delete(path), author2.patch(path)]) {
    expect((await asked.set('Tus-Resumable', '1.0.0')).status).toBe(404);
  }
  expect(await register({ upload: id }, 'author2')).toMatchObject({ status: 404, code: 'upload-not-found' });
  for (const upload of ['', '..', `${id}.json`, '../../etc/passwd']) {
    expect(await register({ upload })).toMatchObject({ status: 404, code: 'upload-not-found' });
  }
  expect((await begin(mostUploadBytes + 1)).body).toMatchObject({ status: 413, code: 'file-too-large' });
  expect((await begin(10, await server.as('reader'))).body).toMatchObject({
    status: 403,
    code: 'role-missing',
  });
  expect((await begin(10, request.agent(server.listener))).body).toMatchObject({
    status: 401,
    code: 'not-signed-in',
  });
  await begin(mostUploadBytes).expect(201);
  expect((await begin(mostUploadBytes)).body).toMatchObject({ status: 409, code: 'too-many-uploads' });
  await author.delete(path).set('Tus-Resumable', '1.0.0').expect(204);
  await author.head(path).set('Tus-Resumable', '1.0.0').expect(404);
  const foreign = await author.options('/api/v1/uploads').set('Origin', 'https://elsewhere.test');
  expect(foreign.headers).not.toHaveProperty('access-control-allow-origin');
});

test('one upload named by several requests at once is answered with a document, or as gone', async () => {
  const upload = await send(Buffer.from('at once'));
  const answers = await Promise.all(Array.from({ length: 6 }, () => register({ upload })));
  expect(answers.some(({ latest }) => latest?.label === '0.1')).toBe(true);
  for (const { latest, code } of answers) expect(latest ? 'made' : code).toMatch(/^(made|upload-not-found)$/);
});

test('no request near the protocol is answered with a fault of ours', async () => {
  const author = await server.as('author');
  const begun = await author.post('/api/v1/uploads').set({ 'Tus-Resumable': '1.0.0', 'Upload-Length': '9' });
  const own = String(begun.headers['location']);
  const odd = fc.constantFrom(
    '',
    '-1',
    '0',
    '9',
    '1.5',
    'x',
    '99999999999999999999',
    'filename YQ==',
    'a b c,,',
  );
  const asked = fc.record({
    method: fc.constantFrom('post', 'patch', 'head', 'delete', 'options', 'get', 'put'),
    path: fc.constantFrom(
      '/api/v1/uploads',
      '/api/v1/uploads/',
      '/api/v1/uploads/%00',
      `${own}x`,
      own,
      `${own}/..`,
    ),
    version: fc.constantFrom('1.0.0', '0.2.2', ''),
    headers: fc.dictionary(
      fc.constantFrom(
        'Upload-Length',
        'Upload-Offset',
        'Upload-Metadata',
        'Upload-Defer-Length',
        'Upload-Concat',
      ),
      odd,
    ),
    type: fc.constantFrom('application/offset+octet-stream', 'text/plain'),
  });
  await fc.assert(
    fc.asyncProperty(asked, async ({ method, path, version, headers, type }) => {
      const request = author[method as 'post'](path).set({ 'Tus-Resumable': version, ...headers });
      const { status } = await (method === 'patch' ? request.set('Content-Type', type).send('x') : request);
      expect([method, path, status >= 500]).toEqual([method, path, false]);
    }),
    { numRuns: 300 },
  );
});

test('a slow upload has hours, as long as it goes on', () => {
  expect(listener.requestTimeout).toBeGreaterThan(3_600_000);
  expect(listener.timeout).toBe(120_000);
});

test('with little room no upload is begun', async () => {
  server.free = 0;
  await new Promise((resolve) => {
    setTimeout(resolve, 600);
  });
  const refused: unknown = await send(Buffer.from('x')).catch((error: unknown) => error);
  expect((refused as DetailedError).originalResponse?.getStatus()).toBe(507);
  server.free = Infinity;
});

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => {
    setTimeout(resolve, milliseconds);
  });

describe('what one person may have under way', () => {
  // What was seen of a full disk before is looked at again only then.
  beforeAll(() => pause(1100));
  const begin = async (account: string, headers: Record<string, string>): Promise<[number, string]> => {
    const answer = await (
      await server.as(account)
    )
      .post('/api/v1/uploads')
      .set({ 'Tus-Resumable': '1.0.0', ...headers });
    return [answer.status, String(answer.headers['location'] ?? (answer.body as contract.Problem).code)];
  };

  test('is held when twenty begin at once, to two servers that share the folder too', async () => {
    const half = String(mostUploadBytes / 2);
    const answers = await Promise.all(
      Array.from({ length: 20 }, () => begin('controller', { 'Upload-Length': half })),
    );
    expect(answers.map(([status]) => status).sort()).toEqual([
      ...Array<number>(4).fill(201),
      ...Array<number>(16).fill(409),
    ]);
    expect(answers.filter(([, code]) => code === 'too-many-uploads')).toHaveLength(16);
    const { id } = await server.caller('controller');
    expect(await server.context.uploads.bytesOf(id)).toBe(2 * mostUploadBytes);
    // Another person's are their own, and what is left makes room.
    expect((await begin('author2', { 'Upload-Length': half }))[0]).toBe(201);
    const [, left] = answers.find(([status]) => status === 201) ?? [];
    await (await server.as('controller')).delete(String(left)).set('Tus-Resumable', '1.0.0').expect(204);
    expect((await begin('controller', { 'Upload-Length': half }))[0]).toBe(201);
  });

  test('counts uploads by the length they say: one that says none, or nonsense, does not begin', async () => {
    const { id } = await server.caller('author2');
    const before = readdirSync(server.context.uploads.store.directory).length;
    const bytes = await server.context.uploads.bytesOf(id);
    const heads: Record<string, string>[] = [
      { 'Upload-Defer-Length': '1' },
      { 'Upload-Length': '-1' },
      { 'Upload-Length': 'many' },
      { 'Upload-Length': '1e99' },
      {},
    ];
    for (const headers of heads)
      expect(await begin('author2', headers)).toEqual([422, 'upload-length-missing']);
    const options = await (await server.as('author2')).options('/api/v1/uploads').expect(204);
    expect(options.headers['tus-extension']).not.toContain('creation-defer-length');
    // What is refused for its head takes no place.
    expect((await begin('author2', { 'Upload-Length': '10', 'Upload-Metadata': 'a b c,,' }))[0]).toBe(400);
    // It goes once the refusal is sent.
    const left = (): number => readdirSync(server.context.uploads.store.directory).length;
    for (let tries = 0; tries < 200 && left() !== before; tries += 1) await pause(20);
    expect(left()).toBe(before);
    expect(await server.context.uploads.bytesOf(id)).toBe(bytes);
  });
});

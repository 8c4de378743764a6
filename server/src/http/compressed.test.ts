import { brotliCompressSync, gzipSync } from 'node:zlib';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import request from 'supertest';
import { binary } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';
import { createApp } from './app.ts';

const server = testServer();

test('the application comes as it was compressed when it was built, by what the browser takes, and is kept for good', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'web-'));
  try {
    const script = Buffer.from('console.log("in force");'.repeat(50));
    mkdirSync(join(folder, 'assets'));
    writeFileSync(join(folder, 'index.html'), '<!doctype html><title>Polychron</title>');
    writeFileSync(join(folder, 'assets', 'index-1.js'), script);
    writeFileSync(join(folder, 'assets', 'index-1.js.gz'), gzipSync(script));
    writeFileSync(join(folder, 'assets', 'index-1.js.br'), brotliCompressSync(script));
    const app = createApp(server.context, { webFolder: folder });
    const read = (accepts: string, path = '/assets/index-1.js') =>
      request(app).get(path).set('Accept-Encoding', accepts).buffer().parse(binary);
    const packed = await read('gzip, deflate, br').expect(200);
    expect(packed.headers).toMatchObject({
      'content-encoding': 'br',
      'cache-control': 'public, max-age=31536000, immutable',
    });
    expect(packed.headers['vary']).toContain('Accept-Encoding');
    expect(packed.headers['content-type']).toContain('javascript');
    // Undone by the client, as by a browser.
    expect(packed.body).toEqual(script);
    expect((await read('gzip').expect(200)).headers['content-encoding']).toBe('gzip');
    const plain = await read('identity').expect(200);
    expect(plain.headers['content-encoding']).toBeUndefined();
    expect(plain.body).toEqual(script);
    expect((await read('br', '/OP/documents/1')).headers['cache-control']).toBe('no-cache');
    const gone = await request(app).get('/assets/gone.js').expect(404);
    expect(gone.body).toMatchObject({ code: 'no-such-route', status: 404 });
    // What cannot be read as an address is answered by the page, which says so (RFC 3986, 2.1).
    const unreadable = await request(app).get('/OP/%E0').expect(200);
    expect(unreadable.text).toContain('<title>Polychron</title>');
    await request(app).get('/assets/%E0').expect(404);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

test('long answers are compressed; contents, and what carries an entity tag, are not', async () => {
  const library = await server.library();
  const { id } = await server.document(library);
  const author = await server.as('author');
  const read = (path: string) =>
    author.get(`/api/v1${path}`).set('Accept-Encoding', 'gzip').buffer().parse(binary);
  const api = await read('/openapi.json').expect(200);
  expect(api.headers['content-encoding']).toBe('gzip');
  expect(JSON.parse((api.body as Buffer).toString())).toMatchObject({ openapi: '3.1.0' });
  expect((await read(`/libraries/${library}/documents`).expect(200)).headers['content-encoding']).toBe(
    'gzip',
  );
  const tagged = await read(`/documents/${id}`).expect(200);
  expect(tagged.headers['etag']).toBeDefined();
  expect(tagged.headers['content-encoding']).toBeUndefined();
  const content = await read(`/documents/${id}/versions/0.1/content`).expect(200);
  expect(content.headers['content-encoding']).toBeUndefined();
});

import { createApp } from '../../http/app.ts';
import { makeToken } from '../../access/sessions.ts';
import { basic, named, TestDrive, type Told } from '../../testing/drive.ts';
import { MarkedLibrary, roleOf } from '../../testing/markedLibrary.ts';
import { testServer } from '../../testing/started.ts';
import { fileTag } from './tags.ts';

const server = testServer();
const drive = new TestDrive(server);
beforeAll(() => drive.start());
afterAll(() => drive.stop());
const ask: TestDrive['ask'] = (...asking) => drive.ask(...asking);
const list: TestDrive['list'] = (...asking) => drive.list(...asking);
const walk: TestDrive['walk'] = (...asking) => drive.walk(...asking);
const codeOf = (libraryId: string): Promise<string> => drive.codeOf(libraryId);

/** A document with subjects. */
async function filed(library: string, title: string, subject: string[], level: 'minor' | 'major' = 'major') {
  const made = await server.document(library, `Words ${subject.length}`, { title, level });
  const agent = await server.as('author');
  if (subject.length === 0) return made;
  const fields = { fields: { subject }, comment: 'Filed', level };
  await agent.patch(`/api/v1/documents/${made.id}`).send(fields).expect(200);
  return made;
}

test('libraries are folders, subjects are folders in them, documents are files with what is seen of them', async () => {
  const library = await server.library();
  const code = await codeOf(library);
  const wind = await filed(library, 'Closing for wind', ['weather', 'gales']);
  await filed(library, 'Roster', []);
  const [, ...roots] = await list('reader', '/dav/');
  expect(roots.map(({ href }) => href)).toContain(`/dav/${code}/`);
  const [self, ...inside] = await list('reader', `/dav/${code}`);
  expect(self?.properties.get('displayname')?.text).toBe(`Library ${code}`);
  expect(inside.map(({ href }) => decodeURIComponent(href))).toEqual([
    `/dav/${code}/versions/`,
    `/dav/${code}/weather/`,
    `/dav/${code}/${code}-002 Roster.docx`,
  ]);
  const [, file] = await list('reader', `/dav/${code}/weather/gales/`);
  expect(named(file as Told)).toBe(`${code}-001 Closing for wind.docx`);
  // What is on the drive is what the HTTP interface tells, byte for byte.
  const agent = await server.as('reader');
  const { body } = await agent.get(`/api/v1/documents/${wind.id}`);
  const { sha256, size, at, label } = (body as { inForce: Record<string, string> }).inForce;
  const answer = await ask('reader', file?.href ?? '');
  expect(answer.headers.get('etag')).toBe(fileTag(sha256 ?? ''));
  expect(file?.properties.get('getetag')?.text).toBe(fileTag(sha256 ?? ''));
  expect(file?.properties.get('getcontentlength')?.text).toBe(String(size));
  expect(Date.parse(file?.properties.get('getlastmodified')?.text ?? '')).toBe(
    Math.floor(Date.parse(at ?? '') / 1000) * 1000,
  );
  const content = await agent.get(`/api/v1/documents/${wind.id}/versions/${label}/content`).buffer();
  expect(Buffer.from(await answer.arrayBuffer()).length).toBe(Number(content.headers['content-length']));
  // An author sees the draft that follows, a reader what is in force.
  await server.change(wind.id, 'Another text');
  const tag = async (account: string): Promise<string | null> =>
    (await ask(account, file?.href ?? '', { method: 'HEAD' })).headers.get('etag');
  expect(await tag('reader')).toBe(fileTag(sha256 ?? ''));
  expect(await tag('author')).not.toBe(fileTag(sha256 ?? ''));
});

test('names that no file system takes are told so that each does, and found again', async () => {
  const library = await server.library({ fields: [] });
  const code = await codeOf(library);
  await filed(library, `What? "Now": <a|b> \\ c* ${'größer '.repeat(33)}`, ['rope/cable', 'in ／ between']);
  await filed(library, 'Ünïcode – “quoted” & 100 % <b>', ['rope/cable']);
  const { files } = await walk('author', `/dav/${code}/`);
  // Each document, and its one or two versions.
  expect(files).toHaveLength(2 + 4);
  for (const file of files) {
    expect(named(file)).not.toMatch(/[\\/:*?"<>|]/);
    expect(Buffer.byteLength(named(file))).toBeLessThanOrEqual(255);
    expect((await ask('author', file.href)).status).toBe(200);
    expect(await list('author', file.href, '0')).toHaveLength(1);
  }
});

test('who signs in: by a token as the password, over TLS or from this machine; nobody by a cookie', async () => {
  const library = await server.library();
  const path = `/dav/${await codeOf(library)}/`;
  const propfind = (headers: Record<string, string>, at = drive.base): Promise<Response> =>
    fetch(at + path, { method: 'PROPFIND', headers: { Depth: '0', ...headers } });
  const none = await propfind({});
  expect(none.status).toBe(401);
  expect(none.headers.get('www-authenticate')).toBe('Basic realm="Polychron", charset="UTF-8"');
  const asker = await server.asker('reader');
  const { secret } = await makeToken(asker, { name: 'drive', scope: 'read' });
  expect((await propfind({ Authorization: basic('reader', secret) })).status).toBe(207);
  expect((await propfind({ Authorization: basic('Reader', secret) })).status).toBe(207);
  for (const wrong of [basic('author', secret), basic('reader', 'orrin-vale'), `Bearer ${secret}`, 'Basic %'])
    expect((await propfind({ Authorization: wrong })).status).toBe(401);
  const put = { method: 'PUT', headers: { Authorization: basic('reader', secret) }, body: 'x' };
  expect((await fetch(`${drive.base}${path}x.txt`, put)).status).toBe(403);
  expect((await ask('stranger', path, { method: 'PROPFIND', headers: { Depth: '0' } })).status).toBe(404);
  // Behind a proxy that says where a request comes from.
  const proxied = await drive.listen(createApp(server.context, { trustProxy: 1, evenly: false }));
  const from = (headers: Record<string, string>): Promise<Response> =>
    propfind(
      { Authorization: basic('reader', secret), 'X-Forwarded-For': '203.0.113.5', ...headers },
      proxied,
    );
  expect((await from({})).status).toBe(403);
  expect((await from({ 'X-Forwarded-Proto': 'https' })).status).toBe(207);
});

test('PROPFIND as RFC 4918, 9.1 has it: all, names, some; none without a depth, and no XML but its own', async () => {
  const library = await server.library();
  const code = await codeOf(library);
  await filed(library, 'Roster', []);
  const path = `/dav/${code}/${code}-001%20Roster.docx`;
  const about = (inside: string): string =>
    `<?xml version="1.0"?><d:propfind xmlns:d="DAV:" xmlns:z="urn:z">${inside}</d:propfind>`;
  const [all] = await list('author', path, '0', about('<d:allprop/>'));
  expect(all?.properties.get('getcontenttype')?.text).toContain('wordprocessingml');
  const [names] = await list('author', path, '0', about('<d:propname/>'));
  expect([...(names?.properties.keys() ?? [])]).toEqual([...(all?.properties.keys() ?? [])]);
  expect([...(names?.properties.values() ?? [])].every(({ text }) => text === '')).toBe(true);
  const [some] = await list(
    'author',
    path,
    '0',
    about('<d:prop><d:getetag/><z:colour/><d:quota-used-bytes/></d:prop>'),
  );
  expect([...(some?.properties ?? [])].map(([name, { status }]) => [name, status])).toEqual([
    ['getetag', 'HTTP/1.1 200 OK'],
    ['urn:z colour', 'HTTP/1.1 404 Not Found'],
    ['quota-used-bytes', 'HTTP/1.1 404 Not Found'],
  ]);
  const asked = (depth: string | null, body = ''): Promise<Response> =>
    ask('author', path, { method: 'PROPFIND', headers: depth === null ? {} : { Depth: depth }, body });
  for (const depth of ['infinity', null]) {
    const deep = await asked(depth);
    expect([deep.status, await deep.text()]).toEqual([
      403,
      expect.stringContaining('<D:propfind-finite-depth/>'),
    ]);
  }
  expect((await asked('2')).status).toBe(400);
  const entity = '<!DOCTYPE d [<!ENTITY e SYSTEM "file:///etc/passwd">]>';
  for (const body of ['<d:propfind', about(''), '<propfind/>', `${entity}${about('<d:allprop/>')}`])
    expect((await asked('0', body)).status).toBe(400);
});

test('a file is sent whole, in part, or not again (RFC 9110, 13 and 14)', async () => {
  const library = await server.library();
  const code = await codeOf(library);
  await filed(library, 'Roster', []);
  const path = `/dav/${code}/${code}-001%20Roster.docx`;
  const whole = Buffer.from(await (await ask('author', path)).arrayBuffer());
  const got = async (headers: Record<string, string>) => {
    const answer = await ask('author', path, { headers });
    const bytes = Buffer.from(await answer.arrayBuffer());
    return { status: answer.status, bytes, range: answer.headers.get('content-range') };
  };
  const size = whole.length;
  for (const [range, from, to] of [
    ['bytes=0-99', 0, 99],
    ['bytes=-50', size - 50, size - 1],
    [`bytes=${size - 100}-`, size - 100, size - 1],
    ['bytes=7-7', 7, 7],
    ['bytes=0-', 0, size - 1],
  ] as const) {
    const { status, bytes, range: told } = await got({ Range: range });
    expect(bytes.equals(whole.subarray(from, to + 1))).toBe(true);
    expect([status, told]).toEqual(range === 'bytes=0-' ? [200, null] : [206, `bytes ${from}-${to}/${size}`]);
  }
  expect(await got({ Range: `bytes=${size}-` })).toMatchObject({ status: 416, range: `bytes */${size}` });
  expect((await got({ Range: 'bytes=0-1,4-5' })).bytes.equals(whole)).toBe(true);
  expect((await got({ Range: 'bytes=0-1', 'If-Range': '"another"' })).status).toBe(200);
  const head = (await ask('author', path, { method: 'HEAD' })).headers;
  const [tag, at] = [head.get('etag') ?? '', head.get('last-modified') ?? ''];
  const before = new Date(Date.parse(at) - 1000).toUTCString();
  expect((await got({ 'If-Modified-Since': at })).status).toBe(304);
  expect((await got({ 'If-Modified-Since': before })).status).toBe(200);
  expect((await got({ 'If-Modified-Since': at, 'If-None-Match': '"another"' })).status).toBe(200);
  expect(await got({ 'If-None-Match': tag })).toMatchObject({ status: 304, bytes: Buffer.alloc(0) });
  expect((await got({ 'If-Match': '"another"' })).status).toBe(412);
  // If-Match compares strongly.
  expect((await got({ 'If-Match': `W/${tag}` })).status).toBe(412);
  expect((await got({ 'If-Match': tag })).status).toBe(200);
});

test('the versions of a document stand in a folder of their own, to be read and copied, for who sees them', async () => {
  const library = await server.library();
  const code = await codeOf(library);
  const document = await filed(library, 'Closing for wind', []);
  await filed(library, 'In a folder of that name', ['versions', 'versions']);
  await server.change(document.id, 'A draft');
  const folder = `/dav/${code}/versions/${document.number}/`;
  const names = async (account: string): Promise<string[]> => {
    const [, ...inside] = await list(account, folder);
    return inside.map(named);
  };
  expect(await names('author')).toEqual(['1.1 Closing for wind.docx', '1.0 Closing for wind.docx']);
  expect(await names('reader')).toEqual(['1.0 Closing for wind.docx']);
  const draft = `${folder}1.1%20Closing%20for%20wind.docx`;
  expect((await ask('reader', draft)).status).toBe(404);
  const first = `${folder}1.0%20Closing%20for%20wind.docx`;
  const agent = await server.as('author');
  const content = await agent.get(`/api/v1/documents/${document.id}/versions/1.0/content`).buffer();
  const got = await ask('author', first);
  expect([got.status, got.headers.get('content-length')]).toEqual([200, content.headers['content-length']]);
  for (const method of ['PUT', 'DELETE', 'LOCK', 'MOVE', 'PROPPATCH', 'MKCOL']) {
    const headers = { Destination: `${drive.base}/dav/Desk/x.docx` };
    const answer = await ask('author', first, { method, headers, body: method === 'PUT' ? 'x' : '' });
    expect([method, [400, 403, 405, 412].includes(answer.status)]).toEqual([method, true]);
  }
  expect((await ask('author', `${folder}new.txt`, { method: 'PUT', body: 'x' })).status).toBe(403);
  const headers = { Destination: `${drive.base}/dav/Desk/${code}.docx` };
  expect((await ask('author', first, { method: 'COPY', headers })).status).toBe(201);
  const { body } = await agent.get('/api/v1/desk');
  expect((body as { files: object[] }).files).toContainEqual(
    expect.objectContaining({ kind: 'looseCopy', base: '1.0' }),
  );
  // A subject of that name is no history.
  const { files } = await walk('author', `/dav/${code}/versions_/`);
  expect(files.map(({ href }) => href)).toEqual([
    `/dav/${code}/versions_/versions/${code}-002%20In%20a%20folder%20of%20that%20name.docx`,
  ]);
});

test('it says what it has; a folder is listed and not read, an address that is none leads nowhere', async () => {
  const library = await server.library();
  const code = await codeOf(library);
  const options = await fetch(`${drive.base}/dav/${code}/`, { method: 'OPTIONS' });
  expect([options.status, options.headers.get('dav')]).toEqual([200, '1, 2, 3']);
  expect(options.headers.get('allow')).toContain('LOCK');
  expect((await ask('author', `/dav/${code}/`)).status).toBe(405);
  expect((await ask('author', `/dav/${code}/`, { method: 'POST', body: 'x' })).status).toBe(405);
  expect((await ask('author', `/dav/${code}/%E0%A4%A`)).status).toBe(404);
});

const sets: ('author' | 'approver')[][] = [['author', 'approver'], []];
describe.each(sets.map((named) => ({ named })))('drafts for $named', ({ named: roles }) => {
  let library: MarkedLibrary;
  let code = '';
  beforeAll(async () => {
    library = await MarkedLibrary.make(server, {
      sight: { draft: roles, inApproval: roles, rejected: roles },
    });
    code = await codeOf(library.id);
  });

  test.each(['reader', 'auditor', 'author', 'author2', 'approver', 'approver2', 'controller'])(
    '%s finds on the drive what they see, and nothing of the rest by name, size, time or tag',
    async (account) => {
      const seen = await library.seenBy(account, [roleOf(account)]);
      const { files, said } = await walk(account, `/dav/${code}/`);
      const hidden = library.hiddenFrom(seen);
      expect(hidden.filter((mark) => said.includes(mark))).toEqual([]);
      // Every version that is seen, and kept, in the history of its document, by its own words.
      const histories = files.filter(({ href }) => href.startsWith(`/dav/${code}/versions/`));
      const listed = library.versions.filter(({ id, voided }) => seen.has(id) && !voided);
      const kept = listed.filter(({ readable }) => readable);
      expect(
        histories
          .map(named)
          .map((name) => name.split(' ')[0])
          .sort(),
      ).toEqual(kept.map(({ label }) => label).sort());
      // One file of each document of which something is seen: its latest.
      const latest = files.filter((one) => !histories.includes(one));
      const documents = new Set(listed.map((one) => one.documentId));
      expect(latest).toHaveLength(documents.size);
      for (const { documentId } of listed) {
        const { body } = await (await server.as(account)).get(`/api/v1/documents/${documentId}`);
        const document = body as { number: string; latest: { sha256: string } };
        const file = latest.find((one) => named(one).startsWith(`${document.number} `));
        expect(file?.properties.get('getetag')?.text).toBe(fileTag(document.latest.sha256));
      }
      // Addresses that others have lead nowhere, as those that nobody has.
      const others = await walk('controller', `/dav/${code}/`);
      const own = new Set(files.map(({ href }) => href));
      const nowhere = await (await ask(account, `/dav/${code}/${code}-999%20None.docx`)).text();
      for (const { href } of others.files.filter((one) => !own.has(one.href))) {
        const answer = await ask(account, href);
        expect([answer.status, await answer.text()]).toEqual([404, nowhere]);
      }
    },
  );
});

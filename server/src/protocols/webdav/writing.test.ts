import type { Custody, Desk, Document, NoticeList } from '@polychron/contract';
import type { RulebookChoices } from '@polychron/core';
import { closeLeftOpen } from '../../acts/openInProgram.ts';
import { sweep } from '../../jobs/sweeps.ts';
import { type Asking, named, readMultistatus, TestDrive } from '../../testing/drive.ts';
import { docxOf } from '../../testing/files.ts';
import { MarkedLibrary } from '../../testing/markedLibrary.ts';
import { testServer } from '../../testing/started.ts';

// One connection: an act that asked for a second one while it holds the first would wait for itself.
const server = testServer({ connections: 1 });
const drive = new TestDrive(server);
beforeAll(() => drive.start());
afterAll(() => drive.stop());

const lockBody = (owner = '<D:href>an editor</D:href>', scope = 'exclusive'): string =>
  `<?xml version="1.0"?><D:lockinfo xmlns:D="DAV:"><D:lockscope><D:${scope}/></D:lockscope>` +
  `<D:locktype><D:write/></D:locktype><D:owner>${owner}</D:owner></D:lockinfo>`;
const ask = async (account: string, method: string, path: string, asking: Asking = {}) => {
  const answer = await drive.ask(account, path, { method, ...asking });
  return { status: answer.status, headers: answer.headers, text: await answer.text() };
};
async function lock(account: string, path: string, headers: Record<string, string> = {}): Promise<string> {
  const answer = await ask(account, 'LOCK', path, { body: lockBody(), headers });
  expect(answer.status).toBe(200);
  return (answer.headers.get('lock-token') ?? '').slice(1, -1);
}
const withToken = (token: string): Record<string, string> => ({ If: `(<${token}>)` });
const unlock = (account: string, path: string, token: string) =>
  ask(account, 'UNLOCK', path, { headers: { 'Lock-Token': `<${token}>` } });

/** A document in a library of its own, with its address on the drive. */
async function filed(rules: RulebookChoices = {}, level: 'minor' | 'major' = 'major') {
  const library = await server.library(rules);
  const document = await server.document(library, 'The first text', { title: 'Opening the line', level });
  const code = await drive.codeOf(library);
  const path = `/dav/${code}/${encodeURIComponent(`${document.number} Opening the line.docx`)}`;
  return { library, code, path, id: document.id, number: document.number };
}
const documentOf = async (id: string, account = 'author'): Promise<Document> =>
  (await (await server.as(account)).get(`/api/v1/documents/${id}`)).body as Document;
const custodyOf = async (id: string, account = 'author'): Promise<Custody | null> =>
  (await documentOf(id, account)).custody;
const deskOf = async (account: string): Promise<Desk> =>
  (await (await server.as(account)).get('/api/v1/desk')).body as Desk;

test('opened, saved three times, closed: checked out, kept, and asked about on Desk and page, by notice', async () => {
  const { path, id, number } = await filed();
  const token = await lock('author', path, { Timeout: 'Infinite, Second-4100000000' });
  expect(await custodyOf(id)).toMatchObject({ mine: true, door: 'drive', saves: 0, toFinish: null });
  for (const text of ['one', 'two', 'three']) {
    const body = docxOf(text);
    const put = await ask('author', 'PUT', path, { body, headers: withToken(token) });
    expect(put.status).toBe(204);
    // The holder has before them what they saved, by the tag they were told; others what was there.
    const head = await ask('author', 'HEAD', path);
    expect(head.headers.get('etag')).toBe(put.headers.get('etag'));
    expect(head.headers.get('content-length')).toBe(String(body.length));
  }
  // The same again is no save.
  await ask('author', 'PUT', path, { body: docxOf('three'), headers: withToken(token) });
  const reader = await drive.ask('reader', path);
  expect(Buffer.from(await reader.arrayBuffer()).equals(docxOf('three'))).toBe(false);
  const open = await custodyOf(id);
  expect(open).toMatchObject({ saves: 3, toFinish: null });
  expect(Date.parse(open?.openUntil ?? '') - server.now.getTime()).toBe(3_600_000);
  expect((await unlock('author', path, token)).status).toBe(204);
  expect(await custodyOf(id)).toMatchObject({
    saves: 3,
    openUntil: null,
    toFinish: server.now.toISOString(),
  });
  const desk = await deskOf('author');
  expect(desk.held.find((one) => one.id === id)?.custody?.toFinish).not.toBeNull();
  const { items } = (await (await server.as('author')).get('/api/v1/notices')).body as NoticeList;
  expect(items[0]?.text).toBe(
    `${number} was saved 3 times and closed in its program. Decide on your Desk: check in as 1.1 or 2.0, go on later, or give back and drop 3 saves.`,
  );
  expect((await documentOf(id)).latest.label).toBe('1.0');
  // What it said is what happens.
  const agent = await server.as('author');
  const made = await agent
    .post(`/api/v1/documents/${id}/checkin`)
    .field({ comment: 'Worked in its own program', level: 'minor' });
  expect([made.status, (made.body as { label: string }).label]).toEqual([201, '1.1']);
  expect(await custodyOf(id)).toBeNull();
});

test('kept for later nothing is asked, until a program has opened and closed it again', async () => {
  const { path, id } = await filed();
  const first = await lock('author', path);
  await ask('author', 'PUT', path, { body: docxOf('one'), headers: withToken(first) });
  await unlock('author', path, first);
  const agent = await server.as('author');
  const address = `/api/v1/documents/${id}/checkout`;
  await (await server.as('author2')).post(`${address}/keep`).expect(409);
  expect((await agent.post(`${address}/keep`).expect(200)).body).toMatchObject({ saves: 1, toFinish: null });
  const second = await lock('author', path);
  expect(await custodyOf(id)).toMatchObject({ toFinish: null });
  await ask('author', 'UNLOCK', path, { headers: { 'Lock-Token': second } });
  expect((await custodyOf(id))?.toFinish).not.toBeNull();
  const unread = async (): Promise<string[]> => {
    const { body } = await agent.get('/api/v1/notices');
    return (body as NoticeList).items
      .filter(({ document, read }) => document.id === id && !read)
      .map(({ text }) => /saved (\w+ ?\w*) and/.exec(text)?.[1] ?? '');
  };
  expect(await unread()).toEqual(['once']);
  // Saved again, it is asked anew, and what was asked before is done with.
  const third = await lock('author', path);
  await ask('author', 'PUT', path, { body: docxOf('two'), headers: withToken(third) });
  await unlock('author', path, third);
  expect(await unread()).toEqual(['2 times']);
  await agent.delete(address).expect(204);
  expect(await custodyOf(id)).toBeNull();
});

test('closed with nothing saved it is free again, if the program had checked it out itself', async () => {
  const { path, id } = await filed();
  await unlock('author', path, await lock('author', path));
  expect(await custodyOf(id)).toBeNull();
  const agent = await server.as('author');
  await agent.post(`/api/v1/documents/${id}/checkout`).send({ reason: 'Wording' }).expect(201);
  await unlock('author', path, await lock('author', path));
  expect(await custodyOf(id)).toMatchObject({ mine: true, door: 'web', reason: 'Wording', toFinish: null });
});

test('where the rules have it so, what a program closes is a draft by itself; held before, it stays held', async () => {
  const { path, id } = await filed({ closedInProgram: 'checksIn' });
  const first = await lock('author', path);
  await ask('author', 'PUT', path, { body: docxOf('one'), headers: withToken(first) });
  await unlock('author', path, first);
  expect(await custodyOf(id)).toBeNull();
  expect((await documentOf(id)).latest).toMatchObject({ label: '1.1', comment: 'Saved in its own program' });
  const agent = await server.as('author');
  await agent.post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  const second = await lock('author', path, { Timeout: 'Second-60' });
  await ask('author', 'PUT', path, { body: docxOf('two'), headers: withToken(second) });
  server.pass(1);
  await closeLeftOpen(server.context);
  expect((await documentOf(id)).latest.label).toBe('1.2');
  expect(await custodyOf(id)).toMatchObject({
    mine: true,
    base: '1.2',
    saves: 0,
    openUntil: null,
    toFinish: null,
  });
  // What the holder is to be asked first is asked: here whether the same again is to be a version.
  const third = await lock('author', path);
  await ask('author', 'PUT', path, { body: docxOf('other'), headers: withToken(third) });
  await ask('author', 'PUT', path, { body: docxOf('two'), headers: withToken(third) });
  await unlock('author', path, third);
  expect((await custodyOf(id))?.toFinish).not.toBeNull();
  expect(await server.labels(id)).toEqual(['1.2', '1.1', '1.0']);
});

test('held by one, others are told by whom, change nothing, and read what was there', async () => {
  const { path, id } = await filed({ custody: 'optional' });
  const token = await lock('author', path);
  for (const [method, asking] of [
    ['LOCK', { body: lockBody() }],
    ['PUT', { body: docxOf('mine') }],
    ['PUT', { body: docxOf('mine'), headers: withToken(token) }],
  ] as const) {
    const answer = await ask('author2', method, path, asking);
    // A token of another's is no condition that holds.
    expect([method, answer.status]).toEqual([method, 'headers' in asking ? 412 : 423]);
    if (answer.status === 423) expect(answer.text).toContain('A. author holds');
  }
  const told = (await ask('author2', 'PROPFIND', path, { headers: { Depth: '0' } })).text;
  expect(told).toContain('<D:owner>A. author</D:owner>');
  expect(told).not.toContain('locktoken');
  expect((await ask('author', 'PROPFIND', path, { headers: { Depth: '0' } })).text).toContain(token);
  expect((await unlock('author2', path, token)).status).toBe(409);
  expect(await custodyOf(id)).toMatchObject({ holder: { account: 'author' }, saves: 0 });
});

test('one program of the holder’s has it at a time; the lock is taken back, refreshed, or over', async () => {
  const { path, id } = await filed();
  const token = await lock('author', path, { Timeout: 'Second-60' });
  expect((await ask('author', 'LOCK', path, { body: lockBody() })).status).toBe(423);
  expect((await ask('author', 'PUT', path, { body: docxOf('x') })).status).toBe(423);
  const refreshed = { headers: { ...withToken(token), Timeout: 'Second-600' } };
  const again = await ask('author', 'LOCK', path, refreshed);
  expect([again.status, again.text]).toEqual([
    200,
    expect.stringContaining('<D:timeout>Second-600</D:timeout>'),
  ]);
  expect((await ask('author', 'LOCK', path, { headers: { If: '(<urn:uuid:none>)' } })).status).toBe(412);
  await ask('author', 'PUT', path, { body: docxOf('one'), headers: withToken(token) });
  // A program that is gone is closed by its holder in the page; the token is worth nothing then.
  const agent = await server.as('author');
  await (await server.as('author2')).delete(`/api/v1/documents/${id}/checkout/lock`).expect(409);
  await agent.delete(`/api/v1/documents/${id}/checkout/lock`).expect(204);
  expect((await custodyOf(id))?.toFinish).not.toBeNull();
  expect((await ask('author', 'PUT', path, { body: docxOf('two'), headers: withToken(token) })).status).toBe(
    412,
  );
  // And one that says nothing until its time is over is closed then.
  const last = await lock('author', path, { Timeout: 'Second-60' });
  await closeLeftOpen(server.context);
  expect((await custodyOf(id))?.openUntil).not.toBeNull();
  server.pass(1);
  // Over it counts no more, also before it is looked for.
  const late = await ask('author', 'PUT', path, { body: docxOf('late'), headers: withToken(last) });
  expect([late.status, (await custodyOf(id))?.openUntil]).toEqual([412, null]);
  await closeLeftOpen(server.context);
  expect(await custodyOf(id)).toMatchObject({ openUntil: null, toFinish: server.now.toISOString() });
  expect((await unlock('author', path, last)).status).toBe(409);
});

test('a controller lifts what a program holds: its token is worth nothing, its saves are set aside', async () => {
  const { path, id } = await filed();
  const token = await lock('author', path);
  await ask('author', 'PUT', path, { body: docxOf('kept'), headers: withToken(token) });
  const controller = await server.as('controller');
  await controller.post(`/api/v1/documents/${id}/checkout/lift`).send({ reason: 'On leave' }).expect(200);
  expect((await ask('author', 'PUT', path, { body: docxOf('late'), headers: withToken(token) })).status).toBe(
    412,
  );
  const { files } = await deskOf('author');
  expect(files.find(({ document }) => document?.id === id)).toMatchObject({ kind: 'setAside' });
  const [, ...onDesk] = await drive.list('author', '/dav/Desk/');
  const { fileName } = files.find(({ kind }) => kind === 'setAside') ?? {};
  const href = onDesk.find((one) => named(one) === fileName)?.href ?? '';
  expect((await ask('author', 'DELETE', href)).status).toBe(409);
  expect((await ask('author', 'PUT', href, { body: docxOf('x') })).status).toBe(409);
});

test('without a lock a file is a new version where the rules let it be, else it is refused as locked', async () => {
  const required = await filed({ custody: 'required' });
  const refused = await ask('author', 'PUT', required.path, { body: docxOf('x') });
  expect([refused.status, refused.text]).toEqual([423, expect.stringContaining('Check the document out')]);
  const commented = await filed({ custody: 'optional', checkInComment: 'required' });
  expect((await ask('author', 'PUT', commented.path, { body: docxOf('x') })).status).toBe(422);
  const free = await filed({ custody: 'optional', checkInComment: 'optional' });
  const tag = (await ask('author', 'HEAD', free.path)).headers.get('etag') ?? '';
  const put = await ask('author', 'PUT', free.path, { body: docxOf('x'), headers: { 'If-Match': tag } });
  expect(put.status).toBe(204);
  expect((await documentOf(free.id)).latest).toMatchObject({ label: '1.1', state: 'draft' });
  // Edited from what is not there any more.
  const stale = await ask('author', 'PUT', free.path, { body: docxOf('y'), headers: { 'If-Match': tag } });
  expect(stale.status).toBe(412);
  expect((await ask('author', 'PUT', free.path, { body: 'no zip' })).status).toBe(422);
  expect((await ask('reader', 'PUT', free.path, { body: docxOf('z') })).status).toBe(403);
  expect((await ask('reader', 'LOCK', free.path, { body: lockBody() })).status).toBe(403);
  expect(await server.labels(free.id)).toEqual(['1.1', '1.0']);
});

test('a new file is an arrival of its author’s, with what its place says of it; nobody else finds it', async () => {
  const { code, library } = await filed();
  const folder = `/dav/${code}/weather/`;
  expect((await ask('author', 'PUT', `${folder}New.txt`, { body: 'x' })).status).toBe(409);
  expect((await ask('author', 'MKCOL', folder)).status).toBe(201);
  expect(
    (await ask('author', 'PUT', `${folder}Closing%20for%20gales.txt`, { body: 'At 90 km/h' })).status,
  ).toBe(201);
  const { files } = await deskOf('author');
  const arrival = files.find(({ fileName }) => fileName === 'Closing for gales.txt');
  expect(arrival).toMatchObject({
    kind: 'arrival',
    meantFor: { library: { id: library }, fields: { title: 'Closing for gales', subject: ['weather'] } },
  });
  expect((await ask('author', 'GET', `${folder}Closing%20for%20gales.txt`)).text).toBe('At 90 km/h');
  expect((await ask('author2', 'GET', `${folder}Closing%20for%20gales.txt`)).status).toBe(404);
  expect((await drive.walk('author2', `/dav/${code}/`)).said).not.toContain('gales');
  // Registered it is the library's, at the address that says so, and no more of one's own.
  const agent = await server.as('author');
  const fields = { title: 'Closing for gales', subject: ['weather'] };
  await agent
    .post(`/api/v1/desk/files/${arrival?.id}/register`)
    .send({ library, fields, comment: 'First', level: 'major' })
    .expect(201);
  const [, ...inside] = await drive.list('author', folder);
  expect(inside.map(named)).toEqual([expect.stringMatching(/-002 Closing for gales\.txt$/)]);
  expect((await ask('reader', 'PUT', `/dav/${code}/mine.txt`, { body: 'x' })).status).toBe(403);
  expect((await ask('reader', 'MKCOL', `/dav/${code}/mine`)).status).toBe(403);
});

test('what editors keep while they work becomes no document, and goes after a day', async () => {
  const { code, path, id } = await filed();
  const before = (await deskOf('author')).files.length;
  const names = ['~$Opening.docx', '.~lock.x.odt#', 'x.txt~', 'A1B2C3D4', '.x.swp', 'y.tmp', 'Empty.docx'];
  for (const name of names) {
    const body = name === 'Empty.docx' ? '' : 'for a while';
    const at = `/dav/${code}/${encodeURIComponent(name)}`;
    expect([name, (await ask('author', 'PUT', at, { body })).status]).toEqual([name, 201]);
  }
  const shown = async (): Promise<string[]> => {
    const [, ...inside] = await drive.list('author', `/dav/${code}/`);
    return inside.map(named);
  };
  expect(await shown()).toEqual(expect.arrayContaining(names));
  expect((await deskOf('author')).files).toHaveLength(before);
  // An editor that writes beside the document, puts the old one aside, and the new one in its place.
  const token = await lock('author', path);
  const body = docxOf('written beside');
  const beside = `/dav/${code}/z.tmp`;
  await ask('author', 'PUT', beside, { body });
  const to = (destination: string) => ({
    headers: { Destination: drive.base + destination, ...withTokenOf(path, token) },
  });
  expect((await ask('author', 'MOVE', path, to(`/dav/${code}/z.bak`))).status).toBe(201);
  expect((await ask('author', 'MOVE', beside, to(path))).status).toBe(204);
  expect(await custodyOf(id)).toMatchObject({ saves: 1, workingCopy: { size: body.length } });
  expect(await shown()).not.toContain('z.tmp');
  server.pass(25);
  await sweep(server.context);
  expect((await shown()).filter((name) => names.includes(name))).toEqual([]);
});
const withTokenOf = (path: string, token: string) => ({ If: `<${drive.base}${path}> (<${token}>)` });

test('documents are neither removed, moved nor renamed here; a copy of one is a private copy on the Desk', async () => {
  const { code, path, id } = await filed();
  const to = (destination: string) => ({ headers: { Destination: drive.base + destination } });
  for (const [method, asking] of [
    ['DELETE', {}],
    ['MOVE', to(`/dav/${code}/Other.docx`)],
    ['MOVE', to('/dav/Desk/Other.docx')],
  ] as const) {
    const answer = await ask('controller', method, path, asking);
    expect([method, answer.status, answer.text]).toEqual([
      method,
      403,
      expect.stringContaining('in the page'),
    ]);
  }
  expect((await ask('controller', 'DELETE', `/dav/${code}/`)).status).toBe(403);
  expect((await ask('controller', 'DELETE', '/dav/Desk/')).status).toBe(403);
  expect((await ask('author', 'COPY', path, to('/dav/Desk/Mine.docx'))).status).toBe(201);
  expect((await ask('author', 'COPY', path, to('/elsewhere/Mine.docx'))).status).toBe(502);
  const mine = (await deskOf('author')).files.find(({ document }) => document?.id === id);
  expect(mine).toMatchObject({ kind: 'looseCopy', base: '1.0' });
  const patch =
    '<D:propertyupdate xmlns:D="DAV:"><D:set><D:prop><z:c xmlns:z="urn:z">red</z:c></D:prop></D:set></D:propertyupdate>';
  const props = await ask('author', 'PROPPATCH', path, { body: patch });
  expect([props.status, props.text]).toEqual([207, expect.stringContaining('403 Forbidden')]);
  expect(await server.labels(id)).toEqual(['1.0']);
});

test('the version tree of a document is told by REPORT (RFC 3253, 3.7), as far as one sees it', async () => {
  const { code, path, id } = await filed();
  await server.change(id, 'A draft');
  const body =
    '<D:version-tree xmlns:D="DAV:"><D:prop><D:version-name/><D:creator-displayname/><D:comment/></D:prop></D:version-tree>';
  const tree = async (account: string) => {
    const { status, text } = await ask(account, 'REPORT', path, { body });
    expect(status).toBe(207);
    return readMultistatus(text).map(({ href, properties }) => [
      decodeURIComponent(href),
      ...[...properties.values()].map((one) => one.text),
    ]);
  };
  const history = `/dav/${code}/versions/${code}-001`;
  const first = [`${history}/1.0 Opening the line.docx`, '1.0', 'A. author', 'First'];
  expect(await tree('reader')).toEqual([first]);
  expect(await tree('author')).toEqual([
    [`${history}/1.1 Opening the line.docx`, '1.1', 'A. author', 'Now A draft'],
    first,
  ]);
  expect((await ask('author', 'REPORT', path, { body: '<D:expand-property xmlns:D="DAV:"/>' })).status).toBe(
    403,
  );
});

test('a document tells which version it is at, and which one its holder began from (RFC 3253, 3.2.1, 4.2.1)', async () => {
  const { code, path, id } = await filed();
  const body =
    '<D:propfind xmlns:D="DAV:"><D:prop><D:checked-in/><D:checked-out/><D:supported-report-set/></D:prop></D:propfind>';
  /** Of the two, what is told with 200, and whose content stands there. */
  const at = async (account: string): Promise<string[]> => {
    const { status, text } = await ask(account, 'PROPFIND', path, { body, headers: { Depth: '0' } });
    expect([status, text]).toEqual([207, expect.stringContaining('<D:version-tree/>')]);
    const told = [...(readMultistatus(text)[0]?.properties ?? [])].filter(
      ([name, one]) => name !== 'supported-report-set' && one.status.includes('200'),
    );
    return told.map(([name, one]) => `${name} ${decodeURIComponent(one.text)}`);
  };
  const version = (label: string): string =>
    `/dav/${code}/versions/${code}-001/${label} Opening the line.docx`;
  expect(await at('author')).toEqual([`checked-in ${version('1.0')}`]);
  await server.change(id, 'A draft');
  expect(await at('author')).toEqual([`checked-in ${version('1.1')}`]);
  expect(await at('reader')).toEqual([`checked-in ${version('1.0')}`]);
  const drawn = await ask('author', 'GET', encodeURI(version('1.1')));
  expect(drawn.status).toBe(200);
  await (await server.as('author')).post(`/api/v1/documents/${id}/checkout`).send({}).expect(201);
  expect(await at('author')).toEqual([`checked-out ${version('1.1')}`]);
  // The draft it was begun from is none of the reader's business.
  expect(await at('reader')).toEqual([]);
  // It is not among what a program gets that asks for everything (RFC 3253, 3.11).
  const all = await ask('author', 'PROPFIND', path, { headers: { Depth: '0' } });
  expect(all.text).not.toContain('checked-');
});

test('the Desk has room for so much: quotas are told (RFC 4331), and what is over is refused with 507', async () => {
  const asked =
    '<D:propfind xmlns:D="DAV:"><D:prop><D:quota-used-bytes/><D:quota-available-bytes/></D:prop></D:propfind>';
  const quota = async (): Promise<number[]> => {
    const [desk] = await drive.list('controller', '/dav/Desk/', '0', asked);
    return ['quota-used-bytes', 'quota-available-bytes'].map((name) =>
      Number(desk?.properties.get(name)?.text),
    );
  };
  const [, ...none] = await drive.list('controller', '/dav/Desk/');
  expect(none).toEqual([]);
  expect((await ask('reader', 'PUT', '/dav/Desk/a.txt', { body: 'x' })).status).toBe(403);
  const usual = server.context.deskBytes;
  server.context.deskBytes = 100;
  try {
    expect((await ask('controller', 'PUT', '/dav/Desk/a.txt', { body: 'x'.repeat(60) })).status).toBe(201);
    expect(await quota()).toEqual([60, 40]);
    const over = await ask('controller', 'PUT', '/dav/Desk/b.txt', { body: 'x'.repeat(60) });
    expect([over.status, over.text]).toEqual([507, expect.stringContaining('quota-not-exceeded')]);
    expect((await drive.list('controller', '/dav/Desk/')).slice(1).map(named)).toEqual(['a.txt']);
  } finally {
    server.context.deskBytes = usual;
  }
});

test('twenty programs at once: one has it, the others are told who; of one’s own nothing is lost', async () => {
  const { path, id } = await filed();
  const accounts = ['author', 'author2', 'controller'];
  const asked = await Promise.all(
    Array.from({ length: 20 }, (_, index) =>
      ask(accounts[index % 3] ?? '', 'LOCK', path, { body: lockBody() }),
    ),
  );
  expect(asked.map(({ status }) => status).filter((status) => status === 200)).toHaveLength(1);
  expect(asked.filter(({ status }) => status === 423)).toHaveLength(19);
  expect((await custodyOf(id))?.door).toBe('drive');
  const names = Array.from({ length: 20 }, (_, index) => `/dav/Desk/file-${index}.txt`);
  await Promise.all(names.map((each) => ask('author2', 'PUT', each, { body: each })));
  for (const each of names) expect((await ask('author2', 'GET', each)).text).toBe(each);
});

test('methods that change answer of what one may not see as of what is not there', async () => {
  const library = await MarkedLibrary.make(server, { sight: { draft: [], inApproval: [], rejected: [] } });
  const code = await drive.codeOf(library.id);
  const { files } = await drive.walk('controller', `/dav/${code}/`);
  const asking: [string, Asking][] = [
    ['LOCK', { headers: { If: '(<urn:uuid:x>)' } }],
    ['UNLOCK', { headers: { 'Lock-Token': '<urn:uuid:x>' } }],
    ['DELETE', {}],
    ['COPY', { headers: { Destination: `${drive.base}/dav/Desk/got.docx` } }],
    ['MOVE', { headers: { Destination: `${drive.base}/dav/Desk/got.docx` } }],
    ['PROPPATCH', { body: '<D:propertyupdate xmlns:D="DAV:"/>' }],
    ['PUT', { body: 'x', headers: { 'If-Match': '"x"' } }],
    ['MKCOL', { body: 'x' }],
  ];
  for (const account of ['reader', 'author2', 'approver']) {
    const own = new Set((await drive.walk(account, `/dav/${code}/`)).files.map(({ href }) => href));
    const hidden = files.filter(({ href }) => !own.has(href));
    expect(hidden.length).toBeGreaterThan(0);
    for (const [method, said] of asking) {
      for (const { href } of hidden) {
        const nowhere = href.replace(/[^/]+$/, `${code}-999%20None.docx`);
        const answers = await Promise.all([href, nowhere].map((each) => ask(account, method, each, said)));
        const [there, none] = answers.map(({ status, text }) => [
          status,
          text.replaceAll(/\/dav\/[^<"]*/g, ''),
        ]);
        expect([account, method, there]).toEqual([account, method, none]);
      }
    }
  }
});

import { TestDrive } from '../../testing/drive.ts';
import { testServer } from '../../testing/started.ts';

const server = testServer();
const drive = new TestDrive(server);
beforeAll(() => drive.start());
afterAll(() => drive.stop());

const within = (element: string, inside: string): string =>
  `<D:${element} xmlns:D="DAV:">${inside}</D:${element}>`;
const nested = (depth: number): string => `${'<x>'.repeat(depth)}${'</x>'.repeat(depth)}`;
const lockOf = (owner: string): string =>
  within(
    'lockinfo',
    `<D:lockscope><D:exclusive/></D:lockscope><D:locktype><D:write/></D:locktype><D:owner>${owner}</D:owner>`,
  );
const setting = (properties: string): string =>
  within('propertyupdate', `<D:set><D:prop>${properties}</D:prop></D:set>`);
const asking = (properties: string): string => within('propfind', `<D:prop>${properties}</D:prop>`);

test.each([
  ['properties of a namespace of 100,000 signs', asking(`<a xmlns="${'n'.repeat(100_000)}"/>`)],
  ['201 properties', asking('<a xmlns="urn:a"/>'.repeat(201))],
  ['5,000 properties', asking('<a xmlns="urn:a"/>'.repeat(5000))],
  ['a body nested 16,000 deep', asking(nested(16_000))],
  ['an element of 20,000 attributes', asking(`<a ${attributes(20_000)}/>`)],
  ['a name of 100,000 signs', asking(`<${'a'.repeat(100_000)} xmlns=""/>`)],
  ['a document type', `<!DOCTYPE a [<!ENTITY b "c">]>${asking('<a xmlns=""/>')}`],
])('the drive reads of %s no more than it needs to refuse it', async (_, body) => {
  for (const method of ['PROPFIND', 'PROPPATCH', 'REPORT', 'LOCK']) {
    const answer = await drive.ask('reader', '/dav/', { method, headers: { Depth: '1' }, body });
    expect([400, 403]).toContain(answer.status);
    expect((await answer.text()).length).toBeLessThan(2000);
  }
});

function attributes(count: number): string {
  return Array.from({ length: count }, (_, index) => `a${index}=""`).join(' ');
}

test('what is said of each file is as long as what is asked, and sent as it is made', async () => {
  const library = await server.library();
  const code = await drive.codeOf(library);
  await server.document(library, 'Words', { title: 'Note', level: 'major' });
  const names = Array.from({ length: 200 }, (_, index) => `<a${index} xmlns="urn:${'n'.repeat(400)}"/>`);
  const headers = { Depth: '1' };
  const body = asking(names.join(''));
  const answer = await drive.ask('reader', `/dav/${code}/`, { method: 'PROPFIND', headers, body });
  expect(answer.status).toBe(207);
  expect(answer.headers.get('content-length')).toBeNull();
  expect(await answer.text()).toMatch(/<\/D:multistatus>$/);
});

test('what programs keep with a file is bounded, and counts to the Desk; nothing of a refused one is kept', async () => {
  const put = (path: string): Promise<Response> =>
    drive.ask('author', path, { method: 'PUT', body: 'words' });
  expect((await put('/dav/Desk/kept.txt')).status).toBe(201);
  const patch = (properties: string): Promise<Response> =>
    drive.ask('author', '/dav/Desk/kept.txt', { method: 'PROPPATCH', body: setting(properties) });
  const value = (name: string, signs: number): string =>
    `<${name} xmlns="urn:p">${'v'.repeat(signs)}</${name}>`;
  expect((await patch(value('a', 15_000))).status).toBe(207);
  expect((await patch(value('b', 17_000))).status).toBe(400);
  // As it is written back, each inner element with its namespace.
  expect((await patch(`<c xmlns="urn:${'n'.repeat(400)}">${'<d/>'.repeat(100)}</c>`)).status).toBe(400);
  const many = Array.from({ length: 101 }, (_, index) => value(`m${index}`, 1)).join('');
  expect((await patch(many)).status).toBe(507);
  const [, own] = await drive.list(
    'author',
    '/dav/Desk/',
    '1',
    asking('<a xmlns="urn:p"/><b xmlns="urn:p"/>'),
  );
  expect(own?.properties.get('urn:p a')?.text).toHaveLength(15_000);
  expect(own?.properties.get('urn:p b')?.status).toContain('404');
  const quota = async (): Promise<number> => {
    const [root] = await drive.list('author', '/dav/Desk/', '0', asking('<D:quota-used-bytes/>'));
    return Number(root?.properties.get('quota-used-bytes')?.text);
  };
  const before = await quota();
  expect(before).toBeGreaterThan(15_000);
  await patch(value('e', 10_000));
  expect((await quota()) - before).toBeGreaterThan(10_000);
});

test('the owner of a lock is kept up to what is kept, and one that is longer is refused, never a 500', async () => {
  const lock = (owner: string, path = '/dav/Desk/locked.txt'): Promise<Response> =>
    drive.ask('author', path, { method: 'LOCK', body: lockOf(owner) });
  expect((await lock('ö'.repeat(20_000))).status).toBe(400);
  expect((await lock('<x/>'.repeat(900).replaceAll('x', `x xmlns="urn:${'n'.repeat(100)}"`))).status).toBe(
    400,
  );
  expect((await lock('ö'.repeat(15_000))).status).toBe(201);
});

test('folders count to what a Desk holds', async () => {
  const folder = async (index: number): Promise<number> =>
    (await drive.ask('author2', `/dav/Desk/f${index}`, { method: 'MKCOL' })).status;
  const { id } = await server.caller('author2');
  await server.context.db.query(
    `INSERT INTO own_places (id, person_id, path, depth, created_at, properties)
     SELECT UUID(), :id, CONCAT('Desk/given', seq), 2, NOW(), '[]' FROM seq_1_to_999`,
    { replacements: { id } },
  );
  expect(await folder(1)).toBe(201);
  expect(await folder(2)).toBe(507);
});

test('locks of one person are bounded', async () => {
  const { id } = await server.caller('controller');
  await server.context.db.query(
    `INSERT INTO own_locks (token, person_id, path, deep, shared, owner, until_at)
     SELECT CONCAT('urn:t', seq), :id, CONCAT('Desk/x', seq), 0, 0, '', :until FROM seq_1_to_500`,
    { replacements: { id, until: new Date(server.now.getTime() + 3_600_000) } },
  );
  const answer = await drive.ask('controller', '/dav/Desk/more.txt', { method: 'LOCK', body: lockOf('x') });
  expect(answer.status).toBe(507);
});

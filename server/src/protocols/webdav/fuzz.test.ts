import fc from 'fast-check';
import { TestDrive } from '../../testing/drive.ts';
import { docxOf } from '../../testing/files.ts';
import { testServer } from '../../testing/started.ts';

const server = testServer();
const drive = new TestDrive(server);
let paths: string[];
beforeAll(async () => {
  await drive.start();
  const library = await server.library({ custody: 'optional', checkInComment: 'optional' });
  const { number } = await server.document(library, 'A text', { title: 'Note', level: 'major' });
  const code = await drive.codeOf(library);
  const file = `/dav/${code}/${number}%20Note.docx`;
  const history = `/dav/${code}/versions/${number}/`;
  const own = [
    '/dav/Desk/a',
    '/dav/Desk/a/b.txt',
    '/dav/Desk/c.tmp',
    `/dav/${code}/new/x.txt`,
    `/dav/${code}/new`,
  ];
  const others = [
    '/dav/',
    '/dav/Desk/',
    `/dav/${code}/`,
    `/dav/${code}/versions/`,
    '/dav/NONE/x',
    '/dav/%ff',
  ];
  paths = [file, history, `${history}1.0%20Note.docx`, ...own, ...others];
});
afterAll(() => drive.stop());

const methods =
  'OPTIONS PROPFIND PROPPATCH REPORT LOCK UNLOCK GET HEAD PUT DELETE MKCOL COPY MOVE POST'.split(' ');
const lock = (scope: string): string =>
  `<D:lockinfo xmlns:D="DAV:"><D:lockscope><D:${scope}/></D:lockscope><D:locktype><D:write/></D:locktype></D:lockinfo>`;
const bodies = [
  '',
  'words',
  lock('exclusive'),
  lock('shared'),
  lock('none'),
  '<D:propfind xmlns:D="DAV:"><D:allprop/></D:propfind>',
  '<D:propfind xmlns:D="DAV:"><D:prop><x xmlns=""/></D:prop></D:propfind>',
  '<D:propertyupdate xmlns:D="DAV:"><D:set><D:prop><z xmlns="urn:z" a="1">x<y/></z></D:prop></D:set></D:propertyupdate>',
  '<D:version-tree xmlns:D="DAV:"><D:prop/></D:version-tree>',
  '<open',
  docxOf('Another text'),
];

/** Headers that methods listen to, with what they take and what they do not; a few at once. */
function headersOf(tokens: readonly string[]): fc.Arbitrary<Record<string, string>> {
  const each: Record<string, fc.Arbitrary<string>> = {
    Depth: fc.constantFrom('0', '1', 'infinity', '2', ''),
    Timeout: fc.constantFrom('Second-10', 'Infinite', 'Second-99999999999', 'soon'),
    Overwrite: fc.constantFrom('T', 'F', 'x'),
    Destination: fc.oneof(
      fc.constantFrom(...paths).map((path) => drive.base + path),
      fc.constantFrom('/dav/Desk/d', 'http://elsewhere.invalid/dav/x', 'nowhere', ''),
    ),
    If: fc.oneof(
      fc.constantFrom(...tokens, 'urn:uuid:none').map((token) => `(<${token}>)`),
      fc.constantFrom('(Not <DAV:no-lock>)', '(["x"])', '<', '()'),
    ),
    'Lock-Token': fc.constantFrom(...tokens.map((token) => `<${token}>`), '<urn:uuid:none>', 'x'),
    'If-Match': fc.constantFrom('*', '"x"', 'W/"x"'),
    'If-None-Match': fc.constantFrom('*', '"x"'),
    Range: fc.constantFrom('bytes=0-1', 'bytes=9-1', 'words'),
    'Content-Range': fc.constantFrom('bytes 0-1/2'),
  };
  const none = (weight: number) => ({ weight, arbitrary: fc.constant<string | undefined>(undefined) });
  const some = Object.entries(each).map(([name, arbitrary]) => [
    name,
    fc.oneof(none(name === 'Depth' ? 1 : 4), { weight: 1, arbitrary }),
  ]);
  return fc
    .record(Object.fromEntries(some) as Record<string, fc.Arbitrary<string | undefined>>)
    .map((chosen) =>
      Object.fromEntries(
        Object.entries(chosen).flatMap(([name, value]) => (value === undefined ? [] : [[name, value]])),
      ),
    );
}

test('no request of a program, nor one that is near it, is answered with a fault of ours', async () => {
  const tokens: string[] = [];
  const statuses = new Map<number, number>();
  const runs = Math.ceil(Number(process.env['POLYCHRON_FUZZ_REQUESTS'] ?? 300) / 4);
  const plain = { account: 'author', headers: {} as Record<string, string> };
  // What is sure to be done comes first: there is something to come near to.
  const first = [
    { ...plain, method: 'MKCOL', path: '/dav/Desk/a', body: '' },
    { ...plain, method: 'PUT', path: '/dav/Desk/a/b.txt', body: 'words' },
    { ...plain, method: 'LOCK', path: paths[0] ?? '', body: lock('exclusive') },
    { ...plain, method: 'LOCK', path: paths[0] ?? '', body: lock('exclusive') },
  ];
  for (let run = 0; run < runs; run += 1) {
    const [sampled] = fc.sample(
      fc.record({
        account: fc.constantFrom('author', 'author', 'author2', 'reader', 'controller', 'stranger'),
        method: fc.constantFrom(...methods),
        path: fc.constantFrom(...paths),
        headers: headersOf(tokens),
        body: fc.constantFrom(...bodies),
      }),
      1,
    );
    const asked = first[run] ?? sampled;
    if (!asked) throw new Error('nothing to ask');
    const { account, method, path, headers, body } = asked;
    const sent = ['GET', 'HEAD'].includes(method) ? {} : { body };
    const answer = await drive.ask(account, path, {
      method,
      headers,
      ...sent,
    });
    const text = await answer.text();
    statuses.set(answer.status, (statuses.get(answer.status) ?? 0) + 1);
    const token = /^<(.*)>$/.exec(answer.headers.get('lock-token') ?? '')?.[1];
    if (token !== undefined) tokens.push(token);
    // 502 and 507 are refusals here: another server, and no room.
    const isFault = answer.status >= 500 && ![502, 507].includes(answer.status);
    expect([asked, isFault ? text : '']).toEqual([asked, '']);
  }
  // It reaches past the door: acts are done, and refused by what there is.
  const count = (...some: number[]): number => some.reduce((sum, one) => sum + (statuses.get(one) ?? 0), 0);
  expect(count(201, 204)).toBeGreaterThan(0);
  expect(count(403, 409, 412, 423)).toBeGreaterThan(0);
});

import { docxOf } from '../../testing/files.ts';
import { named, readMultistatus, TestDrive } from '../../testing/drive.ts';
import { testServer } from '../../testing/started.ts';
import { segmentOf } from './segment.ts';

const server = testServer();
const drive = new TestDrive(server);
beforeAll(() => drive.start());
afterAll(() => drive.stop());
const name = "Wind & rain, a+b=c (new); 2 @ the gale's $5!";

test('an address is told as clients write it (RFC 3986, 3.3; WHATWG URL), and taken in any spelling', async () => {
  expect(segmentOf(name)).toBe(new URL(name, 'http://drive.example/').pathname.slice(1));
  expect(segmentOf('50% of #3? [a]/ü')).toBe('50%25%20of%20%233%3F%20%5Ba%5D%2F%C3%BC');

  const library = await server.library();
  const { number } = await server.document(library, 'The text', { title: name, level: 'major' });
  const folder = `/dav/${await drive.codeOf(library)}/`;
  const listed = await drive.ask('author', folder, { method: 'PROPFIND', headers: { Depth: '1' } });
  const file = readMultistatus(await listed.text()).find((each) => named(each).startsWith(number));
  const told = file?.href ?? '';
  expect(told).toBe(`${folder}${segmentOf(`${number} ${name}.docx`)}`);

  // Locked under one spelling, saved under others: every sign encoded, or in small hexadecimal digits.
  const lock = await drive.ask('author', told, {
    method: 'LOCK',
    body: '<lockinfo xmlns="DAV:"><lockscope><exclusive/></lockscope><locktype><write/></locktype></lockinfo>',
  });
  expect(lock.status).toBe(200);
  const token = (lock.headers.get('lock-token') ?? '').slice(1, -1);
  const every =
    folder +
    Buffer.from(decodeURIComponent(told.slice(folder.length)))
      .toString('hex')
      .replace(/../g, '%$&');
  const encoded = folder + encodeURIComponent(decodeURIComponent(told.slice(folder.length)));
  for (const [at, tagged] of [
    [every, told],
    [encoded, every],
    [told, encoded],
  ] as const) {
    const put = await drive.ask('author', at, {
      method: 'PUT',
      body: docxOf(`saved ${at.length} ${tagged.length}`),
      headers: { If: `<${tagged}> (<${token}>)` },
    });
    expect([at, put.status]).toEqual([at, 204]);
  }
});

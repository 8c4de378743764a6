import type * as contract from '@polychron/contract';
import { TestDrive } from '../testing/drive.ts';
import { docxOf } from '../testing/files.ts';
import { testServer } from '../testing/started.ts';

const server = testServer();
const drive = new TestDrive(server);
beforeAll(() => drive.start());
afterAll(() => drive.stop());

const changeCode = async (id: string, code: string, account = 'controller') =>
  (await server.as(account)).patch(`/api/v1/libraries/${id}`).send({ code });
/** Libraries one sees, by id. */
const seen = async (account = 'reader'): Promise<Map<string, contract.Library>> => {
  const answer = await (await server.as(account)).get('/api/v1/libraries').expect(200);
  const { items } = answer.body as { items: contract.Library[] };
  return new Map(items.map((one) => [one.id, one]));
};
const titled = (title: string) => server.document(library, 'text', { title, level: 'major' });
let library: string;
let code: string;
beforeEach(async () => {
  library = await server.library();
  code = await drive.codeOf(library);
});

test('a library has the codes of before beside its new one, and no other library gets one of them', async () => {
  const { number } = await titled('Opening the line');
  expect((await changeCode(library, 'ROPE', 'author')).body).toMatchObject({ status: 403 });
  expect((await changeCode(library, 'DESK')).body).toMatchObject({ status: 422, code: 'invalid-input' });
  expect((await changeCode(library, 'ROPE')).body).toMatchObject({ code: 'ROPE', formerCodes: [code] });
  expect((await seen()).get(library)).toMatchObject({ code: 'ROPE', formerCodes: [code] });
  // Numbers stay.
  expect((await titled('Closing the line')).number).not.toBe(number);
  const other = await server.library();
  for (const taken of [code, 'ROPE']) {
    expect((await changeCode(other, taken)).body).toMatchObject({ status: 409, code: 'code-taken' });
    const made = await (
      await server.as('admin')
    )
      .post('/api/v1/libraries')
      .send({ name: 'New', code: taken });
    expect(made.body).toMatchObject({ status: 409, code: 'code-taken' });
  }
  // Its own one of before it may have again.
  expect((await changeCode(library, code)).body).toMatchObject({ code, formerCodes: ['ROPE'] });
  expect((await changeCode(library, code)).body).toMatchObject({ code, formerCodes: ['ROPE'] });
});

test('of two that want one code at once, one gets it', async () => {
  const other = await server.library();
  const answers = await Promise.all([
    changeCode(library, 'CABLE'),
    changeCode(other, 'CABLE'),
    (await server.as('admin')).post('/api/v1/libraries').send({ name: 'New', code: 'CABLE' }),
  ]);
  expect(answers.filter(({ status }) => status < 300)).toHaveLength(1);
  for (const { status, body } of answers)
    if (status >= 300) expect(body).toMatchObject({ code: 'code-taken' });
  const called = [...(await seen('admin')).values()].filter((one) => one.code === 'CABLE');
  expect(called).toHaveLength(1);
});

test('programs are led on from addresses with the code of before, with what they keep there', async () => {
  const { number } = await titled('Opening the line');
  const path = `${encodeURIComponent(`${number} Opening the line.docx`)}`;
  await drive.ask('author', `/dav/${code}/mine.docx`, { method: 'PUT', body: docxOf('mine') });
  await changeCode(library, 'ROPE2');
  const led = await drive.ask('author', `/dav/${code}/${path}`, { redirect: 'manual' });
  expect(led.status).toBe(308);
  expect(led.headers.get('location')).toBe(`/dav/ROPE2/${path}`);
  const folder = await drive.ask('author', `/dav/${code}/`, { method: 'PROPFIND', redirect: 'manual' });
  expect(folder.headers.get('location')).toBe('/dav/ROPE2/');
  expect((await drive.ask('reader', `/dav/${code}/${path}`)).status).toBe(200);
  // Whoever is in no such library is not told that there is one.
  const stranger = await drive.ask('stranger', `/dav/${code}/${path}`, { redirect: 'manual' });
  const unknown = await drive.ask('stranger', `/dav/NEVER/${path}`, { redirect: 'manual' });
  expect([stranger.status, await stranger.text()]).toEqual([
    unknown.status,
    (await unknown.text()).replace('NEVER', code),
  ]);
  // The site lists the new one alone; what one keeps there for oneself has moved along.
  const listed = async (address: string): Promise<string[]> =>
    (await drive.list('author', address)).map(({ href }) => href);
  expect(await listed('/dav/')).toContain('/dav/ROPE2/');
  expect(await listed('/dav/')).not.toContain(`/dav/${code}/`);
  expect(await listed('/dav/ROPE2')).toContain('/dav/ROPE2/mine.docx');
  // A program that only knows the address of before puts what it has where it belongs.
  const copied = await drive.ask('author', `/dav/ROPE2/mine.docx`, {
    method: 'COPY',
    headers: { Destination: `${drive.base}/dav/${code}/yours.docx` },
  });
  expect(copied.status).toBe(201);
  expect(await listed('/dav/ROPE2')).toContain('/dav/ROPE2/yours.docx');
});

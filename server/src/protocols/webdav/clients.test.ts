import { type ChildProcessWithoutNullStreams, execFile, execFileSync, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import type { Desk, Document } from '@polychron/contract';
import { readDocx } from '@polychron/core';
import { TestDrive } from '../../testing/drive.ts';
import { testServer } from '../../testing/started.ts';

const server = testServer();
const drive = new TestDrive(server);
const folder = mkdtempSync(join(tmpdir(), 'polychron-clients-'));
const running = new Set<ChildProcessWithoutNullStreams>();
beforeAll(() => drive.start());
afterAll(async () => {
  drive.stop();
  for (const suite of running) {
    // Only what did not close by itself; with what it started.
    if (suite.pid) process.kill(-suite.pid);
    await once(suite, 'exit');
  }
  rmSync(folder, { recursive: true });
});

/** litmus 0.13, Debian's conformance tests of WebDAV servers: its suites, and how many of each passed. */
async function litmus(path: string): Promise<string[]> {
  const asked = ['-k', drive.base + path, 'author', await drive.secretOf('author')];
  // It says by its status that something failed; what did is in what it printed.
  const { stdout } = await promisify(execFile)('litmus', asked, { cwd: folder }).catch(
    (error: { stdout: string }) => error,
  );
  return stdout.split('\n').filter((line) => /FAIL|WARNING|^<- summary/.test(line));
}
const whole = [
  "<- summary for `basic': of 16 tests run: 16 passed, 0 failed. 100.0%",
  "<- summary for `copymove': of 13 tests run: 13 passed, 0 failed. 100.0%",
  "<- summary for `props': of 30 tests run: 30 passed, 0 failed. 100.0%",
  "<- summary for `locks': of 41 tests run: 41 passed, 0 failed. 100.0%",
  "<- summary for `http': of 4 tests run: 4 passed, 0 failed. 100.0%",
];

test('litmus passes on the Desk of who works in a library', async () => {
  await server.library();
  expect(await litmus('/dav/Desk/')).toEqual(whole);
}, 120_000);

test('litmus passes in a library of optional custody', async () => {
  const library = await server.library({ custody: 'optional' });
  await server.document(library, 'There already');
  expect(await litmus(`/dav/${await drive.codeOf(library)}/`)).toEqual(whole);
}, 120_000);

/** What an office suite tells of its work, line by line. */
interface Said {
  opened?: boolean;
  readOnly?: boolean;
  text?: string;
  saved?: string;
  closed?: boolean;
}

/** An office suite that has a file of the drive open. */
class Office {
  private readonly suite: ChildProcessWithoutNullStreams;
  private readonly lines: AsyncIterator<string>;

  constructor(asked: { path: string; account: string; secret: string; port: number; sentences: string[] }) {
    const { path, account, secret, port, sentences } = asked;
    const script = join(import.meta.dirname, '../../testing/office.py');
    const profile = join(folder, `office-${port}`);
    const args = [script, drive.base + path, account, secret, profile, String(port), ...sentences];
    this.suite = spawn('/usr/bin/python3', args, { detached: true });
    this.suite.once('exit', () => running.delete(this.suite));
    running.add(this.suite);
    this.lines = createInterface({ input: this.suite.stdout })[Symbol.asyncIterator]();
  }

  async next(): Promise<Said> {
    const { value } = (await this.lines.next()) as { value: string | undefined };
    if (value === undefined) throw new Error('the office suite said no more');
    return JSON.parse(value) as Said;
  }

  async close(): Promise<void> {
    this.suite.stdin.write('\n');
    expect(await this.next()).toEqual({ closed: true });
    if (running.has(this.suite)) await once(this.suite, 'exit');
  }
}

test('an office suite opens, locks, saves and closes; another’s reads only; the Desk asks what becomes of it', async () => {
  const library = await server.library();
  const file = join(folder, 'opening.docx');
  execFileSync('pandoc', ['-f', 'markdown', '-o', file], { input: 'The line is opened by two.' });
  const { body } = await (
    await server.as('author')
  )
    .post(`/api/v1/libraries/${library}/documents`)
    .field({ fields: JSON.stringify({ title: 'Opening' }), comment: 'First', level: 'major' })
    .attach('file', file)
    .expect(201);
  const { id, number } = body as Document;
  const path = `/dav/${await drive.codeOf(library)}/${encodeURIComponent(`${number} Opening.docx`)}`;
  const office = async (account: string, port: number, ...sentences: string[]): Promise<Office> =>
    new Office({ path, account, secret: await drive.secretOf(account), port, sentences });

  const mine = await office('author', 24_101, ' They wait for the wind.', ' They tell the desk.');
  expect(await mine.next()).toEqual({ opened: true });
  expect(await mine.next()).toMatchObject({ readOnly: false, text: 'The line is opened by two.' });
  expect(await mine.next()).toEqual({ saved: ' They wait for the wind.' });
  expect(await mine.next()).toEqual({ saved: ' They tell the desk.' });
  const held = (await (await server.as('author2')).get(`/api/v1/documents/${id}`)).body as Document;
  expect(held.custody).toMatchObject({ holder: { account: 'author' }, door: 'drive', saves: 2 });

  const theirs = await office('author2', 24_102);
  expect(await theirs.next()).toEqual({ opened: false });
  expect(await theirs.next()).toMatchObject({ readOnly: true, text: 'The line is opened by two.' });
  const told = await drive.ask('author2', path, { method: 'PROPFIND', headers: { Depth: '0' } });
  expect(await told.text()).toContain('<D:owner>A. author</D:owner>');
  await theirs.close();
  await mine.close();

  const desk = (await (await server.as('author')).get('/api/v1/desk')).body as Desk;
  const asked = desk.held.find((one) => one.id === id);
  expect(asked?.custody).toMatchObject({ saves: 2, openUntil: null, toFinish: server.now.toISOString() });
  const made = await (
    await server.as('author')
  )
    .post(`/api/v1/documents/${id}/checkin`)
    .field({ comment: 'From the suite', level: 'minor' });
  expect(made.status).toBe(201);
  const bytes = Buffer.from(await (await drive.ask('author', path)).arrayBuffer());
  expect(JSON.stringify(readDocx(bytes))).toContain('They tell the desk.');
}, 240_000);

test('fifty programs save and lock at once: one holder each, and nothing that was taken in is lost', async () => {
  const library = await server.library();
  const code = await drive.codeOf(library);
  const documents = await Promise.all(
    Array.from({ length: 10 }, (_, index) => server.document(library, `Text ${index}`, { title: 'Note' })),
  );
  const body = `<D:lockinfo xmlns:D="DAV:"><D:lockscope><D:exclusive/></D:lockscope><D:locktype><D:write/></D:locktype></D:lockinfo>`;
  const accounts = ['author', 'author2', 'controller'];
  const taken = new Map<string, string>();
  await Promise.all(
    Array.from({ length: 50 }, async (_, index) => {
      const account = accounts[index % accounts.length] ?? '';
      const { id, number } = documents[index % documents.length] as Document;
      const path = `/dav/${code}/${encodeURIComponent(`${number} Note.docx`)}`;
      const lock = await drive.ask(account, path, { method: 'LOCK', body });
      expect([200, 423]).toContain(lock.status);
      const own = `/dav/Desk/kept-${index}.txt`;
      expect((await drive.ask(account, own, { method: 'PUT', body: `kept ${index}` })).status).toBe(201);
      expect(await (await drive.ask(account, own)).text()).toBe(`kept ${index}`);
      if (lock.status === 423) return;
      expect(taken.has(id)).toBe(false);
      taken.set(id, account);
    }),
  );
  expect(taken.size).toBe(documents.length);
  for (const [id, account] of taken) {
    const { custody } = (await (await server.as('author')).get(`/api/v1/documents/${id}`)).body as Document;
    expect(custody?.holder.account).toBe(account);
  }
}, 120_000);

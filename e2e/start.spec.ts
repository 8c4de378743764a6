import { type ChildProcess, execFileSync, spawn, spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import {
  closeSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeSync,
} from 'node:fs';
import https from 'node:https';
import { createConnection } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TLSSocket } from 'node:tls';
import { type APIRequestContext, expect, request, type Route, test } from '@playwright/test';
import { pandocFile, password } from './support.ts';

const port = Number(process.env['POLYCHRON_TEST_PORT'] ?? 4620) + 5;
// With a space, as folders of people have.
const homes = mkdtempSync(join(tmpdir(), 'polychron home '));
test.afterAll(() => rmSync(homes, { recursive: true }));
/** What was started and not stopped, with its data folder: a test that fails leaves the ports to the next. */
const running = new Map<ChildProcess, string>();
test.afterEach(async () => {
  for (const left of running.keys()) await stop(left, 'SIGTERM');
});

/** Where a command of the project runs, on a data folder and our ports. */
function place(folder: string): { cwd: string; env: NodeJS.ProcessEnv } {
  const environment = { ...process.env };
  delete environment['POLYCHRON_DATABASE_URL'];
  return {
    cwd: join(import.meta.dirname, '..'),
    env: {
      ...environment,
      POLYCHRON_HOME: folder,
      POLYCHRON_PORT: `${port}`,
      POLYCHRON_DATABASE_PORT: `${port + 1}`,
      POLYCHRON_TLS_PORT: `${port + 2}`,
    },
  };
}

/** Runs a command of the project to its end: what it printed, errors too. */
function command(folder: string, args: string[], env: NodeJS.ProcessEnv = {}): string {
  const there = place(folder);
  const { stdout, stderr } = spawnSync('npm', ['--silent', ...args], {
    ...there,
    env: { ...there.env, ...env },
  });
  return `${stdout.toString()}${stderr.toString()}`;
}

/** Runs the start command on a data folder of its own until it says it is ready. */
async function start(
  folder: string,
  options: string[] = [],
): Promise<{ command: ChildProcess; printed: string; said: () => string }> {
  const started = spawn('npm', ['start', ...(options.length > 0 ? ['--', ...options] : [])], place(folder));
  let printed = '';
  await new Promise<void>((resolve, reject) => {
    const hear = (part: Buffer): void => {
      printed += part.toString();
      if (printed.includes('is ready on')) resolve();
    };
    started.stdout.on('data', hear);
    started.stderr.on('data', hear);
    started.once('exit', (code) => reject(new Error(`start ended with ${code}: ${printed}`)));
  });
  running.set(started, folder);
  return { command: started, printed, said: () => printed };
}

/** The process of the database whose data are in a folder; null when it has ended in order. */
function databaseOf(folder: string): number | null {
  const file = join(folder, 'pid');
  return existsSync(file) ? Number(readFileSync(file, 'utf8')) : null;
}

/** The process of the server that a start command has started: a child of npm's child. */
function serverOf({ pid }: ChildProcess): number {
  const childrenOf = (parent: number): number[] =>
    readFileSync(`/proc/${parent}/task/${parent}/children`, 'utf8').trim().split(' ').map(Number);
  const [shell] = childrenOf(pid!);
  return childrenOf(shell!).find((child) =>
    readFileSync(`/proc/${child}/cmdline`, 'utf8').includes('main.js'),
  )!;
}

/** Kills the database beneath the running application. */
function killDatabase(folder: string): void {
  process.kill(databaseOf(folder)!, 'SIGKILL');
}

/** Whether anything of what was started still runs: it listens, or the database still writes its last. */
async function lives(database: number | null): Promise<boolean> {
  const listening = await Promise.all([port, port + 1, port + 2].map(listens));
  return listening.includes(true) || (database !== null && existsSync(`/proc/${database}`));
}

/** Ends the start command: asked to, it ends when all it started has; killed, the rest ends soon after. */
async function stop(command: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  const database = databaseOf(running.get(command)!);
  running.delete(command);
  const ended = new Promise((resolve) => {
    command.once('exit', resolve);
  });
  command.kill(signal);
  await ended;
  if (signal === 'SIGTERM') expect(await lives(database)).toBe(false);
  else await expect.poll(() => lives(database), { timeout: 60_000 }).toBe(false);
}

/** The SHA-256 of the certificate that the application shows over TLS, and what it answers there. */
const overTls = (): Promise<{ fingerprint: string; status: number | undefined }> =>
  new Promise((resolve, reject) => {
    const asked = https.get(
      { port: port + 2, host: '127.0.0.1', path: '/healthz', rejectUnauthorized: false, agent: false },
      (answer) => {
        answer.resume();
        const { fingerprint256 } = (answer.socket as TLSSocket).getPeerCertificate();
        resolve({ fingerprint: fingerprint256, status: answer.statusCode });
      },
    );
    asked.on('error', reject);
  });

const listens = (each: number): Promise<boolean> =>
  new Promise((resolve) => {
    const socket = createConnection({ port: each, host: '127.0.0.1' });
    socket.once('connect', () => {
      socket.destroy();
      resolve(true);
    });
    socket.once('error', () => resolve(false));
  });

interface Listed {
  items: {
    id: string;
    code: string;
    number: string;
    label: string;
    sha256: string;
    thinned: object | null;
  }[];
  next: string | null;
}

async function all(api: APIRequestContext, path: string): Promise<Listed['items']> {
  const found: Listed['items'] = [];
  for (let cursor = ''; ;) {
    const page = (await (await api.get(`/api/v1${path}?limit=200${cursor}`)).json()) as Listed;
    found.push(...page.items);
    if (!page.next) return found;
    cursor = `&cursor=${encodeURIComponent(page.next)}`;
  }
}

/**
 * The bytes of every version of every document, by document and label, as far as they are kept; each is
 * checked against its SHA-256.
 */
async function everyVersion(api: APIRequestContext): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for (const { id: libraryId } of ((await (await api.get('/api/v1/libraries')).json()) as Listed).items) {
    for (const document of await all(api, `/libraries/${libraryId}/documents`)) {
      for (const version of (await all(api, `/documents/${document.id}/versions`)).filter(
        ({ thinned }) => thinned === null,
      )) {
        const body = await (
          await api.get(`/api/v1/documents/${document.id}/versions/${version.label}/content`)
        ).body();
        expect(createHash('sha256').update(body).digest('hex')).toBe(version.sha256);
        found.set(`${document.number} ${version.label}`, body.toString('base64'));
      }
    }
  }
  return found;
}

async function signedIn(account = 'controller', secret = password): Promise<APIRequestContext> {
  const api = await request.newContext({ baseURL: `http://127.0.0.1:${port}` });
  expect((await api.post('/api/v1/session', { data: { account, password: secret } })).ok()).toBe(true);
  return api;
}

/** The password of the first account, as the start command printed it. */
const firstSecret = (printed: string): string => /password (\S+),/.exec(printed)?.[1] ?? '';

/** A library of a site that begins without the demo, and a controller who is an author in it too. */
async function begun(printed: string): Promise<{ api: APIRequestContext; library: string }> {
  const admin = await signedIn('admin', firstSecret(printed));
  const data = { account: 'controller', name: 'M. Oduya', password, systemAdministrator: false };
  expect((await admin.post('/api/v1/people', { data })).status()).toBe(201);
  const made = await admin.post('/api/v1/libraries', { data: { name: 'Full', code: 'FUL', rulebook: {} } });
  const { id } = (await made.json()) as { id: string };
  const members = [{ account: 'controller', roles: ['controller', 'author'] }];
  expect((await admin.put(`/api/v1/libraries/${id}/members`, { data: members })).ok()).toBe(true);
  return { api: await signedIn(), library: id };
}

/** What a site begins with: what its start says, who works in it, and where. */
const beginnings = {
  'loads the demo once @deep': {
    options: [],
    says: 'Loading the demo',
    libraryOf: async () => {
      const api = await signedIn();
      const { items } = (await (await api.get('/api/v1/libraries')).json()) as Listed;
      return { api, library: items.find(({ code }) => code === 'OP')?.id ?? '' };
    },
    code: 'OP',
    atLeast: 250,
  },
  'begins with one account': {
    options: ['--empty'],
    says: 'The site is empty',
    libraryOf: (printed: string) => begun(printed),
    code: 'FUL',
    atLeast: 1,
  },
};

for (const [name, { options, says, libraryOf, code, atLeast }] of Object.entries(beginnings))
  test(`the start command ${name}, leaves no process behind, and keeps every byte over a restart of server and database, killed too`, async ({
    page,
  }) => {
    test.setTimeout(900_000);
    const home = mkdtempSync(join(homes, 'one'));
    const first = await start(home, options);
    expect(first.printed).toContain(says);
    expect(first.printed).toContain(`http://127.0.0.1:${port}`);
    const secure = await overTls();
    expect(secure.status).toBe(200);
    expect(first.printed).toContain(secure.fingerprint);
    const { api, library } = await libraryOf(first.printed);
    const path = pandocFile('kept', '# Kept\n\nByte for byte.');
    const made = await api.post(`/api/v1/libraries/${library}/documents`, {
      multipart: {
        fields: JSON.stringify({ title: 'Kept', number: 'KEPT-1' }),
        comment: 'The first',
        file: { name: 'kept.docx', mimeType: 'application/octet-stream', buffer: readFileSync(path) },
      },
    });
    expect(made.status()).toBe(201);
    const before = await everyVersion(api);
    expect(before.size).toBeGreaterThanOrEqual(atLeast);
    await stop(first.command, 'SIGTERM');

    const second = await start(home);
    expect(second.printed).not.toContain(says);
    expect(await overTls()).toEqual(secure);
    const again = await signedIn();
    expect(await everyVersion(again)).toEqual(before);
    expect(before.get('KEPT-1 0.1')).toBe(readFileSync(path).toString('base64'));

    // Killed beneath an open page, the database is started again, and the page comes back by itself.
    await page.goto(`http://127.0.0.1:${port}/sign-in`);
    if (code === 'OP') {
      // The demo's accounts are there to be pressed.
      await page.getByRole('button', { name: 'M. Oduya' }).click();
    } else {
      await page.getByLabel('Account').fill('controller');
      await page.getByLabel('Password', { exact: true }).fill(password);
      await page.getByRole('button', { name: 'Sign in' }).click();
    }
    await expect(page.getByRole('link', { name: 'In force' })).toBeVisible();
    await page.goto(`http://127.0.0.1:${port}/${code}`);
    await expect(page.getByRole('link', { name: 'Kept' })).toBeVisible();
    const lost = page.getByText('The server cannot be reached just now.');
    // Between the page's asking and the server's. Its files are elsewhere meanwhile, so that on any machine
    // the database stays away until the page has said so, however fast it would be back.
    const [data, elsewhere] = [join(home, 'data'), join(home, 'elsewhere')];
    const asked = async (route: Route): Promise<void> => {
      renameSync(data, elsewhere);
      killDatabase(home);
      await route.continue();
    };
    await page.route('**/api/v1/documents/*', asked, { times: 1 });
    await page.getByRole('link', { name: 'Kept' }).click();
    await expect(lost).toBeVisible();
    renameSync(elsewhere, data);
    await expect(lost).toBeHidden({ timeout: 60_000 });
    await expect(page.getByText('Byte for byte.')).toBeVisible();
    expect(await everyVersion(await signedIn())).toEqual(before);
    // Even a killed npm leaves nothing behind.
    await stop(second.command, 'SIGKILL');
  });

/** A file system of 1,000 MB that this test may fill: one in memory, or the one that is named. */
function smallDisk(): { folder: string; leave: () => void } {
  const named = process.env['POLYCHRON_SMALL_DISK'];
  if (named) return { folder: named, leave: () => undefined };
  const folder = mkdtempSync(join(tmpdir(), 'polychron-disk-'));
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1000m', 'tmpfs', folder]);
  const leave = (): void => {
    // Lazily: what was ended may still hold it for a moment.
    execFileSync('umount', ['--lazy', folder]);
    rmSync(folder, { recursive: true });
  };
  return { folder, leave };
}

/** Writes a file until `left` bytes of the disk are free, or nothing fits any more. */
function fill(path: string, left: number): void {
  const part = Buffer.alloc(1 << 20, 1);
  const file = openSync(path, 'w');
  try {
    while (freeOn(path) > left) writeSync(file, part);
  } catch (error) {
    if ((error as { code?: string }).code !== 'ENOSPC') throw error;
  } finally {
    closeSync(file);
  }
}
const freeOn = (path: string): number =>
  1024 * Number(execFileSync('df', ['-k', '--output=avail', path]).toString().split('\n')[1]);

test('a disk that fills up: no new file is taken in, reading goes on, and with room again all is well without a hand @deep', async () => {
  test.setTimeout(900_000);
  const disk = smallDisk();
  mkdirSync(join(disk.folder, 'home'));
  const { command, printed } = await start(join(disk.folder, 'home'), ['--empty']);
  const { api, library } = await begun(printed);
  const register = async (): Promise<[status: number, code: string]> => {
    const answer = await api.post(`/api/v1/libraries/${library}/documents`, {
      multipart: {
        fields: JSON.stringify({ title: `Into a full disk ${(registered += 1)}` }),
        comment: 'Kept or not',
        file: { name: 'kept.bin', mimeType: 'application/octet-stream', buffer: randomBytes(300_000) },
      },
    });
    const { code = '', number } = (await answer.json()) as { code?: string; number: string };
    if (answer.status() === 201) kept.push(number);
    return [answer.status(), code];
  };
  const kept: string[] = [];
  let registered = 0;
  for (let count = 0; count < 6; count += 1) expect(await register()).toEqual([201, '']);
  const documents = await all(api, `/libraries/${library}/documents`);
  const reads = async (): Promise<void> => {
    for (const { id } of documents) {
      expect((await api.get(`/api/v1/documents/${id}`)).status()).toBe(200);
      expect((await api.get(`/api/v1/documents/${id}/versions`)).status()).toBe(200);
    }
  };
  fill(join(disk.folder, 'filler'), 400 << 20);
  await expect.poll(register).toEqual([507, 'disk-full']);
  await reads();

  fill(join(disk.folder, 'rest'), 0);
  const answered = new Set<number>();
  for (let round = 0; round < 15; round += 1) {
    for (const { id } of documents) {
      const held = await api.post(`/api/v1/documents/${id}/checkout`, { data: {} });
      answered.add(held.status());
      if (held.status() === 201)
        answered.add((await api.delete(`/api/v1/documents/${id}/checkout`)).status());
    }
  }
  expect([...answered].filter((status) => ![201, 204, 403, 404, 409, 503, 507].includes(status))).toEqual([]);
  await reads();

  for (const name of ['filler', 'rest']) rmSync(join(disk.folder, name));
  await expect.poll(async () => (await register())[0], { timeout: 60_000 }).toBe(201);
  await reads();
  const numbers = (await all(api, `/libraries/${library}/documents`)).map(({ number }) => number);
  expect(numbers).toEqual(expect.arrayContaining(kept));
  await stop(command, 'SIGTERM');
  disk.leave();
});

test('an empty site leads its administrator through account, library, members and first document', async ({
  browser,
}) => {
  const empty = mkdtempSync(join(tmpdir(), 'polychron-empty-'));
  const { command: started, printed, said } = await start(empty, ['--empty']);
  try {
    expect(printed).not.toContain('orrin-vale');
    const context = await browser.newContext({ baseURL: `http://127.0.0.1:${port}` });
    const page = await context.newPage();
    await page.goto('/');
    await page.getByLabel('Account').fill('admin');
    await page.getByLabel('Password', { exact: true }).fill(firstSecret(printed));
    await page.getByRole('button', { name: 'Sign in' }).click();

    const steps = page.getByRole('region', { name: 'First steps' });
    await steps.getByRole('button', { name: 'Make accounts' }).click();
    await page.getByRole('button', { name: 'New account' }).click();
    const accounts = page.getByRole('region', { name: 'Accounts' });
    await accounts.getByLabel('Name').fill('V. Lund');
    await accounts.getByLabel('Account', { exact: true }).fill('vera');
    await accounts.getByLabel('First password').fill('a cable over the valley');
    await accounts.getByRole('button', { name: 'Create the account' }).click();
    await expect(steps.getByRole('listitem').first()).toContainText('done');

    await steps.getByRole('button', { name: 'Make a library' }).click();
    const library = page.getByRole('region', { name: 'New library' });
    await library.getByLabel('Name').fill('Valley station');
    await library.getByLabel(/^Code/).fill('VS');
    await library.getByLabel('Its first controller').fill('Lund');
    await page.getByTitle(/V\. Lund/).click();
    await library.getByRole('button', { name: 'Create the library' }).click();
    await expect(page.getByRole('region', { name: 'Members of Valley station' })).toBeVisible();
    await page.getByRole('checkbox', { name: 'V. Lund: author' }).check();
    await page.getByRole('button', { name: 'Set this change' }).click();
    await expect(page.getByText('The members of Valley station are set.')).toBeVisible();
    await context.close();

    const author = await browser.newContext({ baseURL: `http://127.0.0.1:${port}` });
    await author.request.post('/api/v1/session', {
      data: { account: 'vera', password: 'a cable over the valley' },
    });
    const register = await author.newPage();
    await register.goto('/');
    await register.getByRole('button', { name: 'Register its first document' }).click();
    const form = register.getByRole('region', { name: 'New document' });
    await form.locator('input[type=file]').setInputFiles(pandocFile('first', 'The first.'));
    await form.getByRole('button', { name: 'Register as 0.1, a draft' }).click();
    await expect(register.getByText('VS-001 is registered as 0.1')).toBeVisible();

    // Nobody else uses the folder meanwhile, whatever they would do with it.
    const elsewhere = { POLYCHRON_PORT: `${port + 3}`, POLYCHRON_TLS_PORT: `${port + 4}` };
    const used = `polychron: the data folder ${empty} is used by another Polychron. Stop that one first.\n`;
    expect(command(empty, ['start'], elsewhere)).toBe(used);
    expect(command(empty, ['run', 'empty', '--', 'polychron'])).toBe(used);
    // Who lost their password is let in again while it runs.
    const secret = /with the password (\S+)/.exec(
      command(empty, ['run', 'administrator', '--', 'admin']),
    )?.[1];
    const admin = await signedIn('admin', secret);
    // A server that is killed is started again, and says why.
    process.kill(serverOf(started), 'SIGKILL');
    await expect.poll(() => said()).toContain('The server has ended by signal SIGKILL; starting it again');
    const mine = (): Promise<number> =>
      admin.get('/api/v1/session').then(
        (answer) => answer.status(),
        () => 0,
      );
    await expect.poll(mine, { timeout: 60_000 }).toBe(200);
    await author.close();
  } finally {
    await stop(started, 'SIGTERM');
    rmSync(empty, { recursive: true });
  }
});

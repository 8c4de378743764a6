import { type ChildProcess, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createConnection } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type APIRequestContext, expect, request, test } from '@playwright/test';
import { pandocFile, password } from './support.ts';

const port = Number(process.env['POLYCHRON_TEST_PORT'] ?? 4620) + 5;
const home = mkdtempSync(join(tmpdir(), 'polychron-home-'));
test.afterAll(() => rmSync(home, { recursive: true, force: true }));

/** Runs the start command on a data folder of its own until it says it is ready. */
async function start(): Promise<{ command: ChildProcess; printed: string }> {
  const environment = { ...process.env };
  delete environment['POLYCHRON_DATABASE_URL'];
  const command = spawn('npm', ['start'], {
    cwd: join(import.meta.dirname, '..'),
    env: {
      ...environment,
      POLYCHRON_HOME: home,
      POLYCHRON_PORT: `${port}`,
      POLYCHRON_DATABASE_PORT: `${port + 1}`,
    },
  });
  let printed = '';
  await new Promise<void>((resolve, reject) => {
    const hear = (part: Buffer): void => {
      printed += part.toString();
      if (printed.includes('is ready on')) resolve();
    };
    command.stdout.on('data', hear);
    command.stderr.on('data', hear);
    command.once('exit', (code) => reject(new Error(`start ended with ${code}: ${printed}`)));
  });
  return { command, printed };
}

/** Kills the database beneath the running application. */
function killDatabase(): void {
  process.kill(Number(readFileSync(join(home, 'pid'), 'utf8')), 'SIGKILL');
}

async function stop(command: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  const ended = new Promise((resolve) => {
    command.once('exit', resolve);
  });
  command.kill(signal);
  await ended;
  for (const each of [port, port + 1]) await expect.poll(() => listens(each)).toBe(false);
}

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

async function signedIn(): Promise<APIRequestContext> {
  const api = await request.newContext({ baseURL: `http://127.0.0.1:${port}` });
  expect((await api.post('/api/v1/session', { data: { account: 'controller', password } })).ok()).toBe(true);
  return api;
}

test('the start command loads the demo once, leaves no process behind, and keeps every byte over a restart of server and database, killed too', async ({
  page,
}) => {
  test.setTimeout(900_000);
  const first = await start();
  expect(first.printed).toContain('Loading the demo');
  expect(first.printed).toContain(`http://127.0.0.1:${port}`);
  const api = await signedIn();
  const library = ((await (await api.get('/api/v1/libraries')).json()) as Listed).items.find(
    ({ code }) => code === 'OP',
  );
  const path = pandocFile('kept', '# Kept\n\nByte for byte.');
  const made = await api.post(`/api/v1/libraries/${library?.id}/documents`, {
    multipart: {
      fields: JSON.stringify({ title: 'Kept', number: 'KEPT-1' }),
      file: { name: 'kept.docx', mimeType: 'application/octet-stream', buffer: readFileSync(path) },
    },
  });
  expect(made.status()).toBe(201);
  const before = await everyVersion(api);
  expect(before.size).toBeGreaterThan(250);
  await stop(first.command, 'SIGTERM');

  const second = await start();
  expect(second.printed).not.toContain('Loading the demo');
  const again = await signedIn();
  expect(await everyVersion(again)).toEqual(before);
  expect(before.get('KEPT-1 0.1')).toBe(readFileSync(path).toString('base64'));

  // Killed beneath an open page, the database is started again, and the page comes back by itself.
  await page.goto(`http://127.0.0.1:${port}/sign-in`);
  await page.getByLabel('Account').fill('controller');
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('link', { name: 'In force' })).toBeVisible();
  await page.goto(`http://127.0.0.1:${port}/OP`);
  await expect(page.getByRole('link', { name: 'Kept' })).toBeVisible();
  const lost = page.getByText('The server cannot be reached just now.');
  killDatabase();
  await page.getByRole('link', { name: 'Kept' }).click();
  await expect(lost).toBeVisible();
  await expect(lost).toBeHidden({ timeout: 60_000 });
  await expect(page.getByText('Byte for byte.')).toBeVisible();
  expect(await everyVersion(await signedIn())).toEqual(before);
  // Even a killed npm leaves nothing behind.
  await stop(second.command, 'SIGKILL');
});

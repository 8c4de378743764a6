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
    cwd: join(import.meta.dirname, '..'), env: { ...environment, POLYCHRON_HOME: home, POLYCHRON_PORT: `${port}`, POLYCHRON_DATABASE_PORT: `${port + 1}` },
  });
  let printed = '';
  await new Promise<void>((resolve, reject) => {
    const hear = (part: Buffer): void => { printed += part.toString(); if (printed.includes('is ready on')) resolve(); };
    command.stdout.on('data', hear);
    command.stderr.on('data', hear);
    command.once('exit', (code) => reject(new Error(`start ended with ${code}: ${printed}`)));
  });
  return { command, printed };
}

async function stop(command: ChildProcess, signal: NodeJS.Signals): Promise<void> {
  const ended = new Promise((resolve) => { command.once('exit', resolve); });
  command.kill(signal);
  await ended;
  for (const each of [port, port + 1]) await expect.poll(() => listens(each)).toBe(false);
}

const listens = (each: number): Promise<boolean> => new Promise((resolve) => {
  const socket = createConnection({ port: each, host: '127.0.0.1' });
  socket.once('connect', () => { socket.destroy(); resolve(true); });
  socket.once('error', () => resolve(false));
});

interface Listed { items: { id: string; number: string; label: string; sha256: string; size: number }[] }

/** The bytes of every version of every document, by document and label; each is checked against its SHA-256. */
async function everyVersion(api: APIRequestContext): Promise<Map<string, string>> {
  const { items: [library] } = await (await api.get('/api/v1/libraries')).json() as Listed;
  const { items } = await (await api.get(`/api/v1/libraries/${library?.id}/documents?limit=200`)).json() as Listed;
  const found = new Map<string, string>();
  for (const document of items) {
    const versions = await (await api.get(`/api/v1/documents/${document.id}/versions?limit=200`)).json() as Listed;
    for (const version of versions.items) {
      const body = await (await api.get(`/api/v1/documents/${document.id}/versions/${version.label}/content`)).body();
      expect(createHash('sha256').update(body).digest('hex')).toBe(version.sha256);
      found.set(`${document.number} ${version.label}`, body.toString('base64'));
    }
  }
  return found;
}

async function signedIn(): Promise<APIRequestContext> {
  const api = await request.newContext({ baseURL: `http://127.0.0.1:${port}` });
  expect((await api.post('/api/v1/session', { data: { account: 'controller', password } })).ok()).toBe(true);
  return api;
}

test('the start command loads the demo once, leaves no process behind, and keeps every byte over a restart of server and database', async () => {
  test.setTimeout(900_000);
  const first = await start();
  expect(first.printed).toContain('Loading the demo');
  expect(first.printed).toContain(`http://127.0.0.1:${port}`);
  const api = await signedIn();
  const { items: [library] } = await (await api.get('/api/v1/libraries')).json() as Listed;
  const path = pandocFile('kept', '# Kept\n\nByte for byte.');
  const made = await api.post(`/api/v1/libraries/${library?.id}/documents`, { multipart: { fields: JSON.stringify({ title: 'Kept', number: 'KEPT-1' }), file: { name: 'kept.docx', mimeType: 'application/octet-stream', buffer: readFileSync(path) } } });
  expect(made.status()).toBe(201);
  const before = await everyVersion(api);
  expect(before.size).toBeGreaterThan(60);
  await stop(first.command, 'SIGTERM');

  const second = await start();
  expect(second.printed).not.toContain('Loading the demo');
  const again = await signedIn();
  expect(await everyVersion(again)).toEqual(before);
  expect(before.get('KEPT-1 0.1')).toBe(readFileSync(path).toString('base64'));
  // Even a killed npm leaves nothing behind.
  await stop(second.command, 'SIGKILL');
});

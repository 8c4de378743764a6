import { expect, test } from '@playwright/test';
import { execFile, spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { adminAndAuthor, libraryFor, registerFile } from './support.ts';

const by = adminAndAuthor();
const program = join(import.meta.dirname, '../cli/bin/polychron.js');
const folder = mkdtempSync(join(tmpdir(), 'polychron-cli-'));
test.afterAll(() => rmSync(folder, { recursive: true, force: true }));
const env = { ...process.env, XDG_CONFIG_HOME: join(folder, 'config') };

/** Runs a command in the folder; what it said, and whether it went well. */
function polychron(args: string[], input = ''): Promise<{ ok: boolean; out: string; told: string }> {
  return new Promise((resolve) => {
    const running = execFile(process.execPath, [program, ...args], { cwd: folder, env }, (error, out, told) =>
      resolve({ ok: error === null, out, told }),
    );
    running.stdin?.end(input);
  });
}

test('from a shell: sign in, list, check out, save, watch, compare, check in, give back', async ({
  baseURL,
}) => {
  const library = await libraryFor(by.admin, 'CLI', {});
  const name = 'Calls.txt';
  const id = await registerFile(by.author, library, {
    title: 'Radio calls',
    name,
    content: 'Desk, this is Tower 3.\n',
    level: 'major',
  });
  const made = await by.author.post('/api/v1/tokens', { data: { name: 'Shell', scope: 'work' } });
  const { token } = (await made.json()) as { token: string };
  const custody = async () => {
    const { custody: held } = (await (await by.author.get(`/api/v1/documents/${id}`)).json()) as {
      custody: { saves: number } | null;
    };
    return held;
  };

  expect((await polychron(['list'])).told).toContain('You are not signed in');
  expect((await polychron(['sign-in', `${baseURL}/`], 'wrong\n')).ok).toBe(false);
  expect((await polychron(['sign-in', `${baseURL}/`], `${token}\n`)).out).toBe(
    'Signed in as T. Brandvold.\n',
  );
  // For nobody else to read.
  expect(statSync(join(folder, 'config/polychron/sign-in.json')).mode & 0o777).toBe(0o600);
  expect((await polychron(['list'])).out).toContain('CLI\t');
  expect((await polychron(['list', 'CLI'])).out).toBe('CLI-001\t1.0\t-\tRadio calls\n');
  expect((await polychron(['check-out', 'CLI-999'])).told).toContain('There is no document CLI-999');

  expect((await polychron(['check-out', 'cli-001', '--reason', 'Shorter'])).out).toContain('at 1.0');
  const file = join(folder, name);
  expect(readFileSync(file, 'utf8')).toBe('Desk, this is Tower 3.\n');
  expect((await polychron(['check-out', 'CLI-001'])).told).toContain('is there already');
  expect((await polychron(['save', name])).out).toContain('Nothing has changed');
  writeFileSync(file, 'Desk, Tower 3.\n');
  expect((await polychron(['status'])).out).toContain(`${name}: changed, not saved`);
  expect((await polychron(['save', name])).out).toBe('CLI-001 is saved.\n');
  expect(await custody()).toMatchObject({ saves: 1 });
  expect((await polychron(['give-back', name])).told).toContain('1 save would go');

  // Saved from elsewhere meanwhile: nothing is written over.
  await by.author.put(`/api/v1/documents/${id}/checkout/content`, { data: Buffer.from('From the page\n') });
  writeFileSync(file, 'Over it\n');
  expect((await polychron(['save', name])).told).toContain('saved from elsewhere');
  expect((await polychron(['status'])).out).toContain(`${name}: saved from elsewhere since`);
  rmSync(file);
  await polychron(['check-out', 'CLI-001']);
  expect(readFileSync(file, 'utf8')).toBe('From the page\n');

  // Watched: written beside and put in its place, as editors do.
  const watching = spawn(process.execPath, [program, 'watch'], { cwd: folder, env });
  let said = '';
  watching.stdout.on('data', (part: Buffer) => {
    said += part.toString();
  });
  await expect.poll(() => said).toContain('Watching Calls.txt');
  writeFileSync(join(folder, 'beside'), 'Desk, Tower 3, over.\n');
  renameSync(join(folder, 'beside'), file);
  await expect.poll(() => said).toContain('CLI-001: Calls.txt is saved.');
  expect(await custody()).toMatchObject({ saves: 3 });
  watching.kill('SIGINT');
  expect(await new Promise((resolve) => watching.once('exit', resolve))).toBe(0);

  expect((await polychron(['check-in', name, '-l', 'minor'])).told).toContain('asks for a check-in comment');
  const checkedIn = await polychron(['check-in', name, '-l', 'minor', '-m', 'Shorter calls', '--keep']);
  expect(checkedIn.out).toBe('CLI-001 is checked in as 1.1, draft.\n');
  const again = await polychron(['check-in', name, '-l', 'minor', '-m', 'The same']);
  expect(again.told).toContain('--yes same-bytes');
  expect((await polychron(['compare', 'CLI/CLI-001', '1.0', '1.1'])).out).toContain('+ ');
  // A number or a file, in every command.
  expect((await polychron(['compare', name, '1.0', '1.1'])).out).toContain('CLI-001 1.0 -> 1.1');
  expect((await polychron(['save', 'cli-001'])).out).toContain('Nothing has changed');
  expect((await polychron(['give-back', 'CLI-001'])).out).toContain(`CLI-001 is free again. ${file}`);
  expect(await custody()).toBeNull();
  expect((await polychron(['give-back', 'CLI-001'])).told).toContain('CLI-001 is not checked out to you');
  await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  expect((await polychron(['give-back', 'CLI-001'])).out).toBe('CLI-001 is free again.\n');
  expect((await polychron(['save', name])).told).toContain('working copy of nothing');
  await polychron(['sign-out']);
  expect((await polychron(['status'])).told).toContain('You are not signed in');
});

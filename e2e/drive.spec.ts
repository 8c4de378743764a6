import { expect, test } from '@playwright/test';
import { AuthType, createClient, type FileStat } from 'webdav';
import { adminAndAuthor, expectAccessible, libraryFor, leave, openAs, registerFile } from './support.ts';

const by = adminAndAuthor();

test('a token made in the page opens the libraries as a drive, to a WebDAV client that others wrote', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'DRV', {});
  const id = await registerFile(by.author, library, {
    title: 'Rope grease',
    name: 'grease.txt',
    content: 'Twice a year.',
    level: 'major',
  });
  const subject = { fields: { subject: ['rope', 'care'] }, comment: 'Filed', level: 'major' };
  expect((await by.author.patch(`/api/v1/documents/${id}`, { data: subject })).status()).toBe(200);

  const page = await openAs(browser, 'reader', '/account');
  const address = await page.locator('code', { hasText: '/dav/' }).innerText();
  await page.getByLabel('What the token is for').fill('The drive');
  await page.getByRole('button', { name: 'Create a token' }).click();
  const shown = page.getByRole('status').filter({ hasText: 'Copy it now' }).locator('code');
  const password = await shown.innerText();
  await leave(page);

  const client = createClient(address, { authType: AuthType.Password, username: 'reader', password });
  const names = async (path: string): Promise<string[]> =>
    ((await client.getDirectoryContents(path)) as FileStat[]).map(({ basename }) => basename);
  expect(await names('/')).toEqual(expect.arrayContaining(['Desk', 'DRV', 'OP']));
  expect((await names('/DRV')).sort()).toEqual(['rope', 'versions']);
  expect(await names('/DRV/rope/care')).toEqual(['DRV-001 Rope grease.txt']);
  const path = '/DRV/rope/care/DRV-001 Rope grease.txt';
  expect(await client.getFileContents(path, { format: 'text' })).toBe('Twice a year.');
  expect(await client.stat(path)).toMatchObject({ type: 'file', size: 13, mime: 'text/plain' });
  await expect(client.putFileContents(path, 'Never.')).rejects.toMatchObject({ status: 403 });
});

test('worked on in its own program, a document is locked and saved; what becomes of it is asked on the Desk', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'DRW', {});
  const id = await registerFile(by.author, library, {
    title: 'Radio calls',
    name: 'calls.txt',
    content: 'Desk, this is Tower 3.',
    level: 'major',
  });
  const made = await by.author.post('/api/v1/tokens', { data: { name: 'Editor', scope: 'work' } });
  const { token: password } = (await made.json()) as { token: string };

  // Asked for in its row, or on its page.
  const page = await openAs(browser, 'author', '/DRW');
  await page.getByRole('button', { name: 'Work on DRW-001 in its own program' }).click();
  const shown = page.getByRole('region', { name: 'Work in its own program' });
  const address = await shown.locator('code').innerText();
  await page.goto(`/DRW/documents/${id}`);
  await page.getByRole('button', { name: 'Work in its own program' }).click();
  expect(await shown.locator('code').innerText()).toBe(address);
  await expectAccessible(page);
  const [, root = '', path = ''] = /^(.*\/dav)(\/.*)$/.exec(address.trim()) ?? [];
  const client = createClient(root, { authType: AuthType.Password, username: 'author', password });
  const at = decodeURIComponent(path);
  const { token } = await client.lock(at);
  // The page hears of it.
  await expect(page.getByText('Open in a program of yours')).toBeVisible();
  const headers = { If: `(<${token}>)` };
  for (const text of ['Desk, Tower 3.', 'Desk, Tower 3, over.'])
    await client.putFileContents(at, text, { headers });
  await client.unlock(at, token);

  await page.goto('/desk');
  const asked = page.getByRole('region', { name: 'Finish DRW-001' });
  await expect(asked).toContainText('2 saves in a program');
  await expectAccessible(page);
  await asked.getByRole('button', { name: 'Keep it for later' }).click();
  await expect(asked).toHaveCount(0);
  // Opened and closed again it is asked again.
  await client.unlock(at, (await client.lock(at)).token);
  await asked.getByRole('button', { name: 'Check in as 1.1, a draft' }).click();
  await page.getByLabel('Check-in comment').fill('Shorter calls');
  await page.keyboard.press('Enter');
  await expect(page.getByText('DRW-001 is checked in as 1.1.')).toBeVisible();
  await expect(asked).toHaveCount(0);
  expect(await client.getFileContents(at, { format: 'text' })).toBe('Desk, Tower 3, over.');
  await leave(page);
});

test('the self-test tries from the browser what a program needs, and leaves nothing behind', async ({
  browser,
}) => {
  const page = await openAs(browser, 'author', '/account');
  await page.getByRole('link', { name: 'Try it' }).click();
  await page.getByRole('button', { name: 'Try it from this browser' }).click();
  await expect(page.getByText('Programs on this machine can open, lock and save')).toBeVisible();
  const outcomes = page.getByRole('list', { name: 'Outcomes' }).getByRole('listitem');
  await expect(outcomes).toHaveText([
    /^Addressworks/,
    /^Sign-inworks/,
    /^Lockworks/,
    /^Saveworks/,
    /^Unlockworks/,
  ]);
  await expectAccessible(page);
  const tokens = (await (await by.author.get('/api/v1/tokens')).json()) as { items: { name: string }[] };
  expect(tokens.items.map(({ name }) => name)).not.toContain('Self-test');
  // What does not work is said with what to do: here nothing answers to LOCK.
  await page.route('**/dav/**', (route) =>
    route.request().method() === 'LOCK' ? route.fulfill({ status: 405 }) : route.continue(),
  );
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(outcomes.nth(2)).toContainText('does not work');
  await expect(outcomes.nth(2)).toContainText('let LOCK and UNLOCK pass');
  await expect(outcomes.nth(3)).toContainText('not tried');
  await leave(page);
});

import { expect, test } from '@playwright/test';
import { AuthType, createClient, type FileStat } from 'webdav';
import { adminAndAuthor, libraryFor, openAs, registerFile } from './support.ts';

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
  await page.context().close();

  const client = createClient(address, { authType: AuthType.Password, username: 'reader', password });
  const names = async (path: string): Promise<string[]> =>
    ((await client.getDirectoryContents(path)) as FileStat[]).map(({ basename }) => basename);
  expect(await names('/')).toEqual(expect.arrayContaining(['DRV', 'OP']));
  expect(await names('/DRV')).toEqual(['rope']);
  expect(await names('/DRV/rope/care')).toEqual(['DRV-001 Rope grease.txt']);
  const path = '/DRV/rope/care/DRV-001 Rope grease.txt';
  expect(await client.getFileContents(path, { format: 'text' })).toBe('Twice a year.');
  expect(await client.stat(path)).toMatchObject({ type: 'file', size: 13, mime: 'text/plain' });
  await expect(client.putFileContents(path, 'Never.')).rejects.toMatchObject({ status: 405 });
});

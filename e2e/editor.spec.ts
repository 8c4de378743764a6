import { expect, type Page, test } from '@playwright/test';
import { adminAndAuthor, expectAccessible, leave, libraryFor, openAs, registerFile } from './support.ts';

const by = adminAndAuthor();
const noted = 'Read both masts at six.\n\nCall the control room.\n\nWrite it down.\n';
const state = (page: Page) => page.getByRole('main').getByRole('status').first();
const typeBehind = async (page: Page, line: string, words: string): Promise<void> => {
  await page.locator('.cm-line', { hasText: line }).click();
  await page.keyboard.press('End');
  await page.keyboard.type(words);
};
async function held(code: string, name: string, content: string | Buffer): Promise<string> {
  const library = await libraryFor(by.admin, code, {});
  const id = await registerFile(by.author, library, { title: 'Masts', name, content, level: 'minor' });
  expect((await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
  return id;
}
const workingCopy = async (id: string): Promise<string> =>
  (await by.author.get(`/api/v1/documents/${id}/checkout/content`)).text();

test('words that could not be saved are told on the document and the Desk; giving back and checking in ask', async ({
  browser,
}) => {
  const id = await held('WORD', 'masts.txt', Buffer.from('St\xfctze 6\n', 'latin1'));
  const page = await openAs(browser, 'author', `/WORD/documents/${id}/edit`);
  await typeBehind(page, 'Stütze 6', ' prüfen Łódź');
  await expect(state(page)).toContainText('Not saved');
  await page.getByRole('button', { name: /^Check in as 0\.2/ }).click();
  const label = page.getByRole('form', { name: 'Check in as 0.2' });
  await label.getByRole('textbox', { name: 'Check-in comment' }).fill('Looked at');
  await label.getByRole('button', { name: /^Check in as 0\.2/ }).click();
  await expect(label.getByRole('alert')).toContainText('is not saved yet');
  await expectAccessible(page);

  await page.goto(`/WORD/documents/${id}`);
  const unfinished = page.getByRole('region', { name: 'Unfinished here' });
  await expect(unfinished).toContainText('Text of WORD-001 Masts “Stütze 6 prüfen Łódź”');
  await page.getByRole('button', { name: 'Give back' }).click();
  const asked = page.getByRole('region', { name: 'Consequences' });
  await expect(asked).toContainText('What you typed in the editor and could not be saved stays');
  await asked.getByRole('button', { name: 'Give back', exact: true }).click();
  await expect(page.getByText('WORD-001 is free again')).toBeVisible();

  // The next editor of the document has them, and so has the Desk.
  await page.goto('/desk');
  await page
    .getByRole('region', { name: 'Unfinished' })
    .getByRole('link', { name: 'Text of WORD-001 Masts' })
    .click();
  await expect(page.getByRole('region', { name: 'Not sent' })).toContainText('ending “Stütze 6 prüfen Łódź”');
  await page.getByRole('button', { name: 'Check out 0.1 to edit it' }).click();
  const left = page.getByRole('region', { name: 'Not sent' });
  await expect(left).toContainText('Stütze 6 prüfen Łódź');
  await left.getByRole('button', { name: 'Put it on my Desk' }).click();
  await expect(page.getByRole('region', { name: 'Not registered yet' })).toContainText('masts.txt');
  await leave(page);
});

test('of two tabs the idle one hears that the other saved; both texts are compared and put together', async ({
  browser,
}) => {
  const id = await held('TABS', 'masts.md', noted);
  const address = `/TABS/documents/${id}/edit`;
  const page = await openAs(browser, 'author', address);
  const other = await openAs(browser, 'author', address);
  await typeBehind(page, 'Read both masts', ' And at noon.');
  await expect(state(page)).toContainText('Saved');
  await expect(state(other)).toContainText('Written elsewhere meanwhile');
  await expect(other.getByRole('region', { name: 'Consequences' })).toContainText(
    'Nothing of yours is unsaved.',
  );
  await other.getByRole('button', { name: 'Go on with the other' }).click();
  await expect(other.locator('.cm-content')).toContainText('And at noon.');

  // Both type at once: one is kept, the other is told, and nothing of either is lost.
  await page.context().setOffline(true);
  await typeBehind(page, 'Write it down', ' With the time.');
  await typeBehind(other, 'Call the control room', ' Twice.');
  await expect(state(other)).toContainText('Saved');
  await page.context().setOffline(false);
  await expect(state(page)).toContainText('Written elsewhere meanwhile');
  await page.getByRole('button', { name: 'Compare them' }).click();
  await expect(page.getByRole('region', { name: 'Only you changed it' })).toContainText('With the time.');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Put both together' }).click();
  await expect(state(page)).toContainText('Saved');
  await expect
    .poll(() => workingCopy(id))
    .toBe(
      'Read both masts at six. And at noon.\n\nCall the control room. Twice.\n\nWrite it down. With the time.\n',
    );
  await leave(page, other);
});

test('the editor opens the label of its check-in', async ({ browser }) => {
  const id = await held('LABL', 'masts.md', noted);
  const page = await openAs(browser, 'author', `/LABL/documents/${id}/edit`);
  await typeBehind(page, 'Write it down', ' Twice.');
  await page.getByRole('button', { name: /^Check in as 0\.2/ }).click();
  const label = page.getByRole('form', { name: 'Check in as 0.2' });
  await label.getByRole('textbox', { name: 'Check-in comment' }).fill('Twice');
  await label.getByRole('button', { name: /^Check in as 0\.2/ }).click();
  await expect(page).toHaveURL(new RegExp(`/LABL/documents/${id}$`));
  const made = await by.author.get(`/api/v1/documents/${id}/versions/0.2/content`);
  expect(await made.text()).toContain('Write it down. Twice.');
  await leave(page);
});

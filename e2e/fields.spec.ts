import { expect, test } from '@playwright/test';
import {
  adminAndAuthor,
  Acts,
  documentFor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  row,
} from './support.ts';

const by = adminAndAuthor();

test('a title is changed from the Register in three acts, with what that makes said before', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'FD', {});
  await documentFor(by.author, library, 'Winch check', 'Oil it.', 'minor');
  const page = await openAs(browser, 'author', '/FD');
  await expect(row(page, 'FD-001')).toBeVisible();
  const acts = new Acts();
  await acts.click(page.getByRole('button', { name: 'Change title and fields of FD-001' }));
  const form = page.getByRole('form', { name: 'Fields of FD-001' });
  await expect(form.getByRole('button', { name: 'Record it' })).toBeDisabled();
  await expect(form.getByLabel('Title')).toBeFocused();
  await acts.fill(form.getByLabel('Title'), 'Winch and brake check');
  await expect(form.getByRole('button', { name: 'Record as 0.2, a draft' })).toBeEnabled();
  await expect(form.getByRole('button', { name: 'Record as 1.0, in force' })).toBeEnabled();
  await expectAccessible(page);
  await acts.click(form.getByRole('button', { name: 'Record as 0.2, a draft' }));
  await expect(page.getByText('FD-001 is recorded as 0.2.')).toBeVisible();
  await expect(row(page, 'FD-001').getByRole('link', { name: 'Winch and brake check' })).toBeVisible();
  await expect(row(page, 'FD-001')).toContainText('Changed title');
  expect(acts.count).toBeLessThanOrEqual(3);

  // Its people change at once, and make no version.
  await row(page, 'FD-001').getByRole('link', { name: 'Winch and brake check' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Winch and brake check');
  await page.keyboard.press('f');
  // Escape closes the list or calendar that is open, and only then the form.
  const found = page.getByTitle('J. Sandoval (author2)');
  await form.getByLabel('Owner').fill('Sando');
  await expect(found).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(found).toBeHidden();
  await form.getByLabel('Review by').click();
  const calendar = page.locator('.ant-picker-dropdown');
  await expect(calendar).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(calendar).toBeHidden();
  await expect(form).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(form).toBeHidden();
  await page.keyboard.press('f');
  await form.getByLabel('Owner').fill('Sando');
  await found.click();
  await form.getByRole('button', { name: 'Record it' }).click();
  await expect(page.getByText('The people of FD-001 are changed; it stays at 0.2.')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Facts' })).toContainText('J. Sandoval');

  // Somebody else was faster: it is said, and what was typed stays.
  await page.keyboard.press('f');
  await form.getByLabel('Type').fill('Checklist');
  const { items } = (await (await by.author.get(`/api/v1/libraries/${library}/documents`)).json()) as {
    items: { id: string }[];
  };
  const elsewhere = await by.author.patch(`/api/v1/documents/${items[0]?.id}`, {
    data: { fields: { subject: ['Winches'] } },
  });
  expect(elsewhere.status()).toBe(200);
  await form
    .getByRole('button', { name: /^Record as/ })
    .first()
    .click();
  await expect(form.getByRole('alert')).toContainText('changed');
  await expect(form.getByLabel('Type')).toHaveValue('Checklist');
  await leave(page);
});

test('a document is registered with its owner and at once in force; so are many', async ({ browser }) => {
  await libraryFor(by.admin, 'FE', {});
  const page = await openAs(browser, 'author', '/FE');
  await page.getByRole('button', { name: 'New document' }).click();
  const form = page.getByRole('region', { name: 'New document' });
  await form.locator('input[type=file]').setInputFiles({
    name: 'Wind limits.txt',
    mimeType: 'text/plain',
    buffer: Buffer.from('19 m/s'),
  });
  await form.getByLabel('Owner').fill('Sando');
  await page.getByTitle('J. Sandoval (author2)').click();
  await form.getByRole('button', { name: 'Register as 1.0, in force' }).click();
  await expect(page.getByText('FE-001 is registered as 1.0 and in force.')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'FE-001' })).toContainText('owner J. Sandoval');
  await page.getByRole('button', { name: 'New document' }).click();
  await form.locator('input[type=file]').setInputFiles(
    ['North', 'South'].map((name) => ({
      name: `${name}.txt`,
      mimeType: 'text/plain',
      buffer: Buffer.from(name),
    })),
  );
  await page.getByRole('button', { name: 'Register 2 documents as 1.0, in force' }).click();
  await expect(row(page, 'FE-003')).toContainText('1.0');
  await expect(row(page, 'FE-002')).toContainText('North');
  await leave(page);
});

test('restoring can bring the fields back too; a file brought in keeps the registered name', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'FG', {});
  const id = await documentFor(by.author, library, 'Horn', 'Sound it.', 'minor');
  const renamed = await by.author.patch(`/api/v1/documents/${id}`, {
    data: { fields: { title: 'Signal horn' } },
  });
  expect(renamed.status()).toBe(200);
  const page = await openAs(browser, 'author', `/FG/documents/${id}/versions/0.1`);
  await page.getByRole('button', { name: 'Restore 0.1 as 0.3' }).click();
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await consequences.getByRole('checkbox', { name: 'with its title, not those of 0.2' }).check();
  await expectAccessible(page);
  await consequences.getByRole('button', { name: 'Restore 0.1 as 0.3' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Horn');

  const arrival = await by.author.post('/api/v1/desk/files', {
    multipart: {
      file: { name: 'horn, edited.txt', mimeType: 'text/plain', buffer: Buffer.from('Sound it twice.') },
    },
  });
  const { id: mine } = (await arrival.json()) as { id: string };
  await page.goto(`/desk/files/${mine}/bring-in?document=${id}`);
  await expect(page.getByRole('checkbox', { name: 'take the new name, not text.txt' })).not.toBeChecked();
  await page.getByRole('textbox', { name: 'Check-in comment' }).fill('Twice');
  await page.getByRole('button', { name: 'Check in as 0.4, a draft' }).click();
  await expect(page.getByRole('complementary', { name: 'Facts' })).toContainText('text.txt');
  await leave(page);
});

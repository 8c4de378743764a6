import { expect, test } from '@playwright/test';
import { adminAndAuthor, documentFor, expectAccessible, libraryFor, openAs, password } from './support.ts';

const by = adminAndAuthor();

test('a reader begins with what is in force over all libraries, types to narrow it, reads it and sees what is new', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'NFA', {});
  const id = await documentFor(by.author, library, 'Zephyr gauges', 'Read them at noon.', 'major');
  const sorted = await by.author.patch(`/api/v1/documents/${id}`, {
    data: { fields: { subject: ['weather', 'gauges'] }, comment: 'Sorted', level: 'major' },
  });
  expect(sorted.status()).toBe(200);
  await documentFor(by.author, library, 'Zephyr of tomorrow', 'Hushed.', 'minor');
  const context = await browser.newContext();
  const page = await context.newPage();
  await page.goto('/sign-in');
  await page.getByLabel('Account').fill('reader');
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page).toHaveURL(/\/in-force$/);
  await expect(page.getByRole('heading', { name: 'Operating procedures' })).toBeVisible();
  await expectAccessible(page);
  await page.getByLabel('Narrow the list').fill('zephyr');
  await expect(page.getByRole('status')).toHaveText('1 document');
  const section = page.getByRole('region', { name: 'Library NFA, weather' });
  await expect(section).toContainText('NFA-001');
  await expect(section).toContainText('gauges');
  // The list is printed as it stands, without what one chooses by.
  await page.emulateMedia({ media: 'print' });
  await expect(section).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Subjects' })).toBeHidden();
  // A sheet is narrower than a screen: since when each is in force stands there all the same.
  await page.setViewportSize({ width: 720, height: 1000 });
  await expect(section.getByText(/^since \d/)).toBeVisible();
  await expect(page.getByText(/^as of \d/)).toBeVisible();
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.emulateMedia({ media: 'screen' });
  await page.getByRole('link', { name: 'Zephyr gauges' }).click();
  await expect(page).toHaveURL(new RegExp(`/NFA/documents/${id}/read$`));
  await expect(page.getByRole('heading', { name: 'Zephyr gauges', level: 1 })).toBeVisible();
  await expect(page.getByText('Read them at noon.')).toBeVisible();
  await expectAccessible(page);
  // On paper there is the text and what it is, nothing of the frame.
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByRole('button', { name: 'Print' })).toBeHidden();
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeHidden();
  await expect(page.getByText('Read them at noon.')).toBeVisible();
  await page.emulateMedia({ media: 'screen' });
  // What comes into force now is new, for those who may compare with what changed.
  const author = await openAs(browser, 'author', '/NFA/in-force');
  await expect(author.getByText('nothing new since')).toBeVisible();
  expect((await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
  const file = { name: 'text.txt', mimeType: 'text/plain', buffer: Buffer.from('Read them at one.') };
  const multipart = { comment: 'At one, not at noon', level: 'major', file };
  expect((await by.author.post(`/api/v1/documents/${id}/checkin`, { multipart })).status()).toBe(201);
  await expect(author.getByText('new: “At one, not at noon”')).toBeVisible();
  await page.goto('/NFA/in-force');
  await expect(page.getByText('new: “At one, not at noon”')).toBeVisible();
  await expect(page.getByRole('link', { name: 'what changed' })).toHaveCount(0);
  await author.getByRole('link', { name: 'what changed' }).click();
  await expect(author).toHaveURL(/\/compare\/2\.0\/3\.0$/);
  await page.getByRole('button', { name: 'I have looked' }).click();
  await expect(page.getByText('nothing new since')).toBeVisible();
  await page.getByRole('button', { name: 'weather' }).click();
  await expect(page.getByRole('status')).toContainText('on weather');
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectAccessible(page);
  await Promise.all([context, author.context()].map((one) => one.close()));
});

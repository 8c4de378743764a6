import { type APIRequestContext, expect, test } from '@playwright/test';
import { apiAs, documentFor, expectAccessible, libraryFor, openAs, row } from './support.ts';

let admin: APIRequestContext;
let author: APIRequestContext;
test.beforeAll(async ({ playwright, baseURL }) => {
  admin = await apiAs(playwright, 'admin', baseURL ?? '');
  author = await apiAs(playwright, 'author', baseURL ?? '');
});
test.afterAll(async () => {
  await admin.dispose();
  await author.dispose();
});

test('from the Desk one finds in all libraries, the spine leads back, and signing out says what one holds', async ({
  browser,
}) => {
  const page = await openAs(browser, 'author2', '/WL');
  await expect(row(page, 'WL-001')).toBeVisible();
  const spine = page.getByRole('navigation', { name: 'Main' });
  await spine.getByRole('link', { name: /^Desk/ }).click();
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Desk of J. Sandoval');
  await page.keyboard.press('/');
  await page.keyboard.type('wind');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('region', { name: 'Operating procedures' })).toContainText(
    'Opening the line after high wind',
  );
  await expect(page.getByRole('region', { name: 'Wind-limit tables' })).toContainText('Wind limits by span');
  await expectAccessible(page);
  await spine.getByRole('link', { name: 'Register' }).click();
  await expect(page).toHaveURL(/\/WL$/);
  await page.getByRole('button', { name: 'J. Sandoval' }).click();
  await page.getByRole('menuitem', { name: 'Sign out' }).click();
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await expect(consequences).toContainText('You hold');
  await expect(consequences).toContainText('OP-015');
  await expectAccessible(page);
  await consequences.getByRole('button', { name: 'Sign out and keep them' }).click();
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await page.context().close();
});

test('what is in the list says its state; a document opens where one has work; a decision is counted', async ({
  browser,
  playwright,
  baseURL,
}) => {
  const library = await libraryFor(admin, 'FR', {
    approval: { on: true, mode: 'serial', approvers: ['approver'] },
  });
  const id = await documentFor(author, library, 'Rope ends', 'Look at them.', 'minor');
  const submitted = await author.post(`/api/v1/documents/${id}/submit`, { data: { comment: 'Please' } });
  expect(submitted.status()).toBe(200);
  const approver = await openAs(browser, 'approver', '/FR');
  await expect(row(approver, 'FR-001')).toContainText('0.1 in approval');
  await expect(approver.getByRole('navigation', { name: 'Main' })).toContainText('1 to decide');
  const mine = await openAs(browser, 'author', '/desk');
  await expect(mine.getByRole('region', { name: 'Out for decision' })).toContainText(
    'you submitted 0.1 today',
  );
  await expect(mine.getByRole('region', { name: 'Out for decision' })).toContainText('L. Achterberg');
  await expectAccessible(mine);
  const { status } = await decide(playwright, baseURL ?? '', id);
  expect(status).toBe(200);
  await expect(row(approver, 'FR-001')).toContainText('1.0');
  await expect(approver.getByRole('navigation', { name: 'Main' })).not.toContainText('to decide');
  await author.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  await author.post(`/api/v1/documents/${id}/checkin`, {
    multipart: {
      comment: 'Again',
      level: 'minor',
      file: { name: 'text.txt', mimeType: 'text/plain', buffer: Buffer.from('Look at them twice.') },
    },
  });
  await mine.goto(`/FR/documents/${id}`);
  await expect(mine.getByText('Look at them twice.')).toBeVisible();
  await approver.goto(`/FR/documents/${id}`);
  await expect(approver.getByText('Look at them.')).toBeVisible();
  await mine.context().close();
  await approver.context().close();
});

type Playwright = Parameters<typeof apiAs>[0];
async function decide(playwright: Playwright, baseURL: string, id: string): Promise<{ status: number }> {
  const approver = await apiAs(playwright, 'approver', baseURL);
  const answer = await approver.post(`/api/v1/documents/${id}/decision`, {
    data: { version: '0.1', decision: 'approve' },
  });
  await approver.dispose();
  return { status: answer.status() };
}

test('a word of the house leads to what it means', async ({ browser }) => {
  const page = await openAs(browser, 'author', '/OP');
  await page.getByRole('columnheader', { name: 'Strand' }).getByRole('button').click();
  const asked = page.locator('.glossary-asked');
  await expect(asked).toContainText("A document's drawn history");
  await expect(asked).toBeInViewport();
  await expectAccessible(page);
  await page.keyboard.press('?');
  await expect(asked).toBeHidden();
  await page.keyboard.press('?');
  await page.getByText('Words used here').click();
  await expect(page.getByText('A private copy on the Desk, without versions')).toBeVisible();
  await page.context().close();
});

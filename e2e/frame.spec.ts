import { expect, test } from '@playwright/test';
import {
  adminAndAuthor,
  apiAs,
  documentFor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  openFresh,
  row,
} from './support.ts';

const by = adminAndAuthor();

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
  await leave(page);
});

test('what is in the list says its state; a document opens where one has work; a decision is counted', async ({
  browser,
  playwright,
  baseURL,
}) => {
  const library = await libraryFor(by.admin, 'FR', {
    approval: { on: true, mode: 'serial', approvers: ['approver'] },
  });
  const id = await documentFor(by.author, library, 'Rope ends', 'Look at them.', 'minor');
  const submitted = await by.author.post(`/api/v1/documents/${id}/submit`, { data: { comment: 'Please' } });
  expect(submitted.status()).toBe(200);
  const approver = await openAs(browser, 'approver', '/FR');
  const approvals = approver
    .getByRole('navigation', { name: 'Main' })
    .getByRole('link', { name: /^Approvals/ });
  await expect(row(approver, 'FR-001')).toContainText('0.1 in approval');
  // Two wait for them in the demo.
  await expect(approvals).toHaveText('Approvals, 3 to decide');
  const mine = await openAs(browser, 'author', '/desk');
  await expect(mine.getByRole('region', { name: 'Others’ turn to decide' })).toContainText(
    'you submitted 0.1 today',
  );
  await expect(mine.getByRole('region', { name: 'Others’ turn to decide' })).toContainText('L. Achterberg');
  await expectAccessible(mine);
  const { status } = await decide(playwright, baseURL ?? '', id);
  expect(status).toBe(200);
  await expect(row(approver, 'FR-001')).toContainText('1.0');
  await expect(approvals).toHaveText('Approvals, 2 to decide');
  await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  await by.author.post(`/api/v1/documents/${id}/checkin`, {
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
  await leave(mine);
  await leave(approver);
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
  await expect(page.getByText('A private copy on the Desk, without versions')).toBeVisible();
  await leave(page);
});

test('columns are chosen, moved and sized by pointer or key, and stay so', async ({ browser }) => {
  const page = await openAs(browser, 'author', '/OP');
  await expect(row(page, 'OP-011')).toBeVisible();
  const heads = page.getByRole('columnheader');
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Owner' }).check();
  await page.getByRole('checkbox', { name: 'In force' }).uncheck();
  await page.getByRole('button', { name: 'Owner: further to the left' }).click();
  await expect(row(page, 'OP-011')).toContainText('T. Brandvold');
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  const edge = page.getByRole('separator', { name: 'Width of Owner' });
  await edge.focus();
  await page.keyboard.press('ArrowRight');
  await expect(edge).toHaveAttribute('aria-valuenow', '130');
  const at = await edge.boundingBox();
  if (!at) throw new Error('the edge is nowhere');
  await page.mouse.move(at.x + 5, at.y + 10);
  await page.mouse.down();
  await page.mouse.move(at.x + 35, at.y + 10);
  await page.mouse.up();
  await expect(edge).toHaveAttribute('aria-valuenow', '160');
  await page.reload();
  await expect(heads).toHaveText([
    'Versions',
    'Number',
    'Title and last comment',
    'Strand',
    'Latest',
    'Owner',
    'Checked out by',
  ]);
  await expect(page.getByRole('separator', { name: 'Width of Owner' })).toHaveAttribute(
    'aria-valuenow',
    '160',
  );
  await page.setViewportSize({ width: 820, height: 1000 });
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('button', { name: 'As usual again' }).click();
  // Nothing of a row is cut off on a tablet.
  const list = page.getByRole('table', { name: /^Register of/ });
  expect(await list.evaluate((element) => element.scrollWidth - element.clientWidth)).toBeLessThanOrEqual(0);
  await leave(page);
});

test('no more than 306 kB of script come before the list of documents, and the other screens after it', async ({
  browser,
}) => {
  const page = await openFresh(browser, 'reader', '/OP');
  await expect(row(page, 'OP-011')).toBeVisible();
  /** Bytes of scripts as they came, asked for before or after the other screens are fetched. */
  const scripts = (): Promise<[before: number, after: number]> =>
    page.evaluate(() => {
      const [navigation] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
      const others = (navigation?.loadEventEnd ?? 0) + 2900;
      const sizes: [number, number] = [0, 0];
      for (const entry of performance.getEntriesByType('resource') as PerformanceResourceTiming[])
        if (entry.name.endsWith('.js')) sizes[entry.startTime < others ? 0 : 1] += entry.encodedBodySize;
      return sizes;
    });
  const [before] = await scripts();
  expect(before).toBeGreaterThan(100_000);
  expect(before).toBeLessThanOrEqual(306_000);
  await expect.poll(async () => (await scripts())[1]).toBeGreaterThan(100_000);
  // They are there without the server.
  await page.context().setOffline(true);
  await row(page, 'OP-014').getByRole('link', { name: 'Opening the line after high wind' }).click();
  await expect(page.getByText('The server cannot be reached')).toBeVisible();
  await page.context().close();
});

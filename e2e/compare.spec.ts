import { expect, type Page, test } from '@playwright/test';
import {
  adminAndAuthor,
  checkInFile,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  registerFile,
} from './support.ts';

const by = adminAndAuthor();

/** A document of two versions, 0.1 and 0.2, in a library of its own. Answers the address of its page. */
async function versions(code: string, name: string, older: string, newer: string): Promise<string> {
  const library = await libraryFor(by.admin, code, {});
  const id = await registerFile(by.author, library, { title: name, name, content: older });
  await checkInFile(by.author, id, { name, content: newer });
  return `/${code}/documents/${id}`;
}
const region = (page: Page) => page.getByRole('region', { name: 'Text with its changes' });

test('a long comparison lays out what is in sight, and steps to any change', async ({ browser }) => {
  const paragraphs = Array.from(
    { length: 3000 },
    (_, at) => `${at}. The shift leader reads both masts for ten minutes before the line is opened.`,
  );
  const edited = paragraphs.map((text, at) => (at % 2 === 0 ? text.replace('ten', `${at + 1}`) : text));
  const address = await versions('LNG', 'long.txt', paragraphs.join('\n'), edited.join('\n'));
  const page = await openAs(browser, 'author', `${address}/compare/0.1/0.2`);
  await expect(page.getByText('1500 changes')).toBeVisible();
  await expect(region(page).getByText(/^1\. The shift leader/)).toBeVisible();
  const nodes = (): Promise<number> => page.evaluate(() => document.querySelectorAll('*').length);
  expect(await nodes()).toBeLessThan(1500);
  // From none back to the last, on to the one before it, forward again, and back by the letter.
  for (const [at, key] of [
    [2998, 'Alt+ArrowUp'],
    [2996, 'Alt+ArrowUp'],
    [2998, 'n'],
    [2996, 'p'],
    [2998, 'Alt+ArrowDown'],
  ] as const) {
    await page.keyboard.press(key);
    const current = page.locator('.compare-page .c-current');
    await expect(current).toContainText(`${at}. The shift leader`);
    await expect(current).toBeInViewport();
    await expect(
      page
        .getByRole('listitem')
        .filter({ hasText: `${at + 1}` })
        .getByRole('button'),
    ).toBeInViewport();
  }
  await page.keyboard.press('m');
  await expect(page.locator('.compare-page .c-current')).toHaveCount(2);
  await expect(page.locator('.compare-page .c-current').first()).toBeInViewport();
  expect(await nodes()).toBeLessThan(1500);
  await expectAccessible(page);
  await leave(page);
});

test('a .csv is a table, and a change names its row and column', async ({ browser }) => {
  const older = 'Span,Stop above,Open below\nValley to Tower 3,19,14\nTower 3 to Tower 6,17,12\n';
  const newer = older.replace('17,12', '16,12').concat('Tower 6 to Summit,15,10\n');
  const address = await versions('CSV', 'limits.csv', older, newer);
  const page = await openAs(browser, 'author', address);
  await expect(page.getByRole('table').getByRole('cell', { name: 'Valley to Tower 3' })).toBeVisible();
  await page.goto(`${address}/compare/0.1/0.2`);
  await expect(region(page).getByRole('row', { name: 'Tower 6 to Summit 15 10' })).toBeVisible();
  const changes = page.getByRole('complementary', { name: 'Changes' });
  await expect(changes.getByRole('listitem')).toHaveText([
    'table cell changedrow 3, column 217 16',
    'new table rowrow 4 Tower 6 to Summit · 15 · 10',
  ]);
  await expectAccessible(page);
  await leave(page);
});

test('a table wider than the sheet is reached and scrolled by keys', async ({ browser }) => {
  const row = Array.from({ length: 40 }, (_, at) => `Tower ${at + 1}`).join();
  const address = await versions('WID', 'towers.csv', `${row}\n${row}\n`, `${row}\n`.repeat(3));
  const page = await openAs(browser, 'author', address);
  const table = page.getByRole('region', { name: 'Table', exact: true });
  await expect(table).toHaveAttribute('tabindex', '0');
  await expectAccessible(page);
  await table.focus();
  await page.keyboard.press('ArrowRight');
  await expect.poll(() => table.evaluate(({ scrollLeft }) => scrollLeft)).toBeGreaterThan(0);
  await leave(page);
});

test('Markdown is set, a line broken elsewhere is no change, and the heading above names the place', async ({
  browser,
}) => {
  const older =
    '# Readings\n\n## At six\n\nRead **both** masts\nand call the value.\n\n- valley\n- summit mast\n';
  const newer =
    '# Readings\n\n## At six\n\nRead *both* masts and\ncall the value.\n\n- valley\n- crest mast\n';
  const address = await versions('MDN', 'readings.md', older, newer);
  const page = await openAs(browser, 'author', address);
  await expect(page.getByRole('heading', { name: 'At six' })).toBeVisible();
  await expect(page.getByText('both').first()).toHaveCSS('font-style', 'italic');
  await page.goto(`${address}/compare/0.1/0.2`);
  const changes = page.getByRole('complementary', { name: 'Changes' });
  await expect(changes.getByRole('listitem')).toHaveText([
    'paragraph restyledAt sixRead both masts and call the value.not bold, italic',
    'list item changedAt sixsummit crest',
  ]);
  await leave(page);
});

test('text from right to left stands to the right, beside and in the list of changes', async ({
  browser,
}) => {
  const address = await versions(
    'RTL',
    'hebrew.txt',
    'פתיחת הקו אחרי רוח חזקה\n',
    'פתיחת הקו אחרי רוח חלשה\n',
  );
  const page = await openAs(browser, 'author', `${address}/compare/0.1/0.2`);
  for (const text of [region(page).locator('p'), page.getByRole('listitem').locator('[dir]')])
    await expect(text).toHaveCSS('direction', 'rtl');
  await expect(region(page).locator('del')).toHaveText('חזקה');
  await leave(page);
});

test('a printed comparison is whole, with whose versions they are, and without what steps through it', async ({
  browser,
}) => {
  const lines = (last: string): string =>
    [...Array.from({ length: 700 }, (_, line) => `Line ${line} of a long list.`), last].join('\n\n');
  const address = await versions('CPP', 'long.txt', lines('The end'), lines('Another end'));
  const page = await openAs(browser, 'author', `${address}/compare/0.1/0.2`);
  await expect(page.locator('.slice').first()).toBeVisible();
  await expect(page.getByText('Line 650 of a long list.')).toHaveCount(0);
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByText('Line 650 of a long list.')).toBeVisible();
  await expect(page.getByText('Another')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'Changes' })).toBeHidden();
  await expect(page.getByText(/^0\.1, draft: T\. Brandvold, .*\d{4}/)).toBeVisible();
  await expect(page.getByText(/^Printed by T\. Brandvold, .*\d{4}/)).toBeVisible();
  // Nothing is cut off: the page is as long as its text.
  const cut = await page
    .locator('.compare-page')
    .evaluate((element) => element.scrollHeight - element.clientHeight);
  expect(cut).toBeLessThanOrEqual(1);
  await leave(page);
});

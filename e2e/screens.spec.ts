import { expect, test } from '@playwright/test';
import { expectAccessible, inDatabase, leave, openAs, openFresh, password, row } from './support.ts';

test('sign-in leads back to where one wanted to go; a wrong password is told in a sentence', async ({
  page,
}) => {
  await page.goto('/OP/in-force');
  await expect(page).toHaveURL(/sign-in$/);
  await expectAccessible(page);
  await page.getByLabel('Account').fill('reader');
  await page.getByLabel('Password', { exact: true }).fill('wrong');
  await page.getByLabel('Password', { exact: true }).press('Enter');
  await expect(page.locator('.refusal')).toHaveText(
    'Account and password do not match. Check both and try again.',
  );
  await page.getByLabel('Password', { exact: true }).fill(password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await expect(page.getByRole('heading', { name: 'In force', level: 1 })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'P. Lindqvist' }).click();
  await page.getByRole('menuitem', { name: 'Sign out' }).click();
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await page.goto('/OP');
  await expect(page).toHaveURL(/sign-in$/);
});

test('the Register: who holds what without an act, the sentence as a filter, the link to share it', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller');
  await expect(row(page, 'OP-015')).toContainText('J. Sandoval · since');
  await expect(row(page, 'OP-015')).toContainText('due');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Custody: held or not' }).click();
  await page.getByRole('menuitem', { name: 'held and overdue' }).click();
  await expect(page).toHaveURL(/overdue=true/);
  await expect(page.getByRole('row').filter({ has: page.locator('.doc-number') })).toHaveCount(1);
  await expect(row(page, 'OP-015')).toBeVisible();
  const shared = page.url();
  await page.getByRole('button', { name: 'Custody: held and overdue' }).click();
  await page.getByRole('menuitem', { name: 'held or not' }).click();
  await expect(row(page, 'OP-011')).toBeVisible();
  await page.goto(shared);
  await expect(page.getByRole('row').filter({ has: page.locator('.doc-number') })).toHaveCount(1);
  await page.keyboard.press('/');
  await page.getByLabel('Find a document').fill('no such thing');
  await page.getByLabel('Find a document').press('Enter');
  await expect(page.getByText('No document fits the sentence above.')).toBeVisible();
  await leave(page);
});

test('unrolling takes one act; comparing the latest draft with what is in force takes one', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller');
  await row(page, 'OP-014')
    .getByRole('button', { name: /^Unroll/ })
    .click();
  await expect(page.getByRole('table', { name: 'Versions of OP-014' }).getByRole('row')).toHaveCount(15);
  await row(page, 'OP-014').getByRole('link', { name: 'Compare 4.2 with 4.0' }).click();
  await expect(page.getByText(/\d+ changes/)).toBeVisible();
  await expect(page.getByText('Unchanged: header; footer.')).toBeVisible();
  await leave(page);
});

test('a version reads with the headers and footers of its file, page by page', async ({ browser }) => {
  const page = await openAs(browser, 'reader');
  await row(page, 'OP-014').getByRole('link', { name: 'Opening the line after high wind' }).click();
  const sheet = page.getByRole('article', { name: 'Page 1 of 2' });
  await expect(sheet.locator('header')).toHaveText('Orrin Vale Ropeway · OP-014Operating procedure');
  await expect(sheet.locator('footer')).toHaveText(
    'Printed copies are not controlled.Page 1 of 2Not an issued copy · version – · issued –',
  );
  await expect(page.getByRole('article', { name: 'Page 2 of 2' }).locator('footer')).toContainText(
    'Page 2 of 2',
  );
  await expect(sheet.getByRole('cell', { name: 'Valley to Tower 3' })).toBeVisible();
  await leave(page);
});

test('the Strand by keyboard: arrows move, Enter reads, a typed number jumps, two compare', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller');
  await row(page, 'OP-014').getByRole('link', { name: 'Opening the line after high wind' }).click();
  await page.getByRole('button', { name: /^4\.0, in force/ }).focus();
  await page.keyboard.press('ArrowLeft');
  await expect(page.getByRole('button', { name: /^3\.3, draft/ })).toBeFocused();
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/versions\/3\.3$/);
  await page.keyboard.type('2.0');
  await expect(page).toHaveURL(/versions\/2\.0$/);
  await page.waitForTimeout(1600);
  await page.keyboard.type('1.2 3.0');
  await expect(page).toHaveURL(/compare\/1\.2\/3\.0$/);
  await leave(page);
});

test('the side panel, the keys of the Register, help and the dark theme', async ({ browser }) => {
  const page = await openAs(browser, 'controller');
  await expect(row(page, 'OP-033')).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('complementary', { name: 'OP-011' })).toContainText(
    '4.0 is in force; every member sees it.',
  );
  await page.keyboard.press('ArrowDown');
  await expect(page.getByRole('complementary', { name: 'OP-014' })).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('table', { name: 'Versions of OP-014' })).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.getByRole('table', { name: 'Versions of OP-014' })).toHaveCount(0);
  await page.keyboard.press('?');
  const help = page.locator('.help');
  await expect(help).toContainText('unroll its versions');
  await page.keyboard.press('?');
  await expect(help).toBeHidden();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'M. Oduya' }).click();
  await page.getByRole('menuitem', { name: 'Dark' }).click();
  await expect(page.locator('html')).toHaveAttribute('data-scheme', 'dark');
  await expect(page.getByRole('menuitem', { name: 'Dark' })).toBeHidden();
  await expectAccessible(page);
  await page.keyboard.press('Enter');
  await expect(
    page.getByRole('heading', { level: 1, name: 'Opening the line after high wind' }),
  ).toBeVisible();
  await expectAccessible(page);
  await leave(page);
});

test('a part of the application that cannot be fetched is told, with what to do', async ({ browser }) => {
  const page = await openFresh(browser, 'reader', '/in-force');
  await page.route(/\/assets\/AccountPage/, (route) => route.fulfill({ status: 404 }));
  await page.goto('/account');
  await expect(page.getByRole('main')).toContainText(
    'Polychron was brought up to date while the page was open, or the server cannot be reached. Load the page again.',
  );
  await page.unroute(/\/assets\/AccountPage/);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'My account' })).toBeVisible();
  await page.context().close();
});

test('what is not there is said so', async ({ browser }) => {
  const page = await openAs(browser, 'reader', '/OP/documents/00000000-0000-4000-8000-000000000000');
  await expect(page.getByText('There is no such document, or nothing of it that you may see.')).toBeVisible();
  await page.goto('/NO');
  await expect(page.getByRole('heading', { name: 'Nothing is at this address' })).toBeVisible();
  await page.goto('/OP/%E0');
  await expect(page.getByRole('heading', { name: 'Nothing is at this address' })).toBeVisible();
  await page.getByRole('link', { name: 'Go to the first page' }).click();
  await expect(page.getByRole('heading', { name: 'In force', level: 1 })).toBeVisible();
  const admin = await openAs(browser, 'admin', '/');
  await expect(admin.getByRole('heading', { name: 'People and libraries' })).toBeVisible();
  await leave(admin);
  await leave(page);
});

test('a clock that leapt ahead is told to whoever may confirm it, and to nobody else @deep', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller');
  const told = page.getByText("The server's clock says");
  await expect(row(page, 'OP-011')).toBeVisible();
  await expect(told).toBeHidden();
  inDatabase('UPDATE site_clock SET last_seen = last_seen - INTERVAL 60 DAY');
  // The server looks at its clock every quarter of a minute.
  await expect(async () => {
    await page.reload();
    await expect(told).toBeVisible({ timeout: 10_000 });
  }).toPass();
  await expectAccessible(page);
  const reader = await openAs(browser, 'reader');
  await expect(row(reader, 'OP-011')).toBeVisible();
  await expect(reader.getByText("The server's clock says")).toBeHidden();
  await leave(reader);
  await page.getByRole('button', { name: 'The time is right: go on' }).click();
  await expect(told).toBeHidden();
  await page.reload();
  await expect(row(page, 'OP-011')).toBeVisible();
  await expect(told).toBeHidden();
  await leave(page);
});

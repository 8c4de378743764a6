import { expect, test } from '@playwright/test';
import { adminAndAuthor, documentFor, expectAccessible, libraryFor, leave, openAs, row } from './support.ts';

const by = adminAndAuthor();
const day = (days: number): string => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);

test('what nears its review date waits on the Desk; it is confirmed with the next date, or a draft is opened', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'REV', {});
  for (const title of ['Checking the brake', 'Checking the rope']) {
    const id = await documentFor(by.author, library, title, 'Every year.', 'major');
    const dated = await by.author.patch(`/api/v1/documents/${id}`, {
      data: { fields: { reviewBy: day(20) }, level: 'major', comment: 'Dated' },
    });
    expect(dated.status()).toBe(200);
  }
  const page = await openAs(browser, 'author', '/desk');
  const brake = page.getByRole('article', { name: 'REV-001 Checking the brake' });
  await brake.getByRole('button', { name: 'Review it' }).click();
  await brake.getByRole('button', { name: 'Review 2.0' }).click();
  await expect(brake.getByRole('region', { name: 'Consequences' })).toContainText(
    'Readers keep 2.0 either way.',
  );
  await expectAccessible(page);
  await brake.getByLabel('What you found').fill('Walked it with the crew');
  const next = brake.getByRole('textbox', { name: 'Next review by' });
  await next.fill(day(300));
  await next.press('Enter');
  await brake.getByRole('button', { name: /^Confirm 2\.0, next review by / }).click();
  await expect(brake).toBeHidden();
  await page.getByRole('article', { name: 'REV-002 Checking the rope' }).getByRole('link').first().click();
  await expect(page.getByText(/^To be reviewed by .*, soon\.$/)).toBeVisible();
  await page.getByRole('button', { name: 'Review 2.0' }).click();
  await page.getByRole('button', { name: 'Change it: open draft 2.1' }).click();
  await expect(page.getByText('Say in a sentence what is to be changed.')).toBeVisible();
  await page.getByLabel('What you found').fill('The rope is a new one');
  await page.getByRole('button', { name: 'Change it: open draft 2.1' }).click();
  await expect(page.getByText('it is to be changed: “The rope is a new one”')).toBeVisible();
  await page.goto('/REV');
  await expect(row(page, 'REV-002')).toContainText('2.1');
  await page.getByRole('button', { name: 'Review: due for review or not' }).click();
  await page.getByRole('menuitem', { name: 'due for review', exact: true }).click();
  await expect(row(page, 'REV-001')).toHaveCount(0);
  await expect(row(page, 'REV-002')).toBeVisible();
  await page.getByRole('button', { name: 'Review: due for review' }).click();
  await page.getByRole('menuitem', { name: 'due for review or not' }).click();
  await row(page, 'REV-001').getByRole('link', { name: 'Checking the brake' }).click();
  await expect(
    page.getByText(/T\. Brandvold reviewed 2\.0 on .*: confirmed: “Walked it with the crew”/),
  ).toBeVisible();
  await expectAccessible(page);
  await leave(page);
});

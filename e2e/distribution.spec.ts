import { expect, type Locator, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { Acts, adminAndAuthor, documentFor, expectAccessible, libraryFor, leave, openAs } from './support.ts';

const by = adminAndAuthor();

/** Names somebody in a field of people, and leaves it. */
async function nameSomebody(field: Locator, typed: string, shown: string): Promise<void> {
  await field.fill(typed);
  await field.page().getByTitle(shown, { exact: true }).click();
  await field.blur();
}

test('a document is distributed; readers confirm it where they read; who has and who has not is seen, reminded, taken along', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'DIS', {});
  const id = await documentFor(
    by.author,
    library,
    'Signals at the drive station',
    'One bell: stop.',
    'major',
  );

  const author = await openAs(browser, 'author', `/DIS/documents/${id}`);
  await author.getByRole('button', { name: 'Ask people to read it' }).click();
  await nameSomebody(author.getByLabel('To be read by', { exact: true }), 'Lind', 'P. Lindqvist (reader)');
  await nameSomebody(
    author.getByLabel('To be read by', { exact: true }),
    'Sandoval',
    'J. Sandoval (author2)',
  );
  await expect(author.getByText('Whoever is new is asked to read 1.0 now')).toBeVisible();
  await expectAccessible(author);
  await author.getByRole('button', { name: 'Ask them to read it' }).click();
  await expect(author.getByText('0 of 2 have confirmed reading 1.0.')).toBeVisible();

  // The reader finds it on the spine, the Desk and in the list, and confirms it below its title.
  const reader = await openAs(browser, 'reader', '/desk');
  await expect(reader.getByRole('link', { name: /In force, \d+ to read/ })).toBeVisible();
  const toRead = reader.getByRole('region', { name: 'To read' });
  await expect(toRead).toContainText('Signals at the drive station');
  await reader.goto('/DIS/in-force');
  await expect(reader.getByRole('listitem').filter({ hasText: 'Signals' })).toContainText('to be read');
  const acts = new Acts();
  await acts.click(reader.getByRole('link', { name: 'Signals at the drive station' }));
  await expect(reader.getByText('One bell: stop.')).toBeVisible();
  await expectAccessible(reader);
  await acts.click(reader.getByRole('button', { name: 'I have read 1.0' }));
  await expect(reader.getByText(/You confirmed having read 1\.0 on/)).toBeVisible();
  expect(acts.count).toBe(2);

  // The author's page says so by itself, reminds the other, and takes the list along.
  await expect(author.getByText('1 of 2 have confirmed reading 1.0.')).toBeVisible();
  await author.getByRole('button', { name: 'Who has, who has not' }).click();
  const readers = author.getByRole('table', { name: 'Asked to read' });
  await expect(readers.getByRole('row').nth(1)).toContainText(/J\. Sandoval.*not yet/);
  await expect(readers.getByRole('row').nth(2)).toContainText('P. Lindqvist');
  await author.getByRole('button', { name: 'Remind them' }).click();
  await expect(author.getByText('One person has not confirmed it yet and is told once more')).toBeVisible();
  await author.getByRole('button', { name: 'Remind 1' }).click();
  const [download] = await Promise.all([
    author.waitForEvent('download'),
    author.getByRole('button', { name: '.csv' }).click(),
  ]);
  expect(download.suggestedFilename()).toBe('DIS-001 distribution.csv');
  expect(readFileSync(await download.path(), 'utf8')).toMatch(/J\. Sandoval,author2,.*not yet/);
  const other = await openAs(browser, 'author2', '/desk');
  await expect(other.getByText('reminds you to read DIS-001 1.0 and to confirm it')).toBeVisible();
  await leave(author, reader, other);
});

test('a document is kept to named people: who loses sight is said before, and it is gone for them after', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'LTD', {});
  const id = await documentFor(by.author, library, 'List of casualties', 'Names follow.', 'major');
  const reader = await openAs(browser, 'reader', '/LTD');
  await expect(reader.getByText('List of casualties')).toBeVisible();
  const approver = await openAs(browser, 'approver2', `/LTD/documents/${id}`);
  await expect(approver.getByRole('heading', { name: 'List of casualties' })).toBeVisible();

  const controller = await openAs(browser, 'controller', `/LTD/documents/${id}`);
  await controller.getByRole('button', { name: 'Keep it to named people' }).click();
  await nameSomebody(controller.getByLabel('Kept to', { exact: true }), 'Lind', 'P. Lindqvist (reader)');
  const asked = controller.getByRole('region', { name: 'Consequences' });
  await expect(asked).toContainText('4 lose sight of it');
  await expect(asked).toContainText('A. Kilbride');
  await expectAccessible(controller);
  await asked.getByLabel('Why? (kept in the audit trail)').fill('Names of casualties');
  await asked.getByRole('button', { name: 'Keep it to these: 4 lose sight of it' }).click();
  await expect(controller.getByText('Kept to P. Lindqvist, besides its owner')).toBeVisible();

  // Open pages of those who lost it say so by themselves; whoever is named keeps it.
  await expect(approver.getByText(/no such document/)).toBeVisible();
  await approver.goto('/LTD');
  await expect(approver.getByText('List of casualties')).toHaveCount(0);
  await reader.reload();
  await expect(reader.getByText('List of casualties')).toBeVisible();

  await controller.getByRole('button', { name: 'Open it to every member' }).click();
  const opening = controller.getByRole('region', { name: 'Consequences' });
  await expect(opening).toContainText('4 gain sight of it');
  await opening.getByLabel('Why? (kept in the audit trail)').fill('The inquiry is over');
  await opening.getByRole('button', { name: 'Open it to every member' }).click();
  await approver.reload();
  await expect(approver.getByText('List of casualties')).toBeVisible();
  await leave(reader, approver, controller);
});

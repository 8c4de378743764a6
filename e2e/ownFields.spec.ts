import { expect, type Page, test } from '@playwright/test';
import {
  adminAndAuthor,
  expectAccessible,
  file,
  libraryFor,
  leave,
  openAs,
  registerFile,
  row,
} from './support.ts';

const by = adminAndAuthor();

async function chooseInSentence(page: Page, name: string, words: string): Promise<void> {
  await page.getByRole('button', { name: `${name}:` }).click();
  await page.getByRole('menuitem', { name: words }).click();
}

test('a library defines a field and a pattern; what needs it is registered with it, or waits on the Desk', async ({
  browser,
}) => {
  await libraryFor(by.admin, 'TWR', {});
  const rules = await openAs(browser, 'controller', '/TWR/rulebook');
  await rules.getByRole('button', { name: 'other numbers for a type' }).click();
  await rules.getByLabel('Type of pattern 1').fill('Drawing');
  await expect(rules.getByRole('alert')).toContainText('A pattern is letters');
  await rules.getByLabel('Pattern 1', { exact: true }).fill('DRW-####');
  await expect(rules.getByText('The seventh is DRW-0007 or TWR-007.')).toBeVisible();
  await rules.getByRole('button', { name: 'add a field' }).click();
  await rules.getByLabel('Name of the field').fill('Part');
  await chooseInSentence(rules, 'Kind of Part', 'a choice');
  await rules.getByLabel('What can be chosen of Part').fill('Ropes: Haul rope, Track rope\nTowers');
  await chooseInSentence(rules, 'Who needs Part', 'that documents of these types need:');
  await rules.getByLabel('Types that need Part').fill('Drawing');
  await rules.getByLabel('Types that need Part').press('Enter');
  await rules.keyboard.press('Escape');
  await expectAccessible(rules);
  await expect(rules.getByText('“Part” must be filled in where a document is registered')).toBeVisible();
  await rules.getByLabel('Reason').fill('Drawings say what they show');
  await rules.getByRole('button', { name: 'Apply 2 rules' }).click();
  await expect(rules).toHaveURL(/\/TWR$/);
  await leave(rules);

  const page = await openAs(browser, 'author', '/TWR');
  // Several at once, with nothing filled in that a drawing needs: they are not lost.
  await page.getByRole('button', { name: 'New document' }).click();
  await page
    .getByRole('region', { name: 'New document' })
    .locator('input[type=file]')
    .setInputFiles([file('saddle.md', 'The saddle.'), file('sheave.md', 'The sheave.')]);
  const many = page.getByRole('region', { name: 'New documents' });
  await many.getByLabel('Type').fill('Drawing');
  await expect(many.getByText('· needed')).toBeVisible();
  await many.getByLabel('Comment').click();
  await many.getByRole('button', { name: 'Register 2 documents as 0.1, drafts' }).click();
  await expect(many.getByText('Part has to be filled in.')).toBeVisible();
  await many.getByRole('button', { name: 'Keep them on my Desk' }).click();
  await expect(page.getByText('2 on your Desk: something has to be filled in')).toBeVisible();

  await page.goto('/desk');
  const arrival = page.getByRole('article', { name: /saddle\.md/ });
  await expect(arrival).toContainText('for Library TWR, needs Part');
  await arrival.getByRole('link', { name: 'Bring in' }).click();
  await expect(page.getByLabel('Type')).toHaveValue('Drawing');
  await page.getByLabel('Part').click();
  await page.getByRole('menuitemcheckbox', { name: 'Ropes' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Haul rope' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Register in Library TWR' }).click();
  await expect(page.getByText('DRW-0001 is registered as 0.1.')).toBeVisible();

  await page.goto('/TWR');
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('checkbox', { name: 'Part' }).click();
  await page.keyboard.press('Escape');
  await expect(row(page, 'DRW-0001')).toContainText('Ropes · Haul rope');
  // Changed, it is a version, and stands first in what changed.
  await row(page, 'DRW-0001').getByRole('link', { name: 'saddle' }).click();
  await page.getByRole('button', { name: 'change', exact: true }).click();
  await page.getByLabel('Part').click();
  await page.getByRole('menuitemcheckbox', { name: 'Towers' }).click();
  await page.getByRole('button', { name: 'Record as 0.2' }).click();
  await expect(page.getByText('DRW-0001 is recorded as 0.2', { exact: false })).toBeVisible();
  await page.goto(`${page.url().replace(/\/versions.*$/, '')}/compare/0.1/0.2`);
  await expect(page.getByRole('main')).toContainText('Part');
  await expect(page.getByRole('main')).toContainText('Towers');
  await leave(page);
});

test('a document becomes the template of a type, and a new one begins with what is in force of it', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'TPL', {});
  const of = {
    title: 'Empty report',
    name: 'report.md',
    content: '# What happened',
    level: 'major' as const,
  };
  const id = await registerFile(by.author, library, of);
  const controller = await openAs(browser, 'controller', `/TPL/documents/${id}`);
  await controller.getByRole('button', { name: 'Use it as a template' }).click();
  await controller.getByLabel('Type of documents').fill('Report');
  await expectAccessible(controller);
  await controller.getByRole('button', { name: 'Template of “Report”' }).click();
  await expect(controller.getByText('Template of “Report”.')).toBeVisible();

  const page = await openAs(browser, 'author', '/TPL');
  await page.getByRole('button', { name: 'New document' }).click();
  const form = page.getByRole('region', { name: 'New document' });
  await form.getByRole('button', { name: 'Empty report' }).click();
  await expect(form.getByLabel('Type')).toHaveValue('Report');
  await form.getByLabel('Title').fill('Report of the night');
  await expectAccessible(page);
  await form.getByRole('button', { name: 'Register as 0.1, a draft' }).click();
  await expect(page.getByText('TPL-002 is registered as 0.1.')).toBeVisible();
  await row(page, 'TPL-002').getByRole('link', { name: 'Report of the night' }).click();
  await expect(page.getByRole('heading', { name: 'What happened' })).toBeVisible();
  await expect(page.getByText('begun with a template')).toBeVisible();

  await controller.getByRole('button', { name: 'End that' }).click();
  await controller.getByRole('button', { name: 'It is no template any more' }).click();
  await expect(controller.getByRole('button', { name: 'Use it as a template' })).toBeVisible();
  await leave(page, controller);
});

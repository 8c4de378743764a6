import { expect, test } from '@playwright/test';
import { adminAndAuthor, dropFile, expectAccessible } from './support.ts';
import { file, libraryFor, leave, openAs, registerFile, row } from './support.ts';

const by = adminAndAuthor();

test('subjects stand beside the list as folders; a file dropped on one is registered there', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'SUB', {});
  const folders = [['inspection', 'rope'], ['inspection', 'cabins'], ['rescue'], ['rope', 'inspection']];
  for (const [place, subject] of folders.entries()) {
    const id = await registerFile(by.author, library, {
      title: `Sheet ${place}`,
      name: `s${place}.txt`,
      content: 'a',
    });
    const fields = { subject };
    expect((await by.author.patch(`/api/v1/documents/${id}`, { data: { fields } })).ok()).toBe(true);
  }
  const page = await openAs(browser, 'author', '/SUB');
  await expect(row(page, 'SUB-004')).toBeVisible();
  await page.getByRole('button', { name: 'Subjects' }).click();
  const tree = page.getByRole('navigation', { name: 'Subjects' });
  await expect(tree.locator('.folder')).toHaveText(['inspection', 'rescue', 'rope']);
  await tree.locator('.folder', { hasText: 'inspection' }).click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('inspection');
  await expect(row(page, 'SUB-002')).toBeVisible();
  await expect(row(page, 'SUB-004')).toHaveCount(0);

  await tree.locator('.ant-tree-treenode', { hasText: 'inspection' }).locator('.ant-tree-switcher').click();
  await expect(tree.locator('.folder')).toHaveText(['inspection', 'cabins', 'rope', 'rescue', 'rope']);
  await tree.locator('.folder', { hasText: 'rope' }).first().click();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('inspection › rope');
  await expect(row(page, 'SUB-002')).toHaveCount(0);
  await expect(row(page, 'SUB-001')).toBeVisible();
  await expectAccessible(page);

  await dropFile(tree.locator('.folder', { hasText: 'cabins' }), file('doors.txt', 'Close the doors.'));
  const form = page.getByRole('region', { name: 'New document' });
  await expect(form).toContainText('inspection');
  await expect(form).toContainText('cabins');
  await form
    .getByRole('button', { name: /^Register as/ })
    .first()
    .click();
  await tree.locator('.folder', { hasText: 'cabins' }).click();
  await expect(row(page, 'SUB-005')).toContainText('doors');

  // It stays so in this browser, and the address is the place.
  await page.reload();
  await expect(page.getByRole('heading', { level: 1 })).toContainText('inspection › cabins');
  await expect(tree.locator('.folder', { hasText: 'cabins' })).toBeVisible();
  await expect(row(page, 'SUB-005')).toBeVisible();
  await leave(page);
});

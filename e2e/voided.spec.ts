import { expect, test } from '@playwright/test';
import { adminAndAuthor, documentFor, expectAccessible, leave, libraryFor, openAs, row } from './support.ts';

const by = adminAndAuthor();

test('a document registered by mistake is voided, found among the void ones, and stands again', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'ERRD', {});
  const id = await documentFor(by.author, library, 'Rescue, twice', 'The same text.', 'major');
  await documentFor(by.author, library, 'Rescue', 'The same text.', 'major');
  const controller = await openAs(browser, 'controller', `/ERRD/documents/${id}`);
  const reader = await openAs(browser, 'reader', '/ERRD');
  await expect(row(reader, 'ERRD-001')).toBeVisible();

  await controller.getByRole('button', { name: 'Registered by mistake: void ERRD-001' }).click();
  const consequences = controller.getByRole('region', { name: 'Consequences' });
  // What it says of readers is what then happens to them.
  await expect(consequences).toContainText('1.0 is no longer in force for anybody: 7 members lose it.');
  await expect(consequences).toContainText('the number is never used again');
  const send = consequences.getByRole('button', { name: 'Void ERRD-001' });
  await send.click();
  await expect(consequences.getByRole('alert')).toContainText('Say in a sentence why');
  await consequences.getByRole('textbox').fill('Registered twice: ERRD-002 is the one');
  await expectAccessible(controller);
  await send.click();
  await expect(controller.getByText('ERRD-001 is void. Its number is not used again.')).toBeVisible();
  await expect(row(controller, 'ERRD-002')).toBeVisible();
  await expect(row(controller, 'ERRD-001')).toHaveCount(0);
  await expect(row(reader, 'ERRD-001')).toHaveCount(0);
  await expect(reader.getByRole('button', { name: /^Void: / })).toHaveCount(0);
  await reader.goto(`/ERRD/documents/${id}`);
  await expect(
    reader.getByText('There is no such document, or nothing of it that you may see'),
  ).toBeVisible();

  await controller.getByRole('button', { name: 'Void: Documents' }).click();
  await controller.getByRole('menuitem', { name: 'Voided documents' }).click();
  await expect(row(controller, 'ERRD-001')).toBeVisible();
  await expect(row(controller, 'ERRD-002')).toHaveCount(0);
  await controller.goto(`/ERRD/documents/${id}`);
  const said = controller.getByRole('region', { name: 'Void', exact: true });
  await expect(said).toContainText('Voided by M. Oduya');
  await expect(said).toContainText('“Registered twice: ERRD-002 is the one”');
  await expect(controller.getByRole('button', { name: /^Check out/ })).toHaveCount(0);
  await expectAccessible(controller);
  await said.getByRole('button', { name: 'Let ERRD-001 stand again' }).click();
  await said.getByRole('textbox').fill('The other was the mistake');
  await expect(said).toContainText('readers get 1.0 again');
  await said.getByRole('button', { name: 'Let ERRD-001 stand again' }).click();
  await expect(said).toHaveCount(0);
  await reader.goto('/ERRD');
  await expect(row(reader, 'ERRD-001')).toBeVisible();
  await leave(controller, reader);
});

test('whoever registered a document by mistake takes it back', async ({ browser }) => {
  const library = await libraryFor(by.admin, 'OWNM', {});
  const id = await documentFor(by.author, library, 'Not here', 'Text.', 'minor');
  const page = await openAs(browser, 'author', `/OWNM/documents/${id}`);
  await page.getByRole('button', { name: 'Registered by mistake: void OWNM-001' }).click();
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await consequences.getByRole('textbox').fill('The wrong library');
  await consequences.getByRole('button', { name: 'Void OWNM-001' }).click();
  await expect(page).toHaveURL(/\/OWNM$/);
  await expect(page.getByText('The library is empty.')).toBeVisible();
  await leave(page);
});

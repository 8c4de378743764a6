import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { expectAccessible, leave, openAs, row } from './support.ts';

test('a library as it was a month ago: read, opened, compared, and nothing done; then back', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller', '/OP');
  await expect(row(page, 'OP-014')).toContainText('T. Brandvold');
  await page.getByRole('button', { name: 'As of: now' }).click();
  await expect(page.getByRole('textbox', { name: 'As of' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'A month ago' }).click();
  const frame = page.getByRole('status').filter({ hasText: 'You see this as it was on' });
  await expect(frame).toContainText('as far as you saw it then and may see it now');
  // Held since, and not then; a draft came since.
  await expect(row(page, 'OP-014')).toContainText('4.1');
  await expect(row(page, 'OP-014')).not.toContainText('T. Brandvold');
  await expect(page.getByRole('button', { name: 'New document' })).toBeHidden();
  await expect(page.getByText(', by number.')).toBeVisible();
  await expectAccessible(page);
  await row(page, 'OP-014').getByRole('link', { name: 'Opening the line after high wind' }).first().click();
  await expect(page.getByRole('button', { name: /^Check out/ })).toBeHidden();
  await expect(page.getByText(/^You are looking at .* UTC and can only look/).first()).toBeVisible();
  await expect(page.getByText('4.0 · in force', { exact: true })).toBeVisible();
  await page.getByRole('button', { name: /^Compare 4.1 with 4.0/ }).click();
  await expect(page).toHaveURL(/\/compare\/4\.0\/4\.1$/);
  await expect(page.getByText(/^\d+ changes?/).first()).toBeVisible();
  await expect(frame).toBeVisible();
  await page.getByRole('button', { name: 'Back to now' }).click();
  await expect(frame).toBeHidden();
  await page.goto('/OP');
  await expect(row(page, 'OP-014')).toContainText('T. Brandvold');
  await leave(page);
});

test('on the calendar a plumb line says what was in force, a second one what happened since; printed, as a file', async ({
  browser,
}) => {
  const page = await openAs(browser, 'auditor', '/OP/as-of');
  const line = page.getByRole('slider', { name: 'As of' });
  const calendar = page.getByRole('region', { name: /^In force from/ });
  const of = (number: string) => calendar.getByRole('listitem').filter({ hasText: number });
  await expect(of('OP-015')).toContainText('2.0');
  await expectAccessible(page);
  // By the beginning of the calendar nothing was in force; a month a key, back to where something was.
  await line.focus();
  await page.keyboard.press('Home');
  await expect(of('OP-015')).toContainText('nothing in force');
  await page.keyboard.press('End');
  for (let month = 0; month < 10; month += 1) await page.keyboard.press('PageDown');
  await expect(of('OP-015')).toContainText('1.0 since');
  const box = await line.boundingBox();
  if (!box) throw new Error('the line is nowhere');
  await page.mouse.move(box.x + box.width / 2, box.y + 120);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 + 400, box.y + 120, { steps: 4 });
  await page.mouse.up();
  await expect(of('OP-015')).toContainText('2.0 since');
  const since = page.getByRole('textbox', { name: 'Since' });
  await since.fill(new Date(Date.now() - 120 * 86_400_000).toISOString().slice(0, 16));
  await since.press('Enter');
  const happened = page.getByRole('region', { name: 'What happened' });
  await expect(happened).toContainText('came into force');
  await expect(page.getByRole('slider', { name: 'Since' })).toBeVisible();
  await expectAccessible(page);
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: '.csv' }).click();
  const csv = readFileSync(await (await download).path(), 'utf8');
  expect(csv).toContain('OP-015,Evacuation by lowering,Operating procedures');
  await page.emulateMedia({ media: 'print' });
  await expect(page.getByText(/^In force on .* documents\.$/)).toBeVisible();
  await expect(page.getByRole('navigation', { name: 'Main' })).toBeHidden();
  // On a sheet each title is whole, with its version and since when.
  await page.setViewportSize({ width: 720, height: 1000 });
  const title = of('OP-015').locator('.title');
  expect(await title.evaluate((element) => element.scrollWidth <= element.clientWidth)).toBe(true);
  await expect(of('OP-015').getByText(/^since \d/)).toBeVisible();
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.emulateMedia({ media: 'screen' });
  await page.getByRole('button', { name: 'Look at the Register then' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'You see this as it was on' })).toBeVisible();
  await expect(row(page, 'OP-015')).toContainText('2.0');
  await leave(page);
});

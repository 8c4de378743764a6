import { expect, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { Acts, adminAndAuthor, documentFor, expectAccessible, libraryFor, leave, openAs } from './support.ts';

const by = adminAndAuthor();

test('a decision is asked for by mail and given by answering it; the Outbox keeps both ends', async ({
  browser,
}) => {
  const approval = { on: true, mode: 'serial', approvers: ['approver2'] };
  const library = await libraryFor(by.admin, 'OUT', { approval });
  const id = await documentFor(by.author, library, 'Signals in fog', 'Two long ones.', 'minor');
  const submitted = await by.author.post(`/api/v1/documents/${id}/submit`, { data: { comment: 'Please' } });
  expect(submitted.status()).toBe(200);

  // The approver chose to be mailed at once; within a quarter of a minute the message is there.
  const approver = await openAs(browser, 'approver2', '/account');
  await approver.getByRole('button', { name: 'How notices come by mail' }).click();
  await approver.getByRole('menuitem', { name: 'each at once' }).click();
  await expect(approver.getByText('to approver2@polychron.invalid.')).toBeVisible();
  await expectAccessible(approver);
  await approver.getByRole('link', { name: 'Messages', exact: true }).first().click();
  const line = approver.getByRole('button', { name: /OUT-001 0\.1, submitted by T\. Brandvold/ });
  await expect(line).toBeVisible();
  await line.click();
  const message = approver.getByRole('article', { name: 'Message' });
  await expect(message).toContainText('Answers go to');
  await expect(message).toContainText(`/OUT/documents/${id}`);
  await expectAccessible(approver);
  const [download] = await Promise.all([
    approver.waitForEvent('download'),
    message.getByRole('button', { name: '.eml' }).click(),
  ]);
  expect(readFileSync(await download.path(), 'utf8')).toMatch(
    /^From: Polychron <polychron@polychron\.invalid>/m,
  );

  const acts = new Acts();
  const answer = message.getByLabel('Your answer');
  await answer.fill('perhaps');
  await message.getByRole('button', { name: 'Send the answer' }).click();
  await expect(message.getByRole('alert')).toContainText('does not say what you decide');
  await acts.fill(answer, 'approve: heard at tower 7');
  await acts.click(message.getByRole('button', { name: 'Send the answer' }));
  await expect(message.getByRole('status')).toHaveText('You approved OUT-001 0.1. 1.0 is in force.');
  expect(acts.count).toBe(2);
  await expect(line).toContainText('answered');

  // The submitter is told by mail; the administrator sees where it went and nothing of what it says.
  const author = await openAs(browser, 'author', '/outbox');
  await expect(author.getByRole('button', { name: /A\. Kilbride approved OUT-001 0\.1/ })).toBeVisible();
  const admin = await openAs(browser, 'admin', '/outbox');
  await expect(admin.getByRole('list', { name: 'Messages' })).toContainText('To A. Kilbride');
  await expect(admin.getByRole('list', { name: 'Messages' })).not.toContainText('OUT-001');
  await leave(approver, author, admin);
});

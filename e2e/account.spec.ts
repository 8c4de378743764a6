import { expect, test } from '@playwright/test';
import { expectAccessible, openAs } from './support.ts';

const first = 'long enough once';
const second = 'long enough twice';

test('My account: the password changed, a session elsewhere ended, a token made and revoked', async ({
  browser,
}) => {
  const admin = await openAs(browser, 'admin', '/people');
  const person = { account: 'temp', name: 'Temporary', password: first, systemAdministrator: false };
  expect((await admin.request.post('/api/v1/people', { data: person })).status()).toBe(201);
  const signIn = (password: string) =>
    admin.request.post('/api/v1/session', { data: { account: 'temp', password } });

  const here = await browser.newContext();
  expect(
    (await here.request.post('/api/v1/session', { data: { account: 'temp', password: first } })).ok(),
  ).toBe(true);
  const elsewhere = await browser.newContext();
  await elsewhere.request.post('/api/v1/session', { data: { account: 'temp', password: first } });
  const third = await browser.newContext();
  await third.request.post('/api/v1/session', { data: { account: 'temp', password: first } });
  const page = await here.newPage();
  await page.goto('/desk');
  await page.getByRole('button', { name: 'Temporary' }).click();
  await page.getByRole('menuitem', { name: 'My account' }).click();
  await expect(page.getByText('Elsewhere')).toHaveCount(2);
  await expectAccessible(page);
  await page
    .getByRole('button', { name: /^Sign out the session since/ })
    .first()
    .click();
  await expect(page.getByText('Elsewhere')).toHaveCount(1);
  const statuses = [
    (await elsewhere.request.get('/api/v1/session')).status(),
    (await third.request.get('/api/v1/session')).status(),
  ];
  expect(statuses.sort()).toEqual([200, 401]);

  await page.getByLabel('Present password').fill('wrong one');
  await page.getByLabel('New password', { exact: true }).fill(second);
  await page.getByLabel('New password again').fill(second);
  await page.getByRole('button', { name: 'Change the password' }).click();
  await expect(page.getByText('That is not your present password.')).toBeVisible();
  await page.getByLabel('Present password').fill(first);
  await page.getByRole('button', { name: 'Change the password' }).click();
  await expect(page.getByText('Your password is changed, and')).toBeVisible();
  await expect(page.getByText('Elsewhere')).toHaveCount(0);
  expect((await here.request.get('/api/v1/session')).status()).toBe(200);
  expect((await elsewhere.request.get('/api/v1/session')).status()).toBe(401);
  expect((await third.request.get('/api/v1/session')).status()).toBe(401);
  expect([(await signIn(first)).status(), (await signIn(second)).status()]).toEqual([401, 200]);

  await page.getByLabel('What the token is for').fill('nightly');
  await page.getByRole('button', { name: 'Create a token' }).click();
  const secret = await page.getByRole('status').locator('code').innerText();
  const byToken = () =>
    page.request.get('/api/v1/session', { headers: { Authorization: `Bearer ${secret}` } });
  expect((await byToken()).status()).toBe(200);
  await page.getByRole('button', { name: 'Revoke' }).click();
  await page.getByRole('button', { name: 'Revoke nightly' }).click();
  await expect(page.getByText('nightly', { exact: true })).toBeHidden();
  expect((await byToken()).status()).toBe(401);
  for (const context of [here, elsewhere, third, admin.context()]) await context.close();
});

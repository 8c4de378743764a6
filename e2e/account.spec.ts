import { expect, test } from '@playwright/test';
import { documentFor, expectAccessible, libraryFor, openAs } from './support.ts';

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
  await expect(page.getByText('reads and works, without end')).toBeVisible();
  await page.getByRole('button', { name: 'Revoke nightly' }).click();
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await consequences.getByRole('button', { name: 'Revoke nightly' }).click();
  await expect(page.getByText('nightly', { exact: true })).toBeHidden();
  expect((await byToken()).status()).toBe(401);
  for (const context of [here, elsewhere, third, admin.context()]) await context.close();
});

test('an account is closed: what its holder answers for is shown and handed over, sign-ins end; opened again', async ({
  browser,
}) => {
  const leaver = { account: 'leaver', name: 'L. Eaver', password: first, systemAdministrator: false };
  const admin = await openAs(browser, 'admin', '/people');
  expect((await admin.request.post('/api/v1/people', { data: leaver })).status()).toBe(201);
  const code = 'LV';
  const made = await admin.request.post('/api/v1/libraries', { data: { name: 'Left over', code } });
  const { id: library } = (await made.json()) as { id: string };
  const members = [
    { account: 'controller', roles: ['controller'] },
    { account: 'leaver', roles: ['author'] },
    { account: 'author2', roles: ['author'] },
  ];
  expect((await admin.request.put(`/api/v1/libraries/${library}/members`, { data: members })).ok()).toBe(
    true,
  );
  const context = await browser.newContext();
  const { request } = context;
  expect((await request.post('/api/v1/session', { data: { account: 'leaver', password: first } })).ok()).toBe(
    true,
  );
  const document = await request.post(`/api/v1/libraries/${library}/documents`, {
    multipart: {
      fields: JSON.stringify({ title: 'Left by a leaver' }),
      comment: 'First',
      level: 'minor',
      file: { name: 'left.md', mimeType: 'text/markdown', buffer: Buffer.from('left') },
    },
  });
  const { id } = (await document.json()) as { id: string };
  expect((await request.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);

  await admin.getByRole('tab', { name: 'Accounts' }).click();
  await admin.getByLabel('Find an account').fill('leaver');
  await admin.getByRole('button', { name: 'Sign-ins of L. Eaver' }).click();
  await expect(admin.getByRole('region', { name: 'Sign-ins of L. Eaver' })).toContainText('Elsewhere');
  await admin.getByRole('button', { name: 'Close the account of L. Eaver' }).click();
  const closing = admin.getByRole('region', { name: 'Consequences' });
  await expect(closing).toContainText('1 session ends at once');
  await expect(closing).toContainText('In Left over L. Eaver owns 1 document, holds 1 document.');
  await expect(closing.getByRole('button', { name: 'Close the account' })).toHaveCount(0);
  await closing.getByLabel('Who takes over').fill('reader');
  await admin.getByTitle(/· reader$/).click();
  await expect(closing.getByRole('alert')).toContainText('cannot hold documents');
  await closing.getByLabel('Who takes over').fill('author2');
  await admin.getByTitle(/· author2$/).click();
  await expectAccessible(admin);
  await closing.getByRole('button', { name: /^Close the account, hand over to/ }).click();
  await expect(admin.getByRole('row', { name: /L. Eaver/ })).toContainText('closed');
  expect((await request.get('/api/v1/session')).status()).toBe(401);
  const successor = await openAs(browser, 'author2', `/documents/${id}`);
  const custody = await successor.request.get(`/api/v1/documents/${id}/checkout`);
  expect(await custody.json()).toMatchObject({ mine: true });
  await successor.goto('/desk');
  await expect(successor.getByText(/handed over to you what L. Eaver answered for/)).toBeVisible();

  await admin.getByRole('button', { name: 'Open the account of L. Eaver again' }).click();
  await expect(admin.getByRole('row', { name: /L. Eaver/ })).not.toContainText('closed');
  expect((await request.post('/api/v1/session', { data: { account: 'leaver', password: first } })).ok()).toBe(
    true,
  );
  for (const each of [context, admin.context(), successor.context()]) await each.close();
});

test('much to hand over says how far it is, and goes on when the page is left @deep', async ({
  browser,
  playwright,
  baseURL,
}) => {
  const admin = await openAs(browser, 'admin', '/people');
  for (const [account, name] of [
    ['mover', 'M. Over'],
    ['taker', 'T. Aker'],
  ] as const) {
    const person = { account, name, password: first, systemAdministrator: false };
    expect((await admin.request.post('/api/v1/people', { data: person })).status()).toBe(201);
  }
  const library = await libraryFor(admin.request, 'MV', {});
  const members = ['mover', 'taker'].map((account) => ({ account, roles: ['author', 'controller'] }));
  await admin.request.put(`/api/v1/libraries/${library}/members`, { data: members });
  const context = await browser.newContext();
  await context.request.post('/api/v1/session', { data: { account: 'mover', password: first } });
  for (let at = 0; at < 150; at += 1)
    await documentFor(context.request, library, `Moved ${at}`, `moved ${at}`, 'minor');

  await admin.getByRole('tab', { name: 'Accounts' }).click();
  await admin.getByLabel('Find an account').fill('mover');
  await admin.getByRole('button', { name: 'Close the account of M. Over' }).click();
  const closing = admin.getByRole('region', { name: 'Consequences' });
  await closing.getByLabel('Who takes over').fill('taker');
  await admin.getByTitle(/· taker$/).click();
  await expect(closing).toContainText('M. Over owns 150 documents');
  await closing.getByRole('button', { name: /^Close the account, hand over to/ }).click();
  await expect(admin.getByText('It goes on when you leave this page.')).toBeVisible();
  await expectAccessible(admin);
  await admin.goto('/desk');
  const successor = await playwright.request.newContext(baseURL === undefined ? {} : { baseURL });
  await successor.post('/api/v1/session', { data: { account: 'taker', password: first } });
  const owned = async (): Promise<number> => {
    const list = await successor.get(`/api/v1/libraries/${library}/documents?owner=taker&limit=1`);
    return ((await list.json()) as { total: number }).total;
  };
  await expect.poll(owned).toBe(150);
  await admin.goto('/people');
  await admin.getByRole('tab', { name: 'Accounts' }).click();
  await admin.getByLabel('Find an account').fill('mover');
  await admin.getByRole('button', { name: 'What M. Over has left' }).click();
  await expect(closing).toContainText('M. Over answers for nothing any more.');
  for (const each of [context, admin.context()]) await each.close();
  await successor.dispose();
});

test('single sign-on: mapped by the administrator, an account made from the claims, refusals told on the page @deep', async ({
  browser,
}) => {
  const admin = await openAs(browser, 'admin', '/people');
  const context = await browser.newContext();
  const page = await context.newPage();
  const come = async (): Promise<void> => {
    await page.goto('/account');
    await page.getByRole('link', { name: 'Sign in with Ropeway sign-in' }).click();
    const login = page.getByPlaceholder('Enter any login');
    if (await login.isVisible()) {
      await login.fill('newcomer');
      await page.getByPlaceholder('and password').fill('any');
      await page.getByRole('button', { name: 'Sign-in' }).click();
      await page.getByRole('button', { name: 'Continue' }).click();
    }
  };
  await come();
  await expect(page.getByRole('alert')).toContainText('You have no account here yet.');
  await expectAccessible(page);

  await admin.getByRole('tab', { name: 'Sign-in' }).click();
  const form = admin.getByRole('form', { name: 'Sign-in by Ropeway sign-in' });
  await form.getByLabel('Whoever has no account yet gets one').check();
  await form.getByRole('button', { name: 'One more group' }).click();
  await form.getByLabel('Value 1 of the claim').fill('drivers');
  await form.getByLabel('Group 1').fill('Drivers');
  await form.getByRole('button', { name: 'Save' }).click();
  await expect(form.getByRole('status')).toContainText('It holds from the next sign-in on.');
  await expectAccessible(admin);

  await come();
  await expect(page.getByRole('heading', { name: 'My account' })).toBeVisible();
  expect(await (await page.request.get('/api/v1/session')).json()).toMatchObject({
    account: 'newcomer',
    name: 'N. ewcomer',
  });
  for (const each of [context, admin.context()]) await each.close();
});

import { type APIRequestContext, expect, test } from '@playwright/test';
import { apiAs, documentFor, expectAccessible, libraryFor, leave, openAs, row } from './support.ts';

let admin: APIRequestContext;
let author: APIRequestContext;
test.beforeAll(async ({ playwright, baseURL }) => {
  [admin, author] = (await Promise.all(
    ['admin', 'author'].map((account) => apiAs(playwright, account, baseURL ?? '')),
  )) as [APIRequestContext, APIRequestContext];
});
test.afterAll(async () => {
  await Promise.all([admin, author].map((one) => one.dispose()));
});

test('the administrator makes accounts, a group and a library in the browser; its controller gives roles', async ({
  browser,
}) => {
  const page = await openAs(browser, 'admin', '/');
  await expect(page.getByRole('heading', { name: 'People and libraries' })).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('tab', { name: 'Accounts' }).click();
  await page.getByRole('button', { name: 'New account' }).click();
  await page.getByLabel('Name', { exact: true }).fill('B. Ferro');
  await page.getByLabel('Account', { exact: true }).fill('ferro');
  await page.getByLabel('First password').fill('orrin-vale');
  await page.getByRole('button', { name: 'Create the account' }).click();
  await expect(page.getByRole('table', { name: 'Accounts' })).toContainText('B. Ferro');
  await page.getByRole('tab', { name: 'Groups' }).click();
  await page.getByRole('button', { name: 'New group' }).click();
  await page.getByLabel('Name of the group').fill('Workshop');
  await page.getByRole('combobox', { name: 'People in the group' }).fill('ferro');
  await page.getByTitle('B. Ferro · ferro').click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Create' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: 'Workshop' })).toContainText('B. Ferro');

  // A large group is a number that unfolds.
  const all = [
    'controller',
    'author',
    'author2',
    'approver',
    'approver2',
    'reader',
    'auditor',
    'admin',
    'ferro',
  ];
  const made = await page.request.post('/api/v1/groups', { data: { name: 'All hands', people: all } });
  expect(made.status()).toBe(201);
  await page.reload();
  await page.getByRole('tab', { name: 'Groups' }).click();
  const hands = page.getByRole('listitem').filter({ hasText: 'All hands' });
  await expect(hands).not.toContainText('P. Lindqvist');
  await hands.getByRole('button', { name: '9 people' }).click();
  await expect(hands).toContainText('P. Lindqvist');

  await page.getByRole('tab', { name: 'Libraries and members' }).click();
  await page.getByRole('button', { name: 'New library' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Workshop notes');
  await page.getByLabel('Code, in front of its document numbers').fill('wn');
  await page.getByRole('combobox', { name: 'Its first controller' }).fill('oduya');
  await page.getByTitle('M. Oduya · controller').click();
  await page.getByRole('button', { name: 'Create the library' }).click();
  await expect(page.getByRole('heading', { name: 'Workshop notes' })).toBeVisible();
  await leave(page);

  const controllerPage = await openAs(browser, 'controller', '/people');
  await controllerPage.getByRole('button', { name: 'WN Workshop notes' }).click();
  await controllerPage.getByRole('combobox', { name: 'Add a person or group' }).click();
  await controllerPage.getByTitle('Workshop (group of 1)').click();
  await controllerPage.getByRole('checkbox', { name: 'Workshop: author' }).click();
  await expect(controllerPage.getByRole('region', { name: 'Consequences' })).toContainText(
    'Workshop becomes a reader and an author.',
  );
  await expectAccessible(controllerPage);
  await controllerPage.getByRole('button', { name: 'Set this change' }).click();
  await expect(controllerPage.getByRole('region', { name: 'Consequences' })).toBeHidden();
  await controllerPage.getByRole('checkbox', { name: 'M. Oduya: controller' }).click();
  await controllerPage.getByRole('button', { name: 'Set this change' }).click();
  await expect(controllerPage.locator('.refusal')).toContainText('would have no controller');
  await leave(controllerPage);

  const ferro = await openAs(browser, 'ferro', '/WN');
  await expect(ferro.getByText('The library is empty.')).toBeVisible();
  await leave(ferro);
});

test('among many libraries and groups one is found by typing @deep', async ({ browser }) => {
  for (const code of ['MLA', 'MLB']) await libraryFor(admin, code, {});
  for (const name of [
    'Cable crew',
    'Night shift',
    'Painters',
    'Riggers',
    'Summit station',
    'Welders',
    'Winch hall',
  ]) {
    const made = await admin.post('/api/v1/groups', { data: { name, people: ['author2'] } });
    expect(made.status()).toBe(201);
  }
  for (let crew = 1; crew <= 50; crew += 1)
    expect((await admin.post('/api/v1/groups', { data: { name: `Crew ${crew}` } })).status()).toBe(201);
  const page = await openAs(browser, 'admin', '/people');
  const libraries = page.getByRole('navigation', { name: 'Libraries' });
  await page.getByLabel('Find a library').fill('mlb');
  await expect(libraries.getByRole('button').filter({ hasText: /./ })).toHaveText([
    'MLB Library MLB',
    'New library',
  ]);
  await page.getByLabel('Find a library').fill('no such');
  await expect(libraries).toContainText('No library is called so.');
  await page.getByRole('tab', { name: 'Groups' }).click();
  const groups = page.getByRole('region', { name: 'Groups' });
  await expect(groups.getByRole('listitem')).toHaveCount(50);
  await groups.getByRole('button', { name: 'More' }).click();
  await expect(groups).toContainText('Winch hall');
  await expect(groups.getByRole('button', { name: 'More' })).toBeHidden();
  await groups.getByLabel('Find a group').fill('winch');
  await expect(groups.getByRole('listitem')).toHaveCount(1);
  await groups.getByLabel('Find a group').fill('sandoval');
  await expect(groups).toContainText('Riggers');
  await expectAccessible(page);
  await leave(page);
});

test('of many members and libraries some are laid out, and one is found by typing @deep', async ({
  browser,
}) => {
  const codes = Array.from({ length: 14 }, (_, index) => `MM${index}`);
  let library = '';
  for (const code of codes) library = await libraryFor(admin, code, {});
  const members = `/api/v1/libraries/${library}/members`;
  const present = await admin.get(members);
  const kept = ((await present.json()) as { account: string; roles: string[] }[]).map(
    ({ account, roles }) => ({
      account,
      roles,
    }),
  );
  const crews = Array.from({ length: 50 }, (_, index) => `Team ${index + 1}`);
  for (const name of [...crews, 'Ridge patrol']) await admin.post('/api/v1/groups', { data: { name } });
  const set = await admin.put(members, {
    headers: { 'If-Match': present.headers()['etag'] ?? '' },
    data: [...kept, ...crews.map((group) => ({ group, roles: ['reader'] }))],
  });
  expect(set.status()).toBe(200);

  const page = await openAs(browser, 'admin', '/people');
  await page.getByRole('button', { name: 'MM13 Library MM13' }).click();
  const region = page.getByRole('region', { name: 'Members of Library MM13' });
  const shown = region.getByRole('table').locator('tbody tr');
  await expect(shown).toHaveCount(50);
  await region.getByRole('button', { name: 'More' }).click();
  await expect(shown).toHaveCount(kept.length + crews.length);
  await region.getByLabel('Find a member').fill('lindqvist');
  await expect(shown).toHaveText([/P\. Lindqvist/]);
  // Whoever is added is in sight, whatever was looked for.
  await region.getByLabel('Add a person or group').fill('ridge');
  await page.getByTitle(/Ridge patrol/).click();
  await expect(shown.first()).toContainText('Ridge patrol');
  await expect(region.getByRole('region', { name: 'Consequences' })).toContainText('Ridge patrol');
  await expectAccessible(page);
  await leave(page);

  const member = await openAs(browser, 'author', '/MM0');
  await member.getByRole('button', { name: 'Library MM0' }).click();
  await expect(member.getByLabel('Find a library')).toBeFocused();
  await member.keyboard.type('mm7');
  await expect(member.getByRole('menuitem')).toHaveText(['Library MM7']);
  await expectAccessible(member);
  await member.keyboard.press('Enter');
  await expect(member.getByRole('button', { name: 'Library MM7' })).toBeVisible();
  await expect(member).toHaveURL(/\/MM7$/);
  await leave(member);
});

test('a library gets another name and code, is closed and opened again, and its members see what that comes to', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'MLC', {});
  const id = await documentFor(author, library, 'Kept text', 'Read it.', 'major');
  const page = await openAs(browser, 'admin', '/people');
  await page.getByRole('button', { name: 'MLC Library MLC' }).click();
  await page.getByRole('button', { name: 'Change name, code and purpose' }).click();
  const naming = page.getByRole('form', { name: 'Name, code and purpose of Library MLC' });
  await naming.getByLabel('Name').fill('Cable log');
  await naming.getByLabel('Code').fill('desk');
  await naming.getByRole('button', { name: 'Save, with the code DESK' }).click();
  await expect(naming.getByText('an address of the application begins so')).toBeVisible();
  await naming.getByLabel('Code').fill('cable');
  await expect(naming).toContainText('Links with MLC will lead on here');
  await expectAccessible(page);
  await naming.getByRole('button', { name: 'Save, with the code CABLE' }).click();
  await expect(page.getByRole('heading', { name: 'Cable log' })).toBeVisible();
  await page.getByRole('button', { name: 'Close the library' }).click();
  await expect(page.getByRole('region', { name: 'Consequences' })).toContainText('nothing is lost');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Close Cable log' }).click();
  await expect(page.getByText('Closed since')).toBeVisible();
  // Links of before lead on, with all that stands behind the code.
  const member = await openAs(browser, 'author', `/MLC/documents/${id}?side=facts#top`);
  await expect(member).toHaveURL(`/CABLE/documents/${id}?side=facts#top`);
  await expect(member.getByRole('heading', { name: /Kept text/ })).toBeVisible();
  await member.goto('/MLC');
  await expect(member).toHaveURL('/CABLE');
  await expect(member.getByText('This library is closed since')).toBeVisible();
  await expect(row(member, 'MLC-001')).toContainText('1.0');
  await expect(row(member, 'MLC-001').getByRole('button', { name: /^Check out/ })).toHaveCount(0);
  await expect(member.getByRole('button', { name: 'New document' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Open it again' }).click();
  await expect(page.getByText('Cable log is open again.')).toBeVisible();
  await member.reload();
  await expect(row(member, 'MLC-001').getByRole('button', { name: /^Check out/ })).toBeVisible();
  await leave(page, member);
});

test('who takes over is asked where a change would leave work to nobody, and the change is made with that', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'TKO', { approval: { on: true, approvers: ['approver'] } });
  const id = await documentFor(author, library, 'Asked about', 'Read it.', 'minor');
  expect((await author.post(`/api/v1/documents/${id}/submit`, { data: {} })).status()).toBe(200);
  const page = await openAs(browser, 'admin', '/people');
  await page.getByRole('button', { name: 'TKO Library TKO' }).click();
  const region = page.getByRole('region', { name: 'Members of Library TKO' });
  await region.getByRole('checkbox', { name: 'L. Achterberg: approver' }).uncheck();
  const consequences = region.getByRole('region', { name: 'Consequences' });
  await expect(consequences).toContainText('is no member any more');
  await expect(consequences.getByRole('combobox')).toHaveCount(0);
  await consequences.getByRole('button', { name: 'Set this change' }).click();
  await expect(region.getByRole('alert')).toContainText('is asked to decide about a document');
  await expectAccessible(page);
  await consequences.getByRole('combobox', { name: 'Who takes over' }).fill('approver2');
  await page.getByTitle(/approver2$/).click();
  await consequences.getByRole('button', { name: /^Set this change, hand over to / }).click();
  await expect(page.getByText('The members of Library TKO are set.')).toBeVisible();
  const document = (await (await author.get(`/api/v1/documents/${id}`)).json()) as {
    approval: { waitingFor: { account: string }[] };
  };
  expect(document.approval.waitingFor.map(({ account }) => account)).toEqual(['approver2']);
  await leave(page);
});

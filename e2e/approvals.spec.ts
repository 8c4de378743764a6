import { type APIRequestContext, expect, type Page, test } from '@playwright/test';
import {
  Acts,
  adminAndAuthor,
  apiAs,
  documentFor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
} from './support.ts';

const by = adminAndAuthor();
const list = (page: Page, name = 'Your turn') => page.getByRole('region', { name });
const item = (page: Page, number: string) => page.getByRole('listitem').filter({ hasText: number });
const pane = (page: Page, number: string) => page.getByRole('article', { name: new RegExp(`^${number} `) });
/** A document of a library, submitted. */
async function submitted(library: string, title: string, text = 'Look at it.'): Promise<string> {
  const id = await documentFor(by.author, library, title, text, 'minor');
  const answer = await by.author.post(`/api/v1/documents/${id}/submit`, {
    data: { comment: `About ${title}` },
  });
  expect(answer.status()).toBe(200);
  return id;
}
async function changed(author: APIRequestContext, id: string, text: string): Promise<void> {
  expect((await author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
  const multipart = {
    comment: 'Half past seven',
    level: 'minor',
    file: { name: 'text.txt', mimeType: 'text/plain', buffer: Buffer.from(text) },
  };
  expect((await author.post(`/api/v1/documents/${id}/checkin`, { multipart })).status()).toBe(201);
}

test('two decide in turn beside what changed; one rejection ends a run, the other document goes on its own; readers get it then', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'APA', {
    approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'] },
  });
  await submitted(library, 'Lamp rooms');
  await submitted(library, 'Rope grease');
  const first = await openAs(browser, 'approver', '/APA');
  const second = await openAs(browser, 'approver2', '/approvals');
  const reader = await openAs(browser, 'reader', '/APA');
  await expect(reader.getByText('Nothing')).toBeVisible();
  // From the Register: the list opens at the one that waits longest, and a key decides.
  const acts = new Acts();
  await acts.click(first.getByRole('link', { name: /^Approvals/ }));
  await expect(list(first)).toContainText('APA-001');
  let read = (): void => undefined;
  const waiting = new Promise<void>((resolve) => (read = resolve));
  await first.route(/\/reading/, async (route) => {
    await waiting;
    await route.continue();
  });
  await item(first, 'APA-001').getByRole('button').click();
  await expect(pane(first, 'APA-001')).toContainText(
    'If you approve, A. Kilbride is asked next; until then readers see nothing.',
  );
  await expect(first.getByText('The file is being read …')).toBeVisible();
  await expectAccessible(first);
  read();
  await expectAccessible(first);
  await acts.click(pane(first, 'APA-001').getByRole('button', { name: 'Approve 0.1' }));
  expect(acts.count).toBe(2);
  await expect(first.getByText('A. Kilbride is asked next.')).toBeVisible();
  // The next one stands there; a rejection wants a word.
  await expect(item(first, 'APA-001')).toHaveCount(0);
  await item(first, 'APA-002').getByRole('button').click();
  await expect(pane(first, 'APA-002')).toContainText('If you reject');
  await first.locator('body').press('r');
  await first.keyboard.press('Enter');
  await expect(first.getByText('A rejection needs a comment.')).toBeVisible();
  await pane(first, 'APA-002').getByLabel('Comment on the decision').fill('span table incomplete');
  await pane(first, 'APA-002').getByRole('button', { name: 'Reject' }).click();
  await expect(item(first, 'APA-002')).toHaveCount(0);
  // The second is asked about the first alone.
  await expect(list(second)).toContainText('APA-001');
  await expect(list(second)).not.toContainText('APA-002');
  await item(second, 'APA-001').getByRole('button').click();
  await expect(pane(second, 'APA-001')).toContainText('If you approve, readers get 1.0 from now.');
  await pane(second, 'APA-001').getByRole('button', { name: 'Approve 0.1' }).click();
  await expect(second.getByText('APA-001 1.0 is in force.')).toBeVisible();
  await expect(reader.getByRole('link', { name: 'Lamp rooms' })).toBeVisible();
  // Its author reads who rejected it, and why.
  const author = await openAs(browser, 'author', '/approvals');
  const rejected = author.getByRole('region', { name: 'Back with you' });
  await expect(rejected).toContainText('APA-002');
  await expect(rejected).toContainText('span table incomplete');
  await rejected.getByRole('button', { name: /APA-002/ }).click();
  await expect(pane(author, 'APA-002')).toContainText('L. Achterberg rejected');
  await expectAccessible(author);
  await leave(first, second, reader, author);
});

test('what is changed against what is in force stands in view; several are approved together, each with its own comment', async ({
  browser,
  playwright,
  baseURL,
}) => {
  const library = await libraryFor(by.admin, 'APB', {
    approval: { on: true, mode: 'anyOne', approvers: ['approver'] },
  });
  const ids = [
    await submitted(library, 'First round', 'Begin at seven.'),
    await submitted(library, 'Last round', 'End at six.'),
  ];
  const approverApi = await apiAs(playwright, 'approver', baseURL ?? '');
  const [one = '', two = ''] = ids;
  expect(
    (
      await approverApi.post(`/api/v1/documents/${one}/decision`, {
        data: { version: '0.1', decision: 'approve' },
      })
    ).status(),
  ).toBe(200);
  await changed(by.author, one, 'Begin at half past seven.');
  expect((await by.author.post(`/api/v1/documents/${one}/submit`, { data: {} })).status()).toBe(200);
  const page = await openAs(browser, 'approver', `/approvals?document=${one}`);
  await expect(pane(page, 'APB-001')).toContainText('1.1 against 1.0, which is in force');
  await expect(pane(page, 'APB-001').locator('ins').first()).toContainText('half past');
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectAccessible(page);
  await page.emulateMedia({ colorScheme: 'light' });
  await page.getByLabel('Tick APB-001').check();
  await page.getByLabel('Tick APB-002').check();
  const together = page.getByRole('region', { name: 'Approve together' });
  await expect(together).toContainText('1.1 will be approved; then 2.0 is in force');
  await together.getByLabel('Comment on APB-002').fill('Mind the winter');
  await together.getByLabel('Comment for all').fill('Agreed');
  await together.getByRole('button', { name: 'Approve 2' }).click();
  await expect(together).toContainText('2 of 2 approved.');
  await together.getByRole('button', { name: 'Close' }).click();
  await expect(item(page, 'APB-001')).toHaveCount(0);
  const words = await Promise.all(
    [one, two].map(async (id) => {
      const { inForce } = await (await approverApi.get(`/api/v1/documents/${id}`)).json();
      return [inForce.label, inForce.approval.posts[0].comment];
    }),
  );
  expect(words).toEqual([
    ['2.0', 'Agreed'],
    ['1.0', 'Mind the winter'],
  ]);
  await leave(page);
});

test('a controller asks another in the place of who is away, and decides in their place where the rules let them', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'APC', {
    approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'], controllersDecide: true },
  });
  await submitted(library, 'Ice on the saddle');
  await submitted(library, 'Snow on the road');
  const page = await openAs(browser, 'controller', '/approvals');
  await item(page, 'APC-001').getByRole('button').click();
  await pane(page, 'APC-001').getByRole('button', { name: 'Ask somebody else' }).click();
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await expect(consequences).toContainText('L. Achterberg is no longer asked about 0.1');
  // Nobody is offered who is asked already or could not decide.
  await consequences.getByLabel('Who is asked instead').click();
  await expect(page.locator('.ant-select-item-option')).toHaveText(['M. Oduya (controller)']);
  await page.getByTitle('M. Oduya (controller)').click();
  await consequences.getByLabel('Why? Both are told.').fill('On leave until Monday');
  await consequences.getByRole('button', { name: 'Ask them about 0.1' }).click();
  await expect(pane(page, 'APC-001')).toContainText('M. Oduya is asked now');
  const away = await openAs(browser, 'approver', '/desk');
  await expect(away.getByRole('complementary', { name: 'Notices' })).toContainText(
    'put M. Oduya in your place for APC-001 0.1: “On leave until Monday”',
  );
  await item(page, 'APC-002').getByRole('button').click();
  await pane(page, 'APC-002').getByRole('button', { name: 'Decide in their place' }).click();
  const form = page.getByRole('form', { name: 'Decide in their place' });
  await expect(form).toContainText('If you approve, readers get 1.0 from now.');
  await form.getByRole('button', { name: 'Approve 0.1' }).click();
  await expect(form).toContainText('Deciding in the place of those asked needs a reason.');
  await form.getByLabel('Reason for deciding in their place').fill('Both are at the towers');
  await expectAccessible(page);
  await form.getByRole('button', { name: 'Approve 0.1' }).click();
  await expect(page.getByText('APC-002 1.0 is in force.')).toBeVisible();
  await page.goto('/APC');
  await page.getByRole('link', { name: 'Snow on the road' }).click();
  await expect(page.getByRole('region', { name: 'Decided' })).toContainText(
    'approved in the place of those asked',
  );
  await leave(page, away);
});

test('who decides in the place of others on the page of a document has before them what is decided about', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'APH', {});
  const id = await documentFor(by.author, library, 'Horns', 'Sound it once.', 'major');
  const controller = await openAs(browser, 'controller', `/APH/documents/${id}`);
  const approval = { on: true, controllersDecide: true, approvers: ['approver'] };
  const set = await controller.request.put(`/api/v1/libraries/${library}/rulebook`, {
    data: { approval, reason: 'From now on' },
  });
  expect(set.ok()).toBe(true);
  await changed(by.author, id, 'Sound it twice.');
  expect((await by.author.post(`/api/v1/documents/${id}/submit`, { data: {} })).status()).toBe(200);
  await controller.reload();
  await expect(controller.getByText('Sound it once.')).toBeVisible();
  await controller.getByRole('button', { name: 'Decide in their place' }).click();
  await expect(controller.getByText('Sound it twice.')).toBeVisible();
  const form = controller.getByRole('form', { name: 'Decide in their place' });
  await form.getByRole('textbox').fill('Both are on leave');
  await form.getByRole('button', { name: 'Approve 1.1' }).click();
  await expect(controller.getByText('2.0 is in force since')).toBeVisible();
  await leave(controller);
});

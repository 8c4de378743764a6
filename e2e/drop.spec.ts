import { basename } from 'node:path';
import { expect, type Locator, test } from '@playwright/test';
import {
  adminAndAuthor,
  Acts,
  apiAs,
  checkInFile,
  dropFile,
  dropFiles,
  expectAccessible,
} from './support.ts';
import { file, libraryFor, leave, openAs, pandocFile, registerFile, row } from './support.ts';
import { readFileSync } from 'node:fs';

const by = adminAndAuthor();

test('a file dropped anywhere goes into the document it is meant for, and nobody makes a second one by missing', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'DR', {});
  const made = pandocFile('brake', '# Brake\n\nOil it.\n');
  const brake = await registerFile(by.author, library, {
    title: 'Brake check',
    name: 'brake.docx',
    content: readFileSync(made),
  });
  await registerFile(by.author, library, { title: 'Horn check', name: 'horn.txt', content: 'Sound it.' });
  const content = await by.author.get(`/api/v1/documents/${brake}/versions/0.1/content?marked=1`);
  const marked = file('marked.docx', await content.body());
  await by.author.post(`/api/v1/documents/${brake}/checkout`, { data: {} });
  const page = await openAs(browser, 'author', '/DR');
  await expect(row(page, 'DR-002')).toBeVisible();
  const dropped = page.getByRole('region', { name: 'Dropped files' });

  // Beside every row: the mark says where it belongs. The level is chosen by key.
  const acts = new Acts();
  await acts.drop(page.locator('.register-list'), marked);
  const label = page.getByRole('form', { name: /^Check in as/ });
  await expect(dropped).toContainText('It was taken from DR-001 0.1.');
  await expect(label).toContainText('0.2');
  const comment = label.getByRole('textbox', { name: 'Check-in comment' });
  await comment.press('ArrowUp');
  await expect(label.getByRole('button', { name: 'Check in as 1.0, in force' })).toBeVisible();
  await expectAccessible(page);
  await comment.press('ArrowDown');
  await acts.fill(comment, 'Oiled twice');
  await acts.press(comment, 'Enter');
  await expect(label.getByRole('alert')).toContainText('the same');
  await label.getByRole('button', { name: 'Yes, check it in' }).click();
  await expect(row(page, 'DR-001')).toContainText('Oiled twice');
  await expect(dropped).toHaveCount(0);
  expect(acts.count).toBe(3);

  // On another row: it is asked.
  await dropFile(row(page, 'DR-002'), marked);
  await expect(dropped).toContainText('It was taken from DR-001 0.1, and was dropped on DR-002.');
  await expect(dropped.getByRole('button', { name: 'Into DR-001 Brake check' })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();

  // On a document nobody holds: it is checked out for that, and the row says what it becomes.
  await dropFile(row(page, 'DR-002'), file('horn.txt', 'Sound it twice.'));
  await expect(label).toContainText('it is checked out for you first, at 0.1');
  await comment.fill('Twice');
  await label.getByRole('button', { name: 'Check in as 0.2, a draft' }).click();
  await expect(row(page, 'DR-002')).toContainText('Twice');
  await expect(row(page, 'DR-002')).toContainText('Check out');

  // By its name; and what is of no document becomes one, or lies on the Desk.
  await dropFiles(page.locator('.register-list'), [
    { path: file('horn.txt', 'Sound it thrice.'), name: 'horn.txt' },
    { path: file('new.txt', 'New.'), name: 'new.txt' },
  ]);
  await expect(dropped).toContainText('It is named like the file of DR-002.');
  await dropped.getByRole('listitem').first().getByRole('button', { name: 'Keep it on the Desk' }).click();
  await expect(dropped.getByRole('listitem')).toHaveCount(1);
  await dropped.getByRole('button', { name: 'As a new document' }).click();
  await expect(page.getByRole('region', { name: 'New document' })).toContainText('new.txt');
  await leave(page);
});

test('on its page a document takes a file dropped anywhere; held by another it says so and the Desk takes it', async ({
  browser,
  playwright,
  baseURL,
}) => {
  const library = await libraryFor(by.admin, 'DS', {});
  const id = await registerFile(by.author, library, {
    title: 'Bell check',
    name: 'bell.txt',
    content: 'Ring.',
  });
  await checkInFile(by.author, id, { name: 'bell.txt', content: 'Ring twice.' });
  const page = await openAs(browser, 'author', `/DS/documents/${id}`);
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('Bell check');
  const label = page.getByRole('form', { name: /^Check in as/ });
  await dropFile(page.locator('.reading'), file('bell-new.txt', 'Ring thrice.'), 'bell-new.txt');
  await label.getByRole('textbox', { name: 'Check-in comment' }).fill('Thrice');
  await label.getByRole('button', { name: 'Check in as 0.3, a draft' }).click();
  await expect(page.getByRole('table', { name: 'Versions', exact: true })).toContainText('Thrice');
  await expect(page.getByRole('complementary', { name: 'Facts' })).toContainText('bell.txt');

  const author2 = await apiAs(playwright, 'author2', baseURL ?? '');
  await author2.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  await expect(page.getByRole('complementary', { name: 'Facts' })).toContainText('J. Sandoval');
  await dropFile(page.locator('.reading'), file('bell.txt', 'Mine.'), 'bell.txt');
  const dropped = page.getByRole('region', { name: 'Dropped files' });
  await expect(dropped.locator('.refusal')).toContainText('J. Sandoval');
  await dropped.getByRole('button', { name: 'Keep it on the Desk' }).click();
  await expect(page.getByText('bell.txt is on your Desk.')).toBeVisible();
  await author2.dispose();
  await leave(page);
});

test('the key i opens the label with both numbers, and a file without a version is asked for', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'DT', { custody: 'optional' });
  const id = await registerFile(by.author, library, { title: 'Gong', name: 'gong.txt', content: 'Strike.' });
  await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  const page = await openAs(browser, 'author', `/DT/documents/${id}`);
  await expect(page.getByRole('button', { name: /^Check in/ }).first()).toBeVisible();
  await page.keyboard.press('i');
  const label = page.getByRole('form', { name: /^Check in as/ });
  await expect(label.getByRole('radio', { name: '0.2 draft' })).toBeChecked();
  await label.getByText('1.0 in force').click();
  await expect(label.getByRole('button', { name: 'Check in as 1.0, in force' })).toBeVisible();
  // The open label takes a file dropped on it or anywhere on the page, and keeps what is typed.
  const comment = label.getByRole('textbox', { name: 'Check-in comment' });
  await comment.fill('Twice');
  await dropFile(page.locator('.reading'), file('gong.txt', 'Strike once more.'));
  await expect(label).toContainText('gong.txt');
  await dropFile(comment, file('gong-2.txt', 'Strike twice.'));
  await expect(label).toContainText('gong-2.txt');
  await expect(page.getByRole('region', { name: 'Dropped files' })).toHaveCount(0);
  await expect(comment).toHaveValue('Twice');
  await comment.press('Enter');
  await expect(page.getByRole('table', { name: 'Versions', exact: true })).toContainText('Twice');
  expect(await (await by.author.get(`/api/v1/documents/${id}/versions/1.0/content`)).text()).toBe(
    'Strike twice.',
  );
  await leave(page);
});

test("a file on one's Desk goes into the document one holds, as a save", async ({ browser }) => {
  const library = await libraryFor(by.admin, 'DU', {});
  const id = await registerFile(by.author, library, { title: 'Flag', name: 'flag.txt', content: 'Hoist.' });
  const copy = await by.author.post(`/api/v1/documents/${id}/versions/0.1/loose-copy`);
  const { id: mine } = (await copy.json()) as { id: string };
  await by.author.put(`/api/v1/desk/files/${mine}/content`, {
    data: Buffer.from('Hoist twice.'),
    headers: { 'Content-Type': 'application/octet-stream' },
  });
  await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  const page = await openAs(browser, 'author', `/desk/files/${mine}/bring-in`);
  await expect(page.getByText('You hold DU-001.')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save it in DU-001' }).click();
  await expect(page.getByRole('complementary', { name: 'Facts' })).toContainText('1 save');
  await leave(page);
});

test('every place of a page takes files or refuses them; files that come later join those that wait', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'DV', {});
  await registerFile(by.author, library, { title: 'Pole', name: 'pole.txt', content: 'Paint.' });
  await registerFile(by.author, library, { title: 'Lamp', name: 'lamp.txt', content: 'Wipe.' });
  const page = await openAs(browser, 'author', '/DV');
  const data = await page.evaluateHandle(() => {
    const transfer = new DataTransfer();
    transfer.items.add(new File(['Stray.'], 'stray.txt'));
    return transfer;
  });
  const over = async (target: Locator): Promise<void> =>
    target.dispatchEvent('dragover', { dataTransfer: data });
  // Whatever lies under the files says so alone.
  const pole = row(page, 'DV-001');
  await over(page.locator('.row-head'));
  const drawn = (): Promise<string> =>
    page.locator('.screen').evaluate((screen) => getComputedStyle(screen, '::after').borderTopStyle);
  await expect.poll(drawn).toBe('dashed');
  await over(pole.getByRole('link', { name: 'Pole' }));
  await expect(page.locator('.files-over')).toHaveCount(1);
  await expect(pole).toHaveClass(/files-over/);
  await expect(pole).toHaveCSS('outline-style', 'dashed');
  expect(await drawn()).not.toBe('dashed');
  await pole.dispatchEvent('drop', { dataTransfer: data });
  await expect(page.locator('.files-over')).toHaveCount(0);
  const label = page.getByRole('form', { name: /^Check in as/ });
  await label.getByRole('textbox', { name: 'Check-in comment' }).fill('Kept while more comes');
  // Dropped beside the list, more files join the one that waits.
  await dropFile(page.getByRole('navigation', { name: 'Library' }), file('lamp.txt', 'Wipe twice.'));
  const dropped = page.getByRole('region', { name: 'Dropped files' });
  await expect(dropped.getByRole('listitem')).toHaveCount(2);
  await expect(label.getByRole('textbox', { name: 'Check-in comment' })).toHaveValue('Kept while more comes');
  await label.getByRole('button', { name: 'Check in as 0.2, a draft' }).click();
  await expect(dropped.getByRole('listitem')).toHaveCount(1);
  await dropped.getByRole('button', { name: 'Cancel' }).last().click();

  // The form of a new document takes what is dropped beside it, and keeps what is typed.
  await page.getByRole('button', { name: 'New document' }).click();
  const made = page.getByRole('region', { name: 'New document' });
  await made.getByLabel('Comment').fill('Typed before');
  await dropFile(page.locator('.register-head'), file('first.txt', 'First.'));
  await expect(made).toContainText('first.txt');
  await expect(made.getByLabel('Title')).toHaveValue('first');
  await dropFile(page.locator('.register-list'), file('second.txt', 'Second.'));
  await expect(made).toContainText('second.txt');
  await expect(made.getByLabel('Comment')).toHaveValue('Typed before');
  const several = [file('third.txt', 'Third.'), file('fourth.txt', 'Fourth.')].map((path) => ({
    path,
    name: basename(path),
  }));
  await dropFiles(page.locator('.register-list'), several);
  const many = page.getByRole('region', { name: 'New documents' });
  await many.getByLabel('Title of third.txt').fill('The third');
  await dropFile(page.locator('.register-list'), file('fifth.txt', 'Fifth.'));
  await expect(many.getByLabel('Title of fifth.txt')).toHaveValue('fifth');
  await expect(many.getByLabel('Title of third.txt')).toHaveValue('The third');

  // Elsewhere the browser would open the file in the place of the page; on the Desk any place takes it.
  const spine = page.getByRole('navigation', { name: 'Main' });
  const refused = await spine.evaluate((element, transfer) => {
    const event = new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer: transfer });
    element.dispatchEvent(event);
    return event.defaultPrevented;
  }, data);
  expect(refused).toBe(true);
  await page.goto('/desk');
  await expect(page.getByText('Put files on your Desk')).toBeVisible();
  await dropFile(page.getByRole('heading', { level: 1 }), file('sixth.txt', 'Sixth.'));
  await expect(page.locator('.desk-list')).toContainText('sixth.txt');
  await leave(page);
});

test('a file under a name that was given here goes to its document; with its number alone it is asked', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'GN', {});
  const made = {
    title: 'Tower drawing',
    name: 'Tower drawing.txt',
    content: 'First.',
    level: 'major',
  } as const;
  const id = await registerFile(by.author, library, made);
  const page = await openAs(browser, 'author', '/GN');
  await expect(row(page, 'GN-001')).toBeVisible();
  const list = page.locator('.register-list');
  const dropped = page.getByRole('region', { name: 'Dropped files' });
  // The name of its issued copy, the drive's, and what a browser adds to either.
  for (const name of ['GN-001 1.0 Tower drawing (1).txt', 'GN-001 Tower drawing.txt']) {
    await dropFile(list, file(name, `Changed under ${name}.`));
    await expect(page.getByRole('form', { name: /^Check in as/ })).toBeVisible();
    await expect(dropped).toContainText('It is named like the file of GN-001.');
    await page.getByRole('button', { name: 'Cancel' }).first().click();
    await expect(page.getByRole('form', { name: /^Check in as/ })).toBeHidden();
    await page.reload();
  }
  await dropFile(list, file('notes about GN-001.txt', 'Something else.'));
  await expect(dropped).toContainText('Its name holds GN-001.');
  await expect(dropped.getByRole('button', { name: 'As a new document' })).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).first().click();
  // A name that only an earlier version's file had, of a document that is not in sight.
  await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} });
  const renamed = { name: 'Upper tower.txt', mimeType: 'text/plain', buffer: Buffer.from('Second.') };
  const multipart = { comment: 'Renamed', level: 'major', confirm: 'other-name', file: renamed };
  expect((await by.author.post(`/api/v1/documents/${id}/checkin`, { multipart })).status()).toBe(201);
  await page.goto('/GN?q=elsewhere');
  await expect(page.getByText('No document fits the sentence above.')).toBeVisible();
  await dropFile(list, file('Tower drawing.txt', 'Found again.'));
  await expect(dropped).toContainText('It is named like the file of GN-001.');
  await page.getByRole('button', { name: 'Cancel' }).first().click();
  await leave(page);
});

test('three files that come back to documents one holds go into them with one act, a comment for all or one each', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'BACK', {});
  const names = ['ropes.txt', 'masts.txt', 'winds.txt'];
  const ids: string[] = [];
  for (const name of names) {
    const id = await registerFile(by.author, library, {
      title: `On ${name}`,
      name,
      content: 'Words.',
      level: 'minor',
    });
    expect((await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
    ids.push(id);
  }
  const page = await openAs(browser, 'author', '/BACK');
  await expect(row(page, 'BACK-003')).toBeVisible();
  await dropFiles(
    page.getByRole('main'),
    names.map((name) => ({ path: file(name, `Other words of ${name}.`), name })),
  );
  const form = page.getByRole('form', { name: 'Check in 3 files' });
  await expect(form).toContainText('masts.txt into BACK-002 On masts.txt as 0.2');
  const send = form.getByRole('button', { name: 'Check in 3 files as drafts' });
  await expect(send).toBeDisabled();
  await form.getByRole('textbox', { name: 'Comment for all' }).fill('After the storm');
  await form.getByRole('textbox', { name: 'Comment for BACK-002' }).fill('The upper mast is gone');
  await expectAccessible(page);
  await send.click();
  await expect(page.getByText('Checked in: BACK-001 0.2, BACK-002 0.2, BACK-003 0.2.')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Dropped files' })).toHaveCount(0);
  const comments = await Promise.all(
    ids.map(async (id) => {
      const { latest, custody } = (await (await by.author.get(`/api/v1/documents/${id}`)).json()) as {
        latest: { label: string; comment: string };
        custody: unknown;
      };
      expect([latest.label, custody]).toEqual(['0.2', null]);
      return latest.comment;
    }),
  );
  expect(comments).toEqual(['After the storm', 'The upper mast is gone', 'After the storm']);
  await leave(page);
});

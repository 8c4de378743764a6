import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { type APIRequestContext, expect, type Page, test } from '@playwright/test';
import { strToU8, unzipSync, zipSync } from 'fflate';
import {
  apiAs,
  checkInFile,
  dropFiles,
  expectAccessible,
  file,
  libraryFor,
  leave,
  openAs,
  pandocFile,
  png,
  registerFile,
  row,
} from './support.ts';

let admin: APIRequestContext;
let author: APIRequestContext;
let author2: APIRequestContext;
let controller: APIRequestContext;
test.beforeAll(async ({ playwright, baseURL }) => {
  [admin, author, author2, controller] = (await Promise.all(
    ['admin', 'author', 'author2', 'controller'].map((account) => apiAs(playwright, account, baseURL ?? '')),
  )) as [APIRequestContext, APIRequestContext, APIRequestContext, APIRequestContext];
});
test.afterAll(async () => {
  await Promise.all([admin, author, author2, controller].map((one) => one.dispose()));
});

const noted =
  '# Readings\n\nRead both masts at six.\n\nCall the value to the control room.\n\nWrite it down.\n';
type Level = 'minor' | 'major';
const documentOf = (
  libraryId: string,
  title: string,
  name: string,
  content: string | Buffer,
  level: Level = 'minor',
): Promise<string> => registerFile(author, libraryId, { title, name, content, level });
const checkIn = (
  who: APIRequestContext,
  id: string,
  content: string,
  name: string,
  level: Level = 'minor',
): Promise<void> => checkInFile(who, id, { name, content, level });
const workingCopy = async (id: string): Promise<string> =>
  (await author.get(`/api/v1/documents/${id}/checkout/content`)).text();
const state = (page: Page) => page.getByRole('main').getByRole('status');
const type = async (page: Page, after: string, words: string): Promise<void> => {
  await page.locator('.cm-line', { hasText: after }).click();
  await page.keyboard.press('End');
  await page.keyboard.type(words);
};

test('worked example 10: edited in the page, lifted by a controller, changed by a colleague, merged and brought in; open pages hear of it at once', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'TEN', {});
  const id = await documentOf(library, 'Reading the masts', 'masts.md', noted);
  const holder = await openAs(browser, 'author', `/TEN/documents/${id}/edit`);
  const lifter = await openAs(browser, 'controller', '/TEN');

  await test.step('read only until it is checked out, one press away', async () => {
    await expect(state(holder)).toContainText('Read only.');
    await expect(holder.locator('.cm-content')).toHaveAttribute('contenteditable', 'false');
    await holder.getByRole('button', { name: 'Check out 0.1 to edit it' }).click();
    await expect(holder.locator('.cm-content')).toHaveAttribute('contenteditable', 'true');
    await expectAccessible(holder);
  });
  await test.step('what is typed is saved by itself and previewed; the controller sees who holds it within two seconds', async () => {
    await expect(row(lifter, 'TEN-001')).toContainText('T. Brandvold · since today');
    await type(holder, 'Read both masts', ' And at noon.');
    await expect(holder.locator('.preview')).toContainText('at six. And at noon.');
    await expect(state(holder)).toContainText('Saved');
    expect(await workingCopy(id)).toContain('Read both masts at six. And at noon.');
    await type(holder, 'Call the value', ' Repeat it.');
    await holder.keyboard.press('Control+s');
    await expect(state(holder)).toContainText('Saved');
    await holder.getByRole('link', { name: 'What has changed so far' }).click();
    await expect(holder.getByText('your working copy against 0.1')).toBeVisible();
    await expect(holder.locator('.counts')).toContainText('2 changes');
  });
  await test.step('lifted with a reason; the holder is told at once, and the copy is on their Desk', async () => {
    await holder.goto('/desk');
    await expect(holder.getByRole('article', { name: 'TEN-001 Reading the masts' })).toContainText('2 saves');
    await row(lifter, 'TEN-001').click();
    await lifter.getByRole('button', { name: 'Lift the check-out', exact: true }).click();
    await expect(lifter.getByRole('region', { name: 'Consequences' })).toContainText(
      'The working copy with 2 saves moves to the Desk of T. Brandvold',
    );
    await lifter.getByPlaceholder('Why? Its holder reads it.').fill('On leave until Monday');
    await lifter.getByRole('button', { name: "Lift T. Brandvold's check-out" }).click();
    const aside = holder.getByRole('region', { name: 'Set aside' });
    await expect(aside).toContainText('M. Oduya lifted it: “On leave until Monday”');
    await expect(holder.getByRole('complementary', { name: 'Notices' })).toContainText(
      'lifted your check-out of TEN-001',
    );
    await expectAccessible(holder);
  });
  await test.step('a colleague checks in; both sides lie side by side, the conflict is chosen, the rest is put together', async () => {
    await checkIn(
      author2,
      id,
      noted
        .replace('at six.', 'at six. From both platforms.')
        .replace('Write it down.', 'Write it down with the time.'),
      'masts.md',
    );
    await expect(holder.getByRole('region', { name: 'Set aside' })).toContainText('the latest is 0.2');
    await holder
      .getByRole('article', { name: 'TEN-001 Reading the masts' })
      .getByRole('link', { name: 'Bring in' })
      .click();
    await expect(holder.getByText('1 conflict needs your choice.')).toBeVisible();
    await expect(holder.getByRole('button', { name: /^Check in as 0\.3/ })).toBeDisabled();
    await expectAccessible(holder);
    await holder
      .getByRole('region', { name: 'Both changed it; needs your choice' })
      .getByRole('button', { name: 'My text' })
      .click();
    await holder.getByRole('textbox', { name: 'Check-in comment' }).fill('Noon, and repeated');
    await holder.getByRole('button', { name: 'Check in as 0.3, a draft' }).click();
    await expect(holder).toHaveURL(/versions\/0\.3$/);
    const text = await (await author.get(`/api/v1/documents/${id}/versions/0.3/content`)).text();
    expect(text).toBe(
      noted
        .replace('at six.', 'at six. And at noon.')
        .replace('room.', 'room. Repeat it.')
        .replace('Write it down.', 'Write it down with the time.'),
    );
  });
  await test.step('the history of custody tells it all', async () => {
    await holder.getByRole('button', { name: 'Custody history' }).click();
    const history = holder.getByRole('list', { name: 'Custody history' });
    await expect(history.getByRole('listitem').first()).toContainText('J. Sandoval');
    await expect(history.getByRole('listitem').first()).toContainText('checked in as 0.2');
    await expect(history.getByRole('listitem').nth(1)).toContainText(
      'lifted by M. Oduya: “On leave until Monday”',
    );
    await holder.goto('/desk');
    await expect(holder.getByRole('region', { name: 'Set aside' }).getByText('TEN-001')).toHaveCount(0);
  });
  await leave(holder, lifter);
});

test('what happens while a page is first read is shown on it', async ({ browser }) => {
  const library = await libraryFor(admin, 'LIV', {});
  const id = await documentOf(library, 'Live', 'live.txt', 'One.\n', 'major');
  const page = await openAs(browser, 'reader', '/LIV');
  await expect(row(page, 'LIV-001')).toContainText('in force');
  // The answer was made before the check-out, and comes after the page was told of that.
  await page.route(
    `**/api/v1/documents/${id}`,
    async (route) => {
      const answer = await route.fetch();
      expect((await author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
      await page.waitForTimeout(1500);
      await route.fulfill({ response: answer });
    },
    { times: 1 },
  );
  await page.getByRole('link', { name: 'Live' }).click();
  await expect(page.getByRole('complementary', { name: 'Facts' })).toContainText(
    'T. Brandvold · since today',
  );
  await leave(page);
});

test('worked example 5 with two people at once: 8, then 8.1 not checked in, given back, kept, submitted, approved as 9.0 @deep', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'FIVE', { numbering: 'whole' });
  const id = await documentOf(library, 'Opening', 'opening.txt', 'One.\n', 'major');
  for (let number = 2; number <= 8; number += 1)
    await checkIn(author, id, `One.\n${'-'.repeat(number)}\n`, 'opening.txt', 'major');
  expect(
    (
      await controller.put(`/api/v1/libraries/${library}/rulebook`, {
        data: {
          numbering: 'stepped',
          approval: { on: true, mode: 'anyOne', approvers: ['approver'] },
          sight: { draft: ['approver'] },
          reason: 'Drafts from now on',
        },
      })
    ).status(),
  ).toBe(200);
  const reader = await openAs(browser, 'reader', `/FIVE/documents/${id}`);
  const holder = await openAs(browser, 'author', `/FIVE/documents/${id}`);
  const approver = await openAs(browser, 'approver', `/FIVE/documents/${id}`);
  await holder.getByRole('button', { name: 'Check out 8' }).click();
  await expect(holder.getByRole('complementary', { name: 'Facts' })).toContainText(
    'Nothing saved yet · checks in as 8.1 or 9.0',
  );
  await expect(approver.getByRole('complementary', { name: 'Facts' })).toContainText(
    'T. Brandvold · since today',
  );
  // Nothing was saved: nothing is asked.
  await holder.getByRole('button', { name: 'Give back' }).click();
  await expect(approver.getByRole('complementary', { name: 'Facts' })).toContainText('Nobody holds it.');
  await holder.getByRole('button', { name: 'Check out 8' }).click();
  await holder.getByRole('link', { name: 'Edit it here' }).click();
  await type(holder, 'One.', ' Two.');
  await expect(state(holder)).toContainText('Saved');
  await holder.getByRole('link', { name: /^Check in as/ }).click();
  await holder.getByRole('button', { name: /in as 8\.1, a draft$/ }).click();
  const landing = holder.getByRole('form', { name: 'Check in as 8.1' });
  await landing.getByRole('textbox', { name: 'Check-in comment' }).fill('Two added');
  await landing.getByRole('checkbox', { name: 'keep it checked out, and go on' }).check();
  await landing.getByRole('button', { name: 'Check in as 8.1, a draft' }).click();
  await expect(holder.getByRole('table', { name: 'Versions', exact: true })).toContainText('Two added');
  await holder.getByRole('link', { name: 'Edit it here' }).click();
  await type(holder, 'One. Two.', ' Three.');
  await expect(state(holder)).toContainText('Saved');
  await holder.goto(`/FIVE/documents/${id}`);
  await holder.getByRole('button', { name: 'Give back' }).click();
  await expect(holder.getByRole('region', { name: 'Consequences' })).toContainText('1 save');
  await holder.getByRole('button', { name: 'Give back without 1 save' }).click();
  await holder.getByRole('button', { name: 'Submit 8.1', exact: true }).first().click();
  await holder
    .getByRole('region', { name: 'Consequences' })
    .getByRole('button', { name: 'Submit 8.1' })
    .click();
  await expect(reader.getByRole('table', { name: 'Versions', exact: true }).getByRole('row')).toHaveCount(1);
  await expect(reader.getByRole('table', { name: 'Versions', exact: true })).toContainText('8');
  await approver.getByRole('button', { name: 'Approve 8.1' }).click();
  await expect(
    holder.getByRole('table', { name: 'Versions', exact: true }).getByRole('row').first(),
  ).toContainText('9.0');
  await expect(
    reader.getByRole('table', { name: 'Versions', exact: true }).getByRole('row').first(),
  ).toContainText('9.0');
  await leave(holder, approver, reader);
});

test('a text is written as its file was: encoding and line ends; a sign the encoding lacks is refused, or all of it goes to UTF-8', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'LATIN', {});
  const latin = (text: string): Buffer => Buffer.from(text, 'latin1');
  const id = await documentOf(library, 'Stützen', 'stuetzen.txt', latin('Stütze 6\r\nÖffnen\r\n'));
  const page = await openAs(browser, 'author', `/LATIN/documents/${id}`);
  await expect(page.getByText('The file is written in Windows-1252.')).toBeVisible();
  await page.goto(`/LATIN/documents/${id}/edit`);
  await page.getByRole('button', { name: 'Check out 0.1 to edit it' }).click();
  await expect(state(page)).toContainText('Saved');
  const kept = async (): Promise<Buffer> =>
    (await author.get(`/api/v1/documents/${id}/checkout/content`)).body();
  await type(page, 'Stütze 6', ' prüfen');
  await expect.poll(kept).toEqual(latin('Stütze 6 prüfen\r\nÖffnen\r\n'));
  await type(page, 'Öffnen', ' →');
  await expect(page.getByRole('alert')).toContainText('written in Windows-1252, which has no →');
  await expect(state(page)).toContainText('Not saved');
  await expectAccessible(page);
  await page.keyboard.press('Backspace');
  await page.keyboard.type('ß');
  await expect.poll(kept).toEqual(latin('Stütze 6 prüfen\r\nÖffnen ß\r\n'));
  await type(page, 'Öffnen', ' →');
  await page.getByRole('button', { name: 'Write it in UTF-8' }).click();
  await expect.poll(kept).toEqual(Buffer.from('Stütze 6 prüfen\r\nÖffnen ß →\r\n', 'utf8'));
  await expect(page.getByRole('button', { name: 'Write it in UTF-8' })).toHaveCount(0);
  await leave(page);
});

test('bringing in a .docx shows the pictures of both sides; either, both or the old one can be chosen', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'PICS', { custody: 'optional' });
  const drawing = (name: string, colour: number): string => file(name, png(60, 40, colour));
  const page = (words: string, shown: string): string =>
    pandocFile('mast.docx', `${words}\n\n![](${shown})\n\nEvery tower is called.\n`);
  const read = (path: string): Buffer => readFileSync(path);
  const id = await documentOf(
    library,
    'Masts',
    'mast.docx',
    read(page('Opened slowly.', drawing('a.png', 0xc0))),
  );
  const copy = await author.post(`/api/v1/documents/${id}/versions/0.1/loose-copy`);
  const { id: mine } = (await copy.json()) as { id: string };
  const put = await author.put(`/api/v1/desk/files/${mine}/content`, {
    data: read(page('Opened slowly.', drawing('c.png', 0x20))),
    headers: { 'Content-Disposition': 'attachment; filename="mast.docx"' },
  });
  expect(put.ok()).toBe(true);
  const now = await author.post(`/api/v1/documents/${id}/versions`, {
    multipart: {
      basedOn: '0.1',
      comment: 'Another mast',
      level: 'minor',
      file: {
        name: 'mast.docx',
        mimeType: 'application/octet-stream',
        buffer: read(page('Opened at walking pace.', drawing('b.png', 0x70))),
      },
    },
  });
  expect(now.status()).toBe(201);
  const desk = await openAs(browser, 'author', `/desk/files/${mine}/bring-in`);
  const conflict = desk.getByRole('region', { name: 'Both changed it; needs your choice' });
  await expect(conflict.locator('img')).toHaveCount(3);
  for (const shown of await conflict.locator('img').all())
    await expect.poll(() => shown.evaluate((image: HTMLImageElement) => image.naturalWidth)).toBe(60);
  await expectAccessible(desk);
  await conflict.getByRole('button', { name: 'Both', exact: true }).click();
  await desk.getByLabel('Check-in comment').fill('Both masts');
  await desk.getByRole('button', { name: /^Check in as 0\.3/ }).click();
  await expect(desk).toHaveURL(/versions\/0\.3/);
  await expect(desk.locator('.sheet img')).toHaveCount(2);
  await leave(desk);
});

test('a lost connection loses no keystroke: kept in the browser, sent on return, also after the page was closed', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'LOST', {});
  const id = await documentOf(library, 'Notes', 'notes.txt', 'Start.\n');
  const page = await openAs(browser, 'author', `/LOST/documents/${id}/edit`);
  await page.getByRole('button', { name: 'Check out 0.1 to edit it' }).click();
  await expect(state(page)).toContainText('Saved');
  await page.context().setOffline(true);
  await type(page, 'Start.', ' Typed without a connection.');
  await expect(state(page)).toContainText('The server cannot be reached');
  await page.context().setOffline(false);
  await expect(state(page)).toContainText('Saved');
  expect(await workingCopy(id)).toBe('Start. Typed without a connection.\n');

  await page.context().setOffline(true);
  await type(page, 'Start.', ' And more.');
  await expect(state(page)).toContainText('The server cannot be reached');
  const pages = page.context();
  await page.close();
  await pages.setOffline(false);
  const again = await pages.newPage();
  await again.goto(`/LOST/documents/${id}/edit`);
  await expect(again.locator('.cm-content')).toContainText('Start. Typed without a connection. And more.');
  await expect(state(again)).toContainText('Saved');
  await expect.poll(() => workingCopy(id)).toBe('Start. Typed without a connection. And more.\n');

  // Written from elsewhere meanwhile: both are there until one is chosen.
  await author.put(`/api/v1/documents/${id}/checkout/content`, {
    data: Buffer.from('From another program.\n'),
    headers: { 'Content-Type': 'text/plain', 'Content-Disposition': 'attachment; filename="notes.txt"' },
  });
  await type(again, 'And more.', ' Mine.');
  await expect(again.getByRole('region', { name: 'Consequences' })).toContainText(
    'It was saved from elsewhere while you typed.',
  );
  await again.getByRole('button', { name: 'Save mine over it' }).click();
  await expect(state(again)).toContainText('Saved');
  expect(await workingCopy(id)).toContain('And more. Mine.');
  // The other is a step that can be gone back to.
  await again.goto(`/LOST/documents/${id}`);
  await again.getByRole('button', { name: 'More to do while you hold it' }).click();
  await again.getByRole('button', { name: 'Saves' }).click();
  await again
    .getByRole('list', { name: 'Saves of the working copy' })
    .getByRole('listitem')
    .nth(1)
    .getByRole('button', { name: 'Go back to it' })
    .click();
  await expect.poll(() => workingCopy(id)).toBe('From another program.\n');

  // Lifted while the holder had no connection: what they typed is still theirs.
  await again.goto(`/LOST/documents/${id}/edit`);
  await expect(state(again)).toContainText('Saved');
  await pages.setOffline(true);
  await type(again, 'From another program.', ' Typed in the tunnel.');
  await expect(state(again)).toContainText('The server cannot be reached');
  expect(
    (
      await controller.post(`/api/v1/documents/${id}/checkout/lift`, {
        data: { reason: 'Not to be reached' },
      })
    ).status(),
  ).toBe(200);
  await pages.setOffline(false);
  const unsent = again.getByRole('region', { name: 'Not sent' });
  await expect(unsent).toContainText('From another program. Typed in the tunnel.');
  await unsent.getByRole('button', { name: 'Put it on my Desk' }).click();
  await expect(again.getByRole('region', { name: 'Not registered yet' })).toContainText('notes.txt');
  await expect(again.getByRole('region', { name: 'Set aside' })).toContainText('Not to be reached');
  await pages.close();
});

test('what another does appears on an open page without losing what is being typed', async ({ browser }) => {
  const library = await libraryFor(admin, 'LIVE', {});
  const [mine, other] = [
    await documentOf(library, 'Mine', 'mine.txt', 'a\n'),
    await documentOf(library, 'Other', 'other.txt', 'b\n'),
  ];
  const page = await openAs(browser, 'author', '/LIVE');
  await row(page, 'LIVE-001').getByRole('button', { name: 'Check out LIVE-001' }).click();
  await page.getByRole('button', { name: 'Check LIVE-001 in as 0.2, a draft' }).click();
  await page.getByRole('textbox', { name: 'Check-in comment' }).fill('Half a sentence that is');
  await checkIn(author2, other, 'c\n', 'other.txt');
  await expect(row(page, 'LIVE-002')).toContainText('0.2');
  await author2.post(`/api/v1/documents/${other}/publish`, { data: {} });
  await expect(row(page, 'LIVE-002')).toContainText('1.0');
  await expect(page.getByRole('textbox', { name: 'Check-in comment' })).toHaveValue(
    'Half a sentence that is',
  );
  expect((await author.delete(`/api/v1/documents/${mine}/checkout`)).status()).toBe(204);
  await leave(page);
});

test('many at once: files dropped become documents, ticked ones are checked out, checked in and given back, each outcome told', async ({
  browser,
}) => {
  await libraryFor(admin, 'MANY', {});
  const page = await openAs(browser, 'author', '/MANY');
  await expect(page.getByText('The library is empty.')).toBeVisible();
  const files = ['Valley station', 'Crest station', 'Workshop'].map((name) => ({
    name: `MANY-9 ${name}.txt`,
    path: file(`${name}.txt`, `${name}\n`),
  }));
  await dropFiles(page.locator('.register-body'), [
    ...files,
    { name: 'empty.txt', path: file('empty.txt', '') },
  ]);
  await expect(page.getByRole('textbox', { name: 'Title of MANY-9 Crest station.txt' })).toHaveValue(
    'Crest station',
  );
  await page.getByRole('textbox', { name: 'Comment' }).fill('Taken over from the folder');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Register 4 documents as 0.1, drafts' }).click();
  const uploads = page.getByRole('region', { name: 'Files on their way' });
  await expect(uploads.getByRole('status')).toHaveText('3 of 4 are registered in Library MANY');
  await uploads.getByRole('button', { name: 'Each file' }).click();
  await expect(uploads).toContainText('empty.txt is empty. Choose a file with content.');
  await uploads.getByRole('button', { name: 'Close' }).click();

  await checkOutAs(author2, 'MANY', 'MANY-003');
  for (const number of ['MANY-001', 'MANY-002', 'MANY-003'])
    await page.getByRole('checkbox', { name: `Tick ${number}` }).check();
  const bar = page.getByRole('region', { name: 'Ticked documents' });
  await bar.getByRole('button', { name: 'Check out', exact: true }).click();
  await expect(bar.getByRole('list', { name: 'What will become of each' })).toContainText(
    'J. Sandoval holds MANY-003.',
  );
  await expectAccessible(page);
  const copies = page.waitForEvent('download');
  await bar.getByRole('button', { name: 'Check out 2 documents' }).click();
  // What was checked out comes as one file.
  expect((await copies).suggestedFilename()).toBe('working-copies.zip');
  await expect(bar.getByRole('list', { name: 'What became of each' })).toContainText(
    'MANY-002 checked out at 0.1',
  );
  await expect(row(page, 'MANY-001')).toContainText('You · since today');
  // Nothing was changed in either: each is asked about, and both are answered at once.
  await bar.getByRole('button', { name: 'Check in', exact: true }).click();
  await bar.getByRole('textbox', { name: 'Check-in comment' }).fill('Looked at');
  await bar.getByRole('button', { name: 'Yes to all 2' }).click();
  await expect(bar).toContainText('MANY-001 will be checked in as 0.2, a draft');
  await bar.getByRole('button', { name: 'Check in 2 documents' }).click();
  await expect(bar.getByRole('list', { name: 'What became of each' })).toContainText(
    'MANY-002 checked in as 0.2, a draft',
  );
  await bar.getByRole('button', { name: 'Publish', exact: true }).click();
  await bar.getByRole('button', { name: 'Publish 2 documents' }).click();
  await expect(bar).toContainText('MANY-002 published as 1.0, in force');
  await bar.getByRole('button', { name: 'Check out', exact: true }).click();
  await bar.getByRole('button', { name: 'Check out 2 documents' }).click();
  await expect(bar).toContainText('MANY-002 checked out at 1.0');
  await bar.getByRole('button', { name: 'Give back' }).click();
  await bar.getByRole('button', { name: 'Give back 2 documents' }).click();
  await expect(row(page, 'MANY-001').getByRole('button', { name: 'Check out MANY-001' })).toBeVisible();
  await leave(page);
});

async function checkOutAs(who: APIRequestContext, code: string, number: string): Promise<void> {
  const { items } = (await (await who.get('/api/v1/libraries')).json()) as {
    items: { id: string; code: string }[];
  };
  const found = (await (
    await who.get(`/api/v1/libraries/${items.find((one) => one.code === code)?.id}/documents?q=${number}`)
  ).json()) as { items: { id: string }[] };
  expect((await who.post(`/api/v1/documents/${found.items[0]?.id}/checkout`, { data: {} })).status()).toBe(
    201,
  );
}

test('files that say where they come from: an arrival finds its document, a check-in of an earlier one is asked about', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'MARK', {});
  const path = pandocFile('marked', '# Rope\n\nLooked at every morning.\n');
  const id = await documentOf(library, 'Rope', 'rope.docx', readFileSync(path));
  const early = await (await author.get(`/api/v1/documents/${id}/versions/0.1/content?marked=1`)).body();
  const parts = unzipSync(early);
  parts['word/document.xml'] = strToU8(
    new TextDecoder().decode(parts['word/document.xml']).replace('every morning', 'every evening'),
  );
  const edited = file('edited.docx', Buffer.from(zipSync(parts)));
  const later = pandocFile(
    'marked-later',
    '# Rope\n\nLooked at every morning.\n\nThe count is written down.\n',
  );
  expect((await author2.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
  expect(
    (
      await author2.post(`/api/v1/documents/${id}/checkin`, {
        multipart: {
          comment: 'Count',
          level: 'minor',
          file: { name: 'rope.docx', mimeType: 'application/octet-stream', buffer: readFileSync(later) },
        },
      })
    ).status(),
  ).toBe(201);

  const page = await openAs(browser, 'author', '/desk');
  await page.getByLabel(/Put files on your Desk/).setInputFiles(edited);
  const arrival = page
    .getByRole('region', { name: 'Not registered yet' })
    .getByRole('article', { name: 'edited.docx' });
  await expect(arrival).toContainText('taken from MARK-001 0.1, the latest is 0.2');
  await arrival.getByRole('link', { name: 'Bring in' }).click();
  await expect(page.getByRole('region', { name: 'Only you changed it' })).toContainText('evening');
  await page.getByRole('textbox', { name: 'Check-in comment' }).fill('Evening round');
  // The file has a name of its own; the document keeps the registered one unless that is wanted.
  await expect(page.getByRole('checkbox', { name: 'take the new name, not rope.docx' })).not.toBeChecked();
  await page.getByRole('button', { name: 'Check in as 0.3, a draft' }).click();
  await expect(page).toHaveURL(/versions\/0\.3$/);
  await expect(page.getByText('Looked at every evening.')).toBeVisible();
  await expect(page.getByText('The count is written down.')).toBeVisible();

  await page.getByRole('button', { name: 'Check out 0.3' }).click();
  await page.getByRole('button', { name: /in as 0\.4, a draft$/ }).click();
  const landing = page.getByRole('form', { name: 'Check in as 0.4' });
  await landing.locator('input[type=file]').setInputFiles(edited);
  await landing.getByRole('textbox', { name: 'Check-in comment' }).fill('From the old one');
  await landing.getByRole('button', { name: 'Check in as 0.4, a draft' }).click();
  await expect(landing.getByRole('alert')).toContainText('The file was taken from 0.1; the latest is 0.3.');
  await landing.getByRole('button', { name: 'Cancel' }).click();
  await leave(page);
});

test('a private copy is edited without versions and becomes a document of its own', async ({ browser }) => {
  const library = await libraryFor(admin, 'LOOSE', {});
  const id = await documentOf(library, 'Table', 'table.csv', 'mast,value\nValley,4\n');
  const page = await openAs(browser, 'author', `/LOOSE/documents/${id}`);
  await page.getByRole('button', { name: 'Private copy' }).click();
  const copies = page.getByRole('region', { name: 'Private copies' });
  await expect(copies).toContainText('no versions');
  const copy = copies.getByRole('article', { name: 'LOOSE-001 Table' });
  // Edited in a program of one's own, and written back; from here on it is edited in the page.
  await copy
    .getByLabel('Save the edited file')
    .setInputFiles(file('table.csv', Buffer.from('mast,value\nValley,4\nCrest,9\n')));
  await expect(page.getByText('table.csv is saved; what the copy said before is gone.')).toBeVisible();
  await copy.getByRole('link', { name: 'Edit' }).click();
  await expect(page.locator('.preview table')).toContainText('Crest');
  await type(page, 'Valley,4', ',calm');
  await expect(page.locator('.preview table')).toContainText('calm');
  await expect(state(page)).toContainText('Saved');
  await page.getByRole('link', { name: 'Bring in' }).click();
  await page.getByRole('button', { name: 'Another document' }).click();
  await expectAccessible(page);
  const form = page.getByRole('form', { name: 'As a new document' });
  await page.getByRole('combobox', { name: 'Library' }).click();
  await page.locator('.ant-select-item-option').filter({ hasText: 'Library LOOSE' }).click();
  await form.getByRole('textbox', { name: 'Title' }).fill('A table of its own');
  await form.getByRole('button', { name: 'Register in Library LOOSE' }).click();
  await expect(page.getByRole('heading', { name: 'A table of its own' })).toBeVisible();
  expect(
    ((await (await author.get(`/api/v1/documents/${id}`)).json()) as { versions: number }).versions,
  ).toBe(1);
  await leave(page);
});

test('check-out with a reason and an end date, kept longer; an upload shows how far it is and is cancelled without a trace', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'LARGE', {});
  const id = await documentOf(library, 'Recording', 'recording.bin', 'first');
  const page = await openAs(browser, 'author', `/LARGE/documents/${id}`);
  await page.getByRole('button', { name: 'Add a reason or end date' }).click();
  const form = page.getByRole('form', { name: 'Check out LARGE-001' });
  await form.getByRole('textbox', { name: 'Reason' }).fill('New recording at the crest');
  await form.getByLabel('Until').fill('4 May 2030 12:00');
  await form.getByLabel('Until').press('Tab');
  await form.getByRole('button', { name: 'Check out 0.1' }).click();
  const facts = page.getByRole('complementary', { name: 'Facts' });
  await expect(facts).toContainText('to 4 May 2030');
  await expect(facts).toContainText('“New recording at the crest”');
  await facts.getByRole('button', { name: 'More to do while you hold it' }).click();
  await facts.getByRole('button', { name: 'Keep it longer' }).click();
  await facts.getByLabel('Until').fill('2031-06-07T12:00');
  await facts.getByLabel('Until').press('Tab');
  // The button says what it does once the date is taken.
  await facts.getByRole('button', { name: 'Hold it until 7 Jun 2031' }).click();
  await expect(facts).toContainText('to 7 Jun 2031');

  const session = await page.context().newCDPSession(page);
  await session.send('Network.enable');
  await session.send('Network.emulateNetworkConditions', {
    offline: false,
    latency: 0,
    downloadThroughput: -1,
    uploadThroughput: 500_000,
  });
  const large = file('recording.bin', randomBytes(6_000_000));
  await facts.locator('input[type=file]').setInputFiles(large);
  await expect(facts.getByRole('progressbar', { name: 'Upload' })).toBeVisible();
  await facts.getByRole('button', { name: 'Cancel' }).click();
  await expect(facts.getByRole('alert')).toContainText('The upload was cancelled. Nothing was changed.');
  await expect(facts).toContainText('Nothing saved yet');
  expect(await workingCopy(id)).toBe('first');

  let begun = 0;
  page.on('request', (request) => {
    if (request.method() === 'POST' && request.url().endsWith('/api/v1/uploads')) begun += 1;
  });
  // Large enough to go in parts: a lost connection, and even a page left, costs only what was under way.
  const sent = async (): Promise<number> =>
    Number(await facts.getByRole('progressbar', { name: 'Upload' }).getAttribute('aria-valuenow'));
  await facts.locator('input[type=file]').setInputFiles(large);
  await expect.poll(sent).toBeGreaterThan(10);
  await page.context().setOffline(true);
  await page.waitForTimeout(1500);
  await page.context().setOffline(false);
  await expect.poll(sent).toBeGreaterThan(40);
  await page.reload();
  await facts.locator('input[type=file]').setInputFiles(large);
  await expect.poll(sent).toBeGreaterThan(25);
  await expect(facts).toContainText('1 save');
  const held = await author.get(`/api/v1/documents/${id}/checkout/content`);
  expect(readFileSync(large).equals(await held.body())).toBe(true);
  expect(begun).toBe(1);
  await page.context().close();
});

test('the Desk of the demo: overdue check-outs, what came back, notices, light and dark', async ({
  browser,
}) => {
  const page = await openAs(browser, 'author2', '/desk');
  await expect(page.getByRole('region', { name: 'You hold' })).toContainText('due');
  await expect(page.getByRole('region', { name: 'Back with you' })).toContainText('RP-102');
  await expect(page.getByRole('complementary', { name: 'Notices' })).toContainText(
    'Your check-out of OP-015 is overdue.',
  );
  await page.getByRole('button', { name: 'Work on it' }).first().click();
  await expectAccessible(page);
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Mark as read' }).click();
  await expect(page.getByRole('complementary', { name: 'Notices' }).locator('.notice-new')).toHaveCount(0);
  const approver = await openAs(browser, 'approver2', '/desk');
  await approver
    .getByRole('region', { name: 'Your turn to decide' })
    .getByRole('article', { name: 'RP-101' })
    .getByRole('button', { name: 'Decide' })
    .click();
  await expect(approver.getByRole('button', { name: 'Approve 3.1' })).toBeVisible();
  await leave(page, approver);
});

test('a long text comes part by part, as one reads on @deep', async ({ browser }) => {
  const library = await libraryFor(admin, 'LONG', {});
  const lines = Array.from({ length: 4_500 }, (_, index) => `line ${index} of the log`);
  const id = await documentOf(library, 'Log', 'log.txt', lines.join('\n'));
  const page = await openAs(browser, 'author', `/LONG/documents/${id}`);
  await expect(page.getByText('line 1999 of the log')).toBeAttached();
  await expect(page.getByText('line 2000 of the log')).toHaveCount(0);
  await page.getByText('2,000 of 4,500 paragraphs are shown').scrollIntoViewIfNeeded();
  await expect(page.getByText('line 2000 of the log')).toBeAttached();
  await page.getByText('4,000 of 4,500 paragraphs are shown').scrollIntoViewIfNeeded();
  await expect(page.getByText('line 4499 of the log')).toBeAttached();
  await expect(page.getByText('paragraphs are shown')).toHaveCount(0);
  await leave(page);
});

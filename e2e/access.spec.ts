import { expect, type Locator, type Page, test } from '@playwright/test';
import { adminAndAuthor, documentFor, expectAccessible, leave, libraryFor, openAs, row } from './support.ts';

const by = adminAndAuthor();

/** A narrow telephone, and a window of 1280x800 at 200 % (WCAG 2.2, 1.4.4 and 1.4.10). */
const rooms = { telephone: { width: 390, height: 844 }, 'at 200 %': { width: 640, height: 400 } };

/** Text has room to be read, and nothing lies over it. */
async function expectReadable(text: Locator, share = 0.6): Promise<void> {
  // While a screen is read, what stands for it makes room.
  await expect(async () => {
    await text.scrollIntoViewIfNeeded({ timeout: 2000 });
    const found = await text.evaluate((element) => {
      const { left, top, width, height } = element.getBoundingClientRect();
      const over = document.elementFromPoint(left + Math.min(width / 2, 60), top + Math.min(height / 2, 10));
      return { width, isFree: over !== null && (element.contains(over) || over.contains(element)) };
    });
    expect(found.isFree).toBe(true);
    expect(found.width).toBeGreaterThan((text.page().viewportSize()?.width ?? 0) * share);
  }).toPass();
}

/** The page goes on downwards alone. */
const expectNoSideways = async (page: Page): Promise<void> =>
  expect(
    await page.evaluate(() => document.documentElement.scrollWidth - document.documentElement.clientWidth),
  ).toBe(0);

interface Screen {
  account: string;
  path: string;
  /** What is read there, and what is pressed. */
  texts: (page: Page) => Locator[];
  press: (page: Page) => Locator;
}
const screens: Record<string, Screen> = {
  Register: {
    account: 'controller',
    path: '/OP',
    texts: (page) => [
      page.getByRole('heading', { level: 1 }),
      row(page, 'OP-014')
        .getByRole('link', { name: /^Opening the line/ })
        .locator('..'),
    ],
    press: (page) => page.getByRole('button', { name: 'New document' }),
  },
  Approvals: {
    account: 'approver',
    path: '/approvals',
    texts: (page) => [
      page.getByRole('listitem').filter({ hasText: 'RP-105' }).getByRole('button'),
      page.getByRole('article').getByRole('heading', { level: 2 }).first(),
      page.getByRole('form', { name: 'Decide' }).getByRole('paragraph').first(),
    ],
    press: (page) => page.getByRole('button', { name: /^Approve/ }),
  },
  Rulebook: {
    account: 'controller',
    path: '/OP/rulebook',
    texts: (page) => [page.locator('.rule p').first(), page.locator('.would p').first()],
    press: (page) => page.getByRole('button', { name: /^Readers also|^Numbering/ }).first(),
  },
  Desk: {
    account: 'author',
    path: '/desk',
    texts: (page) => [
      page
        .getByRole('article', { name: /^OP-014/ })
        .getByRole('link')
        .first()
        .locator('..'),
    ],
    press: (page) =>
      page
        .getByRole('article', { name: /^OP-014/ })
        .getByRole('button')
        .first(),
  },
  'Recovery shelf': {
    account: 'controller',
    path: '/WL/shelf',
    texts: (page) => [page.locator('.shelf .lead'), page.locator('.shelf tbody td').nth(2)],
    press: (page) => page.getByRole('button', { name: /^Recover WL-001/ }).first(),
  },
  'As of': {
    account: 'auditor',
    path: '/OP/as-of',
    texts: (page) => [page.getByRole('listitem').filter({ hasText: 'OP-014' }).getByRole('link').first()],
    press: (page) => page.getByRole('slider').first(),
  },
};

for (const [room, size] of Object.entries(rooms)) {
  test(`every screen can be read and used ${room}`, async ({ browser }) => {
    for (const [name, { account, path, texts, press }] of Object.entries(screens)) {
      await test.step(name, async () => {
        const page = await openAs(browser, account, path);
        await page.setViewportSize(size);
        for (const text of texts(page)) await expectReadable(text);
        await expectNoSideways(page);
        await press(page).click({ trial: true });
        // What axe looks at does not change with the room: both themes are tried in the narrower one.
        if (room === 'telephone') {
          await expectAccessible(page);
          await page.emulateMedia({ colorScheme: 'dark' });
          await expectAccessible(page);
        }
        await leave(page);
      });
    }
  });
}

test('with colours forced, what is chosen and how far a bar is filled can still be told apart', async ({
  browser,
}) => {
  const page = await openAs(browser, 'approver', '/approvals');
  await page.emulateMedia({ forcedColors: 'active' });
  await expect(page.locator('.slice').first()).toBeVisible();
  const styleOf = (selector: string, property: string): Promise<string> =>
    page
      .locator(selector)
      .first()
      .evaluate((element, name) => getComputedStyle(element).getPropertyValue(name), property);
  expect(await styleOf('.ant-segmented-item-selected', 'outline-style')).toBe('solid');
  expect(await styleOf('.ant-segmented-item:not(.ant-segmented-item-selected)', 'outline-style')).toBe(
    'none',
  );
  expect(await styleOf('.approvals-item[aria-current]', 'outline-style')).toBe('solid');
  expect(await styleOf('.approvals-bar span', 'background-color')).not.toBe(
    await styleOf('.approvals-bar', 'background-color'),
  );
  await page.goto('/OP');
  const strand = row(page, 'OP-014');
  await expect(strand).toBeVisible();
  expect(await styleOf('.s-bar-governs', 'stroke')).not.toBe(await styleOf('body', 'background-color'));
  await expectAccessible(page);
  await page.emulateMedia({ forcedColors: 'none' });
  await leave(page);
});

test('a comparison is read on a telephone and at 200 %: its text has the width, its changes stand below', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller', '/OP');
  const link = row(page, 'OP-014').getByRole('link', { name: /^Compare/ });
  const path = (await link.getAttribute('href')) ?? '';
  for (const size of Object.values(rooms)) {
    await page.setViewportSize(size);
    await page.goto(path);
    await expectReadable(page.locator('.slice').first(), 0.8);
    await expectReadable(page.locator('.change').first(), 0.8);
    await expectNoSideways(page);
    await expectAccessible(page);
  }
  await leave(page);
});

test('tabs say the screen and its document; the focus comes back to where an act began', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'TITL', {});
  const id = await documentFor(by.author, library, 'סיבוב בוקר', 'Walk.', 'major');
  const page = await openAs(browser, 'controller', '/TITL');
  await expect(page).toHaveTitle('Library TITL, Register · Polychron');
  // A title that is written from right to left begins at the right.
  const title = row(page, 'TITL-001').getByRole('link', { name: 'סיבוב בוקר' });
  expect(await title.evaluate((element) => getComputedStyle(element).direction)).toBe('rtl');
  await title.click();
  await expect(page).toHaveTitle('TITL-001 סיבוב בוקר · Polychron');
  await expect(page.locator('#screen ~ p[aria-live]')).toHaveText('TITL-001 סיבוב בוקר');
  for (const name of ['Withdraw 1.0', 'Registered by mistake: void TITL-001']) {
    await page.getByRole('button', { name }).focus();
    await page.keyboard.press('Enter');
    await expect(page.getByRole('region', { name: 'Consequences' }).getByRole('textbox')).toBeFocused();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('button', { name })).toBeFocused();
  }
  await page.goto(`/TITL/documents/${id}/sight`);
  await expect(page).toHaveTitle('TITL-001 Who sees which version of סיבוב בוקר · Polychron');
  await page.goto('/TITL/rulebook');
  await expect(page).toHaveTitle('Rulebook of Library TITL · Polychron');
  await leave(page);
});

test('arrow keys move the focus through the Register; letters act on the row that has it', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller', '/OP');
  await expect(row(page, 'OP-011')).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await expect(row(page, 'OP-011')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await expect(row(page, 'OP-014')).toBeFocused();
  await page.getByRole('button', { name: 'Subjects' }).focus();
  await page.keyboard.press('f');
  await expect(page.getByRole('textbox', { name: 'Title' })).toHaveCount(0);
  await row(page, 'OP-014').focus();
  await page.keyboard.press('v');
  await expect(page).toHaveURL(/\/compare\//);
  await leave(page);
});

for (const [room, size] of Object.entries(rooms)) {
  const deep = room === 'telephone' ? '' : ' @deep';
  test(`from check-out to approval by the keyboard alone, ${room}${deep}`, async ({ browser }) => {
    const code = room === 'telephone' ? 'KEYA' : 'KEYB';
    const approval = { on: true, mode: 'serial', approvers: ['approver'] };
    const library = await libraryFor(by.admin, code, { approval });
    const id = await documentFor(by.author, library, 'Lamps', 'Look at them.', 'minor');
    const page = await openAs(browser, 'author', `/${code}/documents/${id}`);
    await page.setViewportSize(size);
    /** Tab until the focus is there: nobody may be caught on the way. */
    const reach = async (on: Page, target: Locator): Promise<void> => {
      await expect(target).toBeVisible();
      for (let presses = 0; presses < 120; presses += 1) {
        if (await target.evaluate((element) => element === document.activeElement)) return;
        await on.keyboard.press('Tab');
      }
      throw new Error('not reached by Tab');
    };
    const pressed = async (on: Page, target: Locator): Promise<void> => {
      await reach(on, target);
      await on.keyboard.press('Enter');
    };
    await pressed(page, page.getByRole('button', { name: /^Check out 0\.1/ }));
    await pressed(page, page.getByRole('link', { name: 'Edit it here' }));
    await expect(page.locator('.cm-content')).toBeFocused();
    await page.keyboard.press('Control+End');
    await page.keyboard.type(' Twice.');
    await expect(page.getByRole('main').getByRole('status').first()).toContainText('Saved');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Shift+Tab');
    const checkIn = page.getByRole('button', { name: /^Check in as 0\.2/ });
    for (let presses = 0; presses < 20; presses += 1) {
      if (await checkIn.evaluate((element) => element === document.activeElement)) break;
      await page.keyboard.press('Shift+Tab');
    }
    await page.keyboard.press('Enter');
    const label = page.getByRole('form', { name: 'Check in as 0.2' });
    await expect(label.getByRole('textbox', { name: 'Check-in comment' })).toBeFocused();
    await page.keyboard.type('Twice a day');
    await pressed(page, label.getByRole('button', { name: /^Check in as 0\.2/ }));
    await expect(page).toHaveURL(new RegExp(`/${code}/documents/${id}$`));
    await pressed(page, page.getByRole('button', { name: 'Submit 0.2' }));
    const submit = page.getByRole('region', { name: 'Consequences' });
    await expect(submit.getByRole('textbox').first()).toBeVisible();
    await pressed(page, submit.getByRole('button', { name: /^Submit/ }));
    await expect(page.getByRole('region', { name: 'Approval' })).toBeVisible();

    const approver = await openAs(browser, 'approver', `/${code}/documents/${id}`);
    await approver.setViewportSize(size);
    await pressed(approver, approver.getByRole('button', { name: 'Approve 0.2' }));
    await expect(approver.getByText('1.0 · in force')).toBeVisible();
    await leave(page, approver);
  });
}

import { expect, test } from '@playwright/test';
import {
  Acts,
  adminAndAuthor,
  documentFor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  row,
} from './support.ts';

const by = adminAndAuthor();

async function change(id: string, text: string, level: 'minor' | 'major'): Promise<void> {
  expect((await by.author.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
  const file = { name: 'text.txt', mimeType: 'text/plain', buffer: Buffer.from(text) };
  const answer = await by.author.post(`/api/v1/documents/${id}/checkin`, {
    multipart: { comment: `Now ${text}`, level, file },
  });
  expect(answer.status()).toBe(201);
}

test('11: what is in force is withdrawn from the Register in three acts, and an earlier version is put back in force', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'STA', { numbering: 'whole' });
  const id = await documentFor(by.author, library, 'Lamp rooms', 'one', 'major');
  await change(id, 'two', 'major');
  await change(id, 'three', 'major');
  const page = await openAs(browser, 'controller', '/STA');
  const reader = await openAs(browser, 'reader', '/STA');
  await expect(row(reader, 'STA-001')).toContainText('3');
  await row(page, 'STA-001').click();
  const panel = page.getByRole('complementary', { name: 'STA-001' });
  const acts = new Acts();
  await acts.click(panel.getByRole('button', { name: 'Withdraw 3' }));
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await expect(consequences).toContainText('7 members will see 2 instead of 3 from now.');
  await expectAccessible(page);
  const why = consequences.getByLabel('Why? It stays with the version.');
  await acts.fill(why, 'Lamps of the wrong kind');
  await acts.press(why, 'Enter');
  expect(acts.count).toBe(3);
  await expect(panel.getByRole('button', { name: 'Withdraw 2' })).toBeVisible();
  await expect(row(reader, 'STA-001')).toContainText('Now two');
  // Example 11: of 1, 2, 3 the second again; here 3 is withdrawn already, and 1 comes back before 2.
  await page.goto(`/STA/documents/${id}/versions/1`);
  await page.getByRole('button', { name: 'Put 1 back in force' }).click();
  await expect(consequences).toContainText(
    '7 members will see 1 instead of 2 from now. 2 is withdrawn, not lost.',
  );
  await consequences.getByLabel('Why? It stays with the version.').fill('Two was too early');
  await consequences.getByRole('button', { name: 'Put 1 back in force' }).click();
  await expect(row(reader, 'STA-001')).toContainText('First');
  await page.goto(`/STA/documents/${id}/versions/3`);
  await expect(page.getByText('Withdrawn by M. Oduya: “Lamps of the wrong kind”.').last()).toBeVisible();
  await expectAccessible(page);
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectAccessible(page);
  await change(id, 'four', 'major');
  await expect(row(reader, 'STA-001')).toContainText('4');
  await leave(page, reader);
});

test('a version that waits for its moment is shown, moved, made now, and another is taken back', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'STB', {});
  const make = async (title: string): Promise<string> => {
    const id = await documentFor(by.author, library, title, 'one', 'major');
    await change(id, `two of ${title}`, 'minor');
    const inForceFrom = new Date(Date.now() + 5 * 86_400_000).toISOString();
    const answer = await by.author.post(`/api/v1/documents/${id}/publish`, { data: { inForceFrom } });
    expect(answer.status()).toBe(201);
    return id;
  };
  const [now, never] = [await make('At once'), await make('Never')];
  const page = await openAs(browser, 'author', `/STB/documents/${now}/versions/2.0`);
  await expect(page.getByText(/^2\.0 comes into force /)).toBeVisible();
  await page.getByRole('button', { name: 'Change when 2.0 comes into force' }).click();
  const consequences = page.getByRole('region', { name: 'Consequences' });
  await expect(consequences).toContainText('until then readers keep 1.0');
  // The cross shows under the pointer alone; a list that is read again meanwhile may take it from there.
  await expect(async () => {
    await consequences.getByLabel('In force from').hover();
    await consequences.locator('.ant-picker-clear').click({ timeout: 2_000 });
  }).toPass();
  await expect(consequences).toContainText('Readers get 2.0 from now.');
  await consequences.getByRole('button', { name: 'Bring 2.0 into force' }).click();
  await expect(page.getByText('what everyone in the library sees')).toBeVisible();
  await page.goto(`/STB/documents/${never}/versions/2.0`);
  await page.getByRole('button', { name: 'Take 2.0 back' }).click();
  await expect(consequences).toContainText('7 members go on seeing 1.0.');
  await consequences.getByRole('button', { name: 'Take 2.0 back' }).click();
  await expect(page.getByText(/: Taken back by T\. Brandvold before it came into force\./)).toBeVisible();
  await leave(page);
});

for (const [room, viewport] of Object.entries({
  'at 1280 px': { width: 1280, height: 800 },
  'on a telephone': { width: 390, height: 844 },
}))
  test(`after a withdrawal work begins from what is in force, which is said in whole ${room}`, async ({
    browser,
  }) => {
    const code = `ST${viewport.width}`;
    const library = await libraryFor(by.admin, code, {});
    const id = await documentFor(by.author, library, 'Lamp rooms', 'one', 'major');
    await change(id, 'two', 'major');
    const controller = await openAs(browser, 'controller', `/${code}/documents/${id}/versions/2.0`);
    await controller.getByRole('button', { name: 'Withdraw 2.0' }).click();
    const consequences = controller.getByRole('region', { name: 'Consequences' });
    await consequences.getByLabel('Why? It stays with the version.').fill('Lamps of the wrong kind');
    await consequences.getByRole('button', { name: 'Withdraw 2.0' }).click();
    await expect(controller.getByText(/Withdrawn by/).first()).toBeVisible();
    const page = await openAs(browser, 'author', `/${code}`);
    await page.setViewportSize(viewport);
    await row(page, `${code}-001`)
      .getByRole('button', { name: /^Check out/ })
      .click();
    const said = page.getByText(
      'You work on 1.0, in force, not on 2.0. Withdrawn by M. Oduya: “Lamps of the wrong kind”.',
    );
    // Neither its first nor its last line lies under anything.
    const inSight = (words: Element): boolean[] => {
      const { left, top, bottom } = words.getBoundingClientRect();
      return [top + 4, bottom - 4].map((y) => words.contains(document.elementFromPoint(left + 4, y)));
    };
    await expect(said).toBeVisible();
    expect(await said.evaluate(inSight)).toEqual([true, true]);
    await page.goto(`/${code}/documents/${id}`);
    await expect(page.locator('.custody-acts')).toContainText('From 1.0; 2.0, the latest, was withdrawn.');
    await leave(page, controller);
  });

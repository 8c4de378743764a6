import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import { unzipSync } from 'fflate';
import {
  Acts,
  dropFile,
  expectAccessible,
  file,
  leave,
  openAs,
  pandocFile,
  plainText,
  row,
} from './support.ts';

const first = `# Rope inspection

The haul rope is looked at every morning.^[From the valley platform.]

1. Stop the line.
2. Wipe the rope.
3. Count the broken wires.

| Part     | Limit    |
|----------|----------|
| Strand   | 4 wires  |
| Splice   | 2 wires  |

- Lamp
- Cloth
`;
const second = first
  .replace('every morning', 'every morning and after every storm')
  .replace('From the valley platform.', 'From both platforms.')
  .replace('3. Count the broken wires.', '3. Count the broken wires.\n4. Write the count down.')
  .replace('4 wires', '3 wires')
  .replace('- Cloth\n', '');

const versions = (page: Page) => page.getByRole('table', { name: 'Versions', exact: true });

test('the whole main job on files made by pandoc, in the browser, with its acts counted', async ({
  browser,
}) => {
  const older = pandocFile('rope-1', first);
  const newer = pandocFile('rope-2', second);
  const page = await openAs(browser, 'author');

  await test.step('create by drag and drop', async () => {
    await page.getByRole('button', { name: 'New document' }).click();
    await dropFile(
      page.locator('.new-document .ant-upload-drag-container'),
      older,
      'OP-040 Rope_inspection.docx',
    );
    await expect(page.getByRole('textbox', { name: 'Title' })).toHaveValue('Rope inspection');
    await page.getByRole('textbox', { name: 'Number' }).fill('OP-040');
    await page.getByRole('textbox', { name: 'Comment' }).fill('From the maker');
    await expectAccessible(page);
    await page.getByRole('button', { name: 'Register as 0.1, a draft' }).click();
    await expect(row(page, 'OP-040')).toContainText('Rope inspection');
    await expect(row(page, 'OP-040')).toContainText('0.1');
  });

  await test.step('check out with download takes one act', async () => {
    const acts = new Acts();
    const download = page.waitForEvent('download');
    await acts.click(row(page, 'OP-040').getByRole('button', { name: 'Check out OP-040' }));
    // The file says which version it was taken from; its text is the same.
    const taken = await (await download).path();
    expect(plainText(taken)).toBe(plainText(older));
    expect(new TextDecoder().decode(unzipSync(readFileSync(taken))['docProps/custom.xml'])).toContain(
      'OP-040 0.1 ',
    );
    await expect(row(page, 'OP-040')).toContainText('You · since today');
    expect(acts.count).toBe(1);
  });

  await test.step('others see holder and time', async () => {
    const other = await openAs(browser, 'author2');
    await expect(row(other, 'OP-040')).toContainText('T. Brandvold · since today · to');
    await expect(row(other, 'OP-040').getByRole('button', { name: /Check out/ })).toHaveCount(0);
    await leave(other);
  });

  await test.step('save the edited file in the working copy, which makes no version', async () => {
    await row(page, 'OP-040').getByRole('link', { name: 'Rope inspection' }).click();
    await expect(page.getByRole('heading', { level: 1, name: 'Rope inspection' })).toBeVisible();
    await dropFile(page.locator('.drop-file'), newer, 'OP-040 Rope_inspection.docx');
    await expect(page.getByText('1 save, the last')).toBeVisible();
    await expect(versions(page).getByRole('row')).toHaveCount(1);
  });

  await test.step('check in with comment and level by landing on the Strand takes three acts, the number shown first', async () => {
    await page.getByRole('link', { name: 'Register' }).click();
    const acts = new Acts();
    await acts.click(row(page, 'OP-040').getByRole('button', { name: 'Check OP-040 in as 0.2, a draft' }));
    const label = page.getByRole('form', { name: 'Check in as 0.2' });
    await expect(label).toContainText('the working copy');
    await acts.fill(label.getByLabel('Check-in comment'), 'After the autumn storm');
    await acts.press(label.getByLabel('Check-in comment'), 'Enter');
    await expect(row(page, 'OP-040')).toContainText('After the autumn storm');
    await expect(row(page, 'OP-040')).toContainText('0.2');
    expect(acts.count).toBe(3);
  });

  await test.step('dropping the file on a number to come does the same, as major', async () => {
    await row(page, 'OP-040').getByRole('button', { name: 'Check out OP-040' }).click();
    const ghost = row(page, 'OP-040').getByRole('button', {
      name: 'Check OP-040 in as 1.0, published and in force',
    });
    const third = pandocFile('rope-3', `${second}\nEnd of the checklist.\n`);
    const acts = new Acts();
    await acts.drop(ghost, third, 'rope-3.docx');
    const label = page.getByRole('form', { name: 'Check in as 1.0' });
    await expect(label).toContainText('rope-3.docx');
    await acts.fill(label.getByLabel('Check-in comment'), 'First issue');
    await acts.press(label.getByLabel('Check-in comment'), 'Enter');
    await expect(row(page, 'OP-040').getByText('1.0').first()).toBeVisible();
    expect(acts.count).toBe(3);
  });

  await test.step('see it on the Strand and in the version table, and read any version in the page', async () => {
    await row(page, 'OP-040').getByRole('link', { name: 'Rope inspection' }).click();
    await expect(versions(page).getByRole('row')).toHaveCount(3);
    await expect(page.getByRole('button', { name: /^1\.0, in force/ })).toBeVisible();
    const text = page.getByRole('region', { name: 'Text' });
    await expect(text.getByText('every morning and after every storm')).toBeVisible();
    await page.getByRole('button', { name: /^0\.1, draft/ }).click();
    await expect(page).toHaveURL(/versions\/0\.1$/);
    await expect(text.getByText('0.1 · draft')).toBeVisible();
    await expect(text.getByText('1.0 is in force since')).toBeVisible();
    await expect(text.getByText('every morning and after every storm')).toHaveCount(0);
    await expect(text.getByRole('cell', { name: '4 wires' })).toBeVisible();
    await expect(text.getByText('From the valley platform.')).toBeVisible();
    await expect(text.locator('.item').first()).toHaveText('1.Stop the line.');
    await expectAccessible(page);
  });

  await test.step('compare any two in at most three acts, and step through the changes', async () => {
    const acts = new Acts();
    await acts.click(versions(page).getByRole('button', { name: 'Compare 0.1 with another' }));
    await acts.click(versions(page).getByRole('button', { name: 'Compare 0.2 with another' }));
    await expect(page).toHaveURL(/compare\/0\.1\/0\.2$/);
    expect(acts.count).toBeLessThanOrEqual(3);
    const changes = page.getByRole('complementary', { name: 'Changes' }).getByRole('listitem');
    await expect(changes).toHaveText([
      'paragraph changedRope inspection and after every storm',
      'new list itemRope inspection Write the count down.',
      'table cell changedRope inspection, row 2, column 24 3',
      'list item goneRope inspectionCloth',
      'note, paragraph changedthe valley platform both platforms',
    ]);
    await expect(page.getByText('5 changes')).toBeVisible();
    await page.keyboard.press('Alt+ArrowDown');
    await page.keyboard.press('n');
    await expect(page.locator('.compare-page .c-current')).toHaveText(/Write the count down/);
    await page.keyboard.press('Alt+ArrowUp');
    await expect(page.locator('.compare-page .c-current')).toHaveText(/every morning/);
    await page.keyboard.press('m');
    await expect(page.locator('.slice-divided').first()).toBeVisible();
    await expectAccessible(page);
    await page.keyboard.press('m');
    await expectAccessible(page);
  });

  await test.step('restore an earlier one in at most three acts from the Register', async () => {
    await page.getByRole('link', { name: 'Register' }).click();
    const acts = new Acts();
    await acts.click(row(page, 'OP-040').getByRole('button', { name: /^Unroll/ }));
    await acts.click(page.getByRole('button', { name: 'Restore 0.1', exact: true }));
    await expect(page.getByRole('region', { name: 'Consequences' })).toContainText(
      'The content of 0.1 comes back as a new version 1.1, a draft; everything in between stays.',
    );
    await acts.click(page.getByRole('button', { name: 'Restore 0.1 as 1.1' }));
    await expect(
      page.getByRole('table', { name: 'Versions of OP-040' }).getByRole('row').first(),
    ).toContainText('content of 0.1');
    expect(acts.count).toBe(3);
  });

  await test.step('publish, with what readers will see said before', async () => {
    await row(page, 'OP-040').getByRole('link', { name: 'Rope inspection', exact: true }).click();
    await page.getByRole('button', { name: 'Publish 1.1 as 2.0' }).click();
    await expect(page.getByRole('region', { name: 'Consequences' })).toContainText(
      'Readers will see 2.0 instead of 1.0 from now',
    );
    await page
      .getByRole('region', { name: 'Consequences' })
      .getByRole('button', { name: 'Publish 1.1 as 2.0' })
      .click();
    await expect(page.getByText('2.0 · in force')).toBeVisible();
  });

  await test.step('a reader sees the version in force and nothing of the drafts', async () => {
    const reader = await openAs(browser, 'reader');
    await expect(row(reader, 'OP-040')).toContainText('2.0');
    await row(reader, 'OP-040').getByRole('link', { name: 'Rope inspection' }).click();
    await expect(versions(reader).getByRole('row')).toHaveCount(1);
    await expect(reader.getByText('2.0 · in force')).toBeVisible();
    await expect(reader.locator('body')).not.toContainText(/0\.1|0\.2|1\.1|1\.0/);
    await expect(reader.getByRole('button', { name: /Check out|Restore|Publish/ })).toHaveCount(0);
    await expectAccessible(reader);
    await leave(reader);
  });
  await leave(page);
});

test('giving back asks only when something was saved', async ({ browser }) => {
  const page = await openAs(browser, 'author2');
  const held = row(page, 'OP-031');
  await held.getByRole('button', { name: 'Check out OP-031' }).click();
  await expect(held).toContainText('You · since today');
  await held.getByRole('link', { name: 'Passenger with a bicycle' }).click();
  await page.getByRole('button', { name: 'Give back' }).click();
  await expect(page.getByText('Nobody holds it.')).toBeVisible();
  await page.getByRole('button', { name: 'Check out 1.0 o', exact: true }).click();
  await dropFile(page.locator('.drop-file'), pandocFile('bicycle', 'Bicycles ride outside.'));
  await expect(page.getByText('1 save, the last')).toBeVisible();
  await page.getByRole('button', { name: 'Give back' }).click();
  await expect(page.getByRole('region', { name: 'Consequences' })).toContainText(
    /1 save, the last today .*, goes\. OP-031 stands at 1\.0 as before/,
  );
  await page.getByRole('button', { name: 'Give back without 1 save' }).click();
  await expect(page.getByText('Nobody holds it.')).toBeVisible();
  await expect(versions(page).getByRole('row')).toHaveCount(2);
  await leave(page);
});

test('refusals are shown where they happen and change nothing', async ({ browser }) => {
  const page = await openAs(browser, 'author');
  // A page that does not hear what happens still shows what was.
  const rival = await openAs(browser, 'author2', '/people');
  await rival.route('**/api/v1/events', (route) => route.abort());
  await rival.goto('/OP');
  await expect(row(rival, 'OP-020')).toBeVisible();
  await row(page, 'OP-020').getByRole('button', { name: 'Check out OP-020' }).click();
  await expect(row(page, 'OP-020')).toContainText('You · since today');
  await row(rival, 'OP-020').getByRole('button', { name: 'Check out OP-020' }).click();
  await expect(
    rival.getByText('T. Brandvold holds OP-020. It can be changed once it is checked in'),
  ).toBeVisible();
  await expect(row(rival, 'OP-020')).toContainText('T. Brandvold · since today');
  await leave(rival);

  await row(page, 'OP-020').getByRole('link', { name: 'Closing for lightning' }).click();
  const putBack = page.locator('.drop-file');
  for (const [name, content, refusal] of [
    ['OP-020.docx', 'no package', 'named .docx but is not one'],
    ['empty.docx', '', 'is empty'],
  ] as const) {
    await dropFile(putBack, file(name, content));
    await expect(page.locator('.refusal')).toContainText(refusal);
  }
  const sound = pandocFile('lightning', 'Close the line.');
  await dropFile(putBack, file('cut.docx', readFileSync(sound).subarray(0, 900)));
  await expect(page.locator('.refusal')).toContainText('cannot be read');
  await expect(page.getByText('Nothing saved yet')).toBeVisible();

  await page.getByRole('button', { name: 'Check OP-020 in as 1.3, a draft' }).click();
  const label = page.getByRole('form', { name: 'Check in as 1.3' });
  await label.getByRole('button', { name: 'Check in as 1.3, a draft' }).click();
  await expect(label.getByRole('alert')).toHaveText('Say in a sentence what changed.');
  await label.getByLabel('Check-in comment').fill('Nothing really');
  await label.getByRole('button', { name: 'Check in as 1.3, a draft' }).click();
  await expect(label.getByRole('alert')).toContainText('the same, byte for byte, as 1.2');
  await expect(versions(page).getByRole('row')).toHaveCount(4);
  await label.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Give back' }).click();
  await expect(page.getByText('Nobody holds it.')).toBeVisible();
  await leave(page);
});

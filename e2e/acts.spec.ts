import { expect, test } from '@playwright/test';
import {
  Acts,
  adminAndAuthor,
  documentFor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  file,
  row,
} from './support.ts';

const by = adminAndAuthor();

/** Acts as docs/interface.md counts them, from the Register with the document in view. */
test('giving back takes one act, publishing two, lifting three, checking in by the file picker four', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'AC', {});
  await documentFor(by.author, library, 'Anchor check', 'Look.', 'minor');
  const page = await openAs(browser, 'author', '/AC');
  const here = row(page, 'AC-001');

  await test.step('publish', async () => {
    const acts = new Acts();
    await acts.click(here.getByRole('button', { name: 'Publish 0.1 of AC-001' }));
    const said = page.getByRole('region', { name: 'Consequences' });
    await expect(said).toContainText('members will see 1.0 from now; nothing was in force before.');
    await expectAccessible(page);
    await acts.click(said.getByRole('button', { name: 'Publish 0.1 as 1.0' }));
    await expect(here).toContainText('1.0');
    await expect(said).toBeHidden();
    expect(acts.count).toBeLessThanOrEqual(2);
    await expect(here.getByRole('button', { name: /^Publish/ })).toBeHidden();
  });

  await test.step('give back what nothing was saved of', async () => {
    await here.getByRole('button', { name: 'Check out AC-001' }).click();
    await expect(here).toContainText('You · since today');
    const acts = new Acts();
    await acts.click(here.getByRole('button', { name: 'Give AC-001 back' }));
    // What is said in short lies over nothing that is pressed.
    const covered = await page
      .getByText('AC-001 is free again; it stands at 1.0 as before.')
      .evaluate((said) => {
        const place = said.getBoundingClientRect();
        const isUnder = ({ left, right, top, bottom }: DOMRect): boolean =>
          left < place.right && right > place.left && top < place.bottom && bottom > place.top;
        return [...document.querySelectorAll('a, button, input')]
          .filter((control) => isUnder(control.getBoundingClientRect()))
          .map(({ outerHTML }) => outerHTML);
      });
    expect(covered).toEqual([]);
    await expect(here.getByRole('button', { name: 'Check out AC-001' })).toBeVisible();
    expect(acts.count).toBe(1);
  });

  await test.step('check in by the file picker', async () => {
    await here.getByRole('button', { name: 'Check out AC-001' }).click();
    await expect(here).toContainText('You · since today');
    const acts = new Acts();
    await acts.click(here.getByRole('button', { name: 'Check AC-001 in as 1.1, a draft' }));
    const label = page.getByRole('form', { name: 'Check in as 1.1' });
    await acts.pick(label.locator('input[type=file]'), file('text.txt', 'Look twice.'));
    await acts.fill(label.getByLabel('Check-in comment'), 'Look twice');
    await acts.press(label.getByLabel('Check-in comment'), 'Enter');
    await expect(here).toContainText('Look twice');
    expect(acts.count).toBeLessThanOrEqual(4);
  });

  await test.step('give back what was saved: what is lost is said', async () => {
    await here.getByRole('button', { name: 'Check out AC-001' }).click();
    const panel = page.getByRole('complementary', { name: 'AC-001' });
    await panel.locator('input[type=file]').setInputFiles(file('text.txt', 'Look thrice.'));
    await expect(panel).toContainText('1 save');
    await panel.getByRole('button', { name: 'Close the panel' }).click();
    await here.getByRole('button', { name: 'Give AC-001 back' }).click();
    const said = panel.getByRole('region', { name: 'Consequences' });
    await expect(said).toContainText('AC-001 stands at 1.1 as before and is free for others.');
    await said.getByRole('button', { name: 'Cancel' }).click();
    await expect(here).toContainText('You · since today');
  });

  await test.step('a controller lifts it', async () => {
    const controller = await openAs(browser, 'controller', '/AC');
    const held = row(controller, 'AC-001');
    const acts = new Acts();
    await acts.click(held.getByRole('button', { name: 'Lift the check-out of AC-001' }));
    const said = controller.getByRole('region', { name: 'Consequences' });
    await expect(said).toContainText('The working copy with 1 save moves to the Desk of');
    const why = said.getByLabel('Why? Its holder reads it.');
    await expect(why).toBeFocused();
    await acts.fill(why, 'Needed today');
    await acts.press(why, 'Enter');
    await expect(held.getByRole('button', { name: 'Check out AC-001' })).toBeVisible();
    expect(acts.count).toBeLessThanOrEqual(3);
    await leave(controller);
  });
  await leave(page);
});

test('five files are registered in three acts', async ({ browser }) => {
  await libraryFor(by.admin, 'AF', {});
  const page = await openAs(browser, 'author', '/AF');
  const acts = new Acts();
  await acts.click(page.getByRole('button', { name: 'New document' }));
  const form = page.getByRole('region', { name: 'New document' });
  await acts.pick(
    form.locator('input[type=file]'),
    ['North', 'South', 'East', 'West', 'Summit'].map((name) => ({
      name: `${name}.txt`,
      mimeType: 'text/plain',
      buffer: Buffer.from(name),
    })),
  );
  await acts.click(form.getByRole('button', { name: /^Register 5 documents/ }).first());
  await expect(row(page, 'AF-005')).toBeVisible();
  expect(acts.count).toBeLessThanOrEqual(3);
  await leave(page);
});

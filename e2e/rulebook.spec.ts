import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type APIRequestContext, expect, type Page, test } from '@playwright/test';
import {
  Acts,
  apiAs,
  checkInFile,
  documentFor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  row,
} from './support.ts';

let admin: APIRequestContext;
let author: APIRequestContext;
let controller: APIRequestContext;
test.beforeAll(async ({ playwright, baseURL }) => {
  [admin, author, controller] = (await Promise.all(
    ['admin', 'author', 'controller'].map((account) => apiAs(playwright, account, baseURL ?? '')),
  )) as [APIRequestContext, APIRequestContext, APIRequestContext];
});
test.afterAll(async () => {
  await Promise.all([admin, author, controller].map((one) => one.dispose()));
});

const limit = (page: Page, name: string) => page.getByRole('textbox', { name });
const choice = (page: Page, name: string) => page.getByRole('button', { name: new RegExp(`^${name}: `) });
const versionRows = (page: Page) =>
  page.getByRole('table', { name: 'Versions', exact: true }).getByRole('row');
const labelsOf = async (page: Page, thinned: boolean): Promise<string[]> => {
  const found = [];
  for (const one of await versionRows(page).all())
    if ((await one.innerText()).includes('thinned') === thinned)
      found.push(await one.locator('.number').first().innerText());
  return found;
};
/** Uploads a text as the next version of the document on screen. */
async function upload(page: Page, words: string, level: RegExp): Promise<void> {
  const path = join(tmpdir(), 'text.txt');
  writeFileSync(path, words);
  await page.getByRole('button', { name: 'Upload a version' }).click();
  const label = page.getByRole('form', { name: /^Check in as/ });
  await label.locator('input[type=file]').setInputFiles(path);
  const comment = label.getByRole('textbox', { name: 'Check-in comment' });
  await comment.fill(words);
  const land = label.getByRole('button', { name: level });
  // The upper line of the Strand is the published one.
  if ((await land.count()) === 0) await comment.press('ArrowUp');
  await land.click();
  await expect(label).toBeHidden();
  await expect(versionRows(page).first()).toContainText(words);
}

test('stepped numbers, 200 published versions and drafts for authors, back on the Register: six acts', async ({
  browser,
}) => {
  const id = await libraryFor(admin, 'SIX', { numbering: 'whole', sight: { draft: [] } });
  await documentFor(author, id, 'Something to keep', 'words', 'major');
  const page = await openAs(browser, 'controller', '/SIX');
  const acts = new Acts();
  await acts.click(page.getByRole('link', { name: 'Rulebook' }));
  await acts.choose(page, choice(page, 'Numbering'), 'published as 1.0, 2.0 with drafts between them');
  await acts.choose(page, choice(page, 'Who sees drafts'), 'authors');
  await acts.fill(limit(page, 'Published versions kept'), '200');
  await acts.fill(page.getByRole('textbox', { name: 'Reason' }), 'As in the other libraries');
  // It can be applied once it is known what it does.
  await expect(page.getByRole('button', { name: /^Apply \d/ })).toBeEnabled();
  await acts.click(page.getByRole('button', { name: /^Apply \d/ }));
  await expect(page).toHaveURL(/\/SIX$/);
  await expect(row(page, 'SIX-001')).toBeVisible();
  expect(acts.count).toBeLessThanOrEqual(6);
  expect((await (await controller.get(`/api/v1/libraries/${id}/rulebook`)).json()) as object).toMatchObject({
    revision: 2,
    reason: 'As in the other libraries',
    rulebook: { numbering: 'stepped', sight: { draft: ['author'] }, keep: { published: 200 } },
  });
  await leave(page);
});

test('the Rulebook: the sample follows, consequences name versions and people, each figure opens its list, and the Register fades', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller', '/OP/rulebook');
  const would = page.getByRole('complementary', { name: 'What would change' });
  await expect(page.getByText(/^Step 16 of 16: The author checks out 4\.0/)).toBeVisible();
  await expectAccessible(page);

  await test.step('a limit makes points fade on the real rows', async () => {
    await limit(page, 'Published versions kept').fill('1');
    await expect(
      would.getByRole('button', { name: /\d+ versions? thinned, 30 days on the shelf/ }),
    ).toBeVisible();
    expect(await would.locator('.s-point.s-fading').count()).toBeGreaterThan(10);
    await would.getByRole('button', { name: /versions? thinned/ }).click();
    await expect(page.getByRole('region', { name: 'What stands behind the figure' })).toContainText(
      'more published versions than stay',
    );
  });
  await test.step('it can be dragged', async () => {
    const field = limit(page, 'Published versions kept');
    const fading = await would.locator('.s-point.s-fading').count();
    await page.getByRole('heading', { name: /^Rulebook of/ }).click();
    await field.scrollIntoViewIfNeeded();
    const box = await field.boundingBox();
    if (!box) throw new Error('the field is not on the page');
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width / 2 + 15, box.y + box.height / 2, { steps: 4 });
    await page.mouse.up();
    await expect(field).toHaveValue('3');
    await expect.poll(() => would.locator('.s-point.s-fading').count()).toBeLessThan(fading);
  });
  await test.step('sight is told in sentences naming people', async () => {
    await choice(page, 'Who sees drafts').hover();
    for (const role of ['authors', 'approvers']) await page.getByRole('menuitem', { name: role }).click();
    const sentence = would.getByRole('button', {
      name: /^A\. Kilbride loses sight of \d+ versions of \d+ documents/,
    });
    await sentence.click();
    await expect(page.getByRole('region', { name: 'What stands behind the figure' })).toContainText('draft');
  });
  await test.step('numbers to come and held documents are named', async () => {
    await choice(page, 'Numbering').hover();
    await page.getByRole('menuitem', { name: 'numbered 1, 2, 3' }).click();
    await would
      .getByRole('button', {
        name: /held documents? checks? in under another number|held documents check in/,
      })
      .click();
    await expect(page.getByRole('region', { name: 'What stands behind the figure' })).toContainText(
      'T. Brandvold holds 4.2: checks in as 5 instead of 4.3 or 5.0',
    );
    await expect(
      page.getByText('Saves can be drafts only where there are drafts between published versions.'),
    ).toBeVisible();
  });
  await test.step('the sample lives by the same rules', async () => {
    await expect(page.getByText(/^Step \d+ of \d+: The author checks out 6/)).toBeVisible();
    await page.getByRole('button', { name: 'Earlier step' }).click();
    await expect(
      page.getByText(/is thinned: Over the limit of 3 published versions besides what is in force/),
    ).toBeVisible();
  });
  await test.step('what makes no sense is refused in a sentence, and cannot be applied', async () => {
    await limit(page, 'Published versions kept').fill('2.5');
    await expect(
      page.getByRole('alert').filter({ hasText: 'keep.published counts whole things; 2.5 is not whole.' }),
    ).toBeVisible();
    await expect(page.getByRole('button', { name: /^Apply/ })).toBeDisabled();
    await page.getByRole('button', { name: 'Undo my choices' }).click();
    await expect(page.getByText(/nothing changed/)).toBeVisible();
  });
  expect(
    (
      (await (await controller.get('/api/v1/libraries')).json()) as {
        items: { code: string; documents: number }[];
      }
    ).items.find(({ code }) => code === 'OP')?.documents,
  ).toBeGreaterThanOrEqual(11);
  await leave(page);
});

test('two controllers at once: the second sees both, adds theirs, and every revision can be brought back', async ({
  browser,
}) => {
  const id = await libraryFor(admin, 'TWO', {});
  const page = await openAs(browser, 'controller', '/TWO/rulebook');
  await limit(page, 'Days on the shelf').fill('60');
  expect(
    (
      await controller.put(`/api/v1/libraries/${id}/rulebook`, {
        data: { keep: { published: 9 }, reason: 'Meanwhile' },
      })
    ).ok(),
  ).toBe(true);
  await page.getByRole('textbox', { name: 'Reason' }).fill('Longer grace');
  await page.getByRole('button', { name: 'Apply 1 rule' }).click();
  await expect(page.locator('.refusal')).toContainText(
    'M. Oduya has set revision 2 meanwhile: “Meanwhile”. Nothing of yours was applied',
  );
  await expect(page.locator('.refusal')).toContainText('published versions kept: all → 9');
  await expect(page.locator('.refusal')).toContainText('days on the shelf: 30 → 60');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Keep theirs, add mine' }).click();
  await expect(limit(page, 'Published versions kept')).toHaveValue('9');
  await page.getByRole('button', { name: 'Apply 1 rule' }).click();
  await expect(page).toHaveURL(/\/TWO$/);
  await page.getByRole('link', { name: 'Rulebook' }).click();
  await page.getByRole('button', { name: 'Revisions' }).click();
  const revisions = page.getByRole('region', { name: 'Revisions of the Rulebook' });
  await expect(revisions.getByRole('listitem')).toHaveCount(3);
  await expect(revisions).toContainText('Longer grace');
  await revisions
    .getByRole('listitem')
    .filter({ hasText: 'New library' })
    .getByRole('button', { name: 'Propose these rules again' })
    .click();
  await expect(limit(page, 'Published versions kept')).toHaveValue('');
  await page.getByRole('button', { name: 'Apply 2 rules' }).click();
  await expect(page).toHaveURL(/\/TWO$/);
  expect(await (await controller.get(`/api/v1/libraries/${id}/rulebook`)).json()).toMatchObject({
    revision: 4,
    reason: 'Back to revision 1',
    rulebook: { graceDays: 30, keep: { published: null } },
  });
  await leave(page);
});

test('rules that were chosen and not applied wait where they were chosen, and are applied once it is known what they do', async ({
  browser,
}) => {
  await libraryFor(admin, 'WAI', {});
  const page = await openAs(browser, 'controller', '/WAI/rulebook');
  await limit(page, 'Days on the shelf').fill('60');
  await page.getByRole('textbox', { name: 'Reason' }).fill('Longer grace');
  await page.getByRole('link', { name: 'Register' }).click();
  await expect(page).toHaveURL(/\/WAI$/);
  await page.reload();
  // What it would do is answered late: until then nothing can be applied.
  let answer = (): void => undefined;
  const asked = new Promise<void>((resolve) => (answer = resolve));
  await page.route('**/rulebook/consequences*', async (route) => {
    await asked;
    await route.continue();
  });
  await page.getByRole('link', { name: 'Rulebook' }).click();
  await expect(page.getByText('1 rule changed, not yet applied')).toBeVisible();
  await expect(limit(page, 'Days on the shelf')).toHaveValue('60');
  await expect(page.getByRole('textbox', { name: 'Reason' })).toHaveValue('Longer grace');
  const apply = page.getByRole('button', { name: 'Apply 1 rule' });
  await expect(apply).toBeDisabled();
  answer();
  await apply.click();
  await expect(page).toHaveURL(/\/WAI$/);
  await page.getByRole('link', { name: 'Rulebook' }).click();
  await expect(page.getByText('nothing changed')).toBeVisible();
  await leave(page);
});

test('worked example 1: whole, published 2, in the browser @deep', async ({ browser }) => {
  const library = await libraryFor(admin, 'EXA', {
    numbering: 'whole',
    custody: 'optional',
    keep: { published: 2 },
  });
  const id = await documentFor(author, library, 'Example one', 'text 1', 'major');
  const page = await openAs(browser, 'author', `/EXA/documents/${id}`);
  for (const number of [2, 3, 4, 5, 6])
    await upload(page, `text ${number}`, new RegExp(`^Check in as ${number}, in force`));
  expect([await labelsOf(page, false), await labelsOf(page, true)]).toEqual([
    ['6', '5', '4'],
    ['3', '2', '1'],
  ]);
  await page.getByRole('link', { name: 'Read 4' }).click();
  await page.getByRole('button', { name: 'Restore 4' }).click();
  await expect(page.getByRole('region', { name: 'Consequences' })).toContainText(
    'The content of 4 comes back',
  );
  await page.getByRole('button', { name: 'Restore 4 as 7, in force' }).click();
  await expect(versionRows(page).first()).toContainText('content of 4');
  expect([await labelsOf(page, false), await labelsOf(page, true)]).toEqual([
    ['7', '6', '5'],
    ['4', '3', '2', '1'],
  ]);
  await page.getByRole('link', { name: 'Read 4' }).click();
  await expect(
    page.getByText(
      'The content of 4 was thinned. Over the limit of 2 published versions besides what is in force.',
    ),
  ).toBeVisible();
  await expect(
    page.getByRole('button', { name: /4 thinned versions, 1 to 4|^4, superseded.*thinned/ }),
  ).toBeVisible();
  await expectAccessible(page);
  await leave(page);
});

test('worked example 7: the newest draft stays with the version it led to, and goes with it, in the browser @deep', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'EXG', {
    custody: 'optional',
    keep: { published: 1, drafts: { stay: 'withTheirVersion', newest: 1 } },
  });
  const id = await documentFor(author, library, 'Example seven', 'a', 'major');
  const page = await openAs(browser, 'author', `/EXG/documents/${id}`);
  for (const number of [2, 3, 4])
    await upload(page, `text ${number}`, new RegExp(`^Check in as ${number}\\.0, in force`));
  for (const label of ['4.1', '4.2'])
    await upload(page, `text ${label}`, new RegExp(`^Check in as ${label}, a draft$`));
  const publish = async (button: string): Promise<void> => {
    await page.getByRole('button', { name: button }).click();
    await page.getByRole('region', { name: 'Consequences' }).getByRole('button', { name: button }).click();
    await expect(page.getByRole('region', { name: 'Consequences' })).toBeHidden();
  };
  await publish('Publish 4.2 as 5.0');
  expect(await labelsOf(page, true)).toEqual(['4.1', '3.0', '2.0', '1.0']);
  await upload(page, 'text 5.1', /^Check in as 5\.1, a draft$/);
  await publish('Publish 5.1 as 6.0');
  expect(await labelsOf(page, true)).toEqual(['4.1', '4.0', '3.0', '2.0', '1.0']);
  await upload(page, 'text 6.1', /^Check in as 6\.1, a draft$/);
  await publish('Publish 6.1 as 7.0');
  expect(await labelsOf(page, true)).toEqual(['5.0', '4.2', '4.1', '4.0', '3.0', '2.0', '1.0']);
  await leave(page);
});

test('worked example 13: none to stepped, in the browser @deep', async ({ browser }) => {
  const library = await libraryFor(admin, 'EXM', { numbering: 'none', custody: 'optional' });
  const id = await documentFor(author, library, 'Example thirteen', 'a', 'major');
  await documentFor(author, library, 'Beside it', 'b', 'major');
  const page = await openAs(browser, 'controller', '/EXM');
  await expect(row(page, 'EXM-001')).toContainText('current');
  await page.getByRole('link', { name: 'Rulebook' }).click();
  await choice(page, 'Numbering').hover();
  await page.getByRole('menuitem', { name: 'published as 1.0, 2.0 with drafts between them' }).click();
  await page.getByRole('button', { name: 'The next number of 2 documents changes.' }).click();
  await expect(page.getByRole('region', { name: 'What stands behind the figure' })).toContainText(
    'becomes 1.0; next 1.1 or 2.0 instead of u2',
  );
  await page.getByRole('textbox', { name: 'Reason' }).fill('Numbers for the auditor');
  await page.getByRole('button', { name: 'Apply 1 rule' }).click();
  await expect(row(page, 'EXM-001')).toContainText('1.0');
  await expect(row(page, 'EXM-002')).toContainText('1.0');

  const writer = await openAs(browser, 'author', `/EXM/documents/${id}`);
  const reader = await openAs(browser, 'reader', `/EXM/documents/${id}`);
  const readerSees = async (label: string): Promise<void> => {
    await reader.reload();
    await expect(versionRows(reader)).toHaveCount(1);
    await expect(versionRows(reader)).toContainText(label);
  };
  for (const label of ['1.1', '1.2'])
    await upload(writer, `text ${label}`, new RegExp(`^Check in as ${label}, a draft$`));
  await readerSees('1.0');
  await writer.getByRole('button', { name: 'Publish 1.2 as 2.0' }).click();
  await writer
    .getByRole('region', { name: 'Consequences' })
    .getByRole('button', { name: 'Publish 1.2 as 2.0' })
    .click();
  await expect(versionRows(writer).first()).toContainText('in force');
  await upload(writer, 'text 2.1', /^Check in as 2\.1, a draft$/);
  await readerSees('2.0');
  await leave(page, writer, reader);
});

test('submit, reject, call back, approve and publish by plain buttons @deep', async ({ browser }) => {
  const library = await libraryFor(admin, 'APP', {
    approval: { on: true, approvers: ['approver', 'approver2'], publishing: 'byOwner' },
  });
  const id = await documentFor(author, library, 'To be approved', 'a', 'minor');
  const address = `/APP/documents/${id}`;
  const writer = await openAs(browser, 'author', address);
  const approver = await openAs(browser, 'approver', address);
  const second = await openAs(browser, 'approver2', address);
  const submit = async (): Promise<void> => {
    await writer.getByRole('button', { name: 'Submit 0.1' }).click();
    await expect(writer.getByRole('region', { name: 'Consequences' })).toContainText(
      'L. Achterberg, A. Kilbride are asked about 0.1',
    );
    await writer
      .getByRole('region', { name: 'Consequences' })
      .getByRole('button', { name: 'Submit 0.1' })
      .click();
    await expect(writer.getByRole('region', { name: 'Approval' })).toContainText(
      'L. Achterberg is asked now',
    );
    // The page may hear of it before the answer comes.
    await expect(writer.getByRole('region', { name: 'Consequences' })).toHaveCount(0);
  };
  await submit();
  await second.reload();
  await expect(second.getByRole('region', { name: 'Approval' })).toContainText(
    'A. Kilbride is asked afterwards',
  );
  await expect(second.getByRole('button', { name: 'Approve 0.1' })).toHaveCount(0);
  await approver.reload();
  await expectAccessible(approver);
  await approver.getByRole('button', { name: 'Reject' }).click();
  await expect(approver.locator('.refusal')).toContainText('A rejection needs a comment.');
  await approver.getByRole('textbox', { name: 'Comment on the decision' }).fill('span table incomplete');
  await approver.getByRole('button', { name: 'Reject' }).click();
  await expect(approver.getByRole('region', { name: 'Approval' })).toHaveCount(0);
  await writer.reload();
  await expect(versionRows(writer).first()).toContainText('rejected');
  const decided = writer.getByRole('region', { name: 'Decided' });
  await expect(decided).toContainText('Rejected');
  await expect(decided).toContainText('L. Achterberg rejected');
  await expect(decided).toContainText('“span table incomplete”');
  await submit();
  await writer.getByRole('button', { name: 'Take back the submission' }).click();
  await writer.getByRole('button', { name: 'Make 0.1 a draft again' }).click();
  await expect(versionRows(writer).first()).toContainText('draft');
  await submit();
  for (const [page, sentence] of [
    [approver, 'If you approve, A. Kilbride is asked next; until then readers see nothing.'],
    [second, 'or an author can publish it as 1.0; until then readers see nothing.'],
  ] as const) {
    await page.reload();
    await expect(page.getByRole('region', { name: 'Approval' })).toContainText(sentence);
    await page.getByRole('button', { name: 'Approve 0.1' }).click();
    await expect(page.getByRole('button', { name: 'Approve 0.1' })).toHaveCount(0);
  }
  await writer.reload();
  await expect(versionRows(writer).first()).toContainText('approved');
  await writer.getByRole('button', { name: 'Publish 0.1 as 1.0' }).click();
  const consequences = writer.getByRole('region', { name: 'Consequences' });
  // All seven of the demo's members, whatever they see of drafts.
  await expect(consequences).toContainText('7 members will see 1.0 from now; nothing was in force before.');
  await consequences.getByRole('button', { name: 'Publish 0.1 as 1.0' }).click();
  await expect(versionRows(writer).first()).toContainText('in force');
  await expect(decided).toContainText('L. Achterberg approved');
  await expect(decided).toContainText('A. Kilbride approved');
  await expect(versionRows(writer).nth(1)).toContainText('draft, approved');
  await leave(writer, approver, second);
});

test('Seen as: the whole library as a reader sees it, said on the frame, with the way back; and members by versions', async ({
  browser,
}) => {
  const page = await openAs(browser, 'controller', '/RP');
  await expect(row(page, 'RP-102')).toBeVisible();
  await page.getByRole('button', { name: /^Seen as/ }).click();
  await page.getByRole('menuitem', { name: 'P. Lindqvist' }).click();
  await expect(
    page.getByRole('status').filter({ hasText: 'You see this as P. Lindqvist would' }),
  ).toBeVisible();
  await expect(row(page, 'RP-102')).toHaveCount(0);
  await expect(row(page, 'RP-101')).not.toContainText('3.1');
  await expect(page.getByRole('button', { name: /^Check out/ })).toHaveCount(0);
  await expect(page.getByRole('button', { name: 'New document' })).toHaveCount(0);
  await expectAccessible(page);
  await row(page, 'RP-101').getByRole('link', { name: 'Rescue from a cabin by rope' }).click();
  await expect(versionRows(page)).toHaveCount(1);
  await page.getByRole('button', { name: 'Back to me' }).click();
  await expect(versionRows(page)).toHaveCount(9);
  await page.getByRole('link', { name: 'Who sees what' }).click();
  const matrix = page.getByRole('table', { name: 'Who sees what' });
  const reader = matrix.getByRole('row').filter({ hasText: 'P. Lindqvist' });
  await expect(
    reader.getByRole('img', { name: /^sees it: 3\.0 is in force; every member sees it/ }),
  ).toHaveCount(1);
  await expect(reader.getByRole('img', { name: /^does not see it/ })).toHaveCount(8);
  await reader.getByRole('img').first().focus();
  await expect(page.getByRole('tooltip')).toContainText(
    "3.1 is in approval; versions in approval here are seen by authors, approvers, the document's team and controllers.",
  );
  await expectAccessible(page);
  await leave(page);
});

test('keeping by hand: sheltered, thinned, on the shelf, recovered; every act says what it does', async ({
  browser,
}) => {
  const library = await libraryFor(admin, 'KEP', { custody: 'optional' });
  const id = await documentFor(author, library, 'Kept by hand', 'a', 'minor');
  const page = await openAs(browser, 'controller', `/KEP/documents/${id}`);
  for (const label of ['0.2', '0.3'])
    await upload(page, `text ${label}`, new RegExp(`^Check in as ${label}, a draft$`));
  const say = async (act: string, reason: string, sentence: string): Promise<void> => {
    await page.getByRole('button', { name: act, exact: true }).first().click();
    const asked = page.getByRole('region', { name: 'Consequences' });
    await expect(asked).toContainText(sentence);
    await asked.getByRole('textbox').fill(reason);
    await asked.getByRole('button', { name: act, exact: true }).click();
    await expect(asked).toBeHidden();
  };
  await page.getByRole('link', { name: 'Read 0.2' }).click();
  await say('Shelter 0.2', 'Named in a report', 'No limit and no hand thins 0.2');
  await expect(page.getByText('Sheltered: never thinned.')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Remove content of 0.2' })).toHaveCount(0);
  await page.getByRole('link', { name: 'Read 0.1' }).click();
  await say('Remove content of 0.1', 'Holds a wrong drawing', 'goes to the recovery shelf');
  await expect(
    page.getByText('The content of 0.1 was thinned. By hand: Holds a wrong drawing'),
  ).toBeVisible();
  await page.goto('/KEP/shelf');
  await expect(page.getByRole('table', { name: 'Thinned versions' })).toContainText(
    'By hand: Holds a wrong drawing',
  );
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Recover KEP-001 0.1' }).click();
  await page.getByRole('textbox', { name: 'Why is it wanted back?' }).fill('Asked for');
  await page.getByRole('button', { name: 'Recover 0.1', exact: true }).click();
  await expect(page.getByText('Nothing is on the shelf.')).toBeVisible();
  await leave(page);
});

test('a history of 300 versions: the last dozen, lenses, a run with count and bytes; the keyboard opens a lens, typing jumps', async ({
  browser,
}) => {
  const page = await openAs(browser, 'author', '/WL');
  await row(page, 'WL-001').getByRole('link', { name: 'Wind limits by span' }).click();
  const strand = page.getByRole('group', { name: /^History of WL-001: 300 versions/ });
  await expect(strand.getByRole('button', { name: /^9 drafts, 28\.1|^8 drafts, 28\.1/ })).toHaveCount(1);
  await expect(
    strand.getByRole('button', { name: /^\d+ thinned versions, 0\.1 to 12\.\d, .*[kM]B/ }),
  ).toHaveCount(1);
  const lenses = strand.getByRole('button', { name: /drafts, / });
  const count = await lenses.count();
  expect(count).toBeGreaterThan(10);
  await strand.getByRole('button', { name: /^29\.0/ }).focus();
  for (let step = 0; step < 2; step += 1) await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Enter');
  await expect(lenses).toHaveCount(count - 1);
  await strand.getByRole('button', { name: /^30\.0/ }).focus();
  await page.keyboard.type('20.3');
  await expect(page).toHaveURL(/versions\/20\.3$/);
  for (const target of await strand.locator('.s-fold .s-target').all())
    expect((await target.boundingBox())?.width).toBeGreaterThanOrEqual(8);
  await expectAccessible(page);
  await leave(page);
});

test('what a revision of the rules thinned comes back with one act', async ({ browser }) => {
  const library = await libraryFor(admin, 'UNDO', {});
  const id = await documentFor(author, library, 'Thinned by a slip', 'one', 'major');
  for (const [words, level] of [
    ['half', 'minor'],
    ['two', 'major'],
    ['three', 'major'],
    ['four', 'major'],
  ] as const)
    await checkInFile(author, id, { name: 'text.txt', content: words, level });
  const rulebook = { keep: { published: 1, drafts: { stay: 'withTheirVersion' } } };
  const put = await controller.put(`/api/v1/libraries/${library}/rulebook`, {
    data: { ...rulebook, reason: 'A slip' },
  });
  expect(put.ok()).toBe(true);
  const page = await openAs(browser, 'controller', '/UNDO/rulebook');
  await page.getByRole('button', { name: 'Revisions' }).click();
  await page
    .getByRole('listitem')
    .filter({ hasText: 'A slip' })
    .getByRole('link', { name: 'what it thinned' })
    .click();
  await expect(page).toHaveURL(/\/shelf\?revision=\d+$/);
  await expect(async () => {
    await page.reload();
    await expect(page.getByText(/^3 versions,/)).toBeVisible({ timeout: 5000 });
  }).toPass();
  // A publication and its draft are one row, and one act; unfolded each stands for itself.
  await page.getByRole('button', { name: '2.0 and its draft 1.1', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Recover UNDO-001 1.1', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Recover UNDO-001 2.0 and its draft 1.1' }).click();
  const both = page.getByRole('form', { name: 'Recover UNDO-001 2.0 and its draft 1.1' });
  await both.getByRole('textbox', { name: 'Why are they wanted back?' }).fill('Asked for');
  await expectAccessible(page);
  await both.getByRole('button', { name: 'Recover 2 versions' }).click();
  await expect(both).toHaveCount(0);
  await page.getByRole('button', { name: /^Undo what revision \d+ thinned$/ }).click();
  const form = page.getByRole('form', { name: /^Undo what revision/ });
  await expect(form).toContainText('1 version comes back');
  await form.getByRole('textbox', { name: 'Why are they wanted back?' }).fill('The limit was a slip');
  await form.getByRole('button', { name: 'Recover 1 version' }).click();
  await expect(form).toHaveCount(0);
  await expect(page.getByText(/^Nothing is on the shelf/)).toBeVisible();
  const { items } = (await (await author.get(`/api/v1/documents/${id}/versions`)).json()) as {
    items: { label: string; thinned: unknown; sheltered: boolean }[];
  };
  expect(items.filter(({ label }) => ['1.0', '1.1', '2.0'].includes(label))).toMatchObject([
    { thinned: null, sheltered: true },
    { thinned: null, sheltered: true },
    { thinned: null, sheltered: true },
  ]);
  await leave(page);
});

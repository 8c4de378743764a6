import { readFileSync } from 'node:fs';
import { expect, type Page, test } from '@playwright/test';
import {
  adminAndAuthor,
  apiAs,
  checkInFile,
  libraryFor,
  leave,
  openAs,
  pandocFile,
  plainText,
  registerFile,
} from './support.ts';

// Worked examples of docs/rules.md with author, two approvers and reader signed in side by side.
const by = adminAndAuthor();
const versions = (page: Page) => page.getByRole('table', { name: 'Versions', exact: true }).getByRole('row');
const consequences = (page: Page) => page.getByRole('region', { name: 'Consequences' });

async function submit(page: Page, label: string): Promise<void> {
  await page
    .getByRole('button', { name: `Submit ${label}`, exact: true })
    .first()
    .click();
  await consequences(page)
    .getByRole('button', { name: `Submit ${label}` })
    .click();
  await expect(page.getByRole('region', { name: 'Approval' })).toContainText('is asked now');
}
/** Each approves in turn, once it is their turn on the page that stands open. */
async function approve(pages: readonly Page[], label: string): Promise<void> {
  for (const page of pages) {
    await page.getByRole('button', { name: `Approve ${label}` }).click();
    await expect(page.getByRole('button', { name: `Approve ${label}` })).toHaveCount(0);
  }
}
const property = (name: string): string =>
  `\`<w:sdt><w:sdtPr><w:tag w:val="${name}"/></w:sdtPr><w:sdtContent><w:r><w:t>unset</w:t></w:r></w:sdtContent></w:sdt>\`{=openxml}`;
/** What the issued copy says that is downloaded from the page. */
async function issued(page: Page, press: string): Promise<string> {
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: press, exact: true }).click(),
  ]);
  return plainText(await download.path());
}

test('worked example 6: 0.1, 0.2, approved as 1.0; a draft’s issued copy says so; 2.0, and 1.0 says what is in force @deep', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'EXF', {
    approval: { on: true, mode: 'serial', approvers: ['approver', 'approver2'] },
  });
  const words = ['version', 'status'].map((name) => property(`Document_${name}`));
  const file = (text: string): Buffer =>
    readFileSync(pandocFile('six', `${text} ${words.join(', ')}, ${property('Issue_date')}.`));
  const id = await registerFile(by.author, library, { title: 'Six', name: 'six.docx', content: file('One') });
  const change = (text: string): Promise<void> =>
    checkInFile(by.author, id, { name: 'six.docx', content: file(text) });
  await change('Two');

  const address = `/EXF/documents/${id}`;
  const writer = await openAs(browser, 'author', address);
  const approvers = [await openAs(browser, 'approver', address), await openAs(browser, 'approver2', address)];
  await submit(writer, '0.2');
  await approve(approvers, '0.2');
  await expect(versions(writer).first()).toContainText('1.0');
  const reader = await openAs(browser, 'reader', address);
  expect(await issued(reader, 'Download')).toMatch(/Two 1\.0, In force, \d{4}-\d\d-\d\d\./);

  await change('Three');
  await writer.goto(`${address}/versions/1.1`);
  // It has no date of issue.
  expect(await issued(writer, 'Issued copy')).toContain('Three 1.1, Draft, –.');
  await submit(writer, '1.1');
  await expect(versions(reader)).toHaveCount(1);
  await expect(versions(reader).first()).toContainText('1.0');
  await approve(approvers, '1.1');
  await expect(versions(reader).first()).toContainText('2.0');
  await expect(versions(reader)).toHaveCount(1);
  await writer.goto(`${address}/versions/1.0`);
  await expect(writer.getByRole('main')).toContainText('2.0 is in force');
  expect(await issued(writer, 'Issued copy')).toContain('Two 1.0, Superseded; 2.0 is in force');
  await leave(writer, reader, ...approvers);
});

test('worked example 12: approval turned on in a library in use; what is in force stays until the next is approved @deep', async ({
  browser,
  playwright,
  baseURL,
}) => {
  const library = await libraryFor(by.admin, 'EXL', {});
  const of = (title: string, level: 'minor' | 'major') => ({
    ...{ title, name: 'text.txt', content: `${title}.\n`, level },
  });
  const id = await registerFile(by.author, library, of('In use', 'major'));
  const controller = await apiAs(playwright, 'controller', baseURL ?? '');
  const reader = await openAs(browser, 'reader', '/EXL');
  await expect(reader.getByRole('link', { name: 'In use' })).toBeVisible();
  const approval = { on: true, mode: 'serial', approvers: ['approver', 'approver2'] };
  const applied = await controller.put(`/api/v1/libraries/${library}/rulebook`, {
    data: { approval, reason: 'From now on two agree' },
  });
  expect(applied.status()).toBe(200);
  await controller.dispose();

  const uploaded = await registerFile(by.author, library, of('Uploaded', 'major'));
  const writer = await openAs(browser, 'author', `/EXL/documents/${uploaded}`);
  await expect(versions(writer).first()).toContainText('in approval');
  await expect(reader.getByRole('link', { name: 'In use' })).toBeVisible();
  await expect(reader.getByRole('link', { name: 'Uploaded' })).toHaveCount(0);

  await checkInFile(by.author, id, { name: 'text.txt', content: 'In use, changed.\n', level: 'major' });
  const address = `/EXL/documents/${id}`;
  await reader.goto(address);
  await expect(versions(reader)).toHaveCount(1);
  await expect(versions(reader).first()).toContainText('1.0');
  const approvers = [await openAs(browser, 'approver', address), await openAs(browser, 'approver2', address)];
  await approve(approvers.slice(0, 1), '1.1');
  await expect(versions(reader).first()).toContainText('1.0');
  await approve(approvers.slice(1), '1.1');
  await expect(versions(reader).first()).toContainText('2.0');
  await expect(versions(reader)).toHaveCount(1);
  // Nothing is left to wait for those whom other tests ask.
  const takenBack = await by.author.post(`/api/v1/documents/${uploaded}/call-back`, {
    data: { comment: '' },
  });
  expect(takenBack.status()).toBe(200);
  await leave(writer, reader, ...approvers);
});

import { expect, type Page, test } from '@playwright/test';
import { readFileSync } from 'node:fs';
import {
  adminAndAuthor,
  expectAccessible,
  libraryFor,
  leave,
  openAs,
  pandocFile,
  plainText,
  registerFile,
} from './support.ts';

const by = adminAndAuthor();
const field = (name: string): string =>
  `\`<w:fldSimple w:instr='DOCPROPERTY "${name}"'><w:r><w:t>unset</w:t></w:r></w:fldSimple>\`{=openxml}`;
const control = (name: string): string =>
  `\`<w:sdt><w:sdtPr><w:tag w:val="${name}"/></w:sdtPr><w:sdtContent><w:r><w:t>unset</w:t></w:r></w:sdtContent></w:sdt>\`{=openxml}`;

/** What the file says that is downloaded by a press. */
async function downloaded(page: Page, name: string): Promise<{ name: string; words: string }> {
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name, exact: true }).click(),
  ]);
  return { name: download.suggestedFilename(), words: plainText(await download.path()) };
}

test('readers download issued copies that say what is in force; a draft says it is one; the names are the library’s', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'ISS', {});
  const path = pandocFile(
    'issued',
    `Version ${control('Document_version')}, ${control('Stand')}, ${field('Issue date')}.`,
  );
  const of = {
    title: 'Brake test',
    name: 'brake.docx',
    content: readFileSync(path),
    level: 'major' as const,
  };
  const id = await registerFile(by.author, library, of);

  const reader = await openAs(browser, 'reader', `/ISS/documents/${id}`);
  const first = await downloaded(reader, 'Download');
  expect(first.name).toBe('ISS-001 1.0 brake.docx');
  expect(first.words).toContain('Version 1.0, unset');

  // The files of the library call how it stands otherwise.
  const rules = await openAs(browser, 'controller', '/ISS/rulebook');
  await rules.getByRole('button', { name: 'names of the placeholders' }).click();
  await rules.getByLabel('Name of how it stands').fill('Issue date');
  await expect(rules.getByRole('alert')).toContainText('names two things in issued copies');
  await rules.getByLabel('Name of how it stands').fill('Stand');
  await expectAccessible(rules);
  await rules.getByLabel('Reason').fill('As our forms say it');
  await rules.getByRole('button', { name: 'Apply 1 rule' }).click();
  await expect(rules).toHaveURL(/\/ISS$/);
  expect((await downloaded(reader, 'Download')).words).toContain('Version 1.0, In force');
  await reader.goto(`/ISS/documents/${id}/read`);
  expect((await downloaded(reader, 'Download')).words).toContain('In force');

  const changed = await by.author.patch(`/api/v1/documents/${id}`, {
    data: { fields: { title: 'Brake tests' }, level: 'minor', comment: 'More than one' },
  });
  expect(changed.status()).toBe(200);
  const author = await openAs(browser, 'author', `/ISS/documents/${id}/versions/1.1`);
  expect((await downloaded(author, 'Issued copy')).words).toContain('Version 1.1, Draft');
  // What was checked in stays as it is.
  expect((await downloaded(author, 'Download')).words).toContain('Version unset, unset');
  await leave(reader, rules, author);
});

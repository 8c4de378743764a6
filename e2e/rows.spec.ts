import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, test } from '@playwright/test';
import { adminAndAuthor, inDatabase, libraryFor, leave, openAs, registerFile, row } from './support.ts';

const by = adminAndAuthor();
const many = 1200;

/** Documents like one, put in by SQL; what lists read is made anew by the project's command. */
function copyDocument(id: string): void {
  const copy = (part: number): string => `CONCAT('00000000-0000-7000-9${part}00-', LPAD(s.seq, 12, '0'))`;
  const sequence = `seq_2_to_${many} s`;
  inDatabase(`INSERT INTO documents (id, library_id, number, owner_id, co_author_ids, approver_ids, created_at)
    SELECT ${copy(1)}, library_id, CONCAT('ROWS-', LPAD(s.seq, 4, '0')), owner_id, co_author_ids, approver_ids, created_at
    FROM documents JOIN ${sequence} WHERE id = '${id}'`);
  inDatabase(`INSERT INTO versions (id, document_id, sequence, era, major, minor, numbering, state, standing, author_id, at,
      comment, origin_kind, sha256, size, file_name, media_type, words, fields, in_force_from)
    SELECT ${copy(2)}, ${copy(1)}, sequence, era, major, minor, numbering, state, standing, author_id, at,
      comment, origin_kind, sha256, size, file_name, media_type, words,
      CONCAT('{"title":"Sheet ', s.seq, '"}'), in_force_from
    FROM versions JOIN ${sequence} WHERE document_id = '${id}'`);
  inDatabase(`INSERT INTO heads (document_id, library_id, latest_id, in_force_id, present_era, highest_major, highest_minor,
      last_sequence, bytes_kept)
    SELECT ${copy(1)}, library_id, ${copy(2)}, IF(in_force_id IS NULL, NULL, ${copy(2)}), present_era, highest_major,
      highest_minor, last_sequence, bytes_kept
    FROM heads JOIN ${sequence} WHERE document_id = '${id}'`);
  execFileSync('node', [join(import.meta.dirname, '../server/dist/commands/rebuild.js')]);
}

test('a list of more than a thousand documents is read to its end and worked in, a few rows laid out at a time', async ({
  browser,
}) => {
  const library = await libraryFor(by.admin, 'ROWS', {});
  copyDocument(
    await registerFile(by.author, library, { title: 'Sheet 1', name: 'sheet.txt', content: 'One.' }),
  );
  const page = await openAs(browser, 'author', '/ROWS');
  await expect(page.getByRole('heading', { level: 1 })).toContainText(`${many} documents`);
  const list = page.getByRole('table', { name: 'Register of Library ROWS' });
  const laid = list.locator('.row-place');
  await expect(row(page, 'ROWS-0002')).toBeVisible();
  const end = row(page, `ROWS-${many}`);
  let most = 0;
  await expect(async () => {
    await list.evaluate((element) => element.scrollTo(0, element.scrollHeight));
    most = Math.max(most, await laid.count());
    await expect(end).toBeVisible({ timeout: 200 });
  }).toPass({ timeout: 120_000, intervals: [50] });
  expect(most).toBeLessThan(160);
  await expect(list).toHaveAttribute('aria-rowcount', String(many + 1));
  expect(await end.getAttribute('aria-rowindex')).toBe(String(many + 1));

  // Work far down stays where it is, and what it changed is shown.
  await end.getByRole('button', { name: 'Check out' }).click();
  await expect(end).toContainText('You · since today');
  await end.click();
  await expect(page.getByRole('complementary')).toContainText(`Sheet ${many}`);
  await page.keyboard.press('ArrowUp');
  await expect(page.getByRole('complementary')).toContainText(`Sheet ${many - 1}`);

  await list.evaluate((element) => element.scrollTo(0, 0));
  await expect(row(page, 'ROWS-0002')).toBeVisible();
  await expect(end).toHaveCount(0);
  await leave(page);
});

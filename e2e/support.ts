import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { AxeBuilder } from '@axe-core/playwright';
import { expect, type Browser, type Locator, type Page } from '@playwright/test';

export const password = 'orrin-vale';
const folder = mkdtempSync(join(tmpdir(), 'e2e-'));

/** Opens the Register as somebody, in a browser session of their own. */
export async function openAs(browser: Browser, account: string, path = '/'): Promise<Page> {
  const context = await browser.newContext();
  await context.request.post('/api/v1/session', { data: { account, password } });
  const page = await context.newPage();
  await page.goto(path);
  return page;
}

/** A .docx made by pandoc, a general-purpose program, from Markdown. Answers its path. */
export function pandocFile(name: string, markdown: string): string {
  const source = join(folder, `${name}.md`);
  const target = join(folder, `${name}.docx`);
  writeFileSync(source, markdown);
  execFileSync('pandoc', ['-f', 'markdown', '-o', target, source]);
  return target;
}

export function file(name: string, content: string | Buffer): string {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
}

/** Drops a file on a place of the page, as a person drags one in. */
export async function dropFile(target: Locator, path: string, name = basename(path)): Promise<void> {
  const data = await target.page().evaluateHandle(({ base64, name: fileName }) => {
    const bytes = Uint8Array.from(atob(base64), (sign) => sign.charCodeAt(0));
    const transfer = new DataTransfer();
    transfer.items.add(new File([bytes], fileName));
    return transfer;
  }, { base64: readFileSync(path).toString('base64'), name });
  await target.dispatchEvent('dragover', { dataTransfer: data });
  await target.dispatchEvent('drop', { dataTransfer: data });
}

/** Rules of WCAG 2.2 A and AA, by axe. */
export async function expectAccessible(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa']).analyze();
  expect(violations.map(({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 200)).join(' | ')}`)).toEqual([]);
}

/** Counts acts as docs/interface.md does: a click, a key, a choice, a field, a dropped file. */
export class Acts {
  count = 0;
  async click(target: Locator): Promise<void> { this.count += 1; await target.click(); }
  async fill(target: Locator, text: string): Promise<void> { this.count += 1; await target.fill(text); }
  async press(target: Locator, key: string): Promise<void> { this.count += 1; await target.press(key); }
  async drop(target: Locator, path: string, name?: string): Promise<void> { this.count += 1; await dropFile(target, path, name); }
}

export const row = (page: Page, number: string): Locator => page.getByRole('row').filter({ has: page.locator('.doc-number', { hasText: number }) });

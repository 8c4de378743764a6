import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import {
  expect,
  test,
  type APIRequestContext,
  type Browser,
  type Locator,
  type Page,
  type PlaywrightWorkerArgs,
} from '@playwright/test';
import axe from 'axe-core';

export const password = 'orrin-vale';
const folder = mkdtempSync(join(tmpdir(), 'e2e-'));

type SignIn = Awaited<ReturnType<APIRequestContext['storageState']>>;
/** Sign-ins of this process by account: to make one takes as long as a password is made hard to guess. */
const signIns = new Map<string, SignIn>();

/** Opens something with the sign-in an account of the demo has, or a new one where a test has ended that. */
async function signedIn<T>(
  account: string,
  open: (storageState?: SignIn) => Promise<T>,
  requestOf: (opened: T) => APIRequestContext,
): Promise<T> {
  const known = signIns.get(account);
  const opened = await open(known);
  const request = requestOf(opened);
  if (known && (await request.get('/api/v1/session')).ok()) return opened;
  expect((await request.post('/api/v1/session', { data: { account, password } })).ok()).toBe(true);
  signIns.set(account, await request.storageState());
  return opened;
}

/** Pages that tests of this process have left, by account. */
const left = new Map<string, Page[]>();
const accountOf = new WeakMap<Page, string>();

/** Notes, in a page, what of ours our own policy forbids (Content Security Policy Level 3, 5.5). */
function noteForbidden(): void {
  const noted: string[] = [];
  Object.assign(globalThis, { forbidden: noted });
  document.addEventListener('securitypolicyviolation', ({ violatedDirective, blockedURI, sourceFile }) =>
    noted.push(`${violatedDirective} ${blockedURI} ${sourceFile}`),
  );
}

/**
 * Opens the Register of the operating procedures, or another screen, as somebody, in a browser session of
 * their own: one that a test has left, where there is one, since its scripts need not be read again.
 */
export async function openAs(browser: Browser, account: string, path = '/OP'): Promise<Page> {
  const page = left.get(account)?.pop();
  if (!page) return openFresh(browser, account, path);
  await signedIn(
    account,
    () => Promise.resolve(page),
    ({ request }) => request,
  );
  await page.goto(path);
  return page;
}

/** The same in a browser that has never been here. */
export async function openFresh(browser: Browser, account: string, path = '/OP'): Promise<Page> {
  const context = await signedIn(
    account,
    (storageState) => browser.newContext(storageState && { storageState }),
    ({ request }) => request,
  );
  const page = await context.newPage();
  await page.addInitScript(noteForbidden);
  accountOf.set(page, account);
  await page.goto(path);
  return page;
}

/**
 * Leaves pages to the tests that come, as they were when they were opened: nothing is kept in the browser. A
 * page that is to be left otherwise, or whose session has ended, is closed instead.
 */
export async function leave(...pages: Page[]): Promise<void> {
  for (const page of pages) {
    const account = accountOf.get(page);
    if (account === undefined) throw new Error('A page that openAs did not open is closed, not left.');
    expect(await page.evaluate(() => (globalThis as { forbidden?: string[] }).forbidden)).toEqual([]);
    await page.unrouteAll();
    await page.emulateMedia({ media: null, colorScheme: null });
    await page.setViewportSize({ width: 1280, height: 800 });
    // Of the same site, so that the browser goes on with the process that has read its scripts.
    await page.goto('/mark.svg');
    await page.evaluate(async () => {
      localStorage.clear();
      sessionStorage.clear();
      for (const { name } of await indexedDB.databases()) if (name) indexedDB.deleteDatabase(name);
    });
    left.set(account, [...(left.get(account) ?? []), page]);
  }
}

/** Runs a statement in the database of the server under test, with MariaDB's own client. */
export function inDatabase(sql: string): void {
  const {
    username,
    password: secret,
    hostname,
    port,
    pathname,
  } = new URL(process.env['POLYCHRON_DATABASE_URL'] ?? '');
  execFileSync(
    'mariadb',
    [
      '--no-defaults',
      `--host=${hostname}`,
      `--port=${port}`,
      `--user=${username}`,
      '-e',
      sql,
      pathname.slice(1),
    ],
    {
      env: { ...process.env, MYSQL_PWD: secret },
    },
  );
}

/** A .docx made by pandoc, a general-purpose program, from Markdown. Answers its path. */
export function pandocFile(name: string, markdown: string): string {
  const source = join(folder, `${name}.md`);
  const target = join(folder, `${name}.docx`);
  writeFileSync(source, markdown);
  execFileSync('pandoc', ['-f', 'markdown', '-o', target, source]);
  return target;
}

/** The text of a .docx, as pandoc reads it. */
export const plainText = (path: string): string =>
  execFileSync('pandoc', ['-f', 'docx', '-t', 'plain', path], { encoding: 'utf8' });

export function file(name: string, content: string | Buffer): string {
  const path = join(folder, name);
  writeFileSync(path, content);
  return path;
}

/** A picture of one shade of grey, 0 to 255 (PNG 1.2, chapters 3 to 5). */
export function png(width: number, height: number, shade: number): Buffer {
  const chunk = (type: string, data: Buffer): Buffer => {
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, sum]);
  };
  const head = Buffer.from([0, 0, 0, 0, 0, 0, 0, 0, 8, 0, 0, 0, 0]);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  const rows = Buffer.concat(
    Array.from({ length: height }, () => Buffer.from([0, ...Array.from({ length: width }, () => shade)])),
  );
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  const parts = [chunk('IHDR', head), chunk('IDAT', deflateSync(rows)), chunk('IEND', Buffer.alloc(0))];
  return Buffer.concat([signature, ...parts]);
}

/** Drops a file on a place of the page, as a person drags one in. */
export async function dropFile(target: Locator, path: string, name = basename(path)): Promise<void> {
  await dropFiles(target, [{ path, name }]);
}

export async function dropFiles(target: Locator, files: { path: string; name: string }[]): Promise<void> {
  const data = await target.page().evaluateHandle(
    (given) => {
      const transfer = new DataTransfer();
      for (const { base64, name } of given)
        transfer.items.add(new File([Uint8Array.from(atob(base64), (sign) => sign.charCodeAt(0))], name));
      return transfer;
    },
    files.map(({ path, name }) => ({ base64: readFileSync(path).toString('base64'), name })),
  );
  await target.dispatchEvent('dragover', { dataTransfer: data });
  await target.dispatchEvent('drop', { dataTransfer: data });
}

const rules = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];

/** Rules of WCAG 2.2 A and AA, by axe; of the page as it is once colours have faded over. */
export async function expectAccessible(page: Page): Promise<void> {
  await page.waitForFunction(() =>
    document
      .getAnimations()
      .every(
        ({ playState, effect }) =>
          playState !== 'running' || effect?.getComputedTiming().iterations === Infinity,
      ),
  );
  // Its script stays in the page, and looks into no frames: there are none here.
  expect(page.frames()).toHaveLength(1);
  if (!(await page.evaluate(() => 'axe' in globalThis))) await page.evaluate(axe.source);
  const violations = await page.evaluate(async (tags) => {
    const { axe: there } = globalThis as unknown as { axe: typeof axe };
    const found = await there.run({ runOnly: tags, resultTypes: ['violations'] });
    return found.violations.map(
      ({ id, nodes }) => `${id}: ${nodes.map(({ html }) => html.slice(0, 200)).join(' | ')}`,
    );
  }, rules);
  expect(violations).toEqual([]);
}

/** Counts acts as docs/interface.md does: a click, a key, a choice, a field, a dropped file. */
export class Acts {
  count = 0;
  async click(target: Locator): Promise<void> {
    this.count += 1;
    await target.click();
  }
  async fill(target: Locator, text: string): Promise<void> {
    this.count += 1;
    await target.fill(text);
  }
  /** A choice in a sentence: its menu opens under the pointer, and one press chooses. */
  async choose(page: Page, choice: Locator, words: string | RegExp): Promise<void> {
    await choice.hover();
    await this.click(page.getByRole('menuitem', { name: words }));
  }
  async press(target: Locator, key: string): Promise<void> {
    this.count += 1;
    await target.press(key);
  }
  /** Files chosen by the picker that a press opens: one choice. */
  async pick(input: Locator, files: Parameters<Locator['setInputFiles']>[0]): Promise<void> {
    this.count += 1;
    await input.setInputFiles(files);
  }
  async drop(target: Locator, path: string, name?: string): Promise<void> {
    this.count += 1;
    await dropFile(target, path, name);
  }
}

export const row = (page: Page, number: string): Locator =>
  page.getByRole('row').filter({ has: page.locator('.doc-number', { hasText: number }) });

/** The HTTP interface as somebody, for what a test needs to be there before it begins. */
export async function apiAs(
  playwright: PlaywrightWorkerArgs['playwright'],
  account: string,
  baseURL: string,
): Promise<APIRequestContext> {
  return signedIn(
    account,
    (storageState) => playwright.request.newContext({ baseURL, ...(storageState && { storageState }) }),
    (request) => request,
  );
}

/** The HTTP interface as the administrator and as an author, while the tests of a file run. */
export function adminAndAuthor(): { admin: APIRequestContext; author: APIRequestContext } {
  const by = {} as { admin: APIRequestContext; author: APIRequestContext };
  test.beforeAll(async ({ playwright, baseURL }) => {
    by.admin = await apiAs(playwright, 'admin', baseURL ?? '');
    by.author = await apiAs(playwright, 'author', baseURL ?? '');
  });
  test.afterAll(async () => {
    await by.admin.dispose();
    await by.author.dispose();
  });
  return by;
}

const members = ['controller', 'author', 'author2', 'approver', 'approver2', 'reader', 'auditor'].map(
  (account) => ({ account, roles: [account.replace(/\d/, '')] }),
);

/** A library of its own for a test, with the demo's people in it. */
export async function libraryFor(admin: APIRequestContext, code: string, rulebook: object): Promise<string> {
  const made = await admin.post('/api/v1/libraries', { data: { name: `Library ${code}`, code, rulebook } });
  expect(made.status()).toBe(201);
  const { id } = (await made.json()) as { id: string };
  expect((await admin.put(`/api/v1/libraries/${id}/members`, { data: members })).ok()).toBe(true);
  return id;
}

/** Registers a document whose first version is a file of a name and content. Answers its id. */
export async function registerFile(
  author: APIRequestContext,
  libraryId: string,
  of: { title: string; name: string; content: string | Buffer; level?: 'minor' | 'major' },
): Promise<string> {
  const answer = await author.post(`/api/v1/libraries/${libraryId}/documents`, {
    multipart: {
      fields: JSON.stringify({ title: of.title }),
      comment: 'First',
      level: of.level ?? 'minor',
      file: { name: of.name, mimeType: 'application/octet-stream', buffer: Buffer.from(of.content) },
    },
  });
  expect(answer.status()).toBe(201);
  return ((await answer.json()) as { id: string }).id;
}

/** Checks a document out and in again with another content. */
export async function checkInFile(
  who: APIRequestContext,
  id: string,
  of: { name: string; content: string | Buffer; level?: 'minor' | 'major' },
): Promise<void> {
  expect((await who.post(`/api/v1/documents/${id}/checkout`, { data: {} })).status()).toBe(201);
  const checkedIn = await who.post(`/api/v1/documents/${id}/checkin`, {
    multipart: {
      comment: 'By a colleague',
      level: of.level ?? 'minor',
      file: { name: of.name, mimeType: 'application/octet-stream', buffer: Buffer.from(of.content) },
    },
  });
  expect(checkedIn.status()).toBe(201);
}

/** Registers a document of one version that says `words`. Answers its id. */
export async function documentFor(
  author: APIRequestContext,
  libraryId: string,
  title: string,
  words: string,
  level: 'minor' | 'major',
): Promise<string> {
  return registerFile(author, libraryId, { title, name: 'text.txt', content: words, level });
}

// Opens each main view as a person would and keeps one picture of it.
import { chromium } from '@playwright/test';

const base = process.argv[2];
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });

async function open(account, colorScheme = 'light') {
  const context = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    colorScheme,
    baseURL: base,
  });
  if (account) await context.request.post('/api/v1/session', { data: { account, password: 'orrin-vale' } });
  return context.newPage();
}
async function picture(page, name) {
  await page.waitForLoadState('networkidle');
  await page.waitForTimeout(500);
  await page.screenshot({ path: `docs/screenshots/${name}.png` });
}
async function addressOf(page, number) {
  await page.goto(`/${number.slice(0, 2)}`);
  return page
    .getByRole('row')
    .filter({ has: page.locator('.doc-number', { hasText: number }) })
    .locator('a.title')
    .getAttribute('href');
}

const author = await open('author');
const wind = await addressOf(author, 'OP-014');
await picture(author, 'register');
await author.getByRole('button', { name: 'Check OP-014 in as 4.3, a draft' }).click();
await author.getByLabel('Check-in comment').fill('Radio call worded out');
await picture(author, 'landing');
await author.goto(wind);
await picture(author, 'document');
await author.goto(`${wind}/compare/1.0/4.2`);
await picture(author, 'compare');
const since = (days) => new Date(Date.now() - days * 86_400_000).toISOString();
await author.goto(`/OP/as-of?since=${since(120)}&at=${since(30)}`);
await author.getByText('came into force').first().waitFor();
await picture(author, 'as-of');

const holder = await open('author2');
await holder.goto('/desk');
await picture(holder, 'desk');
await holder.getByRole('region', { name: 'Set aside' }).getByRole('link', { name: 'Bring in' }).click();
await holder.getByText('needs your choice').first().waitFor();
await picture(holder, 'bring-in');

await author.goto('/desk');
await author.getByRole('region', { name: 'Private copies' }).getByRole('link', { name: 'Edit' }).click();
await author.locator('.cm-line', { hasText: 'Read the highest gust' }).click();
await author.keyboard.press('End');
await author.keyboard.type(' Twice at the crest.');
await author.getByText(/^Saved/).waitFor();
await picture(author, 'edit');

const reader = await open('reader');
// Three weeks ago is when they last looked.
await reader.request.post('/api/v1/in-force/looked', { data: { at: since(21) } });
await reader.goto('/in-force');
await picture(reader, 'in-force');

const controller = await open('controller');
await controller.goto(await addressOf(controller, 'WL-001'));
await picture(controller, 'document-300');
await controller.goto('/OP/rulebook');
await picture(controller, 'rulebook');
await controller.getByRole('textbox', { name: 'Published versions kept' }).fill('2');
await controller.getByRole('button', { name: /^Who sees drafts: / }).hover();
for (const role of ['authors', 'approvers']) await controller.getByRole('menuitem', { name: role }).click();
await controller.keyboard.press('Escape');
await controller.getByRole('button', { name: /versions? thinned/ }).click();
await picture(controller, 'consequences');
await controller.goto('/WL/shelf');
await picture(controller, 'shelf');
await controller.goto(`${await addressOf(controller, 'RP-101')}/sight`);
await picture(controller, 'sight');
await controller.goto('/people');
await picture(controller, 'people');
await controller.goto('/OP');
await controller.getByRole('button', { name: 'Seen as' }).click();
await controller.getByRole('menuitem', { name: 'Any reader' }).click();
await picture(controller, 'seen-as');

const approver = await open('approver');
await approver.goto('/approvals');
await approver.getByRole('article').locator('ins').first().waitFor();
await picture(approver, 'approvals');
await approver.goto('/outbox');
await approver.getByRole('article').waitFor();
await picture(approver, 'outbox');

const dark = await open('controller', 'dark');
await dark.goto(await addressOf(dark, 'OP-028'));
await picture(dark, 'document-dark');
await browser.close();

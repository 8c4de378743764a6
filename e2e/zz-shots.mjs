import { chromium } from 'playwright-core';
const b = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
const base = 'http://127.0.0.1:4600';
async function as(account, size = { width: 1280, height: 800 }, scheme = 'light') {
  const c = await b.newContext({ viewport: size, colorScheme: scheme });
  const p = await c.newPage(); p.setDefaultTimeout(8000);
  await p.goto(base); await p.getByLabel('Account').fill(account); await p.getByLabel('Password', { exact: true }).fill('orrin-vale');
  await p.getByRole('button', { name: 'Sign in' }).click(); await p.waitForURL((u) => !u.pathname.includes('sign-in')); await p.waitForLoadState('networkidle');
  return p;
}
export { b, as, base };

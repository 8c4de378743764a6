import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Readable } from 'node:stream';
import { chromium, type CDPSession, type Page } from '@playwright/test';
import pino from 'pino';
import {
  addPerson,
  admitUpload,
  type Asker,
  closeContext,
  createApp,
  makeContext,
  migrate,
  performCreate,
  performCreateLibrary,
  performSetMembers,
  performUpload,
  setPassword,
  stageFile,
  uploaded,
} from '@polychron/server';

/**
 * The large Strand of 500 versions in Chromium: the main thread's work for each pan step after the first
 * draw, beside one of 50 versions in the same run. Run by scripts/bench, which gives it a database of its
 * own.
 */
const budget = 16;
const steps = 80;
const url = process.env['POLYCHRON_DATABASE_URL'];
if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set; run "npm run bench -- strand".');
const context = makeContext({
  databaseUrl: url,
  clock: () => new Date(),
  log: pino({ level: 'warn' }),
  stagingFolder: mkdtempSync(join(tmpdir(), 'bench-')),
});

async function makeHistory(asker: Asker, libraryId: string, versions: number): Promise<string> {
  const staged = (place: number) =>
    stageFile(
      context,
      Readable.from([Buffer.from(`A line of version ${place}.\n`.repeat(1 + (place % 9)))]),
      'text.txt',
    );
  const first = await staged(0);
  const wanted = {
    fields: { title: `${versions} versions` },
    comment: 'First',
    level: 'minor' as const,
  };
  const document = await performCreate(asker, libraryId, wanted, uploaded(context, first));
  await first.remove();
  let { label } = document.latest;
  for (let place = 1; place < versions; place += 1) {
    const file = await staged(place);
    const command = {
      basedOn: label,
      level: place % 10 === 9 ? ('major' as const) : ('minor' as const),
      comment: `Change ${place}`,
      confirm: ['same-bytes' as const],
      keepFileName: true,
    };
    ({ label } = await performUpload(asker, await admitUpload(asker, document.id), command, file));
    await file.remove();
  }
  return document.id;
}

const taskTime = async (session: CDPSession): Promise<number> =>
  (await session.send('Performance.getMetrics')).metrics.find(({ name }) => name === 'TaskDuration')?.value ??
  0;

/**
 * Pans the Strand from its end to its beginning; the main thread's milliseconds for each step, its frame
 * included.
 */
async function pan(page: Page, session: CDPSession): Promise<number[]> {
  const strand = page.locator('.document > .strand');
  await strand.evaluate((element) => {
    element.scrollLeft = element.scrollWidth;
  });
  await page.waitForTimeout(500);
  const times: number[] = [];
  for (let step = 0; step < steps; step += 1) {
    const before = await taskTime(session);
    await strand.evaluate(
      (element, share) =>
        new Promise<void>((done) => {
          element.scrollLeft = (element.scrollWidth - element.clientWidth) * share;
          requestAnimationFrame(() => requestAnimationFrame(() => done()));
        }),
      1 - (step + 1) / steps,
    );
    times.push(((await taskTime(session)) - before) * 1000);
  }
  return times.sort((a, b) => a - b);
}

try {
  await migrate(context.db);
  const caller = {
    id: await addPerson(context, { account: 'admin', name: 'Admin', systemAdministrator: true }),
    account: 'admin',
    name: 'Admin',
    systemAdministrator: true,
  };
  const asker = { context, caller };
  await setPassword(context, caller.id, 'benchmark');
  const library = await performCreateLibrary(asker, {
    name: 'Benchmark',
    code: 'BE',
    purpose: '',
    rulebook: { custody: 'optional' },
  });
  await performSetMembers(asker, library.id, [{ account: 'admin', roles: ['controller'] }]);
  console.log('Making histories of 50 and 500 versions ...');
  const documents = [
    [50, await makeHistory(asker, library.id, 50)],
    [500, await makeHistory(asker, library.id, 500)],
  ] as const;
  const server = createApp(context, {
    webFolder: fileURLToPath(new URL('../../web/dist', import.meta.url)),
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => {
    server.once('listening', resolve);
  });
  const { port } = server.address() as { port: number };
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  const window = await browser.newContext({
    viewport: { width: 1280, height: 800 },
    baseURL: `http://127.0.0.1:${port}`,
  });
  await window.request.post('/api/v1/session', { data: { account: 'admin', password: 'benchmark' } });
  const medians: number[] = [];
  console.log(
    'versions  marks drawn  first draw ms  pan step median ms  pan step max ms  steps over the budget of 16 ms',
  );
  for (const [versions, id] of documents) {
    const page = await window.newPage();
    const session = await window.newCDPSession(page);
    await session.send('Performance.enable');
    await page.goto(`/BE/documents/${id}`, { waitUntil: 'networkidle' });
    await page.getByRole('group', { name: new RegExp(`${versions} versions`) }).waitFor();
    const folds = await page.locator('.document .s-fold').count();
    const marks = await page.locator('.document .s-point').count();
    // Opening every lens draws all points one by one: the heaviest drawing there is.
    const before = await taskTime(session);
    for (let fold = 0; fold < folds; fold += 1)
      await page.locator('.document .s-fold').first().press('Enter');
    const draw = folds === 0 ? 0 : (((await taskTime(session)) - before) * 1000) / folds;
    for (const name of folds === 0 ? ['as it is'] : ['all lenses open', 'folded']) {
      if (name === 'folded') {
        await page.reload({ waitUntil: 'networkidle' });
        await page.locator('.document .s-fold').first().waitFor();
      }
      const times = await pan(page, session);
      const median = times[Math.floor(times.length / 2)] ?? 0;
      medians.push(median);
      console.log(
        `${versions} ${name}  ${await page.locator('.document .s-point').count()}  ${draw.toFixed(1)}  ${median.toFixed(2)}  ${(times.at(-1) ?? 0).toFixed(2)}  ${times.filter((time) => time > budget).length} of ${steps}`,
      );
    }
    if (marks === 0) throw new Error('nothing was drawn');
    await page.close();
  }
  console.log(`500 folded against 50: ratio ${((medians[2] ?? 0) / (medians[0] ?? 1)).toFixed(2)}`);
  await browser.close();
  await new Promise((resolve) => {
    server.close(resolve);
    server.closeAllConnections();
  });
} finally {
  await closeContext(context);
}

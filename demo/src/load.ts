import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import {
  addPerson, anyoneSignsIn, changeRulebook, closeContext, createLibrary, emptyTables, makeContext, migrate, runJobs, saveGroup, setMembers, setPassword, type Caller, type Context,
} from '@polychron/server';
import { password, people, type Account } from './people.ts';

/**
 * Loads the demo into a database that nobody can sign in to yet; leaves any other alone. Passwords are set last, so that a loading that
 * was cut short begins anew. Prints the accounts either way.
 */
async function main(): Promise<void> {
  const url = process.env['POLYCHRON_DATABASE_URL'];
  if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set');
  const staging = process.env['POLYCHRON_STAGING'] ?? tmpdir();
  mkdirSync(staging, { recursive: true });
  const now = new Date();
  const longAgo = new Date(now.getTime() - 560 * 86_400_000);
  const context = makeContext({ databaseUrl: url, clock: () => longAgo, log: pino({ level: 'warn' }), stagingFolder: mkdtempSync(join(staging, 'demo-')) });
  try {
    await migrate(context.db);
    if (!await anyoneSignsIn(context)) {
      console.log('Loading the demo ...');
      await emptyTables(context.db);
      await loadDemo(context, now);
    }
    console.log(`Accounts, all with the password ${password}: ${people.map(({ account }) => account).join(', ')}`);
  } finally {
    rmSync(context.stagingFolder, { recursive: true, force: true });
    await closeContext(context);
  }
}

async function loadDemo(context: Context, now: Date): Promise<void> {
  // Only now: the program that makes the demo's files is not wanted at later starts.
  const [{ liveSeries, liveStory }, { libraries }] = [await import('./history.ts'), await import('./libraries.ts')];
  const callers = {} as Record<Account, Caller>;
  for (const { account, name } of people) {
    const siteAdministrator = account === 'admin';
    const id = await addPerson(context, { account, name, siteAdministrator });
    callers[account] = { id, account, name, siteAdministrator };
  }
  await saveGroup(context, callers.admin, null, { name: 'Rescue team', people: ['author2', 'approver2', 'reader'] });
  const members = people.filter(({ roles }) => roles.length > 0).map(({ account, roles }) => ({ account, roles: [...roles] }));
  const present: Context = { ...context, clock: () => now };
  for (const { stories, series = [], later, ...wanted } of libraries) {
    const library = await createLibrary(context, callers.admin, wanted);
    await setMembers(context, callers.admin, library.id, [...members, ...(wanted.code === 'RP' ? [{ group: 'Rescue team', roles: ['reader' as const] }] : [])], undefined);
    const stage = { context, callers, now };
    await Promise.all([
      ...stories.map((story) => liveStory(stage, library.id, story, wanted.rulebook.numbering === undefined || wanted.rulebook.numbering === 'stepped' ? 'minor' : 'major')),
      ...series.map((one) => liveSeries(stage, library.id, one)),
    ]);
    if (later) await changeRulebook(present, callers.controller, library.id, later, undefined);
  }
  await runJobs(present);
  for (const { id } of Object.values(callers)) await setPassword(context, id, password);
}

await main();

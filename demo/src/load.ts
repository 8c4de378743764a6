import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import {
  addPerson,
  anyoneSignsIn,
  type Caller,
  closeContext,
  composePastMail,
  type Context,
  emptyTables,
  mailPlace,
  markReadBefore,
  makeContext,
  migrate,
  performChangeRulebook,
  performChooseMail,
  performCreateLibrary,
  performSaveGroup,
  performSetMembers,
  runJobs,
  setPassword,
} from '@polychron/server';
import { password, people, type Account } from './people.ts';

/**
 * Loads the demo into a database that nobody can sign in to yet, or with `--empty` the first account alone;
 * leaves any other as it is. Passwords are set last, so that a loading that was cut short begins anew. Prints
 * the accounts where they are the demo's.
 */
async function main(): Promise<void> {
  const url = process.env['POLYCHRON_DATABASE_URL'];
  if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set');
  const staging = process.env['POLYCHRON_STAGING'] ?? tmpdir();
  mkdirSync(staging, { recursive: true });
  const now = new Date();
  const longAgo = new Date(now.getTime() - 560 * 86_400_000);
  const context = makeContext({
    databaseUrl: url,
    clock: () => longAgo,
    log: pino({ level: 'warn' }),
    stagingFolder: mkdtempSync(join(staging, 'demo-')),
    mail: mailPlace(process.env, Number(process.env['POLYCHRON_PORT'] ?? 4600)),
  });
  try {
    await migrate(context.db);
    if (!(await anyoneSignsIn(context))) {
      await emptyTables(context.db);
      if (process.argv.includes('--empty')) await beginEmpty({ ...context, clock: () => now });
      else {
        console.log('Loading the demo ...');
        await loadDemo(context, { now, begun: longAgo });
        tellAccounts();
      }
    }
    if (isDemo()) {
      console.log(
        `Accounts, all with the password ${password}: ${people.map(({ account }) => account).join(', ')}`,
      );
    }
  } finally {
    rmSync(context.stagingFolder, { recursive: true, force: true });
    await closeContext(context);
  }
}

/** Makes the one account that everything else is made with, and says its password, once. */
async function beginEmpty(context: Context): Promise<void> {
  const first = { account: 'admin', name: 'Administrator', systemAdministrator: true };
  const secret = randomBytes(9).toString('base64url');
  await setPassword(context, await addPerson(context, first), secret);
  console.log(
    `The site is empty. Sign in as ${first.account} with the password ${secret}, and choose another`,
  );
  console.log('under My account; the page leads on to accounts, a library, its members and first document.');
}

const home = process.env['POLYCHRON_HOME'];
/** Where the server finds the demo's accounts, to be pressed at the sign-in. */
const accountsFile = home && join(home, 'demo-accounts.json');
const isDemo = (): boolean => Boolean(accountsFile && existsSync(accountsFile));

function tellAccounts(): void {
  if (!home || !accountsFile) return;
  mkdirSync(home, { recursive: true });
  const accounts = people.map(({ account, name }) => ({ account, name }));
  writeFileSync(accountsFile, JSON.stringify({ password, accounts }));
}

async function loadDemo(context: Context, { now, begun }: { now: Date; begun: Date }): Promise<void> {
  // Only now: the program that makes the demo's files is not wanted at later starts.
  const [{ liveSeries, liveStory }, { libraries }, { Turns }] = [
    await import('./history.ts'),
    await import('./libraries.ts'),
    await import('./turns.ts'),
  ];
  const callers = {} as Record<Account, Caller>;
  for (const { account, name } of people) {
    const systemAdministrator = account === 'admin';
    const id = await addPerson(context, { account, name, systemAdministrator });
    callers[account] = { id, account, name, systemAdministrator };
  }
  // The server's clock follows what is lived; the libraries were there before.
  const admin = { context: { ...context, clock: () => begun }, caller: callers.admin };
  const rescueTeam = { name: 'Rescue team', people: ['author2', 'approver2', 'reader'] };
  await performSaveGroup(admin, null, rescueTeam);
  const members = people
    .filter(({ roles }) => roles.length > 0)
    .map(({ account, roles }) => ({ account, roles: [...roles] }));
  const present: Context = { ...context, clock: () => now };
  const turns = new Turns();
  const stage = { context, callers, now, turns };
  const lives: (() => Promise<void>)[] = [];
  const changes: (() => Promise<unknown>)[] = [];
  for (const { stories, series = [], later, groups = [], ...wanted } of libraries) {
    const { id } = await performCreateLibrary(admin, wanted);
    await performSetMembers(admin, id, [...members, ...groups]);
    const { numbering = 'stepped' } = wanted.rulebook;
    const level = numbering === 'stepped' ? 'minor' : 'major';
    lives.push(
      ...stories.map((story) => () => liveStory(stage, id, story, level)),
      ...series.map((one) => () => liveSeries(stage, id, one)),
    );
    const controller = { context: present, caller: callers.controller };
    if (later) changes.push(() => performChangeRulebook(controller, id, later));
  }
  await Promise.all(lives.map((life) => turns.live(life)));
  for (const change of changes) await change();
  await runJobs(present);
  await performChooseMail({ context: present, caller: callers.approver2 }, { mail: 'daily' });
  await composePastMail(present);
  // What was told weeks ago was looked at since.
  await markReadBefore(present, new Date(now.getTime() - 30 * 86_400_000), now);
  for (const { id } of Object.values(callers)) await setPassword(context, id, password);
}

await main();

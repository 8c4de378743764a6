import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import {
  addPerson,
  type Caller,
  closeContext,
  composePastMail,
  type Context,
  hasHeldAnything,
  isFilling,
  mailPlace,
  makeStagingFolder,
  markReadBefore,
  makeContext,
  migrate,
  noteFilling,
  NotStarted,
  performChangeRulebook,
  performChooseMail,
  performCreateLibrary,
  performSaveGroup,
  performSetMembers,
  runCommand,
  runJobs,
  setPassword,
  tellOnTerminal,
} from '@polychron/server';
import { password, people, type Account } from './people.ts';

const cutShort =
  'The database was being filled when that was cut short, and is half done. Nobody has worked in it: empty it with npm run empty, which says how, and start again.';

async function fill(context: Context, { now, begun }: { now: Date; begun: Date }): Promise<void> {
  const isWanted = (option: string): boolean => process.argv.includes(option);
  if (!isWanted('--demo') && !isWanted('--empty')) {
    throw new NotStarted(
      'The database has never held anything. Say what it begins with: npm start -- --demo for the demo, npm start -- --empty for a first account alone.',
    );
  }
  await migrate(context.db, tellOnTerminal());
  await noteFilling(context, true);
  if (isWanted('--empty')) await beginEmpty({ ...context, clock: () => now });
  else {
    console.log('Loading the demo ...');
    await loadDemo(context, { now, begun });
    tellAccounts();
  }
  await noteFilling(context, false);
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

/**
 * Fills a database that has never held anything: with the demo (`--demo`), or with a first account alone
 * (`--empty`). Leaves any other as it is. Prints the accounts where they are the demo's.
 */
await runCommand(async (databaseUrl) => {
  const now = new Date();
  const longAgo = new Date(now.getTime() - 560 * 86_400_000);
  const staging = makeStagingFolder(process.env['POLYCHRON_STAGING'] ?? tmpdir());
  const context = makeContext({
    databaseUrl,
    clock: () => longAgo,
    log: pino({ level: 'warn' }),
    stagingFolder: staging.path,
    mail: mailPlace(process.env, Number(process.env['POLYCHRON_PORT'] ?? 4600)),
  });
  try {
    if (await isFilling(context)) throw new NotStarted(cutShort);
    if (!(await hasHeldAnything(context.db))) await fill(context, { now, begun: longAgo });
    if (isDemo()) {
      console.log(
        `Accounts, all with the password ${password}: ${people.map(({ account }) => account).join(', ')}`,
      );
    }
  } finally {
    await closeContext(context);
    staging.remove();
  }
});

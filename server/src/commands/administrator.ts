import { randomBytes } from 'node:crypto';
import { tmpdir } from 'node:os';
import pino from 'pino';
import { NewPerson } from '@polychron/contract';
import { appointAdministrator } from '../acts/appointAdministrator.ts';
import { closeContext, makeContext } from '../compose.ts';
import { NotStarted } from '../notStarted.ts';
import { isReady } from '../store/migrate.ts';
import { runCommand } from './command.ts';

/** Makes an account a system administrator's, with a new password: `npm run administrator -- ACCOUNT`. */
await runCommand(async (databaseUrl) => {
  const account = NewPerson.shape.account.safeParse(process.argv[2]);
  if (!account.success) throw new NotStarted('Say whose account it is: npm run administrator -- ACCOUNT');
  const log = pino({ level: 'warn' });
  const context = makeContext({ databaseUrl, clock: () => new Date(), log, stagingFolder: tmpdir() });
  try {
    if (!(await isReady(context.db)))
      throw new NotStarted(
        'The database is not up to date. Start Polychron on it once, then run this again.',
      );
    const password = randomBytes(12).toString('base64url');
    const made = await appointAdministrator(context, { account: account.data, password });
    const as = made ? 'is a new account and a system administrator' : 'is a system administrator';
    console.log(`${account.data} ${as}, with the password ${password}`);
    console.log('Its sign-ins have ended. Choose another password under My account.');
  } finally {
    await closeContext(context);
  }
});

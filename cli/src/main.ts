import { levels } from '@polychron/core';
import { Command, Option } from 'commander';
import { createInterface } from 'node:readline/promises';
import { Told } from './client.ts';
import { checkIn } from './commands/checkIn.ts';
import { checkOut } from './commands/checkOut.ts';
import { compare } from './commands/compare.ts';
import { giveBack } from './commands/giveBack.ts';
import { list } from './commands/list.ts';
import { save } from './commands/save.ts';
import { status } from './commands/status.ts';
import { watch } from './commands/watch.ts';
import { signedIn, signIn, signOut } from './signIn.ts';
import { complain, say } from './say.ts';

const { env } = process;
const program = new Command('polychron').description('Controlled documents from the command line.');
const inFolder = ['--folder <folder>', 'where working copies lie', '.'] as const;

program
  .command('sign-in <address>')
  .description('sign in with a personal token of My account, which is asked for, or read from standard input')
  .action(async (address: string) => {
    const lines = createInterface({ input: process.stdin, output: process.stderr });
    const token = await lines.question('Token: ');
    lines.close();
    say(`Signed in as ${await signIn(env, address, token.trim())}.`);
  });
program
  .command('sign-out')
  .description('forget the token; it is revoked in the page')
  .action(() => signOut(env));
program
  .command('list [library]')
  .description('libraries, or the documents of one')
  .option('-q, --query <words>', 'with these words in number, title, fields, comments or text')
  .option('--mine', 'that I hold')
  .action(async (code: string | undefined, options: { query?: string; mine?: boolean }) =>
    list(await signedIn(env), code, options),
  );
program
  .command('check-out <document>')
  .description('check out a document by its number or its file, and put its working copy here')
  .option('--reason <words>', 'what for; others read it')
  .option('--until <instant>', 'until when, in ISO 8601')
  .option(...inFolder)
  .action(async (name: string, options: { folder: string; reason?: string; until?: string }) =>
    checkOut(await signedIn(env), name, options),
  );
program
  .command('save <document>')
  .description(
    'keep what a file says now as the working copy, named by itself or its number; it makes no version',
  )
  .action(async (path: string) => {
    const held = await save(await signedIn(env), path);
    say(held ? `${held.number} is saved.` : 'Nothing has changed since it was saved.');
  });
program
  .command('check-in <document>')
  .description('make a file the next version of its document, named by itself or its number')
  .option('-m, --comment <words>', 'what changed')
  .addOption(
    new Option('-l, --level <level>', 'minor: a draft; major: published, or submitted').choices(levels),
  )
  .option('--keep', 'keep it checked out')
  .option('--yes <question...>', 'answer a question that was asked back')
  .action(async (path: string, options: Parameters<typeof checkIn>[2]) =>
    checkIn(await signedIn(env), path, options),
  );
program
  .command('give-back <document>')
  .description('end a check-out without a version, named by its number or its file')
  .option('--discard', 'also where something was saved, which goes')
  .action(async (path: string, options: { discard?: boolean }) =>
    giveBack(await signedIn(env), path, options),
  );
program
  .command('status')
  .description('what I hold, and what of it is changed here')
  .option(...inFolder)
  .action(async (options: { folder: string }) => status(await signedIn(env), options));
program
  .command('compare <document> <from> <to>')
  .description('what changed between two versions')
  .action(async (name: string, from: string, to: string) => compare(await signedIn(env), name, from, to));
program
  .command('watch')
  .description('save what is held here as often as it is written')
  .option(...inFolder)
  .action(async ({ folder }: { folder: string }) => {
    const stop = new AbortController();
    for (const signal of ['SIGINT', 'SIGTERM']) process.once(signal, () => stop.abort());
    await watch(await signedIn(env), { folder, signal: stop.signal });
  });

try {
  await program.parseAsync();
} catch (error) {
  // What the person can do something about is told in a sentence; the rest is a fault, and shown whole.
  if (!(error instanceof Told)) throw error;
  complain(error.message);
  process.exitCode = 1;
}

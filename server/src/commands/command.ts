import { NotStarted } from '../notStarted.ts';
import { whyNotReached } from '../store/reaching.ts';

/** The database that the environment names. @throws NotStarted when it names none */
export function namedDatabase(): string {
  const url = process.env['POLYCHRON_DATABASE_URL'];
  if (url) return url;
  throw new NotStarted('POLYCHRON_DATABASE_URL names no database.');
}

/** What a program ends with that cannot start as things are (EX_CONFIG, sysexits). Not tried again. */
const cannotStart = 78;

/**
 * Runs a program of ours to its end. What it cannot start for, or go on for, is said in a sentence; only what
 * nobody expected is shown as it is.
 */
export async function runCommand(work: (databaseUrl: string) => Promise<void>): Promise<void> {
  try {
    const url = namedDatabase();
    await work(url).catch((error: unknown) => {
      throw (error instanceof NotStarted ? null : whyNotReached(error, url)) ?? error;
    });
  } catch (error) {
    const isOurs = error instanceof NotStarted;
    console.error(isOurs ? `polychron: ${error.message}` : error);
    process.exitCode = isOurs ? cannotStart : 1;
  }
}

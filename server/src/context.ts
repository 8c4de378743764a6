import type { Logger } from 'pino';
import { connect, type Database } from './store/database.ts';
import { defineModels, type Models } from './store/models.ts';
import { Readers } from './jobs/readers.ts';
import { Rehearsals } from './jobs/rehearsals.ts';
import { Happenings } from './events.ts';

/** What every service is given. */
export interface Context {
  db: Database;
  /** Where the database is, for threads that connect by themselves. */
  databaseUrl: string;
  models: Models;
  /** The present moment; the demo's history is made with another clock. */
  clock: () => Date;
  readers: Readers;
  rehearsals: Rehearsals;
  /** Called when work was queued, so that it is not left to the next sweep. */
  wake: () => void;
  /** What happened, for pages that are open. */
  happenings: Happenings;
  log: Logger;
  /** Folder for uploads on their way in. */
  stagingFolder: string;
}

/** Puts a context together; `closeContext` it when done. */
export function makeContext(parts: Pick<Context, 'databaseUrl' | 'clock' | 'log' | 'stagingFolder'>): Context {
  const db = connect(parts.databaseUrl);
  return { ...parts, db, models: defineModels(db), readers: new Readers(), rehearsals: new Rehearsals(), wake: () => undefined, happenings: new Happenings() };
}

/** Ends threads and connections. */
export async function closeContext(context: Context): Promise<void> {
  await Promise.all([context.readers.close(), context.rehearsals.close()]);
  await context.db.close();
}

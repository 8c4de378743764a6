import type { Logger } from 'pino';
import type { Database } from './store/database.ts';
import { defineModels, type Models } from './store/models.ts';
import { Readers } from './jobs/readers.ts';

/** What every service is given. */
export interface Context {
  db: Database;
  models: Models;
  /** The present moment; the demo's history is made with another clock. */
  clock: () => Date;
  readers: Readers;
  log: Logger;
  /** Folder for uploads on their way in. */
  stagingFolder: string;
}

/** Puts a context together; `close` it when done. */
export function makeContext(parts: Omit<Context, 'models' | 'readers'> & { readers?: Readers }): Context {
  return { ...parts, models: defineModels(parts.db), readers: parts.readers ?? new Readers() };
}

import type { Database } from './database.ts';
import type { LatestAct } from './latestAct.ts';
import type { Models } from './models.ts';

/** What every query is given: the connection pool and the tables bound to it. */
export interface Store {
  db: Database;
  models: Models;
  latestAct: LatestAct;
}

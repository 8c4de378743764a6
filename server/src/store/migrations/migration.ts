import type { Database } from '../database.ts';

/** How far a step has come, where it counts. */
export type Tell = (done: number, of: number) => void;

/** One change of the stored form: statements in order, then what statements alone cannot do. */
export interface Migration {
  name: string;
  statements: readonly string[];
  /** Can be done again from its beginning: whoever did it may have been killed anywhere in it. */
  then?: (db: Database, tell: Tell) => Promise<void>;
}

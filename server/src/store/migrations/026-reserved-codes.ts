import { reservedCodes } from '@polychron/contract';
import { type Database, rows, run } from '../database.ts';

/**
 * Libraries whose code begins an address of the application could never be opened: they get a code that is
 * free. Numbers of their documents stay.
 */
export const freeCodes = {
  name: '026-reserved-codes',
  statements: [],
  async then(db: Database): Promise<void> {
    const libraries = await rows<{ id: string; code: string }>(db, 'SELECT id, code FROM libraries', {});
    const taken = new Set(libraries.map(({ code }) => code));
    for (const { id, code } of libraries) {
      if (!reservedCodes.includes(code)) continue;
      const free = freeCode(code, taken);
      taken.add(free);
      await run(db, 'UPDATE libraries SET code = :free WHERE id = :id', { id, free });
    }
  },
};

/** A code with the first number behind it that makes it one of its own; of at most ten signs. */
function freeCode(code: string, taken: ReadonlySet<string>): string {
  for (let number = 1; ; number += 1) {
    const made = `${code.slice(0, 10 - String(number).length)}${number}`;
    if (!taken.has(made)) return made;
  }
}

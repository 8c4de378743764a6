import { NotStarted } from '../notStarted.ts';
import { connect } from '../store/database.ts';
import {
  type Held,
  hasHeldAnything,
  othersConnected,
  removeEverything,
  whatIsHeld,
} from '../store/migrate.ts';
import { databaseAddress } from '../store/reaching.ts';
import { runCommand } from './command.ts';

/**
 * Removes everything that a database holds of Polychron, where its name is given: `npm run empty -- NAME`.
 * The one command that deletes content, and it must be told which.
 */
await runCommand(async (url) => {
  const db = connect(url);
  try {
    const name = databaseAddress(url).pathname.slice(1);
    if (!(await hasHeldAnything(db))) {
      console.log(`The database ${name} holds nothing.`);
      return;
    }
    const held = sayHeld(await whatIsHeld(db));
    if (process.argv[2] !== name) {
      throw new NotStarted(
        `The database ${name} holds ${held}. To lose all of it for good: npm run empty -- ${name}`,
      );
    }
    const others = await othersConnected(db);
    if (others > 0)
      throw new NotStarted(`${others} other connections use the database ${name}. Stop Polychron first.`);
    await removeEverything(db);
    console.log(`The database ${name} is empty. It held ${held}.`);
  } finally {
    await db.close();
  }
});

function sayHeld(held: Held): string {
  const { documents, versions, people } = held;
  const say = (count: number, one: string): string => `${count} ${one}${count === 1 ? '' : 's'}`;
  return `${say(documents, 'document')}, ${say(versions, 'version')} and ${say(people, 'account')}`;
}

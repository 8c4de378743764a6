import { connect } from '../store/database.ts';
import { migrate } from '../store/migrate.ts';
import { rebuildHeads } from '../store/rebuildHeads.ts';
import { runCommand } from './command.ts';
import { tellOnTerminal } from './progress.ts';

/** Makes anew what lists are read from, out of the versions. Run by scripts/rebuild-heads. */
await runCommand(async (url) => {
  const db = connect(url);
  try {
    await migrate(db, tellOnTerminal());
    await rebuildHeads(db);
    console.log('Newest versions, counts, words and subjects are made anew.');
  } finally {
    await db.close();
  }
});

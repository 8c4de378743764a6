import { connect } from './store/database.ts';
import { migrate } from './store/migrate.ts';
import { rebuildHeads } from './store/rebuildHeads.ts';

/** Makes anew what lists are read from, out of the versions. Run by scripts/rebuild-heads. */
const url = process.env['POLYCHRON_DATABASE_URL'];
if (!url) throw new Error('POLYCHRON_DATABASE_URL is not set');
const db = connect(url);
try {
  await migrate(db);
  await rebuildHeads(db);
  console.log('Newest versions, counts, words and subjects are made anew.');
} finally {
  await db.close();
}

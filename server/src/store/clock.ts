import { rows, run, transact, type Tx } from './database.ts';
import type { Store } from './store.ts';

/** How many of the newest entries of the Ledger are looked at for the latest act. */
const looked = 10_000;

/** When the latest act was that the database tells of; null where there was none. */
export async function latestActIn(store: Store): Promise<Date | null> {
  const [row] = await rows<{ at: Date | null }>(
    store.db,
    `SELECT MAX(at) AS at FROM (SELECT at FROM ledger ORDER BY id DESC LIMIT ${looked}) newest`,
    {},
  );
  return row?.at ?? null;
}

/**
 * A leap of this much ahead of when the server last looked is not believed without a word, in
 * milliseconds.
 */
const longestLeap = 86_400_000;

interface SeenClock {
  lastSeen: Date;
  leaptFrom: Date | null;
}

async function seenClock(store: Store, tx?: Tx): Promise<SeenClock | null> {
  const lock = tx ? ' FOR UPDATE' : '';
  const sql = `SELECT last_seen AS lastSeen, leapt_from AS leaptFrom FROM site_clock WHERE id = 1${lock}`;
  return (await rows<SeenClock>(store.db, sql, {}, tx))[0] ?? null;
}

/** From when the clock leapt ahead; null where it did not, or somebody has confirmed the time since. */
export const leaptFrom = async (store: Store): Promise<Date | null> =>
  (await seenClock(store))?.leaptFrom ?? null;

/**
 * Notes that it is now. A leap of more than a day ahead of when it was noted last is kept until it is
 * confirmed, or until the clock is back.
 * @returns from when the clock leapt; null where nothing is to be confirmed
 */
export function noteTime(store: Store, now: Date): Promise<Date | null> {
  return transact(store.db, async (tx) => {
    const seen = await seenClock(store, tx);
    const before = seen?.leaptFrom ?? seen?.lastSeen ?? now;
    const leapt = now.getTime() - before.getTime() > longestLeap ? before : null;
    await keep(store, { lastSeen: now, leaptFrom: leapt }, tx);
    return leapt;
  });
}

/** Takes the present time for right. */
export const confirmTime = (store: Store, now: Date, tx: Tx): Promise<void> =>
  keep(store, { lastSeen: now, leaptFrom: null }, tx);

const keep = (store: Store, { lastSeen, leaptFrom: from }: SeenClock, tx: Tx): Promise<void> =>
  run(
    store.db,
    `INSERT INTO site_clock (id, last_seen, leapt_from) VALUES (1, :lastSeen, :from)
     ON DUPLICATE KEY UPDATE last_seen = :lastSeen, leapt_from = :from`,
    { lastSeen, from },
    tx,
  );

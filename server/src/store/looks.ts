import { rows, run } from './database.ts';
import type { Store } from './store.ts';

/** When somebody last said that they had looked at what is in force; null: never. */
export async function lastLook(store: Store, personId: string): Promise<Date | null> {
  const [found] = await rows<{ at: Date }>(
    store.db,
    'SELECT looked_at AS at FROM in_force_looks WHERE person_id = :personId',
    { personId },
  );
  return found?.at ?? null;
}

/** Keeps that somebody has looked; a later look stays. */
export const keepLook = (store: Store, personId: string, at: Date): Promise<void> =>
  run(
    store.db,
    `INSERT INTO in_force_looks (person_id, looked_at) VALUES (:personId, :at)
     ON DUPLICATE KEY UPDATE looked_at = GREATEST(looked_at, VALUES(looked_at))`,
    { personId, at },
  );

import { Room } from './content/room.ts';
import type { Context } from './context.ts';
import { EventBus } from './events/bus.ts';
import { LatestAct } from './store/clock.ts';
import { connect } from './store/database.ts';
import { defineModels } from './store/models.ts';
import { Readers } from './workers/readers.ts';
import { Rehearsals } from './workers/rehearsals.ts';

/** Puts a context together; `closeContext` it when done. */
export function makeContext(
  parts: Pick<Context, 'databaseUrl' | 'clock' | 'log' | 'stagingFolder'> &
    Partial<Pick<Context, 'room' | 'signIn'>>,
): Context {
  const db = connect(parts.databaseUrl);
  const latestAct = new LatestAct();
  return {
    ...parts,
    clock: () => latestAct.floor(parts.clock()),
    db,
    latestAct,
    models: defineModels(db),
    signIn: parts.signIn ?? { passwords: true, provider: null },
    readers: new Readers(),
    rehearsals: new Rehearsals(),
    wake: () => undefined,
    events: new EventBus(),
    room: parts.room ?? new Room([parts.stagingFolder]),
  };
}

/** Ends threads and connections. */
export async function closeContext(context: Context): Promise<void> {
  await Promise.all([context.readers.close(), context.rehearsals.close()]);
  await context.db.close();
}

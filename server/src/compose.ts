import { join } from 'node:path';
import { Room } from './content/room.ts';
import { Uploads } from './content/uploads.ts';
import type { Context } from './context.ts';
import { EventBus } from './events/bus.ts';
import { nowhere } from './standins/mail.ts';
import { connect } from './store/database.ts';
import { LatestAct } from './store/latestAct.ts';
import { defineModels } from './store/models.ts';
import { Readers } from './workers/readers.ts';
import { Rehearsals } from './workers/rehearsals.ts';

/** What a person may keep on their Desk where nobody has said otherwise, in bytes. */
const usualDeskBytes = 2_000_000_000;

/** Puts a context together; `closeContext` it when done. */
export function makeContext(
  parts: Pick<Context, 'databaseUrl' | 'clock' | 'log' | 'stagingFolder'> &
    Partial<Pick<Context, 'room' | 'signIn' | 'demoAccounts' | 'deskBytes' | 'tlsPort' | 'mail'>> & {
      uploadsFolder?: string;
      databaseConnections?: number | undefined;
    },
): Context {
  const db = connect(parts.databaseUrl, parts.databaseConnections);
  const latestAct = new LatestAct();
  return {
    ...parts,
    clock: () => latestAct.floor(parts.clock()),
    db,
    latestAct,
    models: defineModels(db),
    signIn: parts.signIn ?? { passwords: true, provider: null },
    demoAccounts: parts.demoAccounts ?? null,
    readers: new Readers(),
    rehearsals: new Rehearsals(),
    wake: () => undefined,
    events: new EventBus(),
    uploads: new Uploads(parts.uploadsFolder ?? join(parts.stagingFolder, 'uploads')),
    mail: parts.mail ?? { domain: nowhere, publicUrl: 'http://127.0.0.1:4600', transport: null },
    deskBytes: parts.deskBytes ?? usualDeskBytes,
    tlsPort: parts.tlsPort ?? null,
    room: parts.room ?? new Room([parts.stagingFolder]),
  };
}

/** Ends threads and connections. */
export async function closeContext(context: Context): Promise<void> {
  await Promise.all([context.readers.close(), context.rehearsals.close()]);
  await context.db.close();
}

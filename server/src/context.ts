import type { DemoAccounts } from '@polychron/contract';
import type { Logger } from 'pino';
import type { Provider } from './access/provider.ts';
import type { Room } from './content/room.ts';
import type { Uploads } from './content/uploads.ts';
import type { EventBus } from './events/bus.ts';
import type { MailPlace } from './standins/mail.ts';
import type { Store } from './store/store.ts';
import type { Readers } from './workers/readers.ts';
import type { Rehearsals } from './workers/rehearsals.ts';

/** What every act and every read is given. */
export interface Context extends Store {
  /** Where the database is, for threads that connect by themselves. */
  databaseUrl: string;
  /** The present moment; the demo's history is made with another clock. */
  clock: () => Date;
  /** How people sign in. */
  signIn: { passwords: boolean; provider: Provider | null };
  /** The demo's accounts, for the sign-in. */
  demoAccounts: DemoAccounts;
  readers: Readers;
  rehearsals: Rehearsals;
  /** Called when work was queued, so that it is not left to the next sweep. */
  wake: () => void;
  /** What happened, for pages that are open. */
  events: EventBus;
  /** Where messages come from and how they leave. */
  mail: MailPlace;
  log: Logger;
  /** Bytes one person may keep on their Desk, saves of what they hold counted. */
  deskBytes: number;
  /** The port that is served over TLS; null where none is. */
  tlsPort: number | null;
  /** Whether there is room for new content. */
  room: Room;
  /** Files that come in parts. */
  uploads: Uploads;
  /** Folder for uploads on their way in. */
  stagingFolder: string;
}

import { AsyncLocalStorage } from 'node:async_hooks';

/** On whose account is worked, and when what the work holds in memory has left. */
interface Account {
  owner: string;
  /** Given what is to be done once the answer has left; null where there is none, and work ends by itself. */
  ended: ((release: () => void) => void) | null;
  holds: boolean;
}
const accounts = new AsyncLocalStorage<Account>();

/** Does something on somebody's account: what of it goes to a thread waits among what is theirs. */
export const onAccountOf = <T>(personId: string, work: () => T, ended: Account['ended'] = null): T =>
  accounts.run({ owner: personId, ended, holds: false }, work);

/** On whose account is worked; of the server itself where on nobody's. */
export const workOwner = (): string => accounts.getStore()?.owner ?? '';

/** The account that is worked on; null where on nobody's. */
export const workAccount = (): Account | null => accounts.getStore() ?? null;

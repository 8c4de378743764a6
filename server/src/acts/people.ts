import type * as contract from '@polychron/contract';
import { refuse } from '@polychron/core';
import { requireAdministrator } from '../access/admission.ts';
import type { Asker } from '../access/caller.ts';
import { hashPassword, noPassword } from '../access/passwords.ts';
import type { Context } from '../context.ts';
import { Refused } from '../refused.ts';
import { isDuplicate, transact } from '../store/database.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import { insertPerson, setPasswordHash } from '../store/people.ts';

/** Adds a person; without a password they cannot sign in yet. */
export function addPerson(
  context: Context,
  person: { account: string; name: string; systemAdministrator?: boolean },
): Promise<string> {
  const { account, name, systemAdministrator = false } = person;
  const createdAt = context.clock();
  return insertPerson(context, { account, name, passwordHash: noPassword, systemAdministrator, createdAt });
}

/** Sets a person's password. */
export async function setPassword(context: Context, personId: string, password: string): Promise<void> {
  await setPasswordHash(context, personId, await hashPassword(password));
}

/** Makes an account that can sign in at once. @throws Refused `not-administrator`, `account-taken` */
export async function registerPerson(
  { context, caller }: Asker,
  wanted: { account: string; name: string; password: string; systemAdministrator: boolean },
): Promise<contract.PersonView> {
  requireAdministrator(caller, 'Accounts are made');
  const { account, name, systemAdministrator } = wanted;
  const passwordHash = await hashPassword(wanted.password);
  try {
    const id = await transact(context.db, async (tx) => {
      const at = context.clock();
      const made = await insertPerson(
        context,
        { account, name, passwordHash, systemAdministrator, createdAt: at },
        tx,
      );
      const facts = { account, name, systemAdministrator };
      await appendLedger(context, { ...ofSite, at, personId: caller.id, act: 'addPerson', facts }, tx);
      return made;
    });
    return { id, account, name, systemAdministrator, groups: [], closed: false, handingOver: null };
  } catch (error) {
    if (!isDuplicate(error)) throw error;
    const reason = `There is an account ${account} already. Choose another.`;
    throw new Refused(refuse('conflict', 'account-taken', reason, { account }));
  }
}

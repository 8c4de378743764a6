import { hashPassword } from '../access/passwords.ts';
import type { Context } from '../context.ts';
import { transact } from '../store/database.ts';
import { appendLedger, ofSite } from '../store/ledger.ts';
import { findPerson, insertPerson, setAdministrator, setClosed, setPasswordHash } from '../store/people.ts';
import { deleteSignIns } from '../store/sessions.ts';

/**
 * Makes an account a system administrator's, with a new password; by whoever runs the site, since nobody can
 * sign in to do it. Its sign-ins end, a closed account is open again, one that is not there is made.
 * @returns whether it was made
 */
export async function appointAdministrator(
  context: Context,
  { account, password }: { account: string; password: string },
): Promise<boolean> {
  const passwordHash = await hashPassword(password);
  return transact(context.db, async (tx) => {
    const at = context.clock();
    const known = await findPerson(context, account, tx);
    const fresh = { account, name: account, passwordHash, systemAdministrator: true, createdAt: at };
    const id = known?.id ?? (await insertPerson(context, fresh, tx));
    if (known) {
      await setPasswordHash(context, id, passwordHash, tx);
      await setAdministrator(context, id, tx);
      if (known.closedAt) await setClosed(context, id, { closed: false, at }, tx);
      await deleteSignIns(context, id, tx);
    }
    const facts = { account, made: !known };
    await appendLedger(context, { ...ofSite, at, personId: null, act: 'appointAdministrator', facts }, tx);
    return !known;
  });
}

import type * as contract from '@polychron/contract';
import { checkOut, type CheckOut } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { custodyAnswer } from '../reads/custody.ts';
import { isDuplicate } from '../store/database.ts';
import { perform, type Performed } from './perform.ts';

/** Checks a document out. Of two at once the second is told who holds it. */
export async function performCheckOut(
  asker: Asker,
  documentId: string,
  command: CheckOut,
): Promise<contract.Custody> {
  const take = (by: Asker): Promise<Performed> =>
    perform(by, documentId, ({ document, actor }, now) => checkOut(document, actor, command, now));
  try {
    return await custodyAnswer(asker.context, (await take(asker)).access);
  } catch (error) {
    // The key refused a second check-out that another node let through; that one is committed now and names
    // its holder.
    if (!isDuplicate(error)) throw error;
    return custodyAnswer(asker.context, (await take({ ...asker, ifMatch: undefined })).access);
  }
}

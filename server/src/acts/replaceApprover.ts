import type * as contract from '@polychron/contract';
import { refuse, refuseReplacing, replaceApprover } from '@polychron/core';
import type { Asker } from '../access/caller.ts';
import { documentAnswer } from '../reads/documentView.ts';
import { Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { rolesIn } from '../store/members.ts';
import { findPerson } from '../store/people.ts';
import type { Store } from '../store/store.ts';
import { perform } from './perform.ts';

/** Who is asked in whose place, by account, and why. */
export interface ReplaceApproverCommand {
  from: string;
  to: string;
  reason: string;
}

/** Puts one person in the place of an approver who has not decided. Returns the document. */
export async function performReplaceApprover(
  asker: Asker,
  documentId: string,
  { from, to, reason }: ReplaceApproverCommand,
): Promise<contract.Document> {
  const { context } = asker;
  const { access } = await perform(asker, documentId, async ({ document, actor }, now, tx) => {
    const refusal = refuseReplacing(document, actor);
    if (refusal) return refusal;
    const replaced = await personNamed(context, from, tx);
    const next = await personNamed(context, to, tx);
    const roles = (await rolesIn(context, document.libraryId, next.id, tx)).get(next.id) ?? new Set();
    return replaceApprover(document, actor, { from: replaced, to: { ...next, roles }, reason }, now);
  });
  return (await documentAnswer(context, access)).view;
}

async function personNamed(store: Store, account: string, tx: Tx): Promise<{ id: string; name: string }> {
  const person = await findPerson(store, account, tx);
  if (person) return { id: person.id, name: person.name };
  throw new Refused(refuse('invalid', 'account-unknown', `There is no account ${account}.`, { account }));
}

import { admitRulebook, type AskedRulebook, proposeRules, refuse, type Rulebook } from '@polychron/core';
import { accepted, Refused } from '../refused.ts';
import type { Tx } from '../store/database.ts';
import { unknownAccount } from '../store/people.ts';
import type { Store } from '../store/store.ts';

/**
 * Rules that are asked for, laid over those in force: what is left out stays as it is. @throws Refused what
 * core refuses, `account-unknown`
 */
export async function proposedRules(
  store: Store,
  present: Rulebook,
  asked: AskedRulebook,
  tx?: Tx,
): Promise<Rulebook> {
  return withKnownApprovers(store, accepted(admitRulebook(proposeRules(present, asked))), tx);
}

/** Passes rules through whose approvers all have accounts. @throws Refused `account-unknown` */
export async function withKnownApprovers(store: Store, rules: Rulebook, tx?: Tx): Promise<Rulebook> {
  const account = await unknownAccount(store, rules.approval.approvers, tx);
  if (account === undefined) return rules;
  const reason = `There is no account ${account} to approve.`;
  throw new Refused(refuse('invalid', 'account-unknown', reason, { rule: 'approval.approvers', account }));
}
